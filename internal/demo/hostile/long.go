package hostile

import (
	"compress/gzip"
	"fmt"
	"io"
)

// Long are extracts of so many rows, none of them hostile, by how they are packed: of 200 branches, with
// amounts that differ.
func Long(rows int) map[string][]File {
	text := func(from, to int) func(io.Writer) error {
		return steps(says("branch,amount\n"), each(to-from, func(i int) string { return fmt.Sprintf("Berth %d,%d.25\n", i%200, from+i) }))
	}
	packed := func(w io.Writer) error {
		z := gzip.NewWriter(w)
		if err := text(0, rows)(z); err != nil {
			return err
		}
		return z.Close()
	}
	var members []member
	var texts, books []File
	for k := range 20 {
		part := text(k*rows/20, (k+1)*rows/20)
		members = append(members, member{fmt.Sprintf("p%d.csv", k), part})
		texts = append(texts, File{fmt.Sprintf("p%d.csv", k), part})
		books = append(books, File{fmt.Sprintf("p%d.xlsx", k), longBook(k*rows/20, (k+1)*rows/20)})
	}
	return map[string][]File{"one text": {{"a.csv", text(0, rows)}}, "20 texts": texts, "a packed text": {{"a.csv.gz", packed}},
		"an archive": {{"a.zip", zipped(members...)}}, "one workbook": {{"a.xlsx", longBook(0, rows)}}, "20 workbooks": books,
		"a sheet document": {{"a.ods", longDocument(rows)}}}
}

func longBook(from, to int) func(io.Writer) error {
	names := each(200, func(i int) string { return fmt.Sprintf("<si><t>Berth %d</t></si>", i) })
	const row = `<row r="%[1]d"><c r="A%[1]d" t="s"><v>%[2]d</v></c><c r="B%[1]d"><v>%[3]d.25</v></c></row>`
	return book(steps(says(`<si><t>branch</t></si><si><t>amount</t></si>`), names), steps(says(header), each(to-from, func(i int) string {
		return fmt.Sprintf(row, i+2, i%200+2, from+i)
	})))
}

func longDocument(rows int) func(io.Writer) error {
	const cell = `<table:table-cell office:value-type="string"><text:p>%s</text:p></table:table-cell>`
	const row = `<table:table-row>` + cell + `<table:table-cell office:value-type="float" office:value="%d.25"/></table:table-row>`
	head := `<table:table table:name="a"><table:table-row>` + fmt.Sprintf(cell, "branch") + fmt.Sprintf(cell, "amount") + `</table:table-row>`
	return document(steps(says(head), each(rows, func(i int) string { return fmt.Sprintf(row, fmt.Sprintf("Berth %d", i%200), i) }),
		says(`</table:table>`)))
}
