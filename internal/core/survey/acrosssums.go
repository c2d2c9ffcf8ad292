package survey

import (
	"slices"

	"umbau/internal/core/key"
	"umbau/internal/core/terms"
	"umbau/internal/core/value"
)

// acrossSums looks for columns with the name of a measure that are the sums of what stands across beside them: Sales beside Jan to Dec,
// Total qty beside Qty Jan to Qty Dec, Amount beside products.
type acrossSums struct {
	groups [][]int // numbers whose headers are months, by the measure that these name; all wide ones where there are no months
	sums   []acrossSum
}

// acrossSum is a column that may be the sum of a group, in how many rows of figures.
type acrossSum struct{ number, group, rows int }

// mostGroups is how many measures, and how many columns beside these, are looked at.
const mostGroups, mostAcrossSums = 8, 16

// byMeasure sorts numbers of columns by their measure, up to mostGroups of them.
type byMeasure struct {
	measures []string
	groups   [][]int
}

func (b *byMeasure) add(measure string, number int) {
	at := slices.Index(b.measures, measure)
	if at < 0 {
		if len(b.measures) == mostGroups {
			return
		}
		at, b.measures, b.groups = len(b.measures), append(b.measures, measure), append(b.groups, nil)
	}
	b.groups[at] = append(b.groups[at], number)
}

// newAcrossSums sorts the headers of the columns of numbers of a table.
func newAcrossSums(t *Table, numbers []int) (m acrossSums) {
	var of byMeasure
	var others, wide []int
	for k, i := range numbers {
		measure, month := monthOf(t.Fields[i].Header)
		switch {
		case t.Fields[i].Wide:
			wide = append(wide, k)
		case !month && len(others) < mostAcrossSums:
			others = append(others, k)
		}
		if month {
			of.add(measure, k)
		}
	}
	m.groups = of.groups
	if !slices.ContainsFunc(m.groups, func(list []int) bool { return len(list) > 1 }) {
		m.groups = [][]int{wide}
	}
	for g, list := range m.groups {
		for _, k := range others {
			if len(list) > 1 {
				m.sums = append(m.sums, acrossSum{number: k, group: g})
			}
		}
	}
	return m
}

// monthOf is the key of the measure that a header names beside a month, and whether it has a month, or what may stand for one.
func monthOf(header string) (measure string, month bool) {
	if u, ok := terms.UnitBeside(header); ok {
		header = u.Header
	}
	thing := header
	if name, _, rest, ok := terms.MeasureFirst(header); ok {
		measure, thing = key.Of(name), rest
	} else if rest, _, name, ok := terms.MeasureLast(header); ok {
		measure, thing = key.Of(name), rest
	}
	_, seems := terms.SeemsMonth(thing)
	return measure, seems || terms.IsMonth(thing)
}

// row takes the figures of a row, by number.
func (m *acrossSums) row(figures []value.Decimal) {
	if len(m.sums) == 0 {
		return
	}
	totals := make([]value.Decimal, len(m.groups))
	for g, list := range m.groups {
		var sum value.Sum
		for _, k := range list {
			sum.Add(figures[k])
		}
		totals[g] = sum.Total()
	}
	m.sums = slices.DeleteFunc(m.sums, func(s acrossSum) bool { return figures[s.number].Cmp(totals[s.group]) != 0 })
	for i := range m.sums {
		if figures[m.sums[i].number].Sign() != 0 {
			m.sums[i].rows++
		}
	}
}

// headers are those of the columns that are sums in all rows, two at least.
func (m *acrossSums) headers(t *Table, numbers []int) (out []string) {
	for _, s := range m.sums {
		if header := t.Fields[numbers[s.number]].Header; s.rows > 1 && !slices.Contains(out, header) {
			out = append(out, header)
		}
	}
	return out
}
