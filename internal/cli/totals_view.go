package cli

import (
	"fmt"
	"strings"

	"umbau/internal/core/finished"
	"umbau/internal/core/place"
	"umbau/internal/core/totals"
	"umbau/internal/core/value"
)

// printTotals prints the result for a person.
func (a *app) printTotals(t *finished.Table, r *totals.Result) {
	c := crosstab{labels: r.By}
	shows := map[totals.Show]bool{}
	measures := map[string]bool{}
	for _, f := range r.Columns {
		shows[f.Show] = true
		measures[f.Of] = measures[f.Of] || f.Show != totals.Count
	}
	for _, f := range r.Columns {
		head := []string{}
		if r.Across != "" {
			label := "total"
			switch {
			case f.Across != nil:
				label = *f.Across
			case f.Empty:
				label = "(empty)"
			}
			head = append(head, label)
		}
		if len(measures) > 1 || r.Across == "" || len(shows) > 1 {
			head = append(head, measureHead(f, len(shows) > 1))
		}
		c.heads = append(c.heads, head)
	}
	if len(c.labels) == 0 {
		c.labels = []string{""}
	}
	style := newFigureStyle(r)
	var before []string
	for i := range r.Rows {
		row := &r.Rows[i]
		line := crossRow{total: row.Level() < len(r.By) || len(r.By) == 0}
		line.labels, before = shownLabels(row, len(r.By), before)
		line.gap = len(r.By) > 1 && row.Level() == 1
		for j, f := range row.Figures {
			line.figures = append(line.figures, style.figure(r, row, j, f))
		}
		c.rows = append(c.rows, line)
	}
	c.print(a, windowWidth(a.out))
	a.printTotalsNotes(t, r)
}

// measureHead is what a column of figures is called on the screen.
func measureHead(f totals.Figure, show bool) string {
	switch {
	case f.Show == totals.Count:
		return "rows"
	case f.Show == totals.Share:
		return f.Of + " %"
	case show && f.Show != totals.Sum:
		return f.Of + " " + f.Show.String()
	}
	return f.Of
}

// shownLabels are the labels of a line: those that stand in the line above are not said
// again.
func shownLabels(row *totals.Row, levels int, before []string) (shown, all []string) {
	for _, l := range row.By {
		text := "(empty)"
		if l != nil {
			text = *l
		}
		all = append(all, text)
	}
	switch {
	case row.Level() == 0:
		return []string{"total"}, nil
	case row.Level() < levels && row.Other == 0:
		shown = append(shown, all[:row.Level()]...)
		for i := range row.Level() - 1 {
			shown[i] = ""
		}
		return append(shown, "total"), all
	}
	same := true
	for i, text := range all {
		same = same && i < len(before) && before[i] == text && i < len(all)-1
		if same {
			text = ""
		}
		shown = append(shown, text)
	}
	return shown, all
}

// figureStyle says with how many places each kind of figure is shown, and which have marks.
type figureStyle struct {
	places map[string]int // of a measure
	marks  int            // the most that a figure has
}

func newFigureStyle(r *totals.Result) *figureStyle {
	s := &figureStyle{places: map[string]int{}}
	for _, row := range r.Rows {
		for j, f := range row.Figures {
			column := r.Columns[j]
			if f != nil && (column.Show == totals.Sum || column.Show == totals.Min || column.Show == totals.Max) {
				if _, decimals, ok := strings.Cut(*f, "."); ok {
					s.places[column.Of] = max(s.places[column.Of], len(decimals))
				}
			}
			s.marks = max(s.marks, displayWidth(marks(&row, j)))
		}
	}
	for of, places := range r.Decimals {
		s.places[of] = max(s.places[of], places, r.Places[of])
	}
	return s
}

// marks say that cells are missing from a figure.
func marks(row *totals.Row, j int) string { return markOf(row.Gaps[j], row.Blanks[j]) }

// markOf says that cells are missing: some are no number, others are empty.
func markOf(gaps, blanks int) (text string) {
	if gaps > 0 {
		text += "*"
	}
	if blanks > 0 {
		text += "°"
	}
	return text
}

// figure is a figure as a person reads it.
func (s *figureStyle) figure(r *totals.Result, row *totals.Row, j int, f *string) string {
	mark := padded(marks(row, j), s.marks, false)
	if f == nil {
		return mark
	}
	column := r.Columns[j]
	switch column.Show {
	case totals.Count, totals.Filled, totals.Distinct:
		return value.Grouped(*f) + mark
	}
	d, _, ok := value.English.Number([]byte(*f))
	if !ok {
		return *f + mark
	}
	places := s.places[column.Of]
	if column.Show == totals.Share {
		places = 2
	} else if column.Show == totals.Mean {
		places = max(places, 2)
	}
	d, _ = d.Rescale(places)
	return value.Grouped(d.String()) + mark
}

// printTotalsNotes says what is not in the figures.
func (a *app) printTotalsNotes(t *finished.Table, r *totals.Result) {
	notes := totalsNotes(t, r)
	if len(notes) > 0 {
		fmt.Fprintln(a.out)
	}
	for _, n := range notes {
		fmt.Fprintf(a.out, "  %s\n", n)
	}
}

func totalsNotes(t *finished.Table, r *totals.Result) (notes []string) {
	for _, g := range r.Gaps {
		if measured(r, g.Column) {
			notes = append(notes, gapNote(g, "", kindOf(t, g.Column)))
			continue
		}
		notes = append(notes, fmt.Sprintf("%s of %s %s taken as empty: %q in row %d first", countOf(g.Count, g.Kind.String()), g.Column,
			isOrAre(g.Count), place.Shorten(g.Places[0].Text), g.Places[0].Row))
	}
	for _, g := range r.Groups {
		if g.Rows > 0 {
			notes = append(notes, fmt.Sprintf("%s: %s in no group and counted as Other: %s", g.Column, countOf(g.Rows, "row")+" "+isOrAre(g.Rows),
				place.Shorten(strings.Join(g.Values, ", "))))
		}
	}
	for _, s := range r.Spellings {
		notes = append(notes, "spellings of one name, kept apart: "+s)
	}
	if r.Kept < r.Read {
		notes = append(notes, fmt.Sprintf("%s of %s", value.Grouped(fmt.Sprint(r.Kept)), countOf(r.Read, "row")))
	}
	return notes
}

// measured reports whether figures are of a column.
func measured(r *totals.Result, column string) bool {
	_, is := r.Decimals[column]
	return is
}

// gapNote says what a mark on figures stands for.
func gapNote(g totals.Gap, in, kind string) string {
	first := g.Places[0]
	if g.Kind == value.Blank {
		return fmt.Sprintf("° %s of %s %s%s empty: row %d first", countOf(g.Count, "cell"), g.Column, in, isOrAre(g.Count), first.Row)
	}
	return fmt.Sprintf("* %s of %s %s%s no %s and not in these figures: %q in row %d first", countOf(g.Count, g.Kind.String()), g.Column, in,
		isOrAre(g.Count), kind, place.Shorten(first.Text), first.Row)
}

func isOrAre(n int) string {
	if n == 1 {
		return "is"
	}
	return "are"
}

// kindOf is what a column of a table holds, for a person.
func kindOf(t *finished.Table, column string) string {
	for _, c := range t.Columns {
		if c.Name == column && !c.Kind.Numeric() {
			return c.Kind.String()
		}
	}
	return "number"
}

// totalsDoc is what totals prints with --json.
type totalsDoc struct {
	place.DocHead
	Table   string         `json:"table"`
	By      []string       `json:"by"`
	Across  *string        `json:"across"`
	Columns []figureDoc    `json:"columns"`
	Rows    []totalsRowDoc `json:"rows"`
	Read    int            `json:"read"`
	Kept    int            `json:"kept"`
	Gaps    []totalsGapDoc `json:"gaps"`
	Groups  []inNoneDoc    `json:"groups"`
	Tie     []tieDoc       `json:"tie"`
}

type tieDoc struct {
	Measure string `json:"measure"`
	Said    string `json:"said"`
	Have    string `json:"have"`
	Held    string `json:"held"`
	Agrees  bool   `json:"agrees"`
}

type figureDoc struct {
	Across *string `json:"across"`
	Of     *string `json:"of"`
	Show   string  `json:"show"`
	Total  bool    `json:"total,omitempty"`
}

type totalsRowDoc struct {
	By      []*string `json:"by"`
	Level   int       `json:"level"`
	Figures []*string `json:"figures"`
	Gaps    []int     `json:"gaps"`
	Other   int       `json:"other"`
}

type totalsGapDoc struct {
	Column string        `json:"column"`
	Kind   string        `json:"kind"`
	Count  int           `json:"count"`
	Places []gapPlaceDoc `json:"places"`
}

type gapPlaceDoc struct {
	Row  int    `json:"row"`
	Text string `json:"text"`
}

type inNoneDoc struct {
	Column string   `json:"column"`
	Values []string `json:"values"`
	Rows   int      `json:"rows"`
}

func totalsDocOf(t *finished.Table, r *totals.Result, ties []totals.Tie, recorded bool, problems place.List, command string) totalsDoc {
	d := totalsDoc{DocHead: head(command, problems.ExitCode(), problems), Table: t.Name, By: orEmpty(r.By),
		Across: place.OrNull(r.Across), Columns: []figureDoc{}, Rows: []totalsRowDoc{}, Read: r.Read, Kept: r.Kept, Gaps: []totalsGapDoc{},
		Groups: []inNoneDoc{}}
	for _, f := range r.Columns {
		d.Columns = append(d.Columns, figureDoc{f.Across, place.OrNull(f.Of), f.Show.String(), f.Total})
	}
	for _, row := range r.Rows {
		d.Rows = append(d.Rows, totalsRowDoc{row.By, row.Level(), row.Figures, row.Gaps, row.Other})
	}
	for _, g := range r.Gaps {
		doc := totalsGapDoc{Column: g.Column, Kind: g.Kind.String(), Count: g.Count}
		for _, p := range g.Places {
			doc.Places = append(doc.Places, gapPlaceDoc(p))
		}
		d.Gaps = append(d.Gaps, doc)
	}
	for _, g := range r.Groups {
		d.Groups = append(d.Groups, inNoneDoc(g))
	}
	if recorded {
		d.Tie = []tieDoc{}
	}
	for _, tie := range ties {
		d.Tie = append(d.Tie, tieDoc{tie.Measure, figureOf(r, tie.Measure, tie.Said), figureOf(r, tie.Measure, tie.Have),
			figureOf(r, tie.Measure, tie.Held), tie.Agrees()})
	}
	return d
}

// figureOf is an amount of a measure with its decimals, or as short as it is.
func figureOf(r *totals.Result, measure string, d value.Decimal) string {
	if places, ok := r.Decimals[measure]; ok && places >= 0 {
		if fixed, changed := d.Rescale(places); !changed {
			return fixed.String()
		}
	}
	return d.Shorten().String()
}

// shownAmount is the same for a person.
func shownAmount(r *totals.Result, measure string, d value.Decimal) string {
	return value.Grouped(figureOf(r, measure, d))
}

// printTie says whether the table agrees with the record of its build.
func (a *app) printTie(r *totals.Result, ties []totals.Tie, record *totals.Record, folder string) {
	for i, tie := range ties {
		if i == 0 {
			fmt.Fprintln(a.out)
		}
		said, have := shownAmount(r, tie.Measure, tie.Said), shownAmount(r, tie.Measure, tie.Have)
		if !tie.Agrees() {
			text := fmt.Sprintf("Does not tie to the build: %s is %s here and %s in %s: %s apart", tie.Measure, have, said, folder,
				shownAmount(r, tie.Measure, tie.Have.Sub(tie.Said)))
			fmt.Fprintf(a.out, "  %s\n", a.colored(a.out, bad, text))
			continue
		}
		held := ""
		if tie.Held.Sign() != 0 {
			held = fmt.Sprintf(" (%s %s held, with %s, and not in here)", countOf(record.HeldRows, "fact row"), isOrAre(record.HeldRows),
				shownAmount(r, tie.Measure, tie.Held))
		}
		text := fmt.Sprintf("Ties to the build: %s %s in %s", tie.Measure, have, folder)
		fmt.Fprintf(a.out, "  %s%s\n", a.colored(a.out, good, text), held)
	}
}
