package report

import (
	"encoding/csv"
	"encoding/json"
	"errors"
	"fmt"
	"io"
	"io/fs"
	"slices"
	"strconv"
	"strings"
	"time"

	"umbau/internal/core/record"
	"umbau/internal/core/table"
	"umbau/internal/core/value"
)

// account is what the record says of a build.
type account struct {
	Exit     int       `json:"exit"`
	Problems []problem `json:"problems"`
	Warnings []problem `json:"warnings"`
	NotRead  []struct {
		File   string   `json:"file"`
		Sheets []string `json:"sheets"`
		Files  int      `json:"files"` // of a folder
	} `json:"not_read"`
	Differing []struct {
		Measure string `json:"measure"`
		Rows    int    `json:"rows"`
		Amount  string `json:"amount"`
	} `json:"differing"`
	Fact struct {
		Rows int `json:"rows"`
	} `json:"fact"`
	Ties []struct {
		Tie, Measure, Extracts, Changed, Fact, Held, Difference string
		LeftOut                                                 string `json:"left_out"`
	} `json:"ties"`
	Checks struct {
		TotalRows    int `json:"total_rows"`
		TotalColumns int `json:"total_columns"`
		Controls     int `json:"controls"`
		Broken       int `json:"broken"`
	} `json:"checks"`
	Changes []struct {
		Column, Kind string
		Count        int
	} `json:"changes"`
	Lookups []struct {
		Column, Reference string
		Found, Missing    int
	} `json:"lookups"`
	Deliveries []file     `json:"deliveries"`
	Inputs     []file     `json:"inputs"`
	Since      *sinceDoc  `json:"since"`
	Noticed    noticedDoc `json:"noticed"`

	Title    string
	Plan     string
	At       time.Time
	Gaps     gapTable
	Became   []became
	Names    []name
	Open     int // names that are not decided
	Broken   []check
	LeftOut  []leftOut
	Rows     []extract
	Changed  []change
	HeldAt   []spot
	HeldN    int
	ChangedN int

	digest   func(file string) string
	calendar value.Calendar
	own      []byte // the text of the plan
}

// problem is what stands in the way, or a person should look at.
type problem struct {
	Message string  `json:"message"`
	Count   int     `json:"count"`
	Add     *string `json:"add"`
	Advice  *string `json:"advice"`
	Places  []struct {
		File   *string `json:"file"`
		Sheet  *string `json:"sheet"`
		Row    *int    `json:"row"`
		Header *string `json:"header"`
	} `json:"places"`
}

// file is one that was read or delivered.
type file struct {
	File, To string
	Bytes    int64
	SHA256   *string
	Files    []file
}

// spot is where a cell stands.
type spot struct{ File, Sheet, Row, Header, Column, Why string }

// change is a cell that got another value.
type change struct {
	spot
	Before, After string
}

// extract is one with its rows.
type extract struct {
	Name                      string
	Read, Used, Fact, Held    int
	Blank, Total, Foot, Other int
}

// gapTable is how many cells of each extract were no usable values.
type gapTable struct {
	Columns []gapColumn
	Lines   []gapLine
	Most    int
}

type gapColumn struct{ Column, Kind string }

type gapLine struct {
	Extract string
	Counts  []int
}

// became is what cells of one kind became.
type became struct {
	Column, Kind string
	Count        int
	Into         []into
	more         map[string]int
}

type into struct {
	Text  string
	Count int
}

type name struct {
	Column, Seen, Standard, How string
	Cells                       int
}

type check struct {
	Kind, At, Measure, Said, Have, Difference string
}

type leftOut struct {
	Reason string
	Count  int
	First  []spot
}

// The most that is listed of names, held cells, and what cells became.
const (
	mostChanged = 300
	mostNames   = 300
	mostHeld    = 100
	mostInto    = 5
	mostBroken  = 100
	mostFirst   = 3
)

// readAccount reads what a page tells of a build.
func readAccount(t table.Told) (*account, error) {
	a := &account{Plan: t.Plan, own: t.Own, At: t.At, digest: t.Digest, calendar: t.Calendar}
	if err := json.Unmarshal(t.Build, a); err != nil {
		return nil, fmt.Errorf("%s is no record of a build: %w", record.BuildFile, err)
	}
	gaps := map[string]map[gapColumn]int{}
	for _, r := range []struct {
		file  string
		width int
		line  func(cells []string)
	}{
		{record.RowsFile, 18, a.addExtract},
		{record.ChangesFile, 8, func(c []string) { a.addChange(gaps, c) }},
		{record.HeldFile, 7, func(c []string) { a.addHeld(gaps, c) }},
		{record.NamesFile, 5, a.addName},
		{record.ChecksFile, 10, a.addCheck},
		{record.LeftOutFile, 5, a.addLeftOut},
	} {
		if err := readLines(t, r.file, r.width, r.line); err != nil {
			return nil, err
		}
	}
	a.drawGaps(gaps)
	return a, nil
}

// readLines reads a file of the record, behind its header.
func readLines(t table.Told, name string, width int, line func([]string)) error {
	in, err := t.Record(name)
	if errors.Is(err, fs.ErrNotExist) {
		return nil
	}
	if err != nil {
		return err
	}
	defer in.Close()
	r := csv.NewReader(in)
	r.ReuseRecord = true
	for i := 0; ; i++ {
		cells, err := r.Read()
		switch {
		case err == io.EOF:
			return nil
		case err != nil:
			return fmt.Errorf("%s: %w", name, err)
		case len(cells) < width:
			return fmt.Errorf("%s has %d columns, not %d: build again", name, len(cells), width)
		case i > 0:
			line(cells)
		}
	}
}

// nameOf is an extract as the page calls it.
func nameOf(file, sheet string) string {
	if sheet != "" {
		return file + ", sheet " + sheet
	}
	return file
}

func (a *account) addExtract(c []string) {
	n := func(i int) int {
		k, _ := strconv.Atoi(c[i])
		return k
	}
	e := extract{Name: strings.Clone(nameOf(c[0], c[1])), Read: n(2), Blank: n(3), Total: n(5), Foot: n(6), Used: n(9), Fact: n(len(c) - 1)}
	e.Other = n(4) + n(7) + n(8)
	e.Held = n(13)
	a.Rows = append(a.Rows, e)
}

func (a *account) addChange(gaps map[string]map[gapColumn]int, c []string) {
	g := gapColumn{c[4], c[5]}
	i := slices.IndexFunc(a.Became, func(b became) bool { return b.Column == g.Column && b.Kind == g.Kind })
	if i < 0 {
		a.Became = append(a.Became, became{Column: strings.Clone(g.Column), Kind: strings.Clone(g.Kind), more: map[string]int{}})
		i = len(a.Became) - 1
	}
	b := &a.Became[i]
	g = gapColumn{b.Column, b.Kind}
	if b.Count++; len(a.Changed) < mostChanged {
		at := spot{strings.Clone(c[0]), strings.Clone(c[1]), strings.Clone(c[2]), strings.Clone(c[3]), b.Column, b.Kind}
		a.Changed = append(a.Changed, change{at, strings.Clone(c[6]), strings.Clone(c[7])})
	}
	a.ChangedN++
	if b.Kind == "rounding" { // each is another figure
		countGap(gaps, nameOf(c[0], c[1]), g)
		return
	}
	if _, known := b.more[c[7]]; known || len(b.more) < 1000 {
		b.more[strings.Clone(c[7])]++
	}
	countGap(gaps, nameOf(c[0], c[1]), g)
}

func countGap(gaps map[string]map[gapColumn]int, extract string, g gapColumn) {
	if gaps[extract] == nil {
		gaps[strings.Clone(extract)] = map[gapColumn]int{}
	}
	gaps[extract][g]++
}

func (a *account) addHeld(gaps map[string]map[gapColumn]int, c []string) {
	a.HeldN++
	if len(a.HeldAt) < mostHeld {
		a.HeldAt = append(a.HeldAt, spot{strings.Clone(c[0]), strings.Clone(c[1]), strings.Clone(c[2]), strings.Clone(c[3]), strings.Clone(c[4]),
			strings.Clone(c[5])})
	}
	reason := c[5]
	if strings.HasPrefix(reason, "unknown name") {
		reason = "unknown name"
	}
	countGap(gaps, nameOf(c[0], c[1]), gapColumn{strings.Clone(c[4]), strings.Clone(reason) + ", held"})
}

func (a *account) addName(c []string) {
	cells, _ := strconv.Atoi(c[4])
	if c[3] == "unknown" {
		a.Open++
	}
	if c[3] != "same" {
		a.Names = append(a.Names, name{strings.Clone(c[0]), strings.Clone(c[1]), strings.Clone(c[2]), strings.Clone(c[3]), cells})
	}
}

func (a *account) addCheck(c []string) {
	if strings.Trim(c[9], "0.-") == "" && c[7] != "" || len(a.Broken) >= mostBroken {
		return
	}
	at := nameOf(c[1], c[2])
	if c[5] != "" {
		at += ": " + c[5]
	} else {
		at += ", row " + c[3] + ", " + c[4]
	}
	a.Broken = append(a.Broken, check{strings.Clone(c[0]), at, strings.Clone(c[6]), strings.Clone(c[7]), strings.Clone(c[8]),
		strings.Clone(c[9])})
}

func (a *account) addLeftOut(c []string) {
	i := slices.IndexFunc(a.LeftOut, func(l leftOut) bool { return l.Reason == c[4] })
	if i < 0 {
		a.LeftOut = append(a.LeftOut, leftOut{Reason: strings.Clone(c[4])})
		i = len(a.LeftOut) - 1
	}
	l := &a.LeftOut[i]
	if l.Count++; l.Count <= mostFirst {
		l.First = append(l.First, spot{File: strings.Clone(c[0]), Sheet: strings.Clone(c[1]), Row: strings.Clone(c[2]),
			Header: strings.Clone(c[3])})
	}
}

// drawGaps puts the counts into a table: extracts in their order, columns and kinds in that of
// their first.
func (a *account) drawGaps(gaps map[string]map[gapColumn]int) {
	t := &a.Gaps
	for _, of := range gaps {
		for g := range of {
			if !slices.Contains(t.Columns, g) {
				t.Columns = append(t.Columns, g)
			}
		}
	}
	slices.SortFunc(t.Columns, func(x, y gapColumn) int {
		if c := strings.Compare(x.Column, y.Column); c != 0 {
			return c
		}
		return strings.Compare(x.Kind, y.Kind)
	})
	for _, e := range a.Rows {
		line := gapLine{Extract: e.Name}
		for _, g := range t.Columns {
			n := gaps[e.Name][g]
			line.Counts = append(line.Counts, n)
			t.Most = max(t.Most, n)
		}
		t.Lines = append(t.Lines, line)
	}
	for i := range a.Became {
		b := &a.Became[i]
		for text, n := range b.more {
			b.Into = append(b.Into, into{text, n})
		}
		slices.SortFunc(b.Into, func(x, y into) int {
			if x.Count != y.Count {
				return y.Count - x.Count
			}
			return strings.Compare(x.Text, y.Text)
		})
		b.Into = b.Into[:min(mostInto, len(b.Into))]
	}
	slices.SortStableFunc(a.Names, func(x, y name) int { return rankOfHow(x.How) - rankOfHow(y.How) })
}

// rankOfHow puts names that are not decided first, then those that a book decides.
func rankOfHow(how string) int {
	switch how {
	case "unknown":
		return 0
	case "book":
		return 1
	}
	return 2
}

// step is a step of the account of a measure.
type step struct {
	Name, Figure, What string
	Width              float64 // of its bar, in hundredths
	Minus              bool
}

// measure is the account of a measure, all extracts together.
type measure struct {
	Name  string
	Steps []step
	Held  string // its amount, "" for none
	Ties  bool
}

// sum adds amounts up as they stand.
func sum(of []string) value.Decimal {
	var s value.Sum
	for _, text := range of {
		d, _, _ := value.English.Number([]byte(text))
		s.Add(d)
	}
	return s.Total()
}

// measures are the accounts of the measures.
func (a *account) measures() (out []measure) {
	var order []string
	for _, t := range a.Ties {
		if !slices.Contains(order, t.Measure) {
			order = append(order, t.Measure)
		}
	}
	for _, name := range order {
		var all [6][]string
		for _, t := range a.Ties {
			if t.Measure == name {
				for i, text := range []string{t.Extracts, t.Changed, t.Fact, t.Held, t.LeftOut, t.Difference} {
					all[i] = append(all[i], text)
				}
			}
		}
		m := measure{Name: name, Ties: sum(all[5]).Sign() == 0}
		largest := value.Decimal{}
		for i, what := range []string{"read", "changed", "fact", "held", "left out"} {
			d := sum(all[i])
			if d.Abs().Cmp(largest) > 0 {
				largest = d.Abs()
			}
			fact := "in the fact table"
			if a.Exit != 0 {
				fact = "would be in the fact table"
			}
			m.Steps = append(m.Steps, step{Name: what, Figure: value.Grouped(d.String()), Minus: d.Sign() < 0,
				What: []string{"in the cells of the extracts", "by rules for gaps, roundings, corrections", fact,
					"set aside for a person", "filtered, repeated, skipped"}[i]})
		}
		for i := range m.Steps {
			if q, ok := sum(all[i]).Abs().QuoTo(largest, 4); ok {
				m.Steps[i].Width, _ = strconv.ParseFloat(q.String(), 64)
				m.Steps[i].Width *= 100
			}
		}
		if d := sum(all[3]); d.Sign() != 0 {
			m.Held = value.Grouped(d.String())
		}
		out = append(out, m)
	}
	return out
}
