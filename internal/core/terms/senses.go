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
	words := strings.FieldsFunc(text, func(r rune) bool { return !unicode.IsLetter(r) })
	if i := slices.IndexFunc(words, func(w string) bool { return slices.Contains(isoCodes, w) }); i >= 0 {
		return words[i]
	}
	return ""
}

var (
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
