package finished

import "umbau/internal/core/plan"

// Comparable reports whether values of two kinds can be equal: numbers are compared by value,
// texts by the key, dates with those of their kind.
func Comparable(x, y plan.Kind) bool { return class(x) == class(y) }

func class(k plan.Kind) plan.Kind {
	switch k {
	case plan.Name:
		return plan.Text
	case plan.Whole, plan.Year:
		return plan.Number
	}
	return k
}

// Unlike says that columns of two tables cannot be compared, and which formula helps.
func Unlike(a, columnA string, x plan.Kind, b, columnB string, y plan.Kind) *Mistake {
	hint := "values of two kinds are never equal"
	if x.Dated() && y.Dated() {
		day := columnA
		if x == plan.Month {
			day = columnB
		}
		hint = "month(" + day + ") makes months of dates"
	}
	return mistake("%s of %s is a %s, %s of %s a %s: %s", columnA, a, x, columnB, b, y, hint)
}
