package terms

import (
	"slices"
	"strings"
	"unicode/utf8"

	"umbau/internal/core/key"
	"umbau/internal/core/value"
)

// Words are words by their keys.
type Words map[string]bool

// List is a list of words, parted by spaces.
func List(list string) Words {
	out := Words{}
	for _, w := range strings.Fields(list) {
		out[key.Of(w)] = true
	}
	return out
}

// In reports whether one of the words is in a text.
func (w Words) In(text string) bool {
	return slices.ContainsFunc(strings.Fields(key.Of(text)), func(word string) bool { return w[word] })
}

// LastWord is the last word of a text, by the key.
func LastWord(text string) string {
	k := key.Of(text)
	return k[strings.LastIndexByte(k, ' ')+1:]
}

// General reports whether a word, by the key, names no region, branch or product: one of files and offices.
func General(word string) bool { return general[word] }

// Kept reports whether a word, by the key, is one for where files are kept, and of which age they are.
func Kept(word string) bool { return kept[word] }

// Listing reports whether a word, by the key, is one for what was asked of a system, and of which.
func Listing(word string) bool { return listings[word] }

// Genitive reports whether a word stands behind what a text names: "zona de ventas".
func Genitive(word string) bool { return slices.Contains(genitives, word) }

// general are words that name no region, branch or product: those of files and offices.
var general = List(`sales export exports data report reports extract extracts file files sheet book ledger ledgers till tills
	counter takings agents agent office copy final raw umsatz umsätze ventes verkauf ventas vendite turnover revenue figures
	monthly month year fy all total totals list table branch branches products product csv xlsx of the and by in for coasts
	regions areas shops stores outlets offices regionen filialen register journal log invoices orders alle tous toutes
	todos todas company group
	tabelle liste sheet feuil feuille hoja foglio blad blatt page part teil partie deel chunk`)

// kept are words for where files are kept, and of which age they are; before others they belong to a name, such as Old Slip.
var kept = List(`new old older archive archives archived archiv previous current latest daten données datos dati input inputs incoming
	inbox download downloads original originals source sources history backup received temp tmp alt alte neu
	neue ancien anciens`)

// sheets are what programs call sheets that nobody gave a name, but for a number.
var sheets = List(`sheet tabelle tabellenblatt feuil feuille hoja foglio blad folha planilha ark`)

// BareSheet reports whether a sheet has the name that a program gave it: Sheet1, but not Till 1.
func BareSheet(name string) bool { return sheets[strings.TrimRight(key.Of(name), "0123456789 ")] }

// listings are words for what was asked of a system, and of which; beside others they belong to a name, such as Alarm System.
var listings = List(`system sap erp crm pos db database dump query result results output transaction transactions
	bericht berichte kassenbericht umsatzbericht auswertung absatz kasse kassen rechnungen verkäufe liste umsatzliste verkaufsliste
	rapport rapports relevé relevés état factures informe informes listado facturas elenco fatture omzet verkoop
	bookings statement statements print printout pivot compare comparison listing listings`)

// remade are words for what somebody did with a table, or for a file of sales; none of these is part of the name of a place or a thing, as
// table and book are (Chart Table). Behind a name some more are none. Settled and unsettled are words for what became of a file that was
// there before.
var (
	remade = List(`sales export exports data report reports extract extracts file files final copy umsatz umsätze ventes verkauf ventas
		vendite turnover revenue figures monthly takings csv xlsx`)
	remadeBehind = List("raw clean cleaned complete completed vollständig full ok done fertig")
	settled      = List(`corrected correction korrigiert korr corrigé revised revision updated update definitive definitiv checked approved
		geprüft`)
	unsettled = List(`corrections amended draft entwurf brouillon provisional provisorisch prelim preliminary vorläufig provisoire resent
		superseded`)
)

// OfVersion reports whether a word, by the key, behind a name says what became of a file that has the name without it. Things may be
// called so, too: Beer draft.
func OfVersion(word string) bool { return settled[word] || unsettled[word] }

// OfMaking reports whether a word, by the key, before a name or behind it, is one of these, or one for what was asked of a system.
// Orders and bookings are none: they may be no sales.
func OfMaking(word string, behind bool) bool {
	if StepOfSale(word) >= 0 || word == "bookings" {
		return false
	}
	return remade[word] || settled[word] || listings[word] || behind && (remadeBehind[word] || kept[word])
}

// codes are words for what stands for a thing in figures.
var codes = strings.Fields("code no nr number num id sku ean ref kode nummer numero codigo codice")

// SaysCode reports whether a header, by its key, begins or ends with such a word, beside others or as a part of one, or is the
// word for a code of goods.
func SaysCode(key string) bool {
	list := strings.Fields(key)
	part := func(end string) bool { return len(key) > len(end)+2 && strings.HasSuffix(key, end) }
	return key == "sku" || key == "ean" || slices.ContainsFunc([]string{"nummer", "nr", "code"}, part) ||
		len(list) > 1 && (slices.Contains(codes, list[0]) || slices.Contains(codes, list[len(list)-1]))
}

// identities are words for what whole numbers stand for as codes do, alone in a header: who bought, which document, which week.
var identities = List(`customer client kunde cliente klant supplier vendor lieferant fournisseur proveedor fornitore leverancier salesperson
	salesman seller rep vertreter verkäufer vendeur vendedor venditore verkoper agent cashier kassierer order auftrag commande pedido
	ordine invoice rechnung facture factura fattura factuur document beleg receipt bon ticket category kategorie catégorie categoría
	categoria group gruppe groupe grupo gruppo department abteilung account konto compte cuenta conto rekening warehouse lager week
	woche semaine semana settimana weekday wochentag postcode plz postleitzahl zip till kasse terminal gtin barcode upc article artikel
	artículo articolo artigo timestamp epoch time`)

// SaysThing reports whether a title is the name of what stands below it, across or down: places, goods, customers, channels.
func SaysThing(title string) bool {
	c, k := Of(title), key.Of(title)
	if one := strings.TrimSuffix(k, "s"); c == None {
		return identities[k] || identities[one] || kindsOfThings[k] || kindsOfThings[one]
	}
	return c == Region || c == Branch || c == Product
}

var kindsOfThings = List(`channel kanal vertriebskanal canal canale kanaal segment brand marke marque marca merk size größe taille talla
	taglia maat colour color farbe couleur kleur season saison payment zahlungsart market markt marché mercado mercato sector branche`)

// Identifies reports whether a header of whole numbers is of what they stand for, not of figures to be added up.
func Identifies(header string) bool {
	list := strings.Fields(key.Of(header))
	if n := len(list); n == 2 && weekWords[list[1]] { // calendar week
		return list[0] != "per" && list[0] != "pro" && list[0] != "par" && list[0] != "je"
	}
	return len(list) == 1 && (identities[list[0]] || weekWords[list[0]])
}

// SaysFlow reports whether a header of whole numbers is of figures that are added up, though few different ones stand there: Sold, Cost.
func SaysFlow(header string) bool { return flows[LastWord(header)] && !each.In(header) }

var (
	flows = List(`sold cost costs cogs profit freight shipping returns returned refund refunds expenses ordered delivered shipped verkauft
		kosten wareneinsatz gewinn fracht versand retouren bestellt geliefert vendu coût coûts livré vendido coste costes gastos venduto
		costo costi spese verkocht kost`)  // taxes, discounts and margins may be rates
	each = List(`unit per pro par por je each stück pièce unidad`)
)

// NotAdded reports whether a header is of figures that are not added up, whatever they are of: prices, averages, shares, sums of all months
// so far, what stood at the beginning or the end.
func NotAdded(header string) bool {
	k := key.Of(header)
	price := func(w string) bool { return OfWord(w) == Price }
	return slices.ContainsFunc(strings.Fields(k), price) || averages.In(header) || SaysSoFar(header) || parts.In(header) ||
		strings.HasSuffix(k, "%") || strings.HasPrefix(k, "% ")
}

// parts are words for shares and changes, and for balances.
var parts = List(`share anteil quota percent percentage prozent pct growth wachstum rank rang ranking opening closing balance anfangsbestand
	endbestand saldo solde`)

// Counts reports whether a header is of figures that are no sales of a thing: the numbers of months, of years, of lines,
// of people, a share, an average.
func Counts(header string) bool {
	k := key.Of(header)
	return words[k].OfTime() || slices.Contains(rowNumbers, k) || besides[k] || value.YearBefore(k) || value.PartOf(k) ||
		strings.HasSuffix(k, "%") || strings.HasPrefix(k, "% ") || k == "ø" || strings.HasPrefix(k, "ø ")
}

// besides are headers of figures that often stand beside sales, by the key.
var besides = List(`staff fte headcount employees hours visitors footfall customers transactions tickets receipts sqm stock inventory
	margin vat tax discount target budget plan forecast average avg mean share rank mitarbeiter stunden besucher kunden belege bestand
	marge mwst steuer rabatt ziel durchschnitt schnitt anteil rang effectif heures visiteurs clients tva remise objectif moyenne part
	empleados horas visitas clientes existencias margen iva descuento promedio cuota
	sconto iva margine korting btw desconto diff difference variance abweichung differenz écart delta δ change changes growth +
	veränderung variation évolution evolution variación variazione verschil wachstum temperature temperatur weather wetter météo personnel
	personal bons`)

// soFar are words for sums of all months before, and halves those for sums of six; averages are words for what is no sum.
var (
	soFar    = List(`ytd mtd qtd ltm cumulative cumulated cum kumuliert kum cumul cumulé acumulado`)
	halves   = List(`h1 h2 hj1 hj2 halbjahr`)
	averages = List(`average averages avg durchschnitt durchschnittlich moyenne moyennes promedio gemiddelde`)
)

// Largest and Smallest are labels of the row of the largest figures, and of that of the smallest.
var (
	Largest  = List(`max maximum highest largest höchster höchstwert`)
	Smallest = List(`min minimum lowest smallest niedrigster tiefstwert`)
)

// sumsSoFar say the same in several words, by the key.
var sumsSoFar = []string{" to date ", " running total ", " running sum ", " laufende summe "}

// SaysSoFar reports whether a name or a title says that figures are sums of all months before, too.
func SaysSoFar(text string) bool {
	k := " " + key.Of(text) + " "
	return soFar.In(text) || slices.ContainsFunc(sumsSoFar, func(words string) bool { return strings.Contains(k, words) })
}

// SaysAverage reports whether a name or a title says that figures are averages.
func SaysAverage(text string) bool { return averages.In(text) }

// SaysFootnote reports whether a header ends with the mark of a footnote: Jul*.
func SaysFootnote(header string) bool {
	last, _ := utf8.DecodeLastRuneInString(header)
	return strings.ContainsRune("*†‡¹²³⁴⁵^", last)
}

// SaysBeside reports whether a header says that its figures stand beside those of the times or things across.
func SaysBeside(header string) bool { return Counts(header) || soFar.In(header) || halves.In(header) }

// rowNumbers are headers of the numbers of rows, by the key.
var rowNumbers = []string{"#", "no", "nr", "n", "id", "row", "line", "pos", "position", "lfd nr", "lfdnr", "zeile", "ligne", "fila", "riga"}

// making are words of titles that say who or what made a table, and when.
var making = List(`printed prepared created exported generated written user page version author printout run updated refreshed seite
	gedruckt erstellt erzeugt druckdatum bearbeiter benutzer stand imprimé créé édité auteur impreso creado autor stampato creato
	autore gedrukt gemaakt confidential vertraulich as since valid until effective founded seit gültig`)

// monthly are words for what comes every month, and is seldom numbered otherwise, as exports are.
var monthly = List(`sales report reports figures umsatz umsätze ventes verkauf ventas vendite turnover revenue
	month monat mois mes mese maand monthly monatlich period periode`)

// ComesMonthly reports whether all words of a text are of what comes every month.
func ComesMonthly(text string) bool {
	return !slices.ContainsFunc(strings.Fields(key.Of(text)), func(w string) bool { return !monthly[w] })
}

// SaysMaking reports whether a title says who or what made a table, or when: Printed on, Sales by Anna, but not Sales by branch.
func SaysMaking(title string) bool {
	list := strings.Fields(key.Of(title))
	for i, w := range list {
		by := w == "by" || w == "par" || w == "door"
		if making[w] || by && (i+1 == len(list) || Of(list[i+1]) == None && !General(list[i+1])) {
			return true
		}
	}
	return false
}

// SaysNothing reports whether a text is made of general words and numbers alone, or of words for what is asked for:
// "coast book", but not "Area 2".
func SaysNothing(text string) bool {
	numbered := strings.ContainsAny(text, "0123456789")
	for _, w := range strings.Fields(strings.ReplaceAll(key.Of(text), "head office", "office")) { // while Tern Head is a place
		w = strings.Trim(w, "0123456789")
		said := general[w] || kept[w] || listings[w] || !numbered && words[w] != None
		if utf8.RuneCountInString(w) > 1 && !said {
			return false
		}
	}
	return true
}
