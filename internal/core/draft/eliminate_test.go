package draft

import (
	"fmt"
	"strings"
	"testing"

	"github.com/stretchr/testify/require"
)

// soldIn are places and what they sold: region, branch, month, product, amount.
func soldIn(regions ...string) (out [][5]string) {
	branches := map[string][]string{"Skerries": {"Quay 4", "Boatyard", "Lock House"}, "Lakes": {"Millbridge", "Pier"}}
	for _, r := range regions {
		for _, b := range branches[r] {
			for i, p := range []string{"Marine Rope", "Compass", "Deck Brush"} {
				for m := range 2 {
					out = append(out, [5]string{r, b, fmt.Sprintf("2024-0%d", m+1), p, fmt.Sprintf("%d.%d5", len(out)*7+m, i)})
				}
			}
		}
	}
	return out
}

// listOf is a file of some of the pieces of rows.
func listOf(header string, rows [][5]string, pieces ...int) string {
	var b strings.Builder
	b.WriteString(header)
	for _, row := range rows {
		for i, p := range pieces {
			b.WriteString(map[bool]string{true: "\n", false: ","}[i == 0] + row[p])
		}
	}
	return b.String() + "\n"
}

// Headers that no word names: the rows say which is which, as a branch is in one region, and a product is sold in several places.
func TestElimination(t *testing.T) {
	all, one := soldIn("Skerries", "Lakes"), soldIn("Skerries")
	files := func(header string, pieces ...int) map[string]string {
		return map[string]string{"raw/Skerries.csv": listOf(header, one, pieces...), "raw/Lakes.csv": listOf(header, soldIn("Lakes"), pieces...)}
	}
	anybody := soldIn("Skerries", "Lakes")
	for i := range anybody {
		anybody[i][1] = []string{"Anna", "Bo", "Cy"}[i*7%3]
	}
	const columns = "region,branch,month,product,amount"
	for _, c := range []struct {
		name, columns string
		files         map[string]string
		want          []string // in the plan
		asks          bool
	}{
		{"all three", columns, map[string]string{"a.csv": listOf("Aa,Bb,Month,Cc,EUR", all, 0, 1, 2, 3, 4)},
			[]string{"region:  { headers: [Aa] }  # no word says what Aa is, but each of 5 Bb is in one of 2 Aa", "branch:  { headers: [Bb] }",
				"product: { headers: [Cc] }  # no word says what Cc is, but no other texts are left"}, false},
		{"in another order", columns, map[string]string{"a.csv": listOf("Aa,Bb,Month,Cc,EUR", all, 3, 1, 2, 0, 4)},
			[]string{"region:  { headers: [Cc] }", "branch:  { headers: [Bb] }", "product: { headers: [Aa] }"}, false},
		{"one region", columns, map[string]string{"a.csv": listOf("Aa,Bb,Month,Cc,EUR", one, 0, 1, 2, 3, 4)},
			[]string{"# ? *.csv: branch may be Aa or Bb or Cc"}, true},
		{"what", columns, map[string]string{"a.csv": listOf("Where,Whereabouts,When,What,EUR", one, 0, 1, 2, 3, 4)},
			[]string{"region:  { headers: [Where] }", "branch:  { headers: [Whereabouts] }", "product: { headers: [What] }"}, false},
		{"a place is no product", columns, map[string]string{"a.csv": listOf("Region,Product,Hafen,Month,EUR", all, 0, 3, 1, 2, 4)},
			[]string{"branch:  { headers: [Hafen] }"}, false},
		{"two, in files of regions", columns, files("Bb,Month,Cc,EUR", 1, 2, 3, 4),
			[]string{"branch:  { headers: [Bb] }", "product: { headers: [Cc] }"}, false},
		{"no branch asked for", "region,month,product,amount", files("Month,Cc,EUR", 2, 3, 4), []string{"product: { headers: [Cc] }"}, false},
		{"no branch asked for, but there", "region,month,product,amount", files("Month,Bb,EUR", 2, 1, 4),
			[]string{"# ? raw/*.csv: product may be Bb"}, true},
		{"who sold it", columns, files("Vertreter,Month,Product,EUR", 1, 2, 3, 4), []string{"# ? raw/*.csv: branch may be Vertreter"}, true},
		{"in several regions", columns, map[string]string{"a.csv": listOf("Region,Bb,Month,Product,EUR", anybody, 0, 1, 2, 3, 4)},
			[]string{"# ? *.csv: branch may be Bb"}, true},
		{"another column", columns + ",channel", files("Bb,Month,Product,EUR", 1, 2, 3, 4), []string{"# ? raw/*.csv: branch may be Bb"}, true},
	} {
		r, err := drafted(t, c.columns, c.files)
		require.NoError(t, err, c.name)
		for _, want := range c.want {
			require.Contains(t, r.Text, want, c.name)
		}
		require.Equal(t, c.asks, len(r.Open) > 0, "%s\n%s", c.name, r.Text)
	}
}

// Rows from all over a table say it, not the first ones alone.
func TestEliminationInLongTables(t *testing.T) {
	var rows [][5]string
	for _, b := range []string{"Quay 4", "Boatyard", "Lock House", "Pier"} {
		for i := range 300 {
			rows = append(rows, [5]string{map[bool]string{true: "Lakes", false: "Skerries"}[b == "Pier"], b,
				fmt.Sprintf("20%02d-0%d", i/25+10, i%5+1), fmt.Sprintf("Product %c", 'A'+i/5%5), fmt.Sprintf("%d.%d5", i*13+len(rows), i%7)})
		}
	}
	r, err := drafted(t, "region,branch,month,product,amount",
		map[string]string{"a.csv": listOf("Aa,Bb,Month,Cc,EUR", rows, 0, 1, 2, 3, 4)})
	require.NoError(t, err)
	for _, want := range []string{"region:  { headers: [Aa] }", "branch:  { headers: [Bb] }", "product: { headers: [Cc] }"} {
		require.Contains(t, r.Text, want)
	}
}

// What a word, a file's name or a guess says is no proof beside a text that may be it: it is a question.
func TestEliminationAsks(t *testing.T) {
	all := soldIn("Skerries", "Lakes")
	const columns = "region,branch,month,product,amount"
	wide := "Zeta;Month;Quay 4;Boatyard\n"
	for i, p := range []string{"Marine Rope", "Compass", "Deck Brush"} {
		for m := range 3 {
			wide += fmt.Sprintf("%s;2024-0%d;%d.50;%d.25\n", p, m+1, 10*i+m+1, 7*i+m+2)
		}
	}
	coded := strings.Split(strings.TrimSpace(listOf("Region,Branch,Month,Zeta,EUR", all, 0, 1, 2, 3, 4)), "\n")
	for i := range coded {
		coded[i] = map[bool]string{true: "Article no", false: fmt.Sprintf("%d-%d", 4000+i%3*17, i%3)}[i == 0] + "," + coded[i]
	}
	for _, c := range []struct {
		name, columns, want string
		files               map[string]string
	}{
		{"the name of one file", columns, "# ? raw/*.csv: region may be Aa", map[string]string{
			"raw/Wick.csv": listOf("Aa,Branch,Month,Product,EUR", all, 0, 1, 2, 3, 4)}},
		{"one name is no branch of several regions", columns, "# ? raw/*.csv: branch may be Bb", map[string]string{
			"raw/Holm.csv": listOf("Region,Bb,Month,Product,EUR", all, 0, 1, 2, 3, 4)}},
		{"what stands across by a guess", columns, "# ? raw/*.csv: branch may be Zeta", map[string]string{"raw/Skerries.csv": wide}},
		{"codes of what no word names", columns, "# ? *.csv: product may be Article no or Zeta", map[string]string{
			"a.csv": strings.Join(coded, "\n") + "\n"}},
	} {
		r, err := drafted(t, c.columns, c.files)
		require.NoError(t, err, c.name)
		require.Contains(t, r.Text, c.want, c.name)
		require.True(t, r.Exit != 0 || len(r.Missing) > 0, c.name)
	}
}

// A header that is one of a column in one table is it in others, too, unless their rows say that it cannot be.
func TestEliminationElsewhere(t *testing.T) {
	all := soldIn("Skerries", "Lakes")
	other := strings.ReplaceAll(listOf("Bb,Cc,Month,EUR,Clerk", soldIn("Lakes"), 1, 3, 2, 4, 1), "2024-", "2025-")
	files := map[string]string{"all/a.csv": listOf("Aa,Bb,Month,Cc,EUR", all, 0, 1, 2, 3, 4), "raw/Lakes.csv": other,
		"raw/Holm.csv": strings.NewReplacer("Millbridge", "Head", "Pier", "Weir").Replace(other)}
	r, err := drafted(t, "region,branch,month,product,amount", files)
	require.NoError(t, err)
	require.Zero(t, r.Exit, "%v\n%s", r.Problems, r.Text)
	require.Empty(t, r.Open)
	require.Contains(t, r.Text, "branch:  { headers: [Bb] }")
}

// The name of a file in small letters is no region where a column of names that no word names may be it, whatever its rows agree with.
func TestNamesInSmallLetters(t *testing.T) {
	r, err := drafted(t, "region,branch,month,product,amount", map[string]string{"cur.csv": "Bez,Shop,Month,Item,Amount\n" +
		"Vale,Pier,2024-01,Oar,1.50\nVale,Mole,2024-01,Sail,2.50\nLakes,Pier,2024-01,Oar,3.50\nLakes,Wick,2024-01,Sail,4.50\n"})
	require.NoError(t, err)
	require.Equal(t, []string{"region"}, r.Missing)
	require.Contains(t, r.Text, "region may be Bez")
}
