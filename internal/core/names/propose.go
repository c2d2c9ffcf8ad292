package names

import (
	"slices"
	"strings"

	"umbau/internal/core/key"
	"umbau/internal/core/place"
)

// Proposal is a name that nothing decides yet, and what it may stand for.
type Proposal struct {
	Seen       string
	Cells      int
	First      *place.Place // where it stands first, if that is known
	Candidates []Candidate  // best first; none where nothing is like it
	Sure       bool         // the best one is the same by the key
}

// Propose proposes a standard for each name that the book does not have, those in
// most cells first. Without a book (nil) the spellings are grouped among
// themselves: the one in most cells of each group is proposed for the others.
func Propose(seen []Seen, b *Book) []Proposal {
	list := slices.Clone(seen)
	slices.SortStableFunc(list, func(a, b Seen) int { return b.Cells - a.Cells })
	if b == nil {
		return group(list)
	}
	x := b.NewIndex()
	var out []Proposal
	for _, s := range list {
		if s.How == Unknown {
			out = append(out, Proposal{Seen: s.Text, Cells: s.Cells, First: s.First, Candidates: x.Suggest(s.Text)})
		}
	}
	return out
}

// group proposes the spelling of most cells for those like it.
func group(list []Seen) []Proposal {
	best := map[string]Seen{} // by the key: the cleanest spelling of most cells
	for _, s := range list {
		k := key.Of(s.Text)
		if b, ok := best[k]; !ok || clean(s.Text) && !clean(b.Text) {
			best[k] = s
		}
	}
	x := NewIndexOf(nil)
	done := map[string]bool{}
	var out []Proposal
	for _, s := range list {
		k := key.Of(s.Text)
		b := best[k]
		p := Proposal{Seen: s.Text, Cells: s.Cells, First: s.First}
		switch {
		case b.Text != s.Text:
			p.Sure, p.Candidates = true, []Candidate{{b.Text, 1, "the same in another spelling"}}
		case !done[k]:
			p.Candidates = x.Suggest(s.Text)
		}
		if !done[k] {
			done[k] = true
			if len(p.Candidates) == 0 || p.Sure {
				x.Add(b.Text, b.Text)
			}
		}
		if len(p.Candidates) > 0 {
			out = append(out, p)
		}
	}
	return out
}

// clean reports whether a spelling may be a standard: no needless spaces, some
// letters large and some small, no stop at its end.
func clean(s string) bool {
	return s == strings.Join(strings.Fields(s), " ") && s != strings.ToUpper(s) && s != strings.ToLower(s) && !strings.HasSuffix(s, ".")
}
