package plan

import (
	"encoding/json"
	"errors"
	"strings"
	"testing"

	"github.com/stretchr/testify/require"

	"umbau/internal/core/place"
	"umbau/internal/core/value"
	"umbau/internal/format"
)

const full = `umbau: 1
title: Sales
extracts:
  - files: [raw/*.csv, "more/**/*.csv"]
    except: raw/old*
    name: coasts
    path: "{region}_{year}"
    set: { source: coast }
    headers: { branch: Outlet }
    unpivot: { header: "{product}", cell: amount, columns: ["P *", Buoy], blanks: skip }
    others: drop
    absent: leave
fact:
  region: text
  source: text
  year: year
  branch: { headers: [Outlet, Branch name], blanks: Unassigned }
  month: month
  product: { is: name, book: names.csv, unknown: hold, case: title }
  price: { is: number, add: no, keep: no, gaps: leave, unclear: stop }
  amount: { is: number, decimals: 2, currency: EUR, gaps: 0, unclear: hold, errors: drop, note: in euro }
rows: { grain: [region, branch], repeats: keep }
deliver: { to: out/s.csv }
record: out/record
`

func TestRead(t *testing.T) {
	p, err := Read("umbau.yaml", []byte(full), format.All())
	require.NoError(t, err)
	require.Equal(t, "Sales", p.Title)
	require.Equal(t, "out/record", p.Record)
	require.Equal(t, []string{"region", "branch"}, p.Rows.Grain)
	require.Equal(t, Keep, p.Rows.Repeats)

	e := p.Entries[0]
	require.Equal(t, []string{"raw/*.csv", "more/**/*.csv"}, e.Files)
	require.Equal(t, []string{"raw/old*"}, e.Except)
	require.Equal(t, "coasts", e.Name)
	require.Equal(t, map[string]string{"source": "coast"}, e.Set)
	require.Equal(t, map[string][]string{"branch": {"Outlet"}}, e.Headers)
	require.True(t, e.Unpivot.SkipBlanks)
	require.Len(t, e.Unpivot.Columns, 2)
	require.Equal(t, Drop, e.Others)
	require.Equal(t, Leave, e.Absent)
	require.Equal(t, place.Pos{Line: 4, Column: 12}, e.Pos, "where its files are named")

	branch := p.Column("branch")
	require.Equal(t, Put, branch.Gaps[value.Blank].Remedy)
	require.Equal(t, "Unassigned", branch.Gaps[value.Blank].Text)
	require.Equal(t, Silent, branch.Gaps[value.Null].Remedy)
	product := p.Column("product")
	require.Equal(t, Hold, product.Unknown.Remedy)
	require.Equal(t, TitleCase, product.Case)
	price := p.Column("price")
	require.False(t, price.Measure())
	require.False(t, price.Kept)
	require.Equal(t, -1, price.Decimals)
	amount := p.Column("amount")
	require.True(t, amount.Measure())
	require.Equal(t, 2, amount.Decimals)
	var remedies []Remedy
	for _, g := range []value.Gap{value.Blank, value.Null, value.Text, value.Unclear, value.Error} {
		remedies = append(remedies, amount.Gaps[g].Remedy)
	}
	require.Equal(t, []Remedy{Put, Put, Put, Hold, Drop}, remedies)
	require.Equal(t, "0.00", amount.Gaps[value.Blank].Number.String())
}

// mistakesCases are those of TestMistakes.
var mistakesCases = []struct{ old, new, want string }{
	{"title: Sales", "titel: Sales", `2:1: the plan has no key "titel"; did you mean title?`},
	{"umbau: 1", "umbau: 3", "1:8:"},
	{"umbau: 1", "title: Twice", "title"},
	{"    except: raw/old*", "    except: { a: 1 }", "5:13:"},
	{"{region}_{year}", "{region}{region}", "7:20: path: the piece {region} stands twice"},
	{"{region}_{year}", "{coast}_{year}", `coast`},
	{"set: { source: coast }", "set: { sauce: coast }", "sauce"},
	{"cell: amount", "cell: amuont", "did you mean amount?"},
	{"cell: amount, ", "", "cell"},
	{"blanks: skip", "blanks: skipp", "did you mean skip?"},
	{"others: drop", "others: hold", "stop, drop"},
	{"  month: month", "  month: moth", "did you mean month?"},
	{"  month: month", "  month: { lookup: branches, by: region }", "there is no reference \"branches\""},
	{"  month: month", "  month: { is: month, lookup: branches }", "lookup needs by"},
	{"  month: month", "  month: { is: month, by: region }", "by goes with lookup"},
	{"  month: month", "  month: { lookup: branches, by: regoin }", "did you mean region?"},
	{"  month: month", "  month: { lookup: branches, by: region, from: year }", "two places: from and lookup"},
	{"  month: month", "  month: { lookup: branches, by: region, missing: 7 }", "there is no reference"},
	{"  month: month", "  month: =yeer", "umbau.yaml:18:11: the fact table has no column yeer; did you mean year?"},
	{"  month: month", "  month: =region = Lakes", "the fact table has no column Lakes; known are"},
	{"  month: month", "  month: =region = Lakes", "; a text stands in quotes: 'Lakes'"},
	{"  month: month", "  month: =year +", "a value is missing before the end\n    month: =year +\n                  ^"},
	{"  month: month", "  month: { is: month, formula: \"=region + 1\" }", "calculates with numbers"},
	{"  month: month", "  month: =month", "month needs month"},
	{"  month: month", "  month: { formula: max(1, year) }", "not the end; within { } a formula with commas stands in quotes"},
	{"  month: month", "  month: \"=" + strings.Repeat("(", 300) + "1" + strings.Repeat(")", 300) + "\"", "nested more than 200 deep"},
	{"  month: month", "  month: =year" + strings.Repeat("+1", 10_000), "the most are 10000"},
	{"  month: month", "  month: =1e999999999", "without exponent"},
	{"  month: month", "  month: { is: month, blanks: \"=month\" }", "the column whose gaps it fills"},
	{"  month: month", "  month: { is: month, blanks: \"=year\" }", "the formula gives a year"},
	{"  month: month", "  month: { is: month, mark: region }", "same headers"},
	{"  month: month", "  month: { formula: year, null_words: x }", "null_words goes with cells"},
	{"gaps: 0,", "gaps: \"=region\",", "the formula gives a text"},
	{"  month: month", "  month: { is: month, from: yaer }", "did you mean year?"},
	{"  month: month", "  month: { is: month, from: month }", "month needs month"},
	{"  month: month", "  month: { is: month, write: \"{region} {yeer}\" }", "yeer"},
	{"  month: month", "  month: { is: month, write: \"* x\" }", "write is a pattern of columns"},
	{"  month: month", "  month: { is: month, read: \"{a}\" }", "read is a pattern with one {}"},
	{"  month: month", "  month: { is: month, from: year, value: 3 }", "two places: value and from"},
	{"  region: text", "  region: { value: x }", "two places: the plan makes it, and path"},
	{"cell: amount", "cell: \"{measure}\"", "{measure} does not stand in unpivot.header"},
	{"    others: drop", "    header: [5, 4]", "no number of a row below"},
	{"  month: month", "  region: text", "twice"},
	{"case: title", "case: Title Case", "title"},
	{"unknown: hold, ", "unknown: , ", "unknown"},
	{"book: names.csv, ", "", "book"},
	{"decimals: 2", "decimals: 2.5", "decimals is a whole number from 0 to 18"},
	{"decimals: 2", "decimals: 99", "decimals is a whole number from 0 to 18"},
	{"gaps: 0,", "gaps: nothing,", "nothing"},
	{"    others: drop", "    numbers: 1.2.34", "numbers is an example"},
	{"    others: drop", "    dates: 03/04/2024", "two ways"},
	{"    others: drop", "    dates: soon", "dates is an example"},
	{"    others: drop", "    widen: { header: A, cell: B }", "neither has a cell"},
	{"    others: drop", "    widen: { header: A }", "neither has a cell"},
	{"    others: drop", "    widen: { header: A }", "cell"},
	{"    others: drop", "    header: first", "auto, none, the number"},
	{"    others: drop", "    area: 5:9", "B4:N30"},
	{"    others: drop", "    area: M5:A9", "ends before it begins"},
	{"    others: drop", "    encoding: latin", "windows-1252"},
	{"    others: drop", "    delimiter: colon", "comma, semicolon, tab, pipe"},
	{"    others: drop", "    totals: check", "tie, drop, keep"},
	{"    others: drop", "    sections: amount", "number column"},
	{"    others: drop", "    titles: \"{branche}\"", "did you mean branch?"},
	{"add: no", "add: maybe", "yes or no"},
	{"grain: [region, branch]", "grain: [region, brunch]", "did you mean branch?"},
	{"repeats: keep", "repeats: add", "stop, keep, sum, first, last"},
	{"[region, branch], repeats: keep", "[region, amount], repeats: sum", "add: no says that it is not to be added"},
	{"out/s.csv", "out/s.txt", "out/s.txt"},
	{"deliver: { to: out/s.csv }", "", "deliver"},
	{"record: out/record", "record: [a, b]", "record"},
	{"record: out/record", "calendar: {}", "year_starts"},
	{"record: out/record", "calendar: { year_starts: spring, named_by: end }", "a month such as april"},
	{"record: out/record", "ties: { file: c.csv, by: [regoin], measures: { amount: Total } }", "did you mean region?"},
	{"record: out/record", "ties: { file: c.csv, by: [region], measures: { branch: Total } }", "only numbers have totals"},
	{"record: out/record", "ties: { file: c.csv, by: [region], measures: { amount: Total }, within: -1 }", "within is an amount"},
	{"record: out/record", "ties: { file: c.csv }", "measures"},
	{"repeats: keep", "only: =amount", "a condition is wanted"},
	{"repeats: keep", "only: =year > ", "a value is missing"},
	{"repeats: keep", "zeros: maybe", "keep, drop"},
	{"is: number, decimals: 2", "is: text, decimals: 2", "decimals"},
}

// One plan, one mistake each.
func TestMistakes(t *testing.T) {
	for _, test := range mistakesCases {
		t.Run(test.new, func(t *testing.T) {
			text := strings.Replace(full, test.old, test.new, 1)
			require.NotEqual(t, full, text)
			_, err := Read("umbau.yaml", []byte(text), format.All())
			require.Error(t, err)
			require.Contains(t, err.Error(), test.want)
			var list place.List
			require.True(t, errors.As(err, &list))
			for _, p := range list {
				require.Equal(t, "plan", p.What)
				require.Equal(t, "umbau.yaml", p.File)
			}
		})
	}
}

func TestHostile(t *testing.T) {
	for name, test := range map[string]struct{ text, want string }{
		"tab":        {"umbau: 1\n\tfact: x\n", "2:1: "},
		"levels":     {"umbau: " + strings.Repeat("[", 10_000), "levels"},
		"flow maps":  {strings.Repeat("{a: ", 10_000), "levels"},
		"indented":   {deep(500), "levels"},
		"binary":     {"\x7fELF\x00\xff\xfe", "1:"},
		"large":      {"title: " + strings.Repeat("x", 2<<20), "1"},
		"a list":     {"- 1\n- 2\n", "1:1"},
		"a word":     {"hello\n", "1:1"},
		"bomb":       {"a: &a [x, x]\nb: &b [*a, *a]\n" + bomb(), "alias"},
		"self alias": {"a: &a [*a]\n", "levels"},
		"documents":  {"umbau: 1\n---\numbau: 1\n", "document"},
	} {
		t.Run(name, func(t *testing.T) {
			_, err := Read("umbau.yaml", []byte(test.text), format.All())
			require.Error(t, err)
			require.Contains(t, err.Error(), test.want)
			require.Less(t, len(err.Error()), 4000)
		})
	}
}

func deep(levels int) string {
	var b strings.Builder
	for i := range levels {
		b.WriteString(strings.Repeat(" ", i) + "a:\n")
	}
	return b.String()
}

func bomb() string {
	var b strings.Builder
	for c := 'c'; c < 'z'; c++ {
		b.WriteString(string(c) + ": &" + string(c) + " [*" + string(c-1) + ", *" + string(c-1) + "]\n")
	}
	return b.String()
}

// Values are taken as they are written: no number, date or switch is made of a
// text.
func TestTextsStayTexts(t *testing.T) {
	text := strings.NewReplacer("source: coast }", "source: 007 }", "blanks: Unassigned", "blanks: 2024-01-31", "title: Sales",
		"title: ~").Replace(full)
	p, err := Read("umbau.yaml", []byte(text), format.All())
	require.NoError(t, err)
	require.Equal(t, "007", p.Entries[0].Set["source"])
	require.Equal(t, "2024-01-31", p.Column("branch").Gaps[value.Blank].Text)
}

func TestSchema(t *testing.T) {
	var s struct {
		Schema     string `json:"$schema"`
		Properties map[string]any
	}
	require.NoError(t, json.Unmarshal(Schema(), &s))
	require.Contains(t, s.Schema, "json-schema.org")
	for _, k := range []string{"umbau", "title", "extracts", "fact", "rows", "deliver", "record"} {
		require.Contains(t, s.Properties, k)
	}
}

// FuzzRead: no plan panics, and every mistake has its place.
func FuzzRead(f *testing.F) {
	f.Add([]byte(full))
	f.Add([]byte("umbau: 1\n\tfact: x\n"))
	f.Add([]byte("a: &a [*a]"))
	f.Add([]byte("fact: {a: =b, c: {is: month, book: x}}\nextracts: {files: 3}"))
	f.Fuzz(func(t *testing.T, src []byte) {
		p, err := Read("umbau.yaml", src, format.All())
		if err == nil {
			require.NotEmpty(t, p.Columns)
			require.NotEmpty(t, p.Entries)
			return
		}
		var list place.List
		require.ErrorAs(t, err, &list)
		for _, p := range list {
			require.Equal(t, "umbau.yaml", p.File)
			require.NotEmpty(t, p.Message)
		}
	})
}

// A delivery adds no column of a name that a delivered column has.
func TestAddedColumns(t *testing.T) {
	for deliver, want := range map[string]string{
		"out/s.csv, origin: yes":                            "column origin_row, and the fact table has one, Origin row",
		"out/s.csv, origin: yes, columns: [region, amount]": "",

		"'{table}.csv', star: { fact: s, dimensions: { branch: [branch] } }":        "star adds a column branch_id, and",
		"'{table}.csv', star: { fact: s, dimensions: { coast: [region, branch] } }": "",
	} {
		text := strings.Replace(full, "  month: month\n", "  month: month\n  Origin row: { value: x }\n  branch_id: { value: y }\n", 1)
		_, err := Read("umbau.yaml", []byte(strings.Replace(text, "out/s.csv", deliver, 1)), format.All())
		if want == "" {
			require.NoError(t, err, deliver)
			continue
		}
		require.ErrorContains(t, err, want)
	}
}
