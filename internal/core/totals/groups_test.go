package totals_test

import (
	"context"
	"fmt"
	"math/rand/v2"
	"os"
	"path/filepath"
	"strconv"
	"strings"
	"testing"

	"github.com/stretchr/testify/require"

	"umbau/internal/core/finished"
	"umbau/internal/core/totals"
	"umbau/internal/format"
)

// Groups that all parts add to come to the same as those of one part: many groups in many
// blocks, looked at by several at once, beside a plain way of adding up.
func TestSharedGroups(t *testing.T) {
	defer totals.SetMostCells(50)()
	r := rand.New(rand.NewPCG(8, 8))
	type group struct{ rows, sum, filled, gaps, first int }
	want := map[string]*group{}
	var text strings.Builder
	text.WriteString("branch,clerk,number,amount\n")
	for i := range 60_000 {
		branch, clerk, number := fmt.Sprintf("B%d", r.IntN(40)), fmt.Sprintf("Clerk %d", r.IntN(30)), r.IntN(12)
		amount := strconv.Itoa(r.IntN(1000) - 300)
		if r.IntN(50) == 0 {
			amount = []string{"", "n/a", "closed"}[r.IntN(3)]
		}
		fmt.Fprintf(&text, "%s,%s,%d,%s\n", branch, clerk, number, amount)
		name := fmt.Sprintf("%s|%s|%d", branch, clerk, number)
		g := want[name]
		if g == nil {
			g = &group{first: i}
			want[name] = g
		}
		g.rows++
		if n, err := strconv.Atoi(amount); err == nil {
			g.sum, g.filled = g.sum+n, g.filled+1
		} else if amount != "" {
			g.gaps++
		}
	}
	file := filepath.Join(t.TempDir(), "sales.csv")
	require.NoError(t, os.WriteFile(file, []byte(text.String()), 0o666))
	for _, workers := range []int{1, 4} {
		table, err := finished.Open(context.Background(), file, finished.Options{Formats: format.All(), Workers: workers})
		require.NoError(t, err)
		result, err := totals.Of(context.Background(), table.View(), totals.Asked{By: []string{"branch", "clerk", "number"},
			Of: []string{"amount"}, Show: []totals.Show{totals.Count, totals.Filled, totals.Sum}})
		require.NoError(t, err)
		lowest := 0
		for _, row := range result.Rows {
			if row.Level() < 3 {
				continue
			}
			lowest++
			name := *row.By[0] + "|" + *row.By[1] + "|" + *row.By[2]
			g := want[name]
			require.NotNil(t, g, name)
			require.Equal(t, []string{strconv.Itoa(g.rows), strconv.Itoa(g.filled)}, []string{*row.Figures[0], *row.Figures[1]}, name)
			require.Equal(t, g.gaps, row.Gaps[2], name)
			if g.filled > 0 {
				require.Equal(t, strconv.Itoa(g.sum), *row.Figures[2], name)
			}
		}
		require.Equal(t, len(want), lowest)
	}
}
