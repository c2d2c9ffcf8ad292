package formula

import (
	"strings"

	"umbau/internal/core/value"
)

var (
	literalOperation = &operation{check: checkLiteral, run: runLiteral}
	columnOperation  = &operation{check: checkColumn}
	notOperation     = &operation{name: "not", check: checkConditions, run: runNot}
	plusOperation    = &operation{name: "+", check: checkNumbers, run: runNumber(func(_ *node, d value.Decimal) value.Decimal { return d })}
	minusOperation   = &operation{name: "-", check: checkNumbers, run: runNumber(func(_ *node, d value.Decimal) value.Decimal { return d.Neg() })}
)

// operators are the operators that stand between two values.
var operators = map[string]*operation{
	"+":   {name: "+", check: checkNumbers, run: runNumbers(add)},
	"-":   {name: "-", check: checkNumbers, run: runNumbers(subtract)},
	"*":   {name: "*", check: checkNumbers, run: runNumbers(multiply)},
	"/":   {name: "/", check: checkNumbers, run: runNumbers(divide)},
	"=":   {name: "=", check: checkComparison, run: runComparison(func(s int) bool { return s == 0 })},
	"==":  {name: "==", check: checkComparison, run: runComparison(func(s int) bool { return s == 0 })},
	"!=":  {name: "!=", check: checkComparison, run: runComparison(func(s int) bool { return s != 0 })},
	"<>":  {name: "<>", check: checkComparison, run: runComparison(func(s int) bool { return s != 0 })},
	"<":   {name: "<", check: checkComparison, run: runComparison(func(s int) bool { return s < 0 })},
	"<=":  {name: "<=", check: checkComparison, run: runComparison(func(s int) bool { return s <= 0 })},
	">":   {name: ">", check: checkComparison, run: runComparison(func(s int) bool { return s > 0 })},
	">=":  {name: ">=", check: checkComparison, run: runComparison(func(s int) bool { return s >= 0 })},
	"and": {name: "and", check: checkConditions, run: runJoined(false)},
	"or":  {name: "or", check: checkConditions, run: runJoined(true)},
}

// functions are the functions by name, functionNames their names in the order in
// which messages list them; usage shows how each is written.
var functions = map[string]*operation{
	"if":       {name: "if", least: 3, most: 3, check: checkIf, run: runIf},
	"coalesce": {name: "coalesce", least: 1, check: checkSame, run: runCoalesce},
	"round": {name: "round", least: 1, most: 2, check: checkRound,
		run: runNumber(func(n *node, d value.Decimal) value.Decimal { return d.Round(n.column) })},
	"abs":     {name: "abs", least: 1, most: 1, check: checkNumbers, run: runNumber(func(_ *node, d value.Decimal) value.Decimal { return d.Abs() })},
	"min":     {name: "min", least: 1, check: checkOrdered, run: runExtreme(-1)},
	"max":     {name: "max", least: 1, check: checkOrdered, run: runExtreme(1)},
	"upper":   {name: "upper", least: 1, most: 1, check: checkText, run: runText(func(_ *Machine, s string) string { return strings.ToUpper(s) })},
	"lower":   {name: "lower", least: 1, most: 1, check: checkText, run: runText(func(_ *Machine, s string) string { return strings.ToLower(s) })},
	"trim":    {name: "trim", least: 1, most: 1, check: checkText, run: runText(func(_ *Machine, s string) string { return strings.Join(strings.Fields(s), " ") })},
	"year":    {name: "year", least: 1, most: 1, check: checkDate(Year), run: runYear},
	"quarter": {name: "quarter", least: 1, most: 1, check: checkDate(Quarter), run: runText(func(m *Machine, s string) string { q, _ := m.reading.Quarter(s); return q })},
	"month":   {name: "month", least: 1, most: 1, check: checkDate(Month), run: runText(func(m *Machine, s string) string { t, _ := m.reading.Month(s); return t })},
}

var functionNames = []string{"if", "coalesce", "round", "abs", "min", "max", "upper", "lower", "trim", "year", "quarter", "month"}

var usage = map[string]string{
	"if": "if(condition, then, else)", "coalesce": "coalesce(first, second, …)", "round": "round(number, places)", "abs": "abs(number)",
	"min": "min(a, b, …)", "max": "max(a, b, …)", "upper": "upper(text)", "lower": "lower(text)", "trim": "trim(text)",
	"year": "year(date)", "quarter": "quarter(date)", "month": "month(date)",
}
