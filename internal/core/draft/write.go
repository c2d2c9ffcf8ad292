package draft

import (
	"cmp"
	"fmt"
	"path"
	"slices"
	"strings"
	"unicode"
	"unicode/utf8"

	"github.com/bmatcuk/doublestar/v4"

	"umbau/internal/core/layout"
	"umbau/internal/core/pattern"
	"umbau/internal/core/survey"
	"umbau/internal/core/terms"
	"umbau/internal/core/value"
)

// numbersIn are the numbers among some texts, in a style or else as the default reads them.
func numbersIn(texts []string, numbers string) (out []value.Decimal) {
	style, ok := value.StyleOf(numbers)
	if !ok {
		style = value.English
	}
	for _, t := range texts {
		d, _, ok := style.Number([]byte(t))
		if !ok {
			d, _, ok = value.English.Number([]byte(t))
		}
		if ok {
			out = append(out, d)
		}
	}
	return out
}

// placesOf is how many decimal places most of some numbers have: the most, but not those of a
// few that are longer.
func placesOf(texts []string, numbers string) int {
	count := map[int]int{}
	for _, d := range numbersIn(texts, numbers) {
		count[d.Places()]++
	}
	best := 0
	for p, n := range count {
		if p > best && 20*n >= len(texts) {
			best = p
		}
	}
	return best
}

// write writes the plan.
func (d *drafter) write() string {
	var b strings.Builder
	b.WriteString("umbau: 1\n")
	fmt.Fprintf(&b, "title: %s\n", d.title())
	for _, r := range d.rules {
		b.WriteString("# " + remark(r) + "\n")
	}
	b.WriteString("\nextracts:\n")
	for i, e := range d.entries {
		if i > 0 {
			b.WriteString("\n")
		}
		b.WriteString(d.entryText(e))
	}
	b.WriteString("\nfact:\n")
	b.WriteString(d.factText())
	b.WriteString(d.referencesText())
	b.WriteString(d.rowsText())
	if len(d.ties) > 0 {
		b.WriteString("\nties:\n" + d.tiesText())
	}
	b.WriteString("\ndeliver:\n  - to: " + delivered + "\nrecord: out/record\n")
	return aligned(b.String())
}

// Unsettled is true of no fact row: the build stops, and says why.
const Unsettled = "='what is asked above' = 'settled'"

// rowsText is what holds of all fact rows.
func (d *drafter) rowsText() string {
	var parts []string
	comment := ""
	if len(d.grain) > 0 {
		parts = append(parts, "grain: ["+strings.Join(flowAll(d.grain), ", ")+"]")
		if d.repeats != "" {
			parts = append(parts, "repeats: "+d.repeats)
		}
		switch d.repeats {
		case "first":
			comment = "\t" + counted(d.again, "row") + " of the same grain, the same in everything"
		case "sum":
			comment = "\t" + counted(d.again, "row") + " of the same grain, with measures of their own"
		case "keep":
			comment = "\t" + counted(d.again, "row") + " of the same grain, not the same in everything"
			if len(d.telling) > 0 {
				comment = "\t" + counted(d.again, "row") + " of the same grain; " + remark(joined(d.telling)) + " may tell them apart"
			}
		}
	}
	if f := d.filter(); f != "" {
		parts = append(parts, "only: "+layout.Flow(f))
		if comment == "" {
			comment = "\trows of no place or thing are left out"
		}
	}
	var must []string
	for _, c := range d.columns {
		if f := c.must(); f != "" {
			must = append(must, layout.Flow(f))
		}
	}
	if d.waits || slices.ContainsFunc(d.entries, func(e *entry) bool { return e.waits }) {
		must = append(must, layout.Flow(Unsettled))
		comment = "\t? stops the build: take must out when what is asked above is settled"
	}
	if len(must) > 0 {
		parts = append(parts, "must: ["+strings.Join(must, ", ")+"]")
	}
	if len(parts) == 0 {
		return ""
	}
	return "\nrows: { " + strings.Join(parts, ", ") + " }" + comment + "\n"
}

// widest is how far to the right the comments of a block are pushed by its longest line.
const widest = 72

// aligned puts the comments of a block of lines below each other. A tab stands before a comment.
func aligned(text string) string {
	blocks := strings.Split(text, "\n\n")
	for i, block := range blocks {
		lines := strings.Split(block, "\n")
		width := 0
		for _, line := range lines {
			if before, _, ok := strings.Cut(line, "\t"); ok && utf8.RuneCountInString(before) <= widest {
				width = max(width, utf8.RuneCountInString(before))
			}
		}
		for j, line := range lines {
			if before, comment, ok := strings.Cut(line, "\t"); ok {
				lines[j] = before + strings.Repeat(" ", max(0, width-utf8.RuneCountInString(before))) + "  # " + comment
			}
		}
		blocks[i] = strings.Join(lines, "\n")
	}
	return strings.Join(blocks, "\n\n")
}

func (d *drafter) title() string {
	var labels, measures []string
	for _, c := range d.columns {
		switch {
		case c.missing, c.helper, c.class == terms.Price:
		case c.class.OfMeasure():
			measures = append(measures, c.name)
		case c.class != terms.Year:
			labels = append(labels, c.name)
		}
	}
	title := "sales"
	if len(measures) > 0 {
		title = joined(measures)
	}
	if len(labels) > 0 {
		title += " by " + joined(labels)
	}
	title = strings.ReplaceAll(title, "_", " ")
	_, n := utf8.DecodeRuneInString(title)
	return layout.Flow(strings.ToUpper(title[:n]) + title[n:])
}

func joined(list []string) string {
	if len(list) < 2 {
		return strings.Join(list, "")
	}
	return strings.Join(list[:len(list)-1], ", ") + " and " + list[len(list)-1]
}

// keyed writes a key and its value.
func keyed(b *strings.Builder, indent, name, text, comment string) {
	line := indent + name + ": " + text
	if comment != "" {
		line += "\t" + remark(comment)
	}
	b.WriteString(line + "\n")
}

// remark is a text as a comment has it: in one line, as headers of spreadsheets may not be.
func remark(text string) string {
	return strings.Map(func(r rune) rune {
		if unicode.IsControl(r) {
			return ' '
		}
		return r
	}, text)
}

// delivered is what a drafted plan delivers to.
const delivered = "out/sales.csv"

func (d *drafter) entryText(e *entry) string {
	var b strings.Builder
	comment := counted(len(e.files()), "file")
	if e.sheets[0].database() {
		comment = counted(len(e.sheets), "table")
	} else if len(e.sheets) > len(e.files()) {
		comment += ", " + counted(len(e.sheets), "table")
	}
	if e.note != "" {
		comment += ": " + e.note
	}
	name, source := e.source()
	keyed(&b, "  - ", name, source, comment)
	in := "    "
	if !e.sheets[0].database() && slices.ContainsFunc(e.globs, func(g string) bool {
		own, _ := doublestar.Match(g, delivered)
		record, _ := doublestar.Match(g, path.Dir(delivered)+"/record/changes.csv")
		return own || record
	}) {
		keyed(&b, in, "except", path.Dir(delivered)+"/**", "what the build delivers")
	} else if len(e.except) > 0 {
		list := strings.Join(flowAll(e.except), ", ")
		if len(e.except) > 1 {
			list = "[" + list + "]"
		}
		keyed(&b, in, "except", list, "no sales, by their names")
	}
	e.writePieces(&b, in)
	e.writeSheets(&b, d)
	if e.header != "" {
		keyed(&b, in, "header", e.header, "")
	}
	if side := e.sheets[0].side; side != nil {
		keyed(&b, in, "area", side.area, side.why)
	}
	e.writeWiden(&b, in)
	if e.sections != "" {
		keyed(&b, in, "sections", e.sections, map[bool]string{true: "lines of dashes", false: "rows with a label alone"}[d.lines != nil &&
			e.sections == d.lines.name])
	}
	switch {
	case len(e.also) > 0 && e.numbers != neither:
		ways := slices.Compact(append([]string{cmp.Or(e.numbers, value.English.Example)}, e.also...))
		keyed(&b, in, "numbers", "["+strings.Join(quotedAll(ways), ", ")+"]",
			"written in several ways; a cell that two of them read differently is held")
	case e.numbers != "":
		keyed(&b, in, "numbers", fmt.Sprintf("%q", e.numbers), e.numbersNote())
	}
	e.writeRest(&b, in)
	return b.String()
}

// writeRest writes what an entry says behind its header and its sections.
func (e *entry) writeRest(b *strings.Builder, in string) {
	switch {
	case len(e.dates) == 1:
		why := ""
		if e.dates[0] == countedDays.Example {
			why = "days as spreadsheets count them"
		}
		keyed(b, in, "dates", fmt.Sprintf("%q", e.dates[0]), why)
	case len(e.dates) > 1:
		keyed(b, in, "dates", "["+strings.Join(quotedAll(e.dates), ", ")+"]", "")
	}
	if u := e.unpivot; u != nil && u.header != "" {
		text := "{ "
		if len(u.columns) > 0 {
			text += "columns: [" + strings.Join(quotedAll(u.columns), ", ") + "], "
		}
		cell := ""
		if u.cell != "" {
			cell = ", cell: " + flowCell(u.cell)
		}
		keyed(b, in, "unpivot", fmt.Sprintf("%sheader: %q%s }", text, u.header, cell),
			counted(len(e.sheets[0].wide), "header")+" such as "+e.sheets[0].header(e.sheets[0].wide[0])+e.sheets[0].whyMonths())
	}
	var own []string
	for _, name := range sortedKeys(e.headers) {
		own = append(own, name+": ["+strings.Join(flowAll(e.headers[name]), ", ")+"]")
	}
	if len(own) > 0 {
		keyed(b, in, "headers", "{ "+strings.Join(own, ", ")+" }", "")
	}
	switch {
	case e.drop:
		keyed(b, in, "others", "drop", strings.Join(e.others, ", "))
	case len(e.others) > 0:
		keyed(b, in, "others", "["+strings.Join(e.flowOthers(), ", ")+"]",
			strings.Join(slices.Concat(e.whySums(), e.remarks), "; "))
	}
	for _, text := range e.open {
		b.WriteString(in + "# ? " + remark(text) + "\n")
	}
	if len(e.absent) > 0 {
		var list []string
		for _, name := range sortedKeys(e.absent) {
			list = append(list, name+": leave")
		}
		keyed(b, in, "absent", "{ "+strings.Join(list, ", ")+" }", "not there: empty, not 0")
	}
	if len(e.totalWords) > 0 {
		keyed(b, in, "total_words", "["+strings.Join(flowAll(e.totalWords), ", ")+"]",
			"totals: they must agree with what they are of"+e.whyTotals())
	}
	if e.sameRows {
		keyed(b, in, "same_rows", "drop", counted(e.same, "row")+" exported twice")
	}
}

// flowCell is the cell of an unpivot.
func flowCell(text string) string {
	if strings.HasPrefix(text, "{") {
		return fmt.Sprintf("%q", text)
	}
	return text
}

// timeGlob matches times, those that come next among them.
func timeGlob(values []string) string {
	for _, begin := range []string{"20", "19"} {
		if !slices.ContainsFunc(values, func(v string) bool { return !strings.HasPrefix(v, begin) }) {
			return begin + "*"
		}
	}
	if !slices.ContainsFunc(values, func(v string) bool { return !strings.Contains(v, " 20") }) {
		return "* 20*"
	}
	return "*"
}

// writePieces writes the patterns of the path, the sheets and the titles.
func (e *entry) writePieces(b *strings.Builder, in string) {
	for _, from := range []string{"path", "sheet"} {
		text, sample, wanted := e.pattern(from, 0)
		if from == "sheet" && !wanted && e.choosesSheets() && !e.sheets[0].database() {
			for _, p := range e.pieces {
				if p.from == from && p.Time != terms.None {
					keyed(b, in, "sheets", fmt.Sprintf("%q", text), "")
				}
			}
		}
		if wanted {
			keyed(b, in, from, fmt.Sprintf("%q", text), "such as "+sample)
		}
	}
	var titles, samples []string
	for k := range e.titles {
		if text, sample, wanted := e.pattern("titles", k); wanted {
			titles, samples = append(titles, fmt.Sprintf("%q", text)), append(samples, sample)
		}
	}
	switch len(titles) {
	case 0:
	case 1:
		keyed(b, in, "titles", titles[0], "such as "+samples[0])
	default:
		keyed(b, in, "titles", "["+strings.Join(titles, ", ")+"]", "such as "+joined(samples))
	}
}

// pattern is that of the pieces of one kind, of titles of one of them, with a value of the last one that a column
// takes, and whether there is such a one.
func (e *entry) pattern(from string, title int) (whole, sample string, wanted bool) {
	var text strings.Builder
	for _, p := range e.pieces[e.wantedFrom(from):] {
		if p.from != from || p.title != title {
			continue
		}
		if text.Len() == 0 { // behind a folder that is not wanted
			p.Before = strings.TrimPrefix(p.Before, "/")
		}
		before := pattern.Escape(p.Before)
		if p.Absent && p.column == nil && len(p.Values) > 0 { // a year that some have
			text.WriteString("[" + before + timeGlob(slices.DeleteFunc(slices.Clone(p.Values), func(v string) bool { return v == "" })) + "]")
			continue
		}
		if p.Absent {
			before = "[" + before + "]"
		}
		text.WriteString(before)
		switch {
		case p.column != nil:
			if wanted = true; !p.column.helper || sample == "" { // a place rather than the last figures of a month
				sample = p.Values[0]
			}
			text.WriteString("{" + p.column.name + p.limit() + "}")
		case p.Time != terms.None:
			text.WriteString(timeGlob(p.Values))
		case len(p.Values) > 0:
			text.WriteString("*")
		}
	}
	return text.String(), sample, wanted
}

// wantedFrom is where among its pieces the path begins of which a column takes something: the folders before that are left out.
func (e *entry) wantedFrom(from string) (begin int) {
	for i, p := range e.pieces {
		if from == "path" && p.from == from && strings.HasPrefix(p.Before, "/") {
			begin = i
		}
		if p.from == from && p.column != nil {
			break
		}
	}
	return begin
}

// limit is that of the piece in its pattern.
func (p *piece) limit() string {
	switch {
	case p.Letters:
		return ":letters"
	case p.Digits:
		return ":digits"
	}
	return ""
}

func quotedAll(list []string) (out []string) {
	for _, t := range list {
		out = append(out, fmt.Sprintf("%q", t))
	}
	return out
}

func flowAll(list []string) (out []string) {
	for _, t := range list {
		out = append(out, layout.Flow(t))
	}
	return out
}

// flowHeaders writes headers as entries of a list of headers and patterns.
func flowHeaders(list []string) (out []string) {
	for _, t := range list {
		out = append(out, layout.FlowHeader(t))
	}
	return out
}

// flowOthers writes the headers and patterns that the entry leaves aside.
func (e *entry) flowOthers() (out []string) {
	for _, other := range e.others {
		header := slices.ContainsFunc(e.sheets, func(s *sheet) bool {
			return slices.ContainsFunc(s.Fields, func(f survey.Field) bool { return strings.TrimSpace(f.Header) == other })
		})
		if header {
			other = pattern.Escape(other)
		}
		out = append(out, layout.Flow(other))
	}
	return out
}

func sortedKeys[V any](m map[string]V) (out []string) {
	for k := range m {
		out = append(out, k)
	}
	slices.Sort(out)
	return out
}
