package build

import (
	"cmp"
	"encoding/json"
	"io/fs"
	"slices"
	"strings"

	"umbau/internal/core/names"
	"umbau/internal/core/place"
	"umbau/internal/core/plan"
	"umbau/internal/core/record"
	"umbau/internal/core/tie"
	"umbau/internal/core/treat"
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
	Footnotes    []Note // the first of them
	FootnoteRows int
	NotRead      []NotRead
	Differing    []Differing // what went with repeated rows that differ from the one that stays
	Deliveries   []FileInfo
	Inputs       []FileInfo
	Recorded     bool // the record was written
	DryRun       bool
	FactRows     int
	Head         [][]string    // of a dry run: header and first rows of the fact table
	Repeats      int           // fact rows that repeat the grain
	entries      []*plan.Entry // of Extracts
	Seconds      float64
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

func (s *Summary) countEmpty(e treat.Emptied) {
	column, because := s.Plan.Columns[e.Column].Name, s.Plan.Columns[e.Because].Name
	for i := range s.Empties {
		if s.Empties[i].Column == column && s.Empties[i].Because == because {
			s.Empties[i].Count += e.Count
			return
		}
	}
	s.Empties = append(s.Empties, EmptyCount{column, because, e.Count})
}

// sortEmpties puts the counts in the order of the columns.
func (s *Summary) sortEmpties() {
	rank := func(name string) int {
		return slices.IndexFunc(s.Plan.Columns, func(c *plan.Column) bool { return c.Name == name })
	}
	slices.SortFunc(s.Empties, func(a, b EmptyCount) int {
		return cmp.Or(rank(a.Column)-rank(b.Column), rank(a.Because)-rank(b.Because))
	})
}

// FileInfo is a file that was read or delivered. Digest is its SHA-256 in
// hexadecimal, nil where it was not worked out.
type FileInfo struct {
	Name   string
	Rows   int
	Bytes  int64
	Digest *string
	found  fs.FileInfo // an input, as it was before it was read
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
		all.Merge(&s.Extracts[i].Accounts[column])
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

func (s *Summary) countChange(p *plan.Plan, c treat.Change, n int) {
	column, kind := p.Columns[c.Column].Name, c.KindName()
	for i := range s.Changes {
		if s.Changes[i].Column == column && s.Changes[i].Kind == kind {
			s.Changes[i].Count += n
			return
		}
	}
	s.Changes = append(s.Changes, ChangeCount{column, kind, n})
}

// sortChanges puts the counts in the order of columns and kinds.
func (s *Summary) sortChanges() {
	rank := func(c ChangeCount) int {
		column := slices.IndexFunc(s.Plan.Columns, func(p *plan.Column) bool { return p.Name == c.Column })
		for g := value.Blank; g < value.Gaps; g++ {
			if g.String() == c.Kind {
				return column*10 + int(g)
			}
		}
		return column * 10
	}
	slices.SortFunc(s.Changes, func(a, b ChangeCount) int { return rank(a) - rank(b) })
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
		return slices.IndexFunc(s.Plan.Columns, func(c *plan.Column) bool { return c.Name == p.Column })
	}
	slices.SortStableFunc(l, func(a, b place.Problem) int {
		e, r := at(a)
		f, q := at(b)
		return cmp.Or(a.Rank()-b.Rank(), column(a)-column(b), e-f, r-q, strings.Compare(a.Message, b.Message))
	})
}

// Document is the summary as JSON prints it: build.json and --json.
type Document struct {
	Umbau      string        `json:"umbau"`
	Command    string        `json:"command"`
	Exit       int           `json:"exit"`
	Problems   []ProblemDoc  `json:"problems"`
	Extracts   []extractDoc  `json:"extracts"`
	Fact       factDoc       `json:"fact"`
	Ties       []tieDoc      `json:"ties"`
	Checks     checksDoc     `json:"checks"`
	Changes    []ChangeCount `json:"changes"`
	Empties    []EmptyCount  `json:"empties"`
	Deliveries []deliveryDoc `json:"deliveries"`
	Record     *string       `json:"record"`
	Inputs     []inputDoc    `json:"inputs"`
	NotRead    []notReadDoc  `json:"not_read"`
	Differing  []Differing   `json:"differing"`
	Warnings   []ProblemDoc  `json:"warnings"`
	Seconds    float64       `json:"seconds"`
}

// ProblemDoc is a problem as JSON prints it.
type ProblemDoc struct {
	What    string     `json:"what"`
	Message string     `json:"message"`
	Count   int        `json:"count"`
	File    *string    `json:"file"`
	Sheet   *string    `json:"sheet"`
	Row     *int       `json:"row"`
	Header  *string    `json:"header"`
	Column  *string    `json:"column"`
	Plan    *place.Pos `json:"plan"`
	Add     *string    `json:"add"`
	Advice  *string    `json:"advice"`
	Places  []placeDoc `json:"places"`
}

type placeDoc struct {
	File   *string `json:"file"`
	Sheet  *string `json:"sheet"`
	Row    *int    `json:"row"`
	Header *string `json:"header"`
	Text   *string `json:"text"`
	Note   *string `json:"note,omitempty"`
}

type extractDoc map[string]any

type factDoc struct {
	Rows    int         `json:"rows"`
	Columns []columnDoc `json:"columns"`
}

type columnDoc struct {
	Name string `json:"name"`
	Is   string `json:"is"`
}

type tieDoc struct {
	Tie        string `json:"tie"`
	Measure    string `json:"measure"`
	Extracts   string `json:"extracts"`
	Changed    string `json:"changed"`
	Fact       string `json:"fact"`
	Held       string `json:"held"`
	LeftOut    string `json:"left_out"`
	Difference string `json:"difference"`
}

type checksDoc struct {
	TotalRows    int `json:"total_rows"`
	TotalColumns int `json:"total_columns"`
	Controls     int `json:"controls"`
	Broken       int `json:"broken"`
}

type deliveryDoc struct {
	To     string  `json:"to"`
	Rows   int     `json:"rows"`
	Bytes  int64   `json:"bytes"`
	SHA256 *string `json:"sha256"`
}

type notReadDoc struct {
	File   string   `json:"file"`
	Sheets []string `json:"sheets"`
}

type inputDoc struct {
	File   string  `json:"file"`
	Bytes  int64   `json:"bytes"`
	SHA256 *string `json:"sha256"`
}

// OrNull is a pointer to a value, nil for the zero value.
func OrNull[T comparable](v T) *T {
	var zero T
	if v == zero {
		return nil
	}
	return &v
}

// Problems are the problems of a document.
func Problems(l place.List) []ProblemDoc {
	docs := []ProblemDoc{}
	for _, p := range l {
		d := ProblemDoc{What: p.What, Message: p.Message, Count: p.Count, Column: OrNull(p.Column), Plan: OrNull(p.Plan),
			Add: OrNull(p.Add), Advice: OrNull(p.Advice), File: OrNull(p.File), Places: []placeDoc{}}
		for i, at := range p.Places {
			pd := placeDoc{OrNull(at.File), OrNull(at.Sheet), OrNull(at.Row), OrNull(at.Header), nil, nil}
			if i < len(p.Notes) {
				pd.Note = &p.Notes[i]
			}
			if i < len(p.Texts) {
				pd.Text = &p.Texts[i]
			}
			if i == 0 {
				d.File, d.Sheet, d.Row, d.Header = pd.File, pd.Sheet, pd.Row, pd.Header
			}
			d.Places = append(d.Places, pd)
		}
		docs = append(docs, d)
	}
	return docs
}

// Document returns the summary for a machine. version is the program's.
func (s *Summary) Document(version, command string) *Document {
	d := &Document{Umbau: version, Command: command, Exit: s.ExitCode(), Problems: Problems(s.Problems), Extracts: []extractDoc{},
		Fact: factDoc{Rows: s.FactRows, Columns: []columnDoc{}}, Ties: []tieDoc{}, Changes: []ChangeCount{}, Empties: []EmptyCount{},
		Checks:     checksDoc{s.Checks.TotalRows, s.Checks.TotalColumns, s.Checks.Controls, s.Checks.Broken},
		Deliveries: []deliveryDoc{}, Inputs: []inputDoc{}, NotRead: []notReadDoc{}, Differing: append([]Differing{}, s.Differing...), Warnings: Problems(s.Warnings), Seconds: s.Seconds}
	if s.Recorded {
		d.Record = &s.Plan.Record
	}
	d.Changes = append(d.Changes, s.Changes...)
	d.Empties = append(d.Empties, s.Empties...)
	for i := range s.Extracts {
		e := &s.Extracts[i]
		doc := extractDoc{"file": e.File, "sheet": OrNull(e.Sheet)}
		for j, n := range e.Rows.List() {
			doc[tie.RowsHeader[j]] = n
		}
		d.Extracts = append(d.Extracts, doc)
		for _, m := range e.Measures {
			t := e.Accounts[m].Totals()
			d.Ties = append(d.Ties, tieDoc{e.Name(), s.Plan.Columns[m].Name, t.Read.String(), t.Changed.String(), t.Fact.String(),
				t.Held.String(), t.LeftOut.String(), t.Difference.String()})
		}
	}
	for _, c := range s.Plan.Columns {
		if c.Kept {
			d.Fact.Columns = append(d.Fact.Columns, columnDoc{c.Name, c.Kind.String()})
		}
	}
	for _, f := range s.Deliveries {
		d.Deliveries = append(d.Deliveries, deliveryDoc{f.Name, f.Rows, f.Bytes, f.Digest})
	}
	for _, n := range s.NotRead {
		d.NotRead = append(d.NotRead, notReadDoc{n.File, append([]string{}, n.Sheets...)})
	}
	for _, f := range s.Inputs {
		d.Inputs = append(d.Inputs, inputDoc{place.UTF8(f.Name), f.Bytes, f.Digest})
	}
	return d
}

// JSON writes a document as a machine reads it.
func (d *Document) JSON() []byte {
	out, err := json.MarshalIndent(d, "", "  ")
	if err != nil {
		panic(err) // texts, numbers and maps of them always marshal
	}
	return append(out, '\n')
}
