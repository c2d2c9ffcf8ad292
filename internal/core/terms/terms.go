// Package terms knows what the words of headers, titles and names of files say, in the usual languages: measures, times, places and
// things, and words that say none of these. It knows words alone; what stands below a header is for others to look at.
package terms

import (
	"slices"
	"strings"

	"umbau/internal/core/key"
	"umbau/internal/core/value"
)

// Class is what a header names, as far as words say it.
type Class string

const (
	None     Class = ""
	Region   Class = "region"
	Branch   Class = "branch"
	Product  Class = "product"
	Day      Class = "day"
	Month    Class = "month"
	Quarter  Class = "quarter"
	Year     Class = "year"
	Quantity Class = "quantity"
	Amount   Class = "amount"
	Price    Class = "price"          // which is not added up
	BareTime Class = "name of a time" // of a month or a quarter, without a year
	Aside    Class = "aside"          // who wrote it, and remarks
)

// OfTime reports whether a class is one of times.
func (c Class) OfTime() bool { return c == Day || c == Month || c == Quarter || c == Year }

// OfMeasure reports whether a class is one of measures.
func (c Class) OfMeasure() bool { return c == Quantity || c == Amount }

// OfWord is what one word names, by its key.
func OfWord(word string) Class { return words[word] }

// words are those of each class, in the usual languages.
var words = func() map[string]Class {
	out := map[string]Class{}
	for c, list := range map[Class]string{
		Region: `region coast area district territory county state province zone country land gebiet bezirk küste regione región région
			secteur zona provincia regio gebied costa côte kust
			região`,
		Branch: `branch outlet store shop location site depot office filiale niederlassung standort laden agence magasin succursale boutique
			tienda sucursal negozio filial vestiging winkel filiaal zweigstelle verkaufsstelle geschäft sede local loja
			agência delegación`,
		Product: `product article item sku goods material produkt artikel ware produit prodotto articolo producto artículo
			produto artigo mercadoria`,
		Day:     `date day datum tag jour fecha día giorno dag`,
		Month:   `month period monat periode mois période mes mese periodo maand`,
		Quarter: `quarter qtr quartal trimestre kwartaal`,
		Year:    `year jahr année an año anno jaar`,
		Quantity: `quantity qty units unit pieces pcs count volume menge anzahl stück stückzahl quantité nombre cantidad unidades quantità
			pezzi aantal stuks hoeveelheid einheiten eenheden piezas unités unità quantidade
			qté qtà anz cant uds stk stck pz qtd qtys qnty quant volumes mge cdad unid`,
		Amount: `amount revenue turnover sales value net gross takings betrag umsatz erlös wert netto ventes montant valeur recettes importe
			ventas valor importo vendite valore bedrag omzet waarde einnahmen fatturato facturación opbrengst vendas receita faturamento faturação
			eur euro euros usd gbp chf € £ $ booked gebucht amt amts umsätze betr ums brutto imponibile`,
		Price: `price preis prix precio prezzo prijs rate einzelpreis stückpreis`,
		Aside: `remark remarks note notes comment comments entered clerk by user bemerkung notiz erfasst remarque saisi observaciones
			nota opmerking author checked memo kommentar kommentare anmerkung anmerkungen bemerkungen notizen commentaire commentaires
			comentario comentarios notas commento commenti osservazioni opmerkingen toelichting`,
	} {
		for _, w := range strings.Fields(list) {
			out[key.Of(w)] = c
		}
	}
	return out
}()

// phrases are headers of several words that none of them says, and words that say so less clearly than others.
var phrases = func() map[string]Class {
	out := map[string]Class{}
	for c, list := range map[Class]string{
		Branch:   "point of sale,point de vente,punto de venta,punto vendita,verkooppunt",
		Product:  `description,bezeichnung,désignation,libellé,omschrijving,descripción,descrizione,goods description,what,was`,
		Quantity: "absatz,qté,pièces,afzet",
		Amount:   "ca,chiffre d'affaires",
		Price:    "unit cost,unit costs,unit value,cost per unit,stückkosten,coût unitaire,coste unitario,costo unitario",
	} {
		for _, p := range strings.Split(list, ",") {
			out[key.Of(p)] = c
		}
	}
	return out
}()

// compounds are what German and Dutch words of several parts begin or end with.
var compounds = []struct {
	head string
	of   Class
}{{"gebiet", Region}, {"gebied", Region}, {"region", Region}, {"filial", Branch}, {"standort", Branch}, {"artikel", Product},
	{"produkt", Product}, {"waren", Product}, {"monat", Month}, {"maand", Month}, {"datum", Day}, {"menge", Quantity}, {"anzahl", Quantity},
	{"aantal", Quantity}, {"preis", Price}, {"prijs", Price}, {"umsatz", Amount}, {"betrag", Amount}, {"erlos", Amount}, {"bedrag", Amount},
	{"omzet", Amount}}

// compoundOf is what a word of several parts names: by its end, or else its beginning.
func compoundOf(word string) Class {
	for _, fits := range []func(string, string) bool{strings.HasSuffix, strings.HasPrefix} {
		for _, c := range compounds {
			if len(word) > len(c.head)+2 && fits(word, c.head) {
				return c.of
			}
		}
	}
	return None
}

// genitives stand behind what a header names: "zona de ventas".
var genitives = []string{"of", "de", "du", "des", "di", "del", "van", "der", "von"}

// Of is what a header names: by all of it, its last word, or its first.
func Of(header string) Class {
	k := key.Of(Once(header))
	if c, ok := words[k]; ok {
		return c
	}
	if c, ok := phrases[k]; ok {
		return c
	}
	list := strings.Fields(k)
	if len(list) == 0 {
		return None
	}
	for _, w := range list {
		if words[w] == Aside {
			return Aside
		}
	}
	ends := []string{list[len(list)-1], list[0]}
	if len(list) > 2 && slices.Contains(genitives, list[1]) {
		ends = []string{list[0], list[len(list)-1]}
	}
	for _, named := range []func(string) Class{func(w string) Class { return words[w] }, compoundOf,
		func(w string) Class { return phrases[w] }} {
		for _, w := range ends {
			if c := named(w); c != None {
				return c
			}
		}
	}
	return None
}

// Once is a header of several rows that all say one thing, but for a row of units, without saying it again.
func Once(header string) string {
	parts := strings.Split(header, " | ")
	if n := len(parts); n > 1 && value.IsUnit(parts[n-1]) {
		parts = parts[:n-1]
	}
	if slices.ContainsFunc(parts, func(part string) bool { return !key.Same(part, parts[0]) }) {
		return strings.Join(parts, " | ")
	}
	return parts[0]
}

// WithoutUnit is the key of a header without the unit at its end: of amount in eur, amount.
func WithoutUnit(k string) string {
	list := strings.Fields(k)
	for len(list) > 1 && (value.IsTotalWord(list[len(list)-1]) || list[len(list)-1] == "in" || list[len(list)-1] == "en") {
		list = list[:len(list)-1]
	}
	return strings.Join(list, " ")
}

// FiguresAlone reports whether a header names a measure or a price, and nothing else but its unit.
func FiguresAlone(header string) bool {
	k := WithoutUnit(key.Of(header))
	c := words[k]
	if c == None {
		c = phrases[k]
	}
	if c == None && !strings.Contains(k, " ") {
		c = compoundOf(k)
	}
	return c.OfMeasure() || c == Price || Of(header) == Price
}

// SaysPeriod reports whether a header names a time of any length: Period, posting period.
func SaysPeriod(header string) bool {
	words := strings.FieldsFunc(key.Of(header), func(r rune) bool { return r == ' ' || r == '_' })
	return len(words) > 0 && len(words) < 3 && slices.Contains([]string{"period", "periode", "periodo"}, words[len(words)-1])
}
