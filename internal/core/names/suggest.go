package names

import (
	"cmp"
	"slices"
	"strings"

	"umbau/internal/core/value"
)

// Least is the likeness from which a name is proposed.
const Least = 0.79

// Close is how near in likeness another candidate must be to be shown too.
const Close = 0.05

// Candidate is a standard name that a name may stand for.
type Candidate struct {
	Standard string
	Likeness float64
	Why      string
}

// Index finds the standard names that are most like a name. Of all names only
// those are compared that have its numbers, and where these are many, that share
// triples of letters with it.
type Index struct {
	entries  []entry
	numbers  map[string][]int32 // by their numbers, and by these and their code: the entries that have them
	postings map[uint32][]int32 // by three letters: the same
	shared   []int32            // scratch: how many triples each entry shares
	touched  []int32
}

// entry is one spelling of a standard name.
type entry struct {
	parts
	standard string
	triples  int
}

// NewIndex returns an index of what the book knows: each standard, and each
// spelling that stands for one.
func (b *Book) NewIndex() *Index {
	x := NewIndexOf(nil)
	keys := make([]string, 0, len(b.lines))
	for k := range b.lines {
		keys = append(keys, k)
	}
	slices.Sort(keys)
	for _, k := range keys {
		x.Add(k, b.lines[k].standard)
	}
	return x
}

// NewIndexOf returns an index of standard names.
func NewIndexOf(standards []string) *Index {
	x := &Index{numbers: map[string][]int32{}, postings: map[uint32][]int32{}}
	for _, s := range standards {
		x.Add(s, s)
	}
	return x
}

// Add adds a spelling of a standard name. One that is nothing but a maker's code is
// like no other.
func (x *Index) Add(spelling, standard string) {
	if len(spelling) > longest {
		return
	}
	e := entry{parts: newParts(spelling), standard: standard}
	if e.compact == "" {
		return
	}
	triples := triplesOf(e.compact)
	e.triples = len(triples)
	for _, p := range triples {
		x.postings[p] = append(x.postings[p], int32(len(x.entries)))
	}
	for _, k := range []string{e.numbers, e.numbers + "#" + e.code} {
		x.numbers[k] = append(x.numbers[k], int32(len(x.entries)))
	}
	x.entries = append(x.entries, e)
	x.shared = append(x.shared, 0)
}

// triplesOf lists the distinct triples of neighbouring bytes of a text, its ends
// marked; of a short text the pairs too, for one mistake may touch all its triples.
func triplesOf(s string) []uint32 {
	const short = 10
	s = "^" + s + "$"
	var out []uint32
	if len(s) <= short+2 {
		for i := range len(s) - 1 {
			out = append(out, uint32(s[i])<<8|uint32(s[i+1]))
		}
	}
	for i := range max(0, len(s)-2) {
		out = append(out, uint32(s[i])<<16|uint32(s[i+1])<<8|uint32(s[i+2]))
	}
	slices.Sort(out)
	return slices.Compact(out)
}

// common is how many entries share a triple that tells little.
const common = 200

// mostCompared is how many names are compared with one.
const mostCompared = 40

// longest is the longest text, in bytes, that is compared: a longer one is no name, and like no other.
const longest = 1000

// Suggest returns the standard names most like a name, best first: those within
// Close of the best one, if that is at least Least.
func (x *Index) Suggest(name string) []Candidate {
	if len(name) > longest {
		return nil
	}
	best := map[string]Candidate{}
	x.compare(name, 1, "", best)
	if was, ok := value.Restored(name); ok {
		x.compare(was, 0.99, "letters read in another encoding", best)
	}
	if read := unlookAll(name); read != name {
		x.compare(read, 0.97, "letters that look alike", best)
	}
	var out []Candidate
	for _, c := range best {
		out = append(out, c)
	}
	slices.SortFunc(out, func(a, b Candidate) int {
		switch {
		case a.Likeness > b.Likeness:
			return -1
		case a.Likeness < b.Likeness:
			return 1
		}
		return strings.Compare(a.Standard, b.Standard)
	})
	if len(out) == 0 || out[0].Likeness < Least {
		return nil
	}
	n := 1
	for n < len(out) && out[n].Likeness >= out[0].Likeness-Close {
		n++
	}
	return out[:n]
}

// compare puts the standard names that are like a name among the best; each likeness is
// multiplied with a weight, and because tells why, if it is there.
func (x *Index) compare(name string, weight float64, because string, best map[string]Candidate) {
	p := newParts(name)
	if p.compact == "" {
		return
	}
	for _, i := range x.near(p) {
		e := &x.entries[i]
		if likeness, why := compare(p, e.parts); likeness*weight > best[e.standard].Likeness {
			best[e.standard] = Candidate{e.standard, likeness * weight, cmp.Or(because, why)}
		}
	}
}

// near returns the entries that share most triples of letters with a name, for
// their length; none whose numbers differ, for these are never alike.
func (x *Index) near(p parts) []int32 {
	few := x.numbers[p.numbers]
	if p.code != "" { // others have the same one, or none
		few = slices.Concat(x.numbers[p.numbers+"#"+p.code], x.numbers[p.numbers+"#"])
	}
	if len(few) <= mostCompared {
		return few
	}
	triples := triplesOf(p.compact)
	slices.SortStableFunc(triples, func(a, b uint32) int { return len(x.postings[a]) - len(x.postings[b]) })
	x.touched = x.touched[:0]
	most := int32(0)
	for k, t := range triples {
		if 5*k > 3*len(triples) && len(x.postings[t]) > common {
			break // what is like the name has some of the rare ones
		}
		for _, i := range x.postings[t] {
			n := x.shared[i] + 1
			if x.shared[i] = n; n == 1 {
				x.touched = append(x.touched, i)
			}
			most = max(most, n)
		}
	}
	var best [mostCompared]int32
	var scores [mostCompared]float64
	n := 0
	for _, i := range x.touched {
		shared := x.shared[i]
		x.shared[i] = 0
		if 3*shared < most || x.entries[i].numbers != p.numbers {
			continue
		}
		score := float64(shared) / float64(len(triples)+x.entries[i].triples)
		at := n
		for at > 0 && (scores[at-1] < score || scores[at-1] == score && best[at-1] > i) {
			at--
		}
		if at == mostCompared {
			continue
		}
		n = min(n+1, mostCompared)
		copy(best[at+1:n], best[at:])
		copy(scores[at+1:n], scores[at:])
		best[at], scores[at] = i, score
	}
	return slices.Clone(best[:n])
}
