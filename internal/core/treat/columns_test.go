package treat_test

import (
	"testing"
)

// namesCases are those of TestNames.
var namesCases = []struct {
	name string
	job
	want string
}{
	{"first spellings", job{fact: "product: name\namount: whole",
		text: `
Product|Amount
dock line|1
Dock-Line|2
DOCK  LINE.|3
Dockline|4
dock line|5`}, `
dock line|1
dock line|2
dock line|3
Dockline|4
dock line|5
name product "dock line" "dock line" same 2 at a.csv, row 2, header "Product"
name product "Dock-Line" "dock line" spelling 1 at a.csv, row 3, header "Product"
name product "DOCK  LINE." "dock line" spelling 1 at a.csv, row 4, header "Product"
name product "Dockline" "Dockline" same 1 at a.csv, row 5, header "Product"
tie amount: 15 + 0 = 15 + 0 + 0`},
	{"first spellings in a case", job{fact: "product: { is: name, case: title }\namount: whole",
		text: "Product|Amount\nDOCK line|1\ndock-LINE|2"}, `
Dock Line|1
Dock Line|2
name product "DOCK line" "Dock Line" same 1 at a.csv, row 2, header "Product"
name product "dock-LINE" "Dock Line" spelling 1 at a.csv, row 3, header "Product"
tie amount: 3 + 0 = 3 + 0 + 0`},
	{"a book, and names that are not in it", job{fact: "product: { is: name, book: book.csv, blanks: No name }\namount: { is: " +
		"number, decimals: 2 }", book: "Bouy,Buoy\nDock Line,Dock Line\nSail,\n",
		text: `
Product|Amount
BOUY|1
buoy|2
Sail|4.50
Oar|8
oar.|16
|32`}, `
Buoy|1.00
Buoy|2.00
No name|32.00
gone 4 stopped
gone 5 stopped
gone 6 stopped
changed 7 product blank
name product "BOUY" "Buoy" book 1 at a.csv, row 2, header "Product"
name product "buoy" "Buoy" spelling 1 at a.csv, row 3, header "Product"
name product "Sail" "" unknown 1 at a.csv, row 4, header "Product"
name product "Oar" "" unknown 1 at a.csv, row 5, header "Product"
name product "oar." "" unknown 1 at a.csv, row 6, header "Product"
stop unknown name of product: row 4, header "Product" Sail; row 5, header "Product" Oar; row 6, header "Product" oar.
tie amount: 63.50 + 0.00 = 63.50 + 0.00 + 0.00`},
	{"kept as they are", job{fact: "product: { is: name, book: book.csv, unknown: keep }\namount: whole", book: "Bouy,Buoy\n",
		text: "Product|Amount\nOAR|1\noar|2\nBouy|3"}, `
OAR|1
OAR|2
Buoy|3
name product "OAR" "OAR" unknown 1 at a.csv, row 2, header "Product"
name product "oar" "OAR" unknown 1 at a.csv, row 3, header "Product"
name product "Bouy" "Buoy" book 1 at a.csv, row 4, header "Product"
tie amount: 6 + 0 = 6 + 0 + 0`},
	{"set aside", job{fact: "product: { is: name, book: book.csv, unknown: hold }\namount: whole", book: "Bouy,Buoy\n",
		text: "Product|Amount\nOar|1\nBuoy|2\nOar|n/a"}, `
Buoy|2
gone 2 held by product: unknown name Oar
gone 4 held by product: unknown name Oar
name product "Oar" "" unknown 2 at a.csv, row 2, header "Product"
name product "Buoy" "Buoy" same 1 at a.csv, row 3, header "Product"
tie amount: 3 + 0 = 2 + 1 + 0`},
	{"left out", job{fact: "product: { is: name, book: book.csv, unknown: drop }\namount: whole", book: "Bouy,Buoy\n",
		text: "Product|Amount\nOar|n/a\nBuoy|2"}, `
Buoy|2
gone 2 dropped by product
name product "Oar" "" unknown 1 at a.csv, row 2, header "Product"
name product "Buoy" "Buoy" same 1 at a.csv, row 3, header "Product"
tie amount: 2 + 0 = 2 + 0 + 0`},
	{"another name for all", job{fact: "product: { is: name, book: book.csv, unknown: Other goods }\namount: whole", book: "Bouy,Buoy\n",
		text: "Product|Amount\nOar|1\nBuoy|2\nSail|3"}, `
Other goods|1
Buoy|2
Other goods|3
name product "Oar" "Other goods" unknown 1 at a.csv, row 2, header "Product"
name product "Buoy" "Buoy" same 1 at a.csv, row 3, header "Product"
name product "Sail" "Other goods" unknown 1 at a.csv, row 4, header "Product"
tie amount: 6 + 0 = 6 + 0 + 0`},
	{"groups, and groups of groups", job{fact: `
			product: { is: name, book: book.csv, unknown: keep }
			family: { from: product, is: name, book: book.csv, unknown: Other }
			initial: { from: family, read: "{}*", case: lower }`, book: "Buoy,Safety\nLife Vest,Safety\n",
		text: "Product\nBuoy\nlife vest\nOar"}, `
Safety|Safety|s
Safety|Safety|s
Oar|Other|o
name product "Buoy" "Safety" book 1 at a.csv, row 2, header "Product"
name product "life vest" "Safety" book 1 at a.csv, row 3, header "Product"
name product "Oar" "Oar" unknown 1 at a.csv, row 4, header "Product"
name family "Safety" "Safety" same 2 at a.csv, row 2, header "Product"
name family "Oar" "Other" unknown 1 at a.csv, row 4, header "Product"`},
	{"in the headers", job{entry: `, unpivot: { header: "{product}", cell: amount, blanks: skip }`,
		fact: "product: { is: name, book: book.csv, unknown: hold }\nmonth: text\namount: whole", book: "Bouy,Buoy\n",
		text: "Month|BOUY|Oar|buoy.\nJan|1|2|\nFeb||4|5"}, `
Buoy|Jan|1
Buoy|Feb|5
gone 2 held by product: unknown name Oar
gone 2 skipped
gone 3 skipped
gone 3 held by product: unknown name Oar
name product "BOUY" "Buoy" book 1 at a.csv, row 1, header "BOUY"
name product "Oar" "" unknown 2 at a.csv, row 1, header "Oar"
name product "buoy." "Buoy" spelling 1 at a.csv, row 1, header "buoy."
tie amount: 12 + 0 = 6 + 6 + 0`},
	{"a name that only skipped cells have", job{entry: `, unpivot: { header: "{product}", cell: amount, blanks: skip }`,
		fact: "product: name\nmonth: text\namount: whole",
		text: "Month|Oar|Buoy\nJan||1\nFeb||2"}, `
Buoy|Jan|1
Buoy|Feb|2
gone 2 skipped
gone 3 skipped
name product "Buoy" "Buoy" same 2 at a.csv, row 1, header "Buoy"
tie amount: 3 + 0 = 3 + 0 + 0`},
}

func TestNames(t *testing.T) {
	for _, c := range namesCases {
		t.Run(c.name, func(t *testing.T) { same(t, c.want, treated(t, c.job)) })
	}
}

// madeCases are those of TestMade.
var madeCases = []struct {
	name string
	job
	want string
}{
	{"formulas of formulas, in any order", job{fact: `
			margin: =amount - cost
			amount: { is: number, decimals: 2 }
			cost: "=round(amount * rate, 1)"
			rate: { is: number, add: no, keep: no }`,
		text: "Amount|Rate\n10.005|0.5\n3|0.333333333333333333"}, `
5.01|10.01|5|0.5
2|3.00|1|0.333333333333333333
changed 2 amount rounding
tie amount: 13.005 + 0.005 = 13.010 + 0.000 + 0.000`},
	{"empty values", job{fact: `
			amount: { is: number, blanks: leave }
			double: =amount * 2
			sign: "=if(amount > 0, 'up', 'down')"
			filled: "=coalesce(amount, 7)"`,
		text: "Amount|Amount 2\n|x\n-3|x\n4|x", entry: ", others: drop"}, `
||down|7
-3|-6|down|-3
4|8|up|4
empty double because of amount: 1
tie amount: 1 + 0 = 1 + 0 + 0`},
	{"division by zero", job{fact: `
			quantity: whole
			amount: { is: number, decimals: 2 }
			price: { formula: amount / quantity, decimals: 3, add: no, errors: leave }
			ratio: { formula: quantity / amount, errors: hold }`,
		text: "Quantity|Amount\n3|10\n0|5\n2|0"}, `
3|10.00|3.333|0.3
0|5.00||0
gone 4 held by ratio: error
tie quantity: 5 + 0 = 3 + 2 + 0
tie amount: 15.00 + 0.00 = 15.00 + 0.00 + 0.00`},
	{"division by zero, undecided", job{fact: "quantity: whole\namount: whole\nprice: =amount / quantity",
		text: "Quantity|Amount\n3|10\n0|5"}, `
3|10|3.333333333333333
gone 3 stopped
stop error gap of price: row 3, header "Amount"
tie quantity: 3 + 0 = 3 + 0 + 0
tie amount: 15 + 0 = 15 + 0 + 0`},
	{"a quotient that does not end", job{fact: "amount: number\nthird: =amount / 3\nexact: { formula: amount / 3 * 3, decimals: 0 }",
		text: "Amount\n1\n2\n1000000"}, `
1|0.333333333333333|1
2|0.666666666666667|2
1000000|333333.333333333333333|1000000
tie amount: 1000003 + 0 = 1000003 + 0 + 0`},
	{"texts and dates", job{fact: `
			day: { is: date, keep: no }
			mon: =month(day)
			season: "=if(month(day) < '2024-07', upper(coast), trim(coast))"
			coast: { headers: [Place] }
			when: { is: month, write: "{mon}" }
			label: { write: "{coast}[ - {size}]" }
			size: { blanks: leave }
			three: { value: 3, is: whole }`,
		text: "Day|Place|Size\n2024-03-09|Lakes|\n2024-08-01|Amber Bay|10 m"}, `
2024-03-09|2024-03|LAKES|Lakes|2024-03|Lakes||3
2024-08-01|2024-08|Amber Bay|Amber Bay|2024-08|Amber Bay - 10 m|10 m|3`},
	{"quarters of a year that starts in April", job{fact: "month: month\nquarter: { is: quarter, from: month }\nyear: =year(month)",
		rows: "calendar: { year_starts: april, named_by: end }",
		text: "Month\n2023-03\n2023-04\n2024-03"}, `
2023-03|2023-Q4|2023
2023-04|2024-Q1|2024
2024-03|2024-Q4|2024`},
	{"formulas for gaps of texts and dates", job{fact: `
			branch: { blanks: "=upper(coast)", nulls: "=coalesce(note, 'none')" }
			coast: text
			day: { is: date, blanks: "=if(coast = 'lakes', first, second)", unclear: "=if(1 / quantity > 0, first, second)" }
			first: { is: date, blanks: leave, keep: no }
			second: { is: date, keep: no }
			quantity: whole
			note: { blanks: leave }`,
		text: `
Branch|Coast|Day|First|Second|Quantity|Note
|Lakes||2024-01-01|2024-02-02|1|
n/a|Skerries||2024-01-01|2024-02-02|1|a note
-|Skerries|2/3/24|2024-01-01|2024-02-02|1|
Quay 4|Lakes|2/3/24|2024-01-01|2024-02-02|0|
Quay 4|Lakes|||2024-02-02|1|`}, `
LAKES|Lakes|2024-01-01|2024-01-01|2024-02-02|1|
a note|Skerries|2024-02-02|2024-01-01|2024-02-02|1|a note
none|Skerries|2024-01-01|2024-01-01|2024-02-02|1|
Quay 4|Lakes|||2024-02-02|1|
gone 5 stopped
changed 2 branch blank
changed 2 day blank
changed 3 branch null
changed 3 day blank
changed 4 branch null
changed 4 day unclear
stop unclear gap of day: row 5, header "Day" 2/3/24
tie quantity: 4 + 0 = 4 + 0 + 0`},
	{"a formula for a gap that is a gap", job{fact: "quantity: { is: whole, blanks: =other }\nother: { is: whole, blanks: hold " +
		"}\nday: { is: date, blanks: =when }\nwhen: { is: date, blanks: drop }",
		text: "Quantity|Other|Day|When\n|2||2024-01-01\n||2024-01-01|2024-01-01\n1|2||\n1|2|2024-03-03|2024-03-03"}, `
2|2|2024-01-01|2024-01-01
1|2|2024-03-03|2024-03-03
gone 3 held by other: blank
gone 4 dropped by when
changed 2 quantity blank
changed 2 day blank
tie quantity: 2 + 2 = 3 + 0 + 1
tie other: 6 + 0 = 4 + 0 + 2`},
	{"a result that is no whole number", job{fact: "amount: number\nhalf: { is: whole, formula: amount / 2, unclear: hold }\nthird: " +
		"{ is: whole, formula: amount / 3, gaps: leave, unclear: leave }",
		text: "Amount\n4\n3\n6"}, `
4|2|
6|3|2
gone 3 held by half: unclear
tie amount: 13 + 0 = 10 + 3 + 0`},
	{"a text that divides by zero", job{fact: "amount: whole\nlabel: { formula: \"if(6 / amount > 2, 'low', 'high')\", errors: none " +
		"at all }\nday: { is: date, formula: \"if(6 / amount > 2, first, first)\", errors: hold }\nfirst: { is: date, keep: no " +
		"}\nflag: { is: flag, formula: 6 / amount > 2, errors: leave }",
		text: "Amount|First\n2|2024-01-05\n0|2024-01-05\n6|2024-01-06"}, `
2|low|2024-01-05|2024-01-05|true
6|high|2024-01-06|2024-01-06|false
gone 3 held by day: error
tie amount: 8 + 0 = 8 + 0 + 0`},
	{"a text that divides by zero, undecided", job{fact: "amount: whole\nlabel: \"=if(6 / amount > 2, 'low', 'high')\"",
		text: "Amount\n2\n0"}, `
2|low
gone 3 stopped
stop error gap of label: row 3, header "Amount"
tie amount: 2 + 0 = 2 + 0 + 0`},
	{"what is empty, by its cause", job{fact: "amount: { is: number, blanks: leave }\ncost: { is: number, blanks: leave }\nmargin: " +
		"=amount - cost\nlow: =margin < 2",
		text: "Amount|Cost\n1|\n|1\n|\n3|1\n|2"}, `
1|||
|1||
3|1|2|false
|2||
empty margin because of amount: 2
empty margin because of cost: 1
empty low because of margin: 3
tie amount: 4 + 0 = 4 + 0 + 0
tie cost: 4 + 0 = 4 + 0 + 0`},
	{"a formula for a gap of a measure in wide cells", job{entry: `, unpivot: { header: "{product}", cell: amount }`, fact: `
			branch: text
			product: text
			amount: { is: whole, blanks: "=if(product = 'buoy', floor, 0)" }
			floor: { is: whole, add: no, keep: no }`,
		text: "Branch|Floor|Buoy|Oar\nQuay 4|9||\nOld Slip|8|1|2"}, `
Quay 4|Buoy|9|9
Quay 4|Oar|0|9
Old Slip|Buoy|1|8
Old Slip|Oar|2|8
changed 2 amount blank
changed 2 amount blank
tie amount: 3 + 9 = 12 + 0 + 0`},
}

func TestMade(t *testing.T) {
	for _, c := range madeCases {
		t.Run(c.name, func(t *testing.T) { same(t, c.want, treated(t, c.job)) })
	}
}
