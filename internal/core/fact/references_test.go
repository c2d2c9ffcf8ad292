package fact_test

import (
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
	"umbau/internal/core/key"
	"umbau/internal/core/value"
)

// lookupJob is a random table, and a random reference by one column or two.
type lookupJob struct {
	job
	rows, lines              [][]string // branch, product, amount; branch, product, coast, cost
	two                      bool       // the key has two columns
	missing, repeats, blanks string
}

func newLookupJob(t *testing.T, seed uint64) *lookupJob {
	r := rand.New(rand.NewPCG(seed, 71))
	pick := func(of ...string) string { return of[r.IntN(len(of))] }
	j := &lookupJob{job: job{r: r, dir: t.TempDir()}, two: r.IntN(2) == 0, missing: pick("Unassigned", "leave", "drop", "hold"),
		repeats: pick("first", "sum"), blanks: pick("leave", "None", "drop")}
	for range 1 + r.IntN(200) {
		j.rows = append(j.rows, []string{pick("Holm", "HOLM", " holm.", "Saltby", "Lowe", "Côte", "cote", "", "Quay 4"),
			pick("Buoy", "Oar", "oar", "Dock Line"),
			fmt.Sprint(r.IntN(100))})
	}
	seen := map[string]string{}
	for range r.IntN(12) {
		branch, product := pick("holm", "Saltby", "SALTBY", "COTE", "Lowe", "", "Quay 4", "Quay 5"), pick("buoy", "Oar", "dock-line", "Sail")
		k := key.Of(branch)
		if j.two {
			k += "|" + key.Of(product)
		}
		coast := pick("East", "West", "", "n/a")
		if before, again := seen[k]; again { // texts under sum must agree
			coast = before
		}
		seen[k] = coast
		j.lines = append(j.lines, []string{branch, product, coast, pick("1.5", "2", "", "0.25", "1,000")})
	}
	by, shop := "{ branch: Shop }", "Shop"
	if j.two {
		by, shop = "[branch, product]", "Branch"
	}
	table := func(header string, lines [][]string) string {
		text := header + "\n"
		for _, l := range lines {
			for i, c := range l {
				if strings.Contains(c, ",") {
					c = `"` + c + `"`
				}
				text += c
				if i < len(l)-1 {
					text += ","
				}
			}
			text += "\n"
		}
		return text
	}
	j.write(t, "raw/a.csv", table("branch,product,amount", j.rows))
	j.write(t, "ref/b.csv", table(shop+",product,Coast,Cost", j.lines))
	j.write(t, "umbau.yaml", fmt.Sprintf(`umbau: 1
extracts: [{ files: raw/*.csv, footnotes: keep }]
fact:
  branch: { blanks: leave }
  product: text
  amount: whole
  coast: { is: text, lookup: b, by: %s, take: Coast, missing: %s, repeats: %s, blanks: %s, nulls: leave }
  cost: { is: number, add: no, lookup: b, by: %s, take: Cost, missing: leave, repeats: %s, blanks: 0 }
references: { b: { file: ref/b.csv } }
deliver: [{ to: out/s.csv }]
record: out/record
`, by, j.missing, j.repeats, j.blanks, by, j.repeats))
	return j
}

// found are the lines of the reference that have the key of a row, by a look at each.
func (j *lookupJob) found(row []string) (out [][]string) {
	for _, l := range j.lines {
		same := key.Of(row[0]) == key.Of(l[0]) && key.Of(row[0]) != ""
		if j.two {
			same = same && key.Of(row[1]) == key.Of(l[1])
		}
		if same {
			out = append(out, l)
		}
	}
	return out
}

// want are the fact rows, held ones and dropped ones aside, and how many of those there are.
func (j *lookupJob) want(t *testing.T) (rows []string, held, dropped int) {
	for _, row := range j.rows {
		lines := j.found(row)
		coast, cost := "", ""
		switch {
		case len(lines) == 0 && j.missing == "drop":
			dropped++
			continue
		case len(lines) == 0 && j.missing == "hold":
			held++
			continue
		case len(lines) == 0:
			if coast = j.missing; coast == "leave" {
				coast = ""
			}
		default:
			if coast = lines[0][2]; coast == "n/a" {
				coast = ""
			} else if coast == "" && j.blanks == "drop" {
				dropped++
				continue
			} else if coast == "" && j.blanks != "leave" {
				coast = j.blanks
			}
			if j.repeats == "first" {
				lines = lines[:1]
			}
			sum := new(big.Rat)
			for _, l := range lines {
				if l[3] != "" {
					sum.Add(sum, rat(t, strings.ReplaceAll(l[3], ",", "")))
				}
			}
			cost = exact(sum)
		}
		rows = append(rows, strings.Join([]string{value.TrimText(row[0]), row[1], row[2], coast, cost}, "|"))
	}
	return rows, held, dropped
}

// A lookup finds what a slow look at every line of the reference finds, by keys in any
// spelling, with blanks and repeats; and it never adds or removes a row but as its rules say.
func TestRandomLookups(t *testing.T) {
	for seed := range uint64(40) {
		j := newLookupJob(t, seed)
		want, held, dropped := j.want(t)
		s := j.build(t, 1)
		var have []string
		for _, row := range j.records(t, j.files(t)["s.csv"]) {
			have = append(have, strings.Join([]string{row["branch"], row["product"], row["amount"], row["coast"], row["cost"]}, "|"))
		}
		require.Equal(t, want, have, "seed %d", seed)
		require.Equal(t, []int{len(j.rows), held, dropped}, []int{s.Rows().Made, s.Rows().Held, s.Rows().Dropped})
		j.compareUnmatched(t)
		files := j.files(t)
		for _, workers := range []int{2, 5} {
			j.build(t, workers)
			require.Equal(t, files, j.files(t), "%d workers", workers)
		}
	}
}

// compareUnmatched looks at the keys that have no partner, in both directions.
func (j *lookupJob) compareUnmatched(t *testing.T) {
	keyOf := func(cells []string) string {
		if j.two {
			return key.Of(cells[0]) + "|" + key.Of(cells[1])
		}
		return key.Of(cells[0])
	}
	want, have := map[string]int{}, map[string]int{}
	for _, row := range j.rows {
		if len(j.found(row)) == 0 {
			want["fact "+keyOf(row)]++
		}
	}
	for _, l := range j.lines {
		if !slices.ContainsFunc(j.rows, func(row []string) bool { return key.Of(l[0]) != "" && keyOf(row) == keyOf(l) }) {
			want["reference "+keyOf(l)]++
		}
	}
	for _, line := range j.records(t, j.files(t)["unmatched.csv"]) {
		parts := strings.Split(line["key"], " | ")
		require.Equal(t, "b", line["reference"])
		have[line["side"]+" "+keyOf(append(parts, ""))] += int(rat(t, line["rows"]).Num().Int64())
	}
	require.Equal(t, want, have)
}

// Which rows are wanted, and what must be true of them, may be said of what a reference has, whose kind only the reference says.
func TestConditionsOnLookups(t *testing.T) {
	f := &folder{dir: t.TempDir()}
	f.write(t, "raw/a.csv", "Branch,Amount\nHolm,1\nLowe,2\nMere,3\n")
	f.write(t, "ref.csv", "Branch,Coast,Open\nHolm,North,yes\nLowe,South,no\n")
	for rows, want := range map[string]string{
		`only: "=coast = 'north'"`: "branch,coast,open,amount\nHolm,North,true,1\n",
		"only: =not open":          "branch,coast,open,amount\nLowe,South,false,2\nMere,,,3\n",
		`must: ["=coast <> 'x'"]`:  "must",
		"only: =coast":             "a condition is wanted",
	} {
		columns := "branch: text, coast: { lookup: r, by: branch, take: Coast, missing: leave }, " +
			"open: { lookup: r, by: branch, take: Open, missing: leave }, amount: number"
		f.write(t, "umbau.yaml", wholePlan("  - files: raw/*.csv", columns, "references: { r: { file: ref.csv } }\nrows: { "+rows+" }\n"))
		s := shared{dir: f.dir}
		out := s.outputs(t, s.build(t, fact.Options{Workers: 1}))
		if strings.HasPrefix(want, "branch") {
			require.Equal(t, want, out["s.csv"], rows)
		} else {
			require.Contains(t, out["problems"], want, rows)
		}
	}
}

// A key that is missing is told as its names are spelt first, whichever worker meets it in another spelling.
func TestSpellingOfMissingKeys(t *testing.T) {
	f := &folder{dir: t.TempDir()}
	f.write(t, "ref.csv", "Branch,Product,Unit\nLowe,Oar,2\n")
	text := "Branch,Product,Amount\nLowe,Oar,1\nMere,Anchor 10 kg,2\n"
	for range 20 {
		text += "Holm,ANCHOR 10 KG,3\nLowe,Oar,4\n"
	}
	f.write(t, "raw/a.csv", text)
	f.plan = wholePlan("  - files: raw/*.csv", "branch: text, product: name, "+
		"unit: { lookup: r, by: [branch, product], take: Unit, missing: hold, add: no }, amount: number",
		"references: { r: { file: ref.csv } }\nrows: { only: =amount > 0 }\n")
	f.write(t, "umbau.yaml", f.plan)
	for workers := range 4 {
		s, files := f.build(t, workers+1, 1)
		require.Zero(t, s.ExitCode())
		data, err := os.ReadFile(filepath.Join(f.dir, "out/record/unmatched.csv"))
		require.NoError(t, err)
		require.Equal(t, "reference,side,key,rows,nearest\nr,fact,Mere | Anchor 10 kg,1,\nr,fact,Holm | Anchor 10 kg,20,\n", string(data))
		require.Equal(t, 20, strings.Count(files["held.csv"], "missing key Holm | Anchor 10 kg"), files["held.csv"])
	}
}
