package draft

import (
	"slices"

	"umbau/internal/core/key"
	"umbau/internal/core/survey"
)

// What the values of a field are together: steps of a sale, costs and sales, the two sides of an account, marks of some rows.

// steps are words for what a sale goes through, in its order: the same sale may be in several rows.
var steps = []map[string]bool{
	wordsByKey("quote quotes quotation quotations offer offers angebot angebote estimate estimates proforma devis oferta ofertas offerta"),
	wordsByKey("order orders auftrag aufträge bestellung bestellungen commande commandes pedido pedidos ordine ordini"),
	wordsByKey("invoice invoices rechnung rechnungen facture factures factura facturas fattura fatture factuur facturen"),
	wordsByKey("delivery deliveries lieferung lieferungen lieferschein lieferscheine livraison livraisons entrega entregas consegna"),
}

// ofSteps reports whether each text is of a step, and two of different ones.
func ofSteps(texts []string) bool {
	seen := map[int]bool{}
	for _, t := range texts {
		seen[sense(t, steps)] = true
	}
	return len(seen) > 1 && !seen[-1]
}

// costs and sales are words for these.
var costs, sales = wordsByKey(`cost costs kosten expense expenses aufwand aufwendungen coût coûts costo costos coste costes gastos costi
	spese`), wordsByKey("sale sales verkauf verkäufe ventes ventas vendite")

// besideCosts reports whether some texts are of costs, and others of sales.
func besideCosts(texts []string) bool {
	cost := func(t string) bool { return hasWord(costs, t) }
	sold := func(t string) bool { return !cost(t) && (hasWord(amounts, t) || hasWord(sales, t)) }
	return slices.ContainsFunc(texts, cost) && slices.ContainsFunc(texts, sold)
}

// sides reports whether texts are the two sides of an account.
func sides(texts []string) bool {
	var keys []string
	for _, t := range texts {
		keys = append(keys, key.Of(t))
	}
	slices.Sort(keys)
	return slices.ContainsFunc([][]string{{"c", "d"}, {"cr", "dr"}, {"h", "s"}, {"credit", "debit"}, {"haben", "soll"}, {"crédit", "débit"}},
		func(pair []string) bool { return slices.Equal(keys, pair) })
}

// takeMarks takes a field for one that says what the figures of a row are, if it marks some rows alone: with a plus, as a minus alone is a
// null word, or as planned, where the others say nothing.
func (s *sheet) takeMarks(f *survey.Field) {
	plan := func(v string) bool { return planned[key.Of(v)] }
	switch {
	case f.Is != "text" || len(f.Values) > 8:
	case slices.Equal(f.Values, []string{"+"}) && f.Null > 0:
		s.mixes = append(s.mixes, &mix{f, ofSides, []string{"+", "-"}})
	case f.Blank > 0 && slices.ContainsFunc(f.Values, plan):
		s.mixes = append(s.mixes, &mix{f, ofPlans, append(slices.Clone(f.Values), "nothing")})
	}
}
