package fact

import (
	"fmt"
	"maps"
	"slices"
	"strconv"
	"strings"

	"umbau/internal/core/keep"
	"umbau/internal/core/lookup"
	"umbau/internal/core/names"
	"umbau/internal/core/pass"
	"umbau/internal/core/place"
	"umbau/internal/core/plan"
	"umbau/internal/core/record"
	"umbau/internal/core/table"
	"umbau/internal/core/value"
)

// readReferences reads the references of the plan, and completes the plan with the kinds of
// columns that only these know. It returns how each column is looked up, none where no
// column is, and whether all could be read.
func (b *build) readReferences() (columns []*lookup.Column, ok bool) {
	tables, takes := map[string]*lookup.Table{}, map[string][]string{}
	for {
		open := b.plan.Open()
		read := b.readTables(tables, takes, open)
		if len(b.summary.Problems) > 0 && read < 0 {
			return nil, false
		}
		if len(open) == 0 {
			break
		}
		if err := b.plan.Complete(b.kindsOf(tables, takes)); err != nil {
			if list, is := err.(place.List); is {
				b.summary.Problems.Merge(list)
			}
			return nil, false
		}
	}
	if len(tables) == 0 {
		return nil, true
	}
	columns = make([]*lookup.Column, len(b.plan.Columns))
	first := map[string]bool{}
	for i, c := range b.plan.Columns {
		if c.Lookup == nil {
			continue
		}
		name := keyName(c.Lookup)
		column, problems := lookup.NewColumn(tables[name], c, slices.Index(takes[name], takenAs(c)), takenAs(c))
		column.First = !first[name]
		first[name] = true
		columns[i] = column
		b.summary.Problems.Merge(problems) // the first line of a key serves to find what else stops
	}
	return columns, true
}

// keyName tells lookups apart that look into one reference by one key.
func keyName(l *plan.Lookup) string { return fmt.Sprint(l.Of, l.By) }

// takenAs is what the reference calls what a column takes, or the column's own name.
func takenAs(c *plan.Column) string {
	if c.Lookup.Take != "" {
		return c.Lookup.Take
	}
	return c.Name
}

// readTables reads the references whose keys are of known kinds; -1 says that one cannot be
// read.
func (b *build) readTables(tables map[string]*lookup.Table, takes map[string][]string, open []*plan.Column) (read int) {
	for _, c := range b.plan.Columns {
		if c.Lookup == nil || tables[keyName(c.Lookup)] != nil {
			continue
		}
		if slices.ContainsFunc(c.Needs(), func(name string) bool { return slices.Contains(open, b.plan.Column(name)) }) {
			continue
		}
		name := keyName(c.Lookup)
		var taken []*plan.Column
		for _, o := range b.plan.Columns {
			if o.Lookup != nil && keyName(o.Lookup) == name && !slices.Contains(takes[name], takenAs(o)) {
				taken, takes[name] = append(taken, o), append(takes[name], takenAs(o))
			}
		}
		t := lookup.NewTable(b.plan.Reference(c.Lookup.Of), c.Lookup.By, len(taken))
		tables[name] = t
		if !b.readTable(t, c, taken) {
			return -1
		}
		read++
	}
	return read
}

// readTable reads one reference as an extract of a table of its own.
func (b *build) readTable(t *lookup.Table, of *plan.Column, taken []*plan.Column) bool {
	p := &plan.Plan{File: b.plan.File, Formats: b.plan.Formats, Entries: []*plan.Entry{t.Reference.Entry}, Calendar: b.plan.Calendar}
	var kinds []plan.Kind
	for _, by := range t.By {
		own := b.plan.Column(by.Column)
		kinds = append(kinds, own.Kind)
		col := &plan.Column{Pos: of.Lookup.Pos, Name: own.Name, Headers: own.Headers, Kind: own.Kind, Decimals: own.Decimals, Kept: true,
			Words: own.Words}
		if by.Header != "" {
			col.Name, col.Headers = by.Header, nil
		}
		if col.Kind == plan.Name {
			col.Kind = plan.Text
		}
		col.Gaps[value.Blank].Remedy, col.Gaps[value.Null].Remedy = plan.Leave, plan.Leave
		p.Columns = append(p.Columns, col)
	}
	for _, c := range taken {
		col := &plan.Column{Pos: c.Lookup.Pos, Name: takenAs(c), Decimals: -1, Kept: true}
		if c.Lookup.Take == "" {
			col.Headers = c.Headers
		}
		for g := value.Blank; g < value.Gaps; g++ {
			col.Gaps[g].Remedy = plan.Leave
		}
		p.Columns = append(p.Columns, col)
	}
	found := pass.Find(p)
	b.summary.addInputs(found.Files...)
	for _, in := range found.Inputs {
		b.references = append(b.references, in.Path)
	}
	problems := found.Problems
	if len(problems) == 0 {
		rules := pass.Rules{Plan: p, Books: make([]*names.Book, len(p.Columns)), Workers: b.options.Workers}
		problems = pass.Run(b.ctx, &rules, found.Inputs, &tableRows{to: t, kinds: kinds})
	}
	for _, problem := range problems {
		b.failReference(problem, t, of)
	}
	return len(problems) == 0
}

// failReference reports what is wrong with a reference.
func (b *build) failReference(p place.Problem, t *lookup.Table, of *plan.Column) {
	switch {
	case p.What == "missing header":
		which, _, _ := strings.Cut(p.Advice, "?")
		p.Advice = which + "? take names it, or by: { column: Header }"
	case p.Column != "":
		p.Advice = fmt.Sprintf("mend the reference: it is a key, and is read as the column of the fact table is, %s",
			strings.Join(of.Needs(), ", "))
	default:
		p.Advice = strings.ReplaceAll(p.Advice, "in the extract", "in the reference")
	}
	p.Message = "reference " + t.Reference.Name + ": " + p.Message
	p.Column, p.Add, p.Plan = "", "", of.Lookup.Pos
	b.fail(p)
}

// tableRows is the keeper of the lines of a reference; its first columns are the key.
type tableRows struct {
	to    *lookup.Table
	kinds []plan.Kind // of the key
}

// tablePart has the lines of one block: their texts one behind the other, and where each
// ends.
type tablePart struct {
	*tableRows
	at     place.Place
	lines  []int
	text   []byte
	ends   []int // of each line: its key, its label, what is taken
	stored []bool
}

// Part implements pass.Keeper.
func (k *tableRows) Part() pass.Part { return &tablePart{tableRows: k} }

// See implements pass.Part.
func (p *tablePart) See(b *pass.Block) {
	p.at, p.lines, p.text, p.ends, p.stored = b.Program.Lineup.Place, p.lines[:0], p.text[:0], p.ends[:0], p.stored[:0]
	end := func() { p.ends = append(p.ends, len(p.text)) }
	var label []byte
	for row := range b.Delivered {
		p.lines = append(p.lines, b.Line(row))
		begin, all := len(p.text), true
		label = label[:0]
		for i := range p.kinds {
			from := len(label)
			label = b.Batch.AppendText(label, &b.Batch.Columns[i], row, 0)
			ok := false
			p.text, ok = lookup.AppendKey(p.text, p.kinds[i], string(label[from:]))
			all = all && ok
			label = append(label, " | "...)
		}
		if !all {
			p.text = p.text[:begin]
		}
		end()
		p.text = append(p.text, label[:len(label)-len(" | ")]...)
		end()
		for i := len(p.kinds); i < len(b.Batch.Columns); i++ {
			stored := false
			p.text, stored = appendCell(p.text, b, i, row)
			p.stored = append(p.stored, stored)
			end()
		}
	}
}

// appendCell appends what stands in a row for a column, as it is read; stored says that a
// sheet stores it as a number.
func appendCell(dst []byte, b *pass.Block, column, row int) (text []byte, stored bool) {
	cells := b.Program.Lineup.Cells(column)
	if len(cells) == 0 { // of the path, say
		return b.Batch.AppendText(dst, &b.Batch.Columns[column], row, 0), false
	}
	at := int(b.Sorted.Used[row])
	cell := b.Rows.Row(at)[cells[0]]
	return append(dst, value.Trim(b.Rows.Text(cell))...), b.Rows.Kind(at, cells[0]) == table.NumberCell
}

// Take implements pass.Part.
func (p *tablePart) Take() {
	from, ends, stored := 0, p.ends, p.stored
	next := func() []byte {
		text := p.text[from:ends[0]]
		from, ends = ends[0], ends[1:]
		return text
	}
	cells := make([]lookup.Raw, len(stored)/max(1, len(p.lines)))
	for _, line := range p.lines {
		p.at.Row = line
		k, label := next(), next()
		for i := range cells {
			cells[i] = lookup.Raw{Text: next(), Stored: stored[i]}
		}
		stored = stored[len(cells):]
		p.to.Add(p.at, k, label, cells)
	}
}

// kindsOf are the kinds of columns that do not say what they are, as far as their references
// are read.
func (b *build) kindsOf(tables map[string]*lookup.Table, takes map[string][]string) map[string]plan.Kind {
	kinds := map[string]plan.Kind{}
	for _, c := range b.plan.Columns {
		if c.Lookup == nil || !c.Lookup.Silent || tables[keyName(c.Lookup)] == nil {
			continue
		}
		t, take := tables[keyName(c.Lookup)], slices.Index(takes[keyName(c.Lookup)], takenAs(c))
		reading := t.Reference.Entry.Reading
		var texts []string
		stored := map[string]bool{}
		for _, cell := range t.Distinct(take) {
			texts = append(texts, cell.Text)
			stored[cell.Text] = cell.Stored
		}
		kinds[c.Name] = plan.KindOf(texts, func(text string) (value.Decimal, bool) {
			r := &reading
			if stored[text] {
				r = &value.Default
			}
			d, currency, ok := r.Number([]byte(text))
			return d, ok && currency == ""
		}, &reading)
	}
	return kinds
}

// LookupCount is what was asked of one reference by one key.
type LookupCount struct {
	Column      string `json:"column"`
	Reference   string `json:"reference"`
	Rows        int    `json:"rows"`         // fact rows that asked
	Found       int    `json:"found"`        // of these, those that found a partner
	Missing     int    `json:"missing"`      // and those that did not
	Lines       int    `json:"lines"`        // of the reference
	Unused      int    `json:"unused"`       // of these, those that no row asked for
	SharedLines int    `json:"shared_lines"` // and those that serve several rows
}

// countLookups says what was asked of the references, and lists who found no partner.
func (b *build) countLookups() {
	if b.summary.ExitCode() == 1 || b.kept.lookups == nil {
		return
	}
	for _, a := range b.kept.lookups.Of {
		t := b.rules.Lookups[a.Column].Table
		n := LookupCount{Column: b.plan.Columns[a.Column].Name, Reference: t.Reference.Name, Found: a.Found, Missing: a.Lost(),
			Lines: t.Len()}
		n.Rows = n.Found + n.Missing
		for _, rows := range a.Rows {
			if rows == 0 {
				n.Unused++
			} else if rows > 1 {
				n.SharedLines++
			}
		}
		b.summary.Lookups = append(b.summary.Lookups, n)
		b.listUnmatched(a, t)
		for i, c := range b.rules.Lookups {
			if c != nil && c.Table == t && b.plan.Columns[i].Kept && b.plan.Columns[i].Measure() && n.SharedLines > 0 {
				b.warnShared(a, c)
			}
		}
	}
}

// mostNearest is of how many keys of each side the nearest one of the other side is looked
// for.
const mostNearest = 2000

// listUnmatched writes the keys that have no partner, and says so where they stop the build.
func (b *build) listUnmatched(a *keep.Asked, t *lookup.Table) {
	missing, out := a.InOrder(), &unmatched{to: b.out, of: t.Reference.Name}
	defer out.flush()
	if len(missing) > 0 {
		labels := make([]string, t.Len())
		for i := range labels {
			labels[i] = t.Label(i)
		}
		index := names.NewIndexOf(labels)
		for i, m := range missing {
			near := ""
			if i < mostNearest {
				near = nearestOf(index, m.Label)
			}
			out.add("fact", m.Label, m.Rows, near)
		}
		for k := range b.summary.Problems {
			p := &b.summary.Problems[k]
			if ci := b.plan.Index(p.Column); p.What == "missing key" && ci >= 0 && b.rules.Lookups[ci].Table == t {
				b.tellMissing(p, missing, t, index)
			}
		}
	}
	listUnasked(a, t, missing, out)
}

// listUnasked writes the keys of a reference that no fact row has asked for.
func listUnasked(a *keep.Asked, t *lookup.Table, missing []*keep.MissingKey, out *unmatched) {
	var here []string // labels that are asked for
	for _, m := range missing {
		here = append(here, m.Label)
	}
	for i, rows := range a.Rows {
		if rows > 0 {
			here = append(here, t.Label(i))
		}
	}
	index, repeats, listed := names.NewIndexOf(here), t.Repeats(), 0
	empty := map[string]int{} // keys with an empty piece, by their labels
	for i := range t.Len() {
		lines := t.LinesOfKey(i)
		switch {
		case lines == nil:
			empty[t.Label(i)]++
			continue
		case repeats[i] || slices.ContainsFunc(lines, func(line int32) bool { return a.Rows[line] > 0 }):
			continue
		}
		near := ""
		if listed++; listed <= mostNearest {
			near = nearestOf(index, t.Label(i))
		}
		out.add("reference", t.Label(i), len(lines), near)
	}
	for _, label := range slices.Sorted(maps.Keys(empty)) {
		out.add("reference", label, empty[label], "")
	}
}

// nearestOf is the text most like another one, "" where none is.
func nearestOf(index *names.Index, text string) string {
	if c := index.Suggest(text); len(c) > 0 {
		return c[0].Standard
	}
	return ""
}

// unmatched writes lines of unmatched.csv, many at a time.
type unmatched struct {
	to    *outputs
	of    string // the reference
	lines []byte
}

func (u *unmatched) add(side, label string, rows int, nearest string) {
	if u.to == nil {
		return
	}
	if u.lines = table.AppendLine(u.lines, u.of, side, label, strconv.Itoa(rows), nearest); len(u.lines) > 1<<16 {
		u.flush()
	}
}

func (u *unmatched) flush() {
	if u.to != nil {
		u.to.record.Write(record.UnmatchedFile, u.lines)
		u.lines = u.lines[:0]
	}
}

// tellMissing lists the keys that stop the build, those of most fact rows first.
func (b *build) tellMissing(p *place.Problem, missing []*keep.MissingKey, t *lookup.Table, index *names.Index) {
	list := slices.Clone(missing)
	slices.SortStableFunc(list, func(x, y *keep.MissingKey) int { return y.Rows - x.Rows })
	p.Places, p.Texts, p.Notes, p.Count = nil, nil, nil, len(list)
	for _, m := range list[:min(len(list), place.MostPlaces)] {
		note := counted(m.Rows, "fact row")
		if ci := b.plan.FirstMeasure(); ci >= 0 && m.Amount != nil {
			note += fmt.Sprintf(", %s of %s", b.plan.Columns[ci].Shown(m.Amount.Total()), b.plan.Columns[ci].Name)
		}
		if near := nearestOf(index, m.Label); near != "" {
			note += fmt.Sprintf("; the reference has %q", near)
		}
		p.Places, p.Texts, p.Notes = append(p.Places, m.First), append(p.Texts, m.Label), append(p.Notes, note)
	}
	p.Message = fmt.Sprintf("%s of column %s not in the reference %s", counted(len(list), "key"), p.Column, t.Reference.Name)
	p.Advice = "add a line to " + t.Reference.Entry.Source() + " for each; or missing: a value, leave, drop or hold"
}

// warnShared warns where numbers of a reference stand in several fact rows, and would be
// added up again.
func (b *build) warnShared(a *keep.Asked, c *lookup.Column) {
	var once, again value.Sum
	lines, rows, first, repeats := 0, 0, -1, c.Table.Repeats()
	for i, n := range a.Rows {
		if n < 2 {
			continue
		}
		if lines++; first < 0 {
			first = i
		}
		if !repeats[i] { // the rows of a key count once
			rows += n
		}
		if d, gap := c.NumberIn(i); gap == value.NoGap {
			once.Add(d)
			again.Add(d.Mul(value.NewDecimal(int64(n), 0)))
		}
	}
	name := c.Table.Reference.Name
	p := place.At(c.Table.Place(first), "shared line", "%s of %s serve %s; added up it would be %s, the reference says %s",
		counted(lines, "line"), name, counted(rows, "fact row"), c.Spec.Shown(again.Total()), c.Spec.Shown(once.Total()))
	p.Column, p.Plan, p.Add = c.Spec.Name, c.Spec.Lookup.Pos, "add: no"
	p.Advice = "add: no, or compare at the grain that they share"
	b.summary.Warnings.Add(p)
}
