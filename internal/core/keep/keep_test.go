package keep_test

import (
	"bytes"
	"context"
	"encoding/gob"
	"fmt"
	"math/rand/v2"
	"os"
	"path/filepath"
	"strings"
	"testing"

	"github.com/stretchr/testify/require"

	"umbau/internal/core/keep"
	"umbau/internal/core/names"
	"umbau/internal/core/pass"
	"umbau/internal/core/plan"
	"umbau/internal/format"
)

// reading is a plan and its extracts in a temporary folder, ready for a pass.
func reading(t *testing.T, src string, files map[string]string) (*pass.Rules, []*pass.Input) {
	dir := t.TempDir()
	for name, text := range files {
		require.NoError(t, os.WriteFile(filepath.Join(dir, name), []byte(text), 0o666))
	}
	p, err := plan.Read(filepath.Join(dir, "umbau.yaml"), []byte(src), format.All())
	require.NoError(t, err)
	found := pass.Find(p)
	require.Empty(t, found.Problems)
	return &pass.Rules{Plan: p, Books: make([]*names.Book, len(p.Columns)), Workers: 2}, found.Inputs
}

// The grain finds every repeat, wherever it stands, in memory and on disk.
func TestGrain(t *testing.T) {
	var b strings.Builder
	b.WriteString("branch,Buoy,Oar\n")
	for i := range 20_000 {
		fmt.Fprintf(&b, "%d,1,2\n", i)
	}
	rules, inputs := reading(t, `umbau: 1
extracts: [{ files: "*.csv", unpivot: { header: "{product}", cell: amount } }]
fact: { branch: text, product: name, amount: whole }
rows: { grain: [branch, product] }
deliver: [{ to: out/s.csv }]
`, map[string]string{"a.csv": b.String(), "b.csv": "branch,OAR\n77,1\nx,1\n"})
	find := func() {
		g := keep.NewGrain(rules.Plan)
		defer g.Close()
		require.Empty(t, pass.Run(context.Background(), rules, inputs, g))
		again, err := g.Repeats()
		require.NoError(t, err)
		require.Len(t, again, 1)
		require.Equal(t, `b.csv, row 2, header "OAR"`, again[0].Again.Place(inputs).String())
		require.Equal(t, `a.csv, row 79, header "Oar"`, again[0].First.Place(inputs).String())
	}
	find()
	defer keep.SpillAt(1000)()
	t.Setenv("TMPDIR", t.TempDir())
	find()
	left, err := os.ReadDir(os.TempDir())
	require.NoError(t, err)
	require.Empty(t, left)
}

// sent is a keeper as another machine reads it, into an empty one.
func sent[K pass.Keeper](t *testing.T, k, empty K) K {
	var b bytes.Buffer
	require.NoError(t, gob.NewEncoder(&b).Encode(k))
	require.NoError(t, gob.NewDecoder(&b).Decode(empty))
	return empty
}

// kept are all keepers that travel.
type kept struct {
	accounts *keep.Accounts
	names    *keep.Names
	changes  *keep.Changes
	notes    *keep.Notes
	grain    *keep.Grain
	groups   *keep.Groups
	applied  *keep.Applied
	lookups  *keep.Lookups
}

func newKept(rules *pass.Rules, inputs []*pass.Input) *kept {
	return &kept{keep.NewAccounts(inputs), &keep.Names{Where: true}, keep.NewChanges(), &keep.Notes{}, keep.NewGrain(rules.Plan),
		&keep.Groups{By: keep.NewBy(rules.Plan, []int{0, 1}), Measures: []int{2}}, &keep.Applied{}, keep.NewLookups(rules.Lookups)}
}

func (k *kept) run(t *testing.T, rules pass.Rules, inputs []*pass.Input, share func(int) bool) *kept {
	if share != nil {
		rules.Piece = func(extract int) pass.Piece { return pass.Piece{None: !share(extract)} }
	}
	require.Empty(t, pass.Run(context.Background(), &rules, inputs, k.accounts, k.names, k.changes, k.notes,
		k.grain, k.groups, k.applied, k.lookups))
	return k
}

func (k *kept) sent(t *testing.T, rules *pass.Rules) *kept {
	return &kept{sent(t, k.accounts, &keep.Accounts{}), sent(t, k.names, &keep.Names{}), sent(t, k.changes, keep.NewChanges()),
		sent(t, k.notes, &keep.Notes{}),
		sent(t, k.grain, keep.NewGrain(rules.Plan)), sent(t, k.groups, &keep.Groups{}), sent(t, k.applied, &keep.Applied{}),
		sent(t, k.lookups, &keep.Lookups{})}
}

func (k *kept) merge(o *kept) {
	for i, p := range k.all() {
		p.Merge(o.all()[i])
	}
}

func (k *kept) all() []pass.Portable {
	return []pass.Portable{k.accounts, k.names, k.changes, k.notes, k.grain, k.groups, k.applied, k.lookups}
}

// say writes all that is kept.
func (k *kept) say(t *testing.T) string {
	again, err := k.grain.Repeats()
	require.NoError(t, err)
	text := fmt.Sprintf("%v %v %v %v\n", k.changes, k.notes, k.applied, again)
	for i, e := range k.accounts.Extracts {
		text += fmt.Sprintf("%s %v %v %v", e.File, e.Rows, e.Accounts[2].Totals(), k.accounts.Places[i])
	}
	for n := range k.names.All() {
		text += fmt.Sprintf("%s %s %s %d %v\n", n.Text, n.Standard, n.How, n.Cells, n.First)
	}
	for _, a := range k.lookups.Of {
		text += fmt.Sprintf("%d found, %v", a.Found, a.Rows)
		for _, m := range a.InOrder() {
			text += fmt.Sprintf(" %s %d %s %v", m.Label, m.Rows, m.First, m.Amount.Total())
		}
	}
	for _, g := range k.groups.List {
		text += fmt.Sprintf("%s %s %s %d\n", g.Label, g.Have[0].Total(), g.Held[0].Total(), g.Rows)
	}
	return text
}

// What a share of the extracts keeps, sent and merged with the others' in order, is what
// one pass keeps of all.
func TestShares(t *testing.T) {
	for seed := range uint64(40) {
		r := rand.New(rand.NewPCG(seed, 5))
		files := map[string]string{}
		for f := range 4 {
			var b strings.Builder
			b.WriteString("branch,product,amount\n")
			for range 3 + r.IntN(30) {
				pick := func(of ...string) string { return of[r.IntN(len(of))] }
				fmt.Fprintf(&b, "%s,%s,%s\n", pick("Holm", "Lowe", "holm."), pick("Buoy", "Oar", "Lamp"),
					pick("1", "2.125", "n/a", "x", "", "-3.5", "1.005"))
			}
			b.WriteString("Holm,Oar,1\nas of May\n")
			files[fmt.Sprintf("%d.csv", f)] = b.String()
		}
		rules, inputs := reading(t, `umbau: 1
extracts: [{ files: "*.csv", short_rows: fill }]
fact:
  branch: text
  product: name
  amount: { is: number, decimals: 2, blanks: 0, nulls: leave, texts: hold }
  coast: { is: text, lookup: b, by: branch, missing: leave }
references: { b: { file: b.txt } }
rows: { grain: [branch, product] }
deliver: [{ to: out/s.csv }]
`, files)
		all := newKept(rules, inputs).run(t, *rules, inputs, nil)
		cut := r.IntN(5)
		merged := newKept(rules, inputs).run(t, *rules, inputs, func(i int) bool { return i < cut }).sent(t, rules)
		merged.merge(newKept(rules, inputs).run(t, *rules, inputs, func(i int) bool { return i >= cut }).sent(t, rules))
		require.Equal(t, all.say(t), merged.say(t), "seed %d", seed)
	}
}
