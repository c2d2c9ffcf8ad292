package names

import (
	"fmt"
	"slices"
	"strconv"
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

// Proposer proposes standards for the names of a column that nothing decides yet, from
// its book and from what is decided meanwhile.
type Proposer struct {
	index   *Index
	names   map[string]string // by the key: the spelling that would stand for itself
	decided map[string]string // by the key: the standard, once it is decided
	ended   map[string][]Seen // by the year in which they end: names that the book has, or may have
	years   []string          // the first and the last of the extracts
}

// NewProposer returns a proposer for the names of a column. A nil book is an empty one.
func NewProposer(seen []Seen, b *Book) *Proposer {
	p := &Proposer{index: NewIndexOf(nil), names: map[string]string{}, decided: map[string]string{}, ended: map[string][]Seen{}}
	if b != nil {
		p.index = b.NewIndex()
	}
	p.findYears(seen)
	return p
}

// Propose proposes a standard for each name that the book does not have, those in
// most cells first. Names that nothing is like may be standards themselves, and are
// compared with those that come after them. Without a book (nil) the spellings are grouped
// among themselves: the one in most cells of each group is proposed for the others.
func Propose(seen []Seen, b *Book) []Proposal {
	list := slices.Clone(seen)
	slices.SortStableFunc(list, func(a, b Seen) int { return b.Cells - a.Cells })
	if b == nil {
		return group(list)
	}
	p := NewProposer(seen, b)
	var out []Proposal
	for _, s := range list {
		if s.How == Unknown {
			out = append(out, p.Propose(s))
		}
	}
	return out
}

// Propose proposes a standard for one name. They come in the order of their cells.
func (p *Proposer) Propose(s Seen) Proposal {
	out := Proposal{Seen: s.Text, Cells: s.Cells, First: s.First}
	k := key.Of(s.Text)
	own, known := p.names[k]
	switch standard, decided := p.decided[k]; {
	case decided:
		out.Sure, out.Candidates = true, []Candidate{{standard, 1, "decided already, in another spelling"}}
		return out
	case known && own != s.Text:
		out.Sure, out.Candidates = true, []Candidate{{own, 1, "the same in another spelling"}}
		return out
	}
	if out.Candidates = p.index.Suggest(s.Text); len(out.Candidates) > 0 {
		return out
	}
	out.Candidates = p.renamed(s)
	if !known {
		p.names[k] = s.Text
		p.index.Add(s.Text, s.Text)
	}
	return out
}

// Decide notes what a name stands for: the names to come are compared with it.
func (p *Proposer) Decide(seen, standard string) {
	p.decided[key.Of(seen)] = standard
	p.index.Add(seen, standard)
	p.index.Add(standard, standard)
}

// Forget takes back what was decided of a name.
func (p *Proposer) Forget(seen string) { delete(p.decided, key.Of(seen)) }

// findYears notes which names end before the extracts do.
func (p *Proposer) findYears(seen []Seen) {
	last := map[string]Seen{} // by the key of the standard: the last year of any spelling
	for _, s := range seen {
		if s.From == "" {
			continue
		}
		p.years = append(p.years, s.From, s.To)
		if s.How == Unknown { // it may be a standard itself
			s.Standard = s.Text
		}
		k := key.Of(s.Standard)
		if l, ok := last[k]; !ok || s.To > l.To {
			last[k] = Seen{Standard: s.Standard, To: s.To}
		}
	}
	slices.Sort(p.years)
	if len(p.years) == 0 {
		return
	}
	for _, l := range last {
		if l.To < p.years[len(p.years)-1] {
			p.ended[l.To] = append(p.ended[l.To], l)
		}
	}
	for _, list := range p.ended {
		slices.SortFunc(list, func(a, b Seen) int { return strings.Compare(a.Standard, b.Standard) })
	}
}

// mostRenamed is how many names that end are proposed for one that begins.
const mostRenamed = 3

// renamed are the names that end in the year before a name begins, if it begins after the
// extracts do and these are few: it may be a new name of one of them.
func (p *Proposer) renamed(s Seen) (out []Candidate) {
	begins, err := strconv.Atoi(s.From)
	if err != nil || s.From == p.years[0] {
		return nil
	}
	ended := p.ended[strconv.Itoa(begins-1)]
	if len(ended) == 0 || len(ended) > mostRenamed {
		return nil
	}
	for _, e := range ended {
		likeness, _ := Likeness(s.Text, e.Standard)
		out = append(out, Candidate{e.Standard, min(likeness, Least),
			fmt.Sprintf("ends in %s, and this begins in %s: a renaming?", e.To, s.From)})
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
