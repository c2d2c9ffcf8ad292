package formula_test

import (
	"fmt"
	"math/big"
	"math/rand/v2"
	"strings"
	"testing"

	"github.com/stretchr/testify/require"

	"umbau/internal/core/formula"
	"umbau/internal/core/value"
)

// A grown formula is a random one with what it must give, worked out with rational
// numbers: nil stands for empty.
type grown struct {
	src    string
	number *big.Rat
	flag   *bool
	isFlag bool
	atom   bool // needs no parentheses
}

type garden struct {
	*rand.Rand
	columns []*big.Rat // nil for an empty one
}

func (g *garden) number(depth int) grown {
	if depth == 0 || g.IntN(6) == 0 {
		if g.IntN(2) == 0 {
			i := g.IntN(len(g.columns))
			return grown{src: fmt.Sprintf("c%d", i), number: g.columns[i], atom: true}
		}
		n := big.NewRat(int64(g.IntN(2000)), []int64{1, 10, 100}[g.IntN(3)])
		return grown{src: strings.TrimSuffix(strings.TrimRight(n.FloatString(3), "0"), "."), number: n, atom: true}
	}
	sub := func() grown { return g.number(depth - 1) }
	switch k := g.IntN(9); k {
	case 0, 1, 2: // + - *
		a, b := sub(), sub()
		out := grown{src: in(a) + " " + "+-*"[k:k+1] + " " + in(b)}
		if a.number != nil && b.number != nil {
			out.number = [](func(*big.Rat, *big.Rat) *big.Rat){new(big.Rat).Add, new(big.Rat).Sub, new(big.Rat).Mul}[k](a.number, b.number)
		}
		return out
	case 3: // by what ends
		a, by := sub(), []int64{2, 4, 5, 8, 10}[g.IntN(5)]
		out := grown{src: fmt.Sprintf("%s / %d", in(a), by)}
		if a.number != nil {
			out.number = new(big.Rat).Quo(a.number, big.NewRat(by, 1))
		}
		return out
	case 4:
		a := sub()
		out := grown{src: "-" + in(a)}
		if a.number != nil {
			out.number = new(big.Rat).Neg(a.number)
		}
		return out
	default:
		return g.function(depth, k)
	}
}

// function grows a call of a function.
func (g *garden) function(depth, k int) grown {
	sub := func() grown { return g.number(depth - 1) }
	switch k {
	case 5:
		a := sub()
		out := grown{src: "abs(" + a.src + ")", atom: true}
		if a.number != nil {
			out.number = new(big.Rat).Abs(a.number)
		}
		return out
	case 6:
		a, b := sub(), sub()
		out := grown{src: "coalesce(" + a.src + ", " + b.src + ")", number: a.number, atom: true}
		if a.number == nil {
			out.number = b.number
		}
		return out
	case 7:
		c, a, b := g.condition(depth-1), sub(), sub()
		out := grown{src: "if(" + c.src + ", " + a.src + ", " + b.src + ")", number: b.number, atom: true}
		if c.flag != nil && *c.flag {
			out.number = a.number
		}
		return out
	default:
		a, b := sub(), sub()
		name, wanted := "min", -1
		if g.IntN(2) == 0 {
			name, wanted = "max", 1
		}
		out := grown{src: name + "(" + a.src + ", " + b.src + ")", atom: true}
		if a.number != nil && b.number != nil {
			if out.number = b.number; a.number.Cmp(b.number) == wanted {
				out.number = a.number
			}
		}
		return out
	}
}

func (g *garden) condition(depth int) grown {
	flag := func(b bool) *bool { return &b }
	if depth <= 0 || g.IntN(2) == 0 {
		a, b := g.number(max(0, depth-1)), g.number(max(0, depth-1))
		op := []string{"=", "<>", "<", "<=", ">", ">="}[g.IntN(6)]
		out := grown{src: in(a) + " " + op + " " + in(b), isFlag: true}
		if a.number != nil && b.number != nil {
			c := a.number.Cmp(b.number)
			out.flag = flag(map[string]bool{"=": c == 0, "<>": c != 0, "<": c < 0, "<=": c <= 0, ">": c > 0, ">=": c >= 0}[op])
		}
		return out
	}
	isTrue := func(x grown) bool { return x.flag != nil && *x.flag }
	switch g.IntN(3) {
	case 0:
		a, b := g.condition(depth-1), g.condition(depth-1)
		return grown{src: in(a) + " and " + in(b), flag: flag(isTrue(a) && isTrue(b)), isFlag: true}
	case 1:
		a, b := g.condition(depth-1), g.condition(depth-1)
		return grown{src: in(a) + " or " + in(b), flag: flag(isTrue(a) || isTrue(b)), isFlag: true}
	default:
		a := g.condition(depth - 1)
		return grown{src: "not " + in(a), flag: flag(!isTrue(a)), isFlag: true}
	}
}

// in writes a formula as a part of another.
func in(x grown) string {
	if x.atom {
		return x.src
	}
	return "(" + x.src + ")"
}

// runFormula makes sure that a formula gives what is wanted in each row.
func runFormula(t *testing.T, machine *formula.Machine, text string, inputs map[string]*formula.Vector, wants []string) {
	f, err := formula.Parse(text)
	require.NoError(t, err, text)
	require.NoError(t, f.Check(value.Calendar{}, func(string) (formula.Type, error) { return formula.Number, nil }), text)
	var columns []*formula.Vector
	for _, name := range f.Columns {
		columns = append(columns, inputs[name])
	}
	v := f.Run(machine, len(wants), columns)
	for row, want := range wants {
		i, have := v.At(row), "empty"
		switch {
		case v.States[i] != formula.Valid:
			require.Equal(t, formula.Empty, v.States[i], text)
		case f.Type == formula.Flag:
			have = fmt.Sprint(v.Flags[i])
		default:
			n, ok := new(big.Rat).SetString(v.Numbers[i].String())
			require.True(t, ok)
			have = n.RatString()
		}
		require.Equal(t, want, have, "row %d: %s", row, text)
	}
}

// Random formulas give what rational arithmetic says, to the last digit, in every
// row of a batch.
func TestRandomFormulas(t *testing.T) {
	machine := formula.NewMachine(value.Calendar{})
	for seed := range uint64(400) {
		const rows = 7
		text := ""
		var wants []string
		inputs := map[string]*formula.Vector{}
		for i := range 4 {
			v := &formula.Vector{}
			v.Resize(rows, formula.Number)
			inputs[fmt.Sprintf("c%d", i)] = v
		}
		cells := rand.New(rand.NewPCG(seed, 1))
		for row := range rows {
			columns := make([]*big.Rat, 4)
			for i := range columns {
				v := inputs[fmt.Sprintf("c%d", i)]
				if v.States[row] = formula.Empty; cells.IntN(4) > 0 {
					v.States[row] = formula.Valid
					v.Numbers[row] = value.NewDecimal(cells.Int64()>>(10+cells.IntN(50)), cells.IntN(5))
					columns[i], _ = new(big.Rat).SetString(v.Numbers[row].String())
				}
			}
			// The same seed grows the same formula; only the columns differ.
			g := &garden{rand.New(rand.NewPCG(seed, 2)), columns}
			x := g.number(5)
			if seed%3 == 0 {
				x = g.condition(5)
			}
			if text == "" {
				text = x.src
			}
			require.Equal(t, text, x.src)
			switch {
			case x.isFlag && x.flag != nil:
				wants = append(wants, fmt.Sprint(*x.flag))
			case x.isFlag || x.number == nil:
				wants = append(wants, "empty")
			default:
				wants = append(wants, x.number.RatString())
			}
		}
		runFormula(t, machine, text, inputs, wants)
	}
}
