package draft

import (
	"slices"

	"umbau/internal/core/key"
	"umbau/internal/core/terms"
)

// Times that no calendar has: weeks, periods of a year whose beginning nobody knows, months without a year. They stand
// in the table as texts.

// mostPeriods is how many periods a year has; so many that are only numbered are no products.
const mostPeriods = 12

// spanOf is what all of some texts are, if these are such times: week or period; "" for none. A few numbers may as well be of things.
func spanOf(texts []string) (span string, sure bool) {
	if terms.Weeks(texts) {
		return "week", true
	}
	dated, ok := terms.Periods(texts)
	if !ok {
		return "", false
	}
	distinct := map[string]bool{}
	for _, text := range texts {
		distinct[key.Of(text)] = true
	}
	return "period", dated || len(distinct) >= mostPeriods
}

// spanAcross is which such times some wide headers are, or a part of them; a few numbers are periods where a field has the product.
func (s *sheet) spanAcross(texts []string) string {
	span, sure := spanOf(texts)
	if !sure && !slices.ContainsFunc(s.labels(), func(i int) bool { return terms.Of(s.Fields[i].Header) == terms.Product }) {
		return ""
	}
	return span
}
