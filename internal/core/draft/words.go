package draft

import (
	"slices"
	"strings"
	"unicode/utf8"

	"umbau/internal/core/key"
	"umbau/internal/core/value"
)

// class is what a header names, as far as words say it.
type class string

const (
	noClass  class = ""
	region   class = "region"
	branch   class = "branch"
	product  class = "product"
	day      class = "day"
	month    class = "month"
	quarter  class = "quarter"
	year     class = "year"
	quantity class = "quantity"
	amount   class = "amount"
	price    class = "price"          // which is not added up
	bareTime class = "name of a time" // of a month or a quarter, without a year
	aside    class = "aside"          // who wrote it, and remarks
)

// words are those of each class, in the usual languages.
var words = func() map[string]class {
	out := map[string]class{}
	for c, list := range map[class]string{
		region: `region coast area district territory county state province zone country land gebiet bezirk küste regione región région
			secteur zona provincia regio gebied costa côte kust
			região`,
		branch: `branch outlet store shop location site depot office filiale niederlassung standort laden agence magasin succursale boutique
			tienda sucursal negozio filial vestiging winkel filiaal zweigstelle verkaufsstelle geschäft sede local loja
			agência delegación`,
		product: `product article item sku goods material produkt artikel ware produit prodotto articolo producto artículo
			produto artigo mercadoria`,
		day:     `date day datum tag jour fecha día giorno dag`,
		month:   `month period monat periode mois période mes mese periodo maand`,
		quarter: `quarter qtr quartal trimestre kwartaal`,
		year:    `year jahr année an año anno jaar`,
		quantity: `quantity qty units unit pieces pcs count volume menge anzahl stück stückzahl quantité nombre cantidad unidades quantità
			pezzi aantal stuks hoeveelheid einheiten eenheden piezas unités unità quantidade
			qté qtà anz cant uds stk stck pz qtd`,
		amount: `amount revenue turnover sales value net gross takings betrag umsatz erlös wert netto ventes montant valeur recettes importe
			ventas valor importo vendite valore bedrag omzet waarde einnahmen fatturato facturación opbrengst vendas receita faturamento faturação
			eur euro euros usd gbp chf booked gebucht`,
		price: `price preis prix precio prezzo prijs rate einzelpreis stückpreis`,
		aside: `remark remarks note notes comment comments entered clerk by user bemerkung notiz erfasst remarque saisi observaciones
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
var phrases = func() map[string]class {
	out := map[string]class{}
	for c, list := range map[class]string{
		branch:   "point of sale,point de vente,punto de venta,punto vendita,verkooppunt",
		product:  `description,bezeichnung,désignation,libellé,omschrijving,descripción,descrizione,goods description,what,was`,
		quantity: "absatz,qté,pièces,afzet",
		amount:   "ca,chiffre d'affaires",
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
	of   class
}{{"gebiet", region}, {"gebied", region}, {"region", region}, {"filial", branch}, {"standort", branch}, {"artikel", product},
	{"produkt", product}, {"waren", product}, {"monat", month}, {"maand", month}, {"datum", day}, {"menge", quantity}, {"anzahl", quantity},
	{"aantal", quantity}, {"preis", price}, {"prijs", price}, {"umsatz", amount}, {"betrag", amount}, {"erlos", amount}, {"bedrag", amount},
	{"omzet", amount}}

// compoundOf is what a word of several parts names: by its end, or else its beginning.
func compoundOf(word string) class {
	for _, fits := range []func(string, string) bool{strings.HasSuffix, strings.HasPrefix} {
		for _, c := range compounds {
			if len(word) > len(c.head)+2 && fits(word, c.head) {
				return c.of
			}
		}
	}
	return noClass
}

// genitives stand behind what a header names: "zona de ventas".
var genitives = []string{"of", "de", "du", "des", "di", "del", "van", "der", "von"}

// classOf is what a header names: by all of it, its last word, or its first.
func classOf(header string) class {
	k := key.Of(once(header))
	if c, ok := words[k]; ok {
		return c
	}
	if c, ok := phrases[k]; ok {
		return c
	}
	list := strings.Fields(k)
	if len(list) == 0 {
		return noClass
	}
	for _, w := range list {
		if words[w] == aside {
			return aside
		}
	}
	ends := []string{list[len(list)-1], list[0]}
	if len(list) > 2 && slices.Contains(genitives, list[1]) {
		ends = []string{list[0], list[len(list)-1]}
	}
	for _, named := range []func(string) class{func(w string) class { return words[w] }, compoundOf,
		func(w string) class { return phrases[w] }} {
		for _, w := range ends {
			if c := named(w); c != noClass {
				return c
			}
		}
	}
	return noClass
}

// withoutUnit is the key of a header without the unit at its end: of amount in eur, amount.
func withoutUnit(k string) string {
	list := strings.Fields(k)
	for len(list) > 1 && (value.IsTotalWord(list[len(list)-1]) || list[len(list)-1] == "in" || list[len(list)-1] == "en") {
		list = list[:len(list)-1]
	}
	return strings.Join(list, " ")
}

// figuresAlone reports whether a header names a measure or a price, and nothing else but its unit.
func figuresAlone(header string) bool {
	k := withoutUnit(key.Of(header))
	c := words[k]
	if c == noClass {
		c = phrases[k]
	}
	if c == noClass && !strings.Contains(k, " ") {
		c = compoundOf(k)
	}
	return c.ofMeasure() || c == price || classOf(header) == price
}

// saysPeriod reports whether a header names a time of any length.
func saysPeriod(header string) bool {
	return slices.Contains([]string{"period", "periode", "periodo"}, key.Of(header))
}

// ofTime reports whether a class is one of times.
func (c class) ofTime() bool { return c == day || c == month || c == quarter || c == year }

// ofMeasure reports whether a class is one of measures.
func (c class) ofMeasure() bool { return c == quantity || c == amount }

// general are words that name no region, branch or product: those of files and offices.
var general = wordsByKey(`sales export exports data report reports extract extracts file files sheet book ledger ledgers till tills
	counter takings agents agent office copy final raw umsatz umsätze ventes verkauf ventas vendite turnover revenue figures
	monthly month year fy all total totals list table branch branches products product csv xlsx of the and by coasts
	regions areas shops stores outlets offices regionen filialen register journal log invoices orders alle tous toutes
	todos todas company group
	tabelle liste sheet feuil feuille hoja foglio blad blatt page`)

// kept are words for where files are kept, and of which age they are; before others they belong to a name, such as Old Slip.
var kept = wordsByKey(`new old older archive archives archived archiv previous current latest daten données datos dati input inputs incoming
	inbox download downloads original originals source sources history backup received temp tmp alt alte neu
	neue ancien anciens`)

// listings are words for what was asked of a system, and of which; beside others they belong to a name, such as Alarm System.
var listings = wordsByKey(`system sap erp crm pos db database dump query result results output transaction transactions
	bericht berichte kassenbericht umsatzbericht auswertung absatz kasse kassen rechnungen verkäufe liste umsatzliste verkaufsliste
	rapport rapports relevé relevés état factures informe informes listado facturas elenco fatture omzet verkoop
	bookings statement statements print printout pivot compare comparison listing listings`)

// codes are words for what stands for a thing in figures.
var codes = strings.Fields("code no nr number num id sku ean ref kode nummer numero codigo codice")

// saysCode reports whether a header, by its key, begins or ends with such a word, beside others or as a part of one, or is the
// word for a code of goods.
func saysCode(key string) bool {
	list := strings.Fields(key)
	part := func(end string) bool { return len(key) > len(end)+2 && strings.HasSuffix(key, end) }
	return key == "sku" || key == "ean" || slices.ContainsFunc([]string{"nummer", "nr", "code"}, part) ||
		len(list) > 1 && (slices.Contains(codes, list[0]) || slices.Contains(codes, list[len(list)-1]))
}

// counts reports whether a header is of figures that are no sales of a thing: the numbers of months, of years, of lines,
// of people, a share, an average.
func counts(header string) bool {
	k := key.Of(header)
	return words[k].ofTime() || slices.Contains(rowNumbers, k) || besides[k] || value.YearBefore(k) || value.PartOf(k) ||
		strings.HasSuffix(k, "%") || strings.HasPrefix(k, "% ") || k == "ø" || strings.HasPrefix(k, "ø ")
}

// besides are headers of figures that often stand beside sales, by the key.
var besides = wordsByKey(`staff fte headcount employees hours visitors footfall customers transactions tickets receipts sqm stock inventory
	margin vat tax discount target budget plan forecast average avg mean share rank mitarbeiter stunden besucher kunden belege bestand
	marge mwst steuer rabatt ziel durchschnitt schnitt anteil rang effectif heures visiteurs clients tva remise objectif moyenne part
	empleados horas visitas clientes existencias margen iva descuento promedio cuota
	sconto iva margine korting btw desconto diff difference variance abweichung differenz écart delta δ change changes growth +
	veränderung variation évolution evolution variación variazione verschil wachstum`)

// soFar are words for sums of several months.
var soFar = wordsByKey(`ytd mtd qtd ltm cumulative cum kumuliert cumul cumulé acumulado h1 h2 hj1 hj2 halbjahr`)

// saysBeside reports whether a header says that its figures stand beside those of the times or things across.
func saysBeside(header string) bool { return counts(header) || hasWord(soFar, header) }

// rowNumbers are headers of the numbers of rows, by the key.
var rowNumbers = []string{"#", "no", "nr", "n", "id", "row", "line", "pos", "position", "lfd nr", "lfdnr", "zeile", "ligne", "fila", "riga"}

// saysNothing reports whether a text is made of general words and numbers alone, or of words for what is asked for:
// "coast book", but not "Area 2".
func saysNothing(text string) bool {
	numbered := strings.ContainsAny(text, "0123456789")
	for _, w := range strings.Fields(strings.ReplaceAll(key.Of(text), "head office", "office")) { // while Tern Head is a place
		w = strings.Trim(w, "0123456789")
		said := general[w] || kept[w] || listings[w] || !numbered && words[w] != noClass
		if utf8.RuneCountInString(w) > 1 && !said {
			return false
		}
	}
	return true
}
