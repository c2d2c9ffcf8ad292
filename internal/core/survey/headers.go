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
		counts map[string]int // by spelling; nil while there is one
		in     []int32        // the tables, in order
	}
	byKey := map[string]*found{}
	var order []string
	for i, t := range tables {
		for _, f := range t.Fields {
			k := key.Of(f.Header)
			h := byKey[k]
			if h == nil {
				h = &found{Header: Header{Wide: true, Spellings: []string{f.Header}}}
				byKey[k] = h
				order = append(order, k)
			}
			if h.counts == nil && f.Header != h.Spellings[0] {
				h.counts = map[string]int{h.Spellings[0]: len(h.in)}
			}
			if h.counts != nil {
				if h.counts[f.Header]++; h.counts[f.Header] == 1 {
					h.Spellings = append(h.Spellings, f.Header)
				}
			}
			if n := len(h.in); n == 0 || h.in[n-1] != int32(i) {
				h.in = append(h.in, int32(i))
			}
			h.Wide = h.Wide && (f.Wide || labelOf(&f) != "")
		}
	}
	out := []Header{}
	for _, k := range order {
		h := byKey[k]
		h.Tables = len(h.in)
		h.Text = slices.MaxFunc(h.Spellings, func(a, b string) int { return h.counts[a] - h.counts[b] })
		h.MissingIn = []place.Place{}
		in := h.in
		for i, t := range tables {
			if len(in) > 0 && in[0] == int32(i) {
				in = in[1:]
			} else {
				h.MissingIn = append(h.MissingIn, t.Place)
			}
		}
		out = append(out, h.Header)
	}
	likely(out)
	return out
}

// likely finds for every header that some tables do not have one of more tables, below the
// same label if there is one, that is nearly spelt the same and that no table has beside it.
func likely(all []Header) {
	names := make([]string, len(all))
	groups := map[[2]string][]int{} // of the same label and the same digits: names that differ in a number are not the same
	group := make([][2]string, len(all))
	for i := range all {
		label, name := apart(all[i].Text)
		names[i], group[i] = name, [2]string{label, digits(name)}
		groups[group[i]] = append(groups[group[i]], i)
	}
	for i := range all {
		h := &all[i]
		if len(h.MissingIn) == 0 {
			continue
		}
		for _, j := range groups[group[i]] {
			o := &all[j]
			if j == i || o.Tables < h.Tables || o.Tables == h.Tables && j > i || len(o.MissingIn) < h.Tables {
				continue
			}
			if key.Nearest(names[i], []string{names[j]}) != "" {
				h.LikelyAs = o.Text
				break
			}
		}
	}
}

// apart is the label above a header and the header itself, by the key.
func apart(header string) (label, name string) {
	i := strings.LastIndex(header, " | ")
	if i < 0 {
		return "", key.Of(header)
	}
	return key.Of(header[:i]), key.Of(header[i+len(" | "):])
}

// digits are the digits of a text.
func digits(s string) string {
	var out []byte
	for i := range len(s) {
		if s[i] >= '0' && s[i] <= '9' {
			out = append(out, s[i])
		}
	}
	return string(out)
}
