package fact_test

import (
	"strings"
	"testing"

	"github.com/stretchr/testify/require"
)

// What stands beside the extracts and nothing reads is named: files in their folders and in those above, and other folders in
// these, but for the plan's own folder, where the deliveries, books and references of many plans may stand.
func TestNotRead(t *testing.T) {
	const text = "branch,amount\nHolm,1234.57\n"
	for name, test := range map[string]struct{ entry, files, want string }{
		"nothing":                       {"raw/*.csv", "raw/Lakes.csv", ""},
		"a file of the folder":          {"raw/L*.csv", "raw/Lakes.csv raw/New.csv raw/note.md", "raw/New.csv"},
		"a file in a folder beside":     {"raw/2024/*", "raw/2024/Lakes.csv raw/2025/Lakes.csv", "raw/2025/Lakes.csv"},
		"files in a folder beside":      {"raw/2024/*", "raw/2024/Lakes.csv raw/2025/a.csv raw/2025/b.csv", "raw/2025 (2 files)"},
		"a folder beside one above":     {"raw/24/12/*", "raw/24/12/a.csv raw/25/01/a.csv raw/25/02/a.csv", "raw/25 (2 files)"},
		"a file in a folder above":      {"raw/2024/*", "raw/2024/Lakes.csv raw/Lakes.csv", "raw/Lakes.csv"},
		"a folder below":                {"raw/*.csv", "raw/Lakes.csv raw/old/a.csv raw/old/b/c.csv", "raw/old (2 files)"},
		"folders in which some is read": {"raw/**/a*.csv", "raw/x/a.csv raw/y/a.csv raw/y/b.csv", "raw/y/b.csv"},
		"beside the plan":               {"2024/*.csv", "2024/Lakes.csv 2025/Lakes.csv names/book.csv", ""},
		"in the folder of the plan":     {"L*.csv", "Lakes.csv New.csv old/Lakes.csv", "New.csv"},
		"hidden":                        {"raw/L*.csv", "raw/Lakes.csv raw/.old/Lakes.csv raw/~$a.xlsx", ""},
	} {
		t.Run(name, func(t *testing.T) {
			files := map[string]string{}
			for i, file := range strings.Fields(test.files) {
				files[file] = text + string(rune('a'+i)) + ",1\n" // no copies
			}
			plan := wholePlan("  - { files: \""+test.entry+"\" }", "branch: text, amount: number", "")
			s, _ := silent{plan: plan, files: files}.folder(t).build(t, 2, 0)
			require.Equal(t, 0, s.ExitCode(), "%v", s.Problems)
			var said []string
			for _, n := range s.NotRead {
				said = append(said, n.String())
			}
			require.Equal(t, test.want, strings.Join(said, "; "))
		})
	}
}

// What a plan wrote beside its extracts is not named, by whatever value it was called.
func TestNotReadIsNotWritten(t *testing.T) {
	plan := strings.ReplaceAll(wholePlan("  - { files: raw/*.csv }", "branch: text, amount: number", ""), "out/", "raw/out/")
	f := silent{plan: strings.Replace(plan, "raw/out/s.csv", `"raw/out/{branch}.csv"`, 1),
		files: map[string]string{"raw/Lakes.csv": "branch,amount\nHolm,1234.57\n", "raw/out/Gone.csv": "branch,amount\nGone,1\n"}}.folder(t)
	for range 2 {
		s, _ := f.build(t, 2, 0)
		require.Equal(t, 0, s.ExitCode(), "%v", s.Problems)
		require.Empty(t, s.NotRead)
	}
}
