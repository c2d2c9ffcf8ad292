package shape_test

import (
	"fmt"
	"strings"
	"testing"

	"github.com/stretchr/testify/require"

	"umbau/internal/core/pattern"
	"umbau/internal/core/plan"
	"umbau/internal/core/shape"
	"umbau/internal/core/value"
)

// unpivot has wide columns, parted by bars, and the pattern of their headers.
func unpivot(t *testing.T, columns, header string) *plan.Unpivot {
	parse := func(text string) *pattern.Pattern {
		p, err := pattern.Parse(text)
		require.NoError(t, err)
		return p
	}
	u := &plan.Unpivot{Header: parse(header)}
	for _, c := range strings.Split(columns, "|") {
		if c != "" {
			u.Columns = append(u.Columns, parse(c))
		}
	}
	return u
}

// said is a list of wide columns: header number, and the pieces of its header.
func said(list []shape.Column) string {
	var out []string
	for _, c := range list {
		out = append(out, fmt.Sprintf("%d%v", c.Index, strings.TrimPrefix(fmt.Sprint(c.Pieces), "map")))
	}
	return strings.Join(out, " ")
}

func TestWide(t *testing.T) {
	isTotal := func(s string) bool { alone, _ := new(value.Totals).Says(s); return alone }
	for _, c := range []struct {
		name, columns, header, headers string
		wide, totals, unfit, missing   string
	}{
		{"all that nothing claims", "", "{product}", "*Branch|Buoy|Oar|Total", "1[product:Buoy] 2[product:Oar]", "3[product:Total]", "", ""},
		{"by a pattern", "Qty *", "Qty {product}", "*Branch|Qty Buoy|Note|qty Oar", "1[product:Buoy] 3[product:Oar]", "", "", ""},
		{"by name, compared by the key", "buoy|DOCK line", "{product}", "*Branch|Buoy.|Oar|Dock-Line", "1[product:Buoy.] 3[product:Dock-Line]",
			"", "", ""},
		{"what is not there", "Buoy|Sail|Rope *", "{product}", "Buoy|Oar", "0[product:Buoy]", "", "", "Sail|Rope *"},
		{"a header that does not fit", "", "{what} {product}", "Qty Buoy|Oar", "0[product:Buoy what:Qty]", "", "Oar", ""},
		{"a total among the pieces", "", "{what} {product}", "Qty Buoy|Qty Total|Grand total", "0[product:Buoy what:Qty]",
			"1[product:Total what:Qty] 2[product:total what:Grand]", "", ""},
		{"a total that a plain entry names", "Buoy|Total", "{product}", "Buoy|Total", "0[product:Buoy] 1[product:Total]", "", "", ""},
		{"a total that only a pattern takes in", "*", "{product}", "Buoy|Total", "0[product:Buoy]", "1[product:Total]", "", ""},
		{"a total that a column claims", "", "{product}", "Buoy|*Total", "0[product:Buoy]", "", "", ""},
		{"a total beside columns that are named", "Buoy", "{product}", "Buoy|Total|Oar", "0[product:Buoy]", "1[product:Total]", "", ""},
		{"nothing", "", "{product}", "*Branch", "", "", "", ""},
	} {
		t.Run(c.name, func(t *testing.T) {
			headers := strings.Split(c.headers, "|")
			free := func(i int) bool { return !strings.HasPrefix(headers[i], "*") }
			wide, totals, unfit, missing := shape.Wide(unpivot(t, c.columns, c.header), headers, free, isTotal, func(int) bool { return false })
			var lacking []string
			for _, p := range missing {
				lacking = append(lacking, p.String())
			}
			require.Equal(t, []string{c.wide, c.totals, c.unfit, c.missing},
				[]string{said(wide), said(totals), strings.Join(unfit, "|"), strings.Join(lacking, "|")})
			for _, w := range wide {
				require.Equal(t, headers[w.Index], w.Header)
			}
		})
	}
}

func TestGroup(t *testing.T) {
	column := func(index int, pieces ...string) shape.Column {
		c := shape.Column{Index: index, Header: fmt.Sprint("column ", index), Pieces: map[string]string{}}
		for i := 0; i < len(pieces); i += 2 {
			c.Pieces[pieces[i]] = pieces[i+1]
		}
		return c
	}
	naming := func(piece string) bool { return piece == "what" }
	cells := func(slots []shape.Slot) (out [][]int) {
		for _, s := range slots {
			out = append(out, s.Cells)
		}
		return out
	}

	one := []shape.Column{column(2, "product", "Buoy"), column(4, "product", "buoy")}
	slots, clashes := shape.Group(one, []int{0, 0}, 1, naming)
	require.Equal(t, [][]int{{2}, {4}}, cells(slots), "one column of cells: each wide column is its own, equal or not")
	require.Empty(t, clashes)

	pairs := []shape.Column{
		column(1, "what", "Qty", "product", "Buoy"), column(2, "what", "Value", "product", "Oar"), column(3, "what", "Value", "product", "BUOY."),
		column(5, "what", "Value", "product", "Oar", "size", "2 m"), column(6, "what", "Qty", "product", "oar", "size", "2  M"),
	}
	slots, clashes = shape.Group(pairs, []int{0, 1, 1, 1, 0}, 2, naming)
	require.Equal(t, [][]int{{1, 3}, {-1, 2}, {6, 5}}, cells(slots), "those that agree by the key, where the first of them stands")
	require.Equal(t, []string{"column 1", "column 2", "column 5"}, []string{slots[0].Header, slots[1].Header, slots[2].Header})
	require.Equal(t, "Buoy", slots[0].Pieces["product"])
	require.Empty(t, clashes)

	twice := append(pairs, column(9, "what", "Quantity", "product", "buoy"), column(11, "what", "Value", "product", "OAR"))
	slots, clashes = shape.Group(twice, []int{0, 1, 1, 1, 0, 0, 1}, 2, naming)
	require.Equal(t, [][]int{{1, 3}, {-1, 2}, {6, 5}}, cells(slots))
	require.Len(t, clashes, 2)
	for i, want := range [][]int{{1, 9}, {2, 11}} {
		require.Equal(t, want, []int{clashes[i][0].Index, clashes[i][1].Index}, "which two would share a cell")
	}
}
