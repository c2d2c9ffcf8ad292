package fact

import (
	"cmp"
	"fmt"
	"maps"
	"slices"
	"strings"

	"umbau/internal/core/keep"
	"umbau/internal/core/pass"
	"umbau/internal/core/place"
	"umbau/internal/core/plan"
	"umbau/internal/core/table"
	"umbau/internal/core/treat"
	"umbau/internal/core/value"
	"umbau/internal/core/whole"
)

// Rows whose grain stands again are known only when all rows were read. Where the
// plan keeps one of them, or adds them up, the extracts are then read once more,
// with what becomes of each such row at hand; a build without repeats reads once.

// repeat settles rows whose grain stands again. prepared is what was wrong before anything
// was read.
func (b *build) repeat(prepared place.List) {
	if b.kept.grain == nil || b.summary.ExitCode() == 1 || b.ctx.Err() != nil {
		return
	}
	again, err := b.kept.grain.Repeats()
	if err != nil {
		p := place.InPlan(b.plan.Rows.Pos, "output", "the grain of so many rows needs a temporary file, which cannot be written: %s",
			whole.Reason(err))
		p.File, p.Advice = b.plan.File, "make room in the folder for temporary files, or name another one with TMPDIR"
		b.fail(p)
		return
	}
	if len(again) == 0 {
		return
	}
	m := &marked{}
	switch b.plan.Rows.Repeats {
	case plan.First, plan.Last:
		b.weighRepeats(again)
		m.pick(again, b.plan.Rows.Repeats == plan.Last)
	case plan.Sum:
		if !b.sumRepeats(again, m) {
			return
		}
	default:
		b.stopRepeats(again)
		return
	}
	b.readAgain(m, prepared)
}

// readAgain builds once more, with what becomes of certain rows at hand.
func (b *build) readAgain(m *marked, prepared place.List) {
	b.rules.Repeats = m.of
	b.begin()
	b.summary.Problems, b.summary.Checks = slices.Clone(prepared), Checks{}
	b.kept.grain = nil
	b.read()
}

// marked are fact rows that a further reading treats apart, by their positions in order.
type marked struct {
	positions []pass.Position
	fate      table.Fate                       // of these
	sums      map[pass.Position][]treat.Summed // of the first row of each grain
}

// of is what becomes of the rows of a block.
func (m *marked) of(extract, slots int) (out treat.Repeats) {
	find := keep.NewFinder(m.positions, extract, slots)
	out.Fate = func(line, slot int) table.Fate {
		if find.Index(line, slot) >= 0 {
			return m.fate
		}
		return table.Delivered
	}
	if m.sums != nil {
		out.Sums = func(line, slot int) []treat.Summed { return m.sums[pass.PositionOf(extract, line, slot, slots)] }
	}
	return out
}

// pick chooses the rows that are left out: all but the first, or the last, of each
// grain.
func (m *marked) pick(again []keep.Repeat, last bool) {
	m.fate = table.Repeated
	latest := map[pass.Position]pass.Position{}
	for _, a := range again {
		gone := a.Again
		if last {
			if before, ok := latest[a.First]; ok {
				gone = before
			} else {
				gone = a.First
			}
			latest[a.First] = a.Again
		}
		m.positions = append(m.positions, gone)
	}
	slices.Sort(m.positions)
}

// Differing is how much of a measure went with rows that were left out for another one of
// their grain, though they differ from it, and how many rows.
type Differing struct {
	Measure string `json:"measure"`
	Rows    int    `json:"rows"`
	Amount  string `json:"amount"`
}

// weighRepeats adds up what goes with rows that differ from the one that stays.
func (b *build) weighRepeats(again []keep.Repeat) {
	group := map[pass.Position]pass.Position{} // the first row of each
	var positions []pass.Position
	for _, a := range again {
		group[a.Again], group[a.First] = a.First, a.First
		positions = append(positions, a.Again, a.First)
	}
	rows := map[pass.Position][]keep.Row{}
	b.look(positions, func(row keep.Row) { rows[group[row.Position]] = append(rows[group[row.Position]], row) })
	measures, sums, count := b.plan.Amounts(), map[int]*value.Sum{}, 0
	for _, list := range rows {
		stays := list[0]
		if b.plan.Rows.Repeats == plan.Last {
			stays = list[len(list)-1]
		}
		for _, row := range list {
			if b.differs(stays, row) {
				count++
				for _, ci := range measures {
					if row.Filled[ci] {
						if sums[ci] == nil {
							sums[ci] = &value.Sum{}
						}
						sums[ci].Add(row.Numbers[ci])
					}
				}
			}
		}
	}
	for _, ci := range measures {
		if count > 0 {
			total := value.Decimal{}
			if sums[ci] != nil {
				total = sums[ci].Total()
			}
			b.summary.Differing = append(b.summary.Differing, Differing{b.plan.Columns[ci].Name, count, total.String()})
		}
	}
}

// differs reports whether two rows of one grain differ in a column that is delivered.
func (b *build) differs(one, other keep.Row) bool {
	return slices.ContainsFunc(b.plan.Kept(), func(ci int) bool { return one.Texts[ci] != other.Texts[ci] })
}

// look reads the extracts for certain rows, and hands them over in order. What else that
// finds is known already.
func (b *build) look(positions []pass.Position, take func(keep.Row)) {
	pass.Run(b.ctx, &b.rules, b.inputs, keep.NewRows(positions, take))
}

// summation is what rows of one grain add up to.
type summation struct {
	first  pass.Position
	rows   int
	others []string // of the first row: what must be the same in all
	sums   []treat.Summed
	last   int    // the extract of the last row
	filled []bool // by measure: in a row of that, and not 0
}

// add adds a row, and reports whether one of its extract has a measure that it has, too; 0 may stand for none.
func (g *summation) add(row keep.Row) (within bool) {
	g.rows++
	if own := row.Position.Extract(); own != g.last || g.filled == nil {
		g.last, g.filled = own, make([]bool, len(g.sums))
	}
	for i := range g.sums {
		s := &g.sums[i]
		if row.Filled[s.Column] {
			s.Sum.Add(row.Numbers[s.Column])
			s.Filled = true
			if row.Numbers[s.Column].Sign() != 0 {
				within, g.filled[i] = within || g.filled[i], true
			}
		}
	}
	return within
}

// sumRepeats adds up the rows of each grain that stands again, and marks all but the first.
// It returns false where they differ in what cannot be added.
func (b *build) sumRepeats(again []keep.Repeat, m *marked) bool {
	same, grain, groups := b.mustAgree(), b.plan.Indexes(b.plan.Rows.Grain), map[string]*summation{}
	differ := place.Problem{What: "repeats differ", Rule: true, Plan: b.plan.Rows.Pos,
		Message: "rows of one grain cannot be added up: they differ in other columns",
		Advice:  "add the column that differs to the grain, leave it out of the table, or let repeats keep the first or last row"}
	b.look(positionsOf(again), func(row keep.Row) {
		k := strings.Join(textsOf(row, grain), "\x00")
		g := groups[k]
		if g == nil {
			g = &summation{first: row.Position, others: textsOf(row, same)}
			for _, ci := range b.plan.Amounts() {
				g.sums = append(g.sums, treat.Summed{Column: ci})
			}
			groups[k] = g
		} else {
			m.positions = append(m.positions, row.Position)
			if text := b.difference(same, g.others, row.Texts); text != "" {
				differ.Count++
				if len(differ.Places) < place.MostPlaces {
					differ.Places = append(differ.Places, row.Position.Place(b.inputs))
					differ.Texts = append(differ.Texts, "first "+g.first.Place(b.inputs).String()+": "+text)
				}
			}
		}
		if g.add(row) {
			b.within.Count++
			if len(b.within.Places) < place.MostPlaces {
				b.within.Places = append(b.within.Places, row.Position.Place(b.inputs))
			}
		}
	})
	if b.within.Count*fewWithin > len(m.positions) {
		b.within.Count = 0
	}
	if differ.Count > 0 {
		b.summary.Repeats = differ.Count
		b.fail(differ)
		return false
	}
	m.fate, m.sums = table.Summed, map[pass.Position][]treat.Summed{}
	for _, g := range groups {
		if g.rows > 1 {
			m.sums[g.first] = g.sums
		}
	}
	slices.Sort(m.positions)
	return true
}

// fewWithin is how many rows are added to others, at least, for each that is added to one of its own extract, where that is odd.
const fewWithin = 2

// warnWithin warns of few rows that were added to others of their own extract with the same measure, while most were to those of other
// extracts or with other measures, as quantities and amounts are: they may have been exported twice.
func (b *build) warnWithin() {
	if b.within.Count == 0 || b.plan.Rows.Repeats != plan.Sum {
		return
	}
	w := b.within
	w.What, w.Plan = "summed twice", b.plan.Rows.Pos
	w.Message = "rows are added to others of the same grain, extract and measure, while most that are summed are of different extracts, " +
		"or have different measures: were they exported twice?"
	w.Advice = "same_rows: drop in the entry of extracts leaves out rows that are the same in every cell; take others out there"
	b.summary.Warnings.Add(w)
}

// positionsOf are those of all rows of grains that stand again.
func positionsOf(again []keep.Repeat) (out []pass.Position) {
	for _, a := range again {
		out = append(out, a.Again, a.First)
	}
	return out
}

// textsOf are the texts of a row in some columns.
func textsOf(row keep.Row, columns []int) (out []string) {
	for _, ci := range columns {
		out = append(out, row.Texts[ci])
	}
	return out
}

// mustAgree are the columns that must be the same in rows that are added up: all
// outside the grain but measures, what is worked out from these, marks, and helpers
// that nothing needs.
func (b *build) mustAgree() []int {
	dirty := treat.MadeOfMeasures(b.plan)
	needed := map[string]bool{}
	for i, c := range b.plan.Columns {
		if dirty[i] {
			for _, n := range c.Needs() {
				needed[n] = true
			}
		}
	}
	var out []int
	for i, c := range b.plan.Columns {
		measure := b.plan.Amount(c)
		if !measure && !dirty[i] && c.Marks == "" && (c.Kept || needed[c.Name]) && !slices.Contains(b.plan.Rows.Grain, c.Name) {
			out = append(out, i)
		}
	}
	return out
}

// difference says in which of some columns two rows differ.
func (b *build) difference(columns []int, first, again []string) string {
	var parts []string
	for i, ci := range columns {
		if first[i] != again[ci] {
			parts = append(parts, fmt.Sprintf("%s %s, here %s", b.plan.Columns[ci].Name, shownCell(first[i]), shownCell(again[ci])))
		}
	}
	return strings.Join(parts, "; ")
}

func shownCell(s string) string {
	if s == "" {
		return "empty"
	}
	return place.Shorten(s)
}

// stopRepeats stops where a combination of the grain stands again, and shows all in
// which the first such rows differ.
func (b *build) stopRepeats(again []keep.Repeat) {
	p := place.Problem{What: "repeated grain", Count: len(again), Rule: true, Plan: b.plan.Rows.Pos,
		Message: "rows repeat the grain: each combination of " + joined(b.plan.Rows.Grain) + " may stand only once"}
	shown := again[:min(len(again), place.MostPlaces)]
	var positions []pass.Position
	for _, a := range shown {
		positions = append(positions, a.Again, a.First)
	}
	rows := map[pass.Position]keep.Row{}
	b.look(positions, func(row keep.Row) { rows[row.Position] = row })
	var columns []int
	for i, c := range b.plan.Columns {
		if c.Kept && !c.Made() && !slices.Contains(b.plan.Rows.Grain, c.Name) {
			columns = append(columns, i)
		}
	}
	alike := 0 // rows that agree in everything
	for _, a := range shown {
		text, across := "first "+a.First.Place(b.inputs).String(), a.First.Extract() != a.Again.Extract()
		if across {
			b.summary.Across++
		}
		if first, ok := rows[a.First]; ok {
			var own []string
			for _, ci := range columns {
				own = append(own, first.Texts[ci])
			}
			text = b.grainOf(first) + ", " + text
			if d := b.difference(columns, own, rows[a.Again].Texts); d != "" {
				text += ": " + d
			} else {
				text += ": the same in every column"
				if alike++; across {
					b.summary.Twice++
				}
			}
		}
		p.Places, p.Texts = append(p.Places, a.Again.Place(b.inputs)), append(p.Texts, text)
	}
	p.Add, p.Advice = "repeats: sum", "or repeats: keep, first or last; or mend the extracts, or add the column that tells the rows "+
		"apart to the grain"
	switch alike {
	case 0:
	case len(shown):
		p.Add, p.Advice = "repeats: first", "if they were exported twice, as they agree in everything; or same_rows: drop in the entry "+
			"of extracts; repeats: sum would count them twice"
	default:
		p.Add, p.Advice = "", "rows that agree in everything may be exported twice: same_rows: drop, or repeats: first; those that "+
			"differ: repeats: sum or keep, or add the column that tells them apart to the grain"
	}
	b.summary.Repeats, b.summary.Between = len(again), b.between(again)
	b.fail(p)
}

// between counts repeats by the extracts of both rows, in the order of these.
func (b *build) between(again []keep.Repeat) (out []Between) {
	type pair struct{ first, again int }
	counts := map[pair]int{}
	for _, a := range again {
		counts[pair{a.First.Extract(), a.Again.Extract()}]++
	}
	pairs := slices.SortedFunc(maps.Keys(counts), func(a, b pair) int { return cmp.Or(a.first-b.first, a.again-b.again) })
	for _, p := range pairs {
		out = append(out, Between{b.inputs[p.first].Place(), b.inputs[p.again].Place(), counts[p]})
	}
	return out
}

// grainOf says what a fact row has in the columns of the grain.
func (b *build) grainOf(row keep.Row) string {
	var parts []string
	for _, ci := range b.plan.Indexes(b.plan.Rows.Grain) {
		parts = append(parts, shownCell(row.Texts[ci]))
	}
	return strings.Join(parts, " | ")
}

// joined writes words as a sentence does.
func joined(words []string) string {
	last := len(words) - 1
	if last == 0 {
		return words[0]
	}
	return strings.Join(words[:last], ", ") + " and " + words[last]
}
