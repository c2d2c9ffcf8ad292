package terms

import (
	"slices"
	"strings"

	"umbau/internal/core/key"
	"umbau/internal/core/value"
)

// everything are words that begin labels of all places or things, sums those of totals that a build does not know, and Results those
// behind the label of what a row is a subtotal of.
var (
	everything = List(`all alle alles tous toutes todos todas tutti tutte`)
	sums       = List(`totales subtotales sumas somma sommes totali subtotali tot ttl summen zwischensummen gesamtsummen insges gesamtergebnis
		teilergebnis zwischenergebnis eindtotaal totalt totalsum totalsumma summa delsumma yhteensä celkem razem összesen ukupno
		overall ensemble gesamtumsatz gesamtbetrag gesamtwert gesamtmenge σ ∑ итого всего 合計 総計 小計 合计 总计`)
	Results = List(`ergebnis totalt summa yhteensä celkem razem`)
)

// SaysAll reports whether a label is of all places or things, or a total: "All", "alle Filialen", "Totales", but not "All Weather".
func SaysAll(label string) bool {
	list := strings.Fields(key.Of(label))
	switch {
	case key.Same(label, "i alt"), label != "" && strings.Trim(label, "*") == "", strings.Join(list, "") == "total":
		return true
	case len(list) == 1:
		return everything[list[0]] || sums[list[0]]
	case len(list) == 2:
		return everything[list[0]] && (General(list[1]) || Of(strings.TrimSuffix(list[1], "s")) != None)
	}
	return false
}

// IsResult reports whether a label is that of a subtotal: of another label, and a word behind it that says so.
func IsResult(label string, labels []string) bool {
	list := strings.Fields(key.Of(label))
	last := len(list) - 1
	if last < 1 || !Results[list[last]] {
		return false
	}
	of := strings.Join(list[:last], " ")
	return slices.ContainsFunc(labels, func(l string) bool { return key.Of(l) == of })
}

// SumsUp reports whether the name of a file says that it has the figures of all: "Gesamt", "All coasts 2024", "Sales overview",
// but not "All Weather".
func SumsUp(name string) bool {
	var words []string
	for _, w := range strings.Fields(key.Of(name)) {
		if t, _ := TimeOf(w); t == None && strings.Trim(w, "0123456789") != "" {
			words = append(words, w)
		}
	}
	label := strings.Join(words, " ")
	other := func(w string) bool { return !Summaries[w] && !General(w) }
	return SaysAll(label) || new(value.Totals).Alone(label) || Summaries.In(label) && !slices.ContainsFunc(words, other)
}

// Summaries are words for sheets that sum up others.
var Summaries = List(`summary overview pivot übersicht zusammenfassung synthèse récapitulatif récap resumen riepilogo overzicht
	samenvatting`)
