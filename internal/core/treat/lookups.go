package treat

import (
	"umbau/internal/core/formula"
	"umbau/internal/core/lookup"
	"umbau/internal/core/place"
	"umbau/internal/core/plan"
	"umbau/internal/core/table"
	"umbau/internal/core/value"
)

// LookedUp is a key that fact rows of a block have asked a reference for, and that does not
// stand in one line.
type LookedUp struct {
	Column int // of the plan: the first of those that share the key
	Key    string
	Label  string      // of a key that is not there, as it is written
	Lines  []int32     // of the reference; none where the key is not there
	Rows   int         // fact rows, those that are passed over aside
	First  place.Place // of a key that is not there
	Amount *value.Sum  // of a key that is not there: what the first measure has in them; nil for none
}

// AskedLine is a line of a reference that fact rows of a block have asked for: the common case,
// of a key that stands in it alone.
type AskedLine struct{ Column, Line, Rows int32 }

// keys are what a worker knows of the keys of one lookup. A key is known by the codes of its
// columns, as long as their dictionaries stay: each is looked up once, and the rows that have
// it only ask for its number.
type keys struct {
	dicts   []*texts            // of the columns of the key; nil for a column of numbers
	own     *texts              // of the column that is looked up; nil for numbers
	single  []uint32            // of a key of one column of texts: by its code, 1 + the key
	pairs   []map[uint64]uint32 // of other keys: the number so far and the next code → the number
	numbers []map[string]uint32 // the codes of columns of numbers
	list    []foundKey
	state   []keyState // by key, and
	codes   []uint32   // of what is found: its text
	rows    []int      // by key: fact rows of the block at hand
	of      []uint32   // of each value of the block: its key
	touched []uint32   // keys that the block has
}

// foundKey is a key, and what the reference has for it.
type foundKey struct {
	key    string
	label  string // how it is written; empty until somebody asks
	found  *lookup.Value
	number value.Decimal
	gap    value.Gap // of its number
	first  int       // value of the block at hand
}

// keyState is what is found by a key.
type keyState uint8

const (
	keyOpen      keyState = iota // a part of it is not decided: neither is what is found
	foundText                    // or nothing, which the plan has a text for
	foundOddText                 // which needs a decision wherever it stands
	foundNumber
	foundGap
)

// mostKeys is how many keys are known at once.
const mostKeys = 1 << 18

// begin forgets all keys when the codes that they are known by mean something else.
func (k *keys) begin(dicts []*texts, own *texts) {
	same := k.own == own && len(k.dicts) == len(dicts) && len(k.list) < mostKeys
	for i := range dicts {
		same = same && k.dicts[i] == dicts[i]
	}
	if same {
		return
	}
	*k = keys{dicts: dicts, own: own, of: k.of, touched: k.touched}
	for range dicts {
		k.pairs, k.numbers = append(k.pairs, map[uint64]uint32{}), append(k.numbers, map[string]uint32{})
	}
}

// makeByLookup looks a column up.
func (w *Worker) makeByLookup(ci int) {
	c, s, out := &w.program.Columns[ci], &w.columns[ci], &w.batch.Columns[ci]
	n := w.size(c.level)
	w.beginMade(ci, n)
	var dicts []*texts
	for _, need := range c.needs {
		var d *texts
		if w.batch.Columns[need].Numbers == nil {
			d = w.columns[need].texts
		}
		dicts = append(dicts, d)
	}
	own := s.texts
	if out.Numbers != nil {
		own = nil
	}
	k := &s.keys
	k.begin(dicts, own)
	k.of, k.touched = resized(k.of, n), k.touched[:0]
	w.findKeys(ci)
	for i, at := range k.of {
		switch k.state[at] {
		case foundText:
			out.Codes[i] = k.codes[at]
		case foundOddText:
			out.Codes[i] = k.codes[at]
			s.odd = true
		case foundNumber:
			out.Set(i, k.list[at].number)
		case foundGap:
			w.gap(ci, i, table.Cell{}, k.list[at].gap)
		default:
			w.emptyMade(ci, i)
			s.opens = append(s.opens, int32(i))
		}
	}
}

// findKeys tells which key each value of a lookup has.
func (w *Worker) findKeys(ci int) {
	c, k := &w.program.Columns[ci], &w.columns[ci].keys
	one := &w.batch.Columns[c.needs[0]]
	if len(c.needs) > 1 || k.dicts[0] == nil || one.Level != c.level {
		for i := range k.of {
			k.of[i] = w.keyAt(ci, i)
		}
		return
	}
	for i, code := range one.Codes {
		if int(code) >= len(k.single) || k.single[code] == 0 {
			w.keyAt(ci, i)
		}
		k.of[i] = k.single[code] - 1
	}
}

// keyAt is which key value i of a lookup has.
func (w *Worker) keyAt(ci, i int) uint32 {
	c, k := &w.program.Columns[ci], &w.columns[ci].keys
	row, slot := w.rowAndSlot(c.level, i)
	if len(c.needs) == 1 && k.dicts[0] != nil {
		of := &w.batch.Columns[c.needs[0]]
		code := of.Codes[of.At(row, slot, w.batch.Slots)]
		for int(code) >= len(k.single) {
			k.single = append(k.single, 0)
		}
		if k.single[code] == 0 {
			k.single[code] = w.findKey(ci, row, slot) + 1
		}
		return k.single[code] - 1
	}
	at := uint64(0)
	for j, need := range c.needs {
		of := &w.batch.Columns[need]
		code := uint32(0)
		if k.dicts[j] != nil {
			code = of.Codes[of.At(row, slot, w.batch.Slots)]
		} else {
			text, open := w.keyPiece(need, row, slot)
			if open {
				text = "\x00"
			}
			known := false
			if code, known = k.numbers[j][text]; !known {
				code = uint32(len(k.numbers[j]))
				k.numbers[j][text] = code
			}
		}
		pair := at<<32 | uint64(code)
		next, known := k.pairs[j][pair]
		if !known {
			if next = uint32(len(k.pairs[j])); j == len(c.needs)-1 {
				next = w.findKey(ci, row, slot)
			}
			k.pairs[j][pair] = next
		}
		at = uint64(next)
	}
	return uint32(at)
}

// keyPiece is the text of a column in a key; open says that nothing is decided of it yet.
func (w *Worker) keyPiece(ci, row, slot int) (text string, open bool) {
	s, out := &w.columns[ci], &w.batch.Columns[ci]
	i := out.At(row, slot, w.batch.Slots)
	v := w.vector(ci)
	if at := v.At(i); v.States[at] == formula.Open || v.States[at] == formula.Bad {
		return "", true
	}
	if out.Numbers == nil {
		if in := s.texts.of(out.Codes[i]); in.odd && in.gap == value.NoGap { // an unknown name, as it stands
			return in.text, false
		}
	}
	return w.valueText(ci, row, slot), false
}

// readKey reads a key, and how it is written; open says that a part of it is not decided.
func (w *Worker) readKey(ci, row, slot int) (key, label string, open bool) {
	c := &w.program.Columns[ci]
	values := make([]string, len(c.needs))
	for j, need := range c.needs {
		undecided := false
		values[j], undecided = w.keyPiece(need, row, slot)
		open = open || undecided
	}
	key, label = lookup.KeyOf(c.keyKinds, values)
	return key, label, open
}

// keyLabel is how the key of value i is written, now that the first spellings are known: a worker may have met it before.
func (w *Worker) keyLabel(ci, i int) string {
	k := &w.columns[ci].keys
	f := &k.list[k.of[i]]
	if f.label == "" {
		row, slot := w.rowAndSlot(w.program.Columns[ci].level, i)
		_, f.label, _ = w.readKey(ci, row, slot)
	}
	return f.label
}

// findKey looks a new key up.
func (w *Worker) findKey(ci, row, slot int) uint32 {
	c, s := &w.program.Columns[ci], &w.columns[ci]
	k := &s.keys
	f, open := foundKey{}, false
	f.key, _, open = w.readKey(ci, row, slot) // its names may be spelt otherwise yet
	f.found = c.lookup.Find(f.key)
	state, code := keyOpen, uint32(0)
	switch {
	case open:
	case c.spec.Kind.Numeric():
		if f.number, f.gap = c.foundNumber(f.found); f.gap != value.NoGap {
			state = foundGap
		} else {
			state = foundNumber
		}
	default:
		state, code = foundText, s.texts.foundCode(c, f.found)
		if s.texts.odd(code) {
			state = foundOddText
		}
	}
	k.list, k.state, k.codes, k.rows = append(k.list, f), append(k.state, state), append(k.codes, code), append(k.rows, 0)
	return uint32(len(k.list) - 1)
}

// foundNumber is the number that a lookup has found, or which gap that is.
func (c *column) foundNumber(v *lookup.Value) (d value.Decimal, gap value.Gap) {
	if v == nil {
		return d, value.Missing
	}
	d, gap = c.lookup.Found(v)
	return c.fit(d), gap
}

// foundCode is the code of the text that a lookup has found; nil is nothing.
func (d *texts) foundCode(c *column, found *lookup.Value) uint32 {
	if found != nil {
		return d.code(c, []byte(found.Text))
	}
	code, fresh := d.Code([]byte{0, '?'}) // no text of a cell
	if fresh {
		rule := &c.spec.Gaps[value.Missing]
		d.tell(textInfo{gap: value.Missing, odd: rule.Remedy != plan.Put && rule.Remedy != plan.Leave || rule.Formula != nil})
		if rule.Remedy == plan.Put && rule.Formula == nil {
			d.SetOut(code, rule.Text)
		}
	}
	return code
}

// countLookups counts the fact rows that have asked for each key, once they are filtered.
func (w *Worker) countLookups() {
	w.lookedUp, w.asked = w.lookedUp[:0], w.asked[:0]
	for ci := range w.program.Columns {
		if l := w.program.Columns[ci].lookup; l != nil && l.First {
			w.countKeys(ci)
		}
	}
}

func (w *Worker) countKeys(ci int) {
	c, k := &w.program.Columns[ci], &w.columns[ci].keys
	count := func(i, rows int) {
		at := k.of[i]
		if rows > 0 && k.rows[at] == 0 {
			k.touched, k.list[at].first = append(k.touched, at), i
		}
		k.rows[at] += rows
	}
	switch {
	case c.level == table.PerRow && !w.passed:
		slots := w.batch.Slots
		for i, at := range k.of {
			if k.rows[at] == 0 {
				count(i, slots)
			} else {
				k.rows[at] += slots
			}
		}
	case c.level == table.PerRow:
		for i := range k.of {
			count(i, w.alive(i))
		}
	default:
		for i := range k.of {
			w.factRows(c.level, i, func(fate *table.Fate, _ int) {
				if !fate.Passed() {
					count(i, 1)
				}
			})
		}
	}
	amounts := w.amountsMissing(ci)
	for _, at := range k.touched {
		f, rows := &k.list[at], k.rows[at]
		k.rows[at] = 0
		switch {
		case k.state[at] == keyOpen:
		case f.found == nil:
			w.lookedUp = append(w.lookedUp, LookedUp{ci, f.key, w.keyLabel(ci, f.first), nil, rows, w.place(ci, f.first), amounts[at]})
		case len(f.found.Lines) == 1:
			w.asked = append(w.asked, AskedLine{int32(ci), f.found.Lines[0], int32(rows)})
		default:
			w.lookedUp = append(w.lookedUp, LookedUp{Column: ci, Key: f.key, Lines: f.found.Lines, Rows: rows})
		}
	}
}

// amountsMissing sums up what the first measure has in the fact rows of keys that are not
// there.
func (w *Worker) amountsMissing(ci int) map[uint32]*value.Sum {
	c, k, measure := &w.program.Columns[ci], &w.columns[ci].keys, w.program.Plan.FirstMeasure()
	amounts := map[uint32]*value.Sum{}
	for _, at := range k.touched {
		if k.list[at].found == nil && measure >= 0 {
			amounts[at] = &value.Sum{}
		}
	}
	if len(amounts) == 0 {
		return amounts
	}
	numbers, slots := &w.batch.Columns[measure], w.batch.Slots
	for i, at := range k.of {
		sum := amounts[at]
		if sum == nil {
			continue
		}
		w.factRows(c.level, i, func(fate *table.Fate, row int) {
			if !fate.Passed() {
				numbers.AddTo(sum, numbers.At(row/slots, row%slots, slots))
			}
		})
	}
	return amounts
}

// lookedUpText is what a lookup has found for value i, or the key where it has found nothing.
func (w *Worker) lookedUpText(ci, i int) string {
	f := &w.columns[ci].keys.list[w.columns[ci].keys.of[i]]
	if f.found == nil {
		return w.keyLabel(ci, i)
	}
	return f.found.Text
}

// placeOfGap is where a gap stands: of a column that is looked up, in the reference.
func (w *Worker) placeOfGap(ci, i int) place.Place {
	c := &w.program.Columns[ci]
	if c.lookup != nil {
		if f := &w.columns[ci].keys.list[w.columns[ci].keys.of[i]]; f.found != nil {
			at := c.lookup.Table.Place(int(f.found.At))
			at.Header = c.lookup.Header
			return at
		}
	}
	return w.place(ci, i)
}

// lookAgain looks a column up for a fact row whose measures are sums now.
func (w *Worker) lookAgain(ci, at int) {
	c := &w.program.Columns[ci]
	b := w.batch
	values := make([]string, len(c.needs))
	for j, need := range c.needs {
		values[j] = string(b.AppendText(nil, &b.Columns[need], at/b.Slots, at%b.Slots))
	}
	k, _ := lookup.KeyOf(c.keyKinds, values)
	found := c.lookup.Find(k)
	if !c.spec.Kind.Numeric() {
		w.batch.Columns[ci].Codes[at] = w.columns[ci].texts.foundCode(c, found)
		return
	}
	d, gap := c.foundNumber(found)
	switch rule := &c.spec.Gaps[gap]; {
	case gap == value.NoGap:
		w.batch.Columns[ci].Set(at, d)
	case rule.Remedy == plan.Put && rule.Formula == nil:
		w.batch.Columns[ci].Set(at, rule.Number)
	default:
		w.batch.Columns[ci].Numbers[at] = table.Number{}
	}
}
