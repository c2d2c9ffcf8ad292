package record_test

import (
	"encoding/csv"
	"encoding/json"
	"math/rand/v2"
	"strings"
	"testing"

	"github.com/stretchr/testify/require"

	"umbau/internal/core/layout"
	"umbau/internal/core/names"
	"umbau/internal/core/place"
	"umbau/internal/core/plan"
	"umbau/internal/core/record"
	"umbau/internal/core/table"
	"umbau/internal/core/tie"
	"umbau/internal/core/treat"
	"umbau/internal/core/value"
	"umbau/internal/format"
	formatcsv "umbau/internal/format/csv"
)

const wide = `umbau: 1
extracts: [{ files: "*.csv", unpivot: { header: "{product}", cell: amount, blanks: skip } }]
fact:
  branch: { headers: ['Branch, or "Outlet"'], blanks: above, nulls: drop }
  day: { is: date, unclear: leave }
  product: { is: name, book: book.csv, unknown: hold }
  amount: { is: number, decimals: 2, blanks: 0, nulls: 0, texts: hold, errors: 1.5 }
deliver: [{ to: out.csv }]
`

// decided is what became of an extract: the first block of a text whose
// first row is the header.
func decided(t *testing.T, src, text string) *treat.Outcome {
	p, err := plan.Read("umbau.yaml", []byte(src), format.All())
	require.NoError(t, err)
	book, err := names.ReadBook("book.csv", strings.NewReader("seen,standard\nBouy,Buoy\n"))
	require.NoError(t, err)
	books := make([]*names.Book, len(p.Columns))
	for i, c := range p.Columns {
		if c.Book != "" {
			books[i] = book
		}
	}
	reader := formatcsv.NewReader(strings.NewReader(text), ',')
	block, err := reader.Next(nil)
	require.NoError(t, err)
	var rows table.Rows
	require.NoError(t, reader.Split(block, &rows))
	l, problems := layout.LineUp(p, p.Entries[0], layout.ReadHeader(&rows, 0, 0), map[string]string{"region": "Lakes"},
		func(int) bool { return false }, place.Place{File: "raw/a, b.csv"})
	require.Empty(t, problems)
	program, problems := treat.NewProgram(p, l, books, nil)
	require.Empty(t, problems)
	w := treat.NewWorker(p, treat.Wants{})
	require.NoError(t, w.Read(program, reader, treat.Raw{Block: block, Last: true}))
	require.NoError(t, w.HandOver(treat.NewShared(p)))
	return w.Decide()
}

const extract = `"Branch, or ""Outlet""",Day,Bouy,"Oar, 2 m"
Quay 4,2024-01-05,1.005,2
,03/04/2024,n/a,

n/a,2024-01-06,4,5
"Old
""Slip""",2024-01-07,closed,
Quay 4,2024-01-08,#REF!,
Total,,1,2
`

func TestChanges(t *testing.T) {
	w := decided(t, wide, extract)
	var e record.Encoder
	require.Equal(t, `"raw/a, b.csv",,2,Bouy,amount,rounding,1.005,1.01
"raw/a, b.csv",,3,"Branch, or ""Outlet""",branch,blank,,Quay 4
"raw/a, b.csv",,3,Day,day,unclear,03/04/2024,
"raw/a, b.csv",,3,Bouy,amount,null,n/a,0.00
"raw/a, b.csv",,8,Bouy,amount,error,#REF!,1.50
`, string(e.Changes(nil, w)))
}

func TestHeld(t *testing.T) {
	w := decided(t, wide, extract)
	var e record.Encoder
	have := string(e.Held(nil, w))
	require.Equal(t, `"raw/a, b.csv",,2,"Oar, 2 m",product,"unknown name Oar, 2 m","[""Quay 4"", ""2024-01-05"", ""1.005"", ""2""]"
"raw/a, b.csv",,6,Bouy,amount,text,"[""Old\n\""Slip\"""", ""2024-01-07"", ""closed"", """"]"
`, have)
	lines, err := csv.NewReader(strings.NewReader(have)).ReadAll()
	require.NoError(t, err)
	var cells []string
	require.NoError(t, json.Unmarshal([]byte(lines[1][6]), &cells))
	require.Equal(t, []string{"Old\n\"Slip\"", "2024-01-07", "closed", ""}, cells)
}

// Rows and fact rows that are left out come in the order of the extract.
func TestLeftOut(t *testing.T) {
	w := decided(t, wide, extract)
	var e record.Encoder
	require.Equal(t, `"raw/a, b.csv",,3,"Oar, 2 m",skipped
"raw/a, b.csv",,4,,blank
"raw/a, b.csv",,5,Bouy,dropped
"raw/a, b.csv",,5,"Oar, 2 m",dropped
"raw/a, b.csv",,6,"Oar, 2 m",skipped
"raw/a, b.csv",,8,"Oar, 2 m",skipped
"raw/a, b.csv",,9,,total
`, string(e.LeftOut(nil, w)))
}

// What stands above the rows has the header row, or none.
func TestHeadChanges(t *testing.T) {
	src := `umbau: 1
extracts: [{ files: "*.csv", path: "{region}", unpivot: { header: "{month}", cell: amount } }]
fact: { region: { is: date, texts: 2024-01-01 }, month: { is: month, texts: 2024-12 }, amount: whole }
deliver: [{ to: out.csv }]
`
	w := decided(t, src, "2024-01,Soon\n1,2\n")
	var e record.Encoder
	var have string
	for i := range w.HeadChanges {
		have += string(e.HeadChange(nil, w, &w.HeadChanges[i]))
	}
	require.Equal(t, "\"raw/a, b.csv\",,,,region,text,Lakes,2024-01-01\n\"raw/a, b.csv\",,1,Soon,month,text,Soon,2024-12\n", have)
	require.Empty(t, e.Changes(nil, w))
}

// One encoder writes of one extract after another.
func TestEncoderAgain(t *testing.T) {
	var e record.Encoder
	first := string(e.Changes(nil, decided(t, wide, extract)))
	long := decided(t, strings.Replace(wide, `, unpivot: { header: "{product}", cell: amount, blanks: skip }`, "", 1),
		"Branch or Outlet,Day,Product,Amount\n,2024-01-01,Buoy,1\nQuay 4,2024-01-01,buoy,n/a\n")
	require.Equal(t, "\"raw/a, b.csv\",,3,Amount,amount,null,n/a,0.00\n", string(e.Changes(nil, long)))
	require.Equal(t, first, string(e.Changes(nil, decided(t, wide, extract))))
}

// What stands in a cell comes back from the JSON array as it was read.
func TestHeldCellsAreJSON(t *testing.T) {
	r := rand.New(rand.NewPCG(1, 2))
	letters := []rune("ab\"\\/\n\r\t\x01\x1f ,é€😀\u2028\ufeff")
	for range 200 {
		var s []rune
		for range 1 + r.IntN(12) {
			s = append(s, letters[r.IntN(len(letters))])
		}
		text := "x" + string(s) + "x" // not trimmed, not blank
		var b strings.Builder
		require.NoError(t, csvLine(&b, text, "2024-01-01", "Oar", "1"))
		w := decided(t, strings.Replace(wide, `, unpivot: { header: "{product}", cell: amount, blanks: skip }`, "", 1),
			"Branch or Outlet,Day,Product,Amount\n"+b.String())
		var e record.Encoder
		lines, err := csv.NewReader(strings.NewReader(string(e.Held(nil, w)))).ReadAll()
		require.NoError(t, err)
		var cells []string
		require.NoError(t, json.Unmarshal([]byte(lines[0][6]), &cells))
		require.Equal(t, []string{text, "2024-01-01", "Oar", "1"}, cells)
	}
}

func csvLine(b *strings.Builder, cells ...string) error {
	for i, c := range cells {
		if i > 0 {
			b.WriteByte(',')
		}
		b.WriteString(`"` + strings.ReplaceAll(c, `"`, `""`) + `"`)
	}
	_, err := b.WriteString("\n")
	return err
}

func TestLines(t *testing.T) {
	p, err := plan.Read("umbau.yaml", []byte(wide), format.All())
	require.NoError(t, err)
	number := func(text string) value.Decimal {
		d, _, ok := value.English.Number([]byte(text))
		require.True(t, ok)
		return d
	}
	var account tie.Account
	account.Read.Add(number("3.005"))
	account.Changed.Add(number("0.005"))
	account.Fact.Add(number("1.01"))
	account.Held.Add(number("2"))
	e := &record.Extract{File: "a.xlsx", Sheet: "May, June", Rows: tie.Rows{Read: 5, Blank: 1, Total: 1, Used: 3, Made: 6, Held: 2, Fact: 4},
		Accounts: map[int]*tie.Account{3: &account}, Measures: []int{3}}
	require.Equal(t, "a.xlsx,\"May, June\",5,1,0,1,0,0,0,3,6,0,0,2,0,0,0,4\n", string(record.AppendRows(nil, e)))
	require.Equal(t, "\"a.xlsx, sheet May, June\",amount,3.005,0.005,1.010,2.000,0.000,0.000\n", string(record.AppendTies(nil, p, e)))
	check := tie.Check{Kind: tie.TotalColumn, Row: 7, Header: "Total", Column: 3, Said: number("10"), Have: number("9.50")}
	require.Equal(t, "total column,a.xlsx,\"May, June\",7,Total,,amount,10,9.50,0.5\n",
		string(record.AppendCheck(nil, p, e.File, e.Sheet, check)))
	check.Kind = tie.Control
	require.Equal(t, "control,control.csv,,7,Total,Lakes | 2024,amount,10,9.50,0.5\n",
		string(record.AppendControl(nil, p, place.Place{File: "control.csv"}, "Lakes | 2024", check, true)))
	check.Said = value.Decimal{}
	require.Equal(t, "control,control.csv,,,Total,Lakes | 2024,amount,,9.50,-9.5\n",
		string(record.AppendControl(nil, p, place.Place{File: "control.csv"}, "Lakes | 2024", check, false)))
	require.Equal(t, "product,\"Oar, 2 m\",,unknown,3\n",
		string(record.AppendName(nil, p, &names.Seen{Column: 2, Text: "Oar, 2 m", How: names.Unknown, Cells: 3})))
}
