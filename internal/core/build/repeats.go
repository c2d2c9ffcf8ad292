package build

import (
	"fmt"
	"slices"
	"strings"

	"umbau/internal/core/place"
	"umbau/internal/core/plan"
	"umbau/internal/core/table"
	"umbau/internal/core/treat"
	"umbau/internal/core/value"
)

// Rows whose grain stands again are known only when all rows were read. Where the
// plan keeps one of them, or adds them up, the extracts are then read once more,
// with what becomes of each such row at hand; a build without repeats reads once.

// marked are fact rows that a further reading looks for, by their positions in
// order, and what becomes of each.
type marked struct {
	positions []uint64
	fates     []table.Fate          // none where rows are only looked at
	sums      map[uint64]*summation // by the position of the first row
}

// summation is what rows of one grain add up to.
type summation struct {
	first  uint64
	rows   int
	others []string // of the first row: what must be the same in all
	sums   []value.Sum
	filled []bool // by measure: some row has a value
}

// find returns the index of a position, and where to look for the next one.
func (m *marked) find(position uint64, from int) (index, next int) {
	if from < len(m.positions) && m.positions[from] == position {
		return from, from + 1
	}
	i, found := slices.BinarySearch(m.positions, position)
	if !found {
		return -1, i
	}
	return i, i + 1
}

// finder returns a function that finds the rows of one block, which come in order.
func (m *marked) finder(extract, slots int) func(line, slot int) int {
	next := 0
	if len(m.positions) > 0 {
		next, _ = slices.BinarySearch(m.positions, position(extract, 0, 0, slots))
	}
	return func(line, slot int) int {
		p := position(extract, line, slot, slots)
		if next < len(m.positions) && p < m.positions[next] && (next == 0 || p > m.positions[next-1]) {
			return -1
		}
		var i int
		i, next = m.find(p, next)
		return i
	}
}

// lookedAt is a fact row that a further reading has found.
type lookedAt struct {
	position uint64
	texts    []string // by column of the plan, as delivered
	numbers  []value.Decimal
	filled   []bool
}

// repeat settles rows whose grain stands again.
func (r *run) repeat() {
	if r.grain == nil || r.summary.ExitCode() == 1 || r.ctx.Err() != nil {
		return
	}
	again := r.grain.repeats()
	r.spill = r.grain.spill
	if err := r.grain.failed; err != nil {
		p := place.InPlan(r.plan.Rows.Pos, "output", "the grain of so many rows needs a temporary file, which cannot be written: %s", reason(err))
		p.File, p.Advice = r.plan.File, "make room in the folder for temporary files, or name another one with TMPDIR"
		r.fail(p)
		return
	}
	if len(again) == 0 {
		return
	}
	r.grain = nil
	switch r.plan.Rows.Repeats {
	case plan.First, plan.Last:
		r.weighRepeats(again)
		gone := r.summary.Differing
		defer func() { r.summary.Differing = gone }()
		r.readAgain(pick(again, r.plan.Rows.Repeats == plan.Last))
	case plan.Sum:
		r.sumRepeats(again)
	default:
		r.stopRepeats(again)
	}
}

// pick chooses the rows that are left out: all but the first, or the last, of each
// grain.
func pick(again []repeat, last bool) *marked {
	m := &marked{}
	latest := map[uint64]uint64{}
	for _, a := range again {
		gone := a.again
		if last {
			if before, ok := latest[a.first]; ok {
				gone = before
			} else {
				gone = a.first
			}
			latest[a.first] = a.again
		}
		m.positions = append(m.positions, gone)
	}
	slices.Sort(m.positions)
	for range m.positions {
		m.fates = append(m.fates, table.Repeated)
	}
	return m
}

// Differing is how much of a measure went with rows that were left out for another one of
// their grain, though they differ from it, and how many rows.
type Differing struct {
	Measure string `json:"measure"`
	Rows    int    `json:"rows"`
	Amount  string `json:"amount"`
}

// weighRepeats adds up what goes with rows that differ from the one that stays.
func (r *run) weighRepeats(again []repeat) {
	group := map[uint64]uint64{} // the first row of each
	var positions []uint64
	for _, a := range again {
		group[a.again], group[a.first] = a.first, a.first
		positions = append(positions, a.again, a.first)
	}
	rows := map[uint64][]lookedAt{}
	r.look(positions, func(row lookedAt) { rows[group[row.position]] = append(rows[group[row.position]], row) })
	measures, sums, count := r.measures(), map[int]*value.Sum{}, 0
	for _, list := range rows {
		stays := list[0]
		if r.plan.Rows.Repeats == plan.Last {
			stays = list[len(list)-1]
		}
		for _, row := range list {
			if r.differs(stays, row) {
				count++
				for _, ci := range measures {
					if row.filled[ci] {
						if sums[ci] == nil {
							sums[ci] = &value.Sum{}
						}
						sums[ci].Add(row.numbers[ci])
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
			r.summary.Differing = append(r.summary.Differing, Differing{r.plan.Columns[ci].Name, count, total.String()})
		}
	}
}

// differs reports whether two rows of one grain differ in a column that is delivered.
func (r *run) differs(a, b lookedAt) bool {
	return slices.ContainsFunc(r.columns, func(ci int) bool { return a.texts[ci] != b.texts[ci] })
}

// look reads the extracts for certain rows, and hands them over in order. Nothing
// is written, and what else the reading finds is known already.
func (r *run) look(positions []uint64, take func(lookedAt)) {
	slices.Sort(positions)
	r.looking, r.looked = &marked{positions: slices.Compact(positions)}, take
	r.readOnly(nil)
	r.looking, r.looked = nil, nil
}

// readOnly reads the extracts once more; what that finds is known already, and
// nothing is written. batches hears of each batch, one after another in the order
// of the fact table, if it is not nil.
func (r *run) readOnly(batches func(extract int, t *treat.Worker)) {
	kept, summary, deliveries, files, controls := r.options, r.summary, r.deliveries, r.record, r.controls
	r.summary = &Summary{Plan: r.plan}
	r.options.DryRun, r.deliveries, r.record, r.controls = true, nil, nil, nil
	if r.batches = batches; batches != nil {
		r.options.Workers = 1
	}
	r.pipeline()
	r.batches = nil
	r.options, r.summary, r.deliveries, r.record, r.controls = kept, summary, deliveries, files, controls
}

// readAgain builds once more, with what becomes of certain rows at hand.
func (r *run) readAgain(m *marked) {
	for _, o := range append(slices.Clone(r.deliveries), r.recordFiles()...) {
		if err := o.Empty(); err != nil {
			r.failed = err
			r.fail(place.At(place.Place{File: r.shown(o)}, "output", "the file cannot be written: %s", reason(err)))
			return
		}
	}
	s := &Summary{Plan: r.plan, DryRun: r.summary.DryRun, Books: r.summary.Books, Inputs: r.summary.Inputs}
	s.Problems.Merge(r.prepared)
	r.summary, r.again = s, m
	for _, c := range r.controls {
		c.forget()
	}
	r.beginRecord()
	r.pipeline()
}

// measures are the columns of the plan that are added up.
func (r *run) measures() []int {
	var out []int
	for i, c := range r.plan.Columns {
		if r.plan.Amount(c) {
			out = append(out, i)
		}
	}
	return out
}

// sumRepeats adds up the rows of each grain that stands again.
func (r *run) sumRepeats(again []repeat) {
	var positions []uint64
	for _, a := range again {
		positions = append(positions, a.again, a.first)
	}
	measures, same := r.measures(), r.mustAgree()
	groups := map[string]*summation{}
	m := &marked{sums: map[uint64]*summation{}}
	differ := place.Problem{What: "repeats differ", Rule: true, Plan: r.plan.Rows.Pos,
		Message: "rows of one grain cannot be added up: they differ in other columns", Advice: "add the column that differs to the grain, leave it out of the table, or let repeats keep the first or last row"}
	r.look(positions, func(row lookedAt) {
		var k strings.Builder
		for _, ci := range r.grainColumns() {
			k.WriteString(row.texts[ci])
			k.WriteByte(0)
		}
		g, known := groups[k.String()]
		if !known {
			g = &summation{first: row.position, sums: make([]value.Sum, len(measures)), filled: make([]bool, len(measures))}
			for _, ci := range same {
				g.others = append(g.others, row.texts[ci])
			}
			groups[k.String()] = g
		} else {
			m.positions = append(m.positions, row.position)
			if text := r.difference(same, g.others, row.texts); text != "" {
				differ.Count++
				if len(differ.Places) < place.MostPlaces {
					differ.Places = append(differ.Places, r.placeOf(row.position))
					differ.Texts = append(differ.Texts, "first "+r.placeOf(g.first).String()+": "+text)
				}
			}
		}
		g.rows++
		for i, ci := range measures {
			if row.filled[ci] {
				g.sums[i].Add(row.numbers[ci])
				g.filled[i] = true
			}
		}
	})
	if differ.Count > 0 {
		r.summary.Repeats = differ.Count
		r.fail(differ)
		return
	}
	for _, g := range groups {
		if g.rows > 1 {
			m.sums[g.first] = g
		}
	}
	slices.Sort(m.positions)
	for range m.positions {
		m.fates = append(m.fates, table.Summed)
	}
	r.readAgain(m)
}

func (r *run) grainColumns() []int {
	var out []int
	for _, name := range r.plan.Rows.Grain {
		out = append(out, slices.Index(r.plan.Columns, r.plan.Column(name)))
	}
	return out
}

// mustAgree are the columns that must be the same in rows that are added up: all
// outside the grain but measures, what is worked out from these, marks, and helpers
// that nothing needs.
func (r *run) mustAgree() []int {
	dirty := treat.MadeOfMeasures(r.plan)
	needed := map[string]bool{}
	for i, c := range r.plan.Columns {
		if dirty[i] {
			for _, n := range c.Needs() {
				needed[n] = true
			}
		}
	}
	var out []int
	for i, c := range r.plan.Columns {
		measure := r.plan.Amount(c)
		if !measure && !dirty[i] && c.Marks == "" && (c.Kept || needed[c.Name]) && !slices.Contains(r.plan.Rows.Grain, c.Name) {
			out = append(out, i)
		}
	}
	return out
}

// difference says in which of some columns two rows differ.
func (r *run) difference(columns []int, first, again []string) string {
	var parts []string
	for i, ci := range columns {
		if first[i] != again[ci] {
			parts = append(parts, fmt.Sprintf("%s %s, here %s", r.plan.Columns[ci].Name, shownCell(first[i]), shownCell(again[ci])))
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
func (r *run) stopRepeats(again []repeat) {
	p := place.Problem{What: "repeated grain", Count: len(again), Rule: true, Plan: r.plan.Rows.Pos,
		Message: "rows repeat the grain: each combination of " + joined(r.plan.Rows.Grain) + " may stand only once"}
	shown := again[:min(len(again), place.MostPlaces)]
	var positions []uint64
	for _, a := range shown {
		positions = append(positions, a.again, a.first)
	}
	rows := map[uint64]lookedAt{}
	r.look(positions, func(row lookedAt) { rows[row.position] = row })
	var columns []int
	for i, c := range r.plan.Columns {
		if c.Kept && !c.Made() && !slices.Contains(r.plan.Rows.Grain, c.Name) {
			columns = append(columns, i)
		}
	}
	alike := 0 // rows that agree in everything
	for _, a := range shown {
		text := "first " + r.placeOf(a.first).String()
		if first, ok := rows[a.first]; ok {
			var own []string
			for _, ci := range columns {
				own = append(own, first.texts[ci])
			}
			text = r.grainOf(first) + ", " + text
			if d := r.difference(columns, own, rows[a.again].texts); d != "" {
				text += ": " + d
			} else {
				text += ": the same in every column"
				alike++
			}
		}
		p.Places, p.Texts = append(p.Places, r.placeOf(a.again)), append(p.Texts, text)
	}
	p.Add, p.Advice = "repeats: sum", "or repeats: keep, first or last; or mend the extracts, or add the column that tells the rows apart to the grain"
	switch alike {
	case 0:
	case len(shown):
		p.Add, p.Advice = "repeats: first", "if they were exported twice, as they agree in everything; or same_rows: drop in the entry of extracts; repeats: sum would count them twice"
	default:
		p.Add, p.Advice = "", "rows that agree in everything may be exported twice: same_rows: drop, or repeats: first; those that differ: repeats: sum or keep, or add the column that tells them apart to the grain"
	}
	r.summary.Repeats = len(again)
	r.fail(p)
}

// grainOf says what a fact row has in the columns of the grain.
func (r *run) grainOf(row lookedAt) string {
	var parts []string
	for _, ci := range r.grainColumns() {
		parts = append(parts, shownCell(row.texts[ci]))
	}
	return strings.Join(parts, " | ")
}
