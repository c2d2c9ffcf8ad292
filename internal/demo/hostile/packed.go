package hostile

import (
	"archive/zip"
	"bytes"
	"encoding/hex"
	"fmt"
	"io"
	"math/rand/v2"
	"strings"
	"time"
)

// header is the first row of a sheet.
const header = `<row r="1"><c r="A1" t="s"><v>0</v></c><c r="B1" t="s"><v>1</v></c></row>`

// noise is a text of so many characters that hardly packs.
func noise(seed, n int) string {
	r := rand.New(rand.NewPCG(uint64(seed), 7))
	b := make([]byte, n/2)
	for i := range b {
		b[i] = byte(r.Uint32())
	}
	return hex.EncodeToString(b)
}

// member is one of an archive.
type member struct {
	name  string
	write func(io.Writer) error
}

// zipped packs members.
func zipped(members ...member) func(io.Writer) error {
	return func(w io.Writer) error {
		z := zip.NewWriter(w)
		for _, m := range members {
			to, err := z.Create(m.name)
			if err == nil {
				err = m.write(to)
			}
			if err != nil {
				return err
			}
		}
		return z.Close()
	}
}

const (
	types     = `<Types xmlns="http://schemas.openxmlformats.org/package/2006/content-types"/>`
	relations = `<Relationships xmlns="http://schemas.openxmlformats.org/package/2006/relationships">`
	kinds     = `http://schemas.openxmlformats.org/officeDocument/2006/relationships/`
)

// frame are the members of a workbook but for its sheets and strings.
func frame(sheets int) []member {
	return []member{
		{"[Content_Types].xml", says(types)},
		{"_rels/.rels", says(relations + `<Relationship Id="r1" Type="` + kinds + `officeDocument" Target="xl/workbook.xml"/></Relationships>`)},
		{"xl/workbook.xml", steps(says(`<workbook><sheets>`), each(sheets, func(i int) string {
			return fmt.Sprintf(`<sheet name="s%d" sheetId="%d" r:id="s%d"/>`, i, i+1, i)
		}), says(`</sheets></workbook>`))},
		{"xl/_rels/workbook.xml.rels", steps(says(relations+`<Relationship Id="t" Type="`+kinds+`sharedStrings" Target="sharedStrings.xml"/>`),
			each(sheets, func(i int) string {
				return fmt.Sprintf(`<Relationship Id="s%d" Type="%sworksheet" Target="worksheets/s%d.xml"/>`, i, kinds, i)
			}), says(`</Relationships>`))},
	}
}

func sheetOf(rows func(io.Writer) error) func(io.Writer) error {
	return steps(says(`<worksheet><sheetData>`), rows, says(`</sheetData></worksheet>`))
}

// book is a workbook with one sheet.
func book(texts, rows func(io.Writer) error) func(io.Writer) error {
	return zipped(append(frame(1), member{"xl/sharedStrings.xml", steps(says(`<sst>`), texts, says(`</sst>`))},
		member{"xl/worksheets/s0.xml", sheetOf(rows)})...)
}

// sheets is a workbook of many.
func sheets(n int) func(io.Writer) error {
	all := append(frame(n), member{"xl/sharedStrings.xml", says(`<sst><si><t>branch</t></si><si><t>amount</t></si></sst>`)})
	for i := range n {
		all = append(all, member{fmt.Sprintf("xl/worksheets/s%d.xml", i), sheetOf(says(header + `<row r="2"><c r="B2"><v>5</v></c></row>`))})
	}
	return zipped(all...)
}

// manyBooks are workbooks of 1.4 MB, each with strings of its own.
func manyBooks(n int) (out []File) {
	const row = `<row r="%[1]d"><c r="A%[1]d" t="s"><v>0</v></c><c r="B%[1]d"><v>5</v></c><c r="C%[1]d" t="s"><v>%[1]d</v></c></row>`
	top := says(strings.Replace(header, `</row>`, `<c r="C1" t="s"><v>2</v></c></row>`, 1))
	rows := each(20_000, func(i int) string { return fmt.Sprintf(row, i+2) })
	for k := range n {
		remarks := each(20_000, func(i int) string { return `<si><t>` + noise(k<<20+i, 120) + `</t></si>` })
		out = append(out, File{fmt.Sprintf("b%03d.xlsx", k), book(
			steps(says(`<si><t>branch</t></si><si><t>amount</t></si><si><t>remark</t></si>`), remarks), steps(top, rows))})
	}
	return out
}

// document is a sheet document.
func document(sheets func(io.Writer) error) func(io.Writer) error {
	return zipped(member{"mimetype", says("application/vnd.oasis.opendocument.spreadsheet")}, member{"content.xml", steps(
		says(`<office:document-content><office:body><office:spreadsheet>`), sheets,
		says(`</office:spreadsheet></office:body></office:document-content>`))})
}

// archives are those that are no workbooks.
func archives() []Case {
	const rows = "branch,amount\nOld Slip,5\n"
	deep := func(w io.Writer) error {
		in := []byte(rows)
		name := "a.csv"
		for range 300 {
			var b bytes.Buffer
			if err := zipped(member{name, func(w io.Writer) error { _, err := w.Write(in); return err }})(&b); err != nil {
				return err
			}
			in, name = b.Bytes(), "a.zip"
		}
		_, err := w.Write(in)
		return err
	}
	return []Case{
		{Name: "an archive that holds itself", Files: []File{{"r.zip", itself}}, Says: "archive", Most: 200, Time: 2 * time.Second},
		{Name: "an archive 300 deep", Files: []File{{"d.zip", deep}}, Says: "archive", Most: 200, Time: 2 * time.Second},
		{Name: "87 KB that unpack to much over members", Files: []File{{"m.zip", overlapping(87 << 10)}}, Says: "unpack", Most: 200,
			Time: 2 * time.Second},
		{Name: "a column file that says it has 4 GB", Files: []File{{"a.parquet", says("PAR1\xf0\xff\xff\xffPAR1")}}, Says: "damaged",
			Most: 100, Time: 2 * time.Second},
		{Name: "members that say less than they hold", Files: []File{{"l.zip", liar}}, Says: "archive", Most: 200, Time: 3 * time.Second},
		{Name: "15,000 members", Files: []File{{"n.zip", func(w io.Writer) error {
			z := zip.NewWriter(w)
			for i := range 15_000 {
				to, err := z.Create(fmt.Sprintf("f%d.csv", i))
				if err == nil {
					_, err = fmt.Fprintf(to, "branch,amount\nOld Slip,%d\n", i)
				}
				if err != nil {
					return err
				}
			}
			return z.Close()
		}}}, Most: 500, Time: 6 * time.Second, Large: true},
	}
}
