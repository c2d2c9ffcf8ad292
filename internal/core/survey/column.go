package survey

import (
	"bytes"
	"math/bits"
	"slices"
	"sort"
	"strings"
	"unsafe"

	"umbau/internal/core/key"
	"umbau/internal/core/place"
	"umbau/internal/core/table"
	"umbau/internal/core/value"
)

// Field is what a column of a table holds. Filled + Blank + Null + Text +
// Unclear + Error are the rows of the table.
type Field struct {
	Header                                    string
	Is                                        string
	Wide                                      bool
	Filled, Blank, Null, Text, Unclear, Error int
	Distinct                                  int
	Estimated                                 bool // Distinct is, within some 2 %
	Examples                                  []string
	Gaps                                      []Gap
	Values                                    []string // distinct usable texts as they stand, the first 4,096, where they are asked for
	Unnamed                                   bool     // it has no header: that is its letter
	Otherwise                                 string   // an example of how most of the numbers are written that are not as the others
	Doubtful                                  int      // numbers that may be written as these, too, and a thousand times as large
	unused                                    bool     // nor anything below it
}

// EachOnce reports whether so many cells have a value of their own each, as far as that is known.
func (f *Field) EachOnce(cells int) bool {
	if f.Estimated {
		return 100*f.Distinct >= 97*cells
	}
	return f.Distinct >= cells
}

// Gap is the place of a cell without a usable value.
type Gap struct {
	Row  int
	Kind string
	Text string
}

// group is all cells of one reading.
type group struct {
	reading
	cells int
	first []spot // at most five
}

type spot struct {
	row  int
	text string
}

// mostDistinct is how many distinct texts of a column are kept; beyond that values are
// only counted.
const mostDistinct = 4096

// column is a column under way.
type column struct {
	header     string
	letter     string
	groups     []group
	memo       *table.Dict // the texts kept, and gaps …
	of         []int32     // … by code, the group of each
	texts      []uint32    // codes of the texts that have a value, at most mostDistinct
	more       *counter    // once there are more
	beside     int         // how many columns the table has
	key        []byte      // room for one
	looks      int         // how many of the last cells were looked for
	ofDates    bool        // figures alone are dates, where all may be
	formulas   int
	formulaRow int
	ambiguous  [len(value.Styles)]int // by style: cells that read in English and in it, with other values
	ambigRow   [len(value.Styles)]int
	pointed    int // cells such as 6.102 that read in English and otherwise …
	commaed    int // … and such as 6,102
	english    int // cells such as 1,234.50 …
	foreign    int // … and such as 1.234,50
}

// money is a currency of a column, and where it stands first.
type money struct {
	code  string
	cells int
	row   int
}

// newColumn is one of so many of a table.
func newColumn(header, letter string, of int) *column {
	return &column{header: header, letter: letter, memo: table.NewDict(), beside: of}
}

// take takes the cells of a column of some rows. Some are looked for at a time, so that what the memory has
// to bring for one of them does not wait for the one before.
func (c *column) take(rows *table.Rows, of []int, j int) {
	var texts [64][]byte
	var hashes [64]uint64
	for len(of) > 0 {
		n, touch := min(len(of), len(texts)), c.more == nil || c.looks > 8
		c.looks = 0
		for k, i := range of[:n] {
			if texts[k] = nil; j < len(rows.Row(i)) {
				texts[k] = value.Trim(rows.Text(rows.Row(i)[j]))
			}
			if hashes[k] = table.Hash(texts[k]); touch {
				c.memo.Touch(hashes[k])
			}
		}
		for k, i := range of[:n] {
			kind := table.TextCell
			if j < len(rows.Row(i)) {
				kind = rows.Kind(i, j)
			}
			c.add(texts[k], hashes[k], kind, rows.Lines[i])
		}
		of = of[n:]
	}
}

// add takes one cell, trimmed, with its table.Hash.
func (c *column) add(text []byte, hash uint64, kind table.CellKind, row int) {
	if kind == table.FormulaCell {
		if c.formulas++; c.formulas == 1 {
			c.formulaRow = row
		}
	}
	g, known := 0, false
	number, ok := readPlain(text, kind)
	if !ok && kind == table.TextCell {
		if number, ok = readGrouped(text); ok && bytes.IndexByte(text, '.') >= 0 {
			c.english++
		}
	}
	if ok { // the common cell
		g = c.short(number, kind)
		if c.more != nil {
			c.more.addNumber(&number, g)
		} else if len(c.texts) < mostDistinct {
			if code, isNew := c.memo.CodeHashed(text, hash); isNew {
				c.of, c.texts = append(c.of, int32(g)), append(c.texts, code)
			}
		} else if _, known = c.known(text, hash); !known {
			c.remember(text, hash, g)
		}
		if number.styles&2 != 0 && kind == table.TextCell && (bytes.IndexByte(text, '.') >= 0 || bytes.IndexByte(text, ',') >= 0) {
			c.addAmbiguous(text, number.styles, row)
		}
	} else if g, known = c.known(text, hash); !known || c.groups[g].sheet != kind {
		r := read(text, kind)
		g = c.group(r)
		switch {
		case known:
		case usable(&group{reading: r}):
			c.remember(text, hash, g)
		case c.memo.Len() < 2*mostDistinct && len(text) < 1000:
			c.memorize(text, hash, g)
		}
		if r.styles&1 != 0 && r.styles&^1 != 0 {
			c.addAmbiguous(text, r.styles, row)
		}
	} else if c.groups[g].styles&1 != 0 && c.groups[g].styles&^1 != 0 {
		c.addAmbiguous(text, c.groups[g].styles, row)
	}
	p := &c.groups[g]
	if p.styles != 0 && p.styles&1 == 0 && bytes.IndexByte(text, '.') >= 0 && bytes.IndexByte(text, ',') >= 0 {
		c.foreign++
	}
	p.cells++
	if len(p.first) < 5 {
		p.first = append(p.first, spot{row, string(text)})
	}
}

// known returns the group of a text that is kept.
func (c *column) known(text []byte, hash uint64) (g int, ok bool) {
	c.looks++
	code, ok := c.memo.FindHashed(text, hash)
	if !ok {
		return 0, false
	}
	return int(c.of[code]), true
}

// memorize keeps the group of a text, which is not known yet.
func (c *column) memorize(text []byte, hash uint64, g int) (code uint32) {
	code, _ = c.memo.CodeHashed(text, hash)
	c.of = append(c.of, int32(g))
	return code
}

// remember keeps a distinct text, or counts its value.
func (c *column) remember(text []byte, hash uint64, g int) {
	if len(c.texts) < mostDistinct && len(text) < 1000 {
		c.texts = append(c.texts, c.memorize(text, hash, g))
		return
	}
	if c.more == nil {
		c.more = newCounter(c.beside)
		for _, code := range c.texts {
			kept := []byte(c.memo.Seen(code))
			c.more.add(c.hashOf(kept, table.Hash(kept), int(c.of[code])), int(c.of[code]))
		}
	}
	c.more.add(c.hashOf(text, hash, g), g)
}

// hashOf is the table.Hash of the value of a text, whose own is known: of a number, a date, or the key of a text.
func (c *column) hashOf(text []byte, hash uint64, g int) uint64 {
	s := unsafe.String(unsafe.SliceData(text), len(text)) // nobody keeps it
	switch r := &c.groups[g].reading; {
	case r.styles != 0:
		if d, _, ok := value.Styles[bits.TrailingZeros32(r.styles)].Number(text); ok {
			if coef, places, ok := d.Small(); ok {
				hash, _ = hashOfNumber(coef, places)
				return hash
			}
			return table.Hash([]byte(d.Shorten().String()))
		}
	case r.forms&defaultDate != 0:
		if d, ok := value.ReadDate(s); ok {
			return table.Hash([]byte(d.String()))
		}
	case r.forms == 0:
		c.key = key.Append(c.key[:0], s)
		return table.Hash(c.key)
	}
	return hash
}

func (c *column) group(r reading) int {
	for i := range c.groups {
		if c.groups[i].reading == r {
			return i
		}
	}
	c.groups = append(c.groups, group{reading: r})
	return len(c.groups) - 1
}

// short is group for the reading of a plain number.
func (c *column) short(s short, kind table.CellKind) int {
	for i := range c.groups {
		if r := &c.groups[i].reading; r.styles == s.styles && r.wholes == s.wholes && r.sheet == kind && r.forms == 0 && *r == s.of(kind) {
			return i
		}
	}
	return c.group(s.of(kind))
}

// currencies are those that cells of the column name, in the order of their first.
func (c *column) currencies() (out []money) {
	for i := range c.groups {
		g := &c.groups[i]
		if g.money == "" {
			continue
		}
		k := slices.IndexFunc(out, func(m money) bool { return m.code == g.money })
		if k < 0 {
			out = append(out, money{g.money, 0, g.first[0].row})
			k = len(out) - 1
		}
		out[k].cells += g.cells
		out[k].row = min(out[k].row, g.first[0].row)
	}
	slices.SortFunc(out, func(a, b money) int { return a.row - b.row })
	return out
}

// addAmbiguous counts a number that another style reads too, as another one.
func (c *column) addAmbiguous(text []byte, styles uint32, row int) {
	d, _, _ := value.English.Number(text)
	if bytes.IndexByte(text, '.') >= 0 {
		c.pointed++
	} else {
		c.commaed++
	}
	for i, s := range value.Styles[1:] {
		if styles&(1<<(i+1)) == 0 {
			continue
		}
		if other, _, ok := s.Number(text); ok && other.Cmp(d) != 0 {
			if c.ambiguous[i+1]++; c.ambiguous[i+1] == 1 {
				c.ambigRow[i+1] = row
			}
		}
	}
}

// count adds up the cells of groups.
func (c *column) count(has func(*group) bool) int {
	n := 0
	for i := range c.groups {
		if has(&c.groups[i]) {
			n += c.groups[i].cells
		}
	}
	return n
}

// kind tells what most of the usable cells are, read in a style and a form.
func (c *column) kind(style, form int) (is string, reads func(*group) bool) {
	all := c.count(usable)
	numbers, dates := c.count(inStyle(style)), c.count(inForm(form))
	truths := c.count(func(g *group) bool { return g.truth })
	quarters := func(g *group) bool { return g.parts }
	isDate := func() bool { // figures alone are numbers, unless something says otherwise
		return 2*dates > all && (dates > numbers || dates == numbers && c.ofDates)
	}
	switch {
	case all == 0:
		return "text", usable
	case isDate():
		if c.count(func(g *group) bool { return inForm(form)(g) && g.months }) == dates {
			return "month", inForm(form)
		}
		return "date", inForm(form)
	case 2*numbers > all || c.mixed(numbers):
		if c.count(func(g *group) bool { return inStyle(style)(g) && g.wholes&(1<<style) == 0 }) == 0 {
			return "whole", inStyle(style)
		}
		return "number", inStyle(style)
	case 2*c.count(quarters) > all:
		return "quarter", quarters
	case 2*truths > all:
		return "flag", func(g *group) bool { return g.truth }
	}
	return "text", usable
}

// field is what the column holds, read in a style and a form. It lends room for figures.
func (c *column) field(style, form int, figures *figures) Field {
	f := Field{Header: c.header, Examples: []string{}, Gaps: []Gap{}}
	if f.Header == "" {
		f.Header = c.letter
	}
	var reads func(*group) bool
	f.Is, reads = c.kind(style, form)
	for i := range c.groups {
		g := &c.groups[i]
		kind := g.gap
		switch {
		case g.gap == value.Blank:
			f.Blank += g.cells
		case g.gap == value.Null:
			f.Null += g.cells
		case g.gap == value.Error:
			f.Error += g.cells
		case reads(g):
			f.Filled += g.cells
			continue
		case g.gap == value.Text:
			f.Text += g.cells
		default:
			f.Unclear += g.cells
		}
		for _, s := range g.first {
			f.Gaps = append(f.Gaps, Gap{s.row, kind.String(), s.text})
		}
	}
	sort.SliceStable(f.Gaps, func(i, j int) bool { return f.Gaps[i].Row < f.Gaps[j].Row })
	f.Gaps = f.Gaps[:min(5, len(f.Gaps))]
	c.distinct(&f, reads, style, form, figures)
	if f.Is == "number" || f.Is == "whole" {
		f.Otherwise, f.Doubtful = c.otherwise(style)
	}
	f.Unnamed = c.header == ""
	f.unused = f.Unnamed && f.Filled+f.Null+f.Text+f.Unclear+f.Error == 0
	return f
}

// values are the distinct usable texts as they stand, so many of them, and not too long.
func (c *column) values(style, form, most int) (out []string) {
	_, reads := c.kind(style, form)
	bytes := 64 * most
	for _, code := range c.texts {
		if len(out) == most || bytes <= 0 {
			break
		}
		if reads(&c.groups[c.of[code]]) {
			text := strings.Clone(c.memo.Seen(code)) // the other texts go
			out, bytes = append(out, text), bytes-len(text)
		}
	}
	return out
}

// distinct counts the distinct usable values: texts by the key, others by value.
func (c *column) distinct(f *Field, reads func(*group) bool, style, form int, figures *figures) {
	figures.clear(len(c.texts))
	seen := map[string]bool{}
	add := func(text string) {
		k, isNew := "", false
		switch f.Is {
		case "number", "whole":
			d, _, ok := value.Styles[style].Number([]byte(text))
			if !ok { // a number of a sheet
				d, _, _ = value.English.Number([]byte(text))
			}
			d = d.Shorten()
			if coef, places, ok := d.Small(); ok {
				isNew = figures.add(coef, places)
			} else {
				k = d.String()
			}
		case "date", "month":
			d, ok := value.ReadDate(text)
			if !ok && form >= 0 {
				d, _ = value.DateForms[form].Read(text)
			}
			k = d.String()
		default:
			k = key.Of(text)
		}
		if k != "" && !seen[k] {
			seen[k], isNew = true, true
		}
		if isNew && len(f.Examples) < 5 {
			f.Examples = append(f.Examples, text)
		}
	}
	for _, code := range c.texts {
		if c.more != nil && len(f.Examples) == 5 { // the counter knows their number
			break
		}
		if reads(&c.groups[c.of[code]]) {
			add(c.memo.Seen(code))
		}
	}
	f.Distinct = len(seen) + figures.n
	if c.more != nil {
		n, exact := c.more.count(len(c.groups), func(g int) bool { return reads(&c.groups[g]) })
		f.Distinct, f.Estimated = min(n, f.Filled), !exact
	}
}

func (t *Table) placeOf(row int, c *column) place.Place {
	at := t.Place
	at.Row, at.Header = row, c.header
	if at.Header == "" {
		at.Header = c.letter
	}
	return at
}

// firstOf is the first cell of some groups.
func (c *column) firstOf(has func(*group) bool) (row int, text string) {
	for i := range c.groups {
		if g := &c.groups[i]; has(g) && (row == 0 || g.first[0].row < row) {
			row, text = g.first[0].row, g.first[0].text
		}
	}
	return row, text
}
