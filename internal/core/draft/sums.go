package draft

import (
	"fmt"
	"path"
	"slices"
	"strconv"
	"strings"

	"umbau/internal/core/fact"
	"umbau/internal/core/key"
	"umbau/internal/core/record"
	"umbau/internal/core/survey"
	"umbau/internal/core/terms"
	"umbau/internal/core/value"
)

// Files that sum up others: added to these they would count twice.

// ofOthers reports whether a table has labels or times below a header of which no other table with its labels has one: it cannot be their
// sum.
func (s *sheet) ofOthers(all []*sheet) bool {
	return slices.ContainsFunc(s.labels(), func(i int) bool {
		f, own := &s.Fields[i], map[string]bool{}
		timed := f.Is == "date" || f.Is == "month"
		if f.Is != "text" && !timed {
			return false
		}
		for _, v := range s.labelsOf(f) {
			if !terms.SaysAll(v) && !new(value.Totals).Alone(v) { // as a file of all may say
				own[v] = true
			}
		}
		some, shared := false, false
		for _, o := range all {
			if o == s || o.headings() != s.headings() || terms.SumsUp(o.nameOf()) {
				continue
			}
			for _, j := range o.labels() {
				g := &o.Fields[j]
				same := key.Same(f.Header, g.Header) || terms.Of(f.Header) != terms.None && terms.Of(f.Header) == terms.Of(g.Header)
				if !same || g.Is != f.Is && !timed {
					continue
				}
				for _, v := range o.labelsOf(g) {
					some, shared = true, shared || own[v]
				}
			}
		}
		return some && len(own) > 0 && !shared
	})
}

// labelsOf are the values of a field, texts by the key, and dates as months.
func (s *sheet) labelsOf(f *survey.Field) (out []string) {
	if f.Is == "date" || f.Is == "month" {
		for _, d := range s.datesOf(f) {
			out = append(out, value.Date{Year: d.Year, Month: d.Month}.String())
		}
		return out
	}
	for _, v := range f.Values {
		out = append(out, key.Of(v))
	}
	return out
}

// source tells tables apart.
func (s *sheet) source() string {
	name := s.file
	if s.member != "" {
		name += "/" + s.member
	}
	return name + "\x00" + s.Place.Sheet
}

// sumsOfAll finds the table of which every measure is the sum of those of all others, to the last digit: at least two, or one if its
// name says so, in figures of at least five digits. It is called by its source.
func (d *drafter) sumsOfAll(s *fact.Summary) string {
	var left []*record.Extract
	for i := range s.Extracts {
		left = append(left, &s.Extracts[i])
	}
	sure := false
	for _, c := range d.columns {
		if c.missing || !c.class.OfMeasure() {
			continue
		}
		ci := s.Plan.Index(c.name)
		of := func(e *record.Extract) value.Decimal { return e.Account(ci).Fact.Total() }
		var all value.Decimal
		some := 0
		for i := range s.Extracts {
			if one := of(&s.Extracts[i]); one.Sign() != 0 {
				all, some = all.Add(one), some+1
			}
		}
		left = slices.DeleteFunc(left, func(e *record.Extract) bool {
			one := of(e)
			return one.Sign() == 0 && some > 0 || one.Add(one).Sub(all).Sign() != 0
		})
		sure = sure || some > 1 && all.Sign() != 0 && len(strings.Trim(all.Shorten().String(), "-.")) > 5
	}
	if len(left) == 2 { // each is the sum of the other: one may be called so
		left = slices.DeleteFunc(left, func(e *record.Extract) bool {
			return !terms.SumsUp(strings.TrimSuffix(path.Base(e.File), path.Ext(e.File)))
		})
	}
	if !sure || len(left) != 1 {
		return ""
	}
	return left[0].File + "\x00" + left[0].Sheet
}

// twinsOf finds two tables that have as many fact rows, three at least, the same in every measure, to the last digit, in figures of
// four digits, and the same labels: one is the other in another order, or under another name. They are called by their sources; "" for
// none.
func (d *drafter) twinsOf(s *fact.Summary) (one, other string) {
	known, tables := map[string]string{}, map[string]*sheet{}
	for _, t := range d.extracts() {
		tables[t.source()] = t
	}
	for i := range s.Extracts {
		x := &s.Extracts[i]
		account, long := strconv.Itoa(x.Rows.Fact), false
		for _, c := range d.columns {
			if c.missing || !c.class.OfMeasure() {
				continue
			}
			sum := x.Account(s.Plan.Index(c.name)).Fact.Total().Shorten().String()
			account, long = account+" "+sum, long || len(strings.NewReplacer("-", "", ".", "").Replace(sum)) > 3
		}
		source := x.File + "\x00" + x.Sheet
		switch first, ok := known[account]; {
		case !long || x.Rows.Fact < 3:
		case ok && tables[first].sameLabels(tables[source]):
			return first, source
		default:
			known[account] = source
		}
	}
	return "", ""
}

// sameLabels reports whether two tables have the same labels below the same headers.
func (s *sheet) sameLabels(o *sheet) bool {
	labels := func(s *sheet) (out []string) {
		for _, f := range s.Fields {
			out = append(out, key.Of(f.Header))
			for _, v := range f.Values {
				out = append(out, key.Of(f.Header)+"\x00"+key.Of(v))
			}
		}
		slices.Sort(out)
		return out
	}
	return s != nil && o != nil && slices.Equal(labels(s), labels(o))
}

// askTwins asks about two tables that are one, as a build has shown: added up they would count twice.
func (d *drafter) askTwins() {
	for _, e := range d.entries {
		i := slices.IndexFunc(e.sheets, func(s *sheet) bool { return s.source() == d.twins[1] })
		if i < 0 {
			continue
		}
		first, _, _ := strings.Cut(d.twins[0], "\x00")
		e.askAbout(d, fmt.Sprintf("%s has as many rows as %s, and the same sums: it may be that one once more, and would count twice; "+
			"except leaves one of them aside", e.sheets[i].Place.Source(), first))
	}
}
