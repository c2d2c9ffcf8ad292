package formula_test

import (
	"errors"
	"fmt"
	"strings"
	"testing"

	"github.com/stretchr/testify/require"

	"umbau/internal/core/formula"
	"umbau/internal/core/value"
)

// cells are the columns that the formulas here may name: their types and one row.
var cells = map[string]struct {
	typ  formula.Type
	text string // "" for empty
}{
	"a": {formula.Number, "3"}, "b": {formula.Number, "-2.50"}, "none": {formula.Number, ""}, "zero": {formula.Number, "0"},
	"open":   {formula.Number, "open"},
	"region": {formula.Text, "Long Sound"}, "blank": {formula.Text, ""}, "Unit price": {formula.Number, "9.99"},
	"padded": {formula.Text, " Æ  b "},
	"day":    {formula.Day, "2024-03-31"}, "month": {formula.Month, "2024-04"}, "quarter": {formula.Quarter, "2024-Q2"},
	"year": {formula.Year, "2024"},
	"paid": {formula.Flag, "true"}, "unpaid": {formula.Flag, "false"}, "unknown": {formula.Flag, ""},
	"large": {formula.Number, "123456789012345678901234567890.5"},
}

func typeOf(name string) (formula.Type, error) {
	c, ok := cells[name]
	if !ok {
		return 0, errors.New("there is no column " + name)
	}
	return c.typ, nil
}

// vectorOf makes a column of one value.
func vectorOf(name string) *formula.Vector {
	c, v := cells[name], &formula.Vector{}
	v.Resize(1, c.typ)
	v.States[0] = formula.Valid
	switch {
	case c.text == "":
		v.States[0] = formula.Empty
	case c.text == "open":
		v.States[0] = formula.Open
	case c.typ == formula.Number || c.typ == formula.Year:
		v.Numbers[0], _, _ = value.English.Number([]byte(c.text))
	case c.typ == formula.Flag:
		v.Flags[0] = c.text == "true"
	default:
		v.Texts[0] = c.text
	}
	return v
}

// run works a formula out and writes its result.
func run(src string, calendar value.Calendar) (string, error) {
	f, err := formula.Parse(src)
	if err != nil {
		return "", err
	}
	if err := f.Check(calendar, typeOf); err != nil {
		return "", err
	}
	var columns []*formula.Vector
	for _, c := range f.Columns {
		columns = append(columns, vectorOf(c))
	}
	v := f.Run(formula.NewMachine(calendar), 1, columns)
	switch {
	case v.States[0] != formula.Valid:
		return []string{"", "empty", "bad", "open"}[v.States[0]], nil
	case f.Type == formula.Number || f.Type == formula.Year:
		return v.Numbers[0].String(), nil
	case f.Type == formula.Flag:
		return fmt.Sprint(v.Flags[0]), nil
	}
	return v.Texts[0], nil
}

func TestFormulas(t *testing.T) {
	for _, test := range []struct{ src, want string }{
		{"1 + 2 * 3", "7"}, {"(1 + 2) * 3", "9"}, {"10 - 4 - 3", "3"}, {"12 / 4 / 3", "1"}, {"-a * -2", "6"}, {"- - a", "3"}, {"+a", "3"},
		{"a + b", "0.50"},
		{"0.1 + 0.2", "0.3"}, {"1 / 8", "0.125"}, {"2 / 3", "0.6666666666666666666666666666666667"}, {"a / zero", "bad"},
		{"none / zero", "empty"}, {"1 + a / zero", "bad"},
		{"{Unit price} * 2", "19.98"}, {"large + 0.5", "123456789012345678901234567891.0"}, {"none + 1", "empty"}, {"none = none", "empty"},
		{"open + none", "open"},
		{"a = 3", "true"}, {"a == 3.00", "true"}, {"a != 3", "false"}, {"a <> 4", "true"}, {"a >= 3 and b < 0", "true"}, {"not a = 3", "false"},
		{"NOT paid or unpaid", "false"},
		{"none > 1 or a = 3", "true"}, {"none > 1 and a = 3", "false"}, {"not none > 1", "true"}, {"open > 1 and a = 4", "false"},
		{"open > 1 and a = 3", "open"},
		{"open > 1 or a = 3", "true"}, {"not open > 1", "open"}, {"unknown or paid", "true"}, {"paid = true", "true"}, {"paid <> unpaid", "true"},
		{"region = 'long-sound'", "true"}, {`region = "Lakes"`, "false"}, {"region < 'm'", "true"}, {"'Bo''sun' = \"bosun\"", "true"},
		{"blank = 'x'", "empty"},
		{"if(a > 2, 'big', 'small')", "big"}, {"if(none > 2, 1, 2)", "2"}, {"if(a > 2, none, 1)", "empty"}, {"if(open > 2, 1, 2)", "open"},
		{"if(a > 0, year, 1)", "2024"},
		{"coalesce(none, b)", "-2.50"}, {"coalesce(blank, 'x')", "x"}, {"coalesce(none, open, 1)", "open"}, {"coalesce(none)", "empty"},
		{"coalesce(a / zero, 1)", "bad"},
		{"round(2.345, 2)", "2.35"}, {"round(-2.5)", "-3"}, {"round(1250, -2)", "1300"}, {"abs(b)", "2.50"}, {"min(a, b, 1)", "-2.50"},
		{"max(a, b)", "3"}, {"min(a, none)", "empty"},
		{"upper(region)", "LONG SOUND"}, {"lower(region)", "long sound"}, {"trim(padded)", "Æ b"}, {"upper(blank)", "empty"},
		{"year(day)", "2024"}, {"quarter(day)", "2024-Q1"}, {"month(day)", "2024-03"}, {"year(quarter)", "2024"}, {"year(month) + 1", "2025"},
		{"year >= 2023", "true"},
		{"month >= '2024-01'", "true"}, {"'Jan 2024' < month", "true"}, {"day = '31 March 2024'", "true"}, {"quarter = 'Q2 2024'", "true"},
		{"year = '2024'", "true"},
		{"max(month, '2024-06')", "2024-06"}, {"coalesce(month, '2024-01')", "2024-04"}, {"month(day) = month", "false"},
		{strings.Repeat("(", 199) + "1" + strings.Repeat(")", 199), "1"}, {strings.Repeat("a+", 4000) + "a", "12003"},
	} {
		got, err := run(test.src, value.Calendar{})
		require.NoError(t, err, test.src)
		require.Equal(t, test.want, got, test.src)
	}
	for src, want := range map[string]string{"quarter(day)": "2023-Q4", "year(month)": "2024", "year(day)": "2023",
		"quarter(month)": "2024-Q1"} {
		got, err := run(src, value.Calendar{Starts: 4})
		require.NoError(t, err, src)
		require.Equal(t, want, got, src)
	}
}

func TestMistakes(t *testing.T) {
	for _, test := range []struct {
		src  string
		at   int
		want string
	}{
		{"", 0, "a value is missing"}, {"a +", 3, "missing before the end"}, {"a b", 2, "b is not expected"},
		{"(a", 0, "bracket is not closed"}, {"a)", 1, ") is not expected"},
		{"a = b = 1", 6, "join them with and"}, {"'open", 0, "quote is not closed"}, {"{open", 0, "brace is not closed"},
		{"1e5", 0, "without exponent"}, {"1e999999999", 0, "without exponent"},
		{"1.2.3", 0, "1234.56"}, {"2nd", 0, "{2nd price}"}, {"a & b", 2, "& is no operator"}, {"a § b", 2, "§ has no meaning"},
		{"sum(a)", 0, "no function sum; there are if"},
		{"if(a > 1, 2)", 0, "if(condition, then, else)"}, {"round()", 0, "round(number, places)"},
		{"a + region", 4, "calculates with numbers; this is a text; say is: number"},
		{"region + 'x'", 0, "joined with write"}, {"region = 5", 9, "a number stands without quotes"},
		{"if(a, 1, 2)", 3, "begins with a condition"}, {"if(a > 1, 1, 'x')", 13, "one type"},
		{"a and b", 0, "wants conditions"}, {"not a", 4, "wants conditions"}, {"paid > unpaid", 5, "neither is greater"},
		{"month = 'soon'", 8, "a text beside a month"}, {"month = day", 8, "a date beside a month"},
		{"year(region)", 5, "say is: date"}, {"month(quarter)", 6, "this is a quarter"}, {"upper(a)", 6, "wants a text"},
		{"round(a, b)", 9, "a whole number"}, {"round(a, 1.5)", 9, "a whole number"}, {"round(1, 99999)", 9, "a whole number"},
		{"min(region, 'x')", 0, "numbers or dates"}, {"missing", 0, "there is no column missing"},
		{"if(a > 1 2, 3)", 9, "comma or a closing bracket"}, {"(a 2)", 3, "operator or a closing bracket"},
		{strings.Repeat("(", 5000), 200, "nested more than 200 deep"}, {strings.Repeat("-", 5000) + "a", 200, "nested more than 200 deep"},
		{strings.Repeat("a+", 500_000), 0, "the most are 10000"},
		{strings.Repeat("abs(", 300) + "a", 803, "nested more than 200 deep"}, {"a, b", 1, ", is not expected"},
		{"region = Amber Bay", 15, "a comma missing, or is it a text: 'Amber Bay'?"},
		{"(region = Long Sound)", 15, "missing, or is it a text: 'Long Sound'?"},
		{"a (b)", 0, "no function a"}, {"'a' b", 4, "b is not expected here; is an operator or a comma missing?"},
		{"and", 0, "and is not expected"}, {"a\xff", 1, "no meaning"},
	} {
		_, err := run(test.src, value.Calendar{})
		var bad *formula.Error
		require.ErrorAs(t, err, &bad, "%.40s", test.src)
		require.Contains(t, bad.Text, test.want, "%.40s", test.src)
		require.Equal(t, test.at, bad.Offset, "%.40s: %s", test.src, bad.Text)
	}
	f, err := formula.Parse("a + 1")
	require.NoError(t, err)
	require.NoError(t, f.Check(value.Calendar{}, typeOf))
	require.ErrorContains(t, f.Condition(), "a condition is wanted")
}

// FuzzFormula: any text is a formula or a mistake at a place in it; a formula runs.
func FuzzFormula(f *testing.F) {
	for _, s := range []string{"(a + b) * c", "if(region = 'x', year(day), 1)", "{Unit price}/0", "not (paid or none > 1)", "round(a,-2)",
		"min(month,'2024-01')"} {
		f.Add(s)
	}
	f.Fuzz(func(t *testing.T, src string) {
		_, err := run(src, value.Calendar{Starts: 4, ByEnd: true})
		var bad *formula.Error
		if errors.As(err, &bad) {
			require.LessOrEqual(t, bad.Offset, len(src))
		}
	})
}

func Example() {
	f, _ := formula.Parse("amount - 2 * cost")
	f.Check(value.Calendar{}, func(string) (formula.Type, error) { return formula.Number, nil })
	column := func(numbers ...int64) *formula.Vector {
		v := &formula.Vector{}
		v.Resize(len(numbers), formula.Number)
		for i, n := range numbers {
			v.Numbers[i] = value.NewDecimal(n, 2)
			v.States[i] = formula.Valid
		}
		return v
	}
	v := f.Run(&formula.Machine{}, 2, []*formula.Vector{column(1050, 700), column(500, 1)})
	fmt.Println(v.Numbers[0], v.Numbers[1])
	// Output: 0.50 6.98
}

func BenchmarkRow(b *testing.B) {
	f, err := formula.Parse("(a + b) * c")
	require.NoError(b, err)
	require.NoError(b, f.Check(value.Calendar{}, func(string) (formula.Type, error) { return formula.Number, nil }))
	const rows = 4096
	var columns []*formula.Vector
	for i := range 3 {
		v := &formula.Vector{}
		v.Resize(rows, formula.Number)
		for j := range rows {
			v.States[j] = formula.Valid
			if v.Numbers[j] = value.NewDecimal(int64(j*100+i), 2); j%50 == 0 {
				v.States[j] = formula.Empty
			}
		}
		columns = append(columns, v)
	}
	m := &formula.Machine{}
	i := 0
	for b.Loop() { // one row
		if i++; i%rows == 1 {
			f.Run(m, rows, columns)
		}
	}
}
