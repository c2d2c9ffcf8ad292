package treat_test

import (
	"testing"
)

// rowsCases are those of TestRows.
var rowsCases = []struct {
	name string
	job
	want string
}{
	{"blank rows, headers again, totals, notes", job{fact: "branch: text\nmonth: text\namount: whole",
		text: `
Branch|Month|Amount
Quay 4|Jan|1
|  |
BRANCH| month.|AMOUNT
Old Slip|Jan|2
Total||3
North total||
Quay 4|Feb|4
Grand total||7
as of 3 March||`}, `
Quay 4|Jan|1
Old Slip|Jan|2
Quay 4|Feb|4
total 6 Amount says 3, have 3
total 9 Amount says 7, have 7
tie amount: 7 + 0 = 7 + 0 + 0`},
	{"totals that are kept or dropped", job{entry: ", totals: keep, footnotes: keep",
		fact: "branch: text\namount: { is: whole, blanks: leave }",
		text: `
Branch|Amount
Quay 4|1
Total|1
a note|`}, `
Quay 4|1
Total|1
a note|
tie amount: 2 + 0 = 2 + 0 + 0`},
	{"a name of the book that has a total word", job{fact: "product: { is: name, book: book.csv, unknown: hold }\namount: whole",
		book: "Total Care Kit,Total Care Kit\n",
		text: `
Product|Amount
total care kit|1
Total Rope|2
Total|3`}, `
Total Care Kit|1
name product "total care kit" "Total Care Kit" spelling 1 at a.csv, row 2, header "Product"
total 3 Amount says 2, have 1
total 4 Amount says 3, have 1
tie amount: 1 + 0 = 1 + 0 + 0`},
	{"sections", job{entry: ", sections: family", fact: "family: { blanks: leave }\nproduct: text\namount: { is: whole, nulls: drop }",
		text: `
Product|Amount
Anchor|1
Ropes|
Dock Line|2
Bow Line|n/a

Lamps|
Bow Lamp|3
Total|6
The end|`}, `
|Anchor|1
Ropes|Dock Line|2
Lamps|Bow Lamp|3
gone 5 dropped by amount
total 9 Amount says 6, have 6
tie amount: 6 + 0 = 6 + 0 + 0`},
	{"a row that may be an amount heads nothing", job{entry: ", sections: family",
		fact: "family: { blanks: leave }\nproduct: { blanks: leave }\namount: { is: whole, unclear: hold, errors: hold }",
		text: `
Product|Amount
Ropes|
|12 pcs
|#REF!
Dock Line|2`}, `
Ropes|Dock Line|2
gone 3 held by amount: unclear
gone 4 held by amount: error
tie amount: 2 + 0 = 2 + 0 + 0`},
	{"short rows", job{entry: ", short_rows: fill", fact: "branch: text\nmonth: { blanks: leave }\namount: { is: whole, blanks: 0 }",
		text: `
Branch|Month|Amount
Quay 4
Old Slip|Jan
Boatyard|Feb|3`}, `
Quay 4||0
Old Slip|Jan|0
Boatyard|Feb|3
changed 2 amount blank
changed 3 amount blank
tie amount: 3 + 0 = 3 + 0 + 0`},
	{"only some rows", job{rows: `rows: { only: "=year >= 2023 and product != 'Oar'" }`,
		fact: "product: { is: name, book: book.csv }\nyear: year\namount: whole", book: "Buoy,Buoy\nOar,Oar\n",
		text: `
Product|Year|Amount
Buoy|2022|n/a
Oar|2023|x
BUOY|2023|3
Sail|2022|4`}, `
Buoy|2023|3
gone 2 filtered
gone 3 filtered
gone 5 filtered
name product "BUOY" "Buoy" spelling 1 at a.csv, row 4, header "Product"
tie amount: 7 + 0 = 3 + 0 + 4`},
	{"a filter over amounts in several currencies", job{rows: "rows: { only: =amount >= 2 or cost > 100 }", fact: `
			code: text
			amount: { is: number, unclear: 0 }
			paid: { headers: [Cost], blanks: leave }
			cost: { is: number, from: paid, unclear: hold }`,
		text: `
Code|Amount|Cost
early|$ 1|
first|€ 5|¥ 7
other|$ 9|£ 900
late|$ 9|¥ 300
small|€ 1|£ 8`}, `
first|5|¥ 7|7
late|0|¥ 300|300
gone 2 filtered
gone 4 held by cost: unclear
gone 6 held by cost: unclear
changed 5 amount unclear
tie amount: 7 + 0 = 5 + 1 + 1
tie cost: 307 + 0 = 307 + 0 + 0`},
	{"a filter that divides by zero", job{rows: "rows: { only: =amount / quantity > 2 }",
		fact: "product: text\nquantity: whole\namount: whole",
		text: "Product|Quantity|Amount\nBuoy|1|3\nOar|0|3\nSail|2|3"}, `
Buoy|1|3
Oar|0|3
gone 4 filtered
stop filter of : row 3
tie quantity: 3 + 0 = 1 + 0 + 2
tie amount: 9 + 0 = 6 + 0 + 3`},
	{"a filter on what is empty, or not decided", job{rows: "rows: { only: =amount > 2 and not late }",
		fact: "product: text\namount: { is: whole, blanks: leave, texts: hold }\nlate: { is: flag, blanks: leave, nulls: hold }",
		text: "Product|Amount|Late\nBuoy|3|no\nOar||no\nSail|closed|no\nRope|3|yes\nFlag|3|n/a\nLamp|1|n/a\nPump|3|"}, `
Buoy|3|false
Pump|3|
gone 3 filtered
gone 4 held by amount: text
gone 5 filtered
gone 6 held by late: null
gone 7 filtered
tie amount: 13 + 0 = 6 + 3 + 4`},
	{"total rows that are too short", job{fact: "branch: text\nmonth: text\namount: whole",
		text: `
Branch|Month|Amount
Quay 4|Jan|1
Total
Old Slip|Jan|2
Boatyard|Feb|3
Subtotal Jan
Total||6`}, `
Quay 4|Jan|1
Old Slip|Jan|2
Boatyard|Feb|3
total 7 Amount says 6, have 6
tie amount: 6 + 0 = 6 + 0 + 0`},
	{"too short, and too long", job{fact: "branch: text\nmonth: text\namount: whole",
		text: `
Branch|Month|Amount
Quay 4|Jan
Old Slip|Jan|2|more
Boatyard|Feb|3|`}, `
Boatyard|Feb|3
stop cell without a header of : row 3, header "column D"
stop short row of : row 2
tie amount: 3 + 0 = 3 + 0 + 0`},
	{"too long, and left aside", job{entry: ", others: [D]", fact: "branch: text\nmonth: text\namount: whole",
		text: `
Branch|Month|Amount
Quay 4|Jan|1
Old Slip|Jan|2|more
Boatyard|Feb|3||more`}, `
Quay 4|Jan|1
Old Slip|Jan|2
stop cell without a header of : row 4, header "column E"
tie amount: 3 + 0 = 3 + 0 + 0`},
	{"rows of zeros", job{rows: "rows: { zeros: drop }",
		fact: "product: text\nquantity: { is: whole, blanks: leave }\namount: { is: number, decimals: 1, blanks: 0 }",
		text: `
Product|Quantity|Amount
Buoy|0|0.00
Oar||
Sail|0|0.04
Rope|1|0`}, `
Rope|1|0.0
gone 2 zero
gone 3 zero
gone 4 zero
tie quantity: 1 + 0 = 1 + 0 + 0
tie amount: 0.04 + 0.00 = 0.00 + 0.00 + 0.04`},
	{"pairs of wide cells", job{entry: `, unpivot: { header: "{what} {product}", cell: "{what}", blanks: skip }`,
		fact: "month: text\nproduct: text\nquantity: { is: whole, blanks: 0 }\namount: { is: number, blanks: 0 }",
		text: `
Month|Quantity Buoy|Amount Oar|Amount Buoy
Jan|1|2.50|3
Feb|||4
Mar|||`}, `
Jan|Buoy|1|3
Jan|Oar|0|2.5
Feb|Buoy|0|4
gone 3 skipped
changed 2 quantity blank
changed 3 quantity blank
tie quantity: 1 + 0 = 1 + 0 + 0
tie amount: 9.5 + 0.0 = 9.5 + 0.0 + 0.0`},
	{"the row itself and its parts", job{entry: `, unpivot: { columns: ["Part *"], header: "Part {part}", cell: content, blanks: ` +
		`skip, itself: yes }`, fact: "product: text\npart: { is: text }\ncontent: { blanks: leave }\namount: { is: whole, add: no }",
		text: `
Product|Part 1|Part 2|Amount
Kit|Buoy|Oar|5
Rope|||6`}, `
Kit|||5
Kit|1|Buoy|5
Kit|2|Oar|5
Rope|||6
gone 3 skipped
gone 3 skipped`},
	{"totals of wide columns", job{entry: `, unpivot: { header: "{product}", cell: amount }`,
		fact: "month: text\nproduct: text\namount: { is: whole, blanks: 0 }",
		text: `
Month|Buoy|Oar|Total
Jan|1|2|3
Feb|3||4
Sum|4|2|7`}, `
Jan|Buoy|1
Jan|Oar|2
Feb|Buoy|3
Feb|Oar|0
changed 3 amount blank
total 2 Total says 3, have 3
total 3 Total says 4, have 3
total 4 Buoy says 4, have 4
total 4 Oar says 2, have 2
total 4 Total says 7, have 6
tie amount: 6 + 0 = 6 + 0 + 0`},
	{"figures below each other", job{entry: `, widen: { header: Figure, cell: Value }`,
		fact: "branch: text\nmonth: text\nquantity: { is: whole, blanks: 0 }\namount: { is: number, decimals: 2, blanks: hold }",
		text: `
Branch|Month|Figure|Value
Quay 4|Jan|Quantity|2
Quay 4|Jan|amount|1.5
Quay 4|Feb|Quantity|3
Old Slip|Jan|Amount|7
Old Slip|Feb|Amount|8.125
Old Slip|Feb|Quantity|1`}, `
Quay 4|Jan|2|1.50
Old Slip|Jan|0|7.00
Old Slip|Feb|1|8.13
gone 4 held by amount: blank
changed 5 quantity blank
changed 6 amount rounding
tie quantity: 6 + 0 = 3 + 3 + 0
tie amount: 16.625 + 0.005 = 16.630 + 0.000 + 0.000`},
	{"a figure twice", job{entry: `, widen: { header: Figure, cell: Value }`, fact: "branch: text\nquantity: { is: whole, blanks: 0 }",
		text: `
Branch|Figure|Value
Quay 4|Quantity|2
Quay 4|Quantity|2`}, `
Quay 4|2
stop figure twice of : row 3, header "Value" first in row 2
tie quantity: 2 + 0 = 2 + 0 + 0`},
	{"nothing but a header", job{fact: "branch: text\namount: whole", text: "Branch|Amount"}, `
tie amount: 0 + 0 = 0 + 0 + 0`},
}

func TestRows(t *testing.T) {
	for _, c := range rowsCases {
		t.Run(c.name, func(t *testing.T) { same(t, c.want, treated(t, c.job)) })
	}
}
