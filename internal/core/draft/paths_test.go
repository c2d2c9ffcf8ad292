package draft

import (
	"fmt"
	"math/rand/v2"
	"strings"
	"testing"

	"github.com/stretchr/testify/require"
	"github.com/xuri/excelize/v2"
)

const (
	longRows = "Branch,Month,Product,Amount\nDock,2024-01,Oar,1.50\nDock,2024-02,Oar,2.50\n"
	noMonth  = "Branch,Product,Amount\nDock,Oar,1.50\nPier,Oar,2.50\n"
)

// placed are extracts whose labels stand in one place or another, what a plan for them says, and how many rows it makes.
var placed = []struct {
	name, columns string
	files         map[string]string
	rows          int
	plan          []string
}{
	{"folders of regions", "region,branch,month,product,amount",
		map[string]string{"raw/Lakes/2024.csv": longRows, "raw/Skerries/2024.csv": strings.ReplaceAll(longRows, "Dock", "Quay")}, 4,
		[]string{`files: "raw/*/*.csv"`, `path: "{region}/20*"`}},
	{"folders of months", "region,branch,month,product,amount",
		map[string]string{"raw/2024-01/Lakes.csv": noMonth, "raw/2024-02/Lakes.csv": strings.ReplaceAll(noMonth, "50", "75")}, 4,
		[]string{`path: "{month}/{region}"`}},
	{"one folder", "region,branch,month,product,amount", map[string]string{"raw/Lakes/2024-01.csv": noMonth}, 2,
		[]string{`path: "{region}/{month}"`, `files: "raw/Lakes/*.csv"`}},
	{"folders of regions beside another", "region,branch,month,product,amount",
		map[string]string{"raw/Lakes/2024.csv": longRows, "raw/Skerries/2024.csv": strings.ReplaceAll(longRows, "Dock", "Quay"),
			"raw/office/all.csv": "Gebiet;Filiale;Monat;Artikel;Betrag\nWick;Dock;2024-01;Oar;1,50\nWick;Dock;2024-02;Oar;1.002,50\n"}, 6,
		[]string{`files: "raw/*/20*.csv"`, `path: "{region}/20*"`, `files: "raw/office/*.csv"`}},
	{"a place with a word that others have, too", "region,branch,month,product,amount",
		map[string]string{"raw/Tern Head sales.csv": longRows}, 2, []string{`path: "{region} sales"`}},
	{"one sheet in a folder of some name", "region,branch,month,product,amount",
		map[string]string{"raw/old papers/coasts.xlsx": workbook("Lakes", longRows)}, 2,
		[]string{`sheet: "{region}"`, "# ? raw/old papers/*.xlsx: region is Lakes as the sheet says, not old papers as the folder"}},
	{"folders of offices", "region,branch,product,amount",
		map[string]string{"raw/counter/a.csv": "Region," + noMonth[:20] + "\nLakes,Dock,Oar,1.50\n"}, 1,
		[]string{`files: "raw/counter/*.csv"`}},
	{"a title of two", "region,year,branch,product,amount", map[string]string{
		"1.csv": "\"Region Lakes, year 2023\",,\n\n" + noMonth, "2.csv": "\"Region Amber Bay, year 2024\",,\n\n" + noMonth}, 4,
		[]string{`titles: "Region {region}, year {year}"`}},
	{"two titles", "region,year,branch,product,amount", map[string]string{
		"1.csv": "Region: Lakes,,\nYear: 2023,,\n\n" + noMonth, "2.csv": "Region: Amber Bay,,\nYear: 2024,,\n\n" + noMonth}, 4,
		[]string{`titles: ["Region: {region}", "Year: {year}"]`}},
	{"months and years apart", "region,month,amount", map[string]string{
		"a.csv": "Region,Year,Month,Amount\nLakes,2023,7,1.50\nLakes,2023,11,2.50\n"}, 2,
		[]string{`month:  { is: month, write: "{year}-{mon}" }`, `dates: "2024-12"`}},
	{"beside whole months", "region,year,month,amount", map[string]string{
		"a/x.csv": "Region,Year,Month,Amount\nLakes,2023,July,1.50\nLakes,2023,May,2.50\n",
		"b/y.csv": "Region,Month,Value\nSkerries,2023-07,1.50\nSkerries,Aug 2023,2.50\n"}, 4,
		[]string{`month:  { is: month, write: "[{yr}-]{mon}" }`, "year:   { from: month, is: year }", "absent: { yr: leave }"}},
	{"controls by what is made", "region,year,month,amount", map[string]string{
		"a/x.csv":            "Region,Year,Month,Amount\nLakes,2023,July,1.50\nLakes,2023,May,2.50\n",
		"b/y.csv":            "Region,Month,Value\nSkerries,2023-07,1.50\nSkerries,Aug 2023,2.50\n",
		"control/totals.csv": "Region,Year,Amount\nLakes,2023,4.00\nSkerries,2023,4.00\n",
		"control/totals by month.csv": "Region,Month,Amount\nLakes,2023-07,1.50\nLakes,2023-05,2.50\n" +
			"Skerries,2023-07,1.50\nSkerries,2023-08,2.50\n"}, 4,
		[]string{"by: { region: Region, year: Year }", "by: { region: Region, month: Month }"}},
	{"a year of days", "region,year,month,amount", map[string]string{
		"a.csv": "Region,Booked on,Amount\nLakes,2023-07-03,1.50\nLakes,2024-07-05,2.50\n"}, 2,
		[]string{"year:   { from: month, is: year }", "headers: [Booked on]"}},
	{"things in the names of files", "region,product,month,amount", map[string]string{
		"Oar.csv": "Region,2024-01,2024-02\nLakes,1.50,2.50\n", "Buoy.csv": "Region,2024-01,2024-02\nLakes,1.75,2.50\n"}, 4,
		[]string{`path: "{product}"`}},
	{"branches below regions", "region,branch,product,month,amount", map[string]string{
		"raw/Lakes.csv": "Product,2024-01,2024-02\nDock,,\nOar,1.50,2.50\nNet,1.50,2.50\nPier,,\nOar,3.50,2.50\n"}, 6,
		[]string{`path: "{region}"`, "sections: branch"}},
	{"a reference by labels of section rows", "region,branch,product,month,amount,manager", map[string]string{
		"raw/Lakes.csv": "Product,2024-01,2024-02\nDock,,\nOar,1.50,2.50\nNet,1.50,2.50\nPier,,\nOar,3.50,2.50\n",
		"ref/staff.csv": "Branch,Manager\nDock,Ines\nPier,Odo\n"}, 6, []string{"lookup: staff, by: branch, take: Manager", "sections: branch"}},
	{"labels of section rows with numbers", "region,branch,product,month,amount", map[string]string{
		"raw/Lakes.csv": "Product,2024-01,2024-02\nQuay 4,,\nOar,1.50,2.50\nNet,1.50,2.50\nStrand 12,,\nOar,3.50,2.50\n"}, 6,
		[]string{"sections: branch"}},
	{"a row of blanks among others that begin alike", "region,product,month,amount", map[string]string{
		"raw/Lakes.csv": "Product,2024-01,2024-02\nOar,1.50,2.50\nNet,,\nBuoy,1.75,2.75\nNet,3.50,2.25\n"}, 8, []string{"blanks: 0"}},
	{"days under two headers, for months", "region,month,product,amount", map[string]string{
		"raw/Lakes_2024.csv":    "Fecha,Oar,Buoy,Jib\n2024-01-31,1.50,2.50,3.25\n2024-02-29,1.50,2.50,3.25\n",
		"raw/Skerries_2024.csv": "Date,Oar,Buoy,Jib\n2024-01-31,1.50,2.50,3.25\n2024-02-29,1.50,2.50,3.25\n"}, 12,
		[]string{"month:   { is: month, headers: [Fecha, Date] }"}},
	{"a reference of one line", "branch,month,product,amount,manager",
		map[string]string{"raw/Lakes.csv": longRows, "ref/staff.csv": "Branch,Manager\nDock,Ines\n"}, 2,
		[]string{"lookup: staff, by: branch, take: Manager"}},
	{"measures behind months of two words", "product,month,quantity,amount", map[string]string{
		"a.csv": "Product,Jan 2024 Qty,Jan 2024 Amount,Feb 2024 Qty,Feb 2024 Amount\nOar,1,1.50,2,2.50\n"}, 2,
		[]string{`header: "{month} {measure:letters}"`}},
	{"codes beside names", "product,amount", map[string]string{
		"a.csv": "Product code,Product name,Amount\nP1,Oar,1.50\nP2,Buoy,2.50\n"}, 2, []string{"headers: [Product name]", "# Product code"}},
	{"compounds, and words behind a word", "region,branch,product,quantity,amount", map[string]string{
		"a.csv": "Verkaufsgebiet,Point de vente,Artikelbezeichnung,Absatz,Einzelpreis,Nettoumsatz\nLakes,Dock,Oar,2,1.25,2.50\n"}, 1,
		[]string{"headers: [Verkaufsgebiet]", "headers: [Point de vente]", "headers: [Absatz]", "headers: [Nettoumsatz]", "# Einzelpreis"}},
	{"a price beside products across", "region,branch,product,amount", map[string]string{
		"Lakes.csv": "Branch,Price,Buoy,Oar\nDock,1.25,2,3\nPier,1.75,4,5\n"}, 4, []string{`header: "{product}"`, "others: [Price]"}},
	{"codes and years beside two products across", "region,branch,month,product,amount", map[string]string{
		"Lakes.csv": "Branch no,Branch,Year,Month,Oar,Buoy\n101,Dock,2024,2024-01,2.50,3.50\n102,Pier,2024,2024-01,2.75,3.50\n"}, 4,
		[]string{`header: "{product}"`, "others: [Branch no, Year]"}},
	{"one year across", "region,product,year,amount", map[string]string{
		"Lakes_2023.csv": "Product,2023\nOar,1.50\nBuoy,2.50\n", "Lakes_2024.csv": "Product,2024\nOar,1.75\nBuoy,2.50\n"}, 4,
		[]string{`path: "{region}_20*"`, `header: "{year}"`}},
	{"quarters in a column of periods", "region,quarter,amount", map[string]string{
		"a.csv": "Region,Period,Amount\nLakes,2024-Q1,1.50\nLakes,2024-Q2,2.50\n"}, 2, []string{"headers: [Period]"}},
	{"hardly any figures in one of two", "region,branch,product,amount", map[string]string{
		"Lakes.csv": "Branch,Oar,Buoy,Jib\nDock,1.50,2.50,3.50\nPier,1.75,2.75,3.75\n",
		"Wick.csv":  "Branch,Oar,Buoy,Jib\nDock,12 pcs,2.50,3.50\nPier,closed,2.75,3.75\n"}, 11,
		[]string{"3 headers such as Oar", "texts: 0, unclear: hold"}},
	{"a month of words in one of two", "region,branch,month,amount", map[string]string{
		"Lakes.csv": "Branch,2024-01,2024-02\nDock,1.50,2.50\nPier,1.75,2.75\n",
		"Wick.csv":  "Branch,2024-01,2024-02\nDock,,2.25\nPier,closed,2.75\n"}, 8, []string{`unpivot: { columns: ["20*"], `}},
	{"a product of words in one of two", "region,branch,product,amount", map[string]string{
		"Lakes.csv": "Branch,Oar,Buoy,Jib\nDock,1.50,2.50,3.50\nPier,1.75,2.75,3.75\n",
		"Wick.csv":  "Branch,Oar,Buoy,Jib\nDock,,2.50,3.50\nPier,closed,2.75,3.75\n"}, 12, []string{`columns: ["Oar", "Buoy", "Jib"]`}},
	{"labels in names and in titles, in one folder", "region,branch,product,amount", map[string]string{
		"raw/Lakes_2023.csv": noMonth, "raw/Wick_2023.csv": noMonth + "\n", "raw/export (1).csv": "Region: Skerries,,\n,,\n" + noMonth,
		"raw/export (2).csv": "Region: Amber Bay,,\n,,\n" + noMonth}, 8,
		[]string{`files: "raw/*_20*.csv"`, `path: "{region}_20*"`, `files: "raw/export (*).csv"`, `titles: "Region: {region}"`}},
	{"two labels in the names of files", "region,branch,month,product,amount", map[string]string{
		"raw/Lakes_Mill Lane_2024.csv": "Product,Jan,Feb\nOar,1.50,2.50\n", "raw/Lakes_Dock_2024.csv": "Product,Jan,Feb\nOar,1.25,2.75\n",
		"raw/Wick_Dock_2024.csv": "Product,Jan,Feb\nOar,1.75,2.25\n"}, 6, []string{`path: "{region}_{branch}_{year}"`}},
	{"branches in folders of regions", "area,shop,month,product,sales", map[string]string{
		"raw/Lakes/Mill Lane 2024.csv": "Month,Oar,Buoy\n2024-01,1.50,2.50\n",
		"raw/Wick/Dock 2024.csv":       "Month,Oar,Buoy\n2024-01,1.25,2.75\n"}, 4,
		[]string{`files: "raw/*/*.csv"`, `path: "{area}/{shop} 20*"`}},
	{"a title in one line or another", "region,branch,product,amount", map[string]string{
		"1.csv": "Halyard & Moss,,\nRegion: Lakes,,\n" + noMonth, "2.csv": "Region: Wick,,\n,,\n" + noMonth}, 4,
		[]string{`titles: "Region: {region}"`}},
	{"titles in two languages", "region,branch,product,amount", map[string]string{
		"a 1.csv": "Region: Lakes,,\n" + noMonth, "b 1.csv": "Gebiet: Wick,,\n" + noMonth}, 4,
		[]string{`titles: "Region: {region}"`, `titles: "Gebiet: {region}"`}},
	{"years and months beside products across", "region,month,product,quantity,amount", map[string]string{
		"Lakes.csv":  "No.,Year,Month,Oar,Buoy,Jib\n1,2024,1,1.50,2.50,3.50\n2,2024,2,1.75,2.75,3.75\n",
		"b/Wick.csv": "Month,Product,Qty,Amount\n2024-01,Oar,2,1.50\n"}, 7,
		[]string{"others: [No.]", "absent: { quantity: leave", `headers: [Qty]`}},
	{"units behind measures", "branch,month,product,quantity,amount", map[string]string{
		"a.csv": "Agence,Année,Mois,Produit,Unités (pcs),Prix unitaire,Ventes (€)\n" +
			"Dock,2024,1,Oar,2,1.25,2.50\nDock,2024,2,Oar,4,1.25,5.00\n"}, 2,
		[]string{"headers: [Unités (pcs)]", "headers: [Ventes (€)]"}},
	{"a place a sheet beside a place a file", "region,branch,month,product,amount", map[string]string{
		"Lakes.csv": longRows, "coasts.xlsx": workbook("Wick", longRows), "Skerries.xlsx": workbook("Sales", longRows)}, 6,
		[]string{`sheet: "{region}"`, `path: "{region}"`}},
	{"a quarter among months", "region,month,product,amount", map[string]string{
		"a.csv": "Region,Product,Jan 2024,Feb 2024,Mar 2024,Q1 2024\nLakes,Oar,30.50,1,2,33.50\nLakes,Net,50.50,2,3,55.50\n"}, 6,
		[]string{"others: [Q1 2024]", `header: "{month}"`}},
	{"the year so far among months", "region,month,product,amount", map[string]string{
		"a_2024.csv": "Region,Product,Jan,Feb,YTD\nLakes,Oar,30.50,1.25,99.00\nLakes,Net,50.50,2.25,88.00\n"}, 4,
		[]string{"others: [YTD]", `header: "{mon}"`}},
	{"people and averages beside products", "region,month,product,amount", map[string]string{
		"a.csv": "Region,Month,Staff,Oar,Jib,Buoy,Average\nLakes,2024-01,3,30.50,2.25,7.00,13.25\nLakes,2024-02,4,50.50,2,8,20.17\n"}, 6,
		[]string{"others: [Staff, Average]", `header: "{product}"`}},
	{"shares beside products", "region,month,product,amount", map[string]string{
		"a.csv": "Region,Month,Oar,Oar %,Jib,Jib %\nLakes,2024-01,30.50,90%,2.25,10%\nLakes,2024-02,50.50,95%,2,5%\n"}, 4,
		[]string{`others: ["Oar %", "Jib %"]`}},
	{"gaps in rows that are held", "product,quantity,amount", map[string]string{
		"a.csv": "Product,Quantity,Amount\nOar,,ca. 40\nBuoy,2,2.50\nNet,4,3.50\n"}, 2, []string{"quantity: { is: whole, blanks: 0 }"}},
	{"dates that are not padded", "product,day,amount", map[string]string{
		"a.csv": "Product,Day,Amount\nOar,2024-1-5,1.50\nBuoy,2024-11-15,2.50\n"}, 2, []string{`dates: "2024-12-31"`}},
}

// workbook is a workbook of one sheet, of lines of text.
func workbook(sheet, lines string) string {
	f := excelize.NewFile()
	defer f.Close()
	_ = f.SetSheetName("Sheet1", sheet)
	for i, line := range strings.Split(strings.TrimSpace(lines), "\n") {
		cells := strings.Split(line, ",")
		_ = f.SetSheetRow(sheet, fmt.Sprintf("A%d", i+1), &cells)
	}
	out, err := f.WriteToBuffer()
	if err != nil {
		panic(err)
	}
	return out.String()
}

// What nobody asked for is empty where an extract lacks it; one time is enough; codes stand beside names; prices are
// not added up.
func TestProposedColumns(t *testing.T) {
	for _, test := range []struct {
		name  string
		files map[string]string
		rows  int
		plan  []string
	}{
		{"a column of one layout", map[string]string{"a/x.csv": "Region,Month,Amount\nLakes,2024-01,1.50\n",
			"b/y.csv": "Region,Month,Invoice,Amount\nSkerries,2024-01,R-1,2.50\nSkerries,2024-01,R-2,2.50\n"}, 3,
			[]string{"absent: { invoice: leave }", "grain: [region, month, invoice]"}},
		{"days beside months", map[string]string{"a/x.csv": "Region,Month,Amount\nLakes,2024-01,1.50\n",
			"b/y.csv": "Region,Date,Amount\nSkerries,2024-01-03,2.50\nSkerries,2024-02-15,2.50\n"}, 3,
			[]string{"month:  { is: month, headers: [Date] }"}},
		{"months beside days", map[string]string{"a/x.csv": "Region,Month,Date,Amount\nLakes,2024-01,2024-01-07,1.50\n",
			"b/y.csv": "Region,Date,Amount\nSkerries,2024-01-03,2.50\nSkerries,2024-02-15,2.50\n"}, 3, []string{"date:   date"}},
		{"codes and a price", map[string]string{
			"x.csv": "Branch no,Branch,SKU,Product,Unit price,Amount\n7,Dock,A-1,Oar,1.25,1.50\n7,Dock,A-2,Net,1.75,2.50\n"}, 2,
			[]string{"branch_no:", "branch:     text", "sku:        text", "unit_price: { is: number, decimals: 2, add: no }"}},
		{"numbers of rows, and codes beside products across", map[string]string{
			"a/x.csv": "No.,Branch,Month,Item no,Item,Amount\n1,Dock,2024-01,A-1,Oar,1.50\n2,Dock,2024-01,A-2,Jib,2.50\n",
			"b/y.csv": "Branch,Month,Oar,Jib,Buoy\nPier,2024-01,1.75,2.75,3.75\n"}, 5,
			[]string{`header: "{item}"`, "absent: { item_no: leave }"}},
		{"words that stand now and then", map[string]string{"x.csv": "Product,Approval,Amount\nOar,paid,1.50\nBuoy,,2.50\nNet,,3.75\n" +
			"Jib,paid,4.25\nMast,,5.50\n"}, 5, []string{"approval: { blanks: Unassigned }"}},
		{"a date of months", map[string]string{"x.csv": "Region,Date,Amount\nLakes,Jan-24,1.50\nLakes,Feb-24,2.50\n"}, 2,
			[]string{"month:  { is: month, headers: [Date] }"}},
		{"two labels in names, as others have them", map[string]string{
			"a/all.csv":            "Region,Branch,Month,Amount\nLakes,Dock,2024-01,1.50\nLakes,Pier,2024-01,2.50\n",
			"b/Wick_Quay_2024.csv": "Month,Amount\n2024-01,1.75\n", "b/Wick_Slip_2024.csv": "Month,Amount\n2024-01,2.75\n"}, 4,
			[]string{`path: "{region}_{branch}_20*"`}},
		{"periods that are quarters", map[string]string{"x.csv": "Region,Period,Amount\nLakes,2024-Q1,1.50\nLakes,2024-Q2,2.50\n"}, 2,
			[]string{"period: quarter"}},
		{"months in names behind labels of several words, and in folders of years", map[string]string{
			"a/Old Slip 2024-01.csv": "Product,Amount\nOar,1.50\n", "a/Old Slip 2024-02.csv": "Product,Amount\nOar,2.50\n",
			"b/2024/01/Lakes.csv": "Product,Amount,Note\nOar,3.50,x\n", "b/2024/02/Lakes.csv": "Product,Amount,Note\nOar,4.50,y\n"}, 4,
			[]string{`write: "{year}-{mon}"`, "grain: [region, month, product]"}},
		{"customers by their numbers", map[string]string{
			"x.csv": "Region,Customer no,Amount\nLakes,1001,1.50\nLakes,1002,2.50\n"}, 2, []string{"grain: [region, customer_no]"}},
	} {
		r, err := drafted(t, "", test.files)
		require.NoError(t, err, test.name)
		for _, line := range test.plan {
			require.Contains(t, r.Text, line, "%s: %s", test.name, r.Text)
		}
		require.Zero(t, r.Exit, "%s: %v\n%s", test.name, r.Problems, r.Text)
		require.Equal(t, test.rows, r.Rows, "%s: %s", test.name, r.Text)
	}
}

// Labels and times that stand in folders, sheets, titles and several columns are found, and built with.
func TestWhereLabelsStand(t *testing.T) {
	for _, test := range placed {
		r, err := drafted(t, test.columns, test.files)
		require.NoError(t, err, test.name)
		for _, line := range test.plan {
			require.Contains(t, r.Text, line, "%s: %s", test.name, r.Text)
		}
		require.Zero(t, r.Exit, "%s: %v\n%s", test.name, r.Problems, r.Text)
		require.Equal(t, test.rows, r.Rows, "%s: %s", test.name, r.Text)
	}
}

// oddNames are pieces of names of files and folders.
var oddNames = strings.Fields("new old sales system data Lakes 2024 -- __ - ( ) é Ω # head office a1 Q1 Jan 2024-03 20240331 v2 final copy")

// Whatever files and folders are called, there is a plan, or it is said why not.
func TestAnyNames(t *testing.T) {
	r := rand.New(rand.NewPCG(3, 4))
	name := func() (out string) {
		for range 1 + r.IntN(4) {
			out += oddNames[r.IntN(len(oddNames))] + []string{"", " ", "_"}[r.IntN(3)]
		}
		return strings.TrimSpace(out)
	}
	for range 150 {
		files := map[string]string{}
		for i := range 1 + r.IntN(3) {
			title := []string{"", name() + "\n", name() + ": " + name() + "\n"}[r.IntN(3)]
			files[name()+"/"+name()+".csv"] = fmt.Sprintf("%sBranch,Amount\nDock,%d.50\nPier,%d.25\n", title, i, i)
		}
		if r.IntN(3) == 0 {
			files[name()+".csv"] = "Branch,Month,Amount\nDock,2024-01,4.50\n"
		}
		for _, columns := range []string{"", "region,branch,month,amount"} {
			_, err := drafted(t, columns, files)
			require.NoError(t, err, files)
		}
	}
}

// Numbers without groups are written as those of the other tables of their layout: one entry, and next month's file is of it.
func TestNumbersWithoutGroups(t *testing.T) {
	files := map[string]string{
		"raw/Lakes_2024-01.csv":  "Branch;Amount\nHolm;1 234,50\nLowe;7,25\n",
		"raw/Lakes_2024-02.csv":  "Branch;Amount\nHolm;34,50\nLowe;8,25\n",
		"raw/Ulva_2024-01.csv":   "Branch;Amount\nHolm;34,50\nLowe;9,75\n",
		"raw/Ulva_2024-02.csv":   "Branch;Amount\nHolm;5 234,50\nLowe;6,25\n",
		"swiss/Eigg_2024-01.csv": "Branch;Amount\nMain;1'234.50\nPier;7.25\n",
		"swiss/Eigg_2024-02.csv": "Branch;Amount\nMain;34.50\nPier;8\n",
	}
	r, err := drafted(t, "region,month,branch,amount", files)
	require.NoError(t, err)
	require.Zero(t, r.Exit, r.Text)
	require.Equal(t, 2, strings.Count(r.Text, "- files:"), r.Text)
	require.Contains(t, r.Text, `numbers: "1 234,56"`)
	require.Contains(t, r.Text, `numbers: "1'234.56"`)

	// Two ways that groups are written in one layout stay two, and what can be read in both is of neither.
	files = map[string]string{"raw/Lakes_2024-01.csv": files["raw/Lakes_2024-01.csv"], "raw/Lakes_2024-02.csv": files["raw/Lakes_2024-02.csv"],
		"raw/Lakes_2024-03.csv": "Branch;Amount\nHolm;1.234,50\nLowe;1.007,25\n"}
	r, err = drafted(t, "region,month,branch,amount", files)
	require.NoError(t, err)
	require.Zero(t, r.Exit, r.Text)
	require.Contains(t, r.Text, `numbers: "1 234,56"`)
	require.Contains(t, r.Text, `numbers: "1.234,56"`)
}

// What a title says that the name of the file says, too, is one column.
func TestTitleAndNameOfOneThing(t *testing.T) {
	r, err := drafted(t, "", map[string]string{"Lakes.csv": "Region: Lakes\nClient,2024-01,2024-02,2024-03\nReed,1.50,2.50,3.50\n",
		"Sound.csv": "Region: Sound\nClient,2024-01,2024-02,2024-03\nAsh,4.50,5.50,6.50\n"})
	require.NoError(t, err)
	require.Zero(t, r.Exit)
	require.Contains(t, r.Text, "region: text")
	require.NotContains(t, r.Text, "item")
}
