package fact_test

import (
	"cmp"
	"context"
	"encoding/csv"
	"fmt"
	"math/big"
	"math/rand/v2"
	"os"
	"path/filepath"
	"slices"
	"strings"
	"testing"

	"github.com/stretchr/testify/require"

	"umbau/internal/core/fact"
	"umbau/internal/core/plan"
	"umbau/internal/core/since"
	"umbau/internal/format"
)

const sincePlan = `umbau: 1
extracts: [{ files: "raw/*.csv", path: "{region}_{year}", unpivot: { header: "{product}", cell: amount } }]
fact:
  region: text
  year: year
  month: month
  product: name
  amount: { is: number, decimals: 2, blanks: leave }
history: { %s }
deliver: [{ to: out/sales.csv, origin: yes }]
record: out/record
`

// monthsOf are extracts by chance: their headers, and by month and header an amount.
type monthsOf map[string]*oneExtract

type oneExtract struct {
	headers []string
	rows    [][]string
}

func drawMonths(r *rand.Rand) monthsOf {
	out := monthsOf{}
	for _, region := range []string{"Lakes", "Skerries", "Amber Bay"} {
		for year := 2022; year < 2024; year++ {
			if r.IntN(4) == 0 {
				continue
			}
			e := &oneExtract{headers: []string{"Oar", "Buoy", "Rope"}[:1+r.IntN(3)]}
			for m := range 1 + r.IntN(5) {
				row := []string{fmt.Sprintf("%d-%02d", year, m+1)}
				for range e.headers {
					row = append(row, []string{"", fmt.Sprint(r.IntN(100)), fmt.Sprintf("%d.%02d", r.IntN(50), r.IntN(100))}[r.IntN(3)])
				}
				e.rows = append(e.rows, row)
			}
			out[fmt.Sprintf("%s_%d.csv", region, year)] = e
		}
	}
	out["Lakes_2024.csv"] = &oneExtract{[]string{"Oar"}, [][]string{{"2024-01", "1.00"}}}
	return out
}

// next changes what was: cells, rows, headers, whole extracts.
func (m monthsOf) next(r *rand.Rand) monthsOf {
	out := monthsOf{}
	for name, e := range m {
		if r.IntN(6) == 0 && len(m) > 1 {
			continue
		}
		own := &oneExtract{headers: slices.Clone(e.headers)}
		for _, row := range e.rows {
			if row = slices.Clone(row); r.IntN(5) == 0 {
				row[1+r.IntN(len(row)-1)] = fmt.Sprintf("%d.%02d", r.IntN(50), r.IntN(100))
			}
			if r.IntN(8) > 0 {
				own.rows = append(own.rows, row)
			}
		}
		if r.IntN(3) == 0 {
			i := r.IntN(len(own.headers)) // a name that is spelt otherwise is no new one
			own.headers[i] = []string{"Flag", "Chain", strings.ToUpper(own.headers[i]) + " "}[r.IntN(3)]
		}
		out[name] = own
	}
	for name, e := range drawMonths(r) {
		if out[name] == nil && r.IntN(3) == 0 {
			out[name] = e
		}
	}
	return out
}

// build writes the extracts, builds, and reads the delivery.
func (m monthsOf) build(t *testing.T, dir, history string, accept bool) (*fact.Summary, [][]string) {
	require.NoError(t, os.RemoveAll(filepath.Join(dir, "raw")))
	require.NoError(t, os.MkdirAll(filepath.Join(dir, "raw"), 0o777))
	for name, e := range m {
		var b strings.Builder
		fmt.Fprintf(&b, "Month,%s\n", strings.Join(e.headers, ","))
		for _, row := range e.rows {
			fmt.Fprintln(&b, strings.Join(row, ","))
		}
		require.NoError(t, os.WriteFile(filepath.Join(dir, "raw", name), []byte(b.String()), 0o666))
	}
	p, err := plan.Read(filepath.Join(dir, "umbau.yaml"), fmt.Appendf(nil, sincePlan, history), format.All())
	require.NoError(t, err)
	s, err := fact.Build(context.Background(), p, fact.Options{Workers: 2, Accept: accept})
	require.NoError(t, err)
	return s, readLines(t, filepath.Join(dir, "out/sales.csv"))
}

// buildIn builds by a plan in a folder, which must end well.
func buildIn(t *testing.T, dir, source string) *fact.Summary {
	p, err := plan.Read(filepath.Join(dir, "umbau.yaml"), []byte(source), format.All())
	require.NoError(t, err)
	s, err := fact.Build(context.Background(), p, fact.Options{Workers: 2})
	require.NoError(t, err)
	require.Zero(t, s.ExitCode(), s.Problems)
	return s
}

func readLines(t *testing.T, file string) [][]string {
	f, err := os.Open(file)
	require.NoError(t, err)
	defer f.Close()
	lines, err := csv.NewReader(f).ReadAll()
	require.NoError(t, err)
	return lines[1:]
}

// told is what a delivery says of itself, by the slow way: figures by what since.csv calls them.
func told(m monthsOf, delivery [][]string) map[string]*big.Rat {
	out := map[string]*big.Rat{}
	add := func(id string, d *big.Rat) {
		if out[id] == nil {
			out[id] = new(big.Rat)
		}
		out[id].Add(out[id], d)
	}
	one := big.NewRat(1, 1)
	for name, e := range m {
		add("rows,raw/"+name, new(big.Rat))
		add("amount,raw/"+name, new(big.Rat))
		for _, h := range append([]string{"Month"}, e.headers...) {
			out["header,raw/"+name+","+strings.ToLower(strings.TrimSpace(h))] = one
		}
	}
	for _, row := range delivery { // region, year, month, product, amount, origin_file, …
		d, ok := new(big.Rat).SetString(row[4])
		if !ok {
			d = new(big.Rat)
		}
		add("rows,"+row[5], one)
		add("amount,"+row[5], d)
		add("name,"+strings.ToLower(row[3]), one)
		add("group,"+strings.Join(row[:3], " | "), d)
	}
	return out
}

// For pairs of months by chance, since.csv is what a slow comparison of the two deliveries finds.
func TestSinceAgreesWithTheDeliveries(t *testing.T) {
	for seed := range seeds(120) {
		r := rand.New(rand.NewPCG(seed, 19))
		dir := t.TempDir()
		first := drawMonths(r)
		s, before := first.build(t, dir, "restated: say", false)
		require.Zero(t, s.ExitCode(), s.Problems)
		require.Empty(t, readLines(t, filepath.Join(dir, "out/record/since.csv")))
		second := first.next(r)
		s, now := second.build(t, dir, "restated: say", false)
		require.Zero(t, s.ExitCode(), s.Problems)
		was, is := told(first, before), told(second, now)
		want := map[string]string{}
		for id := range was {
			if is[id] == nil {
				want[id] = figure(id, was[id]) + " -> "
			} else if was[id].Cmp(is[id]) != 0 && !strings.HasPrefix(id, "name") {
				want[id] = figure(id, was[id]) + " -> " + figure(id, is[id])
			}
		}
		for id := range is {
			if was[id] == nil && !strings.HasPrefix(id, "group") {
				want[id] = " -> " + figure(id, is[id])
			}
		}
		have := map[string]string{}
		for _, c := range readLines(t, filepath.Join(dir, "out/record/since.csv")) {
			id, before, now := "", c[7], c[8]
			switch c[0] {
			case "extract":
				continue
			case "header":
				id = "header," + c[1] + "," + strings.ToLower(strings.TrimSpace(before+now))
			case "name":
				id = "name," + strings.ToLower(c[4])
			case "group":
				id = "group," + c[5]
			default:
				id = c[0] + "," + c[1]
			}
			have[id] = asRational(id, before) + " -> " + asRational(id, now)
		}
		require.Equal(t, want, have, "seed %d", seed)
		requireValues(t, before, now, s.Since.Changes)
	}
}

// requireValues holds new and gone regions, and the spans of years and months, against two deliveries.
func requireValues(t *testing.T, before, now [][]string, changes []since.Change) {
	want, have := map[string]string{}, map[string]string{}
	of := func(delivery [][]string, column int) (list []string) {
		for _, row := range delivery {
			list = append(list, row[column])
		}
		slices.Sort(list)
		return slices.Compact(list)
	}
	for _, region := range of(before, 0) {
		want[region] = "gone"
	}
	for _, region := range of(now, 0) {
		if want[region] == "" {
			want[region] = "new"
		} else {
			delete(want, region)
		}
	}
	for column, name := range map[int]string{1: "year", 2: "month"} {
		was, is := of(before, column), of(now, column)
		if a, b := was[0]+"/"+was[len(was)-1], is[0]+"/"+is[len(is)-1]; a != b {
			want[name] = a + " then " + b
		}
	}
	for _, c := range changes {
		switch {
		case c.What == since.Span:
			have[c.Column] = c.Before + " then " + c.Now
		case c.What != since.Value:
		case c.Now == "":
			have[c.Name] = "gone"
		default:
			have[c.Name] = "new"
		}
	}
	require.Equal(t, want, have)
}

// What nothing said of figures then, and figures of another size, are told: above a table, in a file's name, by signs in cells.
func TestUnlikeTheLastBuild(t *testing.T) {
	figures := func(unit string, of int) (out string) {
		for i := range 4 {
			out += fmt.Sprintf("Quay %d,%s%d.50\n", i, unit, of*(i+2))
		}
		return out
	}
	type files map[string]string
	const head = "Branch,Amount\n"
	first := files{"Lakes.csv": head + figures("", 100), "Skerries.csv": "Sales by branch\n\n" + head + figures("", 1000)}
	for _, test := range []struct {
		name        string
		next        files
		says, sizes []string
	}{
		{"as it was", first, nil, nil},
		{"larger and smaller, but not far", files{"Lakes.csv": head + figures("", 15_000), "Skerries.csv": head + figures("", 9)}, nil, nil},
		{"title", files{"Lakes.csv": "Sales in thousands\n\n" + head + figures("", 2)}, []string{"Lakes.csv: Sales in thousands"},
			[]string{"Lakes.csv: 7.5 of 350.5 to 3500.5"}},
		{"cells of a title", files{"Lakes.csv": "Currency:,USD\n\n" + head + figures("", 200)}, []string{"Lakes.csv: Currency: USD"}, nil},
		{"name", files{"Lakes TEUR.csv": head + figures("", 150)}, []string{"Lakes TEUR.csv: Lakes TEUR.csv"}, nil},
		{"signs", files{"Lakes.csv": head + figures("£", 100)}, []string{": amount in GBP"}, nil},
		{"cents", files{"Lakes.csv": head + figures("", 100_000)}, nil, []string{"Lakes.csv: 350000.5 of 350.5 to 3500.5"}},
		{"few", files{"Lakes.csv": head + "Quay,900000\nPier,900000\n"}, nil, nil},
	} {
		dir := t.TempDir()
		build := func(files files) *fact.Summary {
			for name, text := range files {
				require.NoError(t, os.WriteFile(filepath.Join(dir, name), []byte(text), 0o666))
			}
			return buildIn(t, dir, `umbau: 1
extracts: [{ files: "*.csv", path: "{region}" }]
fact: { region: text, branch: text, amount: { is: number, decimals: 2 } }
deliver: [{ to: out/sales.csv }]
record: out/record
`)
		}
		build(first)
		s := build(test.next)
		var says, sizes []string
		for _, c := range s.Since.Changes {
			if c.What == since.Says {
				says = append(says, c.File+": "+c.Now)
			}
		}
		for _, z := range s.Since.Sizes {
			sizes = append(sizes, fmt.Sprintf("%s: %s of %s to %s", z.File, z.Mean.Shorten(), z.Least.Shorten(), z.Most.Shorten()))
		}
		require.Equal(t, test.says, says, test.name)
		require.Equal(t, test.sizes, sizes, test.name)
		for _, c := range build(first).Since.Changes { // what is said no more is told, too
			require.False(t, c.What == since.Says && c.Now != "", test.name)
		}
	}
}

// A region whose delivery is missing is told, where most others have gone on.
func TestBehind(t *testing.T) {
	for _, test := range []struct{ time, kind, first, next, want string }{
		{"Day", "date", "Lakes:2024-01-03 Skerries:2024-01-30 Amber:2024-01-09", "Lakes:2024-02-01 Amber:2024-02-29", "Skerries 2024-01 2024-02"},
		{"Month", "month", "Lakes:2024-01 Skerries:2024-01 Amber:2024-01", "Lakes:2024-02 Amber:2024-02 Skerries:2024-02", ""},
		{"Month", "month", "Lakes:2024-01 Skerries:2024-01 Amber:2024-01", "Lakes:2024-02", ""},                      // it is early
		{"Month", "month", "Lakes:2024-01 Skerries:2023-01 Amber:2024-01", "Lakes:2024-02", "Amber 2024-01 2024-02"}, // Skerries had stopped
		{"Month", "month", "Lakes:2024-01 Skerries:2024-01", "Lakes:2023-12", ""},
		{"Quarter", "quarter", "Lakes:2024-Q1 A|B:2024-Q1 Amber:2024-Q1", "Lakes:2024-Q2 A|B:2024-Q2", "Amber 2024-Q1 2024-Q2"},
		{"Year", "year", "Lakes:2023 Skerries:2023", "Lakes:2024", "Skerries 2023 2024"},
		{"Month", "month", "File1:2024-01 File2:2024-01", "File3:2024-02 File4:2024-02", ""}, // none goes on
	} {
		dir := t.TempDir()
		build := func(list string) *fact.Summary {
			for _, one := range strings.Fields(list) {
				region, time, _ := strings.Cut(one, ":")
				text := fmt.Sprintf("Region,%s,Amount\n%s,%s,%d\n", test.time, strings.ReplaceAll(region, "|", " | "), time,
					len(one)+int(time[len(time)-1]))
				require.NoError(t, os.WriteFile(filepath.Join(dir, strings.ReplaceAll(one, "|", "")+".csv"), []byte(text), 0o666))
			}
			return buildIn(t, dir, fmt.Sprintf(`umbau: 1
extracts: [{ files: "*.csv", path: "*" }]
fact: { region: text, %s: %s, amount: { is: number, decimals: 2 } }
history: { by: [region, %[1]s] }
deliver: [{ to: out/sales.csv }]
record: out/record
`, strings.ToLower(test.time), test.kind))
		}
		build(test.first)
		var have []string
		for _, g := range build(test.next).Since.Behind {
			have = append(have, g.Group+" "+g.Then+" "+g.Now)
		}
		require.Equal(t, test.want, strings.Join(have, ", "), test)
	}
}

// A text of a column of text that is new is told, with what it is like or where it stood before; not in since.csv.
func TestNewValues(t *testing.T) {
	dir := t.TempDir()
	build := func(text string) *fact.Summary {
		require.NoError(t, os.WriteFile(filepath.Join(dir, "a.csv"), []byte(text), 0o666))
		return buildIn(t, dir, `umbau: 1
extracts: [{ files: "*.csv" }]
fact: { day: date, branch: text, product: text, note: text, seller: name, amount: { is: whole, blanks: hold } }
deliver: [{ to: out/sales.csv }]
record: out/record
`)
	}
	var notes strings.Builder
	for i := range 1001 { // more than are kept
		fmt.Fprintf(&notes, "2024-01-07,Quay,Brass Shackle,note %d,Ann Holm,1\n", i)
	}
	head := "Day,Branch,Product,Note,Seller,Amount\n"
	require.True(t, build(head+"2024-01-03,Quay,Dock Line,x,Ann Holm,1\n"+notes.String()).Since.First)
	s := build(head + "2024-02-03,Quay,Bras Shackle,x,Anne Holm,1\n2024-11-02,Dock Line,Fender,y,Bo,2\n" +
		"2025-01-01,Held,Held,held,Bo,\n")
	have := map[string]fact.Alike{}
	for i := range s.Since.Changes {
		if c := &s.Since.Changes[i]; c.What == since.Value || c.What == since.Span || c.What == since.Name {
			have[c.Column+": "+c.Before+" > "+cmp.Or(c.Name, c.Now)] = s.Since.Alike[c]
		}
	}
	require.Equal(t, map[string]fact.Alike{
		"product:  > Bras Shackle": {Text: "Brass Shackle", Column: "product"}, "product:  > Fender": {},
		"product: Brass Shackle > Brass Shackle": {}, "product: Dock Line > Dock Line": {},
		"branch:  > Dock Line": {Text: "Dock Line", Column: "product"},
		"seller:  > Anne Holm": {Text: "Ann Holm", Column: "seller"}, "seller:  > Bo": {}, "seller: 1002 > Ann Holm": {},
		"day: 2024-01-03/2024-01-07 > 2024-02-03/2024-11-02": {},
	}, have)
	for _, line := range readLines(t, filepath.Join(dir, "out/record/since.csv")) {
		require.NotContains(t, []string{"value", "span"}, line[0])
	}
}

func figure(id string, d *big.Rat) string {
	if strings.HasPrefix(id, "header") {
		return "there"
	}
	return d.RatString()
}

func asRational(id, text string) string {
	d, ok := new(big.Rat).SetString(text)
	switch {
	case text == "":
		return ""
	case strings.HasPrefix(id, "header"):
		return "there"
	case !ok:
		return text
	}
	return d.RatString()
}

// A plan stops on a restated figure or on one that is gone, each only on its own kind, and not
// within what is none; a person accepts it; a stopped build is not the last one.
func TestHistoryStops(t *testing.T) {
	row := func(amounts ...string) monthsOf {
		var rows [][]string
		for i, a := range amounts {
			if a != "" {
				rows = append(rows, []string{fmt.Sprintf("2024-%02d", i+1), a})
			}
		}
		return monthsOf{"Lakes_2024.csv": {[]string{"Oar"}, rows}}
	}
	for _, test := range []struct {
		history string
		now     []string
		kinds   string
	}{
		{"restated: stop", []string{"1.01", "2"}, "restated"},
		{"restated: stop, within: 0.01", []string{"1.01", "2"}, ""},
		{"restated: stop, within: 0.01", []string{"1.02", "2"}, "restated"},
		{"restated: stop", []string{"1", ""}, ""},
		{"gone: stop", []string{"1", ""}, "gone"},
		{"gone: stop", []string{"1.01", "2"}, ""},
		{"gone: stop, restated: stop", []string{"5", ""}, "restated gone"},
		{"gone: stop, restated: stop", []string{"1", "2", "3"}, ""},
		{"by: region, restated: stop", []string{"2", "1"}, ""},
	} {
		dir := t.TempDir()
		s, _ := row("1", "2").build(t, dir, test.history, false)
		require.Zero(t, s.ExitCode(), "%v", s.Problems)
		for range 2 { // a build that was stopped is not the one to compare with
			s, _ = row(test.now...).build(t, dir, test.history, false)
			var kinds []string
			for _, p := range s.Problems {
				kinds = append(kinds, p.What)
			}
			require.Equal(t, test.kinds, strings.Join(kinds, " "), "%v", test)
			if test.kinds == "" {
				break
			}
			require.Equal(t, 3, s.ExitCode())
			require.NotEmpty(t, readLines(t, filepath.Join(dir, "out/record/since.csv")))
		}
		s, _ = row(test.now...).build(t, dir, test.history, true)
		require.Zero(t, s.ExitCode(), "%v", s.Problems)
		require.Equal(t, test.kinds != "", s.Since.Accepted)
		s, _ = row(test.now...).build(t, dir, test.history, false)
		require.Zero(t, s.ExitCode(), "%v", s.Problems)
		require.Empty(t, s.Since.Changes)
	}
}
