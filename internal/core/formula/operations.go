package formula

import (
	"slices"
	"strings"

	"umbau/internal/core/value"
)

var (
	literalOperation = &operation{check: checkLiteral, run: runLiteral}
	columnOperation  = &operation{check: checkColumn}
	notOperation     = &operation{name: "not", check: checkConditions, run: runNot}
	plusOperation    = &operation{name: "+", check: checkNumbers, run: runNumber(func(_ *node, d value.Decimal) value.Decimal { return d })}
	minusOperation   = &operation{name: "-", check: checkNumbers,
		run: runNumber(func(_ *node, d value.Decimal) value.Decimal { return d.Neg() })}
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

// functions are the functions in the order in which messages list them, each with
// how it is written.
var functions = []*operation{
	{usage: "if(condition, then, else)", least: 3, most: 3, check: checkIf, run: runIf},
	{usage: "coalesce(first, second, …)", least: 1, check: checkSame, run: runCoalesce},
	{usage: "round(number, places)", least: 1, most: 2, check: checkRound,
		run: runNumber(func(n *node, d value.Decimal) value.Decimal { return d.Round(n.column) })},
	{usage: "abs(number)", least: 1, most: 1, check: checkNumbers,
		run: runNumber(func(_ *node, d value.Decimal) value.Decimal { return d.Abs() })},
	{usage: "min(a, b, …)", least: 1, check: checkOrdered, run: runExtreme(-1)},
	{usage: "max(a, b, …)", least: 1, check: checkOrdered, run: runExtreme(1)},
	{usage: "upper(text)", least: 1, most: 1, check: checkText, run: runText(func(_ *Machine, s string) string { return strings.ToUpper(s) })},
	{usage: "lower(text)", least: 1, most: 1, check: checkText, run: runText(func(_ *Machine, s string) string { return strings.ToLower(s) })},
	{usage: "trim(text)", least: 1, most: 1, check: checkText,
		run: runText(func(_ *Machine, s string) string { return strings.Join(strings.Fields(s), " ") })},
	{usage: "year(date)", least: 1, most: 1, check: checkDate(Year), run: runYear},
	{usage: "quarter(date)", least: 1, most: 1, check: checkDate(Quarter),
		run: runText(func(m *Machine, s string) string { q, _ := m.reading.Quarter(s); return q })},
	{usage: "month(date)", least: 1, most: 1, check: checkDate(Month),
		run: runText(func(m *Machine, s string) string { t, _ := m.reading.Month(s); return t })},
}

var functionNames = func() (names []string) {
	for _, f := range functions {
		f.name, _, _ = strings.Cut(f.usage, "(")
		names = append(names, f.name)
	}
	return names
}()

// function returns the function of a name, nil if there is none.
func function(name string) *operation {
	if i := slices.Index(functionNames, name); i >= 0 {
		return functions[i]
	}
	return nil
}
