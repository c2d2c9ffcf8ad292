// Package layout lines raw rows up with the columns of the plan: which row is
// the header, which header is which column, which rows are used.
package layout

import (
	"slices"

	"umbau/internal/core/key"
	"umbau/internal/core/table"
	"umbau/internal/core/value"
)

// Header is the header row of an extract. Blank headers behind the last filled
// one are not part of it.
type Header struct {
	Row   int      // its number, as a person sees it; 0 where there is none
	First int      // the letter of the first column, as an index: not 0 in an area
	Texts []string // trimmed
	Keys  []string // the same by the key; "" for a blank one

	rows [][]string // the keys of each row of several, for one that is repeated
}

// Name is what messages call column i: its header, or its letter.
func (h *Header) Name(i int) string {
	if h.Texts[i] != "" {
		return h.Texts[i]
	}
	return h.Letter(i)
}

// Letter is the letter of column i in its sheet.
func (h *Header) Letter(i int) string { return Letter(h.First + i) }

// Letter names column i as a spreadsheet does: A, B, … Z, AA.
func Letter(i int) string {
	var b []byte
	for i++; i > 0; i = (i - 1) / 26 {
		b = append(b, byte('A'+(i-1)%26))
	}
	slices.Reverse(b)
	return string(b)
}

// ReadHeader reads row i as the header; first is the index of its first column
// in the sheet.
func ReadHeader(rows *table.Rows, i, first int) Header {
	h := Header{Row: rows.Lines[i], First: first}
	for _, c := range rows.Row(i) {
		h.Texts = append(h.Texts, string(value.Trim(rows.Text(c))))
	}
	for len(h.Texts) > 0 && h.Texts[len(h.Texts)-1] == "" {
		h.Texts = h.Texts[:len(h.Texts)-1]
	}
	h.setKeys()
	return h
}

// AddGroups puts the labels of groups in a row above before the headers: each is
// carried right up to the next, and joined with a bar; an empty part vanishes with
// its bar.
func (h *Header) AddGroups(rows *table.Rows, above []int) {
	h.rows = append(h.rows, h.Keys)
	for k := len(above) - 1; k >= 0; k-- {
		label, own := "", []string{}
		cells := rows.Row(above[k])
		h.Widen(len(cells))
		for i := range h.Texts {
			text := ""
			if i < len(cells) {
				text = string(value.Trim(rows.Text(cells[i])))
			}
			own = append(own, key.Of(text))
			if text != "" {
				label = text
			}
			switch {
			case label == "":
			case h.Texts[i] == "":
				if text != "" { // a group of one column without a label below
					h.Texts[i] = text
				}
			default:
				h.Texts[i] = label + " | " + h.Texts[i]
			}
		}
		h.rows = append(h.rows, own)
	}
	for len(h.Texts) > 0 && h.Texts[len(h.Texts)-1] == "" {
		h.Texts = h.Texts[:len(h.Texts)-1]
	}
	h.setKeys()
}

// Lettered is the header of a table that has none: letters.
func Lettered(columns, first int) Header {
	h := Header{First: first}
	for i := range columns {
		h.Texts = append(h.Texts, Letter(first+i))
	}
	h.setKeys()
	return h
}

func (h *Header) setKeys() {
	h.Keys = nil
	for _, t := range h.Texts {
		h.Keys = append(h.Keys, key.Of(t))
	}
}

// Widen adds blank headers until there are so many columns.
func (h *Header) Widen(columns int) {
	for len(h.Texts) < columns {
		h.Texts, h.Keys = append(h.Texts, ""), append(h.Keys, "")
	}
}
