package fact

import (
	"maps"
	"slices"
	"strconv"
	"strings"

	"umbau/internal/core/names"
	"umbau/internal/core/plan"
	"umbau/internal/core/since"
	"umbau/internal/core/value"
)

// Alike is a text of the last build that a new one is most like, and the column in which it stood.
type Alike struct{ Text, Column string }

// Size is what a measure of an extract has in a fact row, on average, which is far more or far less than it had in any
// extract of the last build, Least to Most.
type Size struct {
	File, Sheet, Measure string
	Mean, Least, Most    value.Decimal
}

// Behind is a group that has nothing in the last month (or quarter, or year) of the others, Now, though it had something in the
// last one, Then, when the last build was made.
type Behind struct{ Group, Then, Now string }

// addValues adds the texts of columns that have few, spans of time, and what extracts say of their figures.
func (b *build) addValues(st *since.State) {
	for _, in := range b.inputs {
		for _, said := range in.Says {
			if !slices.ContainsFunc(st.Says, func(s since.Said) bool { return s.What == said.What }) {
				st.Says = append(st.Says, since.Said{What: said.What, File: in.File, Sheet: in.Sheet, Text: oneBreak.Replace(said.Text)})
			}
		}
	}
	if g := b.kept.history; g != nil {
		for i, currency := range g.Currencies {
			if currency != "" {
				text := b.plan.Columns[g.Measures[i]].Name + " in " + currency
				st.Says = append(st.Says, since.Said{What: "cells " + text, Text: text})
			}
		}
	}
	for _, c := range b.kept.values.List {
		name := b.plan.Columns[c.Column].Name
		switch {
		case c.Many:
		case c.Dates && c.First != "":
			st.Lines = append(st.Lines, since.Line{What: since.Span, Column: name, Value: c.First + "/" + c.Last})
		case !c.Dates:
			v := since.Valued{Column: name}
			for _, text := range slices.Sorted(slices.Values(c.Texts)) {
				v.Texts = append(v.Texts, oneBreak.Replace(text))
			}
			st.Values = append(st.Values, v)
		}
	}
}

// oneBreak writes line breaks as a state is read again.
var oneBreak = strings.NewReplacer("\r\n", "\n")

// fewNames is how many names of a column new ones are compared with.
const fewNames = 2000

// findAlike finds the texts and names of the last build that new ones are most like: in their columns, or the same in others.
func (s *Since) findAlike(last *since.State) {
	s.Alike = map[*since.Change]Alike{}
	var texts map[string][]string // by column
	indexes, columns := map[string]*names.Index{}, map[string]string{}
	for i := range s.Changes {
		c := &s.Changes[i]
		if c.What != since.Value && c.What != since.Name || c.Now == "" {
			continue
		}
		if texts == nil {
			texts = map[string][]string{}
			for _, n := range last.Names {
				texts[n.Column] = append(texts[n.Column], n.Name)
			}
			for _, v := range last.Values {
				texts[v.Column] = v.Texts
			}
			for _, column := range slices.Sorted(maps.Keys(texts)) {
				if len(texts[column]) > fewNames {
					delete(texts, column)
				}
				for _, text := range texts[column] {
					columns[text] = column
				}
			}
		}
		if indexes[c.Column] == nil {
			indexes[c.Column] = names.NewIndexOf(texts[c.Column])
		}
		if found := indexes[c.Column].Suggest(c.Name); len(found) > 0 {
			if found[0].Standard != c.Name { // else it was a text, and is a name now
				s.Alike[c] = Alike{found[0].Standard, c.Column}
			}
		} else if column := columns[c.Name]; column != "" && column != c.Column {
			s.Alike[c] = Alike{c.Name, column}
		}
	}
}

// The mean of a measure in an extract is unlike others where it is so many times as much, or as little, and is one of so
// many fact rows at least.
const (
	farMore  = 20
	fewFacts = 3
)

// findSizes finds extracts in which a measure is far more or far less than it was in any extract of the last build.
func (s *Since) findSizes(last *since.State) {
	least, most := map[string]value.Decimal{}, map[string]value.Decimal{}
	eachMean(last, func(m Size) {
		if l, known := least[m.Measure]; !known || m.Mean.Cmp(l) < 0 {
			least[m.Measure] = m.Mean
		}
		if m.Mean.Cmp(most[m.Measure]) > 0 {
			most[m.Measure] = m.Mean
		}
	})
	far := value.NewDecimal(farMore, 0)
	eachMean(s.now, func(m Size) {
		m.Least, m.Most = least[m.Measure], most[m.Measure]
		if m.Least.Sign() > 0 && (m.Mean.Cmp(m.Most.Mul(far)) >= 0 || m.Mean.Mul(far).Cmp(m.Least) <= 0) {
			s.Sizes = append(s.Sizes, m)
		}
	})
}

// eachMean calls with the mean of each measure of each extract of some fact rows, without its sign; not where that is nothing.
func eachMean(s *since.State, do func(Size)) {
	rows, sums := map[[2]string]int64{}, map[Size]value.Decimal{}
	var order []Size // several entries may read one sheet
	for _, l := range s.Lines {
		switch l.What {
		case since.Rows:
			n, _ := strconv.ParseInt(l.Value, 10, 64)
			rows[[2]string{l.File, l.Sheet}] += n
		case since.Amount:
			of := Size{File: l.File, Sheet: l.Sheet, Measure: l.Measure}
			before, known := sums[of]
			if !known {
				order = append(order, of)
			}
			d, _, _ := value.English.Number([]byte(l.Value))
			sums[of] = before.Add(d)
		}
	}
	for _, of := range order {
		n, sum := rows[[2]string{of.File, of.Sheet}], sums[of]
		if n < fewFacts {
			continue
		}
		if of.Mean, _ = sum.Abs().Quo(value.NewDecimal(n, 0)); of.Mean.Sign() > 0 {
			do(of)
		}
	}
}

// findBehind finds groups of which the last delivery is missing: they have nothing in the last month, as most others do.
func (s *Since) findBehind(p *plan.Plan, last *since.State) {
	time, dated := -1, 0
	kinds := make([]plan.Kind, len(s.now.By))
	for i, name := range s.now.By {
		if kinds[i] = p.Columns[p.Index(name)].Kind; kinds[i].Dated() {
			if dated++; time < 0 || kinds[i] < kinds[time] {
				time = i
			}
		}
	}
	if time < 0 || dated == len(kinds) || !slices.Equal(last.By, s.now.By) {
		return
	}
	then, before := endsOf(last, kinds, time)
	now, latest := endsOf(s.now, kinds, time)
	if latest <= before {
		return
	}
	others := 0
	var behind []Behind
	for _, group := range slices.Sorted(maps.Keys(now)) {
		switch {
		case now[group] == latest && then[group] != "": // else groups come anew each month, as numbers of files
			others++
		case then[group] == before:
			behind = append(behind, Behind{group, before, latest})
		}
	}
	if len(behind) <= others {
		s.Behind = behind
	}
}

// endsOf are the last months of groups, by their values that are no time, and the last one of all. Quarters and years stand for
// themselves.
func endsOf(s *since.State, kinds []plan.Kind, time int) (ends map[string]string, latest string) {
	ends = map[string]string{}
	for _, l := range s.Lines {
		pieces := strings.Split(l.Group, " | ")
		if l.What != since.Group || l.Value == "" || len(pieces) != len(kinds) { // a value may have the mark in it
			continue
		}
		end := pieces[time]
		if kinds[time] == plan.Date && len(end) > len("2024-12") {
			end = end[:len("2024-12")]
		}
		var others []string
		for i, k := range kinds {
			if !k.Dated() {
				others = append(others, pieces[i])
			}
		}
		group := strings.Join(others, " | ")
		ends[group], latest = max(ends[group], end), max(latest, end)
	}
	return ends, latest
}
