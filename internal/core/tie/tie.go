// Package tie keeps the accounts by which a fact table is added back to its
// extracts: amounts measure by measure, and rows.
package tie

import "umbau/internal/core/value"

// Account is what became of the amounts of one measure in one extract. Held and
// left-out amounts count as they were read; Changed is what gap values and
// roundings added in fact rows. Each sum is taken where it arises, so that the
// difference shows a mistake wherever it is made.
type Account struct {
	Read, Changed, Fact, Held, LeftOut value.Sum
}

// Merge adds another account.
func (a *Account) Merge(b *Account) {
	a.Read.Merge(&b.Read)
	a.Changed.Merge(&b.Changed)
	a.Fact.Merge(&b.Fact)
	a.Held.Merge(&b.Held)
	a.LeftOut.Merge(&b.LeftOut)
}

// Totals are the figures of an account, all with the same number of places.
type Totals struct {
	Read, Changed, Fact, Held, LeftOut, Difference value.Decimal
}

// Totals works the account out. Difference is Read + Changed - Fact - Held -
// LeftOut; it is zero when the account ties.
func (a *Account) Totals() Totals {
	t := Totals{Read: a.Read.Total(), Changed: a.Changed.Total(), Fact: a.Fact.Total(), Held: a.Held.Total(), LeftOut: a.LeftOut.Total()}
	t.Difference = t.Read.Add(t.Changed).Sub(t.Fact).Sub(t.Held).Sub(t.LeftOut)
	all := []*value.Decimal{&t.Read, &t.Changed, &t.Fact, &t.Held, &t.LeftOut, &t.Difference}
	places := 0
	for _, d := range all {
		places = max(places, d.Places())
	}
	for _, d := range all {
		*d, _ = d.Rescale(places)
	}
	return t
}

// CheckKind is what a compared figure came from.
type CheckKind uint8

// What is compared.
const (
	TotalRow CheckKind = iota
	TotalColumn
	Control
)

var checkNames = [...]string{"total row", "total column", "control"}

// String returns the kind as the record calls it.
func (k CheckKind) String() string { return checkNames[k] }

// Check is one figure that came with an extract, and what it was compared with.
type Check struct {
	Kind   CheckKind
	Row    int
	Header string
	Column int // the measure, a column of the plan
	Said   value.Decimal
	Have   value.Decimal
	Broken bool // they do not agree
	Within bool // they agree, but not to the last digit
}

// Difference is what was said less what there is.
func (c Check) Difference() value.Decimal { return c.Said.Sub(c.Have).Shorten() }

// Rows is the account of the rows of one extract. Read = Blank + RepeatedHeader
// + Total + Footnote + Section + Same + Used; Made = Skipped + Dropped + Held +
// Filtered + Zero + Repeated + Fact.
type Rows struct {
	Read, Blank, RepeatedHeader, Total, Footnote, Section, Same, Used int
	Made, Skipped, Dropped, Held, Filtered, Zero, Repeated, Fact      int
}

// Merge adds another account.
func (r *Rows) Merge(s Rows) {
	for i, f := range r.fields() {
		*f += *s.fields()[i]
	}
}

// fields are the counts in the order in which the record lists them.
func (r *Rows) fields() []*int {
	return []*int{&r.Read, &r.Blank, &r.RepeatedHeader, &r.Total, &r.Footnote, &r.Section, &r.Same, &r.Used,
		&r.Made, &r.Skipped, &r.Dropped, &r.Held, &r.Filtered, &r.Zero, &r.Repeated, &r.Fact}
}

// RowsHeader names the counts of List.
var RowsHeader = []string{"read", "blank", "repeated_header", "total", "footnote", "section", "same", "used",
	"made", "skipped", "dropped", "held", "filtered", "zero", "repeated", "fact_rows"}

// List returns the counts in the order of RowsHeader.
func (r *Rows) List() []int {
	var out []int
	for _, f := range r.fields() {
		out = append(out, *f)
	}
	return out
}

// Balanced reports whether the account adds up.
func (r *Rows) Balanced() bool {
	return r.Read == r.Blank+r.RepeatedHeader+r.Total+r.Footnote+r.Section+r.Same+r.Used &&
		r.Made == r.Skipped+r.Dropped+r.Held+r.Filtered+r.Zero+r.Repeated+r.Fact
}
