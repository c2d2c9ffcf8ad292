package cli

import (
	"bytes"
	"fmt"
	"os"
	"path/filepath"
	"strings"
	"testing"

	"github.com/stretchr/testify/require"

	"umbau/internal/core/survey"
)

// Forty files are read on a screen: what is the same is told once.
func TestSurveyOfManyFiles(t *testing.T) {
	dir := t.TempDir()
	for i := range 40 {
		text := "Branch,Month,Rope,Flag,Oar\n"
		if i%2 == 1 {
			text = fmt.Sprintf("Sales of branch %d\n\n", i) + text
		}
		for m := range 6 {
			text += fmt.Sprintf("Holm %d,2024-%02d,%d.5,%d,%d\n", i, m+1, 100+37*m*i%91, 7*m%5+i, 3+m*m)
		}
		require.NoError(t, os.WriteFile(filepath.Join(dir, fmt.Sprintf("%02d.csv", i)), []byte(text), 0o666))
	}
	var out, errOut bytes.Buffer
	require.Zero(t, Main([]string{"survey", dir}, &out, &errOut), errOut.String())
	said := out.String()
	require.True(t, strings.HasPrefix(said, "40 tables with 240 rows in 1 layout; "), said)
	require.Regexp(t, `  20 tables \(.*00\.csv; .*02\.csv; .*04\.csv; …\): 120 rows; header in row 1\n`, said)
	require.Regexp(t, `  20 tables \(.*01\.csv; .*03\.csv; .*05\.csv; …\): 120 rows; header in row 3; titles\n`, said)
	require.Regexp(t, `  3 wide columns  number +720 `, said)
	require.Less(t, strings.Count(said, "\n"), 30)
}

func TestKindOfPart(t *testing.T) {
	for part, want := range map[string]string{
		`title in row 1 "Coast: Lakes"`: "titles", `footnote in row 9 "net"`: "footnotes", "rows 3, 9 blank": "rows blank",
		"row 7 the header again":           "rows the header again",
		"rows 4, 5, 6, 7, 8, … (9) totals": "rows totals", "header in row 3": "header in row 3", "utf-8": "utf-8",
	} {
		require.Equal(t, want, kindOfPart(part))
	}
}

// Figures end at the right, texts begin at the left, nothing stands behind a row.
func TestGrid(t *testing.T) {
	g := grid{right: []int{1}}
	g.add("column", "filled", "gaps")
	g.add("größe", "9", "")
	g.add("x", "1,200")
	var b bytes.Buffer
	g.print(&b)
	require.Equal(t, "  column  filled  gaps\n  größe        9\n  x        1,200\n", b.String())
}

// Of an estimate no more digits are shown than are known.
func TestDistinctOf(t *testing.T) {
	for want, c := range map[string]survey.Column{
		"12,345":                   {Least: 12_345, Utmost: 12_345},
		"3 to 4,321":               {Least: 3, Utmost: 4321},
		"about 196,000":            {Least: 196_376, Utmost: 196_376, Estimated: true},
		"about 5,010":              {Least: 5012, Utmost: 5012, Estimated: true},
		"about 162,000 to 164,000": {Least: 162_036, Utmost: 163_885, Estimated: true},
		"":                         {Folded: []string{"Oar"}},
	} {
		require.Equal(t, want, distinctOf(&c))
	}
}
