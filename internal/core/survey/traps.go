package survey

import (
	"crypto/sha256"
	"fmt"
	"io"
	"path"
	"slices"
	"strings"

	"umbau/internal/core/expression"
	"umbau/internal/core/key"
	"umbau/internal/core/place"
	"umbau/internal/core/table"
	"umbau/internal/core/terms"
	"umbau/internal/core/value"
)

// Traps of a table as a whole, and of tables beside each other.

// mostRepeats is up to which row of a table repeats are looked for: 16 bytes a row.
const mostRepeats = 200_000

// sameRows counts the rows of a table that stand twice, word for word.
type sameRows struct {
	seen  hashes // of rows
	count int
	again int      // the first that repeats one
	first int      // and that one
	next  []hashed // rows that are to be looked for
}

// together is how many rows are looked for at a time, so that what the memory has to bring for one of them
// does not wait for the one before.
const together = 32

// add takes a row of data.
func (s *sameRows) add(rows *table.Rows, i int) {
	if s.seen.n >= mostRepeats {
		return
	}
	hash := uint64(0)
	for _, c := range rows.Row(i) {
		hash = table.Mix(hash + table.Hash(value.Trim(rows.Text(c))))
	}
	if s.next = append(s.next, hashed{hash, rows.Lines[i]}); len(s.next) == together {
		s.look()
	}
}

// look looks for the rows that wait.
func (s *sameRows) look() {
	s.seen.touch(s.next)
	for _, row := range s.next {
		if first, again := s.seen.add(row.hash, row.line); again {
			if s.count++; s.count == 1 {
				s.again, s.first = row.line, first
			}
		}
	}
	s.next = s.next[:0]
}

// hashes are hashes of rows, each with the line of the first one, in a table of open addressing.
type hashes struct {
	slots   []hashed
	n       int
	touched int // see touch
}

type hashed struct {
	hash uint64
	line int // 0 where the slot is free
}

// touch looks at where hashes belong, for the memory to bring it.
func (h *hashes) touch(list []hashed) {
	mask := len(h.slots) - 1
	for _, one := range list {
		if mask > 0 {
			h.touched |= h.slots[int(table.Mix(one.hash)>>8)&mask].line
		}
	}
}

// add adds a hash, if it is not there yet; else it returns its line.
func (h *hashes) add(hash uint64, line int) (first int, again bool) {
	if 2*h.n >= len(h.slots) {
		old := h.slots
		h.slots = make([]hashed, max(64, 2*len(old)))
		for _, s := range old {
			if s.line != 0 {
				*h.place(s.hash) = s
			}
		}
	}
	s := h.place(hash)
	if s.line != 0 {
		return s.line, true
	}
	*s = hashed{hash, line}
	h.n++
	return 0, false
}

// place is the slot of a hash, or the free one where it belongs.
func (h *hashes) place(hash uint64) *hashed {
	mask := len(h.slots) - 1
	for i := int(table.Mix(hash)>>8) & mask; ; i = (i + 1) & mask {
		if s := &h.slots[i]; s.line == 0 || s.hash == hash {
			return s
		}
	}
}

// labelAlone counts rows of data of which a label is the only filled cell.
type labelAlone struct {
	count, first int
	text         string
}

func (l *labelAlone) add(rows *table.Rows, i int) {
	filled := -1
	for j, c := range rows.Row(i) {
		if len(value.Trim(rows.Text(c))) == 0 {
			continue
		}
		if filled >= 0 {
			return
		}
		filled = j
	}
	if filled < 0 || rows.Kind(i, filled) != table.TextCell || len(rows.Row(i)) < 2 {
		return
	}
	text := string(value.Trim(rows.Text(rows.Row(i)[filled])))
	if _, _, number := value.English.Number([]byte(text)); number {
		return
	}
	if l.count++; l.count == 1 {
		l.first, l.text = rows.Lines[i], text
	}
}

// wholeTraps notes what is easily overlooked in a table as a whole.
func (t *Table) wholeTraps() {
	add := func(what string, at place.Place, n int, format string, args ...any) {
		t.traps = append(t.traps, Trap{What: what, Place: at, Count: n, Detail: fmt.Sprintf(format, args...)})
	}
	t.same.look()
	if s := &t.same; s.count > 0 {
		at := t.Place
		at.Row = s.again
		add("same rows", at, s.count, "row %d is row %d once more: exported twice? same_rows: drop leaves such rows out", s.again, s.first)
	}
	if a := &t.alone; a.count > 0 && 3*a.count <= t.Rows {
		at := t.Place
		at.Row = a.first
		add("label alone", at, a.count, "%q is all that its row has: does it head the rows below (sections), or is it one without figures?",
			place.Shorten(a.text))
	}
	if n, first := t.Facts.HiddenRows.Behind(t.HeaderRow); n > 0 {
		at := t.Place
		at.Row = first
		add("hidden rows", at, n, "the sheet hides rows, by a filter or by hand; they are read like others")
	}
	first := map[string]int{} // by the key of a header: its column
	for i, c := range t.columns {
		f := &t.Fields[i]
		at := t.placeOf(t.HeaderRow, c)
		k := key.Of(c.header)
		if before, twice := first[k]; twice && k != "" {
			add("header twice", at, 1, "columns %s and %s have it: a plan cannot tell them apart", t.columns[before].letter, c.letter)
		} else {
			first[k] = i
		}
		if f.Filled > 0 && t.Facts.HiddenColumns.Has(i+1) {
			add("hidden column", at, 1, "the sheet hides the column; it is read like others")
		}
		switch {
		case slices.Contains(t.TotalColumns, f.Header) && f.Filled == 0 && t.Rows > 0:
			add("total without values", at, t.Rows, "a total column in which nothing stands: formulas without a stored value?")
		case c.header == "" && f.Filled > 0 && i > 0 && t.columns[i-1].header != "":
			add("merged header", at, f.Filled, "cells stand below no header, right of %q: a merged one?", place.Shorten(t.columns[i-1].header))
		case f.Is == "text" && t.measuresInRows(c, f):
			add("measures in rows", at, f.Filled, "the rows say which measure their figures are (%s): widen makes columns of them",
				strings.Join(f.Examples[:min(3, len(f.Examples))], ", "))
		}
	}
	t.yearTrap(add)
}

// measuresInRows reports whether all texts of a column are names of measures, two to eight,
// beside a single column of numbers, or months across alone.
func (t *Table) measuresInRows(c *column, f *Field) bool {
	if f.Distinct < 2 || f.Distinct > 8 || c.more != nil || f.Text+f.Unclear > 0 {
		return false
	}
	for _, code := range c.texts {
		if text := c.memo.Seen(code); !measureNames[key.Of(text)] {
			return false
		}
	}
	numbers, wide := 0, 0
	for _, o := range t.Fields {
		switch {
		case o.Is != "number" && o.Is != "whole", slices.Contains(t.TotalColumns, o.Header), slices.Contains(t.SumColumns, o.Header):
		case o.Wide && (terms.IsMonth(o.Header) || terms.IsQuarter(o.Header)):
			wide++
		default:
			numbers++
		}
	}
	return numbers+min(wide, 1) == 1
}

var yearInName = expression.Of(`(?:^|[^0-9])((?:19|20)[0-9][0-9])(?:[^0-9]|$)`)

// yearTrap looks whether the year in a file's or sheet's name is that of its dates.
func (t *Table) yearTrap(add func(what string, at place.Place, n int, format string, args ...any)) {
	m := yearInName().FindStringSubmatch(t.Place.Sheet)
	if m == nil {
		m = yearInName().FindStringSubmatch(path.Base(t.Place.File))
	}
	if m == nil {
		return
	}
	for i, c := range t.columns {
		f := &t.Fields[i]
		if f.Is != "date" && f.Is != "month" && f.Is != "quarter" || c.more != nil || f.Filled == 0 {
			continue
		}
		years := map[string]bool{}
		for _, code := range c.texts {
			reading := value.Default
			if t.form >= 0 {
				reading.Dates = []value.DateForm{value.DateForms[t.form]}
			}
			if y, ok := reading.Year(value.TrimText(c.memo.Seen(code))); ok {
				years[y] = true
			}
		}
		if len(years) > 0 && !years[m[1]] {
			var list []string
			for y := range years {
				list = append(list, y)
			}
			slices.Sort(list)
			add("year of the file", t.placeOf(t.HeaderRow, c), f.Filled, "the name says %s, the dates %s", m[1],
				strings.Join(list[:min(3, len(list))], ", "))
		}
	}
}

// fileTraps notes files that are copies of others, byte for byte once unpacked.
func (r *Report) fileTraps(tasks []*task) {
	type unit struct{ t *task }
	bySize := map[int64][]unit{}
	var sizes []int64
	seen := map[string]bool{}
	for _, t := range tasks {
		if t.result == nil || t.result.Rows == 0 || t.table.Content == nil || t.table.Bytes < 0 || seen[t.at.File] {
			continue
		}
		seen[t.at.File] = true
		if bySize[t.table.Bytes] == nil {
			sizes = append(sizes, t.table.Bytes)
		}
		bySize[t.table.Bytes] = append(bySize[t.table.Bytes], unit{t})
	}
	for _, size := range sizes {
		if len(bySize[size]) < 2 {
			continue
		}
		first := map[[sha256.Size]byte]string{}
		for _, u := range bySize[size] {
			in, err := u.t.table.Content()
			if err != nil {
				continue // which was told when it was read
			}
			h := sha256.New()
			_, err = io.Copy(h, in)
			in.Close()
			if err != nil {
				continue
			}
			sum := [sha256.Size]byte(h.Sum(nil))
			if before, again := first[sum]; again {
				r.Traps = append(r.Traps, Trap{What: "same file", Place: place.Place{File: u.t.at.File}, Count: u.t.result.Rows,
					Detail: "the same as " + before + ": its rows would count twice"})
				continue
			}
			first[sum] = u.t.at.File
		}
	}
}

// headerTraps notes labels that only some tables have, where all the others have one that
// none of these has: they may be one.
func (r *Report) headerTraps() {
	if len(r.Tables) < 2 {
		return
	}
	kinds, where := r.whereHeaders()
	sets := make([]uint64, len(r.Headers)) // of tables, as a sum: that of the others is what is left of all
	all := uint64(0)
	for i := range r.Tables {
		all += table.Mix(uint64(i + 1))
	}
	same := map[kindIn][]int{}
	for n := range r.Headers {
		for _, i := range where[n] {
			sets[n] += table.Mix(uint64(i + 1))
		}
		of := kindIn{kinds[n], sets[n]}
		same[of] = append(same[of], n)
	}
	byText := func(a, b int) int { return strings.Compare(r.Headers[a].Text, r.Headers[b].Text) }
	for _, list := range same {
		slices.SortFunc(list, byText)
	}
	for n, h := range r.Headers {
		if len(h.MissingIn) == 0 || kinds[n] == "" || 2*h.Tables > len(r.Tables) {
			continue
		}
		others := same[kindIn{kinds[n], all - sets[n]}]
		if 2*h.Tables == len(r.Tables) { // told once, of the first of two
			first, _ := slices.BinarySearchFunc(others, n, byText)
			others = others[first:]
		}
		if len(others) != 1 || !disjoint(where[n], where[others[0]]) {
			continue
		}
		t := r.Tables[where[n][0]]
		at := t.Place
		at.Row, at.Header = t.HeaderRow, h.Text
		r.Traps = append(r.Traps, Trap{What: "headers apart", Place: at, Count: h.Tables, Detail: fmt.Sprintf(
			"%d of %d tables have it, all the others have %q instead: one column?", h.Tables, len(r.Tables), r.Headers[others[0]].Text)})
	}
}

// whereHeaders is what all fields of each header hold, "" for different things, and the tables that have it.
func (r *Report) whereHeaders() (kinds []string, where [][]int32) {
	number := make(map[string]int, len(r.Headers)) // of a header, by its key
	for i := range r.Headers {
		number[key.Of(r.Headers[i].Text)] = i
	}
	kinds = make([]string, len(r.Headers))
	where = make([][]int32, len(r.Headers))
	for i, t := range r.Tables {
		for _, f := range t.Fields {
			n := number[key.Of(f.Header)]
			if where[n] == nil {
				kinds[n] = f.Is
			}
			if last := len(where[n]) - 1; last < 0 || where[n][last] != int32(i) {
				where[n] = append(where[n], int32(i))
			}
			if f.Wide || kinds[n] != f.Is || t.Columns < 2 { // a note alone is no table to compare
				kinds[n] = ""
			}
		}
	}
	return kinds, where
}

// kindIn is what all fields of a header hold, and the set of tables that have it.
type kindIn struct {
	kind string
	set  uint64
}

// disjoint reports whether two lists in order have nothing in common.
func disjoint(a, b []int32) bool {
	for len(a) > 0 && len(b) > 0 {
		switch {
		case a[0] == b[0]:
			return false
		case a[0] < b[0]:
			a = a[1:]
		default:
			b = b[1:]
		}
	}
	return true
}
