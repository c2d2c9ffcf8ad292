package draft

import (
	"fmt"
	"path"
	"slices"
	"strconv"
	"strings"

	"umbau/internal/core/fact"
	"umbau/internal/core/key"
	"umbau/internal/core/place"
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

// mostGroups is how many tables are looked through for one that sums up some others, and mostSharing how many may have a label in common.
const (
	mostGroups  = 4096
	mostSharing = 64
)

// sumsOfSome finds a table of which every measure is the sum of those of two or more others, to the last digit, in figures of five digits
// at least: all that have no other labels in a column than it has, and fewer of them. It is called by its source; "" for none.
func (d *drafter) sumsOfSome(s *fact.Summary) string {
	tables := d.extracts()
	if len(tables) > mostGroups {
		return ""
	}
	accounts, having := map[string]*record.Extract{}, map[string][]*sheet{} // by what stands below a header
	for i := range s.Extracts {
		x := &s.Extracts[i]
		accounts[x.File+"\x00"+x.Sheet] = x
	}
	labels := map[*sheet]map[string][]string{}
	for _, t := range tables {
		labels[t] = map[string][]string{}
		for _, i := range t.labels() {
			if f := &t.Fields[i]; f.Is == "text" && terms.Of(f.Header) != terms.Aside {
				labels[t][key.Of(f.Header)] = t.labelsOf(f)
				for _, v := range t.labelsOf(f) {
					having[key.Of(f.Header)+"\x00"+v] = append(having[key.Of(f.Header)+"\x00"+v], t)
				}
			}
		}
	}
	for _, t := range tables {
		for _, header := range sortedKeys(labels[t]) {
			own, set := labels[t][header], map[string]bool{}
			for _, v := range own {
				set[v] = true
			}
			var parts []*sheet
			for _, v := range own {
				list := having[header+"\x00"+v]
				for _, o := range list[:min(len(list), mostSharing)] {
					in := labels[o][header]
					if o != t && len(in) > 0 && in[0] == v && len(in) < len(own) && all(in, func(v string) bool { return set[v] }) {
						parts = append(parts, o)
					}
				}
			}
			other := func(o *sheet) bool { return !slices.Equal(o.nameTimes(), t.nameTimes()) }
			if d.isSumOf(s, accounts, t, parts) || d.isSumOf(s, accounts, t, slices.DeleteFunc(parts, other)) {
				return t.source()
			}
		}
	}
	return d.sumsOfFew(s, accounts, tables)
}

// mostFew is how many tables are added up in all ways.
const mostFew = 12

// sumsOfFew is sumsOfSome for tables of which labels do not say what they sum up, among few of one time: any two or more others, in
// figures of so many digits that one way of adding up among all is hardly a chance.
func (d *drafter) sumsOfFew(s *fact.Summary, accounts map[string]*record.Extract, all []*sheet) string {
	c := d.of(terms.Amount)
	if c == nil || c.missing {
		return ""
	}
	amount := func(t *sheet) (sum value.Decimal) {
		if x := accounts[t.source()]; x != nil {
			sum = x.Account(s.Plan.Index(c.name)).Fact.Total()
		}
		return sum
	}
	of := map[string][]*sheet{} // by time
	for _, t := range all {
		times := strings.Join(t.nameTimes(), " ")
		of[times] = append(of[times], t)
	}
	for _, times := range sortedKeys(of) {
		for _, t := range of[times] {
			others := slices.DeleteFunc(slices.Clone(of[times]), func(o *sheet) bool { return o == t || amount(o).Sign() == 0 })
			whole := amount(t)
			if len(others) > mostFew || len(strings.Trim(whole.Shorten().String(), "-")) < 6+len(others)/3 {
				continue
			}
			var parts []*sheet
			var add func(rest []*sheet, left value.Decimal) bool
			add = func(rest []*sheet, left value.Decimal) bool {
				if left.Sign() == 0 && d.isSumOf(s, accounts, t, parts) {
					return true
				}
				for i, o := range rest {
					parts = append(parts, o)
					if add(rest[i+1:], left.Sub(amount(o))) {
						return true
					}
					parts = parts[:len(parts)-1]
				}
				return false
			}
			if add(others, whole) {
				return t.source()
			}
		}
	}
	return ""
}

// isSumOf reports whether every measure of a table is the sum of those of others, in figures of five digits at least.
func (d *drafter) isSumOf(s *fact.Summary, accounts map[string]*record.Extract, t *sheet, parts []*sheet) bool {
	sure := false
	for _, c := range d.columns {
		if c.missing || !c.class.OfMeasure() || len(parts) < 2 {
			continue
		}
		ci, sum := s.Plan.Index(c.name), value.Decimal{}
		for _, o := range append(slices.Clone(parts), t) {
			if accounts[o.source()] == nil {
				return false
			}
		}
		for _, o := range parts {
			sum = sum.Add(accounts[o.source()].Account(ci).Fact.Total())
		}
		if sum.Sub(accounts[t.source()].Account(ci).Fact.Total()).Sign() != 0 {
			return false
		}
		sure = sure || len(strings.Trim(sum.Shorten().String(), "-.")) > 5
	}
	return sure
}

// askTwins asks about two tables that are one, and one that sums up some others, as a build has shown: added up they would count twice.
func (d *drafter) askTwins() {
	for _, e := range d.entries {
		if i := slices.IndexFunc(e.sheets, func(s *sheet) bool { return s.source() == d.group }); i >= 0 {
			e.askAbout(d, e.sheets[i].Place.Source()+" has the sums of some of the other tables: it may be these once more, and "+
				"would count twice; except leaves it aside")
		}
		i := slices.IndexFunc(e.sheets, func(s *sheet) bool { return s.source() == d.twins[1] })
		if i < 0 {
			continue
		}
		first, _, _ := strings.Cut(d.twins[0], "\x00")
		e.askAbout(d, fmt.Sprintf("%s has as many rows as %s, and the same sums: it may be that one once more, and would count twice; "+
			"except leaves one of them aside", e.sheets[i].Place.Source(), first))
	}
}

// holdTotals holds rows that may be totals nobody calls so: those with figures and no label at all, and those that have the sums of others,
// by a label which they alone lack. Where no label does, sums of others are a question, and the build waits. It reports whether there are
// such rows that are not held yet.
func (d *drafter) holdTotals(s *fact.Summary) (changed bool) {
	sums := 0
	for _, w := range s.Warnings {
		switch {
		case w.What == "rows without labels":
			changed = d.holdBlanks(s, w.Count, "with figures and no label at all may be a total") || changed
		case sumOfRows(w):
			sums += w.Count
		}
	}
	if sums == 0 || d.sumsHeld || slices.ContainsFunc(s.Problems, d.gapInGrain) { // which may be theirs
		return changed
	}
	if d.sumsHeld = true; d.holdBlanks(s, sums, "with the sums of others may be a total") {
		return true
	}
	for _, w := range s.Warnings {
		if sumOfRows(w) {
			for _, e := range d.entriesAt(&w) {
				e.await(fmt.Sprintf("%s: %s, and a build stops; %s", w.Places[0].File, w.Message, w.Advice))
			}
		}
	}
	return true
}

// sumOfRows reports whether a build warns of a row that has the sums of others, rather than of a column.
func sumOfRows(w place.Problem) bool {
	return w.What == "sum of others" && strings.Contains(w.Message, "has the sums of the rows")
}

// holdBlanks holds rows that lack a label, of a column in which as many do, and no other.
func (d *drafter) holdBlanks(s *fact.Summary, rows int, why string) bool {
	for _, c := range s.Changes {
		if own := d.named(c.Column); c.Kind == "blank" && c.Count == rows && own != nil && own.rules["blanks"] == "Unassigned" {
			own.rules["blanks"] = "hold"
			own.open = own.name + ": " + counted(rows, "row") + " " + why + ": held"
			return true
		}
	}
	return false
}
