package ods

import (
	"archive/zip"
	"bytes"
	"fmt"
	"io"
	"strings"
	"testing"

	"github.com/stretchr/testify/require"

	"umbau/internal/core/table"
	"umbau/internal/format/packed"
)

func zipped(t testing.TB, content string) []byte {
	var b bytes.Buffer
	z := zip.NewWriter(&b)
	w, err := z.Create("content.xml")
	require.NoError(t, err)
	_, err = io.WriteString(w, content)
	require.NoError(t, err)
	require.NoError(t, z.Close())
	return b.Bytes()
}

const head = `<?xml version="1.0"?><office:document-content><office:automatic-styles><style:style style:name="ta2" ` +
	`style:family="table"><style:table-properties table:display="false"/></style:style></office:automatic-styles><office:body>` +
	`<office:spreadsheet>`

func sheets(bodies ...string) string {
	var b strings.Builder
	b.WriteString(head)
	for i, body := range bodies {
		fmt.Fprintf(&b, `<table:table table:name="S%d" table:style-name="ta%d"><table:table-column/>%s</table:table>`, i+1, i+1, body)
	}
	return b.String() + `</office:spreadsheet></office:body></office:document-content>`
}

func read(t testing.TB, content string, sheet int) (out []string, err error) {
	data := zipped(t, content)
	members, err := packed.Members(bytes.NewReader(data), int64(len(data)), packed.Default)
	require.NoError(t, err)
	tables, err := Open(members, packed.Default, &packed.Shelf{})
	if err != nil {
		return nil, err
	}
	src, err := tables[sheet].Open(table.Reading{})
	require.NoError(t, err)
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
				cells = append(cells, []string{"", "#", "@", "!", "="}[rows.Kind(i, j)]+string(rows.Text(c)))
			}
			out = append(out, fmt.Sprintf("%d %s", rows.Lines[i], strings.Join(cells, "|")))
		}
	}
}

// What a sheet hides is told: rows that hold something, by a filter or by hand, and columns.
func TestHidden(t *testing.T) {
	row := func(seen string) string {
		return `<table:table-row table:number-rows-repeated="2"` + seen + `><table:table-cell>` + p("x") + `</table:table-cell></table:table-row>`
	}
	columns := `<table:table-column table:number-columns-repeated="2" table:visibility="collapse"/><table:table-column/>` +
		`<table:table-column table:visibility="collapse"/>`
	data := zipped(t, sheets(columns+row(""), columns+row("")+row(` table:visibility="filter"`)+row(` table:visibility="visible"`)+
		row(` table:visibility="collapse"`)))
	members, err := packed.Members(bytes.NewReader(data), int64(len(data)), packed.Default)
	require.NoError(t, err)
	tables, err := Open(members, packed.Default, &packed.Shelf{})
	require.NoError(t, err)
	src, err := tables[1].Open(table.Reading{})
	require.NoError(t, err)
	defer src.Close()
	for err == nil {
		_, err = src.Next(nil)
	}
	require.Equal(t, io.EOF, err)
	require.Equal(t, table.Facts{HiddenRows: table.Spans{{First: 3, Last: 4}, {First: 7, Last: 8}},
		HiddenColumns: table.Spans{{First: 2, Last: 3}, {First: 5, Last: 5}}}, src.Facts()) // behind the one that each sheet here has
}

func p(text string) string { return "<text:p>" + text + "</text:p>" }

func TestCells(t *testing.T) {
	for _, test := range []struct{ name, rows, want string }{
		{"texts", `<table:table-row><table:table-cell office:value-type="string">` +
			p("Dock &amp; <text:span>Line</text:span><text:s text:c=\"2\"/>x") + `</table:table-cell><table:table-cell>` + p("a") + p("b") +
			`</table:table-cell></table:table-row>`, "1 Dock & Line  x|a\nb"},
		{"values", `<table:table-row><table:table-cell office:value-type="float" office:value="1234.5599999999999">` + p("1.234,56") +
			`</table:table-cell><table:table-cell office:value-type="percentage" office:value="0.12"/><table:table-cell ` +
			`office:value-type="currency" office:currency="EUR" office:value="5"/><table:table-cell office:value-type="date" ` +
			`office:date-value="2024-03-01T00:00:00"/><table:table-cell office:value-type="date" ` +
			`office:date-value="2024-03-01T12:30:00.000"/><table:table-cell office:value-type="boolean" office:boolean-value="true"/>` +
			`</table:table-row>`,
			"1 #1234.56|#0.12|#EUR5|@2024-03-01|@2024-03-01 12:30:00|!TRUE"},
		{"repeats", `<table:table-row table:number-rows-repeated="2"><table:table-cell table:number-columns-repeated="2"/>` +
			`<table:table-cell table:number-columns-repeated="2" office:value-type="float" office:value="7"/><table:table-cell ` +
			`table:number-columns-repeated="16000"/></table:table-row>`, "1 ||#7|#7/2 ||#7|#7"},
		{"blank rows", `<table:table-row table:number-rows-repeated="3"><table:table-cell table:number-columns-repeated="16384"/>` +
			`</table:table-row><table:table-row><table:table-cell>` + p("x") +
			`</table:table-cell></table:table-row><table:table-row table:number-rows-repeated="1048572"><table:table-cell/></table:table-row>`,
			"1 /2 /3 /4 x"},
		{"notes and covered cells", `<table:table-row><table:table-cell><office:annotation>` + p("note") + `</office:annotation>` + p("x") +
			`</table:table-cell><table:covered-table-cell>` + p("old") +
			`</table:covered-table-cell><table:table-cell office:value-type="float" office:value="1"/></table:table-row>`, "1 x||#1"},
		{"texts in the attribute alone", `<table:table-row><table:table-cell office:value-type="string" office:string-value="Dock ` +
			`&amp; Line"/><table:table-cell office:value-type="string" office:string-value="x">` + p("shown") +
			`</table:table-cell></table:table-row>`, "1 Dock & Line|shown"},
		{"formula without a value", `<table:table-row><table:table-cell table:formula="of:=NOW()"/><table:table-cell ` +
			`table:formula="of:=1" office:value-type="float" office:value="1"/></table:table-row>`, "1 =|#1"},
		{"header rows", `<table:table-header-rows><table:table-row><table:table-cell>` + p("h") +
			`</table:table-cell></table:table-row></table:table-header-rows><table:table-row><table:table-cell>` + p("1") +
			`</table:table-cell></table:table-row>`, "1 h/2 1"},
	} {
		t.Run(test.name, func(t *testing.T) {
			for sheet := range 2 {
				rows, err := read(t, sheets(test.rows, test.rows), sheet)
				require.NoError(t, err)
				require.Equal(t, test.want, strings.Join(rows, "/"))
			}
		})
	}
}

func TestSheets(t *testing.T) {
	data := zipped(t, sheets("<table:table-row/>", "<table:table-row/>"))
	members, err := packed.Members(bytes.NewReader(data), int64(len(data)), packed.Default)
	require.NoError(t, err)
	tables, err := Open(members, packed.Default, &packed.Shelf{})
	require.NoError(t, err)
	require.Equal(t, "S1", tables[0].Sheet)
	require.False(t, tables[0].Hidden)
	require.True(t, tables[1].Hidden)
}

func TestDamaged(t *testing.T) {
	x := `<table:table-cell>` + p("x") + `</table:table-cell>`
	for name, test := range map[string]struct{ content, want string }{
		"absurd rows": {sheets(`<table:table-row table:number-rows-repeated="9000000">` + x + `</table:table-row>`), "more than 4000000 cells"},
		"absurd columns": {sheets(`<table:table-row><table:table-cell table:number-columns-repeated="900000000"><text:p>x</text:p>` +
			`</table:table-cell></table:table-row>`), "more than 16384 cells"},
		"too deep": {sheets(`<table:table-row table:number-rows-repeated="999999999"/><table:table-row>` + x + `</table:table-row>`),
			"more than 16777216 rows"},
		"no number": {sheets(`<table:table-row><table:table-cell office:value-type="float" office:value="abc"/></table:table-row>`),
			`holds the number "abc"`},
		"cut":       {head + `<table:table table:name="S"><table:table-row>` + x, "a sheet is cut"},
		"no sheets": {head + `</office:spreadsheet>`, "no sheets"},
		"a type":    {`<!DOCTYPE x>` + sheets(""), "document type"},
	} {
		t.Run(name, func(t *testing.T) {
			_, err := read(t, test.content, 0)
			require.Error(t, err)
			require.Contains(t, err.Error(), test.want)
		})
	}
}

// FuzzSheet: no XML panics or is read without end.
func FuzzSheet(f *testing.F) {
	f.Add(`<table:table-row><table:table-cell office:value-type="float" office:value="1.5"/></table:table-row>`)
	f.Add(`<table:table-row table:number-rows-repeated="3"><table:table-cell table:number-columns-repeated="2"><text:p>x</text:p>` +
		`</table:table-cell></table:table-row>`)
	f.Add(`<table:table-row><table:table-cell><office:annotation/><text:p>x<text:s/></text:p></table:table-cell></table:table-row>`)
	f.Fuzz(func(t *testing.T, rows string) {
		_, _ = read(t, sheets(rows), 0)
	})
}
