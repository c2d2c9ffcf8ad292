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
				if ci := cellColumn(pieces); ci >= 0 && owner(i) < 0 {
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
