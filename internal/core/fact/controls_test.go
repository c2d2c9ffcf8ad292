package fact_test

import (
	"fmt"
	"math/big"
	"math/rand/v2"
	"strings"
	"testing"

	"github.com/stretchr/testify/require"

	"umbau/internal/core/key"
)

// controlJob is a folder with a file of control totals.
type controlJob struct {
	job
	sums    map[string][2]*big.Rat // by region and month: amount, quantity
	off     map[string]*big.Rat    // by group and measure: what the control says
	allowed *big.Rat
}

func newControlJob(t *testing.T, seed uint64) *controlJob {
	r := rand.New(rand.NewPCG(seed, 17))
	j := &controlJob{job: job{r: r, dir: t.TempDir()}, sums: map[string][2]*big.Rat{}, off: map[string]*big.Rat{}}
	pick := func(of ...string) string { return of[r.IntN(len(of))] }
	within := ""
	if j.allowed = new(big.Rat); r.IntN(2) == 1 {
		within, j.allowed = ", within: 0.05", rat(t, "0.05")
	}
	j.write(t, "umbau.yaml", fmt.Sprintf(`umbau: 1
extracts: [{ files: raw/*.csv, path: "{region}" }]
fact: { region: text, month: month, product: name, quantity: { is: whole, blanks: 0 }, amount: { is: number, decimals: 2 } }
ties: [{ file: control.csv, by: { region: Coast, month: Period }, measures: { amount: Booked, quantity: Pieces }%s }]
deliver: [{ to: out/s.csv }]
record: out/record
`, within))
	add := func(group, amount, quantity string) {
		if j.sums[group][0] == nil {
			j.sums[group] = [2]*big.Rat{new(big.Rat), new(big.Rat)}
		}
		j.sums[group][0].Add(j.sums[group][0], rat(t, amount))
		j.sums[group][1].Add(j.sums[group][1], rat(t, quantity))
	}
	for _, region := range []string{"Lakes", "Amber Bay", "Skerries"}[:1+r.IntN(3)] {
		var b strings.Builder
		b.WriteString("month,product,quantity,amount\n")
		for range 1 + r.IntN(400) {
			month := fmt.Sprintf("2024-%02d", 1+r.IntN(4))
			quantity, amount := pick("1", "2", "-3", ""), fmt.Sprintf("%d.%02d", r.IntN(1000)-100, r.IntN(100))
			fmt.Fprintf(&b, "%s,%s,%s,%s\n", month, pick("Buoy", "BUOY", "Oar"), quantity, amount)
			if quantity == "" {
				quantity = "0"
			}
			add(region+" | "+month, amount, quantity)
		}
		j.write(t, "raw/"+region+".csv", b.String())
	}
	j.writeControl(t, pick)
	return j
}

// writeControl writes the file of control totals.
func (j *controlJob) writeControl(t *testing.T, pick func(...string) string) {
	r := j.r
	// The control has most of the groups, in its own spelling, some in two lines, some off.
	var control strings.Builder
	control.WriteString("Booked by the office,,,\nCoast,Period,Booked,Pieces\n")
	for group, sum := range j.sums {
		if r.IntN(8) == 0 {
			continue
		}
		region, month, _ := strings.Cut(group, " | ")
		said := [2]*big.Rat{new(big.Rat).Set(sum[0]), new(big.Rat).Set(sum[1])}
		for i := range said {
			said[i].Add(said[i], rat(t, pick("0", "0", "0", "0.05", "-0.06", "100")))
			j.off[fmt.Sprint(group, i)] = said[i]
		}
		figure := said[0].FloatString(2)
		if r.IntN(5) == 0 {
			figure = ""
			delete(j.off, fmt.Sprint(group, 0))
		}
		split := rat(t, "1.5")
		if r.IntN(3) == 0 && figure != "" {
			fmt.Fprintf(&control, "%s,%s,%s,\n", strings.ToUpper(region), month, split.FloatString(2))
			figure = new(big.Rat).Sub(said[0], split).FloatString(2)
		}
		fmt.Fprintf(&control, "%s,%s,%s,%s\n", pick(region, " "+strings.ToLower(region)+"."), month, figure, said[1].FloatString(2))
	}
	control.WriteString("Long Sound,2024-01,5,1\nTotal,,999,999\n")
	j.off["Long Sound | 2024-010"], j.off["Long Sound | 2024-011"] = rat(t, "5"), rat(t, "1")
	j.sums["Long Sound | 2024-01"] = [2]*big.Rat{new(big.Rat), new(big.Rat)}
	j.write(t, "control.csv", control.String())
}

// What checks.csv says of control totals is what the fact table adds up to, whatever
// groups stand on which side; a build stops for those that differ, and for no others.
func TestRandomControls(t *testing.T) {
	for seed := range uint64(30) {
		t.Run(fmt.Sprint(seed), func(t *testing.T) { newControlJob(t, seed).compare(t) })
	}
}

// compare builds, and looks at every check.
func (j *controlJob) compare(t *testing.T) {
	s := j.run(t, 3)
	broken, seen := 0, map[string]bool{}
	for _, line := range j.records(t, j.files(t)["checks.csv"]) {
		require.Equal(t, "control", line["check"])
		measure := 0
		if line["measure"] == "quantity" {
			measure = 1
		}
		group := ""
		for g := range j.sums {
			if key.Same(strings.ReplaceAll(g, " | ", " "), strings.ReplaceAll(line["group"], " | ", " ")) {
				group = g
			}
		}
		require.NotEmpty(t, group, line["group"])
		k := fmt.Sprint(group, measure)
		require.False(t, seen[k], "a group is compared once")
		seen[k] = true
		require.Zero(t, rat(t, line["have"]).Cmp(j.sums[group][measure]), k)
		said, listed := j.off[k]
		if !listed {
			require.Empty(t, line["said"], k)
			said = new(big.Rat)
		} else {
			require.Zero(t, rat(t, line["said"]).Cmp(said), k)
		}
		difference := new(big.Rat).Sub(said, j.sums[group][measure])
		require.Zero(t, rat(t, line["difference"]).Cmp(difference), k)
		if !listed || difference.Abs(difference).Cmp(j.allowed) > 0 {
			broken++
		}
	}
	for k := range j.off {
		require.True(t, seen[k], "%s is compared", k)
	}
	require.Equal(t, 3, s.ExitCode(), "Long Sound has no extract")
	count := 0
	for _, problem := range s.Problems {
		if problem.What == "control total" {
			count += problem.Count
		}
	}
	require.Equal(t, broken, count)
}
