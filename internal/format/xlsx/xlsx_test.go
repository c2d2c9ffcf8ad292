package xlsx

import (
	"archive/zip"
	"bytes"
	"errors"
	"fmt"
	"io"
	"math/rand/v2"
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/require"
	"github.com/xuri/excelize/v2"

	"umbau/internal/core/table"
	"umbau/internal/format/packed"
)

// zipped packs parts.
func zipped(t testing.TB, parts map[string]string) []byte {
	var b bytes.Buffer
	z := zip.NewWriter(&b)
	for name, text := range parts {
		w, err := z.Create(name)
		require.NoError(t, err)
		_, err = io.WriteString(w, text)
		require.NoError(t, err)
	}
	require.NoError(t, z.Close())
	return b.Bytes()
}

const rels = `<?xml version="1.0"?><Relationships xmlns="x">`

// parts are those of a workbook with one sheet, which holds this XML.
func parts(sheet string) map[string]string {
	return map[string]string{
		"[Content_Types].xml": "<Types/>",
		"_rels/.rels":         rels + `<Relationship Id="r1" Type="http://x/officeDocument" Target="xl/workbook.xml"/></Relationships>`,
		"xl/workbook.xml":     `<workbook><sheets><sheet name="2024" sheetId="1" r:id="r1"/></sheets></workbook>`,
		"xl/_rels/workbook.xml.rels": rels + `<Relationship Id="r1" Type="http://x/worksheet" Target="worksheets/sheet1.xml"/>` +
			`<Relationship Id="r2" Type="http://x/sharedStrings" Target="sharedStrings.xml"/><Relationship Id="r3" ` +
			`Type="http://x/styles" Target="/xl/styles.xml"/></Relationships>`,
		"xl/sharedStrings.xml": `<sst><si><t>Dock &amp; Line</t></si><si><r><t>Bil</t></r><r><t xml:space="preserve">ge </t></r>` +
			`<rPh sb="0" eb="1"><t>no</t></rPh></si><si/></sst>`,
		"xl/styles.xml": `<styleSheet><numFmts><numFmt numFmtId="164" formatCode="[$-407]TT.MM.JJJJ;@"/><numFmt ` +
			`numFmtId="165" formatCode="0.00&quot;days&quot;"/></numFmts><cellStyleXfs><xf numFmtId="14"/></cellStyleXfs><cellXfs><xf ` +
			`numFmtId="0"/><xf numFmtId="14"/><xf numFmtId="164"/><xf numFmtId="22"/><xf numFmtId="165"/><xf numFmtId="10"/></cellXfs></styleSheet>`,
		"xl/worksheets/sheet1.xml": sheet,
	}
}

// read returns the rows of the only sheet: cells joined by |, a letter before
// those that are no texts, and the number of each row.
func read(t testing.TB, data []byte) (rows []string, err error) {
	members, err := packed.Members(bytes.NewReader(data), int64(len(data)), packed.Default)
	if err != nil {
		return nil, err
	}
	tables, err := Open(members, packed.Default, &packed.Shelf{})
	if err != nil {
		return nil, err
	}
	return readTable(t, tables[0])
}

func readTable(t testing.TB, from table.Table) (out []string, err error) {
	src, err := from.Open(table.Reading{})
	if err != nil {
		return nil, err
	}
	defer src.Close()
	for {
		b, err := src.Next(nil)
		if err == io.EOF {
			return out, nil
		}
		if err != nil {
			return out, err
		}
		var rows table.Rows
		if err := src.Split(b, &rows); err != nil {
			return out, err
		}
		for i := range rows.Len() {
			var cells []string
			for j, c := range rows.Row(i) {
				cells = append(cells, strings.TrimSpace([]string{"", "#", "@", "!", "="}[rows.Kind(i, j)]+string(rows.Text(c))))
			}
			out = append(out, fmt.Sprintf("%d %s", rows.Lines[i], strings.Join(cells, "|")))
		}
	}
}

func TestCells(t *testing.T) {
	for _, test := range []struct{ name, rows, want string }{
		{"shared and inline", `<row r="1"><c r="A1" t="s"><v>0</v></c><c r="B1" t="s"><v>1</v></c><c r="C1" t="inlineStr"><is><r><t>` +
			`in</t></r><r><t>line</t></r></is></c></row>`, "1 Dock & Line|Bilge|inline"},
		{"numbers at 15 digits", `<row r="1"><c><v>1234.5599999999999</v></c><c><v>0.30000000000000004</v></c><c><v>1E-3</v></c><c><v>` +
			`-1.5e3</v></c><c><v>9.9999999999999999</v></c><c><v>0</v></c></row>`, "1 #1234.56|#0.3|#0.001|#-1500|#10|#0"},
		{"dates", `<row r="1"><c s="1"><v>45292</v></c><c s="2"><v>45323</v></c><c s="3"><v>45292.5</v></c><c s="1"><v>60</v></c><c ` +
			`s="1"><v>59</v></c><c s="4"><v>45292</v></c><c s="5"><v>0.12</v></c><c t="d"><v>2024-03-01T00:00:00</v></c></row>`,
			"1 @2024-01-01|@2024-02-01|@2024-01-01 12:00:00|@1900-02-29|@1900-02-28|#45292|#0.12|@2024-03-01"},
		{"errors and truth", `<row r="1"><c t="e"><v>#N/A</v></c><c t="b"><v>1</v></c><c t="b"><v>0</v></c></row>`, "1 !#N/A|!TRUE|!FALSE"},
		{"formulas", `<row r="1"><c><f>1+1</f><v>2</v></c><c t="str"><f>"a"</f><v>a&lt;b</v></c><c t="str"><f>""</f><v></v></c><c><f>` +
			`NOW()</f></c></row>`, "1 #2|a<b||="},
		{"cells and rows that are not stored", `<row r="3"><c r="C3"><v>5</v></c></row><row r="5"><c r="B5" s="1"/><c r="D5"><v>7</v>` +
			`</c></row>`, "1 /2 /3 ||#5/4 /5 |||#7"},
		{"without references", `<row><c><v>1</v></c></row><row/><row><c><v>2</v></c></row>`, "1 #1/2 /3 #2"},
		{"blank rows below", `<row r="1"><c r="A1"><v>1</v></c></row><row r="2"><c r="A2" s="1"/></row><row r="9"/>`, "1 #1"},
		{"prefixes, quotes and CDATA", `<x:row r='1'><x:c r="A1" t='inlineStr' note="a>b"><x:is><x:t><![CDATA[</row>]]> &#65;&#x42;` +
			`</x:t></x:is></x:c></x:row><!-- <row r="2"> -->`, "1 </row> AB"},
		{"escapes", `<row r="1"><c t="inlineStr"><is><t>a_x000D_&#10;b_x0041_</t></is></c></row>`, "1 a\nbA"},
	} {
		t.Run(test.name, func(t *testing.T) {
			rows, err := read(t, zipped(t, parts(`<worksheet><dimension ref="A1:XFD9999999"/><sheetData>`+test.rows+`</sheetData></worksheet>`)))
			require.NoError(t, err)
			require.Equal(t, test.want, strings.Join(rows, "/"))
		})
	}
}

// What a sheet hides is told: rows that hold something, and columns.
func TestHidden(t *testing.T) {
	data := zipped(t, parts(`<worksheet><cols><col min="1" max="1" hidden="0"/><col min="3" max="4" hidden="1"/><col min="6" max="16384" `+
		`hidden="true"/><col min="x" max="2" hidden="1"/></cols><sheetData><row r="1"><c><v>1</v></c></row><row r="2" hidden="1"><c><v>2</v></c>`+
		`</row><row r="3" hidden="true"><c><v>2</v></c></row><row r="5" hidden="1"/><row r="6" hidden="0"><c><v>2</v></c></row>`+
		`</sheetData></worksheet>`))
	members, err := packed.Members(bytes.NewReader(data), int64(len(data)), packed.Default)
	require.NoError(t, err)
	tables, err := Open(members, packed.Default, &packed.Shelf{})
	require.NoError(t, err)
	src, err := tables[0].Open(table.Reading{})
	require.NoError(t, err)
	defer src.Close()
	for err == nil {
		_, err = src.Next(nil)
	}
	require.Equal(t, io.EOF, err)
	require.Equal(t, table.Facts{HiddenRows: table.Spans{{First: 2, Last: 3}},
		HiddenColumns: table.Spans{{First: 3, Last: 4}, {First: 6, Last: 16384}}}, src.Facts())
}

func TestDamaged(t *testing.T) {
	sheet := func(rows string) map[string]string {
		return parts(`<worksheet><sheetData>` + rows + `</sheetData></worksheet>`)
	}
	without := func(name string) map[string]string {
		p := sheet(`<row r="1"><c t="s"><v>0</v></c></row>`)
		delete(p, name)
		return p
	}
	with := func(name, text string) map[string]string {
		p := sheet(`<row r="1"><c t="s"><v>0</v></c></row>`)
		p[name] = text
		return p
	}
	for name, test := range map[string]struct {
		parts map[string]string
		want  string
	}{
		"column XFE":        {sheet(`<row r="1"><c r="XFE1"><v>1</v></c></row>`), "the last column is XFD"},
		"row 2000000":       {sheet(`<row r="2000000"><c><v>1</v></c></row>`), "the last one is 1048576"},
		"rows out of order": {sheet(`<row r="2"><c><v>1</v></c></row><row r="1"><c><v>1</v></c></row>`), "stands after row 2"},
		"cells too":         {sheet(`<row r="2"><c r="B2"><v>1</v></c><c r="A2"><v>1</v></c></row>`), "further to the right"},
		"1e999":             {sheet(`<row r="2"><c><v>1e999</v></c></row>`), `the cell A2 holds the number "1e999"`},
		"abc":               {sheet(`<row r="2"><c r="B2"><v>abc</v></c></row>`), `the cell B2 holds the number "abc"`},
		"no such string":    {sheet(`<row r="2"><c t="s"><v>7</v></c></row>`), "points to the text 7, of which there are 3"},
		"cut":               {parts(`<worksheet><sheetData><row r="1"><c><v>1</v></c></row><row r="2"><c>`), "a sheet is cut"},
		"no rows at all":    {parts(`<html/>`), "no rows at all"},
		"no sheet part":     {without("xl/worksheets/sheet1.xml"), "the sheet 2024 is missing"},
		"no strings":        {without("xl/sharedStrings.xml"), "xl/sharedStrings.xml is missing"},
		"no workbook":       {without("_rels/.rels"), "this is no workbook"},
		"no sheets":         {with("xl/workbook.xml", "<workbook><sheets/></workbook>"), "no sheet with cells"},
		"entities":          {with("xl/sharedStrings.xml", `<!DOCTYPE x [<!ENTITY a "aaaa">]><sst><si><t>&a;</t></si></sst>`), "document type"},
		"no XML":            {parts("<worksheet><sheetData><row r=\"1\"<c></row></sheetData>"), "no XML"},
	} {
		t.Run(name, func(t *testing.T) {
			_, err := read(t, zipped(t, test.parts))
			require.Error(t, err)
			require.Contains(t, err.Error(), test.want)
			var row *table.RowError
			var file *table.FileError
			require.True(t, errors.As(err, &row) || errors.As(err, &file))
		})
	}
}

// A tail of styled rows costs nothing, wherever it stands.
func TestStyledTail(t *testing.T) {
	var b strings.Builder
	b.WriteString(`<worksheet><sheetData><row r="1"><c><v>1</v></c></row>`)
	for i := 2; i < 60_000; i++ {
		fmt.Fprintf(&b, `<row r="%d" s="3" customFormat="1"><c r="A%d" s="3"/></row>`, i, i)
	}
	tail := b.String()
	rows, err := read(t, zipped(t, parts(tail+`</sheetData></worksheet>`)))
	require.NoError(t, err)
	require.Equal(t, []string{"1 #1"}, rows)
	rows, err = read(t, zipped(t, parts(tail+`<row r="60000"><c><v>2</v></c></row></sheetData></worksheet>`)))
	require.NoError(t, err)
	require.Len(t, rows, 60_000)
	require.Equal(t, "60000 #2", rows[59_999])
}

// What another library writes is read as it was meant.
func TestAgainstExcelize(t *testing.T) {
	r := rand.New(rand.NewPCG(1, 2))
	f := excelize.NewFile()
	defer f.Close()
	day, err := f.NewStyle(&excelize.Style{NumFmt: 14})
	require.NoError(t, err)
	custom := `dd" of "mmmm yyyy`
	long, err := f.NewStyle(&excelize.Style{CustomNumFmt: &custom})
	require.NoError(t, err)
	var want []string
	for row := 1; row <= 3000; row++ {
		var cells []string
		for column := 1; column <= 8; column++ {
			at, err := excelize.CoordinatesToCellName(column, row)
			require.NoError(t, err)
			text := ""
			switch r.IntN(6) {
			case 0:
				text = fmt.Sprintf("Text <%d> & \"more\"", r.IntN(300))
				require.NoError(t, f.SetCellStr("Sheet1", at, text))
			case 1:
				n := r.IntN(100_000_000)
				require.NoError(t, f.SetCellFloat("Sheet1", at, float64(n)/100, 2, 64))
				text = "#" + strings.TrimSuffix(strings.TrimRight(fmt.Sprintf("%d.%02d", n/100, n%100), "0"), ".")
			case 2:
				require.NoError(t, f.SetCellInt("Sheet1", at, int64(r.IntN(1000))-500))
				v, err := f.GetCellValue("Sheet1", at)
				require.NoError(t, err)
				text = "#" + v
			case 3:
				d := time.Date(1970+r.IntN(80), time.Month(1+r.IntN(12)), 1+r.IntN(28), 0, 0, 0, 0, time.UTC)
				require.NoError(t, f.SetCellValue("Sheet1", at, d))
				require.NoError(t, f.SetCellStyle("Sheet1", at, at, []int{day, long}[r.IntN(2)]))
				text = "@" + d.Format("2006-01-02")
			case 4:
				require.NoError(t, f.SetCellBool("Sheet1", at, true))
				text = "!TRUE"
			}
			cells = append(cells, text)
		}
		for len(cells) > 0 && cells[len(cells)-1] == "" {
			cells = cells[:len(cells)-1]
		}
		want = append(want, fmt.Sprintf("%d %s", row, strings.Join(cells, "|")))
	}
	var b bytes.Buffer
	require.NoError(t, f.Write(&b))
	have, err := read(t, b.Bytes())
	require.NoError(t, err)
	for i := range want {
		require.Equal(t, want[i], strings.TrimRight(have[i], "|"))
	}
}

func TestDateFormats(t *testing.T) {
	for code, want := range map[string]bool{
		"General": false, "0.00": false, "#,##0.00 €": false, "0.00E+00": false, "@": false, `0 "days"`: false, "[Red]0.00": false,
		"[h]:mm": false, "Standard": false,
		"yyyy-mm-dd": true, "d/m/yy": true, "mmm yyyy": true, "mmmm": true, "hh:mm:ss": true, "TT.MM.JJJJ": true, "jj/mm/aaaa": true,
		`[$-409]d\-mmm\-yy;@`: true, `mm/dd/yyyy\ hh:mm\ AM/PM`: true, "GG.MM.AAAA": true,
	} {
		require.Equal(t, want, isDate(code), code)
	}
}

// FuzzSheet: no XML panics or is read without end.
func FuzzSheet(f *testing.F) {
	f.Add(`<row r="1"><c r="A1" t="s"><v>0</v></c></row>`)
	f.Add(`<row><c t="inlineStr"><is><t>x</t></is></c><c s="1"><v>45292.5</v></c></row><row/>`)
	f.Add(`<row r="1"><c><f/></c></row><!-- -->`)
	f.Fuzz(func(t *testing.T, sheet string) {
		rows, err := read(t, zipped(t, parts("<worksheet><sheetData>"+sheet+"</sheetData></worksheet>")))
		if err == nil {
			for i, r := range rows {
				require.True(t, strings.HasPrefix(r, fmt.Sprintf("%d ", i+1)), r)
			}
		}
	})
}

func BenchmarkSheet(b *testing.B) {
	var s strings.Builder
	s.WriteString("<worksheet><sheetData>")
	const rows = 20_000
	for i := 1; i <= rows; i++ {
		fmt.Fprintf(&s, `<row r="%d"><c r="A%d" t="s"><v>0</v></c><c r="B%d" t="s"><v>1</v></c><c r="C%d" s="1"><v>45292</v></c>`, i, i, i, i)
		for c := 'D'; c <= 'O'; c++ {
			fmt.Fprintf(&s, `<c r="%c%d"><v>%d.%02d</v></c>`, c, i, i%977, i%100)
		}
		s.WriteString("</row>")
	}
	s.WriteString("</sheetData></worksheet>")
	data := zipped(b, parts(s.String()))
	members, err := packed.Members(bytes.NewReader(data), int64(len(data)), packed.Default)
	require.NoError(b, err)
	tables, err := Open(members, packed.Default, &packed.Shelf{})
	require.NoError(b, err)
	for b.Loop() {
		src, err := tables[0].Open(table.Reading{})
		require.NoError(b, err)
		var buf []byte
		var r table.Rows
		for {
			block, err := src.Next(buf)
			if err == io.EOF {
				break
			}
			require.NoError(b, err)
			r.Reset()
			require.NoError(b, src.Split(block, &r))
			buf = block.Data
		}
	}
	b.ReportMetric(float64(rows*b.N)/b.Elapsed().Seconds(), "rows/s")
}
