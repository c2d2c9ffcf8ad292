package main

import (
	"archive/zip"
	"bytes"
	"fmt"
	"html"
	"io"
	"log"
	"math/rand/v2"
	"slices"
	"strings"
)

// packed packs files in the order of their names, without times.
func packed(files map[string]string) []byte {
	var names []string
	for name := range files {
		names = append(names, name)
	}
	slices.Sort(names)
	var b bytes.Buffer
	z := zip.NewWriter(&b)
	for _, name := range names {
		w, err := z.CreateHeader(&zip.FileHeader{Name: name, Method: zip.Deflate})
		if err == nil {
			_, err = io.WriteString(w, files[name])
		}
		if err != nil {
			log.Fatal(err)
		}
	}
	if err := z.Close(); err != nil {
		log.Fatal(err)
	}
	return b.Bytes()
}

const xml = `<?xml version="1.0" encoding="UTF-8" standalone="yes"?>` + "\n"

// workbook writes the sheets of a coast: one a year, and a hidden one.
func workbook(r *rand.Rand, c coast, years []int) []byte {
	const main = `xmlns="http://schemas.openxmlformats.org/spreadsheetml/2006/main"`
	const refs = `http://schemas.openxmlformats.org/officeDocument/2006/relationships`
	parts := map[string]string{
		"_rels/.rels": xml + `<Relationships xmlns="http://schemas.openxmlformats.org/package/2006/relationships"><Relationship ` +
			`Id="rId1" Type="` + refs + `/officeDocument" Target="xl/workbook.xml"/></Relationships>`,
		"xl/styles.xml": xml + `<styleSheet ` + main + `><numFmts count="1"><numFmt numFmtId="164" formatCode="mmm\ yyyy"/></numFmts>` +
			`<fonts count="1"><font/></fonts><fills count="1"><fill/></fills><borders count="1"><border/></borders><cellStyleXfs ` +
			`count="1"><xf/></cellStyleXfs><cellXfs count="2"><xf numFmtId="0"/><xf numFmtId="164" applyNumberFormat="1"/></cellXfs></styleSheet>`,
	}
	types := `<Override PartName="/xl/workbook.xml" ` +
		`ContentType="application/vnd.openxmlformats-officedocument.spreadsheetml.sheet.main+xml"/><Override ` +
		`PartName="/xl/styles.xml" ContentType="application/vnd.openxmlformats-officedocument.spreadsheetml.styles+xml"/>`
	var list, rels string
	add := func(name, state, sheet string) {
		n := strings.Count(list, "<sheet ") + 1
		part := fmt.Sprintf("worksheets/sheet%d.xml", n)
		list += fmt.Sprintf(`<sheet name="%s" sheetId="%d"%s r:id="rId%d"/>`, name, n, state, n)
		rels += fmt.Sprintf(`<Relationship Id="rId%d" Type="%s/worksheet" Target="%s"/>`, n, refs, part)
		types += fmt.Sprintf(`<Override PartName="/xl/%s" `+
			`ContentType="application/vnd.openxmlformats-officedocument.spreadsheetml.worksheet+xml"/>`, part)
		parts["xl/"+part] = xml + `<worksheet ` + main + `>` + sheet + `</worksheet>`
	}
	for _, year := range years {
		add(fmt.Sprint(year), "", sheet(r, c, year))
	}
	add("Old prices", ` state="hidden"`, `<sheetData><row r="1"><c r="A1" t="inlineStr"><is><t>not for the sales table</t></is></c>`+
		`</row></sheetData>`)
	rels += `<Relationship Id="rId99" Type="` + refs + `/styles" Target="styles.xml"/>`
	parts["xl/workbook.xml"] = xml + `<workbook ` + main + ` xmlns:r="` + refs + `"><sheets>` + list + `</sheets></workbook>`
	parts["xl/_rels/workbook.xml.rels"] = xml + `<Relationships xmlns="http://schemas.openxmlformats.org/package/2006/relationships">` +
		rels + `</Relationships>`
	parts["[Content_Types].xml"] = xml + `<Types xmlns="http://schemas.openxmlformats.org/package/2006/content-types"><Default ` +
		`Extension="rels" ContentType="application/vnd.openxmlformats-package.relationships+xml"/><Default Extension="xml" ` +
		`ContentType="application/xml"/>` + types + `</Types>`
	return packed(parts)
}

// writer writes the rows of a sheet.
type writer struct {
	b   strings.Builder
	row int
}

func (w *writer) begin() {
	w.row++
	fmt.Fprintf(&w.b, `<row r="%d">`, w.row)
}

func (w *writer) end() { w.b.WriteString("</row>") }

func (w *writer) cell(column int, attrs, inner string) {
	fmt.Fprintf(&w.b, `<c r="%c%d"%s>%s</c>`, 'A'+column, w.row, attrs, inner)
}

func (w *writer) text(column int, text string) {
	if text != "" {
		w.cell(column, ` t="inlineStr"`, `<is><t xml:space="preserve">`+html.EscapeString(text)+`</t></is>`)
	}
}

// mills writes a number of thousandths.
func mills(n int) string {
	s := fmt.Sprintf("%d.%03d", n/1000, n%1000)
	return strings.TrimSuffix(strings.TrimRight(s, "0"), ".")
}

// sheet writes one year: titles, a table with its branches merged, the months as
// dates, totals below each branch, below all and to the right.
func sheet(r *rand.Rand, c coast, year int) string {
	w := &writer{}
	w.begin()
	w.text(0, "Coast: "+c.name)
	w.end()
	w.begin()
	w.text(0, fmt.Sprintf("Net sales in euro, %d", year))
	w.end()
	w.row++
	order := r.Perm(len(products))
	w.begin()
	w.text(0, spelt(r, "Branch", "Outlet"))
	w.text(1, spelt(r, "Month", "Period"))
	for i, p := range order {
		h := spelt(r, products[p].name, products[p].typed...)
		if year == 2025 && products[p].name == "Bilge Pump" {
			h = surprise
		}
		w.text(2+i, h)
	}
	last := 2 + len(order)
	w.text(last, "Total")
	w.end()
	var merged []string
	all := make([]int, len(order))
	for _, branch := range c.branches {
		sums := make([]int, len(order))
		merged = append(merged, fmt.Sprintf(`<mergeCell ref="A%d:A%d"/>`, w.row+1, w.row+12))
		for month := 1; month <= 12; month++ {
			w.begin()
			if month == 1 {
				w.text(0, branch)
			}
			w.cell(1, ` s="1"`, fmt.Sprintf("<v>%d</v>", serial(year, month)))
			across := 0
			for i, p := range order {
				n := w.amount(2+i, r, products[p], month, year)
				sums[i] += n
				across += n
			}
			w.cell(last, "", "<v>"+mills(across)+"</v>")
			w.end()
		}
		w.totals(branch+" total", sums)
		for i, s := range sums {
			all[i] += s
		}
	}
	w.totals("Grand total", all)
	return `<sheetData>` + w.b.String() + `</sheetData><mergeCells>` + strings.Join(merged, "") + `</mergeCells>`
}

func (w *writer) totals(label string, sums []int) {
	w.begin()
	w.text(0, label)
	for i, s := range sums {
		w.cell(2+i, "", "<v>"+mills(s)+"</v>")
	}
	w.end()
}

// serial is the number of the first day of a month in a sheet.
func serial(year, month int) int {
	days := 0
	for y := 1900; y < year; y++ {
		days += 365
		if y%4 == 0 && (y%100 != 0 || y%400 == 0) {
			days++
		}
	}
	for m := 1; m < month; m++ {
		days += []int{31, 28, 31, 30, 31, 30, 31, 31, 30, 31, 30, 31}[m-1]
		if m == 2 && year%4 == 0 {
			days++
		}
	}
	return days + 2 // day 1 is the first, and the sheet counts a day too many
}

// amount writes one cell and returns its thousandths: 0 where it is no number.
func (w *writer) amount(column int, r *rand.Rand, p product, month, year int) int {
	cents := usual(r, p, month, year)
	thousandths := w.put(column, r, cents)
	booked[place{"Lakes", year}] += (thousandths + 5) / 10
	return thousandths
}

// put writes a cell of so many cents, or what else may stand there.
func (w *writer) put(column int, r *rand.Rand, cents int) int {
	pick := func(of []string) string { return of[r.IntN(len(of))] }
	switch k := r.IntN(1000); {
	case k < 40:
		return 0
	case k < 55:
		w.text(column, pick(nulls))
		return 0
	case k < 62:
		w.text(column, pick(words))
		return 0
	case k < 66:
		w.text(column, pick(unclear))
		return 0
	case k < 76:
		w.cell(column, ` t="e"`, "<v>"+pick(broken)+"</v>")
		return 0
	case k < 82: // three places
		w.cell(column, "", "<v>"+mills(cents*10+5)+"</v>")
		return cents*10 + 5
	case k < 95: // a number kept as text
		w.text(column, "€ "+digits(cents, true))
		return cents * 10
	}
	w.cell(column, "", "<v>"+mills(cents*10)+"</v>")
	return cents * 10
}
