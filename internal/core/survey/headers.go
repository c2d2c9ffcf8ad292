package survey

import (
	"slices"
	"strings"

	"umbau/internal/core/key"
	"umbau/internal/core/place"
)

// Header is one header of the tables, the same by the key.
type Header struct {
	Text      string   // the spelling that most tables have
	Spellings []string // all, in the order of their coming
	Tables    int      // how many have it
	MissingIn []place.Place
	LikelyAs  string // another header that it is likely a misspelling of
	Wide      bool   // it is always that of a wide column, or of one of numbers below a label
}

// headersOf lists every header of the tables.
func headersOf(tables []*Table) []Header {
	type found struct {
		Header
		counts map[string]int
		in     map[int]bool
	}
	byKey := map[string]*found{}
	var order []string
	for i, t := range tables {
		for _, f := range t.Fields {
			k := key.Of(f.Header)
			h := byKey[k]
			if h == nil {
				h = &found{Header: Header{Wide: true}, counts: map[string]int{}, in: map[int]bool{}}
				byKey[k] = h
				order = append(order, k)
			}
			if h.counts[f.Header]++; h.counts[f.Header] == 1 {
				h.Spellings = append(h.Spellings, f.Header)
			}
			h.in[i] = true
			h.Wide = h.Wide && (f.Wide || labelOf(&f) != "")
		}
	}
	out := []Header{}
	for _, k := range order {
		h := byKey[k]
		h.Tables = len(h.in)
		h.Text = slices.MaxFunc(h.Spellings, func(a, b string) int { return h.counts[a] - h.counts[b] })
		h.MissingIn = []place.Place{}
		for i, t := range tables {
			if !h.in[i] {
				h.MissingIn = append(h.MissingIn, t.Place)
			}
		}
		out = append(out, h.Header)
	}
	for i := range out {
		if len(out[i].MissingIn) > 0 {
			out[i].LikelyAs = likely(out, i)
		}
	}
	return out
}

// likely finds a header of more tables, below the same label if there is one, that is nearly
// spelt the same and that no table has beside it.
func likely(all []Header, i int) string {
	label, k := apart(all[i].Text)
	for j := range all {
		if j == i || all[j].Tables < all[i].Tables || all[j].Tables == all[i].Tables && j > i {
			continue
		}
		otherLabel, other := apart(all[j].Text)
		if label == otherLabel && digits(k) == digits(other) && key.Nearest(k, []string{other}) != "" && len(all[i].MissingIn)+
			len(all[j].MissingIn) >= all[i].Tables+len(all[i].MissingIn) {
			return all[j].Text
		}
	}
	return ""
}

// apart is the label above a header and the header itself, by the key.
func apart(header string) (label, name string) {
	i := strings.LastIndex(header, " | ")
	if i < 0 {
		return "", key.Of(header)
	}
	return key.Of(header[:i]), key.Of(header[i+len(" | "):])
}

// digits are the digits of a text: names that differ in a number are not the same.
func digits(s string) string {
	var out []byte
	for i := range len(s) {
		if s[i] >= '0' && s[i] <= '9' {
			out = append(out, s[i])
		}
	}
	return string(out)
}
