package draft

import (
	"slices"

	"umbau/internal/core/key"
	"umbau/internal/core/terms"
)

// Times that no calendar has: weeks, and periods of a year whose beginning nobody knows. They stand in the table as texts.

// allPeriods is how many periods a year has at least; so many that are numbered from 1 on are no products.
const allPeriods = 12

// spanOf is what all of some texts are, if these are such times: week or period; "" for none. Those without a year may as well be of
// things.
func spanOf(texts []string) (span string, sure bool) {
	if terms.Weeks(texts) {
		return "week", true
	}
	if dated, ok := terms.Periods(texts); ok {
		return "period", dated
	}
	return "", false
}

// spanAcross is which such times some wide headers are, or a part of them; a few numbers are periods where a field has the product.
func (s *sheet) spanAcross(texts []string) string {
	span, sure := spanOf(texts)
	distinct := map[string]bool{}
	for _, text := range texts {
		distinct[key.Of(text)] = true
	}
	product := slices.ContainsFunc(s.labels(), func(i int) bool { return terms.Of(s.Fields[i].Header) == terms.Product })
	if !sure && !product && len(distinct) < allPeriods {
		return ""
	}
	return span
}
