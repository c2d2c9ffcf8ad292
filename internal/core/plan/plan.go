// Package plan reads the plan, the file that says what comes in, what the
// finished table looks like, and where it goes.
//
// A plan is YAML. Read turns it into a checked Plan, or into all of its
// mistakes at once, each with its line and column. The words a plan may use
// stand in one table (keys.go) that the reader, the editor schema and the error
// messages share; Schema writes it as JSON Schema.
package plan

import (
	"slices"
	"strings"

	"umbau/internal/core/formula"
	"umbau/internal/core/key"
	"umbau/internal/core/pattern"
	"umbau/internal/core/place"
	"umbau/internal/core/table"
	"umbau/internal/core/value"
)

// Plan is a plan without mistakes. All its paths are as written, relative to
// the folder of the plan.
type Plan struct {
	File           string // the plan's path, as given
	Title          string
	Entries        []*Entry
	Columns        []*Column
	Made           []int // the columns made of others, or whose gaps are, each after those that it needs
	Calendar       value.Calendar
	Rows           Rows
	References     []*Reference
	Ties           []*Control
	Deliveries     []Delivery
	Record         string
	RecordPos      place.Pos
	Formats        *table.Formats // that the program reads and delivers
	source         []byte
	kinds          map[string]Kind // of columns that a reference knows
	trials         []Trial         // that it was read with
	History        History
	Corrections    string // the file of cells answered by hand, "" for none
	CorrectionsPos place.Pos
}

// Entry is one way in which extracts are laid out.
type Entry struct {
	Pos     place.Pos
	Name    string   // what messages call it
	Files   []string // globs
	From    string   // the address of a database in their place, "" for none
	Tables  []string // of a database: names, or globs
	Query   string   // of a database, in the place of tables
	Except  []string
	Path    *pattern.Pattern // nil when silent
	Set     map[string]string
	Headers map[string][]string // by column
	Unpivot *Unpivot            // nil for a long table
	Widen   *Widen              // nil where rows are as they are
	Others  Remedy              // a header nothing claims: Stop or Drop
	Aside   []*pattern.Pattern  // headers that are left aside, wide or not
	Absent  Remedy              // a header the table needs: Stop or Leave
	Absents map[string]Remedy   // the same for some columns

	Sheets       []*pattern.Pattern // empty: all visible ones
	ExceptSheets []*pattern.Pattern
	Sheet        *pattern.Pattern // nil when silent
	Titles       []*pattern.Pattern
	Header       Header
	Area         *Area         // nil for all
	Sections     string        // the column that takes the text of section rows, "" for none
	Reading      value.Reading // how its numbers and dates are written
	Encoding     string        // "" to be found out
	Delimiter    string        // "" to be found out
	FillShort    bool          // fill short rows with blanks
	Totals       Remedy        // Tie, Drop or Keep
	Labels       value.Totals  // which labels are totals
	Footnotes    Remedy        // Drop or Keep
	SameRows     Remedy        // Keep or Drop
	SameFiles    Remedy        // Stop or Keep
	EmptyNulls   bool          // what a database does not have is an empty cell
	Control      bool          // a control file: all of its figures are compared anyway
}

// AbsentOf is what the entry says of a header that a column needs: Stop or Leave.
func (e *Entry) AbsentOf(column string) Remedy {
	if r, ok := e.Absents[column]; ok {
		return r
	}
	return e.Absent
}

// LeftAside reports whether the entry leaves a header aside by name.
func (e *Entry) LeftAside(header string) bool {
	return slices.ContainsFunc(e.Aside, func(p *pattern.Pattern) bool { return FitsHeader(p, header) })
}

// FitsHeader reports whether an entry of a list of headers and patterns fits a header:
// a plain one is compared by the key, a pattern as it stands, and it fits the header that is written as it is, too.
func FitsHeader(p *pattern.Pattern, header string) bool {
	if p.Literal() {
		return key.Same(p.Write(func(string) string { return "" }), header)
	}
	return p.Fits(header) || p.String() == strings.TrimSpace(header) // Amount [EUR]
}

// Header says which row is the header: that of a number (of several the last),
// none, or, with the zero Header or one of several Rows, the one that is found.
type Header struct {
	Row   int
	Above []int // rows above it that belong to the header, with the labels of groups
	Rows  int   // so many rows, to be found; 0 or 1 for one
	None  bool
}

// Area is a part of a sheet: columns from 0, rows from 1. The last row 0 is open
// below.
type Area struct{ FirstColumn, LastColumn, FirstRow, LastRow int }

// Unpivot turns wide columns into rows.
type Unpivot struct {
	Pos        place.Pos
	Columns    []*pattern.Pattern // empty: every header nothing else claims
	Header     *pattern.Pattern
	Cell       string           // the column the cell goes to, "" where a pattern or, with widen, the rows name it
	Cells      *pattern.Pattern // of fields of the header: names the column; nil for one column
	SkipBlanks bool
	Itself     bool // the extract row is a fact row too
}

// Widen makes one row of those that agree in all but two cells: the one under
// Header says to which column the one under Cell goes; beside unpivot, Cell is "", and it says this of all cells across.
type Widen struct {
	Pos    place.Pos
	Header string
	Cell   string
}

// Remedy is what a plan does about something.
type Remedy uint8

const (
	Silent Remedy = iota // the plan does not say
	Stop
	Put   // put a value in its place
	Leave // leave it empty
	Drop  // leave the fact row out
	Hold  // set the fact row aside
	Keep  // keep it as it is
	Tie   // leave it out, and compare it with what it totals
	Above // put the last value above it in its place
	Sum   // add what repeats up
	First // keep the first of what repeats
	Last  // keep the last of it
)

// Kind is what a column holds.
type Kind uint8

// The kinds.
const (
	Text Kind = iota
	Name
	Whole
	Number
	Date
	Month
	Quarter
	Year
	Flag
)

var kindNames = []string{"text", "name", "whole", "number", "date", "month", "quarter", "year", "flag"}

// String returns the kind as a plan writes it.
func (k Kind) String() string { return kindNames[k] }

// KindNamed is the kind of a name; ok is false for none.
func KindNamed(name string) (k Kind, ok bool) {
	i := slices.Index(kindNames, name)
	return Kind(max(0, i)), i >= 0
}

// Numeric reports whether the kind is a number to calculate with.
func (k Kind) Numeric() bool { return k == Whole || k == Number }

// AppendKey appends the key by which values of the kind are compared: that of the text of
// one, and of a number, as it is delivered, its sign and digits.
func (k Kind) AppendKey(dst []byte, text string) []byte {
	if !k.Numeric() {
		return key.Append(dst, text)
	}
	if strings.Contains(text, ".") {
		text = strings.TrimRight(strings.TrimRight(text, "0"), ".")
	}
	return append(dst, text...)
}

// Dated reports whether the kind is a piece of time.
func (k Kind) Dated() bool { return k >= Date && k <= Year }

// Read reads a text as the kind, and writes it as it is delivered. Texts and names
// stay as they are; numbers are not read here.
func (k Kind) Read(r *value.Reading, text string) (string, bool) {
	switch k {
	case Date:
		return r.Day(text)
	case Month:
		return r.Month(text)
	case Quarter:
		return r.Quarter(text)
	case Year:
		return r.Year(text)
	case Flag:
		return value.Flag(text)
	}
	return text, true
}

// types are what the kinds are to a formula.
var types = [...]formula.Type{Text: formula.Text, Name: formula.Text, Whole: formula.Number, Number: formula.Number, Date: formula.Day,
	Month: formula.Month, Quarter: formula.Quarter, Year: formula.Year, Flag: formula.Flag}

// Type is what the kind is to a formula.
func (k Kind) Type() formula.Type { return types[k] }

// KindOfFormula is the kind of column that a formula of a type makes.
func KindOfFormula(t formula.Type) Kind {
	switch t {
	case formula.Number:
		return Number
	case formula.Text:
		return Text
	}
	for k, u := range types {
		if u == t {
			return Kind(k)
		}
	}
	return Text
}

// Case is how a text is written.
type Case uint8

// The cases.
const (
	AsSeen Case = iota
	Lower
	Upper
	TitleCase
)

// Column is one column of the fact table.
type Column struct {
	Pos      place.Pos
	Name     string
	Kind     Kind
	Headers  []string         // besides its name
	Value    *string          // a constant
	From     string           // another column whose value it takes, "" for none
	Write    *pattern.Pattern // of other columns, whose values it joins; nil for none
	Formula  *formula.Formula // of other columns; nil for none
	Lookup   *Lookup          // in a reference, by other columns; nil for none
	Marks    string           // the column whose gaps it names, "" for none
	Words    value.Words      // what means nothing here, besides the words that always do
	Read     *pattern.Pattern // the piece to keep of a text; nil for all of it
	Book     string           // "" for none
	BookPos  place.Pos
	Unknown  Rule // what a name the book does not have gets
	Case     Case
	Gaps     [value.Gaps]Rule
	Decimals int    // -1 for none
	Add      bool   // a number that may be added up
	Currency string // the currency a measure must be in; "" for the first seen
	Kept     bool   // delivered
	AsItIs   bool   // a number that nothing shortens: 2.50 stays so, where the column has no decimals of its own
	Note     string
}

// Needs are the columns that the value of a column is made of.
func (c *Column) Needs() []string {
	switch {
	case c.From != "":
		return []string{c.From}
	case c.Write != nil:
		return c.Write.Fields()
	case c.Formula != nil:
		return c.Formula.Columns
	case c.Lookup != nil:
		var names []string
		for _, by := range c.Lookup.By {
			names = append(names, by.Column)
		}
		return names
	case c.Marks != "":
		return []string{c.Marks}
	}
	return nil
}

// GapNeeds are the columns that the formulas in the gap rules need.
func (c *Column) GapNeeds() []string {
	var names []string
	for _, r := range c.Gaps {
		if r.Formula != nil {
			names = append(names, r.Formula.Columns...)
		}
	}
	return names
}

// GapFormulas reports whether a gap gets what a formula gives.
func (c *Column) GapFormulas() bool {
	for _, r := range c.Gaps {
		if r.Formula != nil {
			return true
		}
	}
	return false
}

// Made reports whether the value is a constant or made of other columns.
func (c *Column) Made() bool {
	return c.Value != nil || c.From != "" || c.Write != nil || c.Formula != nil || c.Lookup != nil || c.Marks != ""
}

// Measure reports whether the column's amounts are added up and tied.
func (c *Column) Measure() bool { return c.Kind.Numeric() && c.Add }

// Rule is a decision of the plan about a gap or a name.
type Rule struct {
	Pos     place.Pos // zero when silent
	Remedy  Remedy
	Text    string           // the value to put, as written
	Number  value.Decimal    // the same in a column of numbers
	Formula *formula.Formula // what gives the value to put; nil for a value
}

// remedies are the remedies by the word that a plan has for them.
var remedies = map[string]Remedy{"stop": Stop, "leave": Leave, "drop": Drop, "hold": Hold, "above": Above, "keep": Keep, "tie": Tie,
	"sum": Sum, "first": First, "last": Last}

// gapWords are the remedies for gaps, unknownWords those for names that no book has.
var (
	gapWords     = []string{"leave", "above", "drop", "hold", "stop"}
	unknownWords = []string{"stop", "keep", "hold", "drop"}
	missingWords = []string{"leave", "drop", "hold", "stop"}
)

// Word is the rule as the plan has it, nil where the plan is silent.
func (r Rule) Word() *string {
	if r.Remedy == Put {
		return &r.Text
	}
	for word, remedy := range remedies {
		if remedy == r.Remedy {
			return &word
		}
	}
	return nil
}

// Rows is what is asked of the rows of the fact table.
type Rows struct {
	Pos       place.Pos
	Grain     []string         // empty when silent
	Repeats   Remedy           // Stop, Keep, Sum, First or Last
	Only      *formula.Formula // which fact rows are wanted; nil for all
	OnlyPos   place.Pos
	Must      []Must // what is true in every fact row
	DropZeros bool   // rows whose every measure is zero or empty
}

// Must is a formula that is true in every fact row that is delivered.
type Must struct {
	Pos     place.Pos
	Text    string // as written
	Formula *formula.Formula
}

// Control is a file of control totals, with which the fact table must agree.
type Control struct {
	Pos      place.Pos
	Entry    *Entry // how the file is read
	By       []Paired
	Measures []Paired
	Within   value.Decimal // the greatest difference that is none
}

// Reference is a table in which columns are looked up.
type Reference struct {
	Name  string
	Pos   place.Pos
	Entry *Entry // how its files are read
}

// Lookup is how a column is found in a reference.
type Lookup struct {
	Pos     place.Pos
	Of      string   // the reference
	By      []Paired // the columns of the key, and what the reference calls them
	Take    string   // what the reference calls the column, "" for one of its own headers
	Repeats Remedy   // of a key that stands twice: Silent, Stop, First or Sum
	Silent  bool     // the plan does not say what the column is: it is what the reference has
}

// Paired is a column of the fact table and the header under which a control file, or a
// reference, has it, "" for one of the column's own.
type Paired struct{ Column, Header string }

// Amount reports whether a column's amounts are read from cells and added up: those of
// a measure, or of one made of texts by from or write.
func (p *Plan) Amount(c *Column) bool {
	return c.Measure() && (!c.Made() || p.OfTexts(c))
}

// Shown writes an amount of the column for a person: with the places of the column, or as
// many as it needs, and digits in groups.
func (c *Column) Shown(d value.Decimal) string {
	d, _ = d.Rescale(max(c.Decimals, d.Shorten().Places()))
	return value.Grouped(d.String())
}

// OfTexts reports whether a column of numbers or dates is made by from or write of a
// column of texts that may come from cells: it is read as cells are.
func (p *Plan) OfTexts(c *Column) bool {
	if !c.Kind.Numeric() && !c.Kind.Dated() || c.From == "" && c.Write == nil {
		return false
	}
	return slices.ContainsFunc(c.Needs(), p.textOfCells)
}

// textOfCells reports whether a column is one of texts that may come from cells.
func (p *Plan) textOfCells(name string) bool {
	c := p.Column(name)
	switch {
	case c == nil || c.Kind != Text && c.Kind != Name:
		return false
	case c.From != "" || c.Write != nil:
		return slices.ContainsFunc(c.Needs(), p.textOfCells)
	}
	return !c.Made()
}

// Index is which of the columns has a name, -1 for none.
func (p *Plan) Index(name string) int {
	return slices.IndexFunc(p.Columns, func(c *Column) bool { return c.Name == name })
}

// Indexes are which of the columns have these names.
func (p *Plan) Indexes(names []string) (out []int) {
	for _, name := range names {
		out = append(out, p.Index(name))
	}
	return out
}

// Kept are the columns that are delivered.
func (p *Plan) Kept() []int { return p.where(func(c *Column) bool { return c.Kept }) }

// Amounts are the columns that are added up.
func (p *Plan) Amounts() []int { return p.where(p.Amount) }

func (p *Plan) where(is func(*Column) bool) (out []int) {
	for i, c := range p.Columns {
		if is(c) {
			out = append(out, i)
		}
	}
	return out
}

// FirstMeasure returns the first column that is added up, -1 for none.
func (p *Plan) FirstMeasure() int { return slices.IndexFunc(p.Columns, p.Amount) }

// LastMeasure returns the last column that is added up, -1 for none.
func (p *Plan) LastMeasure() int {
	for i := len(p.Columns) - 1; i >= 0; i-- {
		if p.Amount(p.Columns[i]) {
			return i
		}
	}
	return -1
}

// Column returns the column of this name, nil when there is none.
func (p *Plan) Column(name string) *Column {
	for _, c := range p.Columns {
		if c.Name == name {
			return c
		}
	}
	return nil
}
