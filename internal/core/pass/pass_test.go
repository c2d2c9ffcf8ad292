package pass_test

import (
	"context"
	"fmt"
	"os"
	"path/filepath"
	"strings"
	"testing"

	"github.com/stretchr/testify/require"

	"umbau/internal/core/names"
	"umbau/internal/core/pass"
	"umbau/internal/core/plan"
	"umbau/internal/format"
)

// ready is a plan and its extracts, in a temporary folder.
func ready(t *testing.T, src string, files map[string]string) (*pass.Rules, *pass.Found) {
	dir := t.TempDir()
	for name, text := range files {
		require.NoError(t, os.WriteFile(filepath.Join(dir, name), []byte(text), 0o666))
	}
	p, err := plan.Read(filepath.Join(dir, "umbau.yaml"), []byte(src), format.All())
	require.NoError(t, err)
	return &pass.Rules{Plan: p, Books: make([]*names.Book, len(p.Columns))}, pass.Find(p)
}

const byRegion = `umbau: 1
extracts: [{ files: "*.csv", path: "{region}_*" }]
fact: { region: text, amount: { is: number, nulls: drop } }
deliver: [{ to: out/s.csv }]
`

func TestRegions(t *testing.T) {
	rules, found := ready(t, byRegion, map[string]string{
		"Lakes_1.csv": "Amount\n1\n2\nn/a\n", "Lakes_2.csv": "Amount\n3\n", "Skerries_1.csv": "Amount\n4\n"})
	for _, workers := range []int{1, 3} {
		rules.Workers = workers
		k := &regions{Rows: map[string]int{}, column: rules.Plan.Index("region")}
		require.Empty(t, pass.Run(context.Background(), rules, found.Inputs, k))
		require.Equal(t, map[string]int{"Lakes": 3, "Skerries": 1}, k.Rows)
	}
}

// order is a keeper that lists the rows as they are taken.
type order struct{ list []string }

type orderPart struct {
	to   *order
	rows []string
}

func (k *order) Part() pass.Part { return &orderPart{to: k} }

func (p *orderPart) See(b *pass.Block) {
	p.rows = p.rows[:0]
	for row, slot := range b.Delivered {
		p.rows = append(p.rows, fmt.Sprintf("%s %d", b.Input.File, b.Position(row, slot).Place([]*pass.Input{b.Input, b.Input, b.Input}).Row))
	}
}

func (p *orderPart) Take() { p.to.list = append(p.to.list, p.rows...) }

// Parts are taken in the order of the extracts, however many blocks and workers there are,
// and every keeper has all of them.
func TestOrder(t *testing.T) {
	files, want := map[string]string{}, []string{}
	for f := range 3 {
		name := fmt.Sprintf("Lakes_%d.csv", f)
		files[name] = "Amount\n" + strings.Repeat("1\n", 30_000)
		for i := range 30_000 {
			want = append(want, fmt.Sprintf("%s %d", name, i+2))
		}
	}
	rules, found := ready(t, byRegion, files)
	for _, workers := range []int{1, 2, 7} {
		rules.Workers = workers
		one, two := &order{}, &order{}
		require.Empty(t, pass.Run(context.Background(), rules, found.Inputs, one, two))
		require.Equal(t, want, one.list)
		require.Equal(t, want, two.list)
	}
}

// panics is a keeper with a mistake.
type panics struct{}

func (panics) Part() pass.Part { return panics{} }
func (panics) See(*pass.Block) { panic("mistake") }
func (panics) Take()           {}

// A mistake in a keeper, an extract that cannot be read and one that does not fit are
// problems; a pass that is ended ends.
func TestProblems(t *testing.T) {
	rules, found := ready(t, byRegion, map[string]string{"Lakes_1.csv": "Amount\n1\n", "Lakes_2.csv": "Other\n1\n"})
	problems := pass.Run(context.Background(), rules, found.Inputs, panics{})
	require.Len(t, problems, 3)
	require.Equal(t, "unexpected header", problems[0].What)
	require.Equal(t, "missing header", problems[1].What)
	require.Contains(t, problems[2].Message, "a mistake in the program: mistake")
	require.Equal(t, "Lakes_1.csv", problems[2].Places[0].File)

	ctx, cancel := context.WithCancel(context.Background())
	cancel()
	k := &order{}
	require.Empty(t, pass.Run(ctx, rules, found.Inputs, k))
	require.Empty(t, k.list)
}

// Of very many labels not every one is remembered; yet rows at the end whose label stands above are told from notes,
// also from those that begin like a label, by whoever reads them.
func TestNotesBelowManyLabels(t *testing.T) {
	const src = `umbau: 1
extracts: [{ files: "*.csv" }]
fact: { invoice: text, amount: { is: number, gaps: 0 } }
deliver: [{ to: out/s.csv }]
`
	var b strings.Builder
	b.WriteString("Invoice,Amount\n")
	want := []string{}
	add := func(line string, used bool) {
		if b.WriteString(line + "\n"); used {
			want = append(want, fmt.Sprintf("a.csv %d", strings.Count(b.String(), "\n")))
		}
	}
	for i := range 20_000 {
		b.WriteString(fmt.Sprintf("Lakes-%05d,1\n", i))
		want = append(want, fmt.Sprintf("a.csv %d", i+2))
	}
	for line, used := range map[string]bool{"LAKES 00000,": true, "Lakes-19999,": true, "Lakes-20000,": false, "Source: till,": false,
		"Lakes-0 to 9 by hand,": false, "Lakes-1,": false, "Invoice,": false} {
		add(line, used)
	}
	rules, found := ready(t, src, map[string]string{"a.csv": b.String()})
	for _, workers := range []int{1, 2, 5} {
		rules.Workers = workers
		k := &order{}
		require.Empty(t, pass.Run(context.Background(), rules, found.Inputs, k))
		require.Equal(t, want, k.list)
	}
	rules.Progress = func(int64, int64) { os.Remove(rules.Plan.At("a.csv")) } // it cannot be read again
	problems := pass.Run(context.Background(), rules, found.Inputs, &order{})
	require.Len(t, problems, 1)
	require.Equal(t, "unreadable file", problems[0].What)
}
