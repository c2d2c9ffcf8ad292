// Package since compares a build with the last one that delivered: which extracts, headers and
// names are new or gone, texts of columns that have few, spans of time, what extracts say of
// their figures, what came out of each extract, and which groups that had a figure have
// another one now.
package since

import (
	"bufio"
	"bytes"
	"encoding/csv"
	"errors"
	"fmt"
	"io"
	"slices"
	"strconv"
	"strings"

	"umbau/internal/core/key"
	"umbau/internal/core/table"
	"umbau/internal/core/value"
)

// The kinds of lines, in their order.
const (
	Extract = "extract" // the value is the beginning of its digest
	Header  = "header"  // the header as it stands
	Name    = "name"    // the cells of a standard
	Value   = "value"   // a text of a column that has few
	Span    = "span"    // the first and the last of a column of time, 2024-01-01/2024-12-31 (ISO 8601)
	Says    = "says"    // what an extract says of all its figures, above the table or by its name, or cells of their money
	Rows    = "rows"    // fact rows of an extract
	Amount  = "amount"  // of an extract, in the fact table
	Group   = "group"   // the figure of a group
	by      = "by"      // a column that groups are made by; it is compared with nothing
)

var kinds = []string{Extract, Header, Name, Value, Span, Says, Rows, Amount, Group}

// Line is one thing that a build knows of itself.
type Line struct{ What, File, Sheet, Column, Name, Group, Measure, Value string }

// Headed is the header of an extract; extracts of one layout share the texts.
type Headed struct {
	File, Sheet string
	Texts       []string
}

// Named is a standard of a column, and how many fact rows have it.
type Named struct {
	Column, Name string
	Cells        int
}

// Valued are the texts that the fact table has in a column of text.
type Valued struct {
	Column string
	Texts  []string
}

// Said is what an extract says of all its figures, and the line or the name that says so; without a file, what cells say of
// the money of a measure.
type Said struct{ What, File, Sheet, Text string }

// State is what a build knows of itself, to be compared with the next one.
type State struct {
	By      []string // the columns that groups are made by
	Headers []Headed
	Names   []Named
	Values  []Valued
	Says    []Said // each once, as the first extract says it
	Lines   []Line // all else
}

// Texts shares equal lists of texts.
type Texts map[string][]string

// Of is the list that stands for all that are equal to one.
func (t Texts) Of(list []string) []string {
	k := strings.Join(list, "\x00")
	if t[k] == nil {
		t[k] = list
	}
	return t[k]
}

// stateHeader is the header of a state's file.
var stateHeader = []string{"what", "file", "sheet", "column", "name", "group", "measure", "value"}

// Write writes a state as comma text.
func (s *State) Write(w io.Writer) error {
	out := bufio.NewWriter(w)
	var scratch []byte
	line := func(cells ...string) {
		scratch = table.AppendLine(scratch[:0], cells...)
		out.Write(scratch)
	}
	line(stateHeader...)
	for _, name := range s.By {
		line(by, "", "", name, "", "", "", "")
	}
	for _, h := range s.Headers {
		for _, text := range h.Texts {
			if text != "" {
				line(Header, h.File, h.Sheet, "", "", "", "", text)
			}
		}
	}
	for _, n := range s.Names { // the same, but there may be very many
		scratch = append(table.AppendQuoted(append(scratch[:0], Name+",,,"...), n.Column), ',')
		scratch = append(table.AppendQuoted(scratch, n.Name), ",,,"...)
		out.Write(append(strconv.AppendInt(scratch, int64(n.Cells), 10), '\n'))
	}
	for _, v := range s.Values {
		for _, text := range v.Texts {
			line(Value, "", "", v.Column, "", "", "", text)
		}
	}
	for _, a := range s.Says {
		line(Says, a.File, a.Sheet, "", a.What, "", "", a.Text)
	}
	for _, l := range s.Lines {
		line(l.What, l.File, l.Sheet, l.Column, l.Name, l.Group, l.Measure, l.Value)
	}
	return out.Flush()
}

// IsAsIn reports whether a state would be written as what in holds, byte for byte: then nothing is new.
func (s *State) IsAsIn(in io.Reader) bool {
	c := &comparer{in: in}
	if err := s.Write(c); err != nil {
		return false
	}
	n, err := in.Read(make([]byte, 1))
	return n == 0 && err == io.EOF
}

// comparer is written what in is to hold.
type comparer struct {
	in  io.Reader
	buf []byte
}

var errDiffers = errors.New("it differs")

func (c *comparer) Write(b []byte) (int, error) {
	if cap(c.buf) < len(b) {
		c.buf = make([]byte, len(b))
	}
	if n, err := io.ReadFull(c.in, c.buf[:len(b)]); err != nil || !bytes.Equal(c.buf[:n], b) {
		return 0, errDiffers
	}
	return len(b), nil
}

// Read reads a state.
func Read(in io.Reader) (*State, error) {
	r := csv.NewReader(in)
	header, err := r.Read()
	if err != nil || !slices.Equal(header, stateHeader) {
		return nil, fmt.Errorf("it is not the state of a build: its first line is not %s", strings.Join(stateHeader, ","))
	}
	s, shared := &State{}, Texts{}
	var open []string // of the header that is being read, the last one
	end := func() {
		if n := len(s.Headers); n > 0 && open != nil {
			s.Headers[n-1].Texts, open = shared.Of(open), nil
		}
	}
	for {
		c, err := r.Read()
		if err == io.EOF {
			end()
			return s, nil
		}
		if err != nil {
			return nil, err
		}
		switch n := len(s.Headers); {
		case c[0] == by:
			s.By = append(s.By, c[3])
		case c[0] == Name:
			cells, err := strconv.Atoi(c[7])
			if err != nil {
				return nil, fmt.Errorf("%s is no count of cells", c[7])
			}
			s.Names = append(s.Names, Named{c[3], c[4], cells})
		case c[0] == Value:
			i := slices.IndexFunc(s.Values, func(v Valued) bool { return v.Column == c[3] })
			if i < 0 {
				i, s.Values = len(s.Values), append(s.Values, Valued{Column: c[3]})
			}
			s.Values[i].Texts = append(s.Values[i].Texts, c[7])
		case c[0] == Says:
			s.Says = append(s.Says, Said{c[4], c[1], c[2], c[7]})
		case !slices.Contains(kinds, c[0]):
			return nil, fmt.Errorf("%q is no kind of line", c[0])
		case c[0] != Header:
			s.Lines = append(s.Lines, Line{c[0], c[1], c[2], c[3], c[4], c[5], c[6], c[7]})
		case n > 0 && open != nil && s.Headers[n-1].File == c[1] && s.Headers[n-1].Sheet == c[2]:
			open = append(open, c[7])
		default:
			end()
			s.Headers, open = append(s.Headers, Headed{File: c[1], Sheet: c[2]}), []string{c[7]}
		}
	}
}

// Change is what differs between two builds: Before is empty of what is new, Now of what is gone.
type Change struct {
	What, File, Sheet, Column, Name, Group, Measure, Before, Now string

	Elsewhere bool // a header that is new here stood in another extract then, or one that is gone stands in one now
}

// Noticed reports whether since.csv has no lines of the kind of a change: texts, times, and what extracts say.
func (c *Change) Noticed() bool { return c.What == Value || c.What == Span || c.What == Says }

// ChangeHeader is the header of since.csv.
var ChangeHeader = []string{"what", "file", "sheet", "column", "name", "group", "measure", "before", "now"}

// Append writes a change as a line of since.csv.
func (c *Change) Append(dst []byte) []byte {
	return table.AppendLine(dst, c.What, c.File, c.Sheet, c.Column, c.Name, c.Group, c.Measure, c.Before, c.Now)
}

// Difference is now less before, of amounts; what is not there counts as nothing.
func (c *Change) Difference() value.Decimal { return number(c.Now).Sub(number(c.Before)) }

func number(text string) value.Decimal {
	d, _, _ := value.English.Number([]byte(text))
	return d
}

// id is what a line is of.
func (l *Line) id() Line {
	id := *l
	id.Value = ""
	return id
}

// differs reports whether a line says something else than one before, as far as it is told.
func (l *Line) differs(before string) bool {
	switch l.What {
	case Amount, Group:
		return l.Value == "" || before == "" || number(l.Value).Cmp(number(before)) != 0
	}
	return l.Value != before
}

// headers are the keys of all headers.
func (s *State) headers() map[string]bool {
	out, seen := map[string]bool{}, map[*string]bool{}
	for _, h := range s.Headers {
		if len(h.Texts) == 0 || seen[&h.Texts[0]] {
			continue
		}
		seen[&h.Texts[0]] = true
		for _, text := range h.Texts {
			out[key.Of(text)] = true
		}
	}
	return out
}

// compareHeaders lists headers that are new or gone in each extract.
func compareHeaders(last, now *State, add func(Change)) {
	then, today := last.headers(), now.headers()
	before := map[[2]string][]string{}
	for _, h := range last.Headers {
		before[[2]string{h.File, h.Sheet}] = h.Texts
	}
	missing := func(h Headed, from []string, tell func(text string)) {
		if slices.Equal(h.Texts, from) {
			return
		}
		have := map[string]bool{"": true}
		for _, text := range from {
			have[key.Of(text)] = true
		}
		for _, text := range h.Texts {
			if k := key.Of(text); !have[k] {
				have[k] = true
				tell(text)
			}
		}
	}
	after := map[[2]string][]string{}
	for _, h := range now.Headers {
		at := [2]string{h.File, h.Sheet}
		after[at] = h.Texts
		missing(h, before[at], func(text string) {
			add(Change{What: Header, File: h.File, Sheet: h.Sheet, Now: text, Elsewhere: then[key.Of(text)]})
		})
	}
	for _, h := range last.Headers {
		missing(h, after[[2]string{h.File, h.Sheet}], func(text string) {
			add(Change{What: Header, File: h.File, Sheet: h.Sheet, Before: text, Elsewhere: today[key.Of(text)]})
		})
	}
}

// compareNames lists standards that are new or gone.
func compareNames(last, now *State, add func(Change)) {
	was, is := last.Names, now.Names
	same := func(a, b Named) bool { return a.Column == b.Column && a.Name == b.Name }
	for len(was) > 0 && len(is) > 0 && same(was[0], is[0]) { // no name stands twice in a state
		was, is = was[1:], is[1:]
	}
	for len(was) > 0 && len(is) > 0 && same(was[len(was)-1], is[len(is)-1]) {
		was, is = was[:len(was)-1], is[:len(is)-1]
	}
	keys := func(list []Named) map[[2]string]bool {
		out := make(map[[2]string]bool, len(list))
		for _, n := range list {
			out[[2]string{n.Column, key.Of(n.Name)}] = true
		}
		return out
	}
	before := keys(was)
	for _, n := range is {
		if !before[[2]string{n.Column, key.Of(n.Name)}] {
			add(Change{What: Name, Column: n.Column, Name: n.Name, Now: strconv.Itoa(n.Cells)})
		}
	}
	after := keys(is)
	for _, n := range was {
		if !after[[2]string{n.Column, key.Of(n.Name)}] {
			add(Change{What: Name, Column: n.Column, Name: n.Name, Before: strconv.Itoa(n.Cells)})
		}
	}
}

// compareValues lists texts that are new or gone in the columns whose texts both builds knew.
func compareValues(last, now *State, add func(Change)) {
	before := map[string][]string{}
	for _, v := range last.Values {
		before[v.Column] = v.Texts
	}
	for _, v := range now.Values {
		was, known := before[v.Column]
		if !known || slices.Equal(was, v.Texts) {
			continue
		}
		then, today := set(was), set(v.Texts)
		for _, text := range v.Texts {
			if !then[text] {
				add(Change{What: Value, Column: v.Column, Name: text, Now: text})
			}
		}
		for _, text := range was {
			if !today[text] {
				add(Change{What: Value, Column: v.Column, Name: text, Before: text})
			}
		}
	}
}

// compareSays lists what extracts say of all their figures that none said then, and what none says any more.
func compareSays(last, now *State, add func(Change)) {
	if !last.notices() {
		return
	}
	says := func(list []Said, what string) bool {
		return slices.ContainsFunc(list, func(s Said) bool { return s.What == what })
	}
	for _, s := range now.Says {
		if !says(last.Says, s.What) {
			add(Change{What: Says, File: s.File, Sheet: s.Sheet, Name: s.What, Now: s.Text})
		}
	}
	for _, s := range last.Says {
		if !says(now.Says, s.What) {
			add(Change{What: Says, File: s.File, Sheet: s.Sheet, Name: s.What, Before: s.Text})
		}
	}
}

// notices reports whether a state has lines of texts, times and what extracts say: those of older programs have not.
func (s *State) notices() bool {
	return len(s.Values)+len(s.Says) > 0 || slices.ContainsFunc(s.Lines, func(l Line) bool { return l.What == Span })
}

func set(list []string) map[string]bool {
	out := make(map[string]bool, len(list))
	for _, text := range list {
		out[text] = true
	}
	return out
}

// Compare lists what differs: kind by kind, in the order of the lines now and then of those that
// are gone; groups by their difference, the largest first. A new group is not told.
func Compare(last, now *State) (out []Change) {
	before := make(map[Line]string, len(last.Lines))
	for i := range last.Lines {
		before[last.Lines[i].id()] = last.Lines[i].Value
	}
	compareHeaders(last, now, func(c Change) { out = append(out, c) })
	compareNames(last, now, func(c Change) { out = append(out, c) })
	compareValues(last, now, func(c Change) { out = append(out, c) })
	compareSays(last, now, func(c Change) { out = append(out, c) })
	grouped := slices.Equal(last.By, now.By)
	add := func(l *Line, was, is string) {
		if l.What != Group || grouped {
			out = append(out, Change{What: l.What, File: l.File, Sheet: l.Sheet, Column: l.Column, Name: l.Name, Group: l.Group,
				Measure: l.Measure, Before: was, Now: is})
		}
	}
	for i := range now.Lines {
		l := &now.Lines[i]
		was, known := before[l.id()]
		switch {
		case !known && l.What != Group:
			add(l, "", l.Value)
		case known && l.differs(was) && (l.What != Group || was != ""): // a group that had no figure is a new one
			add(l, was, l.Value)
		}
		delete(before, l.id())
	}
	for i := range last.Lines {
		l := &last.Lines[i]
		if _, gone := before[l.id()]; gone && !(l.What == Group && l.Value == "") {
			add(l, l.Value, "")
		}
	}
	slices.SortStableFunc(out, func(a, b Change) int {
		if c := slices.Index(kinds, a.What) - slices.Index(kinds, b.What); c != 0 || a.What != Group {
			return c
		}
		return b.Difference().Abs().Cmp(a.Difference().Abs())
	})
	return out
}
