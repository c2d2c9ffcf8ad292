package plan

import (
	"slices"
	"strconv"
	"strings"

	"umbau/internal/core/pattern"
	"umbau/internal/core/place"
	"umbau/internal/core/value"
)

func (r *reader) fact(p *Plan, n node) {
	if n.kind != mapping || len(n.pairs) == 0 {
		r.fail(n.pos, "fact is a map with one entry a column, such as region: text, not %s", n.describe())
		return
	}
	var drafts []*draft
	for _, pair := range n.pairs {
		d := r.begin(p, pair)
		drafts = append(drafts, d)
		p.Columns = append(p.Columns, d.Column)
	}
	r.typeFormulas(p, drafts)
	p.Columns = nil
	for _, d := range drafts {
		p.Columns = append(p.Columns, d.Column)
		if v, ok := d.keys["mark"]; ok {
			p.Columns = append(p.Columns, &Column{Pos: v.pos, Name: r.text(v, "mark"), Decimals: -1, Kept: true, Marks: d.Name})
		}
	}
	for _, d := range drafts {
		r.complete(p, d)
	}
}

// draft is a column under way, and what stands under its keys.
type draft struct {
	*Column
	keys   map[string]node
	typed  bool // the kind is known
	silent bool // a lookup whose kind is that of its reference
	broken bool // its formula is
	open   bool // being typed, or
	done   bool // typed
}

// begin reads what a column is and where it comes from.
func (r *reader) begin(p *Plan, pair aPair) *draft {
	d := &draft{Column: &Column{Pos: pair.pos, Name: pair.key, Decimals: -1, Add: true, Kept: true}, typed: true}
	n := pair.value
	switch {
	case n.kind == nothing:
	case n.kind == scalar && strings.HasPrefix(n.text, "="):
		d.keys = map[string]node{"formula": n}
	case n.kind == scalar:
		d.Kind = r.kind(n)
	default:
		d.keys = r.mapOf(n, columnKeys, "column "+pair.key)
	}
	_, made := d.keys["formula"]
	if v, ok := d.keys["is"]; ok {
		d.Kind = r.kind(v)
	} else if _, ok := d.keys["book"]; ok {
		d.Kind = Name
	} else if _, ok := d.keys["lookup"]; ok {
		known := false
		d.Kind, known = p.kinds[pair.key]
		d.silent, d.broken = true, !known
		r.open[pair.key] = !known
	} else {
		d.typed = !made
	}
	if v, ok := d.keys["formula"]; ok {
		d.Formula = r.parseFormula(v, "formula")
		d.broken = d.Formula == nil
	}
	return d
}

// typeFormulas types the formulas of columns, each after those that it needs, and
// gives columns that do not say what they are the kind of their formula.
func (r *reader) typeFormulas(p *Plan, drafts []*draft) {
	var visit func(d *draft)
	visit = func(d *draft) {
		if d.Formula == nil || d.open {
			return
		}
		d.open = true
		for _, name := range d.Formula.Columns {
			for _, need := range drafts {
				if need.Name == name {
					visit(need)
					d.broken = d.broken || need.broken || need.open && !need.done // a circle
					r.open[d.Name] = r.open[d.Name] || r.open[need.Name]
				}
			}
		}
		d.done = true
		if !d.broken {
			d.broken = !r.checkFormula(p, d.keys["formula"], d.Formula)
		}
		if !d.typed && !d.broken {
			d.Kind, d.typed = KindOfFormula(d.Formula.Type), true
		}
	}
	for _, d := range drafts {
		visit(d)
	}
}

// complete reads the other keys of a column, once all kinds are known.
func (r *reader) complete(p *Plan, d *draft) {
	c, m := d.Column, d.keys
	set(m, "headers", r.texts, &c.Headers)
	r.made(c, m)
	if r.lookup(c, m); c.Lookup != nil {
		c.Lookup.Silent = d.silent
	}
	if v, ok := m["book"]; ok {
		c.Book, c.BookPos = r.path(v, "book"), v.pos
	}
	if v, ok := m["case"]; ok {
		c.Case = Case(slices.Index(caseWords, r.word(v, columnKeys, "case")))
	}
	if v, ok := m["decimals"]; ok {
		c.Decimals = r.decimals(v, c)
	}
	set(m, "add", r.yes, &c.Add)
	set(m, "keep", r.yes, &c.Kept)
	if v, ok := m["currency"]; ok {
		c.Currency = r.currency(v)
	}
	set(m, "note", r.text, &c.Note)
	r.words(c, m)
	if d.broken {
		return
	}
	r.rules(p, c, m)
	r.columnFits(c, m)
}

// words reads which words mean nothing in a column.
func (r *reader) words(c *Column, m map[string]node) {
	var null, values []string
	set(m, "null_words", r.texts, &null)
	set(m, "not_null_words", r.texts, &values)
	c.Words = value.NewWords(null, values)
}

// made reads what a column is made of, where that is no cell.
func (r *reader) made(c *Column, m map[string]node) {
	var from []string
	for _, key := range []string{"headers", "value", "from", "write", "formula", "lookup"} {
		if _, ok := m[key]; ok {
			from = append(from, key)
		}
	}
	if len(from) > 1 {
		r.fail(m[from[1]].pos, "column %s gets its value from two places: %s and %s", c.Name, from[0], from[1])
	}
	if v, ok := m["value"]; ok {
		text := r.text(v, "value")
		c.Value = &text
	}
	set(m, "from", r.text, &c.From)
	if v, ok := m["write"]; ok {
		if c.Write = r.pattern(v, "write"); c.Write != nil &&
			(len(c.Write.Fields()) == 0 || c.Write.Has(pattern.Keep) || strings.Contains(c.Write.String(), "*")) {
			r.fail(v.pos, "write is a pattern of columns, such as \"{name} {year}\"; {} and * stand for nothing to write")
			c.Write = nil
		}
	}
	if v, ok := m["read"]; ok {
		if c.Read = r.pattern(v, "read"); c.Read != nil && !slices.Equal(c.Read.Fields(), []string{pattern.Keep}) {
			r.fail(v.pos, "read is a pattern with one {}, the piece to keep, such as \"*-{}\"")
			c.Read = nil
		}
	}
}

func (r *reader) kind(n node) Kind {
	w := r.word(n, columnKeys, "is")
	return Kind(max(0, slices.Index(kindNames, w)))
}

func (r *reader) decimals(n node, c *Column) int {
	places, err := strconv.Atoi(r.text(n, "decimals"))
	if n.kind == scalar && (err != nil || places < 0 || places > value.MaxPlaces) {
		r.fail(n.pos, "decimals is a whole number from 0 to %d, not %s", value.MaxPlaces, n.describe())
		return -1
	}
	return places
}

func (r *reader) currency(n node) string {
	text := r.text(n, "currency")
	_, code, ok := value.English.Number([]byte("1 " + text))
	if n.kind == scalar && (!ok || code == "") {
		r.fail(n.pos, "currency is an ISO code such as EUR, or a sign, not %s", n.describe())
	}
	return code
}

// gapKeys names the key of each kind of gap.
var gapKeys = [value.Gaps]string{value.Blank: "blanks", value.Null: "nulls", value.Text: "texts", value.Unclear: "unclear",
	value.Error: "errors", value.Missing: "missing"}

// GapKey is the key of a column under which the plan decides a kind of gap.
func GapKey(g value.Gap) string { return gapKeys[g] }

// rules reads the gap rules and the rule for unknown names.
func (r *reader) rules(p *Plan, c *Column, m map[string]node) {
	for g := value.Blank; g < value.Gaps; g++ {
		if v, ok := m[gapKeys[g]]; ok {
			c.Gaps[g] = r.rule(p, v, gapKeys[g], c)
		} else if v, ok := m["gaps"]; ok && g != value.Unclear && g != value.Missing {
			c.Gaps[g] = r.rule(p, v, "gaps", c)
		}
	}
	if v, ok := m["unknown"]; ok {
		text := r.text(v, "unknown")
		c.Unknown = Rule{Pos: v.pos, Remedy: Put, Text: text}
		if !v.quoted && slices.Contains(unknownWords, text) {
			c.Unknown.Remedy = remedies[text]
		}
	}
}

// rule reads what a gap gets, checked against the kind of its column.
func (r *reader) rule(p *Plan, n node, key string, c *Column) Rule {
	text := r.text(n, key)
	rule := Rule{Pos: n.pos, Remedy: Put, Text: text}
	if strings.HasPrefix(text, "=") {
		if rule.Formula = r.gapFormula(p, n, key, c); rule.Formula == nil {
			rule.Remedy = Leave
		}
		return rule
	}
	if !n.quoted && slices.Contains(gapWords, text) {
		if rule.Remedy = remedies[text]; key == gapKeys[value.Missing] && rule.Remedy == Above {
			r.fail(n.pos, "missing: a key that is not there has no value above it; it gets a value, %s", strings.Join(missingWords, ", "))
		}
	}
	if rule.Remedy == Put && n.kind == scalar {
		r.put(&rule, key, c)
	}
	return rule
}

// put checks that a gap value reads as its column's kind.
func (r *reader) put(rule *Rule, key string, c *Column) {
	ok := true
	switch c.Kind {
	case Whole, Number:
		var coef value.Decimal
		if coef, _, ok = value.English.Number([]byte(rule.Text)); ok {
			if c.Decimals >= 0 {
				coef, _ = coef.Rescale(c.Decimals)
			}
			rule.Number = coef.Shorten()
			if c.Decimals >= 0 {
				rule.Number = coef
			}
			if c.Kind == Whole && rule.Number.Places() > 0 {
				ok = false
			}
		}
	default:
		reading := value.Default
		reading.Calendar = r.calendarOf
		var read string
		if read, ok = c.Kind.Read(&reading, rule.Text); ok {
			rule.Text = read
		}
	}
	if !ok {
		near := didYouMean(rule.Text, gapWords)
		r.fail(rule.Pos, "%s: %q is no value of a %s column%s", key, place.Shorten(rule.Text), c.Kind, near)
	}
}

// columnFits reports keys that do not go with the column's kind.
func (r *reader) columnFits(c *Column, m map[string]node) {
	bad := func(key string, ok bool, why string) {
		if v, there := m[key]; there && !ok {
			r.fail(v.pos, "%s %s; %s is a %s column", key, why, c.Name, c.Kind)
		}
	}
	bad("book", c.Kind == Name || c.Kind == Text, "goes with is: name")
	bad("case", c.Kind == Name || c.Kind == Text, "goes with texts and names")
	bad("decimals", c.Kind == Number, "goes with is: number")
	bad("add", c.Kind.Numeric(), "goes with numbers")
	bad("currency", c.Kind.Numeric(), "goes with numbers")
	bad("null_words", !c.Made() || c.Lookup != nil, "goes with cells")
	bad("not_null_words", !c.Made() || c.Lookup != nil, "goes with cells")
	if v, there := m["unknown"]; there && c.Book == "" {
		r.fail(v.pos, "unknown needs a book: the file of the names that are known")
	}
	if c.Book != "" && c.Kind == Text {
		r.fail(c.BookPos, "book goes with is: name; leave out is: text")
	}
}
