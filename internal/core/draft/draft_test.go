package draft

import (
	"context"
	"errors"
	"fmt"
	"os"
	"path/filepath"
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/require"

	"umbau/internal/core/place"
	"umbau/internal/format"
)

// drafted drafts from files, which are written first.
func drafted(t *testing.T, columns string, files map[string]string) (*Result, error) {
	t.Helper()
	dir := t.TempDir()
	for name, text := range files {
		file := filepath.Join(dir, name)
		require.NoError(t, os.MkdirAll(filepath.Dir(file), 0o777))
		require.NoError(t, os.WriteFile(file, []byte(text), 0o666))
	}
	o := Options{Paths: []string{dir}, Dir: dir, Formats: format.All(), Workers: 2}
	if columns != "" {
		o.Columns = strings.Split(columns, ",")
	}
	return Draft(context.Background(), o)
}

// A plan is what a colleague would have written: nothing that the default says, and evidence.
func TestWholePlan(t *testing.T) {
	r, err := drafted(t, "region,year,month,product,amount", map[string]string{
		"raw/Lakes_2023.csv": "Month;Buoy;Oar;Note\nJan 2023;1.500,00;2,50;\nFeb 2023;n/a;3,25;late\n",
		"raw/Lakes_2024.csv": "Month;Buoy;Oar;Note\nJan 2024;2.500,00;#REF!;\nFeb 2024;;4,25;\n",
	})
	require.NoError(t, err)
	require.Equal(t, `umbau: 1
title: "Amount by region, month and product"

extracts:
  - files: "raw/*_20*.csv"                          # 2 files
    path: "{region}_{year}"                         # such as 2023
    numbers: "1.234,56"                             # 1.234,56 reads 5 cells, 1,234.56 only 0
    unpivot: { header: "{product}", cell: amount }  # 2 headers such as Buoy
    others: [Note]

fact:
  region:  text
  year:    year
  month:   month
  product: text
  amount:  { is: number, decimals: 2, blanks: 0, nulls: 0, errors: hold }  # 1 blank, 1 null, 1 error held

rows: { grain: [region, month, product] }

deliver:
  - to: out/sales.csv
record: out/record
`, r.Text)
}

// What evidence does not settle stops the build, is marked in the plan and said first.
func TestTossUpsStop(t *testing.T) {
	for _, test := range []struct {
		name, columns string
		files         map[string]string
		open, plan    string
	}{
		{"numbers in two ways", "region,month,amount",
			map[string]string{"a.csv": "Region,Month,Amount\nLakes,2024-01,\"1,500\"\nLakes,2024-02,\"2,250\"\n"},
			"a.csv: its numbers read in two ways", `numbers: "1 234"`},
		{"days and months", "region,date,amount",
			map[string]string{"a.csv": "Region,Date,Amount\nLakes,03/04/2024,1.50\nLakes,05/06/2024,2.50\n"},
			"dates can be read in several ways", "# ? date"},
		{"measures that no word says", "product,quantity,amount", map[string]string{
			"a/x.csv": "Product,Quantity,Amount\nOar,1,2.50\nBuoy,3,4.50\n", "b/y.csv": "Product,Foo,Bar,Amount\nOar,7,8,2.50\nBuoy,9,3,4.75\n"},
			"b/*.csv: quantity may be Foo or Bar", "# ? b/*.csv: quantity"},
		{"a measure across that no word says", "branch,product,quantity,amount", map[string]string{
			"a/x.csv": "Branch,Product,Quantity,Amount\nPier,Oar,1,2.50\nPier,Buoy,3,4.50\n",
			"b/y.csv": "Branch,Oar,,Buoy,\n,Foo,Amount,Foo,Amount\nDock,1,2.50,3,4.50\nQuay,1,2.50,3,4.75\n"},
			"b/*.csv: quantity may be foo", "# ? b/*.csv: quantity"},
		{"measures in rows, months and a size across", "region,product,month,amount", map[string]string{
			"Lakes.csv": "Product,Figure,Size,2024-01,2024-02\nOar,Units,7,3,4\nOar,Amount,7,30.50,40.25\nNet,Units,8,5,6\n" +
				"Net,Amount,8,50.50,60.25\n"},
			"Figure says what the figures of a row are (Units, Amount)", "# ? *.csv: Figure"},
		{"what was planned in rows of its own", "region,month,amount", map[string]string{
			"a.csv": "Region,Month,Scenario,Amount,Note\nLakes,2024-01,Actual,30.50,x\nLakes,2024-01,Budget,33.50,y\n"},
			"Scenario says what the figures of a row are (Actual, Budget)", "others: [Note]"},
		{"currencies in a column", "region,month,amount", map[string]string{
			"a.csv": "Region,Month,Currency,Amount\nLakes,2024-01,EUR,30.50\nLakes,2024-01,GBP,33.50\n"},
			"Currency says what the figures of a row are (EUR, GBP)", "# ? *.csv: Currency"},
		{"what came back beside what was sold", "region,month,quantity,amount", map[string]string{
			"a.csv": "Region,Month,Qty sold,Qty returned,Sales,Refunds\nLakes,2024-01,2,1,30.50,15.25\nLakes,2024-02,3,0,5.00,0\n"},
			"quantity may be Qty sold or Qty returned", "# quantity: no source was found"},
		{"one table below another", "region,month,amount", map[string]string{
			"a.csv": "Halyard & Moss,\nLakes,\nMonth,Amount\n2024-01,30.50\n2024-02,31.50\n,\nWick,\nMonth,Amount\n2024-01,1.50\n2024-02,2.50\n"},
			`are they of "Lakes"`, "# ? region"},
		{"a month that is misspelt", "region,month,amount", map[string]string{
			"a.csv": "Region,Jan 2024,Febuary 2024,Mar 2024\nLakes,30.50,1.25,99.00\nWick,50.50,2.25,88.00\n"}, "", "# amount: no source was found"},
		{"two sides of an account", "region,month,amount", map[string]string{
			"a.csv": "Region,Month,D/C,Amount\nLakes,2024-01,C,30.50\nLakes,2024-02,D,50.50\n"},
			"D/C says what the figures of a row are (C, D)", "# ? *.csv: D/C"},
		{"credit notes among invoices", "region,month,amount", map[string]string{
			"a.csv": "Region,Month,Type,Amount\nLakes,2024-01,Invoice,30.50\nLakes,2024-02,Credit note,50.50\n"},
			"Type says what the figures of a row are (Invoice, Credit note)", "# ? *.csv: Type"},
		{"layouts that contradict each other", "region,month,amount", map[string]string{
			"a.csv": "Region,Month,Amount\nLakes,2024-01,1.50\n", "b.csv": "Item,Month,Amount,Clerk\nBuoy,2024-01,1.50,Ann\n"},
			"b.csv: nothing there says region", "# ? b.csv"},
	} {
		t.Run(test.name, func(t *testing.T) {
			r, err := drafted(t, test.columns, test.files)
			require.NoError(t, err)
			require.True(t, r.Exit > 0 || len(r.Missing) > 0, r.Text)
			require.Contains(t, strings.Join(r.Open, "\n"), test.open)
			require.Contains(t, r.Text, test.plan)
		})
	}
}

// What other tables of the layout show settles how numbers are written.
func TestNumbersSettledByOthers(t *testing.T) {
	files := map[string]string{
		"Lakes_2023.csv": "Month;Holm;Lowe;Saltby\nJan 2023;1.500;2.250;3.125\n",
		"Lakes_2024.csv": "Month;Holm;Lowe;Saltby\nJan 2024;1.500,50;2,25;3,75\n",
	}
	r, err := drafted(t, "region,month,branch,amount", files)
	require.NoError(t, err)
	require.Zero(t, r.Exit, r.Text)
	require.Contains(t, r.Text, `numbers: "1.234,56"`)
	files["Skerries_2024.csv"] = "Month;Holm;Lowe;Saltby\nJan 2024;1,500.50;2.25;3.75\n"
	r, err = drafted(t, "region,month,branch,amount", files)
	require.NoError(t, err)
	require.NotZero(t, r.Exit, "two offices write in two ways: nothing says how the third does")
}

// What is no extract is named with the reason.
func TestWhatIsWhat(t *testing.T) {
	r, err := drafted(t, "region,branch,month,product,amount,manager", map[string]string{
		"raw/lakes.csv": "Region,Branch,Month,Product,Amount\nLakes,Holm,2024-01,Buoy,1.50\n" +
			"Lakes,Lowe,2024-01,buoy,2.25\nLakes,Lowe,2024-02,Oar,4.00\n",
		"raw/sound.csv":   "Region,Branch,Month,Product,Amount\nSound,Marram,2024-01,Bouy,1.50\nSound,Marram,2024-02,Oar,2.00\n",
		"names/p.csv":     "seen,standard\nbuoy,Buoy\nBouy,Buoy\noar,Oar\n",
		"control/all.csv": "Coast,Booked\nLakes,7.75\nSound,3.50\n",
		"managers.csv":    "Branch,Manager\nHolm,Ines\nLowe,Tom\nMarram,Maud\n",
		"readme.txt":      "Sent by the office.\n",
	})
	require.NoError(t, err)
	as := map[string]string{}
	for _, f := range r.Files {
		as[filepath.Base(f.File)] = f.As
		require.True(t, f.As == "extract" || f.Why != "", f.File)
	}
	require.Equal(t, "extract", as["lakes.csv"])
	require.Equal(t, "book", as["p.csv"])
	require.Equal(t, "control", as["all.csv"])
	require.Equal(t, "reference", as["managers.csv"])
	require.NotEqual(t, "extract", as["readme.txt"])
	require.Zero(t, r.Exit, r.Text)
	require.Contains(t, r.Text, "{ file: control/all.csv, by: { region: Coast }, measures: { amount: Booked } }")
	require.Contains(t, r.Text, "missing: Unassigned")
	require.EqualValues(t, 5, r.Rows)
}

// A control file whose figures are not the extracts' sums is left aside, with the reason.
func TestFiguresThatAreNoControls(t *testing.T) {
	r, err := drafted(t, "region,month,amount", map[string]string{
		"raw/a.csv": "Region,Month,Amount\nLakes,2024-01,1.50\n", "raw/b.csv": "Region,Month,Amount\nSound,2024-01,2.50\n",
		"control/plan.csv": "Coast,Booked\nLakes,9.75\nSound,8.50\n",
	})
	require.NoError(t, err)
	require.Zero(t, r.Exit, r.Text)
	require.NotContains(t, r.Text, "ties:")
}

// A column that is nowhere is left out of the plan, and said.
func TestMissingColumn(t *testing.T) {
	r, err := drafted(t, "region,month,amount,discount", map[string]string{"a.csv": "Region,Month,Amount\nLakes,2024-01,1.50\n"})
	require.NoError(t, err)
	require.Equal(t, []string{"discount"}, r.Missing)
	require.Contains(t, r.Text, "# discount: no source was found for it")
}

// Where there is nothing to draft from, that is one clear error.
func TestNothingToDraftFrom(t *testing.T) {
	for name, files := range map[string]map[string]string{
		"nothing":    {},
		"no figures": {"a.csv": "Region,Manager\nLakes,Ines\nSound,Tom\n"},
		"unreadable": {"a.xlsx": "this is no workbook"},
	} {
		t.Run(name, func(t *testing.T) {
			_, err := drafted(t, "", files)
			var list place.List
			require.True(t, errors.As(err, &list))
			require.NotEmpty(t, list)
		})
	}
}

// Rows twice are left out where they are the same in everything, and kept where not.
func TestRepeats(t *testing.T) {
	same := "Region,Month,Amount\nLakes,2024-01,1.50\nLakes,2024-01,1.50\n"
	r, err := drafted(t, "region,month,amount", map[string]string{"a.csv": same})
	require.NoError(t, err)
	require.Contains(t, r.Text, "repeats: first }  # 1 row of the same grain")
	r, err = drafted(t, "region,month,amount", map[string]string{"a.csv": same + "Lakes,2024-01,2.50\n"})
	require.NoError(t, err)
	require.Contains(t, r.Text, "repeats: keep }")
	require.EqualValues(t, 3, r.Rows)
}

// Months without a year are put together with the year that the file's name has.
func TestMonthsWithoutAYear(t *testing.T) {
	for name, files := range map[string]map[string]string{
		"across": {"Lakes_2023.csv": "Branch,Jan,Feb,March\nHolm,1.50,2.50,3.50\n",
			"Lakes_2024.csv": "Branch,Jan,Feb,March\nHolm,4.50,5.50,6.50\n"},
		"below": {"Lakes_2023.csv": "Branch;Month;Amount\nHolm;Januar;1.50\nHolm;März;2.50\n",
			"Lakes_2024.csv": "Branch;Month;Amount\nHolm;Mai;4.50\n"},
	} {
		for _, columns := range []string{"region,branch,month,amount", "region,year,branch,month,amount", ""} {
			t.Run(name+" "+columns, func(t *testing.T) {
				r, err := drafted(t, columns, files)
				require.NoError(t, err)
				require.Zero(t, r.Exit, r.Text)
				require.Empty(t, r.Missing)
				require.Contains(t, r.Text, `{ is: month, write: "{mon} {year}" }`)
				require.Contains(t, r.Text, "keep: no")
				require.NotContains(t, r.Text, "others")
			})
		}
	}
	r, err := drafted(t, "region,branch,month,amount", map[string]string{"Lakes.csv": "Branch,Jan,Feb,March\nHolm,1.50,2.50,3.50\n"})
	require.NoError(t, err)
	require.True(t, r.Exit != 0 || len(r.Missing) > 0, "nothing says the year: %s", r.Text)
}

// What stands in the names of files is taken apart, however its time is written.
func TestNamesOfFiles(t *testing.T) {
	text := "Branch,Product,Amount\nHolm,Buoy,1.50\nLowe,Oar,2.25\n"
	for _, test := range []struct{ columns, first, second, pattern, glob string }{
		{"region,year,branch,product,amount", "Lakes_2023.csv", "Skerries_2024.csv", "{region}_{year}", `"*.csv"`},
		{"region,month,branch,product,amount", "Lakes_2023-11.csv", "Lakes_2023-12.csv", "{region}_{month}", `"*_20*.csv"`},
		{"region,month,branch,product,amount", "Lakes Nov 2023.csv", "Skerries Dec 2023.csv", "{region} {month}", `"* 20*.csv"`},
		{"region,date,branch,product,amount", "Lakes_2023-11-30.csv", "Skerries_2023-12-01.csv", "{region}_{date}", `"*.csv"`},
		{"region,quarter,branch,product,amount", "Lakes 2023-Q1.csv", "Skerries 2023-Q2.csv", "{region} {quarter}", `"*.csv"`},
		{"region,branch,product,amount", "Lakes Nov 2023.csv", "Skerries Dec 2023.csv", "{region} * 20*", `"* 20*.csv"`},
		{"region,month,branch,product,amount", "Lakes_2023-11.csv", "Skerries_2023-11.csv", "{region}_{month}", `"*_20*.csv"`},
		{"region,month,branch,product,amount", "Lakes Nov 2023.csv", "Skerries Nov 2023.csv", "{region} {month}", `"* * 20*.csv"`},
		{"region,date,branch,product,amount", "Lakes_2023-11-30.csv", "Skerries_2023-11-30.csv", "{region}_{date}", `"*_20*.csv"`},
		{"region,month,branch,product,amount", "Lakes_2023-11-new.csv", "Skerries_2023-11-new.csv", "{region}_{month}-new", `"*_20*-new.csv"`},
		{"region,month,branch,product,amount", "2023-11 Lakes.csv", "2023-12 Lakes.csv", "{month} {region}", `"20* *.csv"`},
		{"region,month,branch,product,amount", "Nov 2023 Amber Bay.csv", "Dec 2023 Holm.csv", "{mon:letters} {year} {region}", `"*.csv"`},
		{"region,month,branch,product,amount", "Lakes.11.2023.csv", "Holm.12.2023.csv", "{region}.{month}", `"*.20*.csv"`},
		{"month,branch,product,amount", "2023/11 sales.csv", "2023/12 sales.csv", "{year}/{mon:digits} sales", `"*/*.csv"`},
		{"region,month,branch,product,amount", "Old Slip Nov 2023.csv", "New Slip Dec 2023.csv", "{region} {mon:letters} {year}", `"* 20*.csv"`},
		{"region,month,branch,product,amount", "Quay 4 2023-11.csv", "Quay 7 2023-11.csv", "{region} {year}-{mon:digits}", `"* 20*.csv"`},
		{"region,date,branch,product,amount", "Old Slip 20231103.csv", "New Slip 20231204.csv", "{region} {date:digits}", `"*.csv"`},
		{"region,month,branch,product,amount", "Old Slip Nov-23.csv", "New Slip Dec-23.csv", "{region} {mon:letters}-{yy:digits}", `"*-*.csv"`},
		{"region,date,branch,product,amount", "Old Slip 2023-11-03.csv", "New Slip 2024-02-04.csv",
			"{region} {year:digits}-{mm:digits}-{dd:digits}", `"*.csv"`},
		{"region,month,branch,product,amount", "Skerries_2023-11.csv", "Skerries East_2023-11.csv", "{region}_{month}", `"*_20*.csv"`},
	} {
		t.Run(test.first, func(t *testing.T) {
			r, err := drafted(t, test.columns, map[string]string{test.first: text, test.second: text + "Lowe,Rope,3.00\n"})
			require.NoError(t, err)
			require.Zero(t, r.Exit, r.Text)
			require.Empty(t, r.Missing, r.Text)
			require.Contains(t, r.Text, "path: \""+test.pattern+"\"")
			require.Contains(t, r.Text, "files: "+test.glob)
		})
	}
}

// A name that says from when to when its months are, which stand across, holds those of other times.
func TestNamesOfPeriods(t *testing.T) {
	r, err := drafted(t, "region,month,branch,product,amount", map[string]string{
		"Sales 2024-06-2024-08.csv": "Region,Branch,Product,Jun 2024,Jul 2024,Aug 2024\nLakes,Holm,Buoy,1.50,2.50,3.25\n"})
	require.NoError(t, err)
	require.Zero(t, r.Exit, r.Text)
	require.Contains(t, r.Text, `files: "Sales *.csv"`)
	require.Contains(t, r.Text, `unpivot: { header: "{month}", cell: amount }`)
}

// What a build wrote is never drafted from, nor looked up in.
func TestWhatABuildWrote(t *testing.T) {
	files := map[string]string{
		"raw/a.csv":             "Branch,Month,Amount\nHolm,2024-01,1.50\nLowe,2024-01,2.50\n",
		"out/sales.csv":         "branch,month,amount\nHolm,2024-01,1.50\nLowe,2024-01,2.50\n",
		"out/record/build.json": `{"umbau": "0.1.0", "record": "out/record", "deliveries": [{"to": "out/sales.csv", "files": []}]}`,
		"out/record/names.csv":  "seen,manager\nHolm,Ines\nLowe,Tom\n",
	}
	r, err := drafted(t, "branch,month,amount,manager", files)
	require.NoError(t, err)
	require.Equal(t, []string{"manager"}, r.Missing)
	for _, f := range r.Files {
		if f.File != "raw/a.csv" {
			require.Contains(t, f.Why, "a build", f.File)
		}
	}
	require.EqualValues(t, 2, r.Rows)
	files["out/record/build.json"] = `{"umbau": "0.1.0", "record": "out/record", "deliveries": []}` // it stopped
	r, err = drafted(t, "branch,month,amount", files)
	require.NoError(t, err)
	require.EqualValues(t, 2, r.Rows, "an earlier delivery would count twice")
}

// Where several columns of figures may be the one that is asked for, none is taken, unless one says so
// better than the others.
func TestSeveralMayBeIt(t *testing.T) {
	rows := "\nLakes,2024-01,10.00,11.90\nSound,2024-02,20.00,23.80\n"
	for header, taken := range map[string]string{
		"Net,Gross": "", "Amount EUR,Amount USD": "", "Amount previous year,Amount": "23.80", "Turnover,Turnover 2023": "20.00",
	} {
		r, err := drafted(t, "region,month,amount", map[string]string{"a.csv": "Region,Month," + header + rows})
		require.NoError(t, err)
		if taken == "" {
			require.Equal(t, []string{"amount"}, r.Missing, header)
			require.Contains(t, strings.Join(r.Open, " "), "amount may be "+strings.ReplaceAll(header, ",", " or "))
			continue
		}
		require.Empty(t, r.Missing, header)
		require.Empty(t, r.Open)
		first, second, _ := strings.Cut(header, ",")
		dropped := map[string]string{"23.80": first, "20.00": second}[taken]
		require.Contains(t, r.Text, "# "+dropped)
	}
	r, err := drafted(t, "region,month,amount", map[string]string{
		"a.csv": "Region,Month,Net,Gross" + rows, "b.csv": "Region,Month,Value,Clerk\nAmber,2024-01,10.00,Ann\n"})
	require.NoError(t, err)
	require.NotZero(t, r.Exit, "the figures of a.csv would be left out")
	r, err = drafted(t, "", map[string]string{"a.csv": "Region,Month,Net,Gross" + rows})
	require.NoError(t, err)
	require.Contains(t, r.Text, "net:")
	require.Contains(t, r.Text, "gross:")
}

// The measure may stand first or last in headers of things and measures.
func TestMeasuresBesideEachOther(t *testing.T) {
	for header, pattern := range map[string]string{
		"Buoy Amount,Buoy Qty,Oar Amount,Oar Qty": "{product} {measure}",
		"Qty Buoy,Amount Buoy,Qty Oar,Amount Oar": "{measure} {product}",
	} {
		r, err := drafted(t, "region,month,product,quantity,amount", map[string]string{
			"a.csv": "Region,Month," + header + "\nLakes,2024-01,1.50,1,2.50,2\nSound,2024-01,3.50,3,4.50,4\n"})
		require.NoError(t, err)
		require.Empty(t, r.Missing, r.Text)
		require.Contains(t, r.Text, `header: "`+pattern+`", cell: "{measure}"`)
		require.EqualValues(t, 4, r.Rows)
	}
	r, err := drafted(t, "region,month,amount", map[string]string{
		"a.csv": "Region,Order date,Invoice date,Amount\nLakes,2024-01-03,2024-02-01,1.50\nSound,2024-01-04,2024-02-05,2.50\n"})
	require.NoError(t, err)
	require.Equal(t, []string{"month"}, r.Missing)
}

// A blank is not filled from above where that repeats another row with other figures.
func TestSubtotalsWithoutAName(t *testing.T) {
	r, err := drafted(t, "region,month,amount", map[string]string{"a.csv": "Region,Month,Amount\nLakes,2024-01,10.00\nLakes,2024-02,20.00\n" +
		"Lakes,,30.00\nSound,2024-01,5.00\nSound,2024-02,6.00\nSound,,11.00\n"})
	require.NoError(t, err)
	require.Contains(t, r.Text, "blanks: hold")
	require.EqualValues(t, 4, r.Rows)
	r, err = drafted(t, "region,month,amount", map[string]string{"a.csv": "Region,Month,Amount\nLakes,2024-01,10.00\n,2024-02,20.00\n" +
		"Sound,2024-01,5.00\n,2024-02,6.00\n,2024-03,7.00\n"})
	require.NoError(t, err)
	require.Contains(t, r.Text, "blanks: above")
	require.EqualValues(t, 5, r.Rows)
}

// Headers that the plan's notation would read as something else are texts, and none is lost.
func TestOddHeaders(t *testing.T) {
	r, err := drafted(t, "", map[string]string{"a {b} [c]*.csv": "yes,\"# Region\",null,~,Month,- " +
		"Amount\nx,Lakes,Holm,p,2024-01,1.50\ny,Sound,Lowe,q,2024-02,2.50\n"})
	require.NoError(t, err)
	require.Zero(t, r.Exit, r.Text)
	require.Empty(t, r.Missing)
	require.Contains(t, r.Text, "  amount:")
	require.Contains(t, r.Text, "  null_:")
	require.NotContains(t, r.Text, "others")
	for _, name := range []string{"#x", "null", "- a"} {
		r, err := drafted(t, "month,amount,"+name, map[string]string{"a.csv": "Month,Amount," + name + "\n2024-01,1.50,7\n2024-02,2.50,8\n"})
		require.NoError(t, err, name)
		require.Zero(t, r.Exit, r.Text)
		require.Empty(t, r.Missing, r.Text)
	}
}

// Tables of one entry may call a column by several names, in any order.
func TestSynonymsWithinAnEntry(t *testing.T) {
	for _, columns := range []string{"", "region,branch,month,amount"} {
		r, err := drafted(t, columns, map[string]string{
			"Lakes_2022.csv": "Branch,Month,Amount\nHolm,2022-01,1.50\n", "Lakes_2023.csv": "Outlet,Month,Amount\nHolm,2023-01,2.50\n",
			"Lakes_2024.csv": "Branch,Month,Turnover\nHolm,2024-01,3.50\n",
		})
		require.NoError(t, err)
		require.Zero(t, r.Exit, r.Text)
		require.Empty(t, r.Open)
		require.EqualValues(t, 3, r.Rows)
	}
}

// What one office sends net and another gross is not one column.
func TestContraries(t *testing.T) {
	for _, headers := range [][2]string{{"Net", "Gross"}, {"Amount EUR", "Amount USD"}, {"Sales actual", "Sales budget"}} {
		r, err := drafted(t, "region,month,amount", map[string]string{
			"a.csv": "Region,Month," + headers[0] + "\nLakes,2024-01,10.00\n", "b.csv": "Region,Month," + headers[1] + "\nSound,2024-01,11.90\n"})
		require.NoError(t, err)
		require.True(t, r.Exit != 0 || len(r.Missing) > 0, r.Text)
		require.NotEmpty(t, r.Open)
	}
}

// Of a large file a sample is read, and what only all rows could say is not held against the plan.
func TestLargeFiles(t *testing.T) {
	var b strings.Builder
	b.WriteString("Month,Product,Amount\n")
	sum := 0
	for i := range 20_000 {
		fmt.Fprintf(&b, "2024-%02d,Thing %d,%d\n", i%12+1, i/12, i)
		sum += i
	}
	fmt.Fprintf(&b, "Total,,%d\n", sum)
	dir := t.TempDir()
	require.NoError(t, os.WriteFile(filepath.Join(dir, "Lakes_2024.csv"), []byte(b.String()), 0o666))
	o := Options{Paths: []string{dir}, Dir: dir, Formats: format.Sampling(format.All(), 200_000),
		Columns: []string{"region", "month", "product", "amount"}}
	r, err := Draft(context.Background(), o)
	require.NoError(t, err)
	require.True(t, r.Sampled)
	require.Empty(t, r.Problems)
	require.Contains(t, r.Open[0], "Lakes_2024.csv: a sample of its rows was read")
	require.Contains(t, r.Text, "# ? "+r.Open[0])
	whole := o
	whole.Formats = format.All()
	all, err := Draft(context.Background(), whole)
	require.NoError(t, err)
	require.Zero(t, all.Exit)
	require.Equal(t, 20_000, all.Rows)
	require.Equal(t, all.Text, strings.Replace(r.Text, "# ? "+r.Open[0]+"\n", "", 1)) // the same plan
}

// A measure has rules for the gaps that occur, and for no others.
func TestOnlyRulesThatAreUsed(t *testing.T) {
	r, err := drafted(t, "region,month,product,amount", map[string]string{
		"Lakes_2024.csv": "Month,Product,Amount\n2024-01,Oar,1.50\n2024-02,Oar,\n2024-03,Oar,2.50\n",
	})
	require.NoError(t, err)
	require.Contains(t, r.Text, "amount:  { is: number, decimals: 2, blanks: 0 }  # 1 blank")
}

// A file that changes while the plan is drafted is named.
func TestFilesThatChange(t *testing.T) {
	dir := t.TempDir()
	file := filepath.Join(dir, "Lakes_2024.csv")
	require.NoError(t, os.WriteFile(file, []byte("Month,Product,Amount\n2024-01,Oar,1.50\n2024-02,Oar,2.50\n"), 0o666))
	was := time.Now().Add(-time.Hour)
	require.NoError(t, os.Chtimes(file, was, was))
	o := Options{Paths: []string{dir}, Dir: dir, Formats: format.All()}
	r, err := Draft(context.Background(), o)
	require.NoError(t, err)
	require.Empty(t, r.Problems)
	o.Progress = func(int64, int64) {
		require.NoError(t, os.Chtimes(file, time.Now().Add(time.Minute), time.Now().Add(time.Minute)))
	}
	r, err = Draft(context.Background(), o)
	require.NoError(t, err)
	require.Contains(t, r.Problems[0].Message, "it changed while the plan was drafted")
}

// A folder that waits for next month is read where it is asked for by name.
func TestFolderAskedFor(t *testing.T) {
	dir := t.TempDir()
	for name, text := range map[string]string{"raw/a.csv": "Branch,Month,Amount\nHolm,2024-01,1.50\nLowe,2024-01,2.50\n",
		"next/b.csv": "Branch,Month,Amount\nHolm,2024-02,1.50\nLowe,2024-02,2.50\n"} {
		require.NoError(t, os.MkdirAll(filepath.Join(dir, filepath.Dir(name)), 0o777))
		require.NoError(t, os.WriteFile(filepath.Join(dir, name), []byte(text), 0o666))
	}
	for paths, want := range map[string]string{"": "raw/a.csv", "next": "next/b.csv"} {
		r, err := Draft(context.Background(), Options{Paths: []string{filepath.Join(dir, paths)}, Dir: dir, Formats: format.All()})
		require.NoError(t, err)
		for _, f := range r.Files {
			require.Equal(t, f.File == want, f.As == "extract", "%s of %q", f.File, paths)
		}
		require.EqualValues(t, 2, r.Rows)
	}
}
