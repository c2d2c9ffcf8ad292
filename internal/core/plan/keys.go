package plan

import (
	"slices"

	"umbau/internal/core/table"
)

// shape is what may stand as the value of a key.
type shape int

const (
	aText     shape = iota // one text
	someTexts              // a text or a list of them
	aPattern               // one pattern
	somePatterns
	aSwitch   // yes or no
	aWord     // one of words
	aCount    // a whole number
	aVersion  // 1
	aMap      // keys of its own
	aList     // a list of maps with keys of its own
	columns   // one entry a column of the fact table
	perColumn // a text or a list of them for each column
	perColumnOrTexts
	aGapRule         // a value or one of words
	aWordOrTexts     // one of words, or a list of texts
	aWordOrPerColumn // one of words, or one for each column
	aWordOrMap       // one of words, or keys of its own
	named            // a map of keys of its own for each name
)

// aKey is one key of the plan: what it is called, what stands there and what it
// means.
type aKey struct {
	name  string
	shape shape
	means string
	words []string // for aWord and aGapRule
	keys  []aKey   // for aMap, aList, columns
	need  bool
}

var planKeys = []aKey{
	{name: "umbau", shape: aVersion, need: true, means: "Version of the plan format: 1."},
	{name: "title", shape: aText, means: "What this table is called in summaries."},
	{name: "extracts", shape: aList, keys: extractKeys, need: true, means: "What comes in: one entry for each way a delivery is laid out."},
	{name: "fact", shape: columns, keys: columnKeys, need: true, means: "The finished table: one entry a column, in order."},
	{name: "rows", shape: aMap, keys: rowsKeys, means: "What is asked of the rows of the fact table."},
	{name: "deliver", shape: aList, keys: deliverKeys, need: true, means: "Where the fact table goes."},
	{name: "record", shape: aText, means: "The folder in which a build writes what it read, changed, held, left out and compared. " +
		"Default: record."},
	{name: "calendar", shape: aMap, keys: calendarKeys, means: "When years begin, where that is not January."},
	{name: "ties", shape: aList, keys: tieKeys, means: "Files of control totals, with which the fact table must agree."},
	{name: "history", shape: aMap, keys: historyKeys, means: "What is asked of figures that the last delivered build had."},
	{name: "corrections", shape: aText, means: "A CSV file of cells that are answered by hand: file,sheet,row,header,was,value,reason."},
	{name: "references", shape: named, keys: referenceKeys,
		means: "Tables in which columns are looked up, each by a name of its own."},
}

var extractKeys = []aKey{
	{name: "files", shape: someTexts, means: "Glob or list of globs, relative to the plan; ** for any folders."},
	{name: "from", shape: aText, means: "A database in the place of files: sqlite:raw/till.db, postgres://user@host/db, or ${NAME} of " +
		"the environment."},
	{name: "table", shape: someTexts, means: "The tables of a database: a name, a list, or a glob. Each is an extract; sheet " +
		"patterns fit its name."},
	{name: "query", shape: aText, means: "A single select, in the place of table; it may change nothing."},
	{name: "except", shape: someTexts, means: "Globs of files to pass over."},
	{name: "name", shape: aText, means: "What messages call this entry. Default: its globs."},
	{name: "path", shape: aPattern,
		means: "Pattern: fields read from the end of the file's path; its ending, and that of its archive, may be left out."},
	{name: "set", shape: perColumn, means: "Constants of this entry, by column."},
	{name: "headers", shape: perColumn, means: "This entry's own headers for a column, on top of the column's own list."},
	{name: "unpivot", shape: aMap, keys: unpivotKeys, means: "Turns wide columns into rows."},
	{name: "widen", shape: aMap, keys: widenKeys, means: "Makes one row of those that agree in all other cells: one column says what " +
		"stands in another."},
	{name: "others", shape: aWordOrTexts, words: []string{"stop", "drop"},
		means: "A header nothing claims: stop (default) or drop; or a list of the headers and patterns that are left aside, [Notes, " +
			"\"Entered *\"], where all others stop."},
	{name: "absent", shape: aWordOrPerColumn, words: []string{"stop", "leave"},
		means: "A header the table needs and an extract lacks: stop (default) or leave (empty; no gap rule applies); for some columns " +
			"only: { quantity: leave }."},
	{name: "sheets", shape: somePatterns, means: "Which sheets of a workbook: names or patterns. A hidden sheet only when named " +
		"without a wildcard. Default: all visible ones."},
	{name: "except_sheets", shape: somePatterns, means: "Which sheets to pass over."},
	{name: "sheet", shape: aPattern, means: "Pattern: fields read from the sheet's name."},
	{name: "titles", shape: somePatterns, means: "Patterns: fields read from the lines above the table."},
	{name: "header", shape: someTexts, means: "The header row: auto (default), a row number, a list of rows (group labels are " +
		"carried right and joined with | ), 2 rows (so many, wherever they begin), or none: columns are then called by their letters."},
	{name: "area", shape: aText, means: "Only this part of a sheet or file: B4:N30, or B4:N, open below."},
	{name: "sections", shape: aText, means: "The column that takes the text of section rows: rows whose only filled cell is a label."},
	{name: "encoding", shape: aWord, words: table.Encodings, means: "How a text file is encoded. Default: found out."},
	{name: "delimiter", shape: aText, means: "What parts the cells of a text file: comma, semicolon, tab or pipe, or the character " +
		"itself. Default: found out."},
	{name: "short_rows", shape: aWord, words: []string{"stop", "fill"},
		means: "A row of a text file with fewer cells than the header: stop (default) or fill with blanks."},
	{name: "totals", shape: aWord, words: []string{"tie", "drop", "keep"},
		means: "Total rows and total columns: tie (default: leave out and compare with the rows they total), drop or keep."},
	{name: "total_words", shape: someTexts, means: "Labels that are totals here, besides those that say total: [All, All branches]."},
	{name: "no_totals", shape: someTexts, means: "Labels that are no totals, though a word in them says so: [Total Care Wax]."},
	{name: "same_rows", shape: aWord, words: []string{"keep", "drop"},
		means: "A row that repeats an earlier one of its extract in every cell: keep (default) or drop."},
	{name: "same_files", shape: aWord, words: []string{"stop", "keep"},
		means: "A file that is a copy of another one, byte for byte: stop (default) or keep."},
	{name: "footnotes", shape: aWord, words: []string{"drop", "keep"},
		means: "Rows with a single filled cell below the table: drop (default) or keep."},
	{name: "numbers", shape: someTexts, means: "How numbers are written, by example: 1.234,56 or 1 234,56; of several, a cell that " +
		"two read differently is unclear. Default: 1,234.56."},
	{name: "dates", shape: someTexts, means: "How dates are written, by example: 31/12/2024, 20241231 or 12/2024; of several, a cell " +
		"that two read differently is unclear. ISO dates and names of months are always read."},
}

// referenceKeys are the keys of a reference: its files, and how they are read.
var referenceKeys = append([]aKey{
	{name: "file", shape: someTexts, means: "The file of the reference, relative to the plan; several, or a glob, are stacked."},
	{name: "files", shape: someTexts, means: "The same."},
}, keysNamed(extractKeys, "from", "table", "query", "except", "path", "sheets", "except_sheets", "sheet", "titles", "header", "area",
	"encoding", "delimiter",
	"short_rows", "numbers", "dates", "footnotes", "same_files")...)

var calendarKeys = []aKey{
	{name: "year_starts", shape: aText, need: true, means: "The month in which years begin: april, or its number."},
	{name: "named_by", shape: aWord, words: []string{"start", "end"}, need: true,
		means: "Whether a year is called by the one in which it begins or ends."},
}

// tieKeys are the keys of a control file: its own, and how it is read.
var tieKeys = append([]aKey{
	{name: "file", shape: aText, means: "The file of control totals, relative to the plan."},
	{name: "by", shape: perColumnOrTexts, need: true,
		means: "The columns that tell the groups; { column: Header } where the file calls one otherwise."},
	{name: "measures", shape: perColumn, need: true, means: "Each column to compare, and the file's header of its totals."},
	{name: "within", shape: aText, means: "The greatest difference that is none. Default: 0."},
}, keysNamed(extractKeys, "from", "table", "query", "sheets", "except_sheets", "header", "area", "encoding", "delimiter", "short_rows",
	"footnotes", "numbers",
	"dates", "total_words", "no_totals")...)

// keysNamed picks keys by name.
func keysNamed(keys []aKey, names ...string) []aKey {
	var out []aKey
	for _, k := range keys {
		if slices.Contains(names, k.name) {
			out = append(out, k)
		}
	}
	return out
}

var widenKeys = []aKey{
	{name: "header", shape: aText, need: true, means: "The header of the column that says what the cell is: quantity, amount."},
	{name: "cell", shape: aText, means: "The header of the column with the cell; silent where unpivot says which cells stand across."},
}

var unpivotKeys = []aKey{
	{name: "columns", shape: somePatterns, means: "The wide columns: headers or patterns. Default: every header nothing else claims."},
	{name: "header", shape: aPattern, means: "Pattern: the fields in the header. Default: {product}."},
	{name: "cell", shape: aText, means: "The column the cell goes to, or a pattern of fields of the header that names it: cells that " +
		"share the other fields share one fact row. Silent beside widen, where the rows say it."},
	{name: "blanks", shape: aWord, words: []string{"keep", "skip"},
		means: "A blank wide cell: keep it as a fact row, to which its gap rule applies (default), or skip it."},
	{name: "itself", shape: aSwitch, means: "yes: the extract row is a fact row too, before those of its wide cells. Default: no."},
}

// The words that stand for a remedy, and those that say how a text is written.
var (
	caseWords = []string{"as seen", "lower", "upper", "title"} // by Case
)

var columnKeys = []aKey{
	{name: "is", shape: aWord, words: kindNames, means: "What the column holds. Default: text."},
	{name: "headers", shape: someTexts, means: "The headers it is known by; its own name always counts."},
	{name: "book", shape: aText, means: "For names: the CSV file seen,standard that says which standard name each seen name stands for."},
	{name: "unknown", shape: aGapRule, words: unknownWords,
		means: "What a name that the book does not have gets: stop (default), keep, hold, drop, or any other text, which it then becomes."},
	{name: "case", shape: aWord, words: caseWords, means: "How the text is written. Default: as seen."},
	{name: "blanks", shape: aGapRule, words: gapWords,
		means: "What a blank cell gets: a value, leave, above (the last value above it), drop, hold or stop."},
	{name: "nulls", shape: aGapRule, words: gapWords, means: "What a word for nothing (n/a, -) gets."},
	{name: "texts", shape: aGapRule, words: gapWords, means: "What words get where the column wants a number or a date."},
	{name: "unclear", shape: aGapRule, words: gapWords,
		means: "What a text with a digit in it gets that is no number or date of the expected form."},
	{name: "errors", shape: aGapRule, words: gapWords, means: "What a spreadsheet error (#N/A) gets."},
	{name: "gaps", shape: aGapRule, words: gapWords, means: "What all kinds of gap get that are not named, but unclear, which must " +
		"be named itself."},
	{name: "decimals", shape: aCount, means: "Exactly so many places; halves away from zero."},
	{name: "add", shape: aSwitch, means: "no: a number that is not to be added up, such as a price."},
	{name: "currency", shape: aText, means: "The currency a measure must be in. Default: the first one seen."},
	{name: "keep", shape: aSwitch, means: "no: a helper column, not delivered."},
	{name: "note", shape: aText, means: "What the column means."},
	{name: "value", shape: aText, means: "A constant."},
	{name: "from", shape: aText, means: "Another column, whose value it takes."},
	{name: "write", shape: aPattern, means: "Pattern of other columns: their values joined to a text, which is then read as the " +
		"column's kind."},
	{name: "read", shape: aPattern, means: "Pattern with one {}: the piece of the text to keep."},
	{name: "formula", shape: aText, means: "A formula of other columns; also =… in place of the whole entry."},
	{name: "null_words", shape: someTexts, means: "More words that mean nothing in this column."},
	{name: "not_null_words", shape: someTexts, means: "Words for nothing that are values in this column."},
	{name: "mark", shape: aText, means: "The name of a text column to add after this one, which says what kind of gap was met."},
	{name: "lookup", shape: aText, means: "A reference, in which the column is looked up."},
	{name: "by", shape: perColumnOrTexts,
		means: "The columns of the key of a lookup; { column: Header } where the reference calls one otherwise."},
	{name: "take", shape: aText, means: "The header of the reference whose value the lookup takes. Default: those of the column."},
	{name: "missing", shape: aGapRule, words: missingWords,
		means: "What a key gets that the reference does not have: a value, leave, drop, hold or stop (default)."},
	{name: "repeats", shape: aWord, words: []string{"stop", "first", "sum"},
		means: "A key that stands twice in the reference: stop (default), first line, or sum of its lines."},
}

var rowsKeys = []aKey{
	{name: "grain", shape: someTexts, means: "The columns of which each combination may stand only once."},
	{name: "repeats", shape: aWord, words: []string{"stop", "keep", "sum", "first", "last"},
		means: "A combination that stands again: stop (default), keep all rows, sum the measures, or keep the first or last row."},
	{name: "only", shape: aText, means: "A formula that says which fact rows are wanted: =year >= 2023."},
	{name: "must", shape: someTexts, means: "Formulas that are true in every fact row that is delivered, else the build stops: " +
		"[=file_year = year]."},
	{name: "zeros", shape: aWord, words: []string{"keep", "drop"},
		means: "Fact rows whose every measure is zero or empty: keep (default) or drop."},
}

var deliverKeys = []aKey{
	{name: "to", shape: aText, need: true, means: "A path, whose ending says the format (.csv .tsv .jsonl, each also with .gz or .zst, " +
		".parquet, .xlsx), or a database: sqlite:out/sales.db, postgres://…, ${NAME} of the environment. Columns in braces make a " +
		"file for each of their values: out/{region}/sales_{year}.csv."},
	{name: "table", shape: aText, means: "The table of a database."},
	{name: "load", shape: aWordOrMap, words: loadWords, keys: loadKeys, means: "What becomes of rows that the table of a database has: " +
		"replace (default), append (they stay), or { replace: [region, year] }: those go whose values in these columns occur in " +
		"the build."},
	{name: "recreate", shape: aSwitch, means: "A table of a database that has other columns is dropped and made anew."},
	{name: "columns", shape: someTexts, means: "Which columns, in which order. Default: all."},
	{name: "origin", shape: aSwitch, means: "With columns that say where each row comes from: origin_file, origin_sheet, origin_row, " +
		"origin_header."},
	{name: "sort", shape: someTexts, means: "The columns by which rows are sorted; with - before it the largest first: [region, -amount]."},
	{name: "describe", shape: aSwitch, means: "Writes metadata beside a text file: names, types, notes (W3C CSV on the Web)."},
	{name: "parts", shape: aSwitch, means: "A file for each extract: out/sales.csv becomes out/sales-00001.csv for the first, and so on."},
	{name: "star", shape: aMap, keys: starKeys, means: "Several tables in the place of one: facts, and dimensions with ids that stay."},
}

var loadKeys = []aKey{
	{name: "replace", shape: someTexts, need: true, means: "Rows go whose values in these columns occur in the build."},
}

var starKeys = []aKey{
	{name: "fact", shape: aText, means: "What the table of facts is called. Default: fact."},
	{name: "dimensions", shape: perColumn, need: true, means: "Each dimension with its columns, the first of which it has a line for " +
		"each value of: { product: [product, family], calendar: month }."},
}
