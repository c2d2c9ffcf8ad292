// Package hostile makes files that are small where they are kept and large where they are read, or
// that would make a careless reader look at the same bytes again and again: what a stranger may send.
// They are made up, and the same every time.
package hostile

import (
	"fmt"
	"io"
	"strings"
	"time"
)

// Case is a folder with such files, and what a build of it comes to.
type Case struct {
	Name  string
	Files []File
	Plan  string        // the entry and the columns, without the version and the deliveries
	Says  string        // what the error says; "" where the table is delivered
	Most  int           // MB of memory
	Time  time.Duration // at most, on one core at ease
	Large bool          // it takes long to make
}

// File is one of them.
type File struct {
	Name  string // within raw/
	Write func(w io.Writer) error
}

// Plain is the plan of two columns.
const Plain = "extracts: [{ files: raw/* }]\nfact: { branch: name, amount: number }\n"

// Dropping is the plan that leaves other columns aside.
const Dropping = "extracts: [{ files: raw/*, others: drop }]\nfact: { branch: name, amount: number }\n"

// text writes a text as often as it says.
func text(w io.Writer, text string, times int) error {
	piece := strings.Repeat(text, max(1, min(times, 64<<10/max(1, len(text)))))
	per := len(piece) / len(text)
	for ; times >= per; times -= per {
		if _, err := io.WriteString(w, piece); err != nil {
			return err
		}
	}
	_, err := io.WriteString(w, strings.Repeat(text, times))
	return err
}

// steps writes one thing after another.
func steps(all ...func(io.Writer) error) func(io.Writer) error {
	return func(w io.Writer) error {
		for _, one := range all {
			if err := one(w); err != nil {
				return err
			}
		}
		return nil
	}
}

func says(s string) func(io.Writer) error { return times(s, 1) }

func times(s string, n int) func(io.Writer) error {
	return func(w io.Writer) error { return text(w, s, n) }
}

// each writes what is made of the numbers from 0 to n-1.
func each(n int, make func(i int) string) func(io.Writer) error {
	return func(w io.Writer) error {
		var b strings.Builder
		for i := range n {
			b.WriteString(make(i))
			if b.Len() > 1<<16 || i == n-1 {
				if _, err := io.WriteString(w, b.String()); err != nil {
					return err
				}
				b.Reset()
			}
		}
		return nil
	}
}

// Cases are all of them.
func Cases() []Case {
	all := append(workbooks(), documents()...)
	all = append(all, archives()...)
	return append(all, texts()...)
}

// workbooks are those of .xlsx.
func workbooks() []Case {
	const row = `<row r="2"><c r="A2" t="s"><v>2</v></c><c r="B2"><v>5</v></c></row>`
	const strings3 = `<si><t>branch</t></si><si><t>amount</t></si>`
	one := func(name, sheet string, strings func(io.Writer) error) File {
		return File{name, book(strings, says(sheet))}
	}
	big := func(n int) func(io.Writer) error {
		return steps(says(strings3+`<si><t>`), times("Old Slip ", n/9), says(`</t></si>`))
	}
	thousands := steps(says(strings3), each(700_000, func(i int) string {
		return "<si><t>" + noise(i, 250) + strings.Repeat("x", 750) + "</t></si>"
	}))
	cells := func(text func(io.Writer) error) File {
		return File{"a.xlsx", book(says(strings3), steps(says(header), text))}
	}
	hold := func(before, text string, n int, after string) func(io.Writer) error {
		return steps(says(`<row r="2"><c r="A2" t="inlineStr">`+before), times(text, n), says(after+`</c><c r="B2"><v>5</v></c></row>`))
	}
	return []Case{
		{Name: "a string of 1 GB", Files: []File{one("a.xlsx", header+row, big(1<<30))}, Says: "unpacks to far more",
			Most: 300, Time: 2 * time.Second, Large: true},
		{Name: "strings of 1,000 characters, 700 MB", Files: []File{one("a.xlsx", header+row, thousands)}, Says: "shared strings",
			Most: 1000, Time: 20 * time.Second, Large: true},
		{Name: "a string of 64 MB", Files: []File{one("a.xlsx", header+row, big(60<<20))}, Most: 2000, Time: 10 * time.Second, Plan: Plain},
		{Name: "an attribute of 64 MB", Files: []File{cells(steps(says(`<row r="2" x="`), times("Old Slip ", 7<<20),
			says(`"><c r="B2"><v>5</v></c></row>`)))}, Plan: "extracts: [{ files: raw/*, others: drop }]\nfact: { amount: number }\n", Most: 700,
			Time: 4 * time.Second},
		{Name: "the end of a row, within a cell", Files: []File{cells(hold("<is><t>", "row>", 1<<18, "</t></is>"))}, Most: 300,
			Time: 2 * time.Second},
		{Name: "the end of a row, within CDATA", Files: []File{cells(hold("<is><t><![CDATA[", "</row>", 700_000, "]]></t></is>"))}, Most: 400,
			Time: 3 * time.Second},
		{Name: "the end of a row, in many CDATA", Files: []File{cells(hold("<is><t>", "<![CDATA[</row>]]>", 200_000, "</t></is>"))}, Most: 400,
			Time: 3 * time.Second},
		{Name: "many beginnings of comments", Files: []File{cells(hold("<is><t>Old Slip", "<!--", 1<<18, "--></t></is>"))}, Most: 400,
			Time: 3 * time.Second},
		{Name: "cells that point to one string of 1 MB", Files: []File{{"a.xlsx", book(big(1<<20), steps(says(header), each(4200,
			func(i int) string {
				return fmt.Sprintf(`<row r="%d"><c r="A%d" t="s"><v>2</v></c><c r="B%d"><v>5</v></c></row>`, i+2, i+2, i+2)
			})))}}, Says: "take more", Most: 300, Time: 3 * time.Second},
		{Name: "a cell in the last column of 5,000 rows", Files: []File{cells(each(5000, func(i int) string {
			return fmt.Sprintf(`<row r="%d"><c r="XFD%d"><v>5</v></c></row>`, i+2, i+2)
		}))}, Says: "cells", Most: 300, Time: 3 * time.Second},
		{Name: "a blank cell in the last column of 5,000 rows", Files: []File{cells(each(5000, func(i int) string {
			return fmt.Sprintf(`<row r="%d"><c r="A%d" t="s"><v>0</v></c><c r="B%d"><v>5</v></c><c r="XFD%d" s="1"/></row>`, i+2, i+2, i+2, i+2)
		}))}, Most: 300, Time: 3 * time.Second},
		{Name: "an instruction that does not end", Files: []File{cells(hold("<is><t>Old", "<? Slip", 1, "</t></is>"))}, Says: "damaged",
			Most: 100, Time: 2 * time.Second},
		{Name: "a quote that does not end", Files: []File{cells(says(`<row r="2"><c r="A2><is><t>Old</t></is></c><c r="B2"><v>5</v></c></row>`))},
			Says: "damaged", Most: 100, Time: 2 * time.Second},
		{Name: "a cell that does not end", Files: []File{cells(says(`<row r="2"><c r="A2" t="s"><v>0</v></c><c r="B2"><v>5</v></row>`))},
			Says: "damaged", Most: 100, Time: 2 * time.Second},
		{Name: "20,000 sheets", Files: []File{{"a.xlsx", sheets(20_000)}}, Says: "sheets", Most: 300, Time: 5 * time.Second, Large: true},
		{Name: "20 workbooks with strings of their own", Files: manyBooks(20), Plan: Dropping, Most: 190, Time: 8 * time.Second, Large: true},
	}
}

// documents are those of .ods.
func documents() []Case {
	cell := func(s string) string {
		return `<table:table-cell office:value-type="string"><text:p>` + s + `</text:p></table:table-cell>`
	}
	const number = `<table:table-cell office:value-type="float" office:value="5"/>`
	head := `<table:table-row>` + cell("branch") + cell("amount") + `</table:table-row>`
	sheet := func(name string, rows func(io.Writer) error) func(io.Writer) error {
		return steps(says(`<table:table table:name="`+name+`">`+head), rows, says(`</table:table>`))
	}
	return []Case{
		{Name: "20 rows that stand 100,000 times", Files: []File{{"a.ods", document(sheet("a", times(`<table:table-row `+
			`table:number-rows-repeated="100000">`+`<table:table-cell table:number-columns-repeated="99" office:value-type="string">`+
			`<text:p>x</text:p></table:table-cell></table:table-row>`, 20)))}}, Says: "cells", Most: 300, Time: 3 * time.Second},
		{Name: "a cell of a document that does not end", Files: []File{{"a.ods", document(sheet("a", says(`<table:table-row>`+
			`<table:table-cell office:value-type="string"><text:p>Old Slip</text:p>`+number+`</table:table-row>`)))}}, Says: "damaged",
			Most: 100, Time: 2 * time.Second},
		{Name: "8,000 sheets in a document", Files: []File{{"a.ods", document(func(w io.Writer) error {
			for i := range 8000 {
				if err := sheet(fmt.Sprint("s", i), says(`<table:table-row>`+cell("Old Slip")+number+`</table:table-row>`))(w); err != nil {
					return err
				}
			}
			return nil
		})}}, Says: "sheets", Most: 300, Time: 5 * time.Second},
		{Name: "900 sheets in a document", Files: []File{{"a.ods", document(func(w io.Writer) error {
			for i := range 900 {
				rows := times(`<table:table-row>`+cell("Old Slip")+number+`</table:table-row>`, 200)
				if err := sheet(fmt.Sprint("s", i), rows)(w); err != nil {
					return err
				}
			}
			return nil
		})}}, Most: 300, Time: 20 * time.Second, Large: true},
		{Name: "a paragraph of 64 MB", Files: []File{{"a.ods", document(sheet("a", steps(says(`<table:table-row>`+
			`<table:table-cell office:value-type="string"><text:p>`), times("Old Slip ", 7<<20),
			says(`</text:p></table:table-cell>`+number+`</table:table-row>`))))}}, Most: 2000, Time: 10 * time.Second},
	}
}

// columns is a text of one row with so many columns beside the usual ones.
func columns(n int, header, cell string) func(io.Writer) error {
	return steps(says("branch,amount"), each(n, func(i int) string { return fmt.Sprintf(header, i) }), says("\nOld Slip,1"),
		times(cell, n), says("\n"))
}

// texts are text files, and plans.
func texts() []Case {
	wide := func(n int) func(io.Writer) error { return columns(n, ",c%d", ",2") }
	csv := func(write func(io.Writer) error) []File { return []File{{"a.csv", write}} }
	return []Case{
		{Name: "a header of 16,000 identical texts", Files: csv(steps(says("branch,amount"), times(",same", 16_000), says("\nOld Slip,1"),
			times(",2", 16_000), says("\n"))), Says: "same", Most: 300, Time: 3 * time.Second},
		{Name: "1,000,000 columns that nothing claims", Files: csv(wide(1_000_000)), Says: "claims", Most: 500, Time: 10 * time.Second},
		{Name: "1,000,000 columns that are dropped", Files: csv(wide(1_000_000)),
			Plan: Dropping, Most: 500, Time: 10 * time.Second},
		{Name: "200,000 wide columns", Files: csv(steps(says("branch"), each(200_000, func(i int) string { return fmt.Sprintf(",c%d", i) }),
			says("\nOld Slip"), times(",2", 200_000), says("\n"))), Plan: "" +
			"extracts: [{ files: raw/*, unpivot: { columns: [\"c*\"], header: \"c{n}\", cell: amount } }]\n" +
			"fact: { branch: name, n: text, amount: number }\n", Most: 440, Time: 5 * time.Second},
		{Name: "100 rows of 1 MB without a measure", Files: csv(steps(says("branch,amount\nOld Slip,5\n"),
			times(strings.Repeat("Old Slip ", 110_000)+",\n", 100))), Says: "have no measure", Most: 400, Time: 4 * time.Second},
		{Name: "5,000,000 rows without a measure", Files: csv(steps(says("branch,amount\nOld Slip,5\n"), times("Gannet Quay,\n", 5_000_000))),
			Says: "have no measure", Most: 900, Time: 4 * time.Second},
		{Name: "a plan of 90,000 keys", Files: csv(says("branch,amount\nOld Slip,1\n")),
			Plan: Plain + "x:\n" + keys(90_000), Says: "a plan has at most", Most: 400, Time: 5 * time.Second},
		{Name: "a plan of 9,900 keys", Files: csv(says("branch,amount\nOld Slip,1\n")),
			Plan: Plain + "x:\n" + keys(9900), Says: "no key", Most: 200, Time: 3 * time.Second},
		{Name: "a plan of aliases of aliases", Files: csv(says("branch,amount\nOld Slip,1\n")),
			Plan: Plain + aliases(), Says: "values", Most: 200, Time: 2 * time.Second},
		{Name: "two tables of 16,000 columns each, none the same", Files: []File{
			{"a.csv", columns(16_000, ",a%d", ",x")}, {"b.csv", columns(16_000, ",b%d", ",x")}},
			Plan: Dropping, Most: 200, Time: 5 * time.Second},
		{Name: "a glob with 30 choices", Files: csv(says("branch,amount\nOld Slip,1\n")),
			Plan: "extracts: [{ files: \"raw/" + strings.Repeat("{a,b}", 30) + ".csv\" }]\nfact: { branch: name, amount: number }\n",
			Says: "choices", Most: 200, Time: 2 * time.Second},
		{Name: "a glob of 30 folders", Files: csv(says("branch,amount\nOld Slip,1\n")),
			Plan: "extracts: [{ files: \"raw/" + strings.Repeat("**/", 30) + "*.csv\" }]\nfact: { branch: name, amount: number }\n",
			Says: "more than 8 times", Most: 200, Time: 2 * time.Second},
	}
}

func keys(n int) string {
	var b strings.Builder
	for i := range n {
		fmt.Fprintf(&b, " k%d: 1\n", i)
	}
	return b.String()
}

// aliases is a key whose value stands nine times within the next one, ten times over.
func aliases() string {
	var b strings.Builder
	b.WriteString("a0: &a0 [x]\n")
	for i := range 10 {
		fmt.Fprintf(&b, "a%d: &a%d [%s*a%d]\n", i+1, i+1, strings.Repeat(fmt.Sprintf("*a%d, ", i), 8), i)
	}
	return b.String()
}
