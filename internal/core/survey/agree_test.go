package survey_test

import (
	"context"
	"fmt"
	"math/rand/v2"
	"os"
	"path/filepath"
	"strings"
	"testing"

	"github.com/stretchr/testify/require"

	"umbau/internal/core/fact"
	"umbau/internal/core/place"
	"umbau/internal/core/plan"
	"umbau/internal/core/survey"
	"umbau/internal/core/treat"
	"umbau/internal/core/value"
	"umbau/internal/format"
)

// writeCoast writes an extract with cells of all kinds.
func writeCoast(t *testing.T, r *rand.Rand, f int) {
	pick := func(of ...string) string { return of[r.IntN(len(of))] }
	var b strings.Builder
	b.WriteString("Branch,Buoy,Dock Line,Amount\n")
	for i := range 20 + r.IntN(300) {
		switch {
		case i > 0 && r.IntN(30) == 0:
			b.WriteString(pick("\n", ",,,\n", "BRANCH,buoy,dock-line,AMOUNT\n"))
			continue
		}
		fmt.Fprintf(&b, "%s %d", pick("Holm", "Saltby", "Marram"), r.IntN(5))
		for range 3 {
			cell := fmt.Sprintf("%d.%02d", r.IntN(2000), r.IntN(100))
			if r.IntN(6) == 0 {
				cell = pick("", " ", "n/a", "-", "closed", "12 pcs", "1,23", "#N/A", "#div/0!", "(5)", "1,234.5", "-7", "€ 3", "5%", "1e5",
					"approx. 9", "31/12/2024", "none", "1.2.3", "NaN")
				if strings.Contains(cell, ",") {
					cell = `"` + cell + `"`
				}
			}
			b.WriteString("," + cell)
		}
		b.WriteString("\n")
	}
	b.WriteString("Holm 1,1,2,3\n")
	require.NoError(t, os.WriteFile(filepath.Join("raw", fmt.Sprintf("coast %d.csv", f)), []byte(b.String()), 0o666))
}

// What the survey says of the cells before a plan is written is what a build finds in
// them: the same gaps, of the same kinds, in the same places.
func TestSurveyAndBuildAgree(t *testing.T) {
	for seed := range uint64(25) {
		t.Run(fmt.Sprint(seed), func(t *testing.T) {
			dir := t.TempDir()
			t.Chdir(dir)
			r := rand.New(rand.NewPCG(seed, 41))
			require.NoError(t, os.Mkdir("raw", 0o777))
			for f := range 1 + r.IntN(3) {
				writeCoast(t, r, f)
			}

			var surveyed []string
			report, err := survey.Run(context.Background(), survey.Options{Paths: []string{"raw"}, Formats: format.All(),
				Gap: func(at place.Place, kind value.Gap, text string) {
					surveyed = append(surveyed, fmt.Sprintf("%s: %s %q", at, kind, text))
				}})
			require.NoError(t, err)
			require.Empty(t, report.Problems)
			for _, table := range report.Tables {
				for _, f := range table.Fields[1:] {
					require.Contains(t, []string{"number", "whole"}, f.Is, "numbers are many more")
				}
			}

			p, err := plan.Read("umbau.yaml", []byte(`umbau: 1
extracts: [{ files: raw/*.csv, footnotes: keep, totals: keep }]
fact:
  branch: text
  buoy: { is: number, gaps: leave, unclear: leave }
  dock_line: { is: number, gaps: leave, unclear: leave }
  amount: { is: number, gaps: leave, unclear: leave }
deliver: [{ to: out.csv }]
`), format.All())
			require.NoError(t, err)
			var built []string
			_, err = fact.Build(context.Background(), p, fact.Options{DryRun: true,
				Gaps: func(g treat.GapCell) {
					built = append(built, fmt.Sprintf("%s: %s %q", g.Place, g.Kind, g.Text))
				}})
			require.NoError(t, err)
			require.NotEmpty(t, built)
			require.Equal(t, built, surveyed)
		})
	}
}

// Any number of workers gives the same report.
func TestSurveyByManyWorkers(t *testing.T) {
	t.Chdir(t.TempDir())
	r := rand.New(rand.NewPCG(1, 43))
	for f := range 12 {
		var b strings.Builder
		b.WriteString("Branch,Month,Buoy,Oar\n")
		for i := range 1 + r.IntN(9000) {
			fmt.Fprintf(&b, "Holm %d,2024-%02d,%d,%d.5\n", r.IntN(50), 1+i%12, r.IntN(100), r.IntN(100))
		}
		require.NoError(t, os.WriteFile(fmt.Sprintf("%02d.csv", f), []byte(b.String()), 0o666))
	}
	said := func(workers int) (text string) {
		report, err := survey.Run(context.Background(), survey.Options{Paths: []string{"."}, Workers: workers, Formats: format.All(),
			Gap: func(at place.Place, kind value.Gap, text string) { require.Fail(t, "there are no gaps") }})
		require.NoError(t, err)
		for _, table := range report.Tables {
			text += fmt.Sprintf("%s %d %d %v %v\n", table.Place, table.HeaderRow, table.Rows, table.Facts, table.Fields)
		}
		return text + fmt.Sprint(report.Headers, report.Traps)
	}
	want := said(1)
	require.Contains(t, want, "11.csv")
	for _, workers := range []int{2, 5} {
		require.Equal(t, want, said(workers))
	}
}
