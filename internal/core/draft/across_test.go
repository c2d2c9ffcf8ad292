package draft

import (
	"fmt"
	"strings"
	"testing"

	"github.com/stretchr/testify/require"
)

// What wide headers of two parts, or without a year, are, and what is left aside or asked.
func TestHeadersOfTwoParts(t *testing.T) {
	for _, test := range []struct {
		name, columns, file, text string
		rows                      int // 0 where a build stops
		plan                      []string
	}{
		{"a measure that is not wanted", "region,branch,month,product,amount", "lakes.csv",
			"Branch,Month,Oar,,Buoy,\n,,Qty,Amount,Qty,Amount\nDock,2024-01,1,2.50,3,4.50\nPier,2024-01,1,2.00,3,4.00\n", 4,
			[]string{`unpivot: { header: "{product} | Amount", cell: amount }`, `others: ["* | Qty"]`}},
		{"one of them before the thing", "region,branch,month,product,amount", "lakes.csv",
			"Branch,Month,Qty Oar,Amount Oar,Qty Buoy,Amount Buoy\nDock,2024-01,1,2.50,3,4.50\nPier,2024-01,1,2.00,3,4.00\n", 4,
			[]string{`unpivot: { header: "Amount {product}", cell: amount }`, `others: ["Qty *"]`}},
		{"two wanted, one not", "region,branch,month,product,quantity,amount", "lakes.csv",
			"Branch,Month,Oar,,,Buoy,,\n,,Qty,Amount,Discount,Qty,Amount,Discount\nDock,2024-01,1,2.50,1,3,4.50,1\n", 2,
			[]string{`unpivot: { header: "{product} | {measure}", cell: "{measure}" }`, `others: ["* | Discount"]`}},
		{"net and gross", "region,branch,month,product,amount", "lakes.csv",
			"Branch,Month,Oar,,Buoy,\n,,Net amount,Gross amount,Net amount,Gross amount\nDock,2024-01,1,2.50,3,4.50\nPier,2024-01,1,2.00,3,4.00\n",
			0,
			[]string{"# ? *.csv: amount may be net amount or gross amount"}},
		{"the column's own name among others", "region,branch,month,product,amount", "lakes.csv",
			"Branch,Month,Oar,,Buoy,\n,,Amount,Gross amount,Amount,Gross amount\nDock,2024-01,1,2.50,3,4.50\nPier,2024-01,1,2.00,3,4.00\n", 4,
			[]string{`header: "{product} | Amount"`, `others: ["* | Gross amount"]`}},
		{"a measure beside one that has no name", "region,branch,month,product,amount", "lakes.csv",
			"Branch,Month,Oar,,Buoy\n,,Price,Amount,Amount\nDock,2024-01,1,2.50,4.50\nPier,2024-01,1,2.00,4.00\n", 0,
			[]string{"# ? *.csv: which part of the wide headers names a measure does not show"}},
		{"measures by quarter", "region,branch,product,quarter,amount", "lakes.csv",
			"Branch,Product,2024 Q1,,2024 Q2,\n,,Qty,Amount,Qty,Amount\nDock,Oar,1,2.50,3,4.50\nPier,Buoy,1,2.00,3,4.00\n", 4,
			[]string{`header: "{quarter} | Amount"`}},
		{"years above months", "region,branch,product,month,amount", "lakes.csv",
			"Branch,Product,2023,,2024,\n,,Jan,Feb,Jan,Feb\nDock,Oar,1,2.50,3,4.50\nPier,Buoy,1,2.00,3,4.00\n", 8,
			[]string{`unpivot: { header: "{year} | {mon}", cell: amount }`, `month:   { is: month, write: "{mon} {year}" }`}},
		{"years below quarters", "region,branch,product,year,quarter,amount", "lakes.csv",
			"Branch,Product,Q1,,Q2,\n,,2023,2024,2023,2024\nDock,Oar,1,2.50,3,4.50\nPier,Buoy,1,2.00,3,4.00\n", 8,
			[]string{`unpivot: { header: "{q} | {year}", cell: amount }`, `quarter: { is: quarter, write: "{q} {year}" }`}},
		{"quarters of the year of a file", "region,branch,product,quarter,amount", "lakes_2024.csv",
			"Branch,Product,Q1,Q2,Q3,Q4,Total\nDock,Oar,1.50,2.50,3.50,4.50,12.00\nPier,Buoy,1.25,2.00,3.75,4.00,11.00\n", 8,
			[]string{`path: "{region}_{year}"`, `unpivot: { header: "{q}", cell: amount }`}},
		{"a measure in rows that is not wanted", "region,branch,month,product,amount", "lakes.csv",
			"Branch,Month,Product,Figure,Value\nDock,2024-01,Oar,Qty,3\nDock,2024-01,Oar,Amount,4.50\n", 1,
			[]string{"widen: { header: Figure, cell: Value }", "others: [Qty]"}},
	} {
		r, err := drafted(t, test.columns, map[string]string{test.file: test.text})
		require.NoError(t, err, test.name)
		if test.rows == 0 {
			require.True(t, r.Exit != 0 || len(r.Missing) > 0, "%s:\n%s", test.name, r.Text)
			require.NotEmpty(t, r.Open, test.name)
		} else {
			require.Zero(t, r.Exit, "%s: %v\n%s", test.name, r.Problems, r.Text)
			require.Empty(t, r.Missing, test.name)
			require.Equal(t, test.rows, r.Rows, "%s:\n%s", test.name, r.Text)
		}
		for _, want := range test.plan {
			require.True(t, strings.Contains(r.Text, want), "%s: no %s in\n%s", test.name, want, r.Text)
		}
	}
}

// Measures that stand before things across may be called by a word that nobody knows: they are measures all the same.
func TestMeasuresCalledByUnknownWords(t *testing.T) {
	for _, headers := range []string{"Qtx %s,Ventes %[1]s", "%s Qtx,%[1]s Ventes"} {
		header := ""
		for _, thing := range []string{"Tide Table", "Fender", "Brass Cleat"} {
			header += "," + fmt.Sprintf(headers, thing)
		}
		r, err := drafted(t, "region,branch,month,product,quantity,amount", map[string]string{
			"raw/Lakes.csv": "Agence,Mois" + header + "\nQuay,2024-01,3,17.25,4,8.5,5,9.75\nQuay,2024-02,6,27.25,7,18.5,8,19.75\n",
			"raw/all.csv":   "Region,Branch,Month,Product,Quantity,Amount\nHolm,Pier,2024-01,Fender,3,17.25\n"})
		require.NoError(t, err)
		require.NotContains(t, r.Text, `header: "{product}"`, r.Text)
		require.True(t, len(r.Open) > 0 && strings.Contains(r.Open[0], "qtx"), "%q", r.Open)
	}
}

// Two header rows without a measure are a time and a thing, or a place and a thing, by what is known of them; else a question.
func TestTwoThingsAcross(t *testing.T) {
	months := ",Oar,,Rope,\nBranch,2024-01,2024-02,2024-01,2024-02\nQuay,1.5,2.5,3.5,4.5\nPier,5.25,6.25,7.75,8.5\n"
	places := ",Quay,,Pier,\nMonth,Oar,Rope,Oar,Rope\n2024-01,1.5,2.5,3.5,4.5\n2024-02,5.25,6.25,7.75,8.5\n"
	long := "Region,Branch,Month,Product,Amount\nHolm,Mole,2024-01,Oar,3.5\nHolm,Mole,2024-02,Rope,3.75\n"
	for _, test := range []struct {
		files        map[string]string
		header, asks string
	}{
		{map[string]string{"raw/Lakes.csv": months}, "{product} | {month}", ""},
		{map[string]string{"raw/Lakes.csv": ",Jan 2024,,Feb 2024,\nBranch,Oar,Rope,Oar,Rope\nQuay,1.5,2.5,3.5,4.5\n"},
			"{month} | {product}", ""},
		{map[string]string{"raw/Lakes.csv": places, "raw/a/all.csv": long}, "{branch} | {product}", ""},
		{map[string]string{"raw/Lakes.csv": places}, "", "which part of the wide headers is branch, and which product"},
	} {
		r, err := drafted(t, "region,branch,month,product,amount", test.files)
		require.NoError(t, err)
		if test.asks != "" {
			require.NotEmpty(t, r.Missing)
			require.Contains(t, strings.Join(r.Open, "\n"), test.asks)
			continue
		}
		require.Zero(t, r.Exit, r.Text)
		require.Empty(t, r.Open)
		require.Contains(t, r.Text, `unpivot: { header: "`+test.header+`", cell: amount }`)
	}
	r, err := drafted(t, "", map[string]string{"raw/Lakes.csv": months})
	require.NoError(t, err)
	require.Zero(t, r.Exit, r.Text)
	require.Contains(t, r.Text, `header: "{item} | {month}"`)
}

// Sections are of what the path does not say: products in files of a region, too.
func TestSectionsOfThings(t *testing.T) {
	files := map[string]string{}
	for _, region := range []string{"Lakes", "Holm"} {
		files["raw/"+region+".csv"] = "Branch,2024-01,2024-02\nOar\n" + region + " Quay,1.5,2.5\n" +
			"Pier,3.5,4.5\nRope\nQuay,5.25,6.25\nPier,7.75,8.25\n"
	}
	r, err := drafted(t, "region,branch,month,product,amount", files)
	require.NoError(t, err)
	require.Zero(t, r.Exit, r.Text)
	require.Contains(t, r.Text, "sections: product")
	require.Contains(t, r.Text, `path: "{region}"`)
}

// A measure and what it is of in one header, with any sign between them: a time or a thing, with --columns and without.
func TestMeasuresInHeaders(t *testing.T) {
	for _, form := range []string{"Q T", "T Q", "Q_T", "T_Q", "Q - T", "T - Q", "Q-T", "Q: T", "T/Q", "Q (T)", "T (Q)", "Q\nT"} {
		for _, things := range [][]string{{"2024-01", "2024-02", "2024-03"}, {"Jan", "Feb", "Mar"}, {"Dock Line", "Oar", "Brass Shackle"}} {
			header, of := "Branch", "product"
			for _, thing := range things {
				for _, measure := range []string{"Quantity", "Amount"} {
					header += ",\"" + strings.NewReplacer("Q", measure, "T", thing).Replace(form) + "\""
				}
			}
			if things[2] != "Brass Shackle" {
				of = "month"
			}
			text := header + "\nHolm,1,1.50,2,2.50,3,3.50\nPier,4,4.50,5,5.50,6,6.50\n"
			for _, columns := range []string{"region,branch," + of + ",quantity,amount", ""} {
				other := strings.ReplaceAll(text, "Holm", "Lowe")
				r, err := drafted(t, columns, map[string]string{"raw/Lakes 2024.csv": text, "raw/Tarn 2024.csv": other})
				require.NoError(t, err, "%q", form)
				require.Zero(t, r.Exit, "%q %s %v\n%s", form, columns, r.Problems, r.Text)
				require.Equal(t, 12, r.Rows, "%q\n%s", form, r.Text)
				require.Contains(t, r.Text, `cell: "{measure}"`)
			}
		}
	}
}

// Headers of which some name a measure and some none that is known are a question: their figures are of several kinds.
func TestSomeMeasuresInHeaders(t *testing.T) {
	r, err := drafted(t, "", map[string]string{"raw/Lakes.csv": "Branch,Dock Line Units sold,Dock Line Net sales," +
		"Oar Units sold,Oar Net sales,Jib Units sold,Jib Net sales\nHolm,100,1.50,215,2.50,30,4.50\nPier,412,4.50,52,5.50,64,7.25\n"})
	require.NoError(t, err)
	require.Empty(t, r.Missing, r.Text)
	require.Contains(t, r.Text, `header: "{item} [Units ][Net ]{measure:letters}"`)
}

// Signs that no line of a plan holds stand in headers: what the plan says of these is in one line, and finds them.
func TestHeadersOfSeveralLines(t *testing.T) {
	for _, sign := range []string{"\n", "\t", "\v", "\r\n"} {
		text := strings.ReplaceAll("\"Branch|name\",Month,\"Amount|in EUR\",\"Entered|by, on\"\n", "|", sign) +
			"Holm,2024-01,1.50,Ann\nPier,2024-01,2.50,Ben\n"
		r, err := drafted(t, "region,branch,month,amount", map[string]string{"raw/Lakes.csv": text})
		require.NoError(t, err, "%q", sign)
		require.Zero(t, r.Exit, "%q %v\n%s", sign, r.Problems, r.Text)
		require.Equal(t, 2, r.Rows)
	}
}

// Weeks across are of a column of weeks, and of none that is no such.
func TestWeeksAcross(t *testing.T) {
	for _, form := range []string{"W%02d", "KW %d", "2024-W%02d", "Week %d"} {
		var headers, cells []string
		for w := range 6 {
			headers, cells = append(headers, fmt.Sprintf(form, w+1)), append(cells, fmt.Sprintf("%d.50", 90-w*w))
		}
		row := strings.Join(cells, ",") + "\n"
		files := map[string]string{"Lakes.csv": "Branch,Product," + strings.Join(headers, ",") + "\nQuay 4,Oar," + row + "Old Slip,Buoy," + row}
		r, err := drafted(t, "", files)
		require.NoError(t, err)
		require.Empty(t, r.Open, r.Text)
		require.Contains(t, r.Text, "week:    text")
		r, err = drafted(t, "region,branch,product,week,amount", files)
		require.NoError(t, err)
		require.Contains(t, r.Text, "{week}")
		r, err = drafted(t, "region,branch,item,amount", map[string]string{"Lakes.csv": strings.ReplaceAll(files["Lakes.csv"], "Product", "Nr")})
		require.NoError(t, err)
		require.NotContains(t, r.Text, "unpivot", "%s", r.Text)
		require.Contains(t, strings.Join(r.Open, "\n"), "amount may be")
	}
}

// What stands beside times across, and says so, is left aside, several times below one header, too; a mark of some times is a question.
func TestBesideTimesAcross(t *testing.T) {
	for _, test := range []struct{ headers, others, open string }{
		{"Jan,Feb,Mar,Apr,Avg,Max,Rank", "[Avg, Max, Rank]", ""},
		{"Opening,Jan,Feb,Mar,Apr,Closing", "[Opening, Closing]", ""},
		{"Jan,Feb,Mar,Apr,2023,Var", "[2023, Var]", ""},
		{"Jan,%,Feb,%,Mar,%", `["%"]`, ""},
		{"Jan,Share,Feb,Share,Mar,Share", "[Share]", ""},
		{"Jan 2024,Feb 2024,Mar 2024,Avg [EUR],Rank*", `["Avg \\[EUR\\]", "Rank\\*"]`, ""},
		{"Jan,Feb,Mar,Apr*,May*", "", "Apr* and May* have a mark"},
	} {
		cells := strings.Repeat(",1%d.25", 1+strings.Count(test.headers, ","))
		row := func(n int) (out string) {
			for i, c := range strings.Split(cells, ",")[1:] {
				out += "," + fmt.Sprintf(c, (i*7+n*3)%10)
			}
			return out
		}
		r, err := drafted(t, "region,branch,month,product,amount", map[string]string{"Lakes 2024.csv": "Branch,Product," + test.headers +
			"\nQuay 4,Oar" + row(1) + "\nQuay 4,Buoy" + row(2) + "\nOld Slip,Oar" + row(4) + "\n"})
		require.NoError(t, err)
		if test.open != "" {
			require.Contains(t, strings.Join(r.Open, "\n"), test.open)
			require.NotZero(t, r.Exit)
			continue
		}
		require.Zero(t, r.Exit, "%s\n%s", test.headers, r.Text)
		require.Empty(t, r.Open, test.headers)
		require.Contains(t, r.Text, "others: "+test.others)
	}
}

// Columns without a header and without a cell are nothing.
func TestSpacersAcross(t *testing.T) {
	for _, columns := range []string{"", "region,branch,month,product,amount"} {
		rows, r := rowsOf(t, columns, map[string]string{"raw/Lakes_2024.csv": "Branch,Product,Jan,,Feb,,Mar\nQuay,Oar,1.5,,2.5,,3.5\n" +
			"Pier,Oar,2.25,,1.75,,8.5\n"})
		require.Len(t, rows, 6, r.Text)
	}
}

// Weeks across in one table, and months in another, are of two entries.
func TestWeeksBesideMonths(t *testing.T) {
	r, err := drafted(t, "", map[string]string{"Lakes 2024.csv": "Branch,Product,W1,W2,W3\nQuay,Oar,1.5,2.5,3.5\nQuay,Buoy,4.5,2.5,3.5\n",
		"Skerries 2024.csv": "Branch,Product,Jan,Feb,Mar\nPier,Oar,1.5,2.5,3.5\nPier,Buoy,7.5,2.5,3.5\n"})
	require.NoError(t, err)
	require.Contains(t, r.Text, `unpivot: { header: "{week}", cell: amount }`)
	require.Contains(t, r.Text, `unpivot: { header: "{mon}", cell: amount }`)
	require.NotZero(t, r.Exit, "one lacks weeks, the other one months")
}

// The word right above the first wide header names what stands across, alone but for what stands above labels; without one, a place is a
// guess that is told.
func TestTitleAcross(t *testing.T) {
	for _, test := range []struct{ above, labels, column, note string }{
		{",Channel,,", "Product", "channel", ""}, {"Sum of Amount,Customers,,", "Product", "customers", ""},
		{",Product,,", "Branch", "product", ""},
		{",Branch,,", "Product", "branch", ""}, {",,Kanal", "Branch,Product", "kanal", ""}, {",Channel,Other,", "Product", "", ""},
		{",Sales,,", "Product", "branch", "nothing says"}, {"", "Product", "branch", "nothing says"},
	} {
		text, cells := test.above+"\n"+test.labels+",North,South,West\n", strings.Repeat(",Bell", strings.Count(test.labels, ","))
		for i, name := range []string{"Oar", "Buoy", "Oar 2"} {
			text += fmt.Sprintf("%s%s,%d.25,%d.50,%d\n", name, cells, i+3, i*i+7, 90-i)
		}
		r, err := drafted(t, "", map[string]string{"raw/Lakes.csv": strings.TrimPrefix(text, "\n")})
		require.NoError(t, err, test)
		if test.column == "" {
			require.NotContains(t, r.Text, "{channel}", test)
			continue
		}
		require.Zero(t, r.Exit, "%v\n%s", test, r.Text)
		require.Equal(t, 9, r.Rows, "%v\n%s", test, r.Text)
		require.Contains(t, r.Text, "{"+test.column+"}", test)
		require.Equal(t, test.note != "", strings.Contains(r.Text, "nothing says"), "%v\n%s", test, r.Text)
	}
	r, err := drafted(t, "product,store,month,amount", map[string]string{"raw/Lakes.csv": ",Store,\nProduct,Jan 2024,Feb 2024\nOar,1.5,2.5\n" +
		"Buoy,2,3\n"})
	require.NoError(t, err)
	require.Contains(t, r.Text, `header: "{month}"`, "times are what they are")
}

// Months and quarters without a year stand across beside places and things, where the file says the year; and years beside one measure.
func TestThingsAboveBareTimes(t *testing.T) {
	const rows = "Oar,1.50,2.50,3.50,4.50\nBuoy,1.25,2.00,3.75,4.00\n"
	for _, test := range []struct{ columns, file, text, header string }{
		{"region,month,product,amount", "2024.csv", "Sales by coast\n\nProduct,Skerries,,Lakes,\n,Jan,Feb,Jan,Feb\n", "{region} | {mon}"},
		{"", "2024.csv", "Sales by coast\n\nProduct,Skerries,,Lakes,\n,Jan,Feb,Jan,Feb\n", "{region} | {mon}"},
		{"region,branch,month,product,amount", "Lakes 2024.csv", "Product,Jan,,Feb,\n,Dock,Pier,Dock,Pier\n", "{mon} | {branch}"},
		{"region,branch,quarter,product,amount", "Lakes 2024.csv", "Branch,Oar,,Buoy,\n,Q1,Q2,Q1,Q2\n", "{product} | {q}"},
		{"product,year,amount", "Lakes.csv", "Product,Sales 2021,Sales 2022,Sales 2023,Sales 2024\n", "Sales {year}"},
	} {
		r, err := drafted(t, test.columns, map[string]string{test.file: test.text + rows})
		require.NoError(t, err)
		require.Zero(t, r.Exit, "%v\n%s", r.Problems, r.Text)
		require.Empty(t, r.Missing)
		require.Equal(t, 8, r.Rows, r.Text)
		require.Contains(t, r.Text, `unpivot: { header: "`+test.header+`", cell: amount }`)
	}
}

// Months that go over the turn of a year below each place, or with each measure, are no months of one year.
func TestTurnOfTheYearAcross(t *testing.T) {
	for text, stops := range map[string]bool{
		"Product,Lakes,,,Wick,,\n,Nov,Dec,Jan,Nov,Dec,Jan\nOar,1,2,3,4,5,6\nBuoy,2,3,4,5,6,7\n":                         true,
		"Product,Lakes,,,Wick,,\n,Jan,Feb,Mar,Jan,Feb,Mar\nOar,1,2,3,4,5,6\nBuoy,2,3,4,5,6,7\n":                         false,
		"Product,Nov Qty,Nov Amount,Dec Qty,Dec Amount,Jan Qty,Jan Amount\nOar,1,2,3,4,5,6\nBuoy,2,3,4,5,6,7\n":         true,
		"Product,Jan Qty,Jan Amount,Feb Qty,Feb Amount,Mar Qty,Mar Amount\nOar,1,2.5,3,4.5,5,6\nBuoy,2,3.5,4,5.5,6,7\n": false,
		"Product,Set,Out\nOar,1.50,2.50\nBuoy,2.50,3.50\n":                                                              false,
	} {
		r, err := drafted(t, "", map[string]string{"2024.csv": text})
		require.NoError(t, err)
		require.Contains(t, r.Text, "{mon}")
		require.Equal(t, stops, r.Exit != 0, "%s\n%v", r.Text, r.Problems)
		require.Equal(t, stops, strings.Contains(r.Text, "go from Nov to Jan"), r.Text)
	}
}
