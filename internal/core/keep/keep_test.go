package keep_test

import (
	"context"
	"fmt"
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
