package plan

import (
	"fmt"
	"path"
	"regexp"
	"slices"
	"strings"

	"umbau/internal/core/key"
	"umbau/internal/core/place"
	"umbau/internal/core/table"
)

// Delivery is one place the fact table goes to.
type Delivery struct {
	Pos      place.Pos
	To       string // a path, or the address of a database, as the plan has it
	Table    string // of a database
	Load     table.Load
	Columns  []string // in their order; empty for all
	Origin   bool     // with columns that say where each row comes from
	Sort     []SortKey
	Describe bool // with metadata beside it
	Star     *Star
	Parts    bool   // a file for each extract
	Ending   string // of its format
}

// SortKey is a column by which rows are sorted.
type SortKey struct {
	Column     string
	Descending bool
}

// Star says how the fact table is parted into one of facts and several of dimensions.
type Star struct {
	Fact       string
	Dimensions []Dimension
	Calendar   string // the column of months or days, "" for none
}

// Dimension is a table with a line for each value of its first column.
type Dimension struct {
	Name    string
	Columns []string
}

// IDColumn is the column of ids of a dimension.
func IDColumn(dimension string) string { return dimension + "_id" }

// TablePiece is the piece of a path that stands for the names of tables of a star.
const TablePiece = "table"

// Pieces are the columns in braces of the path, in their order.
func (d *Delivery) Pieces() (out []string) {
	rest := d.To
	for {
		_, after, ok := strings.Cut(rest, "{")
		if !ok || strings.HasPrefix(d.To, "$") {
			return out
		}
		name, behind, ok := strings.Cut(after, "}")
		if !ok {
			return out
		}
		out, rest = append(out, name), behind
	}
}

// Part is the path of the part of an extract, by its number among all.
func (d *Delivery) Part(to string, extract int) string {
	at := len(to) - len(d.Ending)
	return to[:at] + fmt.Sprintf("-%05d", extract+1) + to[at:]
}

// Several reports whether the delivery is several files or tables.
func (d *Delivery) Several() bool { return d.Parts || d.Star != nil || len(d.Pieces()) > 0 }

// Has reports whether a path is that of one of its files.
func (d *Delivery) Has(file string) bool {
	form := regexp.QuoteMeta(path.Clean(d.To))
	for _, name := range d.Pieces() {
		form = strings.Replace(form, regexp.QuoteMeta("{"+name+"}"), "[^/]+", 1)
	}
	if d.Parts {
		ending := regexp.QuoteMeta(d.Ending)
		form = strings.TrimSuffix(form, ending) + `-\d{5,}` + ending
	}
	return regexp.MustCompile("^" + form + "$").MatchString(path.Clean(file))
}

// Database reports whether the delivery goes to a database.
func (d *Delivery) Database() bool { return IsAddress(d.To) }

// Page reports whether the delivery is a page for people, no table.
func (d *Delivery) Page() bool { return strings.HasSuffix(strings.ToLower(d.To), ".html") }

// File is the file of a delivery, or one of its files as it may be called; "" for a
// database that is none.
func (d *Delivery) File() string {
	to, ok := FileOf(d.To)
	if !ok {
		return ""
	}
	for _, name := range d.Pieces() {
		to = strings.Replace(to, "{"+name+"}", "x", 1)
	}
	if d.Parts {
		to = d.Part(to, 0)
	}
	return to
}

// IsAddress reports whether a text is the address of a database, or stands for one.
func IsAddress(to string) bool {
	low := strings.ToLower(to)
	return strings.HasPrefix(low, sqlite) || strings.HasPrefix(low, "postgres:") || strings.HasPrefix(low, "postgresql:") ||
		strings.HasPrefix(low, "${")
}

const sqlite = "sqlite:"

// FileOf is the file that a delivery, or a source, is; ok is false for none.
func FileOf(to string) (file string, ok bool) {
	if len(to) >= len(sqlite) && strings.EqualFold(to[:len(sqlite)], sqlite) {
		return to[len(sqlite):], true
	}
	return to, !IsAddress(to)
}

var loadWords = []string{"replace", "append"}

func (r *reader) delivery(n node) Delivery {
	m := r.mapOf(n, deliverKeys, "a delivery")
	d := Delivery{Pos: n.pos}
	if to, ok := m["to"]; ok {
		d.Pos, d.To = to.pos, r.path(to, "to")
	}
	set(m, "table", r.text, &d.Table)
	set(m, "columns", r.texts, &d.Columns)
	set(m, "origin", r.yes, &d.Origin)
	set(m, "describe", r.yes, &d.Describe)
	set(m, "parts", r.yes, &d.Parts)
	set(m, "recreate", r.yes, &d.Load.Recreate)
	if v, ok := m["load"]; ok {
		r.load(&d, v)
	}
	for _, text := range r.textsOf(m, "sort") {
		name, descending := strings.CutPrefix(text, "-")
		d.Sort = append(d.Sort, SortKey{name, descending})
	}
	if v, ok := m["star"]; ok {
		d.Star = r.star(v)
	}
	return d
}

func (r *reader) load(d *Delivery, n node) {
	if n.kind == mapping {
		m := r.mapOf(n, loadKeys, "load")
		set(m, "replace", r.texts, &d.Load.Replace)
		return
	}
	d.Load.Append = r.word(n, deliverKeys, "load") == "append"
}

func (r *reader) star(n node) *Star {
	m := r.mapOf(n, starKeys, "star")
	s := &Star{Fact: "fact"}
	set(m, "fact", r.text, &s.Fact)
	v, ok := m["dimensions"]
	if !ok {
		return s
	}
	if v.kind != mapping || len(v.pairs) == 0 {
		r.fail(v.pos, "dimensions names each of them with its columns: { product: [product, family] }")
		return s
	}
	for _, pair := range v.pairs {
		columns := r.texts(pair.value, pair.key)
		switch {
		case pair.key == CalendarTable && len(columns) == 1:
			s.Calendar = columns[0]
		case pair.key == CalendarTable:
			r.fail(pair.pos, "calendar takes the column of months or days, such as calendar: month")
		case len(columns) > 0:
			s.Dimensions = append(s.Dimensions, Dimension{pair.key, columns})
		}
	}
	return s
}

// CalendarTable is the table of months or days of a star.
const CalendarTable = "calendar"

func (r *reader) checkDeliveries(p *Plan) {
	if len(p.Deliveries) == 0 {
		r.fail(place.Pos{Line: 1, Column: 1}, "deliver is an empty list; say where the fact table goes, such as - to: out/sales.csv")
	}
	seen := map[string]bool{}
	for i := range p.Deliveries {
		d := &p.Deliveries[i]
		name := path.Clean(d.To) + "#" + d.Table
		if seen[name] {
			r.fail(d.Pos, "two deliveries go to %s", place.Shorten(strings.TrimSuffix(name, "#")))
		}
		seen[name] = true
		r.checkDelivery(p, d)
	}
}

func (r *reader) checkDelivery(p *Plan, d *Delivery) {
	outlet := r.formats.OutletOf(d.To)
	switch {
	case d.To == "":
		r.fail(d.Pos, "to is empty; it is a path such as out/sales.csv")
		return
	case outlet == nil && !strings.HasPrefix(d.To, "${"):
		endings := r.formats.OutletEndings()
		r.fail(d.Pos, "to: %q ends in none of %s, is no page .html, and no database such as sqlite:out/sales.db", place.Shorten(d.To),
			strings.Join(endings, " "))
		return
	}
	r.checkForm(d, outlet)
	kept := func(name, what string) {
		if name == "" {
			return
		}
		if c := p.Column(name); c == nil {
			r.fail(d.Pos, "%s: there is no column %q%s", what, place.Shorten(name), didYouMean(name, r.keptNames(p)))
		} else if !c.Kept {
			r.fail(d.Pos, "%s: column %s is not delivered: keep: no", what, name)
		}
	}
	for i, name := range d.Columns {
		kept(name, "columns")
		if slices.Contains(d.Columns[:i], name) {
			r.fail(d.Pos, "columns names %s twice", name)
		}
	}
	for _, s := range d.Sort {
		kept(s.Column, "sort")
	}
	for _, name := range d.Load.Replace {
		kept(name, "load")
		if len(d.Columns) > 0 && !slices.Contains(d.Columns, name) {
			r.fail(d.Pos, "load: column %s is not among columns", place.Shorten(name))
		}
	}
	for _, name := range d.Pieces() {
		if name != TablePiece || d.Star == nil {
			kept(name, "to")
		}
	}
	if d.Origin {
		for _, name := range OriginColumns {
			r.checkAdded(p, d, "origin", name)
		}
	}
	if d.Star != nil {
		r.checkStar(p, d, kept)
	}
}

// OriginColumns are the columns that say where a row comes from.
var OriginColumns = []string{"origin_file", "origin_sheet", "origin_row", "origin_header"}

// checkAdded fails where a delivery makes a column of a name that a delivered column has.
func (r *reader) checkAdded(p *Plan, d *Delivery, by, name string) {
	for _, c := range p.Columns {
		if c.Kept && key.Same(c.Name, name) && (len(d.Columns) == 0 || slices.Contains(d.Columns, c.Name)) {
			r.fail(d.Pos, "%s adds a column %s, and the fact table has one, %s; give that one another name", by, name, c.Name)
		}
	}
}

// checkForm looks at what goes with the format of a delivery, and with what it is made of.
func (r *reader) checkForm(d *Delivery, outlet *table.Outlet) {
	if outlet != nil {
		d.Ending = outlet.Ending
	}
	if d.Parts && (d.Database() || d.Page() || d.Star != nil || len(d.Sort) > 0 || len(d.Pieces()) > 0) {
		r.fail(d.Pos, "parts is a file for each extract; it does not go with a database, a page, sort, star and columns in braces")
	}
	if d.Database() {
		if d.Table == "" && d.Star == nil {
			r.fail(d.Pos, "a delivery to a database needs table: the name of its table")
		}
	} else if d.Table != "" || d.Load.Append || d.Load.Replace != nil || d.Load.Recreate {
		r.fail(d.Pos, "table, load and recreate go with a database; %s is a file, which is replaced", place.Shorten(d.To))
	}
	if d.Describe && (outlet == nil || !outlet.Text) {
		r.fail(d.Pos, "describe goes with text files; %s has its types in itself", place.Shorten(d.To))
	}
	if d.Page() && (d.Origin || d.Star != nil || len(d.Sort) > 0 || len(d.Pieces()) > 0) {
		r.fail(d.Pos, "origin, sort, star and columns in braces go with tables; %s is a page", place.Shorten(d.To))
	}
}

// checkStar looks at a star: each column stands in one dimension at most.
func (r *reader) checkStar(p *Plan, d *Delivery, kept func(name, what string)) {
	s := d.Star
	if len(d.Columns) > 0 || len(d.Load.Replace) > 0 || d.Describe {
		r.fail(d.Pos, "columns, describe and load with columns do not go with star")
	}
	if !d.Database() && !slices.Equal(d.Pieces(), []string{TablePiece}) {
		r.fail(d.Pos, "to: a star is several tables, so {table} stands in the path, such as out/star/{table}.csv")
	}
	used, tables := map[string]string{}, []string{s.Fact, CalendarTable}
	use := func(name, of string) {
		kept(name, "star")
		if before := used[name]; before != "" {
			r.fail(d.Pos, "star: column %s stands in two dimensions, %s and %s", name, before, of)
		}
		used[name] = of
	}
	for _, dim := range s.Dimensions {
		if slices.ContainsFunc(tables, func(t string) bool { return key.Same(t, dim.Name) }) {
			r.fail(d.Pos, "star: two tables are called %s", dim.Name)
		}
		tables = append(tables, dim.Name)
		r.checkAdded(p, d, "star", IDColumn(dim.Name))
		for _, name := range dim.Columns {
			use(name, dim.Name)
		}
	}
	if s.Calendar == "" {
		return
	}
	if p.Column(s.Calendar) == nil { // the word for what there is one column of
		want := map[string]Kind{"month": Month, "day": Date}[s.Calendar]
		for _, c := range p.Columns {
			if c.Kept && want != 0 && c.Kind == want {
				s.Calendar = c.Name
				break
			}
		}
	}
	r.checkAdded(p, d, "star", IDColumn(CalendarTable))
	use(s.Calendar, CalendarTable)
	if c := p.Column(s.Calendar); c != nil && c.Kind != Month && c.Kind != Date {
		r.fail(d.Pos, "star: calendar wants a column of months or dates; %s is a %s column", c.Name, c.Kind)
	}
}

func (r *reader) keptNames(p *Plan) (names []string) {
	for _, c := range p.Columns {
		if c.Kept {
			names = append(names, c.Name)
		}
	}
	return names
}
