// Package place says where a thing stands and what is wrong with it there.
//
// A Place is a cell, row, sheet or file of an extract; a Pos is a line and
// column of the plan. A Problem is one mistake or one thing that a rule stops,
// with the first few places it was met at and the number of them all. A List
// of problems is an error: everything wrong is reported at once.
package place

import (
	"fmt"
	"strconv"
	"strings"
	"unicode/utf8"
)

// Place is a spot in an extract, as a person sees it. File is relative to the
// plan and uses "/". Row counts from 1 and is the line of a text file or the row
// of a sheet; 0 means the whole file or sheet. Empty fields are left out.
type Place struct {
	File   string
	Sheet  string
	Row    int
	Header string
}

// String writes the place for a message: raw/north.csv, sheet 2024, row 7, header "Dock Line".
func (p Place) String() string {
	parts := []string{p.Source()}
	if p.Row > 0 {
		parts = append(parts, "row "+strconv.Itoa(p.Row))
	}
	if p.Header != "" {
		parts = append(parts, "header "+strconv.Quote(Shorten(p.Header)))
	}
	return strings.TrimPrefix(strings.Join(parts, ", "), ", ")
}

// Source names the extract alone: its file and, in a workbook, its sheet.
func (p Place) Source() string {
	if p.Sheet != "" {
		return Visible(p.File) + ", sheet " + Visible(p.Sheet)
	}
	return Visible(p.File)
}

// UTF8 is a text whose bytes that are no UTF-8 are escaped: a name of a file, say.
func UTF8(s string) string {
	if utf8.ValidString(s) {
		return s
	}
	return escape(s, func(r rune, n int) bool { return r == utf8.RuneError && n == 1 })
}

// Visible is a text in which what a terminal would act upon is escaped: control
// characters, and marks that turn the direction of text.
func Visible(s string) string { return escape(s, Hidden) }

// Hidden reports whether a rune of so many bytes is one that Visible escapes.
func Hidden(r rune, n int) bool {
	return r < ' ' || r >= 0x7f && r <= 0x9f || r == utf8.RuneError && n == 1 || r == '\u200e' || r == '\u200f' ||
		r >= '\u2028' && r <= '\u202e' || r >= '\u2066' && r <= '\u2069'
}

// escape writes some runes as Go does, bytes that are no UTF-8 as \xNN.
func escape(s string, which func(r rune, n int) bool) string {
	var b strings.Builder
	for i := 0; i < len(s); {
		r, n := utf8.DecodeRuneInString(s[i:])
		switch {
		case !which(r, n):
			b.WriteString(s[i : i+n])
		case r == utf8.RuneError && n == 1:
			fmt.Fprintf(&b, `\x%02x`, s[i])
		default:
			b.WriteString(strings.Trim(strconv.QuoteRuneToASCII(r), "'"))
		}
		i += n
	}
	return b.String()
}

// Pos is a position in the plan; lines and columns count from 1. The zero Pos
// is no position.
type Pos struct {
	Line   int `json:"line"`
	Column int `json:"column"`
}

// IsZero reports whether the position is not known.
func (p Pos) IsZero() bool { return p.Line == 0 }

// Before reports whether p stands before q.
func (p Pos) Before(q Pos) bool {
	if p.Line != q.Line {
		return p.Line < q.Line
	}
	return p.Column < q.Column
}

// Capital is a message as a sentence begins: with a capital letter.
func Capital(s string) string {
	r, n := utf8.DecodeRuneInString(s)
	return strings.ToUpper(string(r)) + s[n:]
}

// Shorten cuts a text that is too long for a message and says how long it was.
func Shorten(s string) string {
	const most = 60
	r := []rune(Visible(s))
	if len(r) <= most {
		return string(r)
	}
	return fmt.Sprintf("%s… (%d characters)", string(r[:most]), len(r))
}
