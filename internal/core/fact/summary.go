package fact

import (
	"cmp"
	"io/fs"
	"slices"
	"strings"

	"umbau/internal/core/keep"
	"umbau/internal/core/names"
	"umbau/internal/core/pass"
	"umbau/internal/core/place"
	"umbau/internal/core/plan"
	"umbau/internal/core/record"
	"umbau/internal/core/tie"
	"umbau/internal/core/value"
)

// Summary is what a build has done, for a person or a machine to read.
type Summary struct {
	Plan         *plan.Plan
	Problems     place.List // most important first; none when all went well
	Warnings     place.List // what a person should look at, though nothing stops
	Extracts     []record.Extract
	Books        []*names.Book // by column; nil for none
	Names        names.Tally
	Changes      []ChangeCount
	Empties      []EmptyCount
	Checks       Checks
	Lookups      []LookupCount
	Footnotes    []keep.Note // the first of them
	FootnoteRows int
	NotRead      []NotRead
	Differing    []Differing // what went with repeated rows that differ from the one that stays
	Deliveries   []FileInfo
	Remarks      []string // of the deliveries
	Inputs       []FileInfo
	Since        Since
	Recorded     bool // the record was written
	DryRun       bool
	FactRows     int
	Head         [][]string    // of a dry run: header and first rows of the fact table
	Repeats      int           // fact rows that repeat the grain
	Across       int           // of those shown, how many repeat a row of another extract …
	Twice        int           // … and agree with it in everything
	Between      []Between     // of which extracts they are
	entries      []*plan.Entry // of Extracts
	Seconds      float64
}

// Between counts the fact rows of an extract that repeat the grain of rows of another one, or of its own.
type Between struct {
	First, Again place.Place
	Rows         int
}

// ChangeCount counts the changes of one kind in one column.
type ChangeCount struct {
	Column string `json:"column"`
	Kind   string `json:"kind"`
	Count  int    `json:"count"`
}

// EmptyCount counts the fact rows in which a formula is empty because a column is.
type EmptyCount struct {
	Column  string `json:"column"`
	Because string `json:"because"`
	Count   int    `json:"count"`
}

// countChanges lists what was changed, in the order of columns and kinds, and what
// formulas leave empty.
func (s *Summary) countChanges(c *keep.Changes) {
	for e, n := range c.Empties {
		s.Empties = append(s.Empties, EmptyCount{s.Plan.Columns[e.Column].Name, s.Plan.Columns[e.Because].Name, n})
	}
	slices.SortFunc(s.Empties, func(a, b EmptyCount) int {
		return cmp.Or(s.Plan.Index(a.Column)-s.Plan.Index(b.Column), s.Plan.Index(a.Because)-s.Plan.Index(b.Because))
	})
	kinds := slices.Clone(c.Kinds)
	slices.SortStableFunc(kinds, func(a, b keep.Kind) int {
		return cmp.Or(a.Column-b.Column, rankOf(a.Name)-rankOf(b.Name))
	})
	for _, k := range kinds {
		s.Changes = append(s.Changes, ChangeCount{s.Plan.Columns[k.Column].Name, k.Name, k.Count})
	}
}

// rankOf puts kinds of changes in order: roundings and corrections, then gaps.
func rankOf(kind string) int {
	for g := value.Blank; g < value.Gaps; g++ {
		if g.String() == kind {
			return int(g)
		}
	}
	return 0
}

// FileInfo is a file that was read or delivered. Digest is its SHA-256 in
// hexadecimal, nil where it was not worked out.
type FileInfo struct {
	Name   string
	Rows   int
	Bytes  int64
	Digest *string
	Table  string      // of a database
	Files  []FileInfo  // of a delivery that is several
	found  fs.FileInfo // an input, as it was before it was read
}

// addInputs lists files that the build reads, as they were before that.
func (s *Summary) addInputs(files ...pass.File) {
	for _, f := range files {
		s.Inputs = append(s.Inputs, FileInfo{Name: f.Name, Bytes: f.Info.Size(), found: f.Info})
	}
}

// ExitCode is what the program ends with: 0 done, 1 could not, 3 stopped by a rule.
func (s *Summary) ExitCode() int { return s.Problems.ExitCode() }

// Rows is the account of all rows of all extracts.
func (s *Summary) Rows() tie.Rows {
	var all tie.Rows
	for i := range s.Extracts {
		all.Merge(s.Extracts[i].Rows)
	}
	return all
}

// Totals are the accounts of a measure, all extracts together.
func (s *Summary) Totals(column int) tie.Totals {
	var all tie.Account
	for i := range s.Extracts {
		if a := s.Extracts[i].Accounts[column]; a != nil {
			all.Merge(a)
		}
	}
	return all.Totals()
}

// Measures are the columns that are measures in some extract.
func (s *Summary) Measures() []int {
	var out []int
	for i := range s.Plan.Columns {
		if slices.ContainsFunc(s.Extracts, func(e record.Extract) bool { return slices.Contains(e.Measures, i) }) {
			out = append(out, i)
		}
	}
	return out
}

// sortProblems puts problems in the order of their urgency, those of one kind in that of
// the columns and of their first places: extracts as they are listed, and rows.
func (s *Summary) sortProblems() {
	l, order := s.Problems, map[place.Place]int{}
	for i := range s.Extracts {
		order[place.Place{File: s.Extracts[i].File, Sheet: s.Extracts[i].Sheet}] = i + 1
	}
	at := func(p place.Problem) (extract, row int) {
		if len(p.Places) == 0 {
			return 0, 0
		}
		first := p.Places[0]
		return order[place.Place{File: first.File, Sheet: first.Sheet}], first.Row
	}
	column := func(p place.Problem) int {
		return s.Plan.Index(p.Column)
	}
	slices.SortStableFunc(l, func(a, b place.Problem) int {
		e, r := at(a)
		f, q := at(b)
		return cmp.Or(a.Rank()-b.Rank(), column(a)-column(b), e-f, r-q, strings.Compare(a.Message, b.Message))
	})
}
