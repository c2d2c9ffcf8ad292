package terms

import (
	"slices"
	"strings"
	"unicode"

	"umbau/internal/core/key"
)

// Of two figures that differ in one of these senses none can be added to the other, though both have the same name.

// monies are words for money; further codes count only in capitals, for some are words.
var (
	monies   = []Words{List("eur euro euros €"), List("usd dollar dollars $ us$"), List("gbp pound pounds £"), List("chf franken sfr")}
	isoCodes = strings.Fields("SEK NOK DKK ISK PLN CZK HUF RON BGN JPY CNY INR CAD AUD NZD SGD HKD ZAR BRL MXN AED ILS KRW THB UAH RUB")
)

// Money tells which money a text says, "" for none.
func Money(text string) string {
	if i := Sense(text, monies); i >= 0 {
		return []string{"EUR", "USD", "GBP", "CHF"}[i]
	}
	return isoCode(text)
}

// isoCode is the first of the further codes that stands in a text, "" for none.
func isoCode(text string) string {
	words := strings.FieldsFunc(text, func(r rune) bool { return !unicode.IsLetter(r) })
	if i := slices.IndexFunc(words, func(w string) bool { return slices.Contains(isoCodes, w) }); i >= 0 {
		return words[i]
	}
	return ""
}

// SaysMoney reports whether a text says a money.
func SaysMoney(text string) bool { return Money(text) != "" }

// SaysCurrency reports whether a header is that of currencies.
func SaysCurrency(header string) bool { return currencyWords.In(header) }

var (
	currencyWords = List("currency currencies curr money währung devise moneda divisa valuta")

	net   = List("net netto excl exkl excluding exclusive ht")
	gross = List("gross brutto brut bruto lordo incl inkl including inclusive ttc")
	taxes = List("vat tax taxes mwst ust tva iva btw moms ht ttc")
)

// Tax tells whether a text says that figures are net or gross of tax, "" for neither.
func Tax(text string) string {
	switch list := strings.Fields(key.Of(text)); {
	case net.In(text), taxes.In(text) && (slices.Contains(list, "ex") || slices.Contains(list, "without") || slices.Contains(list, "ohne")):
		return "net"
	case gross.In(text):
		return "gross"
	}
	return ""
}

// SaysTax reports whether a line says so of figures: "Prices excl. VAT", "Gross amounts".
func SaysTax(line string) bool {
	return Tax(line) != "" && (taxes.In(line) || amounts.In(line) || sales.In(line))
}

// SaysNet reports whether a name says so: "Lakes net", but not "Lakes incl. Quay 4".
func SaysNet(name string) bool { return Tax(name) != "" && (taxes.In(name) || netOrGross.In(name)) }

var netOrGross = List("net netto gross brutto brut bruto lordo")

// Taxes reports whether some texts say net, and others gross.
func Taxes(texts []string) bool {
	said := map[string]bool{}
	for _, t := range texts {
		said[Tax(t)] = true
	}
	return said["net"] && said["gross"]
}

// units are words for what is counted, pieces first.
var units = []Words{
	List("pcs pieces piece pc stk stück unit units unités unidades uds each"),
	List("box boxes karton kartons carton cartons caja cajas pack packs packung packungen packet packets case cases crate crates"),
	List("dozen dozens dz doz dutzend douzaine douzaines docena docenas"), List("pallet pallets palette paletten palettes"),
	List("kg kilo kilos kilograms weight gewicht poids peso"), List("t ton tons tonne tonnes tonnen"),
	List("m metre metres meter meters mètres metros metri"), List("l litre litres liter liters litros litri"),
}

// Unit tells what a text says is counted: pieces, or which others; "" for neither.
func Unit(text string) string {
	if i := Sense(text, units); i >= 0 {
		return Pieces + strings.Repeat("'", i)
	}
	return ""
}

// Pieces are what is counted where nothing else is said.
const Pieces = "pieces"

// SaysUnit reports whether a line says so of quantities: "Quantity in dozens".
func SaysUnit(line string) bool { return Unit(line) != "" && quantities.In(line) }

var (
	thousands = List("k keur teur kusd kgbp kchf tchf tsd thousand thousands tausend milliers miles migliaia duizend 000 000s")
	millions  = List("mio mn million millions millionen")
	cents     = List("cent cents pence penny pennies öre øre centimes céntimos centesimi")
)

// Scale tells in which thousands or parts of money a text says that figures are; Ones where it says nothing.
func Scale(text string) string {
	list := strings.Fields(key.Of(text))
	for i, w := range list {
		before, behind := "", ""
		if i > 0 {
			before = list[i-1]
		}
		if i+1 < len(list) {
			behind = list[i+1]
		}
		number := w == "1000" || w == "1,000" || w == "1.000"
		switch {
		case thousands[w], w == "t" && Money(behind) != "", number && (before == "in" || before == "x" || Money(before+" "+behind) != "" ||
			words[before].OfMeasure() || amounts[before]):
			return "thousands"
		case millions[w]:
			return "millions"
		case cents[w]:
			return "cents"
		}
	}
	return Ones
}

// Ones are figures as they are.
const Ones = "ones"

// SaysScale reports whether a line says so.
func SaysScale(line string) bool { return Scale(line) != Ones }

// again are pairs of labels, by their keys: of two rows that differ in one of these the second may be the first once more.
var again = [][2]func(k string) bool{
	{func(k string) bool { return SaysSoFar(k) && k != "mtd" }, func(k string) bool { return !SaysSoFar(k) || k == "mtd" }},
	{func(k string) bool { return OfYear(k) == "last" }, func(k string) bool { return k == "ty" || k == "cy" }},
	{moneyOf("lc lcy tc", "local document transaction"), moneyOf("gc gcy rc", "group reporting")},
	{func(k string) bool { return k == "sell in" }, func(k string) bool { return k == "sell out" }},
}

var (
	thisYear = []string{"ty", "cy", "this year", "current year"}
	lastYear = []string{"ly", "py", "last year", "prior year", "previous year", "vorjahr"}
)

// OfYear tells whether a text says that figures are of this year or the last one, "" for neither, and for both.
func OfYear(text string) string {
	k := " " + key.Of(text) + " "
	says := func(words []string) bool {
		return slices.ContainsFunc(words, func(w string) bool { return strings.Contains(k, " "+w+" ") })
	}
	switch this, last := says(thisYear), says(lastYear); {
	case this && !last:
		return "this"
	case last && !this:
		return "last"
	}
	return ""
}

// SaysYear reports whether a text says one of these.
func SaysYear(text string) bool { return OfYear(text) != "" }

// moneyOf knows labels for money of somebody: by codes, or by words beside one for currencies.
func moneyOf(codes, words string) func(k string) bool {
	alone, beside := List(codes), List(words)
	return func(k string) bool { return alone[k] || beside.In(k) && SaysCurrency(k) }
}

// Again reports whether labels, which stand below one header, tell rows apart of which some have the figures of others once more: sums so
// far beside single months, this year beside the last, local money beside that of a group, sales to shops beside those of shops, several
// levels of one hierarchy.
func Again(labels []string) bool {
	var keys []string
	classes := map[Class]bool{}
	for _, l := range labels {
		keys = append(keys, key.Of(l))
		classes[OfWord(key.Of(l))] = true
	}
	levels := len(classes)
	for c := range classes {
		if c != Region && c != Branch && c != Product {
			levels = 0
		}
	}
	if levels > 1 {
		return true
	}
	return slices.ContainsFunc(again, func(pair [2]func(string) bool) bool {
		return slices.ContainsFunc(keys, pair[0]) && slices.ContainsFunc(keys, pair[1])
	})
}

var (
	versions  = List("version versions revision rev fassung scenario scenarios szenario szenarien scénario escenario versión versione")
	snapshots = List("snapshot snapshots exported extracted loaded stichtag stand export extract load refresh")
)

// SaysVersion reports whether a header is that of which version or scenario a row is of.
func SaysVersion(header string) bool { return versions[LastWord(header)] }

// SaysSnapshot reports whether a header is that of when a row was exported.
func SaysSnapshot(header string) bool { return snapshots.In(header) || key.Of(header) == "as of" }

// SaysThousands reports whether a name says that figures are thousands of some money: "Lakes TEUR", but not "Thousand Islands".
func SaysThousands(name string) bool {
	return Scale(name) == "thousands" && (codedThousands.In(name) || Money(name) != "" || strings.Contains(key.Of(name), "in thousands"))
}

var codedThousands = List("keur teur kusd kgbp kchf tchf tsd")
