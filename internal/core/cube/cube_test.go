package cube

import (
	"fmt"
	"math/big"
	"math/rand/v2"
	"slices"
	"strings"
	"testing"

	"github.com/stretchr/testify/require"

	"umbau/internal/core/table"
	"umbau/internal/core/value"
)

var columns = []table.SinkColumn{
	{Index: 0, Name: "region", Is: "text"}, {Index: 1, Name: "day", Is: "date"}, {Index: 2, Name: "product", Is: "name"},
	{Index: 3, Name: "pieces", Is: "whole", Decimals: -1, Add: true}, {Index: 4, Name: "amount", Is: "number", Decimals: 2, Add: true},
	{Index: 5, Name: "price", Is: "number", Decimals: 2},
}

// drawn are rows by chance: labels, and amounts as they stand, "" for none.
func drawn(r *rand.Rand, n, days, products int) (rows [][]string) {
	for range n {
		day := value.Date{Year: 2024, Month: 1 + r.IntN(12), Day: 1 + r.IntN(28)}
		if days < 28 {
			day = value.Date{Year: 2024, Month: 3, Day: 1 + r.IntN(days)}
		}
		amount := fmt.Sprintf("%d.%02d", r.IntN(2000)-1000, r.IntN(100))
		if r.IntN(9) == 0 {
			amount = ""
		}
		rows = append(rows, []string{[]string{"Skerries", "Lakes", ""}[r.IntN(3)], day.String(), fmt.Sprint("Thing ", r.IntN(products)),
			fmt.Sprint(r.IntN(9)), amount, "1.50"})
	}
	return rows
}

// cubeOf puts rows into a cube, in blocks of some rows, by several parts in turn.
func cubeOf(rows [][]string, most, block, parts int) *Result {
	c := New(columns, most)
	var all []*Part
	for range parts {
		all = append(all, c.Part())
	}
	for len(rows) > 0 {
		var seen []*Part
		for _, p := range all { // they see blocks beside each other, and take them in order
			n := min(block, len(rows))
			if n == 0 {
				break
			}
			b := table.NewBuilder([]bool{false, false, false, true, true, true})
			for _, row := range rows[:n] {
				for j, text := range row {
					switch d, _, ok := value.English.Number([]byte(text)); {
					case j < 3:
						b.Text(j, []byte(text))
					case ok:
						b.Number(j, d)
					default:
						b.NoNumber(j)
					}
				}
				b.EndRow()
			}
			p.See(b.Batch())
			seen, rows = append(seen, p), rows[n:]
		}
		for _, p := range seen {
			p.Take()
		}
	}
	return c.Result()
}

// asText is all that a result says.
func asText(r *Result) string {
	var b strings.Builder
	fmt.Fprintln(&b, r.Labels, r.LeftOut, r.Measures, r.Rows)
	for _, g := range r.Groups {
		fmt.Fprint(&b, g.Codes, g.Rows, g.Filled)
		for m := range g.Sums {
			fmt.Fprint(&b, " ", g.Sums[m].Total())
		}
		fmt.Fprintln(&b)
	}
	return b.String()
}

// A cube says the same as rational numbers by the labels that it kept, however its rows were cut.
func TestCube(t *testing.T) {
	for seed := range uint64(60) {
		r := rand.New(rand.NewPCG(seed, 3))
		rows := drawn(r, 1+r.IntN(900), 1+r.IntN(40), 1+r.IntN(60))
		most := []int{10_000, 300, 40, 2, 1}[r.IntN(5)]
		c := cubeOf(rows, most, 50, 1)
		require.LessOrEqual(t, len(c.Groups), most)
		require.Equal(t, len(rows), c.Rows)
		require.Equal(t, []Measure{{"pieces", -1}, {"amount", 2}}, c.Measures)
		for _, cut := range [][2]int{{1, 1}, {7, 3}, {1000, 2}} {
			require.Equal(t, asText(c), asText(cubeOf(rows, most, cut[0], cut[1])), "seed %d: blocks of %d, %d parts", seed, cut[0], cut[1])
		}
		type group struct {
			rows, filled int
			sum          big.Rat
		}
		want := map[string]*group{}
		for _, row := range rows {
			k := ""
			for _, l := range c.Labels {
				text := row[slices.IndexFunc(columns, func(s table.SinkColumn) bool { return s.Name == l.Name })]
				if l.Months {
					text = text[:7]
				}
				k += text + "|"
			}
			g := want[k]
			if g == nil {
				g = &group{}
				want[k] = g
			}
			g.rows++
			if d, ok := new(big.Rat).SetString(row[4]); ok {
				g.filled++
				g.sum.Add(&g.sum, d)
			}
		}
		require.Len(t, c.Groups, len(want), "seed %d", seed)
		for _, g := range c.Groups {
			k := ""
			for i, l := range c.Labels {
				k += l.Values[g.Codes[i]] + "|"
			}
			w := want[k]
			require.NotNil(t, w, k)
			have, _ := new(big.Rat).SetString(g.Sums[1].Total().String())
			require.Equal(t, []int{w.rows, w.filled}, []int{g.Rows, g.Filled[1]}, k)
			require.Zero(t, have.Cmp(&w.sum), k)
		}
	}
}

// Values stand in their order, the empty one last; many days become months; what has the most
// values is left out.
func TestWhatStays(t *testing.T) {
	r := rand.New(rand.NewPCG(1, 1))
	c := cubeOf(drawn(r, 800, 28, 50), 100_000, 100, 1)
	require.Equal(t, []string{"Lakes", "Skerries", ""}, c.Labels[0].Values)
	require.True(t, c.Labels[1].Months)
	require.Equal(t, "2024-01", c.Labels[1].Values[0])
	require.Len(t, c.Labels[1].Values, 12)
	require.Empty(t, c.LeftOut)
	c = cubeOf(drawn(r, 800, 28, 50), 100, 100, 1)
	require.Equal(t, []string{"product"}, c.LeftOut)
	c = cubeOf(drawn(r, 300, 20, 50), 100_000, 100, 1)
	require.False(t, c.Labels[1].Months)
	require.Empty(t, cubeOf(nil, 10, 1, 1).Groups)
}
