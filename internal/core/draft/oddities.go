package draft

import (
	"fmt"
	"slices"
	"strings"

	"umbau/internal/core/expression"
	"umbau/internal/core/fact"
	"umbau/internal/core/key"
	"umbau/internal/core/survey"
	"umbau/internal/core/terms"
	"umbau/internal/core/value"
)

// Tables that are not what they look like: without a header row, or with amounts in cents.

// askOddities asks about tables without a header row, of which the first row would be lost, and about those that a build has shown to
// be out of scale.
func (d *drafter) askOddities() {
	for _, e := range d.entries {
		for _, s := range e.sheets {
			if header := s.dataAbove(); header != "" {
				e.askAbout(d, fmt.Sprintf("%s: %q stands where its header row should be, so that a row of data is lost: has it none? "+
					"header: none, and headers: [A] for a column, say so", s.Place.Source(), header))
			}
			e.askSums(d, s)
			e.askHeads(d, s)
			if line := s.wordsBelow(); line > 0 {
				e.askAbout(d, fmt.Sprintf("%s: row %d, below the header, has words and no label or figure: is it one more header row? "+
					"header: N rows says so", s.Place.Source(), line))
			}
			if text := s.titleAbove(); text != "" {
				e.askAbout(d, fmt.Sprintf("%s: %q stands alone in the first column above the headers, some of which stand twice, and is read as "+
					"part of all of them: is it a title? header: %d says so", s.Place.Source(), text, s.HeaderRow))
			}
			if s.Growing {
				e.askAbout(d, fmt.Sprintf("%s: the figures across grow from left to right in every row: are they sums so far, of all months "+
					"before? They would count several times", s.Place.Source()))
			}
			if line, text := s.timeAlone(); line > 0 {
				e.askAbout(d, fmt.Sprintf("%s: row %d has %s alone: is it the time of the rows below it? A plan cannot take it from there; "+
					"have it in a column, or a file for each", s.Place.Source(), line, text))
			}
			if list := s.markedTimes(); len(list) > 0 {
				e.askAbout(d, fmt.Sprintf("%s: %s have a mark that the other headers of times have not: are these figures sales, and no forecast? "+
					"others: [%s] leaves them aside", s.Place.Source(), joined(list), strings.Join(flowHeaders(list), ", ")))
			}
			if s.perhaps != "" {
				e.askAbout(d, fmt.Sprintf("%s: its name may say that %s, but no other table has its labels: if it does, except leaves it aside; "+
					"else say in the entry where its figures stand", s.Place.Source(), s.perhaps))
			}
			if s.source() == d.scaled {
				e.askAbout(d, fmt.Sprintf("%s has amounts without decimals, a hundred times those of the others or so: are these cents?",
					s.Place.Source()))
			}
		}
	}
}

// timeAlone is the first row of data in which nothing but a time stands, if rows with more follow, and its text; 0 for none.
func (s *sheet) timeAlone() (line int, text string) {
	for k, row := range s.Head {
		filled := slices.DeleteFunc(slices.Clone(row), func(c string) bool { return c == "" })
		switch {
		case s.HeadLines[k] <= s.HeaderRow, len(filled) == 0:
		case len(filled) > 1 && text != "":
			return line, text
		case len(filled) > 1:
		default:
			if t, _ := terms.TimeOf(filled[0]); t != terms.None {
				line, text = s.HeadLines[k], filled[0]
			}
		}
	}
	return 0, ""
}

// titleAbove is what the upper one of two header rows says, if it is one text in the first column, which tells no columns apart; "" if it
// is not.
func (s *sheet) titleAbove() (text string) {
	k := slices.Index(s.HeadLines, s.HeaderTop)
	if s.HeaderRows != 2 || k < 0 {
		return ""
	}
	for j, cell := range s.Head[k] {
		switch {
		case cell == "":
		case j != s.Left:
			return ""
		default:
			text = cell
		}
	}
	return text
}

// markedTimes are the headers of times across that have a mark of a footnote behind them, if others have none.
func (s *sheet) markedTimes() (out []string) {
	if s.wideTime() == terms.None && terms.BareTimes(s.wideTimes()) == terms.None {
		return nil
	}
	for _, i := range s.wide {
		if header := strings.TrimSpace(s.header(i)); terms.SaysFootnote(header) {
			out = append(out, header)
		}
	}
	if len(out) == len(s.wide) {
		return nil
	}
	return out
}

// wordsBelow is the first row below the header of a table with more than a label alone, if it has words below headers of figures, two of
// them at least, and no label but those of the header once more; 0 if it does not.
func (s *sheet) wordsBelow() int {
	for k, row := range s.Head {
		filled := slices.DeleteFunc(slices.Clone(row), func(c string) bool { return c == "" })
		if s.HeadLines[k] <= s.HeaderRow || len(filled) < 2 {
			continue
		}
		words := 0
		for j, text := range row {
			i := j - s.Left
			switch {
			case text == "" || i < 0 || i >= len(s.Fields):
			case !s.numeric(i) && !key.Same(text, terms.Once(s.Fields[i].Header)), s.numeric(i) && value.GapOf(text) != value.Text:
				return 0
			case s.numeric(i):
				words++
			}
		}
		if words > 1 {
			return s.HeadLines[k]
		}
		return 0
	}
	return 0
}

// saysSum reports whether a label says that its row is a total.
func saysSum(label string) bool {
	_, total := new(value.Totals).Says(label)
	return total || terms.SaysAll(label) || terms.Results[terms.LastWord(label)]
}

// sumsCalled is the label that all rows of a table have which sum up those above them, two at least, and none of the others, as far
// as these are known, in figures that are no chance; "" for none.
func (s *sheet) sumsCalled() string {
	sums, digits := map[int]bool{}, 0
	for _, r := range s.SumRows {
		sums[r.Row] = true
		digits += r.Digits
	}
	if len(sums) < 2 || digits < certainDigits {
		return ""
	}
	for _, label := range s.SumRows[0].Labels {
		lacks := func(texts []string) bool {
			return !slices.ContainsFunc(texts, func(t string) bool { return key.Same(t, label) })
		}
		alone := !slices.ContainsFunc(s.SumRows, func(r survey.SumRow) bool { return lacks(r.Labels) })
		for k, row := range s.Head {
			alone = alone && (s.HeadLines[k] <= s.HeaderRow || sums[s.HeadLines[k]] || lacks(row))
		}
		if alone {
			return label
		}
	}
	return ""
}

// askSums asks about rows that have the sums of those above them, and do not say that they are totals.
func (e *entry) askSums(d *drafter, s *sheet) {
	if label := s.sumsCalled(); label != "" {
		_, known := new(value.Totals).Says(label)
		if !known && !slices.Contains(e.totalWords, label) { // a build sees whether they agree
			e.totalWords = append(e.totalWords, label)
		}
		return
	}
	for _, r := range s.SumRows {
		if slices.ContainsFunc(r.Labels, saysSum) {
			continue
		}
		called := "has no label that says so"
		if len(r.Labels) > 0 {
			called = "says " + strings.Join(r.Labels, ", ")
		}
		e.askAbout(d, fmt.Sprintf("%s: row %d has the sums of the rows above it, and %s: is it a total? rows: { only: … } leaves it out, "+
			"total_words: [label] one with a label of its own", s.Place.Source(), r.Row, called))
		return
	}
}

// withhold keeps the measures of an entry that were asked for back, as nobody knows whether they are those; where none were, or no
// header says measures, the build.
func (d *drafter) withhold(e *entry) {
	some := false
	for _, c := range d.columns {
		if c.class.OfMeasure() && len(d.Columns) > 0 {
			c.tossUps[e], some = unlike, true
		}
	}
	e.waits = e.waits || !some
}

// waits reports whether a column is left out though it has a source, until a question is settled.
func (c *column) waits() bool {
	for _, list := range c.tossUps {
		if list != nil && len(list) == 0 {
			return true
		}
	}
	return false
}

// askAbout asks about an entry, so that a build with the plan stops. What stands across keeps its place in the plan, which
// would be hard to write by hand.
func (e *entry) askAbout(d *drafter, text string) {
	if len(e.sheets[0].wide) > 0 {
		e.waits = true
	} else {
		d.withhold(e)
	}
	if !slices.Contains(e.open, text) {
		e.open = append(e.open, text)
	}
}

// decimal is a number with decimals, which no header is.
var decimal = expression.Of(`^[-(]?[\d.,' ]*\d[.,]\d{1,2}\)?$`)

// dataAbove is what shows that the header row of a table is one of data: a date above dates, or a number with decimals above figures that
// do not stand across, or beside a label that is one of those below; "" for nothing.
func (s *sheet) dataAbove() string {
	label := slices.ContainsFunc(s.labels(), func(i int) bool {
		f, k := &s.Fields[i], key.Of(s.Fields[i].Header)
		return f.Is == "text" && k != "" && slices.ContainsFunc(f.Values, func(v string) bool { return key.Of(v) == k })
	})
	for i := range s.Fields {
		f := &s.Fields[i]
		header := strings.TrimSpace(f.Header)
		c, _ := terms.TimeOf(header)
		switch {
		case (f.Is == "date" || f.Is == "month") && (c == terms.Day || c == terms.Month),
			s.numeric(i) && decimal().MatchString(header) && (label || len(s.wide) == 0):
			return header
		}
	}
	return ""
}

// outOfScale finds the table of which all amounts are whole, while those of others have decimals, and twenty times as large on average,
// at least, as in any of these. It is called by its source; "" for none.
func (d *drafter) outOfScale(s *fact.Summary) string {
	c := d.of(terms.Amount)
	if c == nil || c.missing {
		return ""
	}
	whole, mean := map[string]bool{}, map[string]value.Decimal{}
	for _, e := range d.extracts() {
		fields := func(f survey.Field) bool { return f.Is == "number" }
		whole[e.source()] = !slices.ContainsFunc(e.Fields, fields)
	}
	var odd []string
	most, others := value.Decimal{}, 0
	for i := range s.Extracts {
		x := &s.Extracts[i]
		if x.Rows.Fact < 3 {
			continue
		}
		source := x.File + "\x00" + x.Sheet
		sum := x.Account(s.Plan.Index(c.name)).Fact.Total()
		m, _ := sum.Abs().Quo(value.NewDecimal(int64(x.Rows.Fact), 0))
		if mean[source] = m; whole[source] {
			odd = append(odd, source)
		} else if others++; m.Cmp(most) > 0 {
			most = m
		}
	}
	if len(odd) != 1 || others == 0 || most.Sign() == 0 || mean[odd[0]].Cmp(most.Mul(value.NewDecimal(20, 0))) < 0 {
		return ""
	}
	return odd[0]
}
