package draft

import (
	"fmt"
	"maps"
	"slices"
	"strings"

	"umbau/internal/core/key"
	"umbau/internal/core/survey"
	"umbau/internal/core/terms"
)

// Columns found by elimination: no word names them, and nothing else is left that they can be.

// otherThings are words for what is no region, branch or product: who bought or sold, how, in which state, and groups of products.
var otherThings = terms.List(`customer customers client clients kunde kunden cliente klant klanten supplier vendor lieferant fournisseur
	proveedor fornitore leverancier fornecedor salesperson salesman seller rep reps representative vertreter verkäufer vendeur
	vendedor venditore verkoper agent agente manager leiter responsable employee staff team mitarbeiter cashier kassierer caissier
	person who wer qui quién chi wie channel kanal canal canale kanaal currency währung devise moneda divisa valuta moeda status stand
	state statut estado stato estatus type typ art tipo soort kind sorte payment zahlung paiement pago pagamento betaling method order
	auftrag commande pedido ordine invoice rechnung facture factura fattura factuur document beleg receipt bon ticket number nummer
	numéro número numero category kategorie catégorie categoría categoria categorie group gruppe groupe grupo gruppo groep family
	familie famille familia famiglia range line sortiment class klasse brand marke marque marca merk segment sector department
	abteilung département departamento reparto afdeling division colour color farbe couleur size größe taille talla unit einheit unité
	unidad week woche semaine semana season saison source quelle version account konto compte cuenta conto rekening measure kennzahl
	figure metric reason grund campaign promotion aktion language sprache buyer ship carrier warehouse lager company firma société
	empresa entity mandant mandate flag code id key reference ref time hour uhrzeit weekday wochentag why warum how when wann quand
	cuándo quando wanneer variant scenario plan budget actual ist tax steuer vat discount rabatt terms`)

// numbersThings reports whether a field has whole numbers of something, by its header: of an order, of an account.
func (s *sheet) numbersThings(i int) bool {
	return s.Fields[i].Is == "whole" && otherThings.In(s.Fields[i].Header)
}

// placesOnly are words for places, of which nobody knows whether they are regions or branches.
var placesOnly = terms.List(`where whereabouts wo où dónde donde dove waar city town place ort stadt ville ciudad lugar città plaats stad
	cidade lieu luogo port harbour harbor hafen quay kai market markt marché mercado mercato`)

// eliminate finds sources that no word names, and takes them for those of other entries, too.
func (d *drafter) eliminate() {
	for _, e := range d.entries {
		d.eliminateIn(e)
	}
	for _, e := range d.entries {
		d.claimAsElsewhere(e)
	}
}

// eliminateIn finds the regions, branches and products of an entry that no word names, where as many columns lack a source as
// texts are left, and the rows agree with one way alone, be they asked for or not: a branch is in one region, which has several; a
// product is sold in several places, and not alone there.
func (d *drafter) eliminateIn(e *entry) {
	lacking := d.unsourced(e)
	left, all := e.textsLeft()
	if len(d.Columns) == 0 || len(lacking) == 0 || len(lacking) != len(left) || !all {
		return
	}
	rows := e.someRows()
	known, open := d.thingsOf(e, rows)
	if len(open) < len(left) || !d.sureAcross(e) {
		return
	}
	var found map[terms.Class]*survey.Field
	several := false
	eachWay(open, left, func(way map[terms.Class]*survey.Field) {
		of := maps.Clone(known)
		for c, f := range way {
			of[c] = key.Of(f.Header)
		}
		if rows.agreeWith(of) {
			found, several = maps.Clone(way), found != nil
		}
	})
	if several || slices.ContainsFunc(lacking, func(c *column) bool { return found[c.class] == nil }) {
		return
	}
	for _, c := range lacking {
		f := found[c.class]
		c.claim(e, f.Header, "column "+f.Header+", by elimination")
		e.take(f.Header, c)
		c.learn(f.Values)
		if c.note == "" {
			c.note = "no word says what " + strings.TrimSpace(f.Header) + " is, but " + why(c, found)
		}
	}
}

// why is what decided that a field is a column's, behind what no word says.
func why(c *column, found map[terms.Class]*survey.Field) string {
	if r, b := found[terms.Region], found[terms.Branch]; r != nil && b != nil && c.class != terms.Product {
		return fmt.Sprintf("each of %d %s is in one of %d %s", b.Distinct, strings.TrimSpace(b.Header), r.Distinct, strings.TrimSpace(r.Header))
	}
	return "no other texts are left"
}

// claimAsElsewhere finds the source of columns in fields that are theirs in other entries, where the rows do not contradict.
func (d *drafter) claimAsElsewhere(e *entry) {
	rows := e.someRows()
	known, _ := d.thingsOf(e, rows)
	if !d.sureAcross(e) {
		return
	}
	for _, c := range d.columns {
		if !slices.Contains(things, c.class) || c.used[e] || c.lookup != nil {
			continue
		}
		var found []*survey.Field
		for _, i := range e.sheets[0].labels() {
			f := &e.sheets[0].Fields[i]
			own := func(c *column) bool {
				return slices.ContainsFunc(c.headers, func(h string) bool { return key.Same(h, f.Header) })
			}
			if _, taken := e.measures[key.Of(f.Header)]; !taken && own(c) {
				found = append(found, f)
				if slices.ContainsFunc(d.columns, func(o *column) bool { return o != c && own(o) }) {
					found = append(found, f)
				}
			}
		}
		if len(found) != 1 {
			continue
		}
		if known[c.class] = key.Of(found[0].Header); rows.agreeWith(known) {
			c.claim(e, found[0].Header, "column "+found[0].Header)
			e.take(found[0].Header, c)
			c.learn(found[0].Values)
			delete(c.tossUps, e)
		} else {
			delete(known, c.class)
		}
	}
}

// things are the classes of what sells, and what is sold.
var things = []terms.Class{terms.Region, terms.Branch, terms.Product}

// thingsOf are the stand-ins, among rows, for what is said of regions, branches and products in an entry, and the classes of which
// nothing is said.
func (d *drafter) thingsOf(e *entry, rows *someRows) (known map[terms.Class]string, open []terms.Class) {
	known = map[terms.Class]string{}
	for _, want := range things {
		said := false
		for _, c := range d.columns {
			if c.class != want || !c.used[e] && c.lookup == nil {
				continue
			}
			said = true
			for _, k := range slices.Sorted(maps.Keys(e.measures)) {
				if e.measures[k] == c.name {
					known[want] = rows.add(want, func(i int) string { return rows.rows[i][k] })
				}
			}
			for i := range e.pieces {
				if p := &e.pieces[i]; p.column == c && len(p.Values) == len(e.sheets) {
					known[want] = rows.add(want, func(i int) string { return key.Of(p.Values[rows.of[i]]) })
				}
			}
		}
		if !said {
			open = append(open, want)
		}
	}
	return known, open
}

// sureAcross reports whether a book, or columns of other entries, say what the regions, branches or products are that stand across, or in
// section rows, if some do.
func (d *drafter) sureAcross(e *entry) bool {
	for _, c := range d.columns {
		across := e.unpivot != nil && strings.Contains(e.unpivot.header, "{"+c.name+"}")
		if !slices.Contains(things, c.class) || !across && e.sections != c.name {
			continue
		}
		known := d.labelsElsewhere(e, c)
		sure, all := 0, 0
		for _, s := range e.sheets {
			labels := s.sectionLabels()
			if across {
				labels = nil
				for _, i := range s.wide {
					labels = append(labels, s.Fields[i].Header)
				}
			}
			for _, label := range labels {
				all++
				said := func(text string) bool { return known[key.Of(text)] || d.inBook(text) }
				if slices.ContainsFunc(strings.Split(label, " | "), said) {
					sure++
				}
			}
		}
		if 2*sure < all {
			return false
		}
	}
	return true
}

// labelsElsewhere are the labels of a column in other entries than one.
func (d *drafter) labelsElsewhere(e *entry, c *column) map[string]bool {
	known := map[string]bool{}
	for _, other := range d.entries {
		for _, s := range other.sheets {
			for i := range s.Fields {
				if other != e && other.measures[key.Of(s.Fields[i].Header)] == c.name {
					for _, v := range s.Fields[i].Values {
						known[key.Of(v)] = true
					}
				}
			}
		}
	}
	return known
}

// tossUp makes a question of a column that the name of a file, sheet or folder may say, which is the same for all rows, or else one of the
// texts left, if there are as many as columns lack a source. One name is no branch of several regions; and a text is likelier one
// if it is written as names are, and the other is not.
func (d *drafter) tossUp(e *entry, c *column, name string) bool {
	left, _ := e.textsLeft()
	if len(d.Columns) == 0 || len(left) < len(d.unsourced(e)) {
		return false
	}
	rows := e.someRows()
	known, _ := d.thingsOf(e, rows)
	several := c.class == terms.Branch && known[terms.Region] != "" && !rows.same(known[terms.Region])
	for _, f := range left {
		known[c.class] = key.Of(f.Header)
		written := isLower(name) && len(f.Values) > 0 && !isLower(f.Values[0])
		header := strings.TrimSpace(f.Header)
		may := several || written || f.Distinct > 1 && rows.agreeWith(known)
		if may && !slices.Contains(c.tossUps[e], header) {
			c.tossUps[e] = append(c.tossUps[e], header)
		}
	}
	return len(c.tossUps[e]) > 0
}

// isLower reports whether a text has no capital letter.
func isLower(text string) bool { return text == strings.ToLower(text) }

// unsourced are the columns of texts that nothing in an entry says; nil where one of them may be anything.
func (d *drafter) unsourced(e *entry) (out []*column) {
	classes := map[terms.Class]bool{}
	for _, c := range d.columns {
		switch {
		case c.class.OfTime(), c.class.OfMeasure(), c.class == terms.Price, c.made(), c.helper, c.settled(e):
		case !slices.Contains(things, c.class), c.further, classes[c.class]:
			return nil
		default:
			out, classes[c.class] = append(out, c), true
		}
	}
	return out
}

// textsLeft are the fields of texts that come again, which no column has and no word names, and whether all that are left are
// such, or are named by a word as something else.
func (e *entry) textsLeft() (out []*survey.Field, all bool) {
	all = true
	for _, i := range e.sheets[0].labels() {
		f := &e.sheets[0].Fields[i]
		if _, taken := e.measures[key.Of(f.Header)]; taken || f.Is != "text" || e.mixes(f.Header) || saysElse(f) {
			continue
		}
		if comesAgain(f) && !f.Unnamed {
			out = append(out, f)
		}
		all = all && 2*f.Distinct <= f.Filled && !slices.Contains(things, terms.Of(f.Header)) && !f.Unnamed
	}
	for _, s := range e.sheets[1:] {
		for _, f := range out {
			all = all && s.field(strings.TrimSpace(f.Header)) != nil
		}
	}
	return out, all
}

// comesAgain reports whether the values of a field come again, and no word says what they are.
func comesAgain(f *survey.Field) bool {
	return 2*f.Distinct <= f.Filled && terms.Of(f.Header) == terms.None
}

// saysElse reports whether a word says that a field of texts is something else than a region, branch or product.
func saysElse(f *survey.Field) bool {
	return terms.Of(f.Header) == terms.Aside || otherThings.In(f.Header) || terms.SaysCode(key.Of(f.Header)) ||
		slices.ContainsFunc(f.Values, terms.SaysOfFigures)
}

// eachWay calls a function with the fields as those of each choice of the classes.
func eachWay(classes []terms.Class, fields []*survey.Field, call func(map[terms.Class]*survey.Field)) {
	way := map[terms.Class]*survey.Field{}
	var rest func(i int)
	rest = func(i int) {
		if i == len(fields) {
			call(way)
			return
		}
		for _, c := range classes {
			if way[c] == nil {
				way[c] = fields[i]
				rest(i + 1)
				delete(way, c)
			}
		}
	}
	rest(0)
}

// someRows are rows of the tables of an entry: the text below each header, by its key.
type someRows struct {
	rows []map[string]string
	of   []int // sheets, of each row
}

// mostSeen is about how many rows are enough.
const mostSeen = 10_000

func (e *entry) someRows() *someRows {
	out := &someRows{}
	for n, s := range e.sheets {
		if len(out.rows) > mostSeen {
			break
		}
		for _, row := range s.Sample {
			texts := map[string]string{}
			for j, text := range row {
				if j < len(s.Fields) && !s.isWide(j) {
					texts[key.Of(s.Fields[j].Header)] = key.Of(text)
				}
			}
			out.rows, out.of = append(out.rows, texts), append(out.of, n)
		}
	}
	return out
}

// add adds what rows say of a class, unless more is known, and returns its stand-in for a header.
func (r *someRows) add(c terms.Class, said func(row int) string) (header string) {
	header = "of " + string(c)
	for i, row := range r.rows {
		if row[header] == "" {
			row[header] = said(i)
		}
	}
	return header
}

// agreeWith reports whether the rows agree with what headers are said to be of.
func (r *someRows) agreeWith(of map[terms.Class]string) bool {
	region, branch, product := of[terms.Region], of[terms.Branch], of[terms.Product]
	if placesOnly.In(product) {
		return false
	}
	if region != "" && branch != "" && (!r.settles(branch, region) || r.settles(region, branch)) {
		return false
	}
	for _, at := range []string{region, branch} {
		if at != "" && product != "" && (r.settles(at, product) || r.settles(product, at) && !r.same(at)) {
			return false
		}
	}
	return true
}

// settles reports whether each value below a header has one value below another.
func (r *someRows) settles(header, other string) bool {
	one := map[string]string{}
	for _, row := range r.rows {
		k, v := row[header], row[other]
		if k == "" || v == "" {
			continue
		}
		if had, ok := one[k]; ok && had != v {
			return false
		}
		one[k] = v
	}
	return true
}

// same reports whether all rows have the same value below a header.
func (r *someRows) same(header string) bool {
	return !slices.ContainsFunc(r.rows, func(row map[string]string) bool { return row[header] != r.rows[0][header] })
}
