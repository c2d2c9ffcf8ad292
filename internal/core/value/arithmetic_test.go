package value

import (
	"math/big"
	"testing"

	"github.com/stretchr/testify/require"
)

func number1(t *testing.T, text string) Decimal {
	d, _, ok := English.Number([]byte(text))
	require.True(t, ok, text)
	return d
}

func TestQuo(t *testing.T) {
	for _, test := range []struct{ a, b, want string }{
		{"1", "4", "0.25"}, {"10", "4", "2.5"}, {"1", "3", "0.3333333333333333333333333333333333"},
		{"2", "3", "0.6666666666666666666666666666666667"},
		{"-2", "3", "-0.6666666666666666666666666666666667"}, {"100", "3", "33.33333333333333333333333333333333"}, {"1", "0.001", "1000"},
		{"0", "7", "0"},
		{"1", "1024", "0.0009765625"}, {"123456789012345678901234567890", "10", "12345678901234567890123456789"},
		{"1", "123456789012345678901234567890", "0.000000000000000000000000000008100000072900000663390006036857155"},
		{"7.50", "2.5", "3"}, {"1", "7", "0.1428571428571428571428571428571429"}, {"0.2", "0.3", "0.6666666666666666666666666666666667"},
		{"1000000000000000000000000000000000000001", "3", "333333333333333333333333333333333300000"}, {"5", "-8", "-0.625"},
		{"1", "1267650600228229401496703205376", "0.000000000000000000000000000000" +
			"7888609052210118054117285652827862296732064351090230047702789306640625"},
		{"9999999999999999999999999999999999.5", "3", "3333333333333333333333333333333333"},
	} {
		q, ok := number1(t, test.a).Quo(number1(t, test.b))
		require.True(t, ok)
		require.Equal(t, test.want, q.String(), "%s / %s", test.a, test.b)
	}
	_, ok := number1(t, "1").Quo(number1(t, "0.00"))
	require.False(t, ok)
}

func TestRound(t *testing.T) {
	for _, test := range []struct {
		a      string
		places int
		want   string
	}{
		{"2.5", 0, "3"}, {"-2.5", 0, "-3"}, {"2.449", 1, "2.4"}, {"1250", -2, "1300"}, {"-1249", -2, "-1200"}, {"5", 2, "5"}, {"49", -2, "0"},
		{"123456789012345678901234567.5", 0, "123456789012345678901234568"}, {"50", -30, "0"},
	} {
		require.Equal(t, test.want, number1(t, test.a).Round(test.places).String(), "%v", test)
	}
}

// FuzzArithmetic: sums, products and comparisons agree with those of fractions,
// whatever the size; a quotient that ends is exact, another one is near.
func FuzzArithmetic(f *testing.F) {
	f.Add(int64(12345), 2, int64(-7), 0)
	f.Add(int64(-1<<63), 18, int64(1<<62), 1)
	f.Add(int64(999999999999999999), 0, int64(999999999999999999), 18)
	f.Fuzz(func(t *testing.T, a int64, p int, b int64, q int) {
		p, q = p&31, q&31
		d, e := NewDecimal(a, p), NewDecimal(b, q)
		exact := func(d Decimal) *big.Rat {
			return new(big.Rat).SetFrac(d.big(), new(big.Int).Exp(ten, big.NewInt(int64(d.places)), nil))
		}
		x, y := exact(d), exact(e)
		require.Zero(t, exact(d.Add(e)).Cmp(new(big.Rat).Add(x, y)))
		require.Zero(t, exact(d.Sub(e)).Cmp(new(big.Rat).Sub(x, y)))
		require.Zero(t, exact(d.Mul(e)).Cmp(new(big.Rat).Mul(x, y)))
		require.Equal(t, x.Cmp(y), d.Cmp(e))
		quotient, ok := d.Quo(e)
		require.Equal(t, b != 0, ok)
		if !ok {
			return
		}
		want := new(big.Rat).Quo(x, y)
		off := new(big.Rat).Sub(exact(quotient), want)
		if off.Sign() != 0 {
			limit := new(big.Rat).Mul(want, new(big.Rat).SetFrac(big.NewInt(1), new(big.Int).Exp(ten, big.NewInt(QuotientDigits-1), nil)))
			require.Negative(t, off.Abs(off).Cmp(limit.Abs(limit)))
			den := new(big.Int).Set(want.Denom())
			_, ends := digitsOf(den)
			require.False(t, ends)
		}
	})
}

func BenchmarkAdd(b *testing.B) {
	x, y := NewDecimal(12345, 2), NewDecimal(7, 0)
	for b.Loop() {
		x.Add(y)
	}
}
