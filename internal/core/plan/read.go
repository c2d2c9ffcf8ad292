package plan

import (
	"errors"
	"slices"
	"strings"

	"umbau/internal/core/key"
	"umbau/internal/core/pattern"
	"umbau/internal/core/place"
	"umbau/internal/core/table"
	"umbau/internal/core/value"
)

// Read reads a plan. file is what messages call it. The error is a place.List
// of all mistakes, in the order of their lines.
func Read(file string, src []byte, formats *table.Formats) (*Plan, error) {
	return readTried(file, src, formats, nil, nil)
}

// readTried reads a plan, with the values that are tried; kinds are those of columns that
// references know, as far as they do.
func readTried(file string, src []byte, formats *table.Formats, kinds map[string]Kind, trials []Trial) (*Plan, error) {
	root, problems := parse(src)
	for _, t := range trials {
		if _, err := t.apply(&root); err != nil {
			return nil, err
		}
	}
	r := &reader{problems: problems, formats: formats, open: map[string]bool{}, lines: strings.Split(string(src), "\n")}
	p := &Plan{File: file, Formats: formats, source: src, kinds: kinds, trials: trials}
	if len(problems) == 0 {
		r.plan(p, root)
		r.check(p)
	}
	for i := range r.problems {
		r.problems[i].File = file
	}
	r.problems.SortByPlan()
	if err := r.problems.Err(); err != nil {
		return nil, err
	}
	return p, nil
}

// reader collects mistakes while it reads.
type reader struct {
	problems   place.List
	calendarOf value.Calendar // of the plan
	lines      []string       // of the plan
	formats    *table.Formats
	open       map[string]bool // columns whose kind only references know: what needs them is checked then
}

func (r *reader) fail(pos place.Pos, format string, args ...any) {
	r.problems.Add(place.InPlan(pos, "plan", format, args...))
}

// mapOf checks that a node is a map with known keys and has the ones it needs,
// and returns what stands under each key.
func (r *reader) mapOf(n node, keys []aKey, what string) map[string]node {
	if n.kind != mapping {
		r.fail(n.pos, "%s is a map of keys and values, not %s", what, n.describe())
		return nil
	}
	found := make(map[string]node, len(n.pairs))
	for _, p := range n.pairs {
		i := slices.IndexFunc(keys, func(k aKey) bool { return k.name == p.key })
		switch {
		case i < 0:
			r.fail(p.pos, "%s has no key %q%s", what, place.Shorten(p.key), didYouMean(p.key, keyNames(keys)))
		case p.value.kind == nothing:
			r.fail(p.pos, "%s has no value", p.key)
		default:
			found[p.key] = p.value
		}
	}
	for _, k := range keys {
		if _, ok := found[k.name]; k.need && !ok && !slices.ContainsFunc(n.pairs, func(p aPair) bool { return p.key == k.name }) {
			r.fail(n.pos, "%s needs the key %s: %s", what, k.name, k.means)
		}
	}
	return found
}

func keyNames(keys []aKey) []string {
	var names []string
	for _, k := range keys {
		names = append(names, k.name)
	}
	return names
}

// didYouMean ends a message with the nearest known word, or with all of a few.
func didYouMean(word string, known []string) string {
	if near := key.Nearest(word, known); near != "" {
		return "; did you mean " + near + "?"
	}
	if len(known) > 0 && len(known) <= 12 {
		return "; known are " + strings.Join(known, ", ")
	}
	return ""
}

// text reads one text. Braces without quotes are a map to YAML; say so.
func (r *reader) text(n node, key string) string {
	if n.kind == scalar {
		return n.text
	}
	if n.kind == mapping {
		r.fail(n.pos, "%s is one text; put one with braces in quotes: \"{product}\"", key)
	} else {
		r.fail(n.pos, "%s is one text, not %s", key, n.describe())
	}
	return ""
}

// texts reads a text or a list of texts.
func (r *reader) texts(n node, key string) []string {
	var out []string
	for _, item := range itemsOf(n) {
		out = append(out, r.text(item, key))
	}
	if len(out) == 0 {
		r.fail(n.pos, "%s is an empty list", key)
	}
	return out
}

// textsOf reads the texts under a key, none where it is not there.
func (r *reader) textsOf(m map[string]node, key string) []string {
	if v, ok := m[key]; ok {
		return r.texts(v, key)
	}
	return nil
}

func itemsOf(n node) []node {
	if n.kind == list {
		return n.items
	}
	return []node{n}
}

// word reads one of the words that a key takes; the first where it is another one.
func (r *reader) word(n node, keys []aKey, name string) string {
	words := keysNamed(keys, name)[0].words
	w := r.text(n, name)
	if n.kind != scalar || slices.Contains(words, w) {
		return w
	}
	near := key.Nearest(w, words)
	if near != "" {
		near = "; did you mean " + near + "?"
	}
	r.fail(n.pos, "%s: %s is none of %s%s", name, place.Shorten(w), strings.Join(words, ", "), near)
	return words[0]
}

// set reads the value of a key, if it is there.
func set[T any](m map[string]node, key string, read func(node, string) T, to *T) {
	if n, ok := m[key]; ok {
		*to = read(n, key)
	}
}

func (r *reader) yes(n node, key string) bool {
	switch r.text(n, key) {
	case "yes", "true":
		return true
	case "no", "false":
	default:
		if n.kind == scalar {
			r.fail(n.pos, "%s is yes or no, not %s", key, n.describe())
		}
	}
	return false
}

// pattern reads a pattern; a mistake in it is placed at its character.
func (r *reader) pattern(n node, key string) *pattern.Pattern {
	text := r.text(n, key)
	p, err := pattern.Parse(text)
	var bad *pattern.Error
	if errors.As(err, &bad) {
		pos := n.pos
		pos.Column += bad.Offset
		if n.quoted {
			pos.Column++
		}
		r.fail(pos, "%s: %s", key, bad.Text)
		return nil
	}
	return p
}

func (r *reader) plan(p *Plan, root node) {
	top := r.mapOf(root, planKeys, "the plan")
	if n, ok := top["umbau"]; ok && r.text(n, "umbau") != "1" {
		r.fail(n.pos, "this program reads plans of version 1, not %s", n.describe())
	}
	set(top, "title", r.text, &p.Title)
	if n, ok := top["calendar"]; ok {
		p.Calendar = r.calendar(n)
	}
	r.calendarOf = p.Calendar
	if n, ok := top["fact"]; ok {
		r.fact(p, n)
	}
	if n, ok := top["references"]; ok {
		r.references(p, n)
	}
	if n, ok := top["extracts"]; ok {
		for _, item := range itemsOf(n) {
			p.Entries = append(p.Entries, r.entry(item))
		}
		if len(p.Entries) == 0 {
			r.fail(n.pos, "extracts is an empty list; name the files that come in")
		}
	}
	if n, ok := top["rows"]; ok {
		r.rows(p, n)
	}
	if n, ok := top["ties"]; ok {
		for _, item := range itemsOf(n) {
			p.Ties = append(p.Ties, r.tie(item))
		}
	}
	if n, ok := top["history"]; ok {
		p.History = r.history(n)
	}
	if n, ok := top["deliver"]; ok {
		for _, item := range itemsOf(n) {
			p.Deliveries = append(p.Deliveries, r.delivery(item))
		}
	}
	if n, ok := top["corrections"]; ok {
		p.Corrections, p.CorrectionsPos = r.path(n, "corrections"), n.pos
	}
	p.Record = DefaultRecord
	if n, ok := top["record"]; ok {
		p.Record, p.RecordPos = r.path(n, "record"), n.pos
	}
}

func (r *reader) entry(n node) *Entry {
	m := r.mapOf(n, extractKeys, "an entry of extracts")
	e := &Entry{Pos: n.pos, Others: Stop, Absent: Stop}
	if v, ok := m["files"]; ok {
		e.Files = r.paths(v, "files")
		e.Pos = v.pos
	}
	if n.kind == mapping {
		r.from(e, m, "files")
	}
	set(m, "except", r.paths, &e.Except)
	e.Name = strings.Join(e.Files, ", ")
	if e.From != "" {
		e.Name = Shown(e.From)
	}
	set(m, "name", r.text, &e.Name)
	set(m, "path", r.pattern, &e.Path)
	r.sources(e, m)
	if v, ok := m["unpivot"]; ok {
		e.Unpivot = r.unpivot(v)
	}
	if v, ok := m["widen"]; ok {
		e.Widen = r.widen(v)
	}
	r.cells(e)
	r.sheets(e, m)
	r.layout(e, m)
	r.reading(e, m)
	return e
}

// cells looks whether an entry says where the cells go that unpivot or widen takes: those across go where rows say, if it has both.
func (r *reader) cells(e *Entry) {
	u, w := e.Unpivot, e.Widen
	switch {
	case u != nil && w != nil && (u.Cell != "" || u.Cells != nil || w.Cell != ""):
		r.fail(w.Pos, "with unpivot and widen neither has a cell: the rows say in %s what the cells across are", place.Shorten(w.Header))
	case u != nil && w != nil && u.Itself:
		r.fail(u.Pos, "with unpivot and widen an extract row is no fact row itself")
	case u != nil && w != nil:
	case u != nil && u.Cell == "" && u.Cells == nil:
		r.fail(u.Pos, "unpivot needs the key cell: the column the cell goes to, or a pattern of fields of the header that names it")
	case w != nil && w.Cell == "":
		r.fail(w.Pos, "widen needs the key cell: the header of the column with the cell; or unpivot, where the cells stand across")
	}
}

// widen reads how rows become one.
func (r *reader) widen(v node) *Widen {
	m, w := r.mapOf(v, widenKeys, "widen"), &Widen{Pos: v.pos}
	set(m, "header", r.text, &w.Header)
	set(m, "cell", r.text, &w.Cell)
	return w
}

// sources reads where an entry says that columns get their values, and what becomes of what
// it does not expect.
func (r *reader) sources(e *Entry, m map[string]node) {
	if v, ok := m["set"]; ok && r.perColumn(v, "set") {
		e.Set = map[string]string{}
		for _, p := range v.pairs {
			e.Set[p.key] = r.text(p.value, p.key)
		}
	}
	if v, ok := m["headers"]; ok && r.perColumn(v, "headers") {
		e.Headers = map[string][]string{}
		for _, p := range v.pairs {
			e.Headers[p.key] = r.texts(p.value, p.key)
		}
	}
	if v, ok := m["others"]; ok && v.kind == list {
		e.Aside = r.patterns(v, "others")
	} else if ok && r.word(v, extractKeys, "others") == "drop" {
		e.Others = Drop
	}
	if v, ok := m["absent"]; ok && v.kind == mapping {
		e.Absents = map[string]Remedy{}
		for _, p := range v.pairs {
			e.Absents[p.key] = remedies[r.word(p.value, extractKeys, "absent")]
		}
	} else if ok && r.word(v, extractKeys, "absent") == "leave" {
		e.Absent = Leave
	}
	e.SameRows, e.SameFiles = Keep, Stop
	if v, ok := m["same_rows"]; ok {
		e.SameRows = remedies[r.word(v, extractKeys, "same_rows")]
	}
	if v, ok := m["same_files"]; ok {
		e.SameFiles = remedies[r.word(v, extractKeys, "same_files")]
	}
}

func (r *reader) patterns(n node, key string) []*pattern.Pattern {
	var out []*pattern.Pattern
	for _, item := range itemsOf(n) {
		if p := r.pattern(item, key); p != nil {
			out = append(out, p)
		}
	}
	return out
}

func (r *reader) perColumn(n node, key string) bool {
	if n.kind != mapping {
		r.fail(n.pos, "%s is a map of columns, { column: … }, not %s", key, n.describe())
		return false
	}
	return true
}

func (r *reader) unpivot(n node) *Unpivot {
	m := r.mapOf(n, unpivotKeys, "unpivot")
	u := &Unpivot{Pos: n.pos}
	if v, ok := m["header"]; ok {
		u.Header = r.pattern(v, "header")
	} else {
		u.Header, _ = pattern.Parse("{product}")
	}
	if v, ok := m["cell"]; ok {
		if u.Cell = r.text(v, "cell"); strings.ContainsAny(u.Cell, "{[*") {
			u.Cells, u.Cell = r.pattern(v, "cell"), ""
		}
	}
	set(m, "columns", r.patterns, &u.Columns)
	if v, ok := m["blanks"]; ok {
		u.SkipBlanks = r.word(v, unpivotKeys, "blanks") == "skip"
	}
	set(m, "itself", r.yes, &u.Itself)
	return u
}

func (r *reader) rows(p *Plan, n node) {
	m := r.mapOf(n, rowsKeys, "rows")
	p.Rows = Rows{Pos: n.pos, Repeats: Stop}
	if v, ok := m["grain"]; ok {
		p.Rows.Grain, p.Rows.Pos = r.texts(v, "grain"), v.pos
	}
	if v, ok := m["only"]; ok {
		p.Rows.OnlyPos = v.pos
		p.Rows.Only = r.condition(p, v, "only")
	}
	if v, ok := m["must"]; ok {
		for _, item := range itemsOf(v) {
			if f := r.condition(p, item, "must"); f != nil {
				p.Rows.Must = append(p.Rows.Must, Must{item.pos, item.text, f})
			}
		}
	}
	if v, ok := m["zeros"]; ok {
		p.Rows.DropZeros = r.word(v, rowsKeys, "zeros") == "drop"
	}
	if v, ok := m["repeats"]; ok {
		p.Rows.Repeats = remedies[r.word(v, rowsKeys, "repeats")]
		if p.Rows.Grain == nil {
			r.fail(v.pos, "repeats needs grain: the columns of which each combination may stand only once")
		}
	}
}
