package treat

import (
	"maps"
	"slices"
	"strings"

	"umbau/internal/core/names"
	"umbau/internal/core/plan"
	"umbau/internal/core/table"
	"umbau/internal/core/value"
)

// Shared is what passes from block to block in the order of the fact table.
// One goroutine at a time uses it.
type Shared struct {
	firsts     []*names.FirstSpellings // by column
	currencies []string                // by column: the one currency of the measure, once it is known
	passed     [][]string              // by column: the currencies that rows named before, none of which was wanted

	// Of the extract at hand:
	program *Program
	tail    []*table.Rows            // rows that only later ones can decide, block by block
	waiting int                      // their bytes
	heading string                   // the text of the last section row
	texts   map[int][]*string        // by column and slot: the last text above
	numbers map[int][]*value.Decimal // the same of columns of numbers
	wide    *widening                // rows that become one
	runs    *runs                    // what total rows are compared with
	above   labels                   // of the blocks before
	same    map[rowHash]int          // rows that stood, where those that repeat one are dropped, and their lines
	columns columnTotals             // wide columns that may be the sums of the others
	asked   []label                  // labels that nobody had above, where other readings may have them
	unsure  bool                     // which rows wait above a piece of an extract did not show

	pieces []*PieceEnd // of extracts before
}

// NewShared returns the state before the first block.
func NewShared(p *plan.Plan) *Shared {
	s := &Shared{}
	for _, c := range p.Columns {
		s.firsts = append(s.firsts, names.NewFirstSpellings())
		s.currencies = append(s.currencies, c.Currency)
	}
	s.passed = make([][]string, len(p.Columns))
	return s
}

// Ends are what a pass leaves for the extracts behind its own.
type Ends struct {
	Firsts     []map[string]string // by column: the spelling that stands, by the key of a name
	Currencies []string            // by column, as far as one is known
	Passed     [][]string          // by column: the currencies that rows which were not wanted named, before one was known
	Pieces     []*PieceEnd         // of the extracts of which only a piece was read
}

// Ends returns what the blocks so far leave for others.
func (s *Shared) Ends() *Ends {
	s.endPiece()
	e := &Ends{Currencies: slices.Clone(s.currencies), Passed: s.passed, Pieces: s.pieces}
	for _, f := range s.firsts {
		first := map[string]string{}
		for key, standard := range f.All {
			first[strings.Clone(key)] = strings.Clone(standard)
		}
		e.Firsts = append(e.Firsts, first)
	}
	return e
}

// Follows reports whether extracts that began without knowing of others come to the same behind them:
// no name was spelt otherwise there first, and no amount was in another currency. Then e gets what
// they leave too.
func (e *Ends) Follows(next *Ends) bool {
	for ci, first := range next.Firsts {
		for key, standard := range first {
			if before, known := e.Firsts[ci][key]; known && before != standard {
				return false
			}
		}
		other := func(c string) bool { return c != "" && e.Currencies[ci] != "" && c != e.Currencies[ci] }
		if other(next.Currencies[ci]) || slices.ContainsFunc(next.Passed[ci], other) {
			return false
		}
	}
	for ci, first := range next.Firsts {
		maps.Copy(e.Firsts[ci], first)
		if e.Currencies[ci] == "" {
			e.Currencies[ci] = next.Currencies[ci]
		}
	}
	return true
}

// begin forgets the extract before, when another one begins.
func (s *Shared) begin(p *Program) {
	if s.program != p {
		s.endPiece()
		s.asked, s.unsure = nil, false
		s.program, s.tail, s.waiting, s.heading = p, nil, 0, ""
		s.texts, s.numbers, s.wide = map[int][]*string{}, map[int][]*value.Decimal{}, nil
		s.runs, s.same, s.columns = newRuns(p), map[rowHash]int{}, columnTotals{}
		s.above.forget()
	}
}
