package value_test

import (
	"fmt"
	"math"
	"math/big"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"umbau/internal/core/value"
)

func TestNumber(t *testing.T) {
	for _, c := range []struct{ in, want, currency string }{
		{"1,200.50", "1200.50", ""}, {"(12.50)", "-12.50", ""}, {"5-", "-5", ""}, {"$ 2,000", "2000", "$"}, {"7", "7", ""},
		{"−3", "-3", ""}, {"+4", "4", ""}, {"12 %", "0.12", ""}, {"€1", "1", "EUR"}, {"1 EUR", "1", "EUR"}, {"EUR1", "1", "EUR"},
		{"£ (1,000)", "-1000", "GBP"}, {"-$5", "-5", "$"}, {"$-5", "-5", "$"}, {".5", "0.5", ""}, {"5.", "5", ""}, {"-.5", "-0.5", ""},
		{"\u00a05\u2009", "5", ""}, {"007", "7", ""}, {"12,345,678.9", "12345678.9", ""}, {"0.000", "0.000", ""}, {"-0", "0", ""},
		{"123456789012345678901234567890.12", "123456789012345678901234567890.12", ""}, {"₹5", "5", "INR"}, {"5¥", "5", "¥"},
		{"50%-", "-0.50", ""},
		{"1,234.", "1234", ""},
	} {
		d, currency, ok := value.English.Number([]byte(c.in))
		require.True(t, ok, c.in)
		assert.Equal(t, c.want, d.String(), c.in)
		assert.Equal(t, c.currency, currency, c.in)
	}
}

func TestNotANumber(t *testing.T) {
	for _, in := range []string{"1,23", "1e5", "12 pcs", "1.234,56", "0,123", "1,2345", "1234,567", "--5", "-5-", "(5", "5)", "(-5)", "((5))",
		"1 200", "1.2.3", ",5", "5,", "€5$", "5%%", "", "abc", "EURO5", "eur 5", "#5", "1,,000", "1'000", ")5(", strings.Repeat("9", 1001), "٣",
		"5 All"} {
		_, _, ok := value.English.Number([]byte(in))
		assert.False(t, ok, in)
	}
}

// Where Plain reads a text, Number reads the same number; a neat text is its
// own delivery.
func FuzzNumber(f *testing.F) {
	for _, s := range []string{"123.45", "-0.00", "00.5", "999999999999999999", "1234567890.123456789", "(1,000.5)", "5-", "12 %", "€ 3",
		".", "-.5", "1,234.5", "-12,345,678", "1,23", "123,456,789,012,345,678", "0,123", "1,234."} {
		f.Add(s)
	}
	f.Fuzz(func(t *testing.T, s string) {
		d, _, ok := value.English.Number([]byte(s))
		coef, places, neat, plain := value.Plain([]byte(s), '.')
		coef8, places8, neat8, plain8 := value.PlainAt([]byte(s+"12345678"), 0, uint32(len(s)), '.')
		require.Equal(t, []any{coef, places, neat, plain}, []any{coef8, places8, neat8, plain8}, s)
		if plain {
			require.True(t, ok, s)
			assert.Zero(t, d.Cmp(value.NewDecimal(coef, places)), s)
			if neat {
				assert.Equal(t, s, string(value.AppendFixed(nil, coef, places)))
			}
		}
		for _, style := range value.Styles {
			if coef, places, grouped := style.Grouped([]byte(s)); grouped {
				d, currency, ok := style.Number([]byte(s))
				require.True(t, ok && currency == "", s)
				require.Equal(t, value.NewDecimal(coef, places), d, s)
			}
		}
		if ok {
			again, _, ok := value.English.Number([]byte(d.String()))
			require.True(t, ok, s)
			assert.Zero(t, d.Cmp(again), s)
			assert.Zero(t, d.Cmp(d.Shorten()), s)
			assert.NotEqual(t, value.NoGap, value.GapOf(s))
		}
	})
}

func TestGrouped(t *testing.T) {
	other := value.Styles[1] // 1.234,56
	for _, c := range []struct {
		style value.Style
		in    string
		want  string // "" for another text
	}{
		{value.English, "1,234", "1234"}, {value.English, "-12,345.60", "-12345.60"},
		{value.English, "123,456,789,012,345.678", "123456789012345.678"},
		{value.English, "123,456,789,012,345.6789", ""}, {value.English, "1234", ""}, {value.English, "1,23", ""},
		{value.English, "1,2345", ""}, {value.English, "0,123", ""},
		{value.English, "1,234,56", ""}, {value.English, ",123", ""}, {value.English, "1,234.5x", ""}, {value.English, "1,234 ", ""},
		{value.English, "", ""}, {value.English, "-", ""},
		{other, "1.234,5", "1234.5"}, {other, "1,234.5", ""}, {value.Styles[2], "1 234,5", "1234.5"}, {value.Styles[4], "12,345", ""},
	} {
		coef, places, ok := c.style.Grouped([]byte(c.in))
		require.Equal(t, c.want != "", ok, c.in)
		if ok {
			require.Equal(t, c.want, string(value.AppendFixed(nil, coef, places)), c.in)
		}
	}
}

func TestAppendFixed(t *testing.T) {
	for _, c := range []struct {
		coef   int64
		places int
		want   string
	}{
		{0, 0, "0"}, {0, 1, "0.0"}, {0, 2, "0.00"}, {5, 1, "0.5"}, {5, 3, "0.005"}, {-5, 2, "-0.05"}, {10, 1, "1.0"}, {100, 2, "1.00"},
		{1000, 2, "10.00"},
		{10005, 2, "100.05"}, {123456, 3, "123.456"}, {-9999, 4, "-0.9999"}, {math.MaxInt64, 18, "9.223372036854775807"},
		{math.MinInt64, 18, "-9.223372036854775808"},
		{math.MinInt64, 0, "-9223372036854775808"}, {7, 20, "0.00000000000000000007"},
	} {
		require.Equal(t, c.want, string(value.AppendFixed(nil, c.coef, c.places)))
	}
}

func TestRescale(t *testing.T) {
	for _, c := range []struct {
		in, want string
		places   int
		changed  bool
	}{
		{"3.125", "3.13", 2, true}, {"-3.125", "-3.13", 2, true}, {"3.124", "3.12", 2, true}, {"5", "5.00", 2, false}, {"2.50", "2.5", 1, false},
		{"0.5", "1", 0, true}, {"-0.4", "0", 0, true}, {"9.995", "10.00", 2, true}, {"999999999999999999", "999999999999999999.00", 2, false},
		{"123456789012345678901.555", "123456789012345678901.56", 2, true}, {"-123456789012345678901.5", "-123456789012345678902", 0, true},
		{"0.00000000000000000000000001", "0.00", 2, true},
	} {
		d, _, ok := value.English.Number([]byte(c.in))
		require.True(t, ok, c.in)
		got, changed := d.Rescale(c.places)
		assert.Equal(t, c.want, got.String(), c.in)
		assert.Equal(t, c.changed, changed, c.in)
	}
}

// A sum is what rational arithmetic says, in any order and any parts.
func FuzzSum(f *testing.F) {
	f.Add("1.5 -2 99999999999999999999.5 0.000000000000000000001", 2)
	f.Fuzz(func(t *testing.T, text string, split int) {
		var all, left, right value.Sum
		want := new(big.Rat)
		for i, s := range strings.Fields(text) {
			d, _, ok := value.English.Number([]byte(s))
			if !ok {
				continue
			}
			r, _ := new(big.Rat).SetString(d.String())
			want.Add(want, r)
			all.Add(d)
			if i < split {
				left.Add(d)
			} else {
				right.Add(d)
			}
		}
		right.Merge(&left)
		got, ok := new(big.Rat).SetString(all.Total().String())
		require.True(t, ok)
		assert.Zero(t, got.Cmp(want))
		assert.Zero(t, all.Total().Cmp(right.Total()))
	})
}

func TestSumIsExactBeyondInt64(t *testing.T) {
	var s value.Sum
	for range 40 {
		s.AddSmall(1<<62, 2)
	}
	want := new(big.Int).Mul(big.NewInt(1<<62), big.NewInt(40)).String()
	assert.Equal(t, want[:len(want)-2]+"."+want[len(want)-2:], s.Total().String())
}

func TestGaps(t *testing.T) {
	for in, want := range map[string]value.Gap{
		"": value.Blank, "N/A": value.Null, "-": value.Null, "—": value.Null, "NaN": value.Null, "#N/A": value.Error, "#div/0!": value.Error,
		"tbc": value.Text, "12 pcs": value.Unclear, "1,23": value.Unclear, "٣": value.Unclear, "½": value.Unclear, "#NEW": value.Text,
	} {
		assert.Equal(t, want, value.GapOf(in), in)
	}
	assert.Equal(t, value.NoGap, value.TextGap("Narrows"))
	assert.Equal(t, "a b", string(value.Trim([]byte("\ufeff \u00a0a b\t\u200b\r\n"))))
}

func TestMonthAndYear(t *testing.T) {
	for in, want := range map[string]string{
		"2024-07": "2024-07", "2024-07-31": "2024-07", "2024-07-31 10:30": "2024-07", "2024-07-31T10:30:00Z": "2024-07", "Dec 2024": "2024-12",
		"31-Dec-2024": "2024-12", "5 March 2024": "2024-03", "March 5, 2024": "2024-03", "5. März 2024": "2024-03", "août 2023": "2023-08",
		"5 de marzo de 2024": "2024-03", "29 Feb 2024": "2024-02", "mei 2024": "2024-05",
	} {
		got, ok := value.Default.Month(in)
		assert.True(t, ok, in)
		assert.Equal(t, want, got, in)
	}
	for _, in := range []string{"", "2024-13", "2024-00", "31/12/2024", "12/2024", "29 Feb 2023", "2023-02-29", "Dec 24", "2024", "tbc",
		"2024-7", "Dec", "2024-07-31x", "0000-01", "Jan Feb 2024"} {
		_, ok := value.Default.Month(in)
		assert.False(t, ok, in)
	}
	for in, want := range map[string]string{"2024": "2024", "2024-07-01": "2024", "Dec 2024": "2024", "0007": "0007"} {
		got, ok := value.Default.Year(in)
		assert.True(t, ok, in)
		assert.Equal(t, want, got)
	}
	for _, in := range []string{"24", "0000", "20245", "FY24", "next"} {
		_, ok := value.Default.Year(in)
		assert.False(t, ok, in)
	}
}

func FuzzDate(f *testing.F) {
	f.Add("31-Dec-2024")
	f.Fuzz(func(t *testing.T, s string) {
		if m, ok := value.Default.Month(s); ok {
			again, ok := value.Default.Month(m)
			assert.True(t, ok)
			assert.Equal(t, m, again)
		}
	})
}

func ExampleStyle_Number() {
	d, currency, ok := value.English.Number([]byte("€ (1,234.50)"))
	fmt.Println(d, currency, ok)
	// Output: -1234.50 EUR true
}

func BenchmarkPlain(b *testing.B) {
	cells := [][]byte{[]byte("123.45"), []byte("7.10"), []byte("-1234.50"), []byte("88")}
	i := 0
	for b.Loop() {
		value.Plain(cells[i&3], '.')
		i++
	}
}

func BenchmarkPlainAt(b *testing.B) {
	data := []byte("123.45,7.10,-1234.50,88,        ")
	ends := [][2]uint32{{0, 6}, {7, 11}, {12, 20}, {21, 23}}
	i := 0
	for b.Loop() {
		value.PlainAt(data, ends[i&3][0], ends[i&3][1], '.')
		i++
	}
}

func TestTotals(t *testing.T) {
	none := value.NewTotals(nil, nil)
	own := value.NewTotals([]string{"All", "All branches"}, []string{"Total Care Wax"})
	for text, want := range map[string][2]bool{"Total": {true, true}, "Total EUR": {true, true}, "Total €": {true, true},
		"Grand total": {true, true}, "Total pcs": {true, true},
		"Jahressumme": {true, true}, "Insgesamt": {true, true}, "North total": {false, true}, "Total 2024": {false, true},
		"Total Care Wax": {false, true},
		"All":            {false, false}, "EUR": {false, false}, "Summer hat": {false, false}, "TOTAUX.": {true, true}} {
		alone, among := none.Says(text)
		assert.Equal(t, want, [2]bool{alone, among}, text)
	}
	for text, want := range map[string][2]bool{"all BRANCHES": {true, true}, "All": {true, true}, "Total care wax": {false, false},
		"Total": {true, true}, "All ports": {false, false}} {
		alone, among := own.Says(text)
		assert.Equal(t, want, [2]bool{alone, among}, text)
	}
	for name, want := range map[string]bool{"Total": true, "Total 2024": true, "Summe EUR": true, "2024": false, "Jan": false,
		"Totals North": false} {
		assert.Equal(t, want, none.Sheet(name), name)
	}
}

// What two examples read differently is not read; what one reads is.
func TestReadingsOfSeveral(t *testing.T) {
	german, _ := value.StyleOf("1.234,56")
	us, _ := value.DateFormOf("12/31/2024")
	eu, _ := value.DateFormOf("31/12/2024")
	r := value.Reading{Numbers: value.English, Also: []value.Style{german}, Dates: []value.DateForm{us, eu}}
	for text, want := range map[string]string{"1,234.56": "1234.56", "1.234,56": "1234.56", "12": "12", "1.234": "", "1,5": "1.5",
		"1.5": "1.5", "x": ""} {
		d, _, ok := r.Number([]byte(text))
		assert.Equal(t, want != "", ok, text)
		if ok {
			assert.Equal(t, want, d.String(), text)
		}
	}
	for text, want := range map[string]string{"12/31/2024": "2024-12-31", "31/12/2024": "2024-12-31", "03/04/2024": "",
		"04/04/2024": "2024-04-04"} {
		day, _ := r.Day(text)
		assert.Equal(t, want, day, text)
	}
}
