package treat_test

import (
	"testing"
)

// gapsCases are those of TestGaps.
var gapsCases = []struct {
	name string
	job
	want string
}{
	{"a rule for each kind, and a mark", job{fact: `
			month: text
			amount: { is: number, decimals: 2, blanks: 0, nulls: leave, texts: drop, unclear: hold, errors: 1.5, mark: gap }`,
		text: `
Month|Amount
Jan|1.005
Feb|
Mar| N/A
Apr|closed
May|12 pcs
Jun|#div/0!
Jul|(1,000)`}, `
Jan|1.01|
Feb|0.00|blank
Mar||null
Jun|1.50|error
Jul|-1000.00|
gone 5 dropped by amount
gone 6 held by amount: unclear
changed 2 amount rounding
changed 3 amount blank
changed 4 amount null
changed 7 amount error
tie amount: -998.995 + 1.505 = -997.490 + 0.000 + 0.000`},
	{"nothing is decided", job{fact: "amount: number\nday: date",
		text: `
Amount|Day
|
none|n/a
see note|soon
1,23|03/04/2024
#REF!|#N/A
7|2024-02-30
1e5|31-Dec-2024`}, `
gone 3 stopped
gone 4 stopped
gone 5 stopped
gone 6 stopped
gone 7 stopped
gone 8 stopped
stop error gap of amount: row 6, header "Amount" #REF!
stop error gap of day: row 6, header "Day" #N/A
stop null gap of amount: row 3, header "Amount" none
stop null gap of day: row 3, header "Day" n/a
stop text gap of amount: row 4, header "Amount" see note
stop text gap of day: row 4, header "Day" soon
stop unclear gap of amount: row 5, header "Amount" 1,23; row 8, header "Amount" 1e5
stop unclear gap of day: row 5, header "Day" 03/04/2024; row 7, header "Day" 2024-02-30
tie amount: 7 + 0 = 7 + 0 + 0`},
	{"one rule for all but what is unclear", job{fact: "amount: { is: whole, gaps: 0, unclear: 5 }",
		text: "Amount\n\"\"\n-\nclosed\n#N/A\n1.5\n2.0\n3"}, `
0
0
0
5
2
3
changed 3 amount null
changed 4 amount text
changed 5 amount error
changed 6 amount unclear
tie amount: 5 + 5 = 10 + 0 + 0`},
	{"null words of a column, and words that are none", job{fact: `
			coast: { headers: [Coast], not_null_words: [NA], nulls: Unknown }
			amount: { is: number, null_words: [tba, 999], nulls: 0 }`,
		text: `
Coast|Amount
NA|1
None|TBA
Lakes|999
n.a.|1999`}, `
NA|1
Unknown|0
Lakes|0
Unknown|1999
changed 3 coast null
changed 3 amount null
changed 4 amount null
changed 5 coast null
tie amount: 2000 + 0 = 2000 + 0 + 0`},
	{"the value above", job{fact: `
			branch: { blanks: above }
			day: { is: date, blanks: above, unclear: above }
			amount: { is: number, nulls: above, blanks: 0 }`,
		text: `
Branch|Day|Amount
Quay 4|2024-01-05|1
|x1|n/a
"  "||
Old Slip|2024-02-01|n/a
||3`}, `
Quay 4|2024-01-05|1
Quay 4|2024-01-05|1
Old Slip|2024-02-01|1
Old Slip|2024-02-01|3
changed 3 branch blank
changed 3 day unclear
changed 3 amount null
changed 5 amount null
changed 6 branch blank
changed 6 day blank
tie amount: 4 + 2 = 6 + 0 + 0`},
	{"none above", job{fact: `
			branch: { blanks: above }
			amount: { is: number, blanks: above }`,
		text: "Branch|Amount\n|1\nQuay 4|\nQuay 4|2\n|"}, `
Quay 4|1
Quay 4|2
gone 2 stopped
changed 3 amount blank
stop blank gap of branch: row 2, header "Branch"
tie amount: 3 + 1 = 4 + 0 + 0`},
	{"what stands in a row that is gone stops nothing", job{fact: `
			branch: { blanks: drop, nulls: hold }
			product: text
			amount: number`,
		text: `
Branch|Product|Amount
Quay 4|Buoy|1
|Buoy|#N/A
n/a|#REF!|2
Quay 4||3`}, `
Quay 4|Buoy|1
gone 3 dropped by branch
gone 4 held by branch: null
gone 5 stopped
stop blank gap of product: row 5, header "Product"
tie amount: 6 + 0 = 4 + 2 + 0`},
	{"above, whatever became of that row", job{fact: `
			branch: { blanks: above }
			amount: { is: number, decimals: 0, nulls: drop }`,
		text: "Branch|Amount\nQuay 4|n/a\n|1"}, `
Quay 4|1
gone 2 dropped by amount
changed 3 branch blank
tie amount: 1 + 0 = 1 + 0 + 0`},
	{"a formula", job{fact: `
			quantity: { is: whole, nulls: 0 }
			price: { is: number, add: no }
			amount: { is: number, decimals: 2, blanks: =quantity * price, nulls: "=if(quantity > 2, 1, missing)", errors: =missing / 0 }
			missing: { value: 0, is: whole, keep: no }`,
		text: `
Quantity|Price|Amount
2|1.25|
n/a|3|
3|1|n/a
1|1|n/a
1|1|#N/A
4|2|8`}, `
2|1.25|2.50|0
0|3|0.00|0
3|1|1.00|0
1|1|0.00|0
4|2|8.00|0
gone 6 stopped
changed 2 amount blank
changed 3 quantity null
changed 3 amount blank
changed 4 amount null
changed 5 amount null
stop error gap of amount: row 6, header "Amount" #N/A
tie quantity: 11 + 0 = 11 + 0 + 0
tie amount: 8.00 + 3.50 = 11.50 + 0.00 + 0.00`},
	{"a formula that gives nothing", job{fact: "amount: { is: number, blanks: =other, nulls: =other }\nother: { is: number, blanks: " +
		"leave }\nnote: { is: text, blanks: =memo, nulls: =memo }\nmemo: { blanks: leave }",
		text: "Amount|Other|Note|Memo\n||x|\n|1||y\nn/a||n/a|"}, `
||x|
1|1|y|y
|||
changed 3 amount blank
changed 3 note blank
changed 4 amount null
changed 4 note null
tie amount: 0 + 1 = 1 + 0 + 0
tie other: 1 + 0 = 1 + 0 + 0`},
	{"what stands in no cell of a row", job{entry: `, path: "{region}", sections: when, unpivot: { header: "{month} {size}", ` +
		`cell: amount, blanks: skip }`, fact: `
			region: { is: date, texts: 2024-01-01 }
			when: { is: date, blanks: 2024-02-02, texts: leave }
			month: { is: month, texts: 2024-12 }
			size: { is: quarter, unclear: leave }
			then: { is: month, from: month, texts: 1999-01 }
			kind: text
			week: { is: month, from: kind, texts: 2000-01 }
			amount: whole`,
		text: `
Kind|2024-01 Q1 2024|Soon 6|2024-03 Q2 2024
a|1|2|
Ropes||
2024-07|||4`}, `
2024-01-01|2024-02-02|2024-01|2024-Q1|2024-01|a|2000-01|1
2024-01-01|2024-02-02|2024-12||2024-12|a|2000-01|2
2024-01-01||2024-03|2024-Q2|2024-03|2024-07|2024-07|4
gone 2 skipped
gone 4 skipped
gone 4 skipped
changed above: region -1 text "Lakes"
changed above: month 1 text "Soon"
changed above: size 1 unclear "6"
changed 2 when blank
changed 2 week text
changed 4 when text
tie amount: 7 + 0 = 7 + 0 + 0`},
	{"nothing is delivered of it", job{entry: `, unpivot: { header: "{month}", cell: amount }`,
		fact: "kind: text\nmonth: { is: month, texts: 2024-12 }\namount: { is: whole, blanks: drop }",
		text: "Kind|2024-01|Soon\na|1|\nb||"}, `
a|2024-01|1
gone 2 dropped by amount
tie amount: 1 + 0 = 1 + 0 + 0`},
	{"unknown names of sections", job{entry: ", sections: family",
		fact: "family: { is: name, book: book.csv, unknown: hold, blanks: leave }\nproduct: text\namount: whole", book: "Lamps,Lights\n",
		text: "Product|Amount\nRopes|\nDock Line|1\nLAMPS|\nBow Lamp|2"}, `
Lights|Bow Lamp|2
gone 3 held by family: unknown name Ropes
name family "Ropes" "" unknown 1 at a.csv, row 3
name family "LAMPS" "Lights" book 1 at a.csv, row 5
tie amount: 3 + 0 = 2 + 1 + 0`},
	{"wide cells", job{entry: `, unpivot: { header: "{product}", cell: amount, blanks: skip }`, fact: `
			month: text
			product: text
			amount: { is: number, decimals: 1, nulls: 0, texts: hold, errors: drop }`,
		text: `
Month|Buoy|Oar|Sail
Jan|1|2.25|
Feb||n/a|#N/A
Mar|closed|-3|0.04`}, `
Jan|Buoy|1.0
Jan|Oar|2.3
Feb|Oar|0.0
Mar|Oar|-3.0
Mar|Sail|0.0
gone 2 skipped
gone 3 skipped
gone 3 dropped by amount
gone 4 held by amount: text
changed 2 amount rounding
changed 3 amount null
changed 4 amount rounding
tie amount: 0.29 + 0.01 = 0.30 + 0.00 + 0.00`},
	{"dates, months, quarters, years and flags", job{entry: ", dates: 31/12/2024", fact: `
			day: { is: date, gaps: leave, unclear: leave }
			month: { is: month, from: day }
			quarter: { is: quarter, from: day }
			year: { is: year, headers: [Season], gaps: hold, unclear: hold }
			paid: { is: flag, gaps: leave, unclear: leave }`,
		text: `
Day|Season|Paid
1/2/2024|2024|yes
31 mars 2023|23|FALSE
2024-07-09 13:30|2023|maybe
13/13/2024|1999|0
|2001|TRUE`}, `
2024-02-01|2024-02|2024-Q1|2024|true
2024-07-09|2024-07|2024-Q3|2023|
|||1999|false
|||2001|true
gone 3 held by year: unclear
changed 4 paid text
changed 5 day unclear`},
	{"a piece of a cell", job{fact: `
			code: { read: "*-{} *", texts: hold, blanks: leave }
			amount: { is: number, read: "{}[ net]", texts: 0, unclear: 1 }`,
		text: `
Code|Amount
art-77 Buoy|12.50 net
none here|free
|7`}, `
77|12.5
|7
gone 3 held by code: text
tie amount: 19.5 + 0.0 = 19.5 + 0.0 + 0.0`},
	{"cases of letters", job{fact: `
			a: { headers: [Text], case: upper }
			b: { from: a, case: lower }
			c: { from: a, case: title }`,
		text: "Text\nold SLIP\nÉTÉ à quai"}, `
OLD SLIP|old slip|Old Slip
ÉTÉ À QUAI|été à quai|Été À Quai`},
	{"currencies", job{fact: `
			amount: { is: number, decimals: 2, unclear: hold }
			cost: { is: number, currency: GBP, unclear: leave }`,
		text: `
Amount|Cost
5|£1
€ 7.50|2
8 EUR|3 USD
$ 9|€4
10|5 GBP`}, `
5.00|1
7.50|2
8.00|
10.00|5
gone 5 held by amount: unclear
changed 4 cost unclear
tie amount: 30.50 + 0.00 = 30.50 + 0.00 + 0.00
tie cost: 8 + 0 = 8 + 0 + 0`},
	{"decimals", job{fact: `
			exact: { is: number, headers: [Exact], blanks: leave }
			cents: { is: number, decimals: 2, headers: [Exact], blanks: leave }
			whole: { is: whole, headers: [Exact], unclear: leave, blanks: leave }`,
		text: `
Exact
0.125
-0.125
1.10
12,345,678,901,234,567,890.005
-0.00
100
.5
5.`}, `
0.125|0.13|
-0.125|-0.13|
1.1|1.10|
12345678901234567890.005|12345678901234567890.01|
0|0.00|0
100|100.00|100
0.5|0.50|
5|5.00|5
changed 2 cents rounding
changed 2 whole unclear
changed 3 cents rounding
changed 3 whole unclear
changed 4 whole unclear
changed 5 cents rounding
changed 5 whole unclear
changed 8 whole unclear
tie exact: 12345678901234567996.605 + 0.000 = 12345678901234567996.605 + 0.000 + 0.000
tie cents: 12345678901234567996.605 + 0.005 = 12345678901234567996.610 + 0.000 + 0.000
tie whole: 105 + 0 = 105 + 0 + 0`},
}

func TestGaps(t *testing.T) {
	for _, c := range gapsCases {
		t.Run(c.name, func(t *testing.T) { same(t, c.want, treated(t, c.job)) })
	}
}
