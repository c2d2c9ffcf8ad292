package draft

import (
	"context"
	"fmt"
	"slices"
	"strings"

	"umbau/internal/core/fact"
	"umbau/internal/core/keep"
	"umbau/internal/core/pass"
	"umbau/internal/core/plan"
	"umbau/internal/core/terms"
	"umbau/internal/core/value"
)

// One label that has the sums of all others beside the same labels: Company among branches, in rows of its own for each product. Rows that
// stand below two labels.

// mostLooked is how many fact rows are looked at for such a label.
const mostLooked = 100_000

// certainDigits are how many digits of figures that agree are hardly a chance, and certainRows of how many rows.
const (
	certainDigits = 10
	certainRows   = 3
)

// askSumsOfLabels asks about such labels, by a build that would deliver. It reports whether there are some.
func (d *drafter) askSumsOfLabels(ctx context.Context, s *fact.Summary) (bool, error) {
	if s.ExitCode() != 0 || s.FactRows > mostLooked || d.result.Sampled || len(d.grain) == 0 {
		return false, nil
	}
	p, err := d.planned()
	if err != nil {
		return false, err
	}
	g := &keep.Groups{By: keep.NewBy(p, p.Indexes(d.grain))}
	for i, c := range p.Columns {
		if c.Measure() && c.Kept {
			g.Measures = append(g.Measures, i)
		}
	}
	look := func() []pass.Keeper { return []pass.Keeper{g} }
	if _, err = fact.Build(ctx, p, fact.Options{Workers: d.Workers, DryRun: true, Look: look}); err != nil || len(g.Measures) == 0 {
		return false, err
	}
	asked := false
	for k, ci := range g.By.Columns {
		if kind := p.Columns[ci].Kind; kind != plan.Text && kind != plan.Name {
			continue
		}
		if label, rows, of := sumOfOthers(g, k); label != "" {
			d.await(fmt.Sprintf("%s in %s has the sums of all others, in %d of %d rows: it would count twice, and a build stops; "+
				"rows: { only: … } leaves it out", label, d.grain[k], rows, of))
			asked = true
		}
		if c := d.named(d.grain[k]); c.class == terms.Region && d.outside(c) {
			if one, other, of := underTwo(g, k); of != "" {
				d.await(fmt.Sprintf("rows of %s stand in %s %s and in %s, with the same figures: they would count twice, and a build stops; "+
					"rows: { only: … } leaves one of them out", of, d.grain[k], one, other))
				asked = true
			}
		}
	}
	return asked, nil
}

// outside reports whether a column is read from what stands around tables alone, never from their cells.
func (d *drafter) outside(c *column) bool {
	return !slices.ContainsFunc(d.entries, func(e *entry) bool {
		return c.used[e] && !slices.ContainsFunc(e.pieces, func(p piece) bool { return p.column == c })
	})
}

// underTwo are two labels of a column of some groups that have the same figures beside the same other labels, in nearly all rows which both
// have, though either has others, and the first of these; "" for none.
func underTwo(g *keep.Groups, column int) (one, other, of string) {
	first := map[string]int{} // of the list, by the other labels
	same, both, digits, at, by := 0, 0, 0, 0, 0
	for i, group := range g.List {
		parts := strings.Split(group.Key, "\x00")
		rest := strings.Join(slices.Delete(parts, column, column+1), "\x00")
		k, known := first[rest]
		if !known {
			first[rest] = i
			continue
		}
		both++
		n := 0
		for m := range group.Have {
			if own := group.Have[m].Total(); own.Sign() != 0 && own.Cmp(g.List[k].Have[m].Total()) == 0 {
				n += own.Digits()
			}
		}
		if n > 0 {
			if same++; same == 1 {
				at, by = k, i
			}
			digits += n
		}
	}
	own := func(i int) (n int) { // how many rows have its label
		for _, group := range g.List {
			if strings.Split(group.Key, "\x00")[column] == strings.Split(g.List[i].Key, "\x00")[column] {
				n++
			}
		}
		return n
	}
	if same < certainRows || 10*same < 9*both || digits < max(certainDigits, 4*same) || both >= min(own(at), own(by)) {
		return "", "", ""
	}
	labels := func(i int) []string { return strings.Split(g.List[i].Label, " | ") }
	a, b := labels(at), labels(by)
	if len(a) != len(g.By.Columns) || len(b) != len(a) {
		return "", "", ""
	}
	return a[column], b[column], strings.Join(slices.Delete(slices.Clone(a), column, column+1), ", ")
}

// sumOfOthers is the label of one of the columns of some groups whose figures are the sums of those of all other labels, beside several of
// which it stands, or beside one here and another there, and in how many rows of how many, nearly all; "" for none. Some rows may be held.
func sumOfOthers(g *keep.Groups, column int) (label string, rows, of int) {
	type row struct{ label, of int } // of the list
	rests, labels, there := map[string][]row{}, map[string]int{}, []int{}
	for i, group := range g.List {
		parts := strings.Split(group.Key, "\x00")
		own := parts[column]
		if _, known := labels[own]; !known {
			labels[own] = len(there)
			there = append(there, 0)
		}
		rest := strings.Join(slices.Delete(parts, column, column+1), "\x00")
		rests[rest] = append(rests[rest], row{labels[own], i})
		there[labels[own]]++
	}
	agree, digits, beside := make([]int, len(there)), make([]int, len(there)), make([]map[int]bool, len(there))
	for _, rows := range rests {
		if len(rows) < 2 {
			continue
		}
		total := make([]value.Sum, len(g.Measures))
		for _, r := range rows {
			for m := range total {
				total[m].Merge(&g.List[r.of].Have[m])
			}
		}
		for _, r := range rows {
			n, ok := half(g.List[r.of].Have, total)
			if !ok {
				continue
			}
			if beside[r.label] == nil {
				beside[r.label] = map[int]bool{}
			}
			agree[r.label], digits[r.label] = agree[r.label]+1, digits[r.label]+n
			for _, o := range rows {
				beside[r.label][o.label] = true
			}
		}
	}
	for _, own := range sortedKeys(labels) {
		l := labels[own]
		if 4*agree[l] >= 3*there[l] && agree[l] >= certainRows && len(beside[l]) > 2 && digits[l] >= certainDigits {
			return labelOf(g, column, own), agree[l], there[l]
		}
	}
	return "", 0, 0
}

// half reports whether figures are half of others each, so that the rest of these is as much, and how many digits they have.
func half(figures, of []value.Sum) (digits int, ok bool) {
	for m := range figures {
		twice := figures[m].Clone()
		twice.Merge(&figures[m])
		if twice.Total().Cmp(of[m].Total()) != 0 {
			return 0, false
		}
		if own := figures[m].Total(); own.Sign() != 0 {
			digits += own.Digits()
		}
	}
	return digits, true
}

// labelOf is a label as it stands, by its key.
func labelOf(g *keep.Groups, column int, own string) string {
	for _, group := range g.List {
		parts := strings.Split(group.Label, " | ")
		if strings.Split(group.Key, "\x00")[column] == own && len(parts) == len(g.By.Columns) {
			return parts[column]
		}
	}
	return own
}
