package cli

import (
	"fmt"
	"slices"
	"strconv"
	"strings"

	"github.com/spf13/cobra"

	"umbau/internal/core/keys"
	"umbau/internal/core/place"
	"umbau/internal/core/plan"
	"umbau/internal/core/value"
)

// keysFlags are the flags of keys.
type keysFlags struct {
	tableFlags
	on, must string
}

func (a *app) keysCommand() *cobra.Command {
	var o keysFlags
	cmd := &cobra.Command{
		Use:   "keys TABLE [TABLE]",
		Short: "Which keys repeat, and which of two tables find a partner",
		Long: `Look at the keys of one table: how many there are, and which repeat. Of two tables:
what they are to each other (one to one, many to one, …), which keys only one of them
has, and how many rows would come out if they were put side by side.

A key with an empty piece matches nothing and is counted. Texts are compared by
their key: OLD tarn is Old Tarn; numbers by value.

Exit codes: 0 done; 1 could not; 2 wrong usage; 3 where --must does not hold.`,
		Example: `  umbau keys out/sales.csv --on branch,month,product
  umbau keys out/sales.csv ref/branches.csv --on "branch=Shop" --must matched
  umbau keys sales.csv budget.csv --on region,month -o keys.csv`,
		Args: func(_ *cobra.Command, args []string) error {
			if len(args) < 1 || len(args) > 2 {
				return usageError{fmt.Errorf("keys wants one table or two, not %d", len(args))}
			}
			return nil
		},
		RunE: func(c *cobra.Command, args []string) error { return a.keys(c, args, o) },
	}
	f := cmd.Flags()
	f.StringVar(&o.on, "on", "", "the columns of the key; \"product=Product code\" where the second table calls it otherwise")
	f.StringVar(&o.must, "must", "",
		"exit 3 where not: unique (of the first table), unique-both, matched (all rows of the first), matched-both")
	o.add(cmd)
	o.register(cmd, "on")
	return cmd
}

// musts are what --must may say.
var musts = []string{"unique", "unique-both", "matched", "matched-both"}

func (a *app) keys(c *cobra.Command, args []string, o keysFlags) error {
	on, must, err := o.asked(len(args))
	if err != nil {
		return usageError{err}
	}
	var sides []*keys.Side
	for i, name := range args {
		t, err := a.openTable(c, []string{name}, o.tableFlags)
		if err != nil {
			return err
		}
		v := t.View()
		if o.only != "" {
			if err := v.Filter(o.only); err != nil {
				return a.asUsage(err)
			}
		}
		s, err := keys.Read(c.Context(), v, on[i])
		if err != nil {
			return a.asUsage(err)
		}
		a.remark(t, v)
		sides = append(sides, s)
	}
	var pair *keys.Pair
	if len(sides) == 2 {
		if err := keys.Fit(sides[0], sides[1], on[0], on[1]); err != nil {
			return a.asUsage(err)
		}
		pair = keys.Beside(sides[0], sides[1])
	}
	problems := keysMust(must, sides, pair)
	a.exit = problems.ExitCode()
	if o.output != "" {
		if err := a.writeKeys(o.output, on[0], sides[0], pair); err != nil || o.output == stdout {
			return err
		}
	}
	switch {
	case a.json:
		a.printJSON(keysDocOf(on[0], sides, pair, problems, words(c)))
		return nil
	case !a.quiet:
		a.printKeys(on, sides, pair)
	}
	a.printErrors(problems, true)
	return nil
}

// asked are the columns of the key in each table, and what must hold.
func (o *keysFlags) asked(tables int) (on [2][]string, must []string, err error) {
	list, err := listOf(o.on)
	if err == nil && len(list) == 0 {
		err = fmt.Errorf("--on says which columns make the key, such as --on branch,month")
	}
	for _, one := range list {
		sides := halves(one)
		on[0] = append(on[0], strings.TrimSpace(sides[0]))
		on[1] = append(on[1], strings.TrimSpace(sides[len(sides)-1]))
	}
	if err != nil {
		return on, nil, err
	}
	if must, err = listOf(o.must); err != nil {
		return on, nil, err
	}
	for _, m := range must {
		if !slices.Contains(musts, m) {
			return on, nil, fmt.Errorf("--must %s: it is one of %s", place.Shorten(m), strings.Join(musts, ", "))
		}
		if tables == 1 && m != "unique" {
			return on, nil, fmt.Errorf("--must %s wants two tables", m)
		}
	}
	return on, must, nil
}

// keysMust are the demands that do not hold.
func keysMust(must []string, sides []*keys.Side, pair *keys.Pair) (problems place.List) {
	fail := func(s *keys.Side, what, format string, args ...any) {
		problems.Add(place.At(place.Place{File: s.Name}, what, format, args...).ByRule())
	}
	for _, m := range must {
		of := sides[:1]
		if strings.HasSuffix(m, "-both") {
			of = sides
		}
		for i, s := range of {
			switch {
			case strings.HasPrefix(m, "unique") && s.Repeated() > 0:
				first := s.Most(1)[0]
				fail(s, "repeated key", "%s: %s first, in rows %s", countOf(s.Repeated(), "key")+" "+repeats(s.Repeated()),
					strings.Join(first.Values, " | "), rowList(first.Places(10), first.Rows))
			case strings.HasPrefix(m, "matched") && pair != nil && pair.Partners[i].Rows < s.Rows:
				fail(s, "no partner", "%s of %s have no partner in %s", value.Grouped(strconv.Itoa(s.Rows-pair.Partners[i].Rows)),
					countOf(s.Rows, "row"), sides[1-i].Name)
			}
		}
	}
	return problems
}

func repeats(n int) string {
	if n == 1 {
		return "repeats"
	}
	return "repeat"
}

// rowList writes the first rows of some.
func rowList(rows []int, of int) string {
	var texts []string
	for _, r := range rows {
		texts = append(texts, strconv.Itoa(r))
	}
	text := strings.Join(texts, ", ")
	if of > len(rows) {
		text += ", …"
	}
	return text
}

// printKeys prints what there is to say for a person.
func (a *app) printKeys(on [2][]string, sides []*keys.Side, pair *keys.Pair) {
	for i, s := range sides {
		if i > 0 {
			fmt.Fprintln(a.out)
		}
		says := "each stands once"
		if n := s.Repeated(); n > 0 {
			says = value.Grouped(strconv.Itoa(n)) + " of them " + repeats(n)
		}
		head := fmt.Sprintf("%s by %s: %s, %s, %s", s.Name, strings.Join(on[i], ", "), countOf(s.Rows, "row"), countOf(s.Distinct(), "key"), says)
		fmt.Fprintln(a.out, a.colored(a.out, bold, head))
		if s.Blank > 0 {
			fmt.Fprintf(a.out, "  %s with an empty piece: no key, and no partner\n", countOf(s.Blank, "row"))
		}
		var g grid
		for _, k := range s.Most(10) {
			g.add(strings.Join(k.Values, " | "), countOf(k.Rows, "row")+":", rowList(k.Places(10), k.Rows))
		}
		g.print(a.out)
	}
	if pair != nil {
		a.printPair(sides, pair)
	}
}

func (a *app) printPair(sides []*keys.Side, pair *keys.Pair) {
	fmt.Fprintf(a.out, "\n%s\n", a.colored(a.out, bold, fmt.Sprintf("%s to %s: %s", sides[0].Name, sides[1].Name, pair.Relation())))
	for i, s := range sides {
		fmt.Fprintf(a.out, "  %s of %s of %s have a partner (%s of %s)\n", value.Grouped(strconv.Itoa(pair.Partners[i].Rows)),
			countOf(s.Rows, "row"), s.Name, value.Grouped(strconv.Itoa(pair.Partners[i].Keys)), countOf(s.Distinct(), "key"))
	}
	fmt.Fprintf(a.out, "  side by side, row by row, they would be %s rows\n", value.Grouped(strconv.FormatUint(pair.SideBySide, 10)))
	if pair.Relation() == "many to many" {
		fmt.Fprintln(a.out, "  → rows would be multiplied: -o keys.csv writes the list of keys to stand between the two; umbau compare adds "+
			"each up first")
	}
	for i, s := range sides {
		lone := pair.Only(i, 10)
		if len(lone) == 0 {
			continue
		}
		fmt.Fprintf(a.out, "\nOnly in %s: %s\n", s.Name, countOf(pair.Alone[i], "key"))
		var g grid
		for _, k := range lone {
			near := ""
			if k.Nearest != nil {
				near = "nearest there: " + strings.Join(k.Nearest, " | ")
			}
			g.add(strings.Join(k.Values, " | "), countOf(k.Rows, "row"), near)
		}
		if n := pair.Alone[i] - len(lone); n > 0 {
			g.add(fmt.Sprintf("… and %s more", value.Grouped(strconv.Itoa(n))))
		}
		g.print(a.out)
	}
}

// writeKeys writes the keys: of one table with their rows and places, of two with the rows
// of each.
func (a *app) writeKeys(to string, on []string, s *keys.Side, pair *keys.Pair) error {
	t := tidy{what: "list of keys", header: slices.Clone(on), kinds: slices.Clone(s.Kinds)}
	if pair == nil {
		for k := range s.All {
			t.rows = append(t.rows, append(slices.Clone(k.Values), strconv.Itoa(k.Rows), strings.ReplaceAll(rowList(k.Places(0), 0), ",", "")))
		}
		t.header, t.kinds = append(t.header, "rows", "places"), append(t.kinds, plan.Whole, plan.Text)
		return a.writeTable(to, t)
	}
	pair.Spread(func(values []string, n, m int) bool {
		t.rows = append(t.rows, append(slices.Clone(values), strconv.Itoa(n), strconv.Itoa(m)))
		return true
	})
	t.header, t.kinds = append(t.header, "rows_a", "rows_b"), append(t.kinds, plan.Whole, plan.Whole)
	return a.writeTable(to, t)
}

// keysDoc is what keys prints with --json.
type keysDoc struct {
	place.DocHead
	On     []string      `json:"on"`
	Tables []keysSideDoc `json:"tables"`
	*keysPairDoc
}

type keysSideDoc struct {
	Table    string   `json:"table"`
	Rows     int      `json:"rows"`
	Distinct int      `json:"distinct"`
	Blank    int      `json:"blank"`
	Repeated int      `json:"repeated"`
	Most     []keyDoc `json:"most"`
}

type keyDoc struct {
	Key    []string `json:"key"`
	Rows   int      `json:"rows"`
	Places []int    `json:"places"`
}

type keysPairDoc struct {
	Relation   string        `json:"relation"`
	Partners   []partnersDoc `json:"partners"`
	Alone      [2][]loneDoc  `json:"alone"`
	SideBySide uint64        `json:"side_by_side"`
}

type partnersDoc struct {
	Rows int `json:"rows"`
	Keys int `json:"keys"`
}

type loneDoc struct {
	Key     []string `json:"key"`
	Rows    int      `json:"rows"`
	Nearest []string `json:"nearest"`
}

// mostPlaces is how many places of a key are told.
const mostPlaces = 10

func keysDocOf(on []string, sides []*keys.Side, pair *keys.Pair, problems place.List, command string) keysDoc {
	d := keysDoc{DocHead: head(command, problems.ExitCode(), problems), On: on, Tables: []keysSideDoc{}}
	for _, s := range sides {
		one := keysSideDoc{s.Name, s.Rows, s.Distinct(), s.Blank, s.Repeated(), []keyDoc{}}
		for _, k := range s.Most(10) {
			one.Most = append(one.Most, keyDoc{k.Values, k.Rows, k.Places(mostPlaces)})
		}
		d.Tables = append(d.Tables, one)
	}
	if pair == nil {
		return d
	}
	d.keysPairDoc = &keysPairDoc{Relation: pair.Relation(), SideBySide: pair.SideBySide}
	for i, p := range pair.Partners {
		d.Partners = append(d.Partners, partnersDoc(p))
		d.Alone[i] = []loneDoc{}
		for _, k := range pair.Only(i, 1000) {
			d.Alone[i] = append(d.Alone[i], loneDoc{k.Values, k.Rows, k.Nearest})
		}
	}
	return d
}
