package place

import "slices"

// Where a line that settles a problem belongs in the plan.
const (
	InColumn  = "column" // that of the problem, if it has one; else in the entry
	InEntry   = "entry"  // of extracts
	InRows    = "rows"
	InHistory = "history"
)

// kind is what all problems of one word have in common.
type kind struct {
	what string
	in   string // where Add belongs; "" for InColumn
	told bool   // the text at a place is told in words; else it is what stands there
}

// kinds are all kinds of problems, most urgent first: what could not be read, what the
// extracts lack, what no longer agrees, names, gaps.
var kinds = []kind{
	{what: "mistake"}, {what: "changed file"}, {what: "unreadable file"}, {what: "environment"}, {what: "formula without value"},
	{what: "no file"}, {what: "files"}, {what: "part"}, {what: "book"}, {what: "output"}, {what: "empty file"}, {what: "no sheet"},
	{what: "sheet of totals"}, {what: "encoding"}, {what: "no header"}, {what: "rows above the header"}, {what: "title again"},
	{what: "path does not fit"}, {what: "sheet does not fit"}, {what: "title"}, {what: "missing header"}, {what: "header twice"},
	{what: "two headers for one column"}, {what: "value from two places"}, {what: "unexpected header"}, {what: "header does not fit"},
	{what: "number beside wide columns"}, {what: "cell without a header"}, {what: "short row"}, {what: "no measure", in: InEntry},
	{what: "unexpected figure"}, {what: "figure twice", told: true}, {what: "read twice", in: InEntry, told: true},
	{what: "same file", told: true}, {what: "corrections"}, {what: "correction", told: true}, {what: "account"}, {what: "filter"},
	{what: "total or none", told: true}, {what: "total", in: InEntry, told: true},
	{what: "repeated grain", in: InRows, told: true}, {what: "repeats differ", in: InRows, told: true}, {what: "must", told: true},
	{what: "repeated key", told: true}, {what: "missing key"}, {what: "unknown name"}, {what: "error gap"}, {what: "unclear gap"},
	{what: "text gap"}, {what: "null gap"}, {what: "blank gap"},
	{what: "restated", in: InHistory, told: true}, {what: "gone", in: InHistory, told: true}, {what: "shared line"},
	// what else stops may be why it does not agree
	{what: "control total", told: true},
	{what: "no partner"}, {what: "tie"}, {what: "no agreement"}, {what: "several values", told: true}, // of finished tables
}

func (p *Problem) kind() (rank int, k kind) {
	rank = slices.IndexFunc(kinds, func(k kind) bool { return k.what == p.What })
	if rank < 0 {
		return 0, kind{}
	}
	return rank, kinds[rank]
}

// Rank is how far behind others a problem is told: 0 is the most urgent one.
func (p *Problem) Rank() int {
	rank, _ := p.kind()
	return rank
}

// Told reports whether Texts tell in words what was met at each place; else they are what
// stands there.
func (p *Problem) Told() bool {
	_, k := p.kind()
	return k.told
}

// In says where the line of Add belongs: InColumn, InEntry, InRows or InHistory.
func (p *Problem) In() string {
	switch _, k := p.kind(); {
	case k.in != "":
		return k.in
	case p.Column == "":
		return InEntry
	}
	return InColumn
}
