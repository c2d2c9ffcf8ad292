package formula

import (
	"strings"

	"umbau/internal/core/key"
	"umbau/internal/core/value"
)

// State says whether there is a value. Of two states that meet in a calculation
// the greater one stands.
type State uint8

// The states of a value.
const (
	Valid State = iota
	Empty       // no value
	Bad         // a division by zero
	Open        // a value that nobody has decided yet
)

// Vector is a column of values. Those of a constant are one.
type Vector struct {
	States  []State
	Numbers []value.Decimal // of numbers and years
	Flags   []bool          // of conditions
	Texts   []string        // of all others
	step    int             // 0 where one value stands for all
}

// Resize makes room for so many values of a type, all of them to be set.
func (v *Vector) Resize(n int, t Type) {
	v.step = 1
	v.States = resized(v.States, n)
	switch {
	case t.numeric():
		v.Numbers = resized(v.Numbers, n)
	case t == Flag:
		v.Flags = resized(v.Flags, n)
	default:
		v.Texts = resized(v.Texts, n)
	}
}

// resized returns s with n elements, whose values do not matter.
func resized[T any](s []T, n int) []T {
	if cap(s) < n {
		return make([]T, n, n+n/4)
	}
	return s[:n]
}

// Constant returns the vector as one whose first value stands for all.
func (v *Vector) Constant() *Vector {
	c := *v
	c.step = 0
	return &c
}

// Gather fills the vector with values of another one: value i is that at from(i).
func (v *Vector) Gather(of *Vector, t Type, n int, from func(i int) int) {
	v.Resize(n, t)
	for i := range n {
		v.copyAt(i, t, of, from(i)*of.step)
	}
}

// Machine is the memory in which formulas run. The zero Machine is ready to use.
type Machine struct {
	spare   []*Vector
	keys    map[string]string // by text
	texts   map[textCall]string
	reading value.Reading
}

// textCall is a function of texts with its argument.
type textCall struct {
	op   *operation
	text string
}

// NewMachine returns a machine for years counted in this way.
func NewMachine(calendar value.Calendar) *Machine {
	return &Machine{reading: value.Reading{Numbers: value.English, Calendar: calendar}}
}

// Run works the formula out for so many values of the columns that it names. The
// vector is good until the next Run.
func (f *Formula) Run(m *Machine, size int, columns []*Vector) *Vector {
	v, own := m.run(f.root, size, columns)
	if own {
		m.spare = append(m.spare, v)
	}
	return v
}

// At returns the index of value i, 0 where one stands for all.
func (v *Vector) At(i int) int { return i * v.step }

// take returns a vector to fill.
func (m *Machine) take(size int, t Type) *Vector {
	v := &Vector{}
	if n := len(m.spare); n > 0 {
		v, m.spare = m.spare[n-1], m.spare[:n-1]
	}
	v.Resize(size, t)
	return v
}

// run works out a node; own says that the vector is the machine's, not that of a
// column.
func (m *Machine) run(n *node, size int, columns []*Vector) (v *Vector, own bool) {
	if n.op == columnOperation {
		return columns[n.column], false
	}
	args, owned := make([]*Vector, len(n.args)), make([]bool, len(n.args))
	for i, a := range n.args {
		args[i], owned[i] = m.run(a, size, columns)
	}
	v = n.op.run(m, n, size, args)
	for i, a := range args {
		if owned[i] && a != v {
			m.spare = append(m.spare, a)
		}
	}
	return v, true
}

func runLiteral(m *Machine, n *node, _ int, _ []*Vector) *Vector {
	v := m.take(1, n.typ)
	v.step, v.States[0] = 0, Valid
	switch {
	case n.typ.numeric():
		v.Numbers[0] = n.number
	case n.typ == Flag:
		v.Flags[0] = n.flag
	default:
		v.Texts[0] = n.text
		if n.text == "" {
			v.States[0] = Empty
		}
	}
	return v
}

// runNumbers works out a calculation with two numbers.
func runNumbers(do func(a, b value.Decimal) (value.Decimal, State)) func(*Machine, *node, int, []*Vector) *Vector {
	return func(m *Machine, n *node, size int, args []*Vector) *Vector {
		a, b, out := args[0], args[1], m.take(size, Number)
		for i := range size {
			x, y := i*a.step, i*b.step
			if state := max(a.States[x], b.States[y]); state != Valid {
				out.States[i] = state
				continue
			}
			out.Numbers[i], out.States[i] = do(a.Numbers[x], b.Numbers[y])
		}
		return out
	}
}

func add(a, b value.Decimal) (value.Decimal, State)      { return a.Add(b), Valid }
func subtract(a, b value.Decimal) (value.Decimal, State) { return a.Sub(b), Valid }
func multiply(a, b value.Decimal) (value.Decimal, State) { return a.Mul(b), Valid }

func divide(a, b value.Decimal) (value.Decimal, State) {
	q, ok := a.Quo(b)
	if !ok {
		return q, Bad
	}
	return q, Valid
}

// runNumber works out a calculation with one number.
func runNumber(do func(n *node, d value.Decimal) value.Decimal) func(*Machine, *node, int, []*Vector) *Vector {
	return func(m *Machine, n *node, size int, args []*Vector) *Vector {
		a, out := args[0], m.take(size, Number)
		for i := range size {
			x := i * a.step
			if out.States[i] = a.States[x]; out.States[i] == Valid {
				out.Numbers[i] = do(n, a.Numbers[x])
			}
		}
		return out
	}
}

// keyOf is the key of a text, worked out once for each.
func (m *Machine) keyOf(text string) string {
	k, ok := m.keys[text]
	if !ok {
		if m.keys == nil || len(m.keys) > 1<<14 {
			m.keys = map[string]string{}
		}
		k = key.Of(text)
		m.keys[strings.Clone(text)] = k
	}
	return k
}

// compareAt compares values of one type, conditions as equal (0) or not.
func (m *Machine) compareAt(t Type, a *Vector, x int, b *Vector, y int) int {
	switch {
	case t.numeric():
		return a.Numbers[x].Cmp(b.Numbers[y])
	case t == Flag:
		if a.Flags[x] == b.Flags[y] {
			return 0
		}
		return 1
	case t == Text:
		if a.Texts[x] == b.Texts[y] {
			return 0
		}
		return strings.Compare(m.keyOf(a.Texts[x]), m.keyOf(b.Texts[y]))
	}
	return strings.Compare(a.Texts[x], b.Texts[y])
}

func runComparison(holds func(sign int) bool) func(*Machine, *node, int, []*Vector) *Vector {
	return func(m *Machine, n *node, size int, args []*Vector) *Vector {
		a, b, out := args[0], args[1], m.take(size, Flag)
		t := n.args[0].typ
		for i := range size {
			x, y := i*a.step, i*b.step
			if out.States[i] = max(a.States[x], b.States[y]); out.States[i] == Valid {
				out.Flags[i] = holds(m.compareAt(t, a, x, b, y))
			}
		}
		return out
	}
}

// truth is a condition where empty is false: 0 false, 1 true, or not known.
func truth(v *Vector, i int) (yes bool, state State) {
	switch i *= v.step; v.States[i] {
	case Valid:
		return v.Flags[i], Valid
	case Empty:
		return false, Valid
	}
	return false, v.States[i]
}

// runJoined works out and, or: one side settles the whole if it is the given one.
func runJoined(settles bool) func(*Machine, *node, int, []*Vector) *Vector {
	return func(m *Machine, n *node, size int, args []*Vector) *Vector {
		out := m.take(size, Flag)
		for i := range size {
			a, first := truth(args[0], i)
			b, second := truth(args[1], i)
			if first == Valid && a == settles || second == Valid && b == settles {
				out.Flags[i], out.States[i] = settles, Valid
				continue
			}
			out.Flags[i], out.States[i] = !settles, max(first, second)
		}
		return out
	}
}

func runNot(m *Machine, n *node, size int, args []*Vector) *Vector {
	out := m.take(size, Flag)
	for i := range size {
		yes, state := truth(args[0], i)
		out.Flags[i], out.States[i] = !yes, state
	}
	return out
}

// copyAt copies a value.
func (v *Vector) copyAt(i int, t Type, from *Vector, x int) {
	if v.States[i] = from.States[x]; v.States[i] != Valid {
		return
	}
	switch {
	case t.numeric():
		v.Numbers[i] = from.Numbers[x]
	case t == Flag:
		v.Flags[i] = from.Flags[x]
	default:
		v.Texts[i] = from.Texts[x]
	}
}

func runIf(m *Machine, n *node, size int, args []*Vector) *Vector {
	out := m.take(size, n.typ)
	for i := range size {
		yes, state := truth(args[0], i)
		switch {
		case state != Valid:
			out.States[i] = state
		case yes:
			out.copyAt(i, n.typ, args[1], i*args[1].step)
		default:
			out.copyAt(i, n.typ, args[2], i*args[2].step)
		}
	}
	return out
}

func runCoalesce(m *Machine, n *node, size int, args []*Vector) *Vector {
	out := m.take(size, n.typ)
	for i := range size {
		for _, a := range args {
			if out.copyAt(i, n.typ, a, i*a.step); out.States[i] != Empty {
				break
			}
		}
	}
	return out
}

// runExtreme works out min and max: the value to which others compare with this
// sign, or not.
func runExtreme(sign int) func(*Machine, *node, int, []*Vector) *Vector {
	return func(m *Machine, n *node, size int, args []*Vector) *Vector {
		out := m.take(size, n.typ)
		for i := range size {
			out.copyAt(i, n.typ, args[0], i*args[0].step)
			for _, a := range args[1:] {
				x := i * a.step
				if state := max(out.States[i], a.States[x]); state != Valid {
					out.States[i] = state
				} else if m.compareAt(n.typ, a, x, out, i) == sign {
					out.copyAt(i, n.typ, a, x)
				}
			}
		}
		return out
	}
}

// runText works out a function of texts, once for each text.
func runText(do func(m *Machine, text string) string) func(*Machine, *node, int, []*Vector) *Vector {
	return func(m *Machine, n *node, size int, args []*Vector) *Vector {
		a, out := args[0], m.take(size, n.typ)
		for i := range size {
			x := i * a.step
			if out.States[i] = a.States[x]; out.States[i] != Valid {
				continue
			}
			call := textCall{n.op, a.Texts[x]}
			text, ok := m.texts[call]
			if !ok {
				if m.texts == nil || len(m.texts) > 1<<14 {
					m.texts = map[textCall]string{}
				}
				text = do(m, call.text)
				call.text = strings.Clone(call.text)
				m.texts[call] = text
			}
			if out.Texts[i] = text; text == "" {
				out.States[i] = Empty
			}
		}
		return out
	}
}

// runYear works out year(, which gives a number.
func runYear(m *Machine, n *node, size int, args []*Vector) *Vector {
	a := args[0]
	if n.args[0].typ == Year {
		return runNumber(func(_ *node, d value.Decimal) value.Decimal { return d })(m, n, size, args)
	}
	out := m.take(size, Year)
	for i := range size {
		x := i * a.step
		if out.States[i] = a.States[x]; out.States[i] == Valid {
			text, _ := m.reading.Year(a.Texts[x])
			out.Numbers[i] = YearNumber(text)
		}
	}
	return out
}

// YearNumber is a year of four digits as a number.
func YearNumber(text string) value.Decimal {
	n := int64(0)
	for _, c := range []byte(text) {
		n = 10*n + int64(c-'0')
	}
	return value.NewDecimal(n, 0)
}
