package fact_test

import (
	"fmt"
	"math/rand/v2"
	"strings"
	"testing"

	"github.com/stretchr/testify/require"

	"umbau/internal/core/fact"
)

// A sheet or a file that has what all others beside it have together is named, whatever it is called and however its rows are cut;
// few figures may agree by chance.
func TestSumsOfExtracts(t *testing.T) {
	plan := func(keys string) string {
		return wholePlan("  - { files: \"*[vx]\", absent: leave, others: drop"+keys+" }",
			"branch: text, quantity: whole, amount: number", "")
	}
	holm, pier := "branch,quantity,amount\nHolm,3,1234.50\nLowe,4,17\n", "branch,quantity,amount\nPier,2,999.75\nQuay,1,40\n"
	for name, test := range map[string]struct {
		keys  string
		files map[string]string
		want  string // the places of what is said
	}{
		"a file": {"", map[string]string{"holm.csv": holm, "pier.csv": pier,
			"x.csv": "branch,quantity,amount\nA,7,1251.50\nB,3,1039.75\n"}, "x.csv"},
		"a file without quantities": {"", map[string]string{"holm.csv": holm, "pier.csv": pier, "x.csv": "branch,amount\nA,2291.25\n"}, "x.csv"},
		"a file of other quantities": {"",
			map[string]string{"holm.csv": holm, "pier.csv": pier, "x.csv": "branch,quantity,amount\nA,9,2291.25\n"}, ""},
		"a file left out": {", except: [x.csv]",
			map[string]string{"holm.csv": holm, "pier.csv": pier, "x.csv": "branch,amount\nA,2291.25\n"}, ""},
		"two files of one amount": {"", map[string]string{"holm.csv": holm, "x.csv": "branch,amount\nA,1251.50\n"}, ""},
		"one file has none": {"",
			map[string]string{"holm.csv": holm, "pier.csv": "branch,amount\n", "x.csv": "branch,amount\nA,1251.50\n"}, ""},
		"few figures": {"", map[string]string{"a.csv": "branch,amount\nA,12\n", "b.csv": "branch,amount\nB,30\n",
			"c.csv": "branch,amount\nC,42\n"}, ""},
		"a sheet of each of two workbooks": {"", map[string]string{
			"a.xlsx": "Holm:\nbranch|amount\nHolm|#1234.5@Pier:\nbranch|amount\nPier|#999.75@All:\nbranch|amount\nX|#2000" +
				"@Rest:\nbranch|amount\nX|#-2000\n@Sheet4:\nbranch|amount\nHolm|#2234.25",
			"b.xlsx": "Mere:\nbranch|amount\nMere|#4321@Lowe:\nbranch|amount\nLowe|#100.75@Both:\nbranch|amount\nX|#4421.75"},
			"a.xlsx Sheet4, b.xlsx Both"},
		"sheets of two workbooks together": {"", map[string]string{"a.xlsx": "Holm:\nbranch|amount\nHolm|#1234.5",
			"b.xlsx": "Pier:\nbranch|amount\nPier|#999.75", "c.xlsx": "X:\nbranch|amount\nX|#2234.25"}, "c.xlsx"},
	} {
		t.Run(name, func(t *testing.T) {
			s, _ := silent{plan: plan(test.keys), files: test.files}.folder(t).build(t, 2, 0)
			require.Equal(t, 0, s.ExitCode(), "%v", s.Problems)
			var places []string
			for _, w := range s.Warnings {
				for _, p := range w.Places {
					places = append(places, strings.TrimSpace(p.File+" "+p.Sheet))
				}
			}
			require.Equal(t, test.want, strings.Join(places, ", "))
		})
	}
}

// Totals above the rows they total, in few rows or few groups, are named, alone and in shares, where their figures are hardly a chance.
func TestFewRowsBelowTotals(t *testing.T) {
	fact.CutFrom(t, 1)
	const skerries = "Skerries,1034.55,2020.1\nHolm,400.25,820.05\nLowe,634.3,1200.05\n"
	for text, want := range map[string]string{
		skerries: "Skerries", skerries + "Lakes,12.5,7\nQuay,12.5,7\n": "Skerries", "Lakes,12.5,7\nQuay,12.5,7\n" + skerries: "Lakes",
		skerries + "Lakes,12.5,7\nQuay,12.5,7.5\n":                                                  "",
		strings.ReplaceAll(strings.ReplaceAll(skerries, ",1034.55,", ",10,"), ",2020.1\n", ",20\n"): "",
		"A,1,2\nB,0.5,1\nC,0.5,1\n":                                                                 "",
	} {
		f := silent{plan: wholePlan("  - { files: \"*.csv\", unpivot: { header: \"{mon}\", cell: amount } }",
			"branch: text, mon: text, amount: number", ""), files: map[string]string{"a.csv": "branch,Jan,Feb\n" + text}}.folder(t)
		f.write(t, "umbau.yaml", f.plan)
		sh := shared{dir: f.dir}
		s := sh.build(t, fact.Options{Workers: 2})
		require.Zero(t, s.ExitCode(), "%v", s.Problems)
		said := ""
		for _, w := range s.Warnings {
			said, _, _ = strings.Cut(w.Message, " has the sums of the rows below")
		}
		require.Equal(t, want, said, text)
		require.Equal(t, sh.outputs(t, s), sh.inShares(t, rand.New(rand.NewPCG(1, 2)), 3), text)
	}
	f := silent{plan: wholePlan("  - { files: \"*.csv\", no_totals: [Skerries], unpivot: { header: \"{mon}\", cell: amount } }",
		"branch: text, mon: text, amount: number", ""), files: map[string]string{"a.csv": "branch,Jan,Feb\n" + skerries}}
	s, _ := f.folder(t).build(t, 1, 0)
	require.Empty(t, s.Warnings, "the plan says that it is none")
}

// Extracts that are the same once more, though their bytes differ, are named, whatever a grain has besides.
func TestTwins(t *testing.T) {
	const one, again = "branch,amount\nHolm,1234.57\nLowe,17\n", "branch;amount\nLowe;17\nHolm;1234.57\n"
	for name, test := range map[string]struct{ keys, rows, other, want string }{
		"other bytes":         {"", "", again, "b.csv"},
		"other amounts":       {"", "", strings.Replace(again, "17", "17.01", 1), ""},
		"other rows":          {"", "", "branch,amount\nHolm,1251.57\n", ""},
		"copies are kept":     {", same_files: keep", "", again, ""},
		"a grain finds them":  {"", "rows: { grain: [branch], repeats: first }\n", again, ""},
		"a grain, and to add": {"", "rows: { grain: [branch], repeats: keep }\n", again, "b.csv"},
		"a grain does not":    {"", "rows: { grain: [source, branch] }\n", again, "b.csv"},
		"left out":            {", except: b.csv", "", again, ""},
	} {
		t.Run(name, func(t *testing.T) {
			plan := wholePlan("  - { files: \"*.csv\", path: \"{source}\""+test.keys+" }", "source: text, branch: text, amount: number", test.rows)
			s, _ := silent{plan: plan, files: map[string]string{"a.csv": one, "b.csv": test.other}}.folder(t).build(t, 2, 0)
			require.Equal(t, 0, s.ExitCode(), "%v", s.Problems)
			var files []string
			for _, w := range s.Warnings {
				files = append(files, w.Places[0].File)
			}
			require.Equal(t, test.want, strings.Join(files, ", "))
		})
	}
}

// Wide columns that are the sums of some beside them in every row are named, unless the plan says what they are.
func TestSumsBeside(t *testing.T) {
	const ropes = "branch,Rope 10,Rope 12,Ropes,Oar S,Oar L,Oars\nHolm,100.50,200.25,300.75,10.00,20.50,30.50\n" +
		"Lowe,70.10,90.00,160.10,5.25,7.75,13.00\nMere,11.10,22.00,33.10,1.25,2.75,4.00\n"
	for name, test := range map[string]struct{ keys, text, want string }{
		"families":                   {"", ropes, "Ropes, Oars"},
		"of other numbers":           {`, numbers: "1.234,5"`, strings.NewReplacer(",", ";", ".", ",").Replace(ropes), "Ropes, Oars"},
		"above a total":              {"", ropes + "Total,181.70,312.25,493.95,16.50,31.00,47.50\n", "Ropes, Oars"},
		"one row differs":            {"", strings.Replace(ropes, "160.10", "160.20", 1), ""},
		"left aside":                 {", others: [Ropes, Oars]", ropes, ""},
		"few digits, one left aside": {", others: [Ropes]", strings.Replace(ropes, "33.10", "33.11", 1), ""},
		"said to be none":            {", no_totals: [Ropes, Oars]", ropes, ""},
		"totals are kept":            {", totals: keep", ropes, ""},
		"too few rows":               {"", strings.Join(strings.SplitAfter(ropes, "\n")[:2], ""), ""},
		"one row, and it says so":    {"", "branch,Rope 10,Rope 12,Total ropes,Oar\nHolm,100.50,200.25,300.75,7\n", "Total ropes"},
		"blanks":                     {", totals: drop", "branch,a,b,ab,c\nHolm,,,,1\nLowe,1.5,,1.5,2\nMere,1000.25,2000.5,3000.75,\n", ""},
		"three rows of blanks": {", totals: drop", "branch,a,b,ab,c\nHolm,,,,1\nLowe,11.5,10,21.5,2\nMere,1000.25,2000.5,3000.75,\n" +
			"Pier,100.25,200.5,300.75,3\n", "ab"},
	} {
		t.Run(name, func(t *testing.T) {
			plan := fmt.Sprintf(wide, test.keys, ", blanks: 0")
			s, _ := silent{plan: plan, files: csvOf(test.text)}.folder(t).build(t, 2, 0)
			require.Equal(t, 0, s.ExitCode(), "%v", s.Problems)
			var headers []string
			for _, w := range s.Warnings {
				for _, p := range w.Places {
					headers = append(headers, p.Header)
				}
			}
			require.Equal(t, test.want, strings.Join(headers, ", "))
		})
	}
}

// So are those of one of several measures, which stand beside each other below it though the others come first.
func TestSumsBesideOfOneMeasure(t *testing.T) {
	plan := strings.Replace(fmt.Sprintf(wide, ", header: 2 rows", ", blanks: 0"), `header: "{product}", cell: amount`,
		`header: "{measure} | {product}", cell: "{measure}"`, 1)
	plan = strings.Replace(plan, "amount:", "quantity: { is: whole, blanks: 0 }, amount:", 1)
	const text = ",quantity,,,amount,,,\nbranch,Rope,Cord,Oar,Rope,Cord,Ropes,Oar\nHolm,1,2,3,100.50,200.25,300.75,10\n" +
		"Lowe,4,5,6,70.10,90.00,160.10,5.25\nMere,7,8,9,11.10,22.00,33.10,1.25\n"
	for _, workers := range []int{1, 3} {
		s, _ := silent{plan: plan, files: csvOf(text)}.folder(t).build(t, workers, 0)
		require.Equal(t, 0, s.ExitCode(), "%v", s.Problems)
		require.Len(t, s.Warnings, 1)
		require.Equal(t, "amount | Ropes", s.Warnings[0].Places[0].Header, "%v", s.Warnings)
	}
}

// Delivered rows that are called averages, plans and the like are named; those that are filtered, in a book, or sales as the
// plan says, are not. A build in pieces says the same.
func TestNoSales(t *testing.T) {
	const wideOne = "branch,Jan,Budget\nHolm,10.5,30\nAverage,8.5,19\nLowe,1,2\n"
	for name, test := range map[string]struct{ plan, want string }{
		"in rows and across":   {fmt.Sprintf(wide, "", ""), "Average 3 2, Budget 2 3"},
		"the column left out":  {fmt.Sprintf(wide, ", others: [Budget]", ""), "Average 3 1"},
		"said to be sales":     {fmt.Sprintf(wide, ", no_totals: [Average, budget]", ""), ""},
		"filtered":             {fmt.Sprintf(wide, "", "") + "rows: { only: \"=branch <> 'Average' and product <> 'Budget'\" }\n", ""},
		"names without a book": {strings.Replace(fmt.Sprintf(wide, "", ""), "branch: text", "branch: name", 1), "Average 3 2, Budget 2 3"},
		"names of a book": {strings.NewReplacer("branch: text", "branch: { is: name, book: book.csv }", "product: text",
			"product: { is: name, book: book.csv }").Replace(fmt.Sprintf(wide, "", "")), ""},
	} {
		t.Run(name, func(t *testing.T) {
			files := csvOf(wideOne)
			files["book.csv"] = "seen,standard\nHolm,Holm\nAverage,Average\nLowe,Lowe\nJan,Jan\nBudget,Budget\n"
			for _, cut := range []int{0, 1} {
				s, _ := silent{plan: test.plan, files: files}.folder(t).build(t, 2, cut)
				require.Equal(t, 0, s.ExitCode(), "%v", s.Problems)
				var have []string
				for _, w := range s.Warnings {
					if label, ok := strings.CutPrefix(w.Message, "fact rows of "); ok {
						label, _, _ = strings.Cut(label, " are added")
						have = append(have, fmt.Sprint(label, " ", w.Places[0].Row, " ", w.Count))
					}
				}
				require.Equal(t, test.want, strings.Join(have, ", "))
			}
		})
	}
}

// Extracts whose path says that they may be no sales are named, too, but not where the plan itself says what they are.
func TestNoSalesOfWholeExtracts(t *testing.T) {
	files := map[string]string{"Lakes.csv": "branch,amount\nHolm,10.5\n", "Budget.csv": "branch,amount\nHolm,11\nLowe,7\n",
		"Forecast 2024.csv": "branch,amount\nHolm,12\n"}
	for keys, want := range map[string]string{
		`path: "{region}"`: "Budget.csv 2 except: [Budget.csv], " +
			"Forecast 2024.csv 1 except: [Forecast 2024.csv]",
		`path: "{region}", no_totals: [budget]`:              "Forecast 2024.csv 1 except: [Forecast 2024.csv]",
		`path: "{region}", except: [Budget.csv, Forecast *]`: "",
		"set: { region: Budget }":                            "",
	} {
		plan := "umbau: 1\nextracts: [{ files: \"*.csv\", " + keys + " }]\n" +
			"fact: { region: text, branch: text, amount: number }\ndeliver: [{ to: out/s.csv }]\n"
		for _, workers := range []int{1, 3} {
			s, _ := silent{plan: plan, files: files}.folder(t).build(t, workers, 1)
			require.Equal(t, 0, s.ExitCode(), "%v", s.Problems)
			var have []string
			for _, w := range s.Warnings {
				require.Zero(t, w.Places[0].Row)
				advice, _, _ := strings.Cut(w.Advice, " in the entry")
				have = append(have, fmt.Sprint(w.Places[0].File, " ", w.Count, " ", advice))
			}
			require.Equal(t, want, strings.Join(have, ", "), keys)
		}
	}
}

// Of two extracts whose names say that one is a version of the other both are added up, which is told, unless the plan says that none is.
func TestVersions(t *testing.T) {
	for second, keys := range map[string]string{"Lakes (2)": "", "Lakes - Copy": "", "Copy of Lakes": "", "Lakes old": "", "LAKES_v2": "",
		"Lakes 2": "no", "Lakes East": "no", "Skerries (2)": "no", "lakes (3)": "no, no_totals: [Lakes (3)]",
		"Lakes (4)": "no, except: [Lakes *]"} {
		more, none := strings.CutPrefix(keys, "no")
		files := map[string]string{"Lakes.csv": "branch,amount\nHolm,10.5\n", second + ".csv": "branch,amount\nHolm,10.75\n"}
		plan := "umbau: 1\nextracts: [{ files: \"*.csv\", path: \"{region}\"" + more + " }]\n" +
			"fact: { region: text, branch: text, amount: number }\ndeliver: [{ to: out/s.csv }]\n"
		s, _ := silent{plan: plan, files: files}.folder(t).build(t, 2, 1)
		require.Zero(t, s.ExitCode(), "%v", s.Problems)
		if none {
			require.Empty(t, s.Warnings, second)
			continue
		}
		require.Len(t, s.Warnings, 1, second)
		require.Equal(t, second+".csv", s.Warnings[0].Places[0].File)
		require.Contains(t, s.Warnings[0].Message, second+" are added up: is one a copy of the other")
	}
}

// So is one whose name says that its figures are no sales beside another of that name; what came back may be, below zero.
func TestOtherFiguresOfAName(t *testing.T) {
	for second, want := range map[string]string{"Lakes cost": "10", "Lakes LY": "10", "Plan Lakes": "10", "Lakes returns": "10",
		"lakes_stock":    "10",
		"Lakes Retouren": "-10", "Lakes East": "10", "Skerries cost": "10", "cost": "10"} {
		files := map[string]string{"Lakes.csv": "branch,amount\nHolm,10.5\n", second + ".csv": "branch,amount\nHolm," + want + "\n"}
		plan := "umbau: 1\nextracts: [{ files: \"*.csv\", path: \"{region}\" }]\n" +
			"fact: { region: text, branch: text, amount: number }\ndeliver: [{ to: out/s.csv }]\n"
		s, _ := silent{plan: plan, files: files}.folder(t).build(t, 2, 1)
		require.Zero(t, s.ExitCode(), "%v", s.Problems)
		if want == "-10" || second == "Lakes East" || second == "Skerries cost" || second == "cost" {
			require.Empty(t, s.Warnings, second)
			continue
		}
		require.Len(t, s.Warnings, 1, second)
		require.Equal(t, second+".csv", s.Warnings[0].Places[0].File)
		require.Contains(t, s.Warnings[0].Message, "fact rows of "+second+" are added up like all others")
	}
}

// Wide headers that say which figures stand below them are named among products, and not where most of them are such.
func TestFiguresAmongProducts(t *testing.T) {
	for header, want := range map[string]string{
		"Rope,Oar,Buoy,YTD":           "YTD in YTD",
		"Rope,Oar,Buoy,Oar to date":   "Oar to date in Oar to date",
		"Rope,Quantity,Oar,2023,Flag": "Quantity in Quantity, 2023 in 2023",
		"Sales,Cost,Rope":             "",
		"2023,2024":                   "",
		"Rope,Oar,Sales bag":          "",
	} {
		text, n := "branch,"+header+"\n", strings.Count(header, ",")+1
		for i := range 4 {
			text += fmt.Sprintf("Quay %d", i)
			for j := range n {
				text += fmt.Sprint(",", 7*i+j*j+3)
			}
			text += "\n"
		}
		for _, workers := range []int{1, 3} {
			s, _ := silent{plan: fmt.Sprintf(wide, "", ""), files: csvOf(text)}.folder(t).build(t, workers, 1)
			require.Equal(t, 0, s.ExitCode(), "%v", s.Problems)
			var have []string
			for _, w := range s.Warnings {
				if label, ok := strings.CutPrefix(w.Message, "fact rows of "); ok {
					label, _, _ = strings.Cut(label, " are added")
					have = append(have, label+" in "+w.Places[0].Header)
					require.Equal(t, 4, w.Count)
				}
			}
			require.Equal(t, want, strings.Join(have, ", "), header)
		}
	}
}

// Such a label is named however many others stand before it, and the first ten of many, by any number of workers.
func TestNoSalesAmongMany(t *testing.T) {
	plan := strings.Replace(p(""), "amount: number", "product: text, amount: number", 1)
	var text strings.Builder
	text.WriteString("branch,product,amount\n")
	for i := range 9000 {
		fmt.Fprintf(&text, "Quay %d,Rope %d,%d\n", i, i%7, 1000+7*i%977)
	}
	text.WriteString("Budget,Rope 1,12\n")
	for i := range 12 {
		fmt.Fprintf(&text, "share of Quay %d,Budget,3\n", i)
	}
	want := []string{"Budget 9002 1"}
	for i := range 9 {
		want = append(want, fmt.Sprintf("share of Quay %d %d 1", i, 9003+i))
	}
	want = append(want, "more such labels are added up, from share of Quay 9 on 9012 1", "Budget 9003 12")
	for _, workers := range []int{1, 2, 5} {
		for _, cut := range []int{0, 1 << 12} {
			s, _ := silent{plan: plan, files: csvOf(text.String())}.folder(t).build(t, workers, cut)
			require.Zero(t, s.ExitCode(), "%v", s.Problems)
			var have []string
			for _, w := range s.Warnings {
				label, _, _ := strings.Cut(strings.TrimPrefix(w.Message, "fact rows of "), " are added up like")
				label, _, _ = strings.Cut(label, ": are they")
				have = append(have, fmt.Sprint(label, " ", w.Places[0].Row, " ", w.Count))
			}
			require.Equal(t, want, have, "%d workers, blocks of %d", workers, cut)
		}
	}
}

// Cells with a percent sign that are added up are named; those of columns that are not, are none.
func TestPercents(t *testing.T) {
	const text = "branch,Jan,Feb\nHolm,10.5,20\nLowe,6.5,7\nShare,40 %,35%\nRest,60 %,\n"
	for keys, want := range map[string]string{
		"":                    "a.csv 4 Jan 3",
		", no_totals: [Rest]": "a.csv 4 Jan 3",
		", others: [Jan]":     "a.csv 4 Feb 1",
		", area: A1:C3":       "",
	} {
		for _, cut := range []int{0, 1} {
			s, _ := silent{plan: fmt.Sprintf(wide, keys, ", decimals: 2, blanks: 0"), files: csvOf(text)}.folder(t).build(t, 2, cut)
			require.Equal(t, 0, s.ExitCode(), "%v", s.Problems)
			have := ""
			for _, w := range s.Warnings {
				if w.What == "percents" {
					have += fmt.Sprint(w.Places[0].File, " ", w.Places[0].Row, " ", w.Places[0].Header, " ", w.Count)
				}
			}
			require.Equal(t, want, have, keys)
		}
	}
	s, _ := silent{plan: fmt.Sprintf(wide, "", ", add: no, blanks: 0"), files: csvOf(text)}.folder(t).build(t, 2, 0)
	require.Empty(t, s.Warnings)
}

// What is proposed for a total that nobody calls one is the label that it alone has, not one of the rows that it totals.
func TestProposedTotals(t *testing.T) {
	const plan = "region: text, branch: text, amount: number"
	const above = "Lakes,Both,2234.75\nLakes,Holm,1234.50\nLakes,Lowe,1000.25\nSound,Both,7.5\nSound,Pier,3\nSound,Slip,4.5\n"
	for text, want := range map[string]string{
		"Lakes,Holm,1234.50\nLakes,Lowe,1000.25\nLakes,All branches,2234.75\n":   "total_words: [All branches]",
		"Lakes,Holm Quay,1234.50\nLakes,Holm Pier,1000.25\nLakes,Holm,2234.75\n": "total_words: [Holm]",
		"Lakes,Holm,1234.50\nLakes,Holm,1000.25\nLakes,Holm,2234.75\n":           "",
		above: "total_words: [Both]",
	} {
		c := silent{plan: wholePlan("  - { files: a.csv }", plan, ""), files: csvOf("region,branch,amount\n" + text)}
		s, _ := c.folder(t).build(t, 1, 0)
		require.Equal(t, "total or none", s.Problems[0].What, text)
		require.Equal(t, want, s.Problems[0].Add, text)
		require.Equal(t, want == "", strings.Contains(s.Problems[0].Advice, "rows: { only: … }, by what it lacks") &&
			!strings.Contains(s.Problems[0].Advice, "totals: drop"), s.Problems[0].Advice)
	}
}

// A rule that asks no column stops every build, whatever the extracts say, and the advice is to take it out.
func TestRulesOfNoColumn(t *testing.T) {
	for rule, advice := range map[string]string{"='a' = 'b'": "take it out of must", "=amount < 0": "mend the extracts"} {
		plan := wholePlan("  - { files: a.csv }", "branch: text, amount: number", "rows: { must: [\""+rule+"\"] }\n")
		s, _ := silent{plan: plan, files: csvOf("branch,amount\nHolm,1\n")}.folder(t).build(t, 1, 0)
		require.Equal(t, 3, s.ExitCode())
		require.Contains(t, s.Problems[0].Advice, advice)
	}
}

// A figure that rows name and others leaves aside is told of where it is nearly one of a column, by any number of workers.
func TestFiguresLeftAside(t *testing.T) {
	for cell, rows := range map[string]string{"cell: Value": "branch,Figure,Value\nHolm,amount,1\nHolm,Cost,5\nLowe,Amuont,2\nPier,Amuont,3\n",
		"": "branch,Figure,Oar\nHolm,amount,1\nHolm,Cost,5\nLowe,Amuont,2\nPier,Amuont,3\n"} {
		keys := ", widen: { header: Figure, " + cell + " }"
		if cell == "" {
			keys = ", widen: { header: Figure }, unpivot: { header: \"{product}\" }, absent: leave"
		}
		for aside, told := range map[string]int{", others: drop": 2, ", others: [Cost, Amuont]": 0} {
			c := silent{plan: wholePlan("  - { files: a.csv"+keys+aside+" }", "branch: text, amount: { is: number, blanks: 0 }", ""),
				files: csvOf(rows)}
			if cell == "" {
				c.plan = strings.Replace(c.plan, "branch: text", "branch: text, product: text", 1)
			}
			for workers := 1; workers < 3; workers++ {
				s, _ := c.folder(t).build(t, workers, 0)
				require.Zero(t, s.ExitCode(), "%v", s.Problems)
				n := 0
				for _, w := range s.Warnings {
					require.Contains(t, w.Message, "left aside, and nearly one of a column: Amuont")
					n += w.Count
				}
				require.Equal(t, told, n, keys)
			}
		}
	}
}

// summedTwice is where a build tells of rows that are added to others of their own extract, and of how many.
func summedTwice(s *fact.Summary) (told string) {
	for _, w := range s.Warnings {
		if w.What == "summed twice" {
			told += fmt.Sprint(w.Places[0].File, " ", w.Places[0].Row, " ", w.Count)
		}
	}
	return told
}

// Rows that are added to others of their own extract are told where most are added to those of others, and have a measure in common.
func TestSummedTwice(t *testing.T) {
	const plan = "umbau: 1\nextracts: [{ files: \"*.csv\", absent: { quantity: leave, amount: leave } }]\n" +
		"fact: { branch: text, quantity: whole, amount: number }\nrows: { grain: [branch], repeats: sum }\ndeliver: [{ to: out/s.csv }]\n"
	quantities := "branch,quantity\nHolm,1\nPier,2\nQuay,3\nMill,4\n"
	amounts := "branch,amount\nHolm,10.5\nPier,20.5\nQuay,30.5\nMill,40.5\n"
	for again, want := range map[string]string{
		"":                            "",
		"Pier,20.5\n":                 "b.csv 6 1",
		"Pier,20.5\nPier,1\n":         "b.csv 6 2",
		"Pier,1\nQuay,2\nMill,3\n":    "b.csv 6 3",
		strings.Repeat("Holm,1\n", 9): "", // of which most are
	} {
		for _, workers := range []int{1, 2, 5} {
			for _, cut := range []int{0, 1} {
				files := map[string]string{"a.csv": quantities, "b.csv": amounts + again}
				s, _ := silent{plan: plan, files: files}.folder(t).build(t, workers, cut)
				require.Zero(t, s.ExitCode(), "%v", s.Problems)
				require.Equal(t, want, summedTwice(s), "%q, %d workers", again, workers)
			}
		}
	}
}

// So are they where measures stand in rows of their own, and 0 in the place of what a row has not.
func TestSummedTwiceAmongMeasures(t *testing.T) {
	const plan = "umbau: 1\nextracts: [{ files: \"*.csv\", widen: { header: Figure, cell: Value }, others: [Rank] }]\n" +
		"fact: { branch: text, quantity: { is: whole, blanks: 0 }, amount: { is: number, blanks: 0 } }\n" +
		"rows: { grain: [branch], repeats: sum }\ndeliver: [{ to: out/s.csv }]\n"
	rows := "branch,Figure,Value,Rank\n"
	for i, b := range []string{"Holm", "Pier", "Quay", "Mill"} {
		rows += fmt.Sprintf("%s,quantity,%d,%d\n%s,amount,%d.5,%d\n", b, i+1, i, b, i+10, 9-i)
	}
	for again, want := range map[string]string{"": "", "Pier,amount,11.5,5\n": "a.csv 10 1", "Lowe,amount,1.5,4\nLowe,quantity,1,5\n": ""} {
		for _, workers := range []int{1, 2, 5} {
			s, _ := silent{plan: plan, files: map[string]string{"a.csv": rows + again}}.folder(t).build(t, workers, 1)
			require.Zero(t, s.ExitCode(), "%v", s.Problems)
			require.Equal(t, want, summedTwice(s), "%q, %d workers", again, workers)
		}
	}
}

// Rows with figures and none of several labels are told, as of a total that leaves a measure blank; not where a label stands, where one
// label is all there is, or where the one above is taken.
func TestRowsWithoutLabels(t *testing.T) {
	const plan = "umbau: 1\nextracts: [{ files: \"*.csv\", others: drop }]\n" +
		"fact: { branch: { blanks: %s }, product: { blanks: Unassigned }, quantity: { is: whole, blanks: 0 }, " +
		"amount: { is: number, blanks: 0 } }\ndeliver: [{ to: out/s.csv }]\n"
	rows := "Holm,Oar,1,10.5,\nPier,Net,2,20.25,\nPier,Oar,3,30.5,\n"
	for _, c := range []struct{ rows, blanks, want string }{
		{rows + ",,,61.25,\n", "None", "a.csv 5 1"},
		{",,6,,\n" + rows + " ,,,61.25,\n", "leave", "a.csv 2 2"},
		{rows + ",,,61.25,\n", "above", ""},
		{rows + ",,,61.25,\n", "drop", ""},
		{rows + ",Oar,,61.25,\n", "None", ""},
		{rows + ",,,61.25,all\n", "None", ""},
		{rows + ",,,,all\n", "None", ""},
	} {
		for _, workers := range []int{1, 2, 5} {
			for _, cut := range []int{0, 1} {
				files := map[string]string{"a.csv": "branch,product,quantity,amount,Remark\n" + c.rows}
				s, _ := silent{plan: fmt.Sprintf(plan, c.blanks), files: files}.folder(t).build(t, workers, cut)
				require.Zero(t, s.ExitCode(), "%v", s.Problems)
				have := ""
				for _, w := range s.Warnings {
					if w.What == "rows without labels" {
						have += fmt.Sprint(w.Places[0].File, " ", w.Places[0].Row, " ", w.Count)
					}
				}
				require.Equal(t, c.want, have, "%+v, %d workers", c, workers)
			}
		}
	}
}
