package keep_test

import (
	"context"
	"fmt"
	"strings"
	"testing"

	"github.com/stretchr/testify/require"

	"umbau/internal/core/keep"
	"umbau/internal/core/pass"
)

// Texts of delivered fact rows are kept at each level, of columns that have few, and the first and the last month, by any
// number of workers; those of what is left aside are not.
func TestValues(t *testing.T) {
	var b strings.Builder
	b.WriteString("Branch,Month,Note,Oar,Buoy,Flag\nPier,2024-03,left,,,\nMole,2024-02,a,,7,\n")
	for i := range 70_000 { // more than a dictionary takes, and a block
		fmt.Fprintf(&b, "Quay,2024-0%d,note %d,1,,\n", 3+i%5, i)
	}
	b.WriteString("Pier,2024-12,left,,,\nPier,2024-11,z,,2,\n")
	rules, inputs := reading(t, `umbau: 1
extracts: [{ files: "*.csv", path: "{region}", unpivot: { header: "{product}", cell: amount, blanks: skip } }]
fact: { region: text, branch: text, month: month, note: text, product: text, amount: whole }
deliver: [{ to: out/s.csv }]
`, map[string]string{"Lakes.csv": b.String(), "Skerries.csv": "Branch,Month,Note,Oar\nPier,2023-12,x,1\nMole,2030-01,x,\n",
		"Amber Bay.csv": "Branch,Month,Note,Oar\nElsewhere,2030-01,x,\n"})
	for workers := 1; workers < 4; workers++ {
		rules.Workers = workers
		k := keep.NewValues(rules.Plan)
		require.Empty(t, pass.Run(context.Background(), rules, inputs, k))
		have := map[string]any{}
		for _, c := range k.List {
			switch name := rules.Plan.Columns[c.Column].Name; {
			case c.Many:
				require.Empty(t, c.Texts)
				have[name] = "many"
			case c.Dates:
				have[name] = c.First + " to " + c.Last
			default:
				have[name] = strings.Join(c.Texts, ", ")
			}
		}
		require.Equal(t, map[string]any{"region": "Lakes, Skerries", "branch": "Mole, Quay, Pier", "month": "2023-12 to 2024-11", "note": "many",
			"product": "Oar, Buoy"}, have, "%d workers", workers)
	}
}
