package plan

import (
	"slices"
	"strings"

	"umbau/internal/core/place"
	"umbau/internal/core/value"
)

// references reads the tables in which columns are looked up.
func (r *reader) references(p *Plan, n node) {
	if n.kind != mapping {
		r.fail(n.pos, "references names each of them: branches: { file: ref/branches.csv }")
		return
	}
	for _, pair := range n.pairs {
		m := r.mapOf(pair.value, referenceKeys, "reference "+pair.key)
		e := &Entry{Pos: pair.pos, Name: pair.key, Others: Drop, Absent: Stop, SameRows: Keep, SameFiles: Stop, Control: true}
		ref := &Reference{Name: pair.key, Pos: pair.pos, Entry: e}
		for _, key := range []string{"file", "files"} {
			if v, ok := m[key]; ok {
				e.Files = append(e.Files, r.paths(v, key)...)
			}
		}
		if pair.value.kind == mapping {
			r.from(e, m, "file of reference "+pair.key)
		}
		set(m, "except", r.paths, &e.Except)
		set(m, "path", r.pattern, &e.Path)
		r.sheets(e, m)
		r.layout(e, m)
		r.reading(e, m)
		if v, ok := m["same_files"]; ok {
			e.SameFiles = remedies[r.word(v, extractKeys, "same_files")]
		}
		e.Totals = Keep
		p.References = append(p.References, ref)
	}
}

// lookup reads how a column is looked up.
func (r *reader) lookup(c *Column, m map[string]node) {
	v, ok := m["lookup"]
	for _, key := range []string{"by", "take", "missing", "repeats"} {
		if n, there := m[key]; there && !ok {
			r.fail(n.pos, "%s goes with lookup: the reference in which column %s is looked up", key, c.Name)
		}
	}
	if !ok {
		return
	}
	c.Lookup = &Lookup{Pos: v.pos, Of: r.text(v, "lookup")}
	set(m, "by", r.paired, &c.Lookup.By)
	set(m, "take", r.text, &c.Lookup.Take)
	if n, ok := m["repeats"]; ok {
		c.Lookup.Repeats = remedies[r.word(n, columnKeys, "repeats")]
	}
	if len(c.Lookup.By) == 0 {
		r.fail(v.pos, "lookup needs by: the columns whose values are looked up in %s", place.Shorten(c.Lookup.Of))
	}
}

// Reference is the reference of a name, nil where there is none.
func (p *Plan) Reference(name string) *Reference {
	i := slices.IndexFunc(p.References, func(r *Reference) bool { return r.Name == name })
	if i < 0 {
		return nil
	}
	return p.References[i]
}

// checkLookups looks at what the lookups name.
func (r *reader) checkLookups(p *Plan) {
	var known []string
	for _, ref := range p.References {
		known = append(known, ref.Name)
	}
	for _, c := range p.Columns {
		l := c.Lookup
		if l == nil {
			continue
		}
		if p.Reference(l.Of) == nil {
			r.fail(l.Pos, "lookup: there is no reference %q%s", place.Shorten(l.Of), didYouMean(l.Of, known))
		}
		for _, by := range l.By {
			if l.Take != "" && (by.Header == l.Take || by.Header == "" && by.Column == l.Take) {
				r.fail(l.Pos, "take: %s is of the key of the lookup, and no value of its own", l.Take)
			}
		}
		if l.Repeats == Sum && !l.Silent && !c.Kind.Numeric() && c.Kind != Text && c.Kind != Name {
			r.fail(l.Pos, "repeats: sum adds numbers up; %s is a %s column", c.Name, c.Kind)
		}
	}
}

// Open are the columns whose kind is that of a reference, which is not known yet.
func (p *Plan) Open() (out []*Column) {
	for _, c := range p.Columns {
		if c.Lookup != nil && c.Lookup.Silent {
			if _, known := p.kinds[c.Name]; !known {
				out = append(out, c)
			}
		}
	}
	return out
}

// Complete makes the plan anew with the kinds of columns that references have. The error is
// as that of Read; the plan is then as it was.
func (p *Plan) Complete(kinds map[string]Kind) error {
	q, err := readTried(p.File, p.source, p.Formats, kinds, p.trials)
	if err != nil {
		return err
	}
	*p = *q
	return nil
}

// KindOf is the kind that reads all of some texts, those that say nothing aside: the
// narrowest of whole number, number, day, month, quarter, flag and text. Figures that begin
// with a zero are text.
func KindOf(texts []string, number func(text string) (value.Decimal, bool), reading *value.Reading) Kind {
	kinds := []Kind{Year, Whole, Number, Date, Month, Quarter, Flag}
	usable := 0
	for _, t := range texts {
		if t = value.TrimText(t); value.TextGap(t) != value.NoGap {
			continue
		}
		usable++
		kinds = slices.DeleteFunc(kinds, func(k Kind) bool {
			switch k {
			case Year, Whole, Number:
				d, ok := number(t)
				digits := strings.TrimLeft(t, "-+")
				leading := len(digits) > 1 && digits[0] == '0' && digits[1] >= '0' && digits[1] <= '9'
				whole := ok && d.Shorten().Places() == 0
				year := whole && d.Cmp(value.NewDecimal(1900, 0)) >= 0 && d.Cmp(value.NewDecimal(2100, 0)) <= 0
				return !ok || leading || k != Number && !whole || k == Year && !year
			}
			_, ok := k.Read(reading, t)
			return !ok
		})
	}
	if usable == 0 || len(kinds) == 0 {
		return Text
	}
	return kinds[0]
}
