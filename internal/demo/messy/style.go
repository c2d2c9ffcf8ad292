package messy

import (
	"bytes"
	"encoding/csv"
	"fmt"
	"slices"
	"strconv"
	"strings"

	"golang.org/x/text/encoding/charmap"
	"golang.org/x/text/encoding/unicode"
)

// style is how an office writes.
type style struct {
	language
	numbers  int // 0: 1234.50, 1: 1,234.50, 2: 1.234,50, 3: 1 234,50
	dates    int // 0: 2024-07, 1: Jul 2024, 2: 31/07/2024
	sign     rune
	encoding int
	gaps     bool
	spell    bool
	totals   bool
	notes    bool
	titles   bool
	unwanted bool
	first    bool // values only in the first row of a group
	hurt     func(rows [][]string) [][]string
	bind     func(rows [][]string) []byte // as a workbook
}

// newStyle draws a style, and changes it where the office has come to write otherwise.
func (m *maker) newStyle() style {
	s := m.drawStyle()
	if m.changed != nil {
		m.changed(&s)
	}
	if m.damage != nil {
		s.hurt = func(rows [][]string) [][]string { return m.damage.do(m.hurt, &s, rows) }
	}
	if m.bind != nil {
		s.bind = func(rows [][]string) []byte { return m.bind(&s, rows) }
	}
	return s
}

func (m *maker) drawStyle() style {
	s := style{language: languages[0], sign: ','}
	if m.hard == 0 {
		return s
	}
	r := m.Rand
	if m.styles != nil {
		r = m.styles
	}
	s.language = languages[r.IntN(len(languages))]
	s.numbers, s.dates = r.IntN(4), r.IntN(3)
	if s.numbers > 1 {
		s.sign = []rune{';', '\t'}[r.IntN(2)]
	}
	chance := func(n int) bool { return r.IntN(n) == 0 }
	s.gaps, s.totals, s.notes, s.titles, s.unwanted = chance(2), chance(3), chance(3), chance(3), chance(3)
	if m.hard > 1 {
		s.encoding, s.spell, s.first = r.IntN(4), chance(2), chance(4)
	}
	return s
}

// number writes an amount in cents, or a whole number.
func (s *style) number(n int, cents bool) string {
	if n < 0 {
		return "-" + s.number(-n, cents)
	}
	whole, places := n, ""
	if cents {
		whole, places = n/100, fmt.Sprintf("%02d", n%100)
	}
	text := strconv.Itoa(whole)
	group, point := "", "."
	switch s.numbers {
	case 1:
		group = ","
	case 2:
		group, point = ".", ","
	case 3:
		group, point = " ", ","
	}
	if group != "" && len(text) > 3 {
		text = text[:len(text)-3] + group + text[len(text)-3:]
	}
	if cents {
		text += point + places
	}
	return text
}

// month writes a month.
func (s *style) month(month string) string {
	year, n := month[:4], month[5:]
	k, _ := strconv.Atoi(n)
	switch s.dates {
	case 1:
		return monthNames[k-1] + " " + year
	case 2:
		last := []string{"31", "28", "31", "30", "31", "30", "31", "31", "30", "31", "30", "31"}[k-1]
		return last + "/" + n + "/" + year
	}
	return month
}

// cell writes a measure, or a gap in its place: the fact then has 0, or is held.
func (m *maker) cell(s *style, f *fact, cents bool) string {
	n := &f.quantity
	if cents {
		n = &f.amount
	}
	if s.gaps && m.IntN(40) == 0 {
		switch m.IntN(6) {
		case 0:
			f.held = true
			return "#REF!"
		case 1:
			f.held = true
			return "12 pcs"
		case 2:
			*n = 0
			return "n/a"
		case 3:
			*n = 0
			return "closed"
		default:
			*n = 0
			return ""
		}
	}
	return s.number(*n, cents)
}

// spelt writes a name as somebody types it.
func (m *maker) spelt(s *style, name string) string {
	if !s.spell || m.IntN(8) > 0 {
		return name
	}
	switch m.IntN(4) {
	case 0:
		return strings.ToUpper(name)
	case 1:
		return strings.ReplaceAll(name, " ", "-")
	case 2:
		return strings.ReplaceAll(name, " ", "  ")
	}
	return strings.ToLower(name)
}

// text writes rows as a text file.
func (s *style) text(rows [][]string) []byte {
	var b bytes.Buffer
	w := csv.NewWriter(&b)
	w.Comma = s.sign
	width := 0
	for _, r := range rows {
		width = max(width, len(r))
	}
	rows = slices.Clone(rows)
	for i, r := range rows {
		rows[i] = append(slices.Clone(r), make([]string, width-len(r))...)
	}
	if s.hurt != nil {
		rows = s.hurt(rows)
	}
	if s.bind != nil {
		return s.bind(rows)
	}
	for _, r := range rows {
		_ = w.Write(r)
	}
	w.Flush()
	var out []byte
	var err error
	switch s.encoding {
	case 1:
		out, err = charmap.Windows1252.NewEncoder().Bytes(b.Bytes())
	case 2:
		out, err = unicode.UTF16(unicode.LittleEndian, unicode.UseBOM).NewEncoder().Bytes(b.Bytes())
	default:
		return b.Bytes()
	}
	if err != nil {
		return b.Bytes()
	}
	return out
}
