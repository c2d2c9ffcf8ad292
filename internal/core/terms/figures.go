package terms

import (
	"slices"
	"strings"

	"umbau/internal/core/key"
	"umbau/internal/core/value"
)

// Planned are words for figures that were not sold, and Sold for those that were.
var (
	Planned = List(`budget budgets budgeted plan plans planned planning forecast forecasts target targets soll planzahlen
	prognose vorgabe budgété prévu prévision prévisions objectif presupuesto previsto previsión objetivo begroting previsione`)
	Sold = List(`actual actuals sold ist istzahlen réel réalisé reel real reales effettivo werkelijk`)
)

// Returns reports whether a text is of what came back, or counts against what was sold.
func Returns(text string) bool { return CountsAgainst(text) || returned.In(text) }

// OnlyReturns reports whether a text says so and nothing else.
func OnlyReturns(text string) bool {
	other := func(w string) bool { return !returned[w] && !Against[w] && !General(w) }
	return Returns(text) && !slices.ContainsFunc(strings.Fields(key.Of(text)), other)
}

// returned are words for what came back, where others are sold.
var returned = List(`return returns returned rückgabe retour retours devuelto reso`)

// Against are words for what counts against what was sold.
var Against = List(`refund refunds gutschrift gutschriften storno stornos retoure retouren avoir avoirs abono abonos
	devolución devoluciones cancelled canceled cancellation void voided reversed storniert annulliert annulé annulée annulés annulation
	anulado anulada cancelado cancelada annullato annullata`)

// undone are what is said of sales, by one word, that were none in the end, or are there once more.
var undone = List(`rejected declined failed deleted lost test draft duplicate duplicated copy invalid expired abandoned error
	intercompany summary provisional preliminary prelim abgelehnt gelöscht verloren fehlgeschlagen ungültig entwurf doppelt
	doublette kopie fehler vorläufig rejeté refusé supprimé perdu échoué brouillon doublon erreur provisoire rechazado eliminado
	perdido borrador fallido duplicado rifiutato eliminato perso bozza doppio afgewezen verwijderd verloren concept dubbel transfer transfers
	internal umlagerung intern transfert interne traspaso interno trasferimento overboeking`)

// Undone reports whether a label says of a sale that it was none in the end, and nothing else.
func Undone(label string) bool { return undone[key.Of(label)] }

// AsksUndone reports whether a header asks of each row whether it was cancelled or undone, or when: "Cancelled on", "Is test".
func AsksUndone(header string) bool {
	k := key.Of(header)
	for _, word := range []string{"is", "was", "ist"} {
		k = strings.TrimPrefix(k, word+" ")
	}
	for _, word := range []string{"flag", "on", "at", "date", "am", "datum", "le"} {
		k = strings.TrimSuffix(k, " "+word)
	}
	return Against[k] || undone[k]
}

// CountsAgainst reports whether a text is of what counts against what was sold: credit notes, but no credit cards.
func CountsAgainst(text string) bool {
	k := key.Of(text)
	return Against.In(text) || strings.Contains(k, "credit note") || strings.Contains(k, "credit memo")
}

// SaysPlan reports whether a line says that figures were planned, and nothing else but when: "Budget 2024".
func SaysPlan(line string) bool {
	other := func(w string) bool {
		t, _ := TimeOf(w)
		return !Planned[w] && !General(w) && t == None && strings.Trim(w, "0123456789") != ""
	}
	return Planned.In(line) && !slices.ContainsFunc(strings.Fields(key.Of(line)), other)
}

// Sense is which of some contraries a text says, -1 for none.
func Sense(text string, of []Words) int {
	return slices.IndexFunc(of, func(words Words) bool { return words.In(text) })
}

// SaysOfFigures reports whether a text says which money figures are, whether they were sold or planned, or which measure they
// are of: EUR, but not Cup.
func SaysOfFigures(text string) bool {
	if value.IsCurrency(text) {
		return text == strings.ToUpper(text)
	}
	return !strings.Contains(key.Of(text), " ") && (Sold.In(text) || Planned.In(text) || Of(text).OfMeasure())
}

// SaysKind reports whether a text says no more than which kind figures are of: a measure, returns, plans.
func SaysKind(text string) bool {
	k := key.Of(text)
	return OfWord(k).OfMeasure() || Against[k] || Planned[k] || NoSales[k]
}

// SaysFiguresOnly reports whether a text has no word that does not say which figures these are, or of when, or that they are of
// all, or numbers of rows: Net sales, YTD, Avg price, 2023, Q1, Returns, All products, No; but not Sales bag.
func SaysFiguresOnly(text string) bool {
	k := key.Of(text)
	if SaysTime(text) || SaysAll(text) || OnlyReturns(text) || slices.Contains(lastYear, k) || slices.Contains(thisYear, k) ||
		slices.Contains(rowNumbers, k) {
		return true
	}
	list := strings.Fields(k)
	for _, words := range sumsSoFar {
		if rest, found := strings.CutSuffix(" "+k+" ", words); found {
			list = strings.Fields(rest)
		}
	}
	return k != "" && !slices.ContainsFunc(list, func(w string) bool {
		return w != "%" && !OfWord(w).OfMeasure() && !Against[w] && !Planned[w] && !NoSales[w] && !soFar[w] && !averages[w] && !net[w] &&
			!gross[w] && !taxes[w] && !value.IsCurrency(w)
	})
}

// steps are words for what a sale goes through, in its order: the same sale may be in several rows.
var steps = []Words{
	List("quote quotes quotation quotations offer offers angebot angebote estimate estimates proforma devis oferta ofertas offerta"),
	List("order orders auftrag aufträge bestellung bestellungen commande commandes pedido pedidos ordine ordini"),
	List("invoice invoices rechnung rechnungen facture factures factura facturas fattura fatture factuur facturen"),
	List("delivery deliveries lieferung lieferungen lieferschein lieferscheine livraison livraisons entrega entregas consegna"),
}

// StepOfSale is which step of a sale a text says, -1 for none.
func StepOfSale(text string) int { return Sense(text, steps) }

// StepsOfSale reports whether each text is of a step, and two of different ones.
func StepsOfSale(texts []string) bool {
	seen := map[int]bool{}
	for _, t := range texts {
		seen[StepOfSale(t)] = true
	}
	return len(seen) > 1 && !seen[-1]
}

// Costs and sales are words for these.
var (
	Costs = List(`cost costs kosten expense expenses aufwand aufwendungen coût coûts costo costos coste costes gastos costi
		spese`)
	sales = List("sale sales verkauf verkäufe ventes ventas vendite")
)

// SaysSold reports whether a text says that figures were sold, or which of those that were.
func SaysSold(text string) bool { return sales.In(text) || amounts.In(text) || Sold.In(text) }

// CostsBesideSales reports whether some texts are of costs, and others of sales.
func CostsBesideSales(texts []string) bool {
	cost := func(t string) bool { return Costs.In(t) }
	sold := func(t string) bool { return !cost(t) && (amounts.In(t) || sales.In(t)) }
	return slices.ContainsFunc(texts, cost) && slices.ContainsFunc(texts, sold)
}

// SidesOfAccount reports whether texts are the two sides of an account.
func SidesOfAccount(texts []string) bool {
	var keys []string
	for _, t := range texts {
		keys = append(keys, key.Of(t))
	}
	slices.Sort(keys)
	return slices.ContainsFunc([][]string{{"c", "d"}, {"cr", "dr"}, {"h", "s"}, {"credit", "debit"}, {"haben", "soll"}, {"crédit", "débit"}},
		func(pair []string) bool { return slices.Equal(keys, pair) })
}

// Codes of documents, as programs for accounts have them: of invoices, and of what counts against these.
var (
	invoiceCodes = List("inv in ic si sin re ra rg fa fac fact ft fv rech")
	creditCodes  = List("crn cn cm crm cr sc scn gu gs gut av avo nc ncr rtn ret rma sto st rem")
)

// documents are words of headers of kinds of documents.
var documents = List(`type typ art kind code doc document belegart beleg vorgang trans transaction tran trx movement entry journal tipo
	soort documento`)

// SaysDocument reports whether a header may be of kinds of documents.
func SaysDocument(header string) bool { return documents.In(header) }

// CreditCode reports whether a text may be the code of what counts against invoices.
func CreditCode(text string) bool { return creditCodes[key.Of(text)] }

// DocumentCodes reports whether some texts are codes of documents, of invoices and of what counts against these among them.
func DocumentCodes(texts []string) bool {
	code := func(t string) bool {
		t = strings.TrimSpace(t)
		return len(t) < 5 && t == strings.ToUpper(t)
	}
	invoice := func(t string) bool { return invoiceCodes[key.Of(t)] }
	return all(texts, code) && slices.ContainsFunc(texts, invoice) && slices.ContainsFunc(texts, CreditCode)
}

func all(texts []string, is func(text string) bool) bool {
	return !slices.ContainsFunc(texts, func(text string) bool { return !is(text) })
}

// quantities, amounts and NoSales are words that say in names, among others, which figures a table has.
var (
	quantities = List(`quantity quantities qty units pieces pcs menge mengen anzahl anz stück stückzahl stückzahlen quantité quantités
		qté qtés cantidad cantidades unidades quantità pezzi aantal aantallen stuks hoeveelheid einheiten unités`)
	amounts = List(`amount amounts amt revenue revenues turnover value values betrag beträge umsatz umsätze erlös erlöse wert werte
		montant montants valeur importe importes valor importo importi valore bedrag bedragen omzet`)
	NoSales = List(`stock stocks inventory bestand bestände lagerbestand inventaire existencias inventario voorraad cost costs kosten
		coût coûts costo costos coste costes costi margin margins marge margen margine price prices preise prix precios prezzi prijzen
		purchase purchases purchasing einkauf einkäufe wareneinsatz cogs achat achats compra compras acquisti inkoop expense expenses
		aufwand aufwendungen dépenses gastos spese wages payroll salaries löhne gehälter salaires rent miete loyer discounts rabatte
		remises descuentos sconti kortingen`)
)

// notSold are words of headers whose figures are no sums of what was sold, beside those of NoSales, Planned, soFar and what came
// back; notSoldHeads are what German words of several parts begin with that say so.
var (
	notSold = List(`average avg mean median durchschnitt durchschnittlich durchschnittlicher moyenne moyen promedio medio gemiddelde gemiddeld
		ø max min maximum minimum share anteil quota cuota percent prozent % growth wachstum change veränderung variation evolution évolution
		difference diff differenz variance var delta δ chg abweichung écart rank rang ranking discount rabatt remise descuento sconto
		korting rebate rebates skonto commission
		provision provisionen vat mwst ust umsatzsteuer mehrwertsteuer tva iva btw tax taxes steuer open outstanding offen
		offene balance saldo solde opening closing backlog lost freight fracht ly py vorjahr prior previous ziel cumulated kumulierter
		cumulado cumulato cumulatief per je pro quote quotes quoted quotation quotations offer offers angebot
		angebote offerte offerten devis`)
	notSoldHeads = strings.Fields("durchschnitts lagerwert einkaufs rabattb planu sollu vorjahres steuerb mwstb")
	// within stand before words for what figures have in them, or have not.
	within = List(`incl inkl including inclusive excl exkl excluding exclusive ex without with ohne mit before after nach vor less minus
		avant après sans avec hors sin con antes después prima dopo senza zonder met inclusief exclusief`)
)

// NotSold reports whether a header says that its figures are no sums of what was sold: "Average amount", "Sales YTD", but not "Sales excl
// VAT" or "VAT incl".
func NotSold(header string) bool {
	list := strings.Fields(key.Of(header))
	for i, w := range list {
		next := append(list, "")[i+1]
		head := func(h string) bool { return strings.HasPrefix(w, h) }
		switch {
		case within[w], w == "net" && Genitive(next):
			return false
		case within[next], words[w].OfMeasure() && !Planned[w], i == 0 && (w == "per" || w == "je" || w == "pro"):
		case notSold[w], NoSales[w], Planned[w], soFar[w], returned[w], Against[w], slices.ContainsFunc(notSoldHeads, head):
			return true
		}
	}
	return false
}

// FiguresOf is what the first of some texts that says it says of figures: quantity, amount, or aside for what was not sold.
func FiguresOf(texts []string) Class {
	for _, text := range texts {
		money := amounts.In(text) || value.CurrencyIn(text) != ""
		switch {
		case NoSales.In(text):
			return Aside
		case quantities.In(text) && !money:
			return Quantity
		case money && !quantities.In(text):
			return Amount
		}
	}
	return None
}

// signs are what stands between the name of a measure and what it is of; behind a bracket, one closes the header.
var signs = []string{" (", " - ", " – ", ": ", "_", "-", "/", " "}

// MeasureFirst parts a header that begins with the name of a measure, as long as it is, at the sign behind it.
func MeasureFirst(header string) (measure, sign, thing string, ok bool) {
	header = strings.Join(strings.Fields(header), " ")
	for _, sign := range signs {
		for i := strings.LastIndex(header, sign); i > 0; i = strings.LastIndex(header[:i], sign) {
			measure, thing, ok := header[:i], header[i+len(sign):], true
			if sign == " (" {
				thing, ok = strings.CutSuffix(thing, ")")
			}
			if thing = strings.TrimSpace(thing); ok && thing != "" && !strings.HasPrefix(thing, "[") && isMeasure(measure) {
				return measure, sign, thing, true
			}
		}
	}
	return "", "", "", false
}

// MeasureLast parts a header that ends with the name of a measure, as long as it is, at the sign before it.
func MeasureLast(header string) (thing, sign, measure string, ok bool) {
	header = strings.Join(strings.Fields(header), " ")
	for _, sign := range signs {
		for i := strings.Index(header, sign); i >= 0; {
			thing, measure, ok := strings.TrimSpace(header[:i]), header[i+len(sign):], true
			if sign == " (" {
				measure, ok = strings.CutSuffix(measure, ")")
			}
			if ok && thing != "" && isMeasure(measure) {
				return thing, sign, measure, true
			}
			next := strings.Index(header[i+1:], sign)
			if next < 0 {
				break
			}
			i += 1 + next
		}
	}
	return "", "", "", false
}

// isMeasure reports whether a text is the name of a measure: a word, or several each of which says one or that it was sold.
func isMeasure(text string) bool {
	k := key.Of(text)
	other := func(w string) bool { return !words[w].OfMeasure() && !Sold[w] }
	return words[k].OfMeasure() || k != "" && !slices.ContainsFunc(strings.Fields(k), other) && Of(text).OfMeasure()
}

// besideGoods are words for what is charged, paid or counted beside the goods that are sold, besides those of notSold, NoSales and Planned.
var besideGoods = List(`shipping postage porto delivery versand versandkosten frachtkosten tip tips trinkgeld deposit deposits pfand
	rounding rundung rundungsdifferenz voucher vouchers gutschein gutscheine coupon coupons points punkte fee fees gebühr gebühren surcharge
	surcharges zuschlag zuschläge insurance versicherung donation donations spende spenden days tage cash gift petty charges`)

// BesideGoods reports whether a header of figures among those of goods says that they are of none, and nothing else: freight, tips,
// cash difference; but not gift box.
func BesideGoods(header string) bool {
	list := strings.Fields(key.Of(header))
	return len(list) > 0 && !slices.ContainsFunc(list, func(w string) bool {
		return !besideGoods[w] && !notSold[w] && !NoSales[w] && !Planned[w]
	})
}

// OfNoSales reports whether a word, by the key, says of figures that they are no sales.
func OfNoSales(word string) bool {
	return NoSales[word] || Planned[word] || notSold[word] || returned[word] || Against[word]
}

// NoSalesOf is what a name says beside words for figures that are no sales, by the key: lakes of "Lakes cost", "Lakes LY" and "Plan
// Lakes"; "" where none of these words stands there, or nothing else.
func NoSalesOf(name string) string {
	list := strings.Fields(key.Of(name))
	rest := slices.DeleteFunc(slices.Clone(list), OfNoSales)
	if len(rest) == len(list) {
		return ""
	}
	return strings.Join(rest, " ")
}
