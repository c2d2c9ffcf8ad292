package survey_test

import (
	"context"
	"fmt"
	"os"
	"path/filepath"
	"strconv"
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/require"

	"umbau/internal/core/survey"
	"umbau/internal/format"
)

// surveyed surveys files with these texts.
func surveyed(t *testing.T, files map[string]string) *survey.Report {
	dir := t.TempDir()
	for name, text := range files {
		require.NoError(t, os.MkdirAll(filepath.Dir(filepath.Join(dir, name)), 0o777))
		require.NoError(t, os.WriteFile(filepath.Join(dir, name), []byte(text), 0o666))
	}
	t.Chdir(dir)
	r, err := survey.Run(context.Background(), survey.Options{Paths: []string{"."}, Formats: format.All()})
	require.NoError(t, err)
	return r
}

// one surveys one text file without problems.
func one(t *testing.T, text string) (*survey.Table, *survey.Report) {
	r := surveyed(t, map[string]string{"a.csv": text})
	require.Empty(t, r.Problems)
	require.Len(t, r.Tables, 1)
	for _, f := range r.Tables[0].Fields {
		require.Equal(t, r.Tables[0].Rows, f.Filled+f.Blank+f.Null+f.Text+f.Unclear+f.Error, f.Header)
	}
	return r.Tables[0], r
}

func field(t *testing.T, table *survey.Table, header string) survey.Field {
	for _, f := range table.Fields {
		if f.Header == header {
			return f
		}
	}
	require.Fail(t, "no field "+header)
	return survey.Field{}
}

func traps(r *survey.Report) []string {
	out := []string{}
	for _, t := range r.Traps {
		out = append(out, fmt.Sprintf("%s %d %s %d", t.What, t.Place.Row, t.Place.Header, t.Count))
	}
	return out
}

func TestLayout(t *testing.T) {
	table, _ := one(t, `Halyard & Moss,,,,
Coast:,Lakes,,,

Branch,Month,Buoy,Oar,Total
Holm,2024-01,1,2,3

Holm,2024-02,3,4,7
branch,month,buoy,oar,total
Subtotal,,4,6,10
Ropes,,,,
Marram,2024-03,5,6,11
Grand total,,9,12,21
Printed in May,,,,
`)
	require.Equal(t, 4, table.HeaderRow)
	require.Equal(t, 4, table.Rows)
	require.Equal(t, 5, table.Columns)
	require.Equal(t, []int{1, 2}, table.Titles)
	require.Equal(t, []int{6}, table.BlankRows)
	require.Equal(t, []int{8}, table.RepeatedHeaders)
	require.Equal(t, []int{9, 12}, table.TotalRows)
	require.Equal(t, []int{13}, table.Footnotes)
	require.Equal(t, []string{"Total"}, table.TotalColumns)
	require.Equal(t, "utf-8", table.Facts.Encoding)
	require.Equal(t, ",", table.Facts.Delimiter)
}

func TestGroupLabels(t *testing.T) {
	table, _ := one(t, ",,Quantity,,Value,\nBranch,Month,Buoy,Oar,Buoy,Oar\nHolm,2024-01,1,2,3.5,4\n"+
		",,Quantity,,Value,\nBranch,Month,Buoy,Oar,Buoy,Oar\n")
	require.Equal(t, 2, table.HeaderRow)
	require.Equal(t, 1, table.Rows)
	require.Equal(t, []int{4, 5}, table.RepeatedHeaders)
	require.Empty(t, table.Titles)
	require.Equal(t, "Quantity | Oar", table.Fields[3].Header)
	require.Equal(t, "Value | Buoy", table.Fields[4].Header)
}

// What stands above a header is no label of groups unless it looks like one.
func TestNoGroupLabels(t *testing.T) {
	for text, row := range map[string]int{
		",Colour,Size\nBuoy,red,big\nOar,blue,small\n":                                    1,
		",Sales 2024,\nBranch,Month,Buoy\nHolm,2024-01,3\n":                               2,
		"Coast:,Lakes,\nBranch,Month,Buoy\nHolm,2024-01,3\n":                              2,
		"Branch,Month,Buoy,Oar\nHolm,2024-01,3,\nHolm,2024-02,4,\n":                       1,
		"Sales,Lakes,January 2024\n\nBranch,Month,Buoy\nHolm,2024-01,3\nHolm,2024-02,4\n": 3,
		"Branch,Month,Buoy\n\nHolm,May,n/a\nHolm,May,4\nPier,May,5\n":                     1,
		"Branch,Month,Buoy\n\nHolm,2024-01,3\nHolm,2024-02,4\n":                           1,
	} {
		table, _ := one(t, text)
		require.Equal(t, row, table.HeaderRow, text)
		for _, f := range table.Fields {
			require.NotContains(t, f.Header, "|")
		}
	}
}

func TestFields(t *testing.T) {
	table, r := one(t, `Branch,Month,Buoy,Oar,Dock Line,Amount,Note,Sail
Holm,2024-01,1,1.5,7,10,x,1
HOLM,Feb 2024,,n/a,12 pcs,20,,2
Saltby,2024-03,2,#N/A,8,30,yes,3
"Saltby ",2024-03,1.0,closed,"1,000",40,no,4
`)
	require.Equal(t, survey.Field{Header: "Branch", Is: "text", Filled: 4, Distinct: 2, Examples: []string{"Holm", "Saltby"},
		Gaps: []survey.Gap{}}, field(t, table, "Branch"))
	require.Equal(t, "month", field(t, table, "Month").Is)
	require.Equal(t, 3, field(t, table, "Month").Distinct)
	require.Equal(t, survey.Field{Header: "Buoy", Is: "whole", Wide: true, Filled: 3, Blank: 1, Distinct: 2, Examples: []string{"1", "2"},
		Gaps: []survey.Gap{{3, "blank", ""}}}, field(t, table, "Buoy"))
	oar := field(t, table, "Oar")
	require.Equal(t, "text", oar.Is, "one number, one word")
	require.Equal(t, []survey.Gap{{3, "null", "n/a"}, {4, "error", "#N/A"}}, oar.Gaps)
	line := field(t, table, "Dock Line")
	require.Equal(t, 3, line.Filled)
	require.Equal(t, 1, line.Unclear)
	require.Equal(t, "whole", line.Is, "grouped figures, as the table writes them")
	require.False(t, field(t, table, "Amount").Wide, "a measure's name")
	require.Equal(t, []string{"text among numbers 3 Dock Line 1"}, traps(r))
}

func TestNumbersAndDates(t *testing.T) {
	for _, test := range []struct {
		name, text, numbers, dates string
		traps                      []string
	}{
		{"default", "D,A\n2024-01-31,1.5\n2024-02-01,\"1,000\"\n", "", "", nil},
		{"comma decimals", "D;A\n31.01.2024;1.234,50\n1.2.2024;2,5\n", "1.234,56", "31.12.2024", nil},
		{"spaces", "D;A\n01/31/2024;1 234,5\n02/01/2024;7\n", "1 234,56", "12/31/2024", nil},
		{"short years", "D;A\n31/01/24;1'234.50\n01/02/24;3\n", "1'234.56", "31/12/24", nil},
		{"pairs", "D;A\n2024/01/31;12,34,567.89\n2024/02/01;3\n", "12,34,567.89", "2024/12/31", nil},
		{"two ways to read numbers", "D,A\n2024-01-31,\"1,500\"\n2024-02-28,\"2,250\"\n", "", "", []string{"number readings 2 A 2"}},
		{"two ways to read dates", "D,A\n03/04/2024,1\n05/06/2024,2\n", "", "", []string{"date readings 2 D 2"}},
		{"days or months", "Week,A\nNov-05,1\nNov-12,2\n", "", "", []string{"date readings 2 Week 2"}},
		{"days or months across", "A,B,Nov-05,Nov-12,Nov-19\nx,2023-01-31,1,2,3\n", "", "", []string{"date readings 1 Nov-05 3"}},
		{"months across", "A,B,Nov-23,Dec-23,Jan-24\nx,2023-01-31,1,2,3\n", "", "", nil},
		{"figures under a header of dates", "Month,A\n202401,1\n202402,2\n", "", "202412", nil},
		{"months with a point", "Month,A\n2024.01,2024.10\n2024.02,1.10\n", "", "2024.12", nil},
		{"months before a point", "Month,A\n01.2024,5.25\n12.2024,1.10\n", "", "12.2024", nil},
		{"amounts that could be months", "A,B\n2024.01,1\n2024.02,2\n", "", "", nil},
		{"figures under another", "Code,A\n202401,1\n202402,2\n", "", "", nil},
	} {
		t.Run(test.name, func(t *testing.T) {
			table, r := one(t, test.text)
			require.Equal(t, test.numbers, table.Numbers)
			require.Equal(t, test.dates, table.Dates)
			require.ElementsMatch(t, test.traps, traps(r))
		})
	}
}

func TestCurrency(t *testing.T) {
	_, r := one(t, "B,Amount\nx,€ 5\ny,$ 6\nz,£7\nx,8\n")
	require.Equal(t, []string{"currency 3 Amount 2"}, traps(r))
}

// Distinct values are counted by the key or the value, exactly up to 32,768, but amounts; beyond that they are estimated.
func TestManyDistinct(t *testing.T) {
	text := func(n int, line func(i int) string) string {
		var b strings.Builder
		b.WriteString("Code,Number,Day,Either,Price\n")
		for i := range n {
			b.WriteString(line(i) + "\n")
		}
		return b.String()
	}
	line := func(i int) string {
		k, way := 1000+i%30_000, i/30_000
		code, number := []string{"Code %d", "CODE-%d", " code  %d "}[way], []string{"%d%03d", "\"%d,%03d\"", "%d%03d.00"}[way]
		day := time.Date(1900, 1, 1+i%20_000, 0, 0, 0, 0, time.UTC).Format("2006-01-02")
		either := []string{"n/a", "pending " + strconv.Itoa(i%9000), strconv.Itoa(i / 3)}[min(i%12, 2)]
		return fmt.Sprintf(code+","+number+",%s,%s,%d.25", k, k/1000, k%1000, day, either, i%7)
	}
	table, _ := one(t, text(90_000, line))
	require.Equal(t, 90_000, table.Rows)
	for header, want := range map[string]int{"Code": 30_000, "Number": 30_000, "Day": 20_000, "Either": 30_000, "Price": 7} {
		f := field(t, table, header)
		require.Equal(t, want, f.Distinct, header)
		require.False(t, f.Estimated, header)
	}
	table, _ = one(t, text(120_000, func(i int) string { return fmt.Sprintf("c%d,%d,2024-01-01,x,%d.25", i, i%40_000, i%12_000) }))
	for header, want := range map[string]int{"Code": 120_000, "Number": 40_000, "Price": 12_000} {
		f := field(t, table, header)
		require.InEpsilon(t, want, f.Distinct, 0.03, header)
		require.True(t, f.Estimated, header)
	}
}

func TestHeaders(t *testing.T) {
	r := surveyed(t, map[string]string{"a.csv": "Branch,Dock Line\nx,1\n", "b.csv": "BRANCH,Dock Lime\ny,2\n",
		"c.csv": "Branch,dock-line\nz,3\n"})
	require.Equal(t, "Branch", r.Headers[0].Text)
	require.Equal(t, []string{"Branch", "BRANCH"}, r.Headers[0].Spellings)
	require.Equal(t, 3, r.Headers[0].Tables)
	require.Equal(t, "Dock Lime", r.Headers[2].Text)
	require.Equal(t, "Dock Line", r.Headers[2].LikelyAs)
	require.Len(t, r.Headers[2].MissingIn, 2)
}

func TestLayouts(t *testing.T) {
	r := surveyed(t, map[string]string{"a.csv": "Branch,Buoy,Oar,Sail\nx,1,2,3\n", "b.csv": "Oar,BRANCH,Rope,Chain\n1,y,2,3\n",
		"c.csv": "Branch,Amount\nz,3\n"})
	l := survey.Layouts(r.Tables)
	require.Len(t, l, 2)
	require.Len(t, l[0].Tables, 2)
	require.Equal(t, []string{"Buoy", "Oar", "Sail"}, l[0].Columns[1].Folded)
	require.Equal(t, survey.Column{Header: "Branch", Is: "text", Fewest: 1, Most: 1, Filled: 2, Least: 1, Utmost: 1, Examples: []string{"x"},
		Gaps: map[string]int{"blank": 0, "null": 0, "text": 0, "unclear": 0, "error": 0}}, l[0].Columns[0])
	require.Equal(t, "Amount", l[1].Columns[1].Header)
	require.Equal(t, []string{"header in row 1", "utf-8", "comma"}, l[1].Tables[0].Described())
}

// A header is likely another one below the same label alone.
func TestLikelyBelowLabels(t *testing.T) {
	r := surveyed(t, map[string]string{
		"a.csv": ",Quantity,,,Value,,\nBranch,Dock Line,Anchor Chain,Sail,Dock Line,Anchor Chain,Sail\nHolm,1,2,3,4,5,6\n",
		"b.csv": ",Quantity,,,Value,,\nBranch,Deck Brush,Anchor Chian,Sail,Deck Brush,Anchor Chain,Sail\nHolm,1,2,3,4,5,6\n"})
	likely := map[string]string{}
	for _, h := range r.Headers {
		if h.LikelyAs != "" {
			likely[h.Text] = h.LikelyAs
		}
	}
	require.Equal(t, map[string]string{"Quantity | Anchor Chian": "Quantity | Anchor Chain"}, likely)
}

// Columns of numbers below one label are one column of a layout.
func TestLayoutsOfGroups(t *testing.T) {
	r := surveyed(t, map[string]string{
		"a.csv": ",Quantity,,,Value,,\nBranch,Buoy,Oar,Sail,Buoy,Oar,Sail\nHolm,1,2,3,4,n/a,6\nLowe,1,2,3,4,5,6\n",
		"b.csv": ",Quantity,,,,Value,,,\nBranch,Buoy,Oar,Rope,Net,Buoy,Oar,Rope,Net\nHolm,1,2,3,4,5.5,6,7,8\nLowe,,2,3,4,5,6,7,8\n"})
	l := survey.Layouts(r.Tables)
	require.Len(t, l, 1)
	require.Equal(t, 4, l[0].Rows())
	quantity, amount := l[0].Columns[1], l[0].Columns[2]
	require.Equal(t, "Quantity | …", quantity.Header)
	require.Equal(t, []int{3, 4, 13, 1}, []int{quantity.Fewest, quantity.Most, quantity.Filled, quantity.Gaps["blank"]})
	require.Equal(t, "number", amount.Is)
	require.Equal(t, survey.Gap{Row: 3, Kind: "null", Text: "n/a"}, amount.Gap)
}

func TestProblems(t *testing.T) {
	r := surveyed(t, map[string]string{"a.csv": "A,B\n1,2\n", "b.csv": "", "c.xlsx": "A,B\n", "d.csv": "A\n\"open\n", ".hidden.csv": "x",
		"x.pdf": "x"})
	require.Len(t, r.Tables, 1)
	var whats []string
	for _, p := range r.Problems {
		whats = append(whats, p.Places[0].File+" "+p.What)
	}
	require.ElementsMatch(t, []string{"b.csv empty file", "c.xlsx unreadable file", "d.csv unreadable file"}, whats)
	require.Equal(t, 1, r.Problems.ExitCode())
}

// What builds wrote of themselves is no table that came in, but where it is asked for.
func TestRecordsAreLeftAside(t *testing.T) {
	dir := t.TempDir()
	for name, text := range map[string]string{"a.csv": "A,B\n1,2\n", "out/sales.csv": "a,b\n1,2\n",
		"out/record/build.json": `{ "umbau": "0.1.0" }`,
		"out/record/ties.csv":   "file,read\na.csv,2\n", "out/record/last/build.csv": "what,value\nrows,1\n"} {
		require.NoError(t, os.MkdirAll(filepath.Dir(filepath.Join(dir, name)), 0o777))
		require.NoError(t, os.WriteFile(filepath.Join(dir, name), []byte(text), 0o666))
	}
	for _, test := range []struct {
		path           string
		tables, asides int
	}{{"", 2, 1}, {"**/*.csv", 2, 1}, {"out/record", 2, 0}, {"out/record/*.csv", 1, 0}, {"out/record/ties.csv", 1, 0}} {
		r, err := survey.Run(context.Background(), survey.Options{Paths: []string{filepath.Join(dir, test.path)}, Formats: format.All()})
		require.NoError(t, err)
		require.Len(t, r.Tables, test.tables, test.path)
		require.Len(t, r.Aside, test.asides, test.path)
		require.Empty(t, r.Problems, test.path)
	}
}

// What is easily overlooked in a table as a whole, and in tables beside each other.
func TestTrapsOfTables(t *testing.T) {
	for name, test := range map[string]struct{ text, want string }{
		"same rows":            {"Branch,Amount\nHolm,1\nLowe,2\nHolm,1\n", "same rows 4  1"},
		"total without values": {"Branch,Buoy,Oar,Sail,Total\nHolm,1,2,4,\nLowe,3,5,9,\n", "total without values 1 Total 2"},
		"measures across": {"Branch,Figure,Jan 2024,Feb 2024,Mar 2024\nHolm,Quantity,1,2,3\nHolm,Amount,20.5,3,4\n",
			"measures in rows 1 Figure 2"},
		"measures in rows": {"Branch,Figure,Value\nHolm,Quantity,1\nHolm,Amount,20.5\nLowe,Quantity,2\n", "measures in rows 1 Figure 3"},
		"below a measure": {",Qty,,Amount,,,\nBranch,Rope,Oar,Rope,Oar,Gear,Net\nHolm,1,2,1000.50,200.25,1200.75,5\nLowe,3,4,70,90,160,6\n" +
			"Mere,5,6,11.5,22,33.5,7\n", "sum of others 2 Amount | Gear 3"},
		"a row that is a sum":    {"Branch,Qty,Amount\nHolm,1,1000.50\nLowe,2,500\nAll,3,1500.50\n", "sum of others 4  1"},
		"rows above their parts": {"Of,Jan,Feb\nHolm,100.5,20\nRope,60,15\nOar,40.5,5\nMere,70,9\nRope,30,5\nOar,40,4\n", "sum of others 2  2"},
		"rows below their parts": {"Of,Jan,Feb\nRope,60,15\nHolm,60,15\nOar,40.5,5\nSail,30,5\nMere,70.5,10\nBuoy,40,4\nOar,100,3\nAll,140,7\n",
			"sum of others 3  3"},
		"sums so far": {"Branch,Jan,Feb,Mar,Apr,May\nA,1,2,4,6,9\nB,2,3,5,9,12\nC,7,9,11,12,13\nD,1,3,5,7,10\n" +
			"E,2,4,5,6,8\n", "sums so far 1  5"},
		"labels alone":           {"Branch,Jan,Feb\nHolm,1,2\nLowe,3,4\nOars,,\nHolm,5,6\nLowe,7,8\nMere,7,8\n", "label alone 4  1"},
		"a header twice":         {"Branch,Jan,Feb,JAN\nHolm,1,2,7\nLowe,3,5,9\n", "header twice 1 JAN 1"},
		"rows that are no sales": {"Branch,Jan\nHolm,1\nAverage,1\nLast year,2\nBudget Marine,3\n", "no sales 0 Branch 2"},
		"columns that are none":  {"Branch,Buoy,Oar,Sail,Budget\nHolm,1,2,7,4\nLowe,3,5,9,6\n", "no sales 0 Budget 1"},
		"a family of columns": {"Branch,R10,R12,Ropes,Oar\nHolm,1000.5,200,1200.5,7\nMere,70,91,161,3\nLowe,8,33.25,41.25,2\n",
			"sum of others 1 Ropes 3"},
		"above few parts":        {"Of,Jan,Feb\nHolm,100.5,20\nRope,60,15\nOar,40.5,5\n", ""},
		"a column that is one":   {"Branch,Buoy,Oar,All\nHolm,1,2,3\nLowe,3,5,8\nMere,4,6,10\n", "sum of others 1 All 3"},
		"a merged header":        {"Branch,Buoy,,Oar\nHolm,1,2,3\nLowe,3,5,8\n", "merged header 1 C 2"},
		"garbled letters":        {"Branch,GrÃ¶ÃŸe,Oar\nHolm,1,2\nKÃ¶ln,3,5\n", "garbled letters 0 Branch 1; garbled letters 0 GrÃ¶ÃŸe 1"},
		"numbers of two ways":    {"Branch,Amount\nHolm,\"1.234,50\"\nLowe,\"2,345.75\"\n", "text among numbers 2 Amount 1"},
		"a cell beside it":       {"Branch,Amount\nHolm,1\nLowe,2,,ok\n", "cell without a header 3 D 1"},
		"an encoding in doubt":   {"Branch,Amount\nM\x81ller,1\n", "encoding 2  1"},
		"nothing out of the way": {"Branch,Amount\nHolm,1\nLowe,2\n", ""},
	} {
		_, r := one(t, test.text)
		require.Equal(t, test.want, strings.Join(traps(r), "; "), name)
	}
	r := surveyed(t, map[string]string{"Lakes 2023.csv": "Month,Amount\n2024-01,1\n2024-02,2\n"})
	require.Equal(t, []string{"year of the file 1 Month 2"}, traps(r))
	r = surveyed(t, map[string]string{"a.csv": "Branch,Amount\nHolm,1\n", "b.csv": "Branch,Amount\nHolm,1\n",
		"c.csv": "Filiale,Amount\nHolm,2\n"})
	require.Equal(t, []string{"same file 0  1", "headers apart 1 Filiale 1"}, traps(r))
}

// Two header rows under titles, labels in the upper or the lower one.
func TestTwoHeaderRows(t *testing.T) {
	for _, text := range []string{
		"Halyard & Moss,,,,\n,,,,\nBranch,Q1,,Q2,\n,Deck Brush,Rope,Deck Brush,Rope\nHolm,1,2,3,4\nLowe,5,6,7,8\n",
		"Halyard & Moss,,,,\n,,,,\n,Q1,,Q2,\nBranch,Deck Brush,Rope,Deck Brush,Rope\nHolm,1,2,3,4\nLowe,5,6,7,8\n",
	} {
		table, r := one(t, text)
		require.Empty(t, traps(r))
		require.Equal(t, 4, table.HeaderRow)
		require.Equal(t, 2, table.Rows)
		require.Equal(t, "Branch", table.Fields[0].Header)
		require.Equal(t, "Q1 | Deck Brush", table.Fields[1].Header)
		require.True(t, table.Fields[4].Wide)
	}
}

// Labels of groups that are written above each of their columns, or below each; labels above both rows; a section row below them.
func TestRepeatedGroupLabels(t *testing.T) {
	for _, test := range []struct{ text, headers string }{
		{",Amount,Amount\nBranch,Nov-23,Dec-23\nHolm,1,2\n", "Branch; Amount | Nov-23; Amount | Dec-23"},
		{"Branch,2023,2023,2024\n,Nov,Dec,Jan\nHolm,1,2,3\n", "Branch; 2023 | Nov; 2023 | Dec; 2024 | Jan"},
		{",,2023,2023,2023\nBranch,Item,Jan,Feb,Mar\nHolm,Oar,1,2,3\n", "Branch; Item; 2023 | Jan; 2023 | Feb; 2023 | Mar"},
		{"Branch,Nov-23,Dec-23\n,Amount,Amount\nHolm,1,2\n", "Branch; Nov-23 | Amount; Dec-23 | Amount"},
		{"Branch,Nov-23,Dec-23\nBranch,Amount,Amount\nHolm,1,2\n", "Branch | Branch; Nov-23 | Amount; Dec-23 | Amount"},
		{"Branch,Item,Amount,\nBranch,Item,Nov-23,Dec-23\nHolm,Oar,1,2\n", "Branch | Branch; Item | Item; Amount | Nov-23; Amount | Dec-23"},
		{"Halyard & Moss,,\nBranch,Amount,Amount\n,Nov-23,Dec-23\nLakes,,\nHolm,1,2\n", "Branch; Amount | Nov-23; Amount | Dec-23"},
		{"Item,Amount,\n,Nov-23,Dec-23\nLakes,,\nHolm,1,2\nOar,1,2\nBuoy,1,2\n", "Item; Amount | Nov-23; Amount | Dec-23"},
		{"Branch,Nov-23,Dec-23\nHolm,closed,closed\nLowe,1,2\n", "Branch; Nov-23; Dec-23"},
		{"Note,Note,Amount,Fee\nurgent,sent,paid,open\nx,y,1,2\n", "Note; Note; Amount; Fee"},
		{"Branch,Amount,Amount\n,Nov-23,Nov-23\nHolm,1,2\n", "Branch; Amount; Amount"},
		{",Holm,,Lowe,,Total\nItem,Nov-23,Dec-23,Nov-23,Dec-23,\nOar,1,2,3,4,10\n",
			"Item; Holm | Nov-23; Holm | Dec-23; Lowe | Nov-23; Lowe | Dec-23; Total"},
		{",,2024,,\nBranch,Item,Jan,Feb,Mar\nHolm,Oar,1,2,3\n", "Branch; Item; 2024 | Jan; 2024 | Feb; 2024 | Mar"},
		{",,2024\nBranch,Item,Amount,Qty\nHolm,Oar,1,2\n", "Branch; Item; Amount; Qty"},
		{"2024,,,\nBranch,Item,Jan,Feb\nHolm,Oar,1,2\n", "Branch; Item; Jan; Feb"},
		{",,2024\nBranch,Item,2024-01,2024-02\nHolm,Oar,1,2\n", "Branch; Item; 2024-01; 2024-02"},
		{",,3 May 2024\nBranch,Item,Jan,Feb\nHolm,Oar,1,2\n", "Branch; Item; Jan; Feb"},
		{"printed,,printed,\nBranch,Item,Jan,Feb\nHolm,Oar,1,2\n", "Branch; Item; Jan; Feb"},
		{"\n\nBranch,Nov-23,Dec-23\nHolm,1,2\nHolm,3,4\n", "Branch; Nov-23; Dec-23"},
	} {
		table, _ := one(t, test.text)
		var headers []string
		for _, f := range table.Fields {
			headers = append(headers, f.Header)
		}
		require.Equal(t, test.headers, strings.Join(headers, "; "), test.text)
	}
}

// Columns of totals within groups, and of all of them.
func TestTotalColumnsOfGroups(t *testing.T) {
	table, _ := one(t, "Branch,2023,,,2024,,Total\n,Nov,Dec,Sum,Jan,Sum,\nHolm,1,2,3,4,4,7\nLowe,1,2,3,4,4,7\n")
	require.Equal(t, []string{"2023 | Sum", "2024 | Sum", "Total"}, table.TotalColumns)
	table, _ = one(t, "Branch,Total,\n,Nov,Dec\nHolm,1,2\nLowe,1,2\nPier,1,2\n")
	require.Empty(t, table.TotalColumns)
	table, _ = one(t, "Branch,Nov,Dec,Total\n,EUR,EUR,EUR\nHolm,1,2,3\nLowe,1,2,3\n")
	require.Equal(t, []string{"Total | EUR"}, table.TotalColumns)
}

// A line that is nearly as full as most rows is no header where one of all columns follows it.
func TestLineAboveTheTable(t *testing.T) {
	for _, text := range []string{
		"Halyard & Moss,,,\n,printed,3 May 2024,\n,,,\nShop,Month,Product,Sales\nHolm,2024-01,Oar,1.50\n,2024-01,Rope,2.50\n,2024-02,Oar,3.50\n",
		",as of,May,\n,,,\n,,,\nShop,Month,Product,Sales\nHolm,2024-01,Oar,1.50\n,2024-01,Rope,2.50\n,2024-02,Oar,3.50\n",
	} {
		table, _ := one(t, text)
		require.Equal(t, 4, table.HeaderRow)
		require.Equal(t, "number", field(t, table, "Sales").Is)
	}
	table, _ := one(t, ",Month,Sales\nHolm,2024-01,closed\nLowe,2024-01,2.50\nHolm,2024-02,3.50\nLowe,2024-02,3.75\n")
	require.Equal(t, 1, table.HeaderRow)
}

// Quarters, products whose names hold a measure's word, amounts with a currency, a table
// that begins further right.
func TestFieldsOfAllKinds(t *testing.T) {
	table, _ := one(t, "Quarter,Landing net,Buoy,Oar,Sail\n2023-Q1,1,2,3,4\n2023-Q2,1,2,3,4\nQ3 2023,5,2,3,4\n")
	require.Equal(t, "quarter", field(t, table, "Quarter").Is)
	require.True(t, field(t, table, "Landing net").Wide)
	var b strings.Builder
	b.WriteString(",,Branch,Amount\n")
	for i := range 24 {
		fmt.Fprintf(&b, ",,Holm,€ %d.50\n", i)
	}
	table, _ = one(t, b.String())
	require.Equal(t, 24, field(t, table, "Amount").Distinct)
	require.Equal(t, 2, table.Columns)
	require.Equal(t, "Branch", table.Fields[0].Header)
}

// A trap says on which side of its row the others stand that it sums up.
func TestSideOfSums(t *testing.T) {
	for text, side := range map[string]string{
		"Of,Jan,Feb\nHolm,100.5,20\nRope,60,15\nOar,40.5,5\nMere,70,9\nRope,30,5\nOar,40,4\n":                     "below it",
		"Of,Jan,Feb\nRope,9,1\nHolm,9,1\nRope,60,15\nOar,40.5,5\nMere,100.5,20\nRope,30,5\nOar,40,4\nLowe,70,9\n": "above it",
	} {
		_, r := one(t, text)
		require.Len(t, r.Traps, 1)
		require.Contains(t, r.Traps[0].Detail, side, text)
	}
}
