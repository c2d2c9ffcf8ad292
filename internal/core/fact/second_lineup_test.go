package fact_test

import (
	"math/big"
	"slices"
	"sort"
	"strconv"
	"strings"

	"umbau/internal/core/key"
	"umbau/internal/core/plan"
	"umbau/internal/core/table"
	"umbau/internal/core/value"
)

// findHeader takes the row that holds most of the headers that columns can claim.
func (s *second) findHeader(r *reading) bool {
	if len(r.s.rows) == 0 {
		s.stop("empty file", "", 1)
		return false
	}
	claims := func(i int) (n int) {
		for ci, c := range s.p.Columns {
			u := r.e.Unpivot
			if c.Made() || u != nil && (u.Cell == c.Name || u.Header.Has(c.Name) || u.Cells != nil && c.Measure()) || r.e.Set[c.Name] != "" ||
				r.e.Path != nil && r.e.Path.Has(c.Name) || r.e.Sections == c.Name {
				continue
			}
			if slices.ContainsFunc(r.s.rows[i], func(x cell) bool {
				k := key.Of(x.trimmed())
				return k != "" &&
					slices.Contains(s.keys(r, ci), k)
			}) {
				n++
			}
		}
		if w := r.e.Widen; w != nil {
			for _, h := range []string{w.Header, w.Cell} {
				if h != "" && slices.ContainsFunc(r.s.rows[i], func(x cell) bool { return key.Same(x.trimmed(), h) }) {
					n++
				}
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

// fitting is a header on its way to the columns of the plan.
type fitting struct {
	*second
	r       *reading
	fields  map[string]string
	claimed map[int]bool
	toCells map[int]bool // columns that wide cells go to
	missing []int
	ok      bool
}

func (f *fitting) stop(what, column string) {
	f.second.stop(what, column, 1)
	f.ok = false
}

// lineUp finds where each column comes from. It reports whether all headers fit.
func (s *second) lineUp(r *reading, fields map[string]string) bool {
	f := &fitting{second: s, r: r, fields: fields, claimed: map[int]bool{}, toCells: map[int]bool{}, ok: true}
	f.findCells()
	if w := r.e.Widen; w != nil {
		r.figure = slices.IndexFunc(r.header, func(h string) bool { return key.Same(h, w.Header) })
		r.cell = slices.IndexFunc(r.header, func(h string) bool { return key.Same(h, w.Cell) })
		if f.claimed[r.figure] = true; r.e.Unpivot != nil {
			r.cell = -1
		} else {
			f.claimed[r.cell] = true
		}
		if r.figure < 0 || r.cell < 0 && r.e.Unpivot == nil {
			f.stop("missing header", "")
		}
	}
	for ci := range s.p.Columns {
		r.source = append(r.source, f.sourceOf(ci))
	}
	f.wide()
	for _, i := range r.dropped {
		if r.e.Others != plan.Drop && !r.e.LeftAside(r.header[i]) && r.header[i] != "" {
			f.stop("unexpected header", "")
		}
	}
	for _, ci := range f.missing {
		if r.e.AbsentOf(s.p.Columns[ci].Name) != plan.Leave {
			f.stop("missing header", s.p.Columns[ci].Name)
		}
	}
	if r.e.Unpivot == nil {
		r.slots = []slot{{cells: map[int]int{}}}
	}
	for ci := range s.p.Columns {
		f.measure(ci)
	}
	return f.ok
}

// owner is the column that claims a header by more than its name, -1 for none.
func (f *fitting) owner(i int) int {
	return slices.IndexFunc(f.p.Columns, func(c *plan.Column) bool {
		return slices.Contains(f.own(f.r, slices.Index(f.p.Columns, c)), key.Of(f.r.header[i]))
	})
}

// cellColumn is the column that the cells of a wide header go to.
func (f *fitting) cellColumn(pieces map[string]string) int {
	u := f.r.e.Unpivot
	if u.Cells == nil {
		return f.p.Index(u.Cell)
	}
	k := key.Of(u.Cells.Write(func(name string) string { return pieces[name] }))
	return slices.IndexFunc(f.p.Columns, func(c *plan.Column) bool {
		return slices.Contains(f.keys(f.r, slices.Index(f.p.Columns, c)), k)
	})
}

func (f *fitting) findCells() {
	u := f.r.e.Unpivot
	if u != nil && u.Cells == nil {
		f.toCells[f.cellColumn(nil)] = true
	} else if u != nil {
		for i, h := range f.r.header {
			if pieces, fits := u.Header.Fit(h); fits {
				if ci := f.cellColumn(pieces); ci >= 0 && f.owner(i) < 0 {
					f.toCells[ci] = true
				}
			}
		}
	}
}

// labelOf is the header that a column claims, -1 for none.
func (f *fitting) labelOf(ci int) int {
	for i, h := range f.r.header {
		k := key.Of(h)
		if k == "" || f.claimed[i] && f.r.e.Widen != nil && (i == f.r.figure || i == f.r.cell) || f.toCells[ci] {
			continue
		}
		if slices.Contains(f.own(f.r, ci), k) || k == key.Of(f.p.Columns[ci].Name) && f.owner(i) < 0 {
			return i
		}
	}
	return -1
}

// sourceOf is where a column comes from.
func (f *fitting) sourceOf(ci int) source {
	c, e := f.p.Columns[ci], f.r.e
	index := f.labelOf(ci)
	text, constant := f.fields[c.Name]
	ofPath := e.Path != nil && e.Path.Has(c.Name)
	switch {
	case c.Value != nil:
		return source{from: "constant", text: *c.Value}
	case c.Made():
		return source{from: "made"}
	case constant:
		return source{from: "constant", text: text}
	case e.Unpivot != nil && e.Unpivot.Header.Has(c.Name):
		return source{from: "piece"}
	case f.toCells[ci]:
		return source{from: "cell"}
	case e.Sections == c.Name:
		return source{from: "section"}
	case index >= 0:
		f.claimed[index] = true
		return source{from: "label", index: index}
	case e.Widen != nil && !ofPath:
		return source{from: "figure"}
	case !ofPath:
		f.missing = append(f.missing, ci)
	}
	return source{}
}

// wide makes slots of the wide columns.
func (f *fitting) wide() {
	e, r := f.r.e, f.r
	shared := map[string]int{}
	for i, h := range r.header {
		free := !f.claimed[i] && h != "" && !e.LeftAside(h) && f.owner(i) < 0
		if e.Unpivot == nil || !free {
			if !f.claimed[i] {
				r.dropped = append(r.dropped, i)
			}
			continue
		}
		pieces, fits := e.Unpivot.Header.Fit(h)
		total := e.Totals != plan.Keep && e.Labels.Alone(h)
		for _, p := range pieces {
			total = total || e.Totals != plan.Keep && e.Labels.Alone(p)
		}
		switch {
		case total:
			r.totals = append(r.totals, slot{header: h, pieces: pieces, cells: map[int]int{0: i}})
		case f.wordy(r, i):
			r.dropped = append(r.dropped, i)
		case !fits || f.cellColumn(pieces) < 0 && e.Widen == nil:
			f.stop("header does not fit", "")
		default:
			f.slot(i, pieces, shared)
		}
	}
}

// slot puts a wide column into the slot of those that share its other fields.
func (f *fitting) slot(i int, pieces map[string]string, shared map[string]int) {
	r, u := f.r, f.r.e.Unpivot
	var k []string
	for name, text := range pieces {
		if u.Cells == nil || !u.Cells.Has(name) {
			k = append(k, name+"="+key.Of(text))
		}
	}
	sort.Strings(k)
	group := strings.Join(k, "|")
	if len(f.toCells) < 2 {
		group = strconv.Itoa(i)
	}
	n, known := shared[group]
	if !known {
		n = len(r.slots)
		shared[group] = n
		r.slots = append(r.slots, slot{r.header[i], pieces, map[int]int{}})
	}
	ci := f.cellColumn(pieces)
	if _, twice := r.slots[n].cells[ci]; twice {
		f.stop("header twice", "")
	}
	r.slots[n].cells[ci] = i
}

// measure notes the columns of the sheet that have the amounts of a measure.
func (f *fitting) measure(ci int) {
	c, r, from := f.p.Columns[ci], f.r, ci
	for f.p.Columns[from].From != "" && c.Kind.Numeric() {
		from = f.p.Index(f.p.Columns[from].From)
	}
	if !c.Measure() || from != ci && f.p.Columns[from].Kind != plan.Text {
		return
	}
	switch r.source[from].from {
	case "label":
		if r.e.Unpivot != nil {
			f.stop("number beside wide columns", c.Name)
		}
		r.measure[r.source[from].index] = ci
	case "cell":
		for _, sl := range r.slots {
			if i, there := sl.cells[from]; there {
				r.measure[i] = ci
			}
		}
	case "figure":
		if r.cell >= 0 {
			r.measure[r.cell] = ci
		}
		for _, sl := range r.slots {
			if i, there := sl.cells[across]; there {
				r.measure[i] = ci
			}
		}
	case "", "constant", "made":
		delete(r.read, ci)
		return
	}
	r.read[ci] = new(big.Rat)
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
