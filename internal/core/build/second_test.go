package build_test

import (
	"fmt"
	"math/big"
	"path"
	"slices"
	"sort"
	"strconv"
	"strings"

	"umbau/internal/core/formula"
	"umbau/internal/core/key"
	"umbau/internal/core/names"
	"umbau/internal/core/plan"
	"umbau/internal/core/table"
	"umbau/internal/core/value"
)

// The second reading: a plan carried out row by row, with lists and rational numbers, in
// the order in which the manual tells it. It shares with the build what one number, date,
// key, pattern, book and formula is, and nothing of how rows are found, sorted, turned,
// decided, compared and counted. It is slow, and as plain as it can be.

// sheet is a table as a person sees it: all of its rows, blank ones too.
type sheet struct {
	file, name string // name of a sheet, "" of a text file
	rows       [][]cell
}

type cell struct {
	text string
	kind table.CellKind
}

func (c cell) trimmed() string { return value.TrimText(c.text) }
func (c cell) filled() bool    { return c.trimmed() != "" || c.kind == table.FormulaCell }

// val is the value of a column in one fact row or more: units share it.
type val struct {
	gap     value.Gap
	raw     string // as it stands, trimmed
	text    string // of a text: as delivered
	num     *value.Decimal
	read    *value.Decimal // of a number: as its cell was read
	line    int            // of its cell, 0 for none
	header  string
	cells   bool // it comes from cells
	absent  bool
	open    bool // nobody has decided it
	first   bool // a name that its first spelling decides
	unknown bool
	how     names.How
	name    bool
	kind    string // of the change
	facts   []*fact
	fixed   bool   // corrected
	was     string // before that
}

type fact struct {
	line   int
	slot   string // header of its wide cell
	vals   []*val
	fate   string // "" for delivered
	column int
	reason string
	row    []cell
	x      *reading
	moved  bool   // a rule stops it
	over   []*val // of a row that stands for others: what it has in the fact table
}

// final are the values as they are delivered.
func (f *fact) final() []*val {
	if f.over != nil {
		return f.over
	}
	return f.vals
}

// reading is one extract under its entry.
type reading struct {
	e       *plan.Entry
	s       *sheet
	header  []string
	at      int // index of the header row
	source  []source
	slots   []slot
	totals  []slot
	dropped []int
	measure map[int]int // column of the sheet → measure
	facts   []*fact
	vals    []*val // in order, each once
	count   map[string]int
	read    map[int]*big.Rat
	figure  int // of widen: the column that names, and
	cell    int // that which has the cell
}

type source struct {
	from  string // "", constant, label, piece, cell, section, made
	text  string
	index int
}

type slot struct {
	header string
	pieces map[string]string
	cells  map[int]int // column of the plan → column of the sheet
}

type second struct {
	p        *plan.Plan
	books    []*names.Book
	problems map[string]int
	readings []*reading
	currency []string
	firsts   []map[string]string
	checks   []string
	leftOut  []string
	changes  []string
	machine  *formula.Machine
	fixes    map[string][2]string // file, sheet, row, header → was, value
	used     map[string]bool
}

func newSecond(p *plan.Plan, books []*names.Book) *second {
	s := &second{p: p, books: books, problems: map[string]int{}, machine: formula.NewMachine(p.Calendar), fixes: map[string][2]string{}, used: map[string]bool{}}
	for _, c := range p.Columns {
		s.currency, s.firsts = append(s.currency, c.Currency), append(s.firsts, map[string]string{})
	}
	return s
}

func (s *second) stop(what, column string, n int) { s.problems[what+"|"+column] += n }

func (s *second) known(label string) bool {
	return slices.ContainsFunc(s.books, func(b *names.Book) bool {
		if b == nil {
			return false
		}
		_, _, ok := b.Find(label)
		return ok
	})
}

// extract reads one table.
func (s *second) extract(e *plan.Entry, t *sheet, fields map[string]string) {
	r := &reading{e: e, s: t, measure: map[int]int{}, count: map[string]int{}, read: map[int]*big.Rat{}, figure: -1, cell: -1}
	s.readings = append(s.readings, r)
	if !s.findHeader(r) || !s.lineUp(r, fields) {
		return
	}
	s.correct(r)
	used, headings := s.sortRows(r)
	if e.Widen != nil {
		s.widen(r, used, headings)
	} else {
		used = s.tie(r, used)
		s.take(r, used, headings)
	}
}

// findHeader takes the row that holds most of the headers that columns can claim.
func (s *second) findHeader(r *reading) bool {
	if len(r.s.rows) == 0 {
		s.stop("empty file", "", 1)
		return false
	}
	claims := func(i int) (n int) {
		for ci, c := range s.p.Columns {
			u := r.e.Unpivot
			if c.Made() || u != nil && (u.Cell == c.Name || u.Header.Has(c.Name) || u.Cells != nil && c.Measure()) || r.e.Set[c.Name] != "" || r.e.Path != nil && r.e.Path.Has(c.Name) || r.e.Sections == c.Name {
				continue
			}
			if slices.ContainsFunc(r.s.rows[i], func(x cell) bool { k := key.Of(x.trimmed()); return k != "" && slices.Contains(s.keys(r, ci), k) }) {
				n++
			}
		}
		return n
	}
	most := 0
	r.at = -1
	for i := range r.s.rows {
		if n := claims(i); n > most {
			r.at, most = i, n
		}
	}
	for least := 2; least > 0 && r.at < 0; least-- {
		r.at = slices.IndexFunc(r.s.rows, func(row []cell) bool { return filled(row) >= least })
	}
	if r.at < 0 {
		s.stop("empty file", "", 1)
		return false
	}
	for _, c := range r.s.rows[r.at] {
		r.header = append(r.header, c.trimmed())
	}
	for len(r.header) > 0 && r.header[len(r.header)-1] == "" {
		r.header = r.header[:len(r.header)-1]
	}
	return true
}

func filled(row []cell) (n int) {
	for _, c := range row {
		if c.filled() {
			n++
		}
	}
	return n
}

// own are the headers by which a column claims one, and keys those and its name.
func (s *second) own(r *reading, ci int) (out []string) {
	c := s.p.Columns[ci]
	for _, h := range slices.Concat(c.Headers, r.e.Headers[c.Name]) {
		out = append(out, key.Of(h))
	}
	return out
}

func (s *second) keys(r *reading, ci int) []string {
	return append([]string{key.Of(s.p.Columns[ci].Name)}, s.own(r, ci)...)
}

// lineUp finds where each column comes from. It reports whether all headers fit.
func (s *second) lineUp(r *reading, fields map[string]string) bool {
	e, u, ok := r.e, r.e.Unpivot, true
	stop := func(what, column string) { s.stop(what, column, 1); ok = false }
	claimed := map[int]bool{}
	owner := func(i int) int {
		return slices.IndexFunc(s.p.Columns, func(c *plan.Column) bool {
			return slices.Contains(s.own(r, slices.Index(s.p.Columns, c)), key.Of(r.header[i]))
		})
	}
	cellColumn := func(pieces map[string]string) int {
		if u.Cells == nil {
			return slices.IndexFunc(s.p.Columns, func(c *plan.Column) bool { return c.Name == u.Cell })
		}
		k := key.Of(u.Cells.Write(func(name string) string { return pieces[name] }))
		return slices.IndexFunc(s.p.Columns, func(c *plan.Column) bool { return slices.Contains(s.keys(r, slices.Index(s.p.Columns, c)), k) })
	}
	toCells := map[int]bool{}
	if u != nil && u.Cells == nil {
		toCells[cellColumn(nil)] = true
	} else if u != nil {
		for i, h := range r.header {
			if pieces, fits := u.Header.Fit(h); fits {
				if ci := cellColumn(pieces); ci >= 0 && (owner(i) < 0 || owner(i) == ci) {
					toCells[ci] = true
				}
			}
		}
	}
	if w := e.Widen; w != nil {
		r.figure = slices.IndexFunc(r.header, func(h string) bool { return key.Same(h, w.Header) })
		r.cell = slices.IndexFunc(r.header, func(h string) bool { return key.Same(h, w.Cell) })
		claimed[r.figure], claimed[r.cell] = true, true
		if r.figure < 0 || r.cell < 0 {
			stop("missing header", "")
		}
	}
	var missing []int
	for ci, c := range s.p.Columns {
		index := -1
		for i, h := range r.header {
			k := key.Of(h)
			if k == "" || claimed[i] && e.Widen != nil && (i == r.figure || i == r.cell) || toCells[ci] {
				continue
			}
			if o := owner(i); slices.Contains(s.own(r, ci), k) || k == key.Of(c.Name) && o < 0 {
				index = i
				break
			}
		}
		text, constant := fields[c.Name]
		piece := u != nil && u.Header.Has(c.Name)
		switch {
		case c.Value != nil:
			r.source = append(r.source, source{from: "constant", text: *c.Value})
		case c.Made():
			r.source = append(r.source, source{from: "made"})
		case constant:
			r.source = append(r.source, source{from: "constant", text: text})
		case piece:
			r.source = append(r.source, source{from: "piece"})
		case toCells[ci]:
			r.source = append(r.source, source{from: "cell"})
		case e.Sections == c.Name:
			r.source = append(r.source, source{from: "section"})
		case index >= 0:
			claimed[index] = true
			r.source = append(r.source, source{from: "label", index: index})
		case e.Widen != nil && !(e.Path != nil && e.Path.Has(c.Name)):
			r.source = append(r.source, source{from: "figure"})
		default:
			r.source = append(r.source, source{})
			if !(e.Path != nil && e.Path.Has(c.Name)) {
				missing = append(missing, ci)
			}
		}
	}
	shared := map[string]int{}
	for i, h := range r.header {
		free := !claimed[i] && h != "" && !e.LeftAside(h) && owner(i) < 0
		if u != nil && u.Cells != nil && owner(i) >= 0 && toCells[owner(i)] {
			free = !claimed[i] && h != "" && !e.LeftAside(h)
		}
		if u == nil || !free {
			if !claimed[i] && e.Widen == nil || !claimed[i] {
				r.dropped = append(r.dropped, i)
			}
			continue
		}
		pieces, fits := u.Header.Fit(h)
		total := e.Totals != plan.Keep && e.Labels.Alone(h)
		for _, p := range pieces {
			total = total || e.Totals != plan.Keep && e.Labels.Alone(p)
		}
		switch {
		case total:
			r.totals = append(r.totals, slot{header: h, pieces: pieces, cells: map[int]int{0: i}})
		case s.wordy(r, i):
			r.dropped = append(r.dropped, i)
		case !fits || cellColumn(pieces) < 0:
			stop("header does not fit", "")
		default:
			ci := cellColumn(pieces)
			var k []string
			for name, text := range pieces {
				if u.Cells == nil || !u.Cells.Has(name) {
					k = append(k, name+"="+key.Of(text))
				}
			}
			sort.Strings(k)
			group := strings.Join(k, "|")
			if len(toCells) < 2 {
				group = strconv.Itoa(i)
			}
			n, known := shared[group]
			if !known {
				n = len(r.slots)
				shared[group] = n
				r.slots = append(r.slots, slot{h, pieces, map[int]int{}})
			}
			if _, twice := r.slots[n].cells[ci]; twice {
				stop("header twice", "")
			}
			r.slots[n].cells[ci] = i
		}
	}
	for _, i := range r.dropped {
		if e.Others != plan.Drop && !e.LeftAside(r.header[i]) && r.header[i] != "" {
			stop("unexpected header", "")
		}
	}
	for _, ci := range missing {
		if e.AbsentOf(s.p.Columns[ci].Name) != plan.Leave {
			stop("missing header", s.p.Columns[ci].Name)
		}
	}
	if u == nil {
		r.slots = []slot{{cells: map[int]int{}}}
	}
	for ci, c := range s.p.Columns {
		from := ci
		for s.p.Columns[from].From != "" && c.Kind.Numeric() {
			from = slices.IndexFunc(s.p.Columns, func(o *plan.Column) bool { return o.Name == s.p.Columns[from].From })
		}
		if !c.Measure() || from != ci && s.p.Columns[from].Kind != plan.Text {
			continue
		}
		switch r.source[from].from {
		case "label":
			if u != nil {
				stop("number beside wide columns", c.Name)
			}
			r.measure[r.source[from].index] = ci
		case "cell":
			for _, sl := range r.slots {
				if i, there := sl.cells[from]; there {
					r.measure[i] = ci
				}
			}
		case "figure":
			r.measure[r.cell] = ci
		}
		r.read[ci] = new(big.Rat)
		if f := r.source[from].from; f == "" || f == "constant" || f == "made" {
			delete(r.read, ci)
		}
	}
	return ok
}

// wordy reports whether words stand below a wide header, and nothing with a digit in it.
func (s *second) wordy(r *reading, i int) bool {
	words := false
	for _, row := range r.s.rows[r.at+1:] {
		if i >= len(row) || !row[i].filled() {
			continue
		}
		if _, _, ok := r.e.Reading.Number([]byte(row[i].text)); ok || row[i].kind == table.NumberCell || row[i].kind == table.FormulaCell {
			return false
		}
		switch value.GapOf(row[i].trimmed()) {
		case value.Unclear:
			return false
		case value.Text:
			words = true
		}
	}
	return words && len(r.e.Unpivot.Columns) == 0
}

// number reads a cell as a number.
func (r *reading) number(c cell) (value.Decimal, string, bool) {
	reading := r.e.Reading
	if c.kind == table.NumberCell {
		reading = value.Default
	}
	return reading.Number([]byte(c.text))
}

func (r *reading) isMeasure(row []cell) bool {
	for i, c := range row {
		if _, is := r.measure[i]; !is || !c.filled() {
			continue
		}
		if _, _, ok := r.number(c); ok || c.kind == table.FormulaCell {
			return true
		}
		if g := value.GapOf(c.trimmed()); g == value.Unclear || g == value.Error {
			return true
		}
	}
	return false
}

// correct puts answers in the place of cells.
func (s *second) correct(r *reading) {
	for i := r.at + 1; i < len(r.s.rows); i++ {
		for n := len(r.s.rows[i]); n > 0 && n < len(r.header) && (r.s.name != "" || r.e.FillShort); n++ {
			r.s.rows[i] = append(r.s.rows[i], cell{})
		}
		for j := range r.s.rows[i] {
			if j >= len(r.header) {
				continue
			}
			k := fmt.Sprintf("%s|%s|%d|%s", r.s.file, r.s.name, i+1, key.Of(r.header[j]))
			if fix, is := s.fixes[k]; is {
				s.used[k] = true
				if r.s.rows[i][j].trimmed() != value.TrimText(fix[0]) {
					s.stop("correction", "", 1)
					continue
				}
				r.s.rows[i][j] = cell{text: fix[1]}
			}
		}
	}
}

// labels are the texts of a row that are no number and no date.
func (r *reading) labels(row []cell) (out []string) {
	for j, c := range row {
		text := c.trimmed()
		if text == "" || j == r.figure || c.kind == table.NumberCell || c.kind == table.DateCell {
			continue
		}
		if _, among := r.e.Labels.Says(text); among || r.e.Reading.IsLabel(text) {
			out = append(out, text)
		}
	}
	return out
}

// totalLabel is the label by which a row is a total row, "" for none.
func (s *second) totalLabel(r *reading, row []cell) string {
	if r.e.Totals == plan.Keep {
		return ""
	}
	labels := r.labels(row)
	for _, l := range labels {
		if r.e.Labels.Alone(l) {
			return l
		}
	}
	for _, l := range labels {
		if _, among := r.e.Labels.Says(l); !among {
			continue
		}
		if s.known(l) {
			return ""
		}
		for _, o := range labels {
			for _, w := range strings.Fields(key.Of(o)) {
				if o != l && !slices.Contains(strings.Fields(key.Of(l)), w) {
					return ""
				}
			}
		}
		return l
	}
	return ""
}

func (r *reading) out(s *second, i int, reason string) {
	r.count[reason]++
	s.leftOut = append(s.leftOut, fmt.Sprintf("%s,%s,%d,,%s", r.s.file, r.s.name, i+1, reason))
}

// usedRow is a row that is used, or a total row among them.
type usedRow struct {
	i     int
	total string // its label
}

// sortRows tells blank rows, sections, footnotes, repeated headers, total rows, rows that
// are too short and rows that stand again from those that are used.
func (s *second) sortRows(r *reading) (used []usedRow, headings map[int]string) {
	headings = map[int]string{}
	deepest, sections := -1, ""
	for i := r.at + 1; i < len(r.s.rows); i++ {
		if r.isMeasure(r.s.rows[i]) {
			deepest = i
		}
	}
	seen := map[string]bool{}
	above := map[string]bool{} // column and key of labels
	for i := r.at + 1; i < len(r.s.rows); i++ {
		row := r.s.rows[i]
		r.count["read"]++
		one := ""
		column := -1
		for j, c := range row {
			if c.filled() {
				one, column = c.trimmed(), j
			}
		}
		switch n := filled(row); {
		case n == 0:
			r.out(s, i, "blank")
			continue
		case n == 1 && len(r.measure) > 0 && r.e.Sections != "" && i < deepest && r.e.Reading.IsLabel(one) && !r.isMeasure(row):
			r.out(s, i, "section")
			sections = one
			continue
		case n == 1 && len(r.measure) > 0 && i > deepest && r.e.Footnotes != plan.Keep && !above[fmt.Sprint(column, key.Of(one))] && !s.inBook(r, column, one):
			r.out(s, i, "footnote")
			continue
		}
		same := len(row) >= len(r.header)
		for j, c := range row {
			h := ""
			if j < len(r.header) {
				h = r.header[j]
			}
			same = same && key.Of(c.trimmed()) == key.Of(h)
		}
		if same {
			r.out(s, i, "repeated header")
			continue
		}
		if label := s.totalLabel(r, row); label != "" {
			r.out(s, i, "total")
			used = append(used, usedRow{i, label})
			continue
		}
		for j := len(row); j < len(r.header) && (r.s.name != "" || r.e.FillShort); j++ {
			row = append(row, cell{})
		}
		r.s.rows[i] = row
		if len(row) < len(r.header) {
			s.stop("short row", "", 1)
			continue
		}
		if slices.ContainsFunc(row[len(r.header):], cell.filled) {
			s.stop("cell without a header", "", 1)
			continue
		}
		var k []string
		for _, c := range row {
			k = append(k, c.trimmed())
		}
		all := strings.TrimRight(strings.Join(k, "\x00"), "\x00")
		if r.e.SameRows == plan.Drop && seen[all] {
			r.out(s, i, "same row")
			continue
		}
		seen[all] = true
		r.count["used"]++
		for ci, src := range r.source {
			if src.from == "label" && !s.p.Columns[ci].Kind.Numeric() && row[src.index].trimmed() != "" {
				above[fmt.Sprint(src.index, key.Of(row[src.index].trimmed()))] = true
			}
		}
		headings[i] = sections
		used = append(used, usedRow{i: i})
	}
	return used, headings
}

// inBook reports whether the book of the column that claims a cell has a label.
func (s *second) inBook(r *reading, column int, label string) bool {
	for ci, src := range r.source {
		if src.from == "label" && src.index == column && s.books[ci] != nil {
			if _, _, ok := s.books[ci].Find(label); ok {
				return true
			}
		}
	}
	return false
}

func rational(d value.Decimal) *big.Rat {
	n, _ := new(big.Rat).SetString(d.String())
	return n
}

// tie compares totals with the rows that they total, and looks for totals that nobody
// calls one. It returns the rows that are used.
func (s *second) tie(r *reading, rows []usedRow) (used []usedRow) {
	for _, u := range rows {
		if u.total == "" {
			used = append(used, u)
		}
	}
	if r.e.Totals == plan.Keep || len(r.measure) == 0 {
		return used
	}
	// Currencies are settled where rows are taken; here as they will be.
	own := slices.Clone(s.currency)
	figures := func(row []cell) map[int]*big.Rat {
		out := map[int]*big.Rat{}
		for j, ci := range r.measure {
			if j >= len(row) {
				continue
			}
			d, currency, ok := s.readMeasure(r, ci, row[j])
			if ok && own[ci] == "" && currency != "" {
				own[ci] = currency
			}
			if ok && (currency == "" || currency == own[ci]) {
				out[j] = rational(d)
			}
		}
		return out
	}
	type mark struct {
		n    int // rows before
		sums map[int]*big.Rat
	}
	sums, n := map[int]*big.Rat{}, 0
	for j := range r.measure {
		sums[j] = new(big.Rat)
	}
	copied := func() map[int]*big.Rat {
		out := map[int]*big.Rat{}
		for j := range sums {
			out[j] = new(big.Rat).Set(sums[j])
		}
		return out
	}
	marks := []mark{{0, copied()}}
	last := usedRow{}
	for _, u := range rows {
		row := r.s.rows[u.i]
		if u.total == "" {
			f := figures(row)
			s.uncalled(r, row, f, sums, n, func(visit func(n int, sums map[int]*big.Rat) bool) {
				for _, m := range marks {
					if visit(m.n, m.sums) {
						return
					}
				}
			})
			for j := range f {
				sums[j].Add(sums[j], f[j])
			}
			n++
			last = u
			s.totalColumns(r, u, row, false, own, nil, nil)
			continue
		}
		if r.e.Totals == plan.Tie {
			said, bad := map[int]*big.Rat{}, false
			for j, ci := range r.measure {
				if j >= len(row) || row[j].trimmed() == "" || row[j].trimmed() == u.total {
					continue
				}
				d, currency, ok := r.number(row[j])
				if !ok || currency != "" && own[ci] != "" && currency != own[ci] {
					s.stop("total", s.p.Columns[ci].Name, 1)
					bad = true
					continue
				}
				said[j] = rational(d)
			}
			_ = bad
			best, most, near := -1, -1, new(big.Rat)
			for m := len(marks) - 1; m >= 0; m-- {
				if marks[m].n == n && n > 0 {
					continue
				}
				agree, away := 0, new(big.Rat)
				for j, want := range said {
					d := new(big.Rat).Sub(sums[j], marks[m].sums[j])
					if d.Sub(d, want); d.Sign() == 0 {
						agree++
					}
					away.Add(away, d.Abs(d))
				}
				if agree > most || agree == most && away.Cmp(near) < 0 {
					best, most, near = m, agree, away
				}
			}
			for j, want := range said {
				s.check("total row", r, u.i, j, r.measure[j], want, new(big.Rat).Sub(sums[j], marks[best].sums[j]))
			}
			var bases []map[int]*big.Rat
			for _, m := range marks {
				bases = append(bases, m.sums)
			}
			s.totalColumns(r, u, row, true, own, sums, bases)
			if len(said) > 0 && most == len(said) && n-marks[best].n == 1 && !r.e.Labels.Alone(u.total) && !s.shares(r, u.total, r.s.rows[last.i]) {
				s.stop("total or none", "", 1)
			}
		}
		if marks[len(marks)-1].n < n {
			marks = append(marks, mark{n, copied()})
		}
	}
	s.uncalledColumns(r, used)
	return used
}

// readMeasure reads a cell of a measure, or the piece of it that the measure keeps.
func (s *second) readMeasure(r *reading, ci int, c cell) (value.Decimal, string, bool) {
	d, currency, ok := r.number(c)
	if words := s.p.Columns[ci].Words; words.TextGap(c.trimmed()) == value.Null {
		ok = false
	}
	if s.p.Columns[ci].Kind == plan.Whole && d.Shorten().Places() > 0 {
		ok = false
	}
	return d.Shorten(), currency, ok
}

func (s *second) shares(r *reading, label string, row []cell) bool {
	words := strings.Fields(key.Of(strings.Join(r.labels(row), " ")))
	return slices.ContainsFunc(strings.Fields(key.Of(label)), func(w string) bool { return !value.IsTotalWord(w) && slices.Contains(words, w) })
}

func (s *second) uncalled(r *reading, row []cell, f, sums map[int]*big.Rat, n int, marks func(func(int, map[int]*big.Rat) bool)) {
	if r.e.Control {
		return
	}
	marks(func(before int, base map[int]*big.Rat) bool {
		if n-before < 2 {
			return false
		}
		figures, long := 0, false
		for j := range r.measure {
			own := f[j]
			if own == nil {
				own = new(big.Rat)
			}
			if new(big.Rat).Sub(sums[j], base[j]).Cmp(own) != 0 {
				return false
			}
			if own.Sign() != 0 {
				figures++
				digits := strings.TrimLeft(strings.ReplaceAll(strings.TrimPrefix(exact(own), "-"), ".", ""), "0")
				long = long || len(digits) >= 6
			}
		}
		says := slices.ContainsFunc(r.labels(row), func(l string) bool { _, among := r.e.Labels.Says(l); return among && !s.known(l) })
		none := slices.ContainsFunc(r.labels(row), r.e.Labels.None)
		if !none && (figures > 1 || long || figures == 1 && says) {
			s.stop("total or none", "", 1)
			return true
		}
		return false
	})
}

// exact writes a rational number that ends as a decimal one.
func exact(n *big.Rat) string {
	for places := 0; places < 60; places++ {
		if text := n.FloatString(places); func() bool { b, _ := new(big.Rat).SetString(text); return b.Cmp(n) == 0 }() {
			return text
		}
	}
	return n.FloatString(60)
}

func (s *second) check(kind string, r *reading, i, j, ci int, said, have *big.Rat) {
	d := new(big.Rat).Sub(said, have)
	s.checks = append(s.checks, fmt.Sprintf("%s,%s,%s,%d,%s,,%s,%s,%s,%s", kind, r.s.file, r.s.name, i+1, table.Quoted(r.header[j]), s.p.Columns[ci].Name, exact(said), exact(have), exact(d)))
	if d.Sign() != 0 {
		s.stop("total", s.p.Columns[ci].Name, 1)
	}
}

// totalColumns compares the total columns of a row with its wide cells.
func (s *second) totalColumns(r *reading, u usedRow, row []cell, total bool, own []string, sums map[int]*big.Rat, bases []map[int]*big.Rat) {
	if r.e.Totals != plan.Tie {
		return
	}
	for _, t := range r.totals {
		j := t.cells[0]
		ci, named := s.totalled(r, t)
		if j >= len(row) || row[j].trimmed() == "" || ci < 0 || total && row[j].trimmed() == u.total {
			continue
		}
		d, currency, ok := r.number(row[j])
		if !ok || currency != "" && own[ci] != "" && currency != own[ci] {
			s.stop("total", s.p.Columns[ci].Name, 1)
			continue
		}
		have := new(big.Rat)
		any, slots := false, []int{}
		for _, sl := range r.slots {
			same := true
			for name, text := range t.pieces {
				if same = same && (name == named || r.e.Labels.Alone(text) || key.Same(text, sl.pieces[name]) || r.e.Unpivot.Cells != nil && r.e.Unpivot.Cells.Has(name)); !same {
					break
				}
			}
			at, there := sl.cells[ci]
			if !same || !there || at >= len(row) {
				continue
			}
			any = any || row[at].trimmed() != "" && row[at].trimmed() != u.total
			if d, _, ok := r.number(row[at]); ok && total {
				have.Add(have, rational(d))
			} else if d, currency, ok := s.readMeasure(r, ci, row[at]); ok && !total && (currency == "" || currency == own[ci]) {
				have.Add(have, rational(d))
			}
			slots = append(slots, at)
		}
		if total && !any { // compared with the run that comes nearest
			near := -1
			for m := len(bases) - 1; m >= 0; m-- {
				sum := new(big.Rat)
				for _, at := range slots {
					sum.Add(sum, new(big.Rat).Sub(sums[at], bases[m][at]))
				}
				away := func(n *big.Rat) *big.Rat { d := new(big.Rat).Sub(n, rational(d)); return d.Abs(d) }
				if near < 0 || away(sum).Cmp(away(have)) < 0 {
					near, have = m, sum
				}
			}
		}
		s.check("total column", r, u.i, j, ci, rational(d), have)
	}
}

// totalled is the measure of a total column, and the piece that names it.
func (s *second) totalled(r *reading, t slot) (measure int, piece string) {
	found, n := -1, 0
	for ci := range s.p.Columns {
		if r.source[ci].from == "cell" && s.p.Columns[ci].Measure() {
			found, n = ci, n+1
		}
	}
	if n == 1 {
		return found, ""
	}
	for name, text := range t.pieces {
		for ci := range s.p.Columns {
			if r.source[ci].from == "cell" && slices.Contains(s.keys(r, ci), key.Of(text)) {
				return ci, name
			}
		}
	}
	return -1, ""
}

// uncalledColumns looks for a wide column that is the sum of the others in every row.
func (s *second) uncalledColumns(r *reading, used []usedRow) {
	if r.e.Unpivot == nil || len(r.slots) < 3 {
		return
	}
	for ci := range s.p.Columns {
		if r.source[ci].from != "cell" || !s.p.Columns[ci].Measure() {
			continue
		}
		for _, sl := range r.slots {
			own, there := sl.cells[ci]
			none := r.e.Labels.None(sl.header)
			for _, p := range sl.pieces {
				none = none || r.e.Labels.None(p)
			}
			if !there || none {
				continue
			}
			rows, is := 0, true
			for _, u := range used {
				sum := new(big.Rat)
				var mine *big.Rat = new(big.Rat)
				for _, o := range r.slots {
					if at, there := o.cells[ci]; there {
						if d, _, ok := s.readMeasure(r, ci, r.s.rows[u.i][at]); ok {
							if at == own {
								mine = rational(d)
							} else {
								sum.Add(sum, rational(d))
							}
						}
					}
				}
				is = is && mine.Cmp(sum) == 0
				if mine.Sign() != 0 {
					rows++
				}
			}
			if is && rows >= 3 {
				s.stop("total or none", "", 1)
			}
		}
	}
}

// widen makes one row of those that agree in all other cells.
func (s *second) widen(r *reading, rows []usedRow, headings map[int]string) {
	type wide struct {
		row   []cell
		i     int
		cells map[int]cell
		lines map[int]int
	}
	var list []*wide
	index := map[string]*wide{}
	named := map[int]bool{}
	sums := map[int]*big.Rat{}
	type mark struct {
		n    int
		sums map[int]*big.Rat
	}
	n := 0
	marks := []mark{{0, map[int]*big.Rat{}}}
	sum := func(m map[int]*big.Rat, ci int) *big.Rat {
		if m[ci] == nil {
			return new(big.Rat)
		}
		return m[ci]
	}
	find := func(text string) int {
		found := -1
		for ci := range s.p.Columns {
			if r.source[ci].from == "figure" && slices.Contains(s.keys(r, ci), key.Of(text)) {
				found = ci
			}
		}
		if found < 0 && r.e.Others != plan.Drop {
			s.stop("unexpected figure", "", 1)
		}
		return found
	}
	last := usedRow{}
	for _, u := range rows {
		row := r.s.rows[u.i]
		if u.total != "" {
			if r.e.Totals == plan.Tie && len(row) > max(r.cell, r.figure) {
				ci := -1
				if c := row[r.cell].trimmed(); c != "" && c != u.total {
					ci = find(row[r.figure].trimmed())
				}
				if c := row[r.cell]; ci >= 0 && s.p.Columns[ci].Measure() {
					d, currency, ok := r.number(c)
					if !ok || currency != "" && s.currency[ci] != "" && currency != s.currency[ci] {
						s.stop("total", s.p.Columns[ci].Name, 1)
					} else {
						best, most, near := -1, -1, new(big.Rat)
						for m := len(marks) - 1; m >= 0; m-- {
							if marks[m].n == n && n > 0 {
								continue
							}
							d2 := new(big.Rat).Sub(sum(sums, ci), sum(marks[m].sums, ci))
							d2.Sub(d2, rational(d))
							agree := 0
							if d2.Sign() == 0 {
								agree = 1
							}
							if d2.Abs(d2); agree > most || agree == most && d2.Cmp(near) < 0 {
								best, most, near = m, agree, d2
							}
						}
						s.check("total row", r, u.i, r.cell, ci, rational(d), new(big.Rat).Sub(sum(sums, ci), sum(marks[best].sums, ci)))
						if most == 1 && n-marks[best].n == 1 && !r.e.Labels.Alone(u.total) && !s.shares(r, u.total, r.s.rows[last.i]) {
							s.stop("total or none", "", 1)
						}
					}
				}
			}
			if marks[len(marks)-1].n < n {
				c := map[int]*big.Rat{}
				for k, v := range sums {
					c[k] = new(big.Rat).Set(v)
				}
				marks = append(marks, mark{n, c})
			}
			continue
		}
		ci := find(row[r.figure].trimmed())
		if ci < 0 && r.e.Others != plan.Drop {
			continue
		}
		n++
		last = u
		k := []string{headings[u.i]} // rows of two sections are two
		for j := range r.header {
			if j != r.figure && j != r.cell {
				k = append(k, row[j].trimmed())
			}
		}
		w := index[strings.Join(k, "\x00")]
		if w == nil {
			w = &wide{row: slices.Clone(row), i: u.i, cells: map[int]cell{}, lines: map[int]int{}}
			w.row[r.figure], w.row[r.cell] = cell{}, cell{}
			index[strings.Join(k, "\x00")] = w
			list = append(list, w)
		}
		if ci < 0 {
			continue
		}
		named[ci] = true
		if d, _, ok := r.number(row[r.cell]); ok {
			sums[ci] = new(big.Rat).Add(sum(sums, ci), rational(d))
		}
		if _, twice := w.lines[ci]; twice {
			s.stop("figure twice", "", 1)
			continue
		}
		w.cells[ci], w.lines[ci] = row[r.cell], u.i+1
	}
	for ci, c := range s.p.Columns {
		if r.source[ci].from == "figure" && !named[ci] {
			r.source[ci].from = ""
			delete(r.read, ci)
			if r.e.AbsentOf(c.Name) != plan.Leave && r.count["used"] > 0 {
				s.stop("missing header", c.Name, 1)
			}
		}
	}
	last2 := map[string]*val{}
	for _, w := range list {
		s.row(r, w.i, w.row, headings[w.i], last2, func(ci int) (cell, int) {
			line := w.lines[ci]
			if line == 0 {
				line = w.i + 1
			}
			return w.cells[ci], line
		})
	}
}

func (s *second) take(r *reading, used []usedRow, headings map[int]string) {
	last := map[string]*val{}
	for _, u := range used {
		s.row(r, u.i, r.s.rows[u.i], headings[u.i], last, nil)
	}
}

// name of a table, as the account calls it.
func (t *sheet) account() string {
	if t.name != "" {
		return t.file + ", sheet " + t.name
	}
	return path.Clean(t.file)
}
