package report

import (
	"fmt"
	"slices"

	"umbau/internal/core/cube"
	"umbau/internal/core/plan"
	"umbau/internal/core/value"
)

// addTimes adds the quarter and the year of the first label of months or days, where no label has
// them: as quarter(month) and year(month), which is how formulas call them.
func addTimes(r *cube.Result, calendar value.Calendar) {
	of := slices.IndexFunc(r.Labels, func(l cube.Label) bool { k := kindOf(&l); return k == plan.Month || k == plan.Date })
	if of < 0 {
		return
	}
	for _, add := range []struct {
		kind plan.Kind
		text func(value.Date) string
	}{
		{plan.Year, func(d value.Date) string { return fmt.Sprintf("%04d", calendar.Year(d)) }},
		{plan.Quarter, func(d value.Date) string { return fmt.Sprintf("%04d-Q%d", calendar.Year(d), calendar.Quarter(d)) }},
	} {
		if slices.ContainsFunc(r.Labels, func(l cube.Label) bool { return kindOf(&l) == add.kind }) {
			continue
		}
		l := cube.Label{Name: fmt.Sprintf("%s(%s)", add.kind, r.Labels[of].Name), Is: add.kind.String()}
		code := make([]int, len(r.Labels[of].Values)) // which are in order, and so are these
		for i, text := range r.Labels[of].Values {
			own := ""
			if d, ok := value.ReadDate(text); ok {
				own = add.text(d)
			}
			if n := len(l.Values); n == 0 || l.Values[n-1] != own {
				l.Values = append(l.Values, own)
			}
			code[i] = len(l.Values) - 1
		}
		if len(l.Values) < 2 {
			continue
		}
		r.Labels = append(r.Labels, l)
		for i := range r.Groups {
			g := &r.Groups[i]
			g.Codes = append(g.Codes, code[g.Codes[of]])
		}
	}
}
