package place

import (
	"fmt"
	"maps"
	"slices"
	"sort"
	"strings"
)

// MostPlaces is how many places a problem keeps; the count goes on.
const MostPlaces = 10

// Problem is one thing that is wrong: with the plan (Plan is set), or with
// what came in (Places is).
type Problem struct {
	What    string         // the kind of problem, in a few words that never change: "unknown name"
	Message string         // one sentence for a person, without the place
	Count   int            // how many cells, rows or files have it
	Places  []Place        // the first of them, at most MostPlaces
	Texts   []string       // what stands at each of Places; empty where that says nothing
	Notes   []string       // what else there is to say of each of Places; none where nothing is
	Once    bool           // places with a text that is there already are counted only
	Other   map[string]int // other ways of writing, by example, and how many cells would read so
	Column  string         // the column of the fact table, if one is concerned
	File    string         // the plan's or book's name, when the mistake is in it
	Plan    Pos            // where in the plan: the mistake, or the entry to mend
	Line    string         // of the plan at Plan, where its column says more than its words
	Add     string         // the line that settles it, to add to the plan at Plan
	Advice  string         // what else can be done
	Rule    bool           // a rule of the plan stops here (exit 3); else it could not be done (exit 1)
}

// At makes a problem that stands at one place.
func At(p Place, what, format string, args ...any) Problem {
	return Problem{What: what, Message: fmt.Sprintf(format, args...), Count: 1, Places: []Place{p}}
}

// InPlan makes a mistake in the plan.
func InPlan(pos Pos, what, format string, args ...any) Problem {
	return Problem{What: what, Message: fmt.Sprintf(format, args...), Count: 1, Plan: pos}
}

// ByRule returns the problem as one that a rule of the plan decides.
func (p Problem) ByRule() Problem { p.Rule = true; return p }

// Error writes the problem on one line: place first, as compilers do.
func (p Problem) Error() string {
	var where string
	switch {
	case len(p.Places) > 0:
		where = p.Places[0].String()
	case p.File != "" && !p.Plan.IsZero():
		where = fmt.Sprintf("%s:%d:%d", p.File, p.Plan.Line, p.Plan.Column)
	case !p.Plan.IsZero():
		where = fmt.Sprintf("line %d, column %d", p.Plan.Line, p.Plan.Column)
	default:
		where = p.File
	}
	if where == "" {
		return p.Message
	}
	return where + ": " + p.Message
}

// caret shows the line of the plan with a mark below the mistake, as much of it as
// fits on a screen.
func (p Problem) caret() string {
	const before, most = 60, 100
	line, at := []rune(strings.ReplaceAll(p.Line, "\t", " ")), p.Plan.Column-1
	if len(line) == 0 || at > len(line) {
		return ""
	}
	if cut := at - before; cut > 0 && len(line) > most {
		line, at = append([]rune("…"), line[cut:]...), before+1
	}
	if len(line) > most {
		line = append(line[:most], '…')
	}
	indent := 0
	for indent < len(line) && line[indent] == ' ' && indent < at {
		indent++
	}
	return "    " + string(line[indent:]) + "\n    " + strings.Repeat(" ", at-indent) + "^\n"
}

// same reports whether two problems are one kind at two places.
func (p Problem) same(q Problem) bool {
	return p.What == q.What && p.Column == q.Column && p.Message == q.Message && p.Plan == q.Plan && p.File == q.File && p.Rule == q.Rule
}

// List is a list of problems, an error when it is not empty. The zero List is
// empty and ready to use.
type List []Problem

// Add appends a problem; one that differs from an earlier one only in its
// place is counted there.
func (l *List) Add(p Problem) {
	for i := range *l {
		if q := &(*l)[i]; q.same(p) && len(p.Places) > 0 {
			q.Count += p.Count
			q.addPlaces(p)
			if q.Other == nil && len(p.Other) > 0 {
				q.Other = map[string]int{}
			}
			for example, n := range p.Other {
				q.Other[example] += n
			}
			return
		}
	}
	p.Places, p.Texts, p.Other = slices.Clone(p.Places), slices.Clone(p.Texts), maps.Clone(p.Other)
	*l = append(*l, p)
}

func (p *Problem) addPlaces(q Problem) {
	for i, at := range q.Places {
		if len(p.Places) >= MostPlaces {
			return
		}
		if i < len(q.Texts) {
			if p.Once && slices.Contains(p.Texts, q.Texts[i]) {
				continue
			}
			p.Texts = append(p.Texts, q.Texts[i])
		}
		p.Places = append(p.Places, at)
	}
}

// Merge adds all problems of another list, which come later in order.
func (l *List) Merge(other List) {
	for _, p := range other {
		l.Add(p)
	}
}

// SortByPlan puts mistakes of a plan in the order of their lines.
func (l List) SortByPlan() {
	sort.SliceStable(l, func(i, j int) bool { return l[i].Plan.Before(l[j].Plan) })
}

// Err returns the list as an error, nil when it is empty.
func (l List) Err() error {
	if len(l) == 0 {
		return nil
	}
	return l
}

// Error writes one line a problem, at most ten, and how many there are.
func (l List) Error() string {
	var b strings.Builder
	for i, p := range l {
		if i == MostPlaces {
			fmt.Fprintf(&b, "… and %d more\n", len(l)-i)
			break
		}
		b.WriteString(p.Error())
		b.WriteByte('\n')
		b.WriteString(p.caret())
	}
	return strings.TrimSuffix(b.String(), "\n")
}

// ExitCode is 0 for no problem, 3 when rules of the plan stop everything there
// is, else 1.
func (l List) ExitCode() int {
	if len(l) == 0 {
		return 0
	}
	for _, p := range l {
		if !p.Rule {
			return 1
		}
	}
	return 3
}
