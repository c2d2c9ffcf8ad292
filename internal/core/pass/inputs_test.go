package pass

import (
	"fmt"
	"os"
	"path/filepath"
	"testing"

	"github.com/stretchr/testify/require"

	"umbau/internal/core/pattern"
)

func TestExpand(t *testing.T) {
	dir := t.TempDir()
	for _, f := range []string{"raw/Lakes_2024.csv", "raw/Amber Bay_2024.csv", "raw/deep/er/Skerries.csv", "raw/.hidden.csv",
		"raw/~$Lakes.xlsx", "raw/a[1].csv", "top.csv", "raw/x.txt"} {
		file := filepath.Join(dir, filepath.FromSlash(f))
		require.NoError(t, os.MkdirAll(filepath.Dir(file), 0o777))
		require.NoError(t, os.WriteFile(file, nil, 0o666))
	}
	for glob, want := range map[string][]string{
		"raw/*.csv":           {"raw/.hidden.csv", "raw/Amber Bay_2024.csv", "raw/Lakes_2024.csv", "raw/a[1].csv"},
		"raw/**/*.csv":        {"raw/.hidden.csv", "raw/Amber Bay_2024.csv", "raw/Lakes_2024.csv", "raw/a[1].csv", "raw/deep/er/Skerries.csv"},
		"raw/{Lakes,Amber}*":  {"raw/Amber Bay_2024.csv", "raw/Lakes_2024.csv"},
		`raw/a\[1\].csv`:      {"raw/a[1].csv"},
		"raw/deep/**":         {"raw/deep/er/Skerries.csv"},
		"./top.csv":           {"top.csv"},
		"raw/../top.csv":      {"top.csv"},
		"missing.csv":         nil,
		"raw/*.xls":           nil,
		"RAW/*.csv":           nil,
		"raw/Lakes_202?.csv":  {"raw/Lakes_2024.csv"},
		"raw/[AL]*_2024.csv":  {"raw/Amber Bay_2024.csv", "raw/Lakes_2024.csv"},
		"raw/[^A]*_2024.csv":  {"raw/Lakes_2024.csv"},
		"**/Skerries.csv":     {"raw/deep/er/Skerries.csv"},
		"raw/deep/er/Sk*.csv": {"raw/deep/er/Skerries.csv"},
	} {
		have, err := expand(dir, glob)
		require.NoError(t, err, glob)
		require.ElementsMatch(t, want, have, glob)
	}
	for _, glob := range []string{"raw/[a", "raw/{a", "raw/*\\"} {
		_, err := expand(dir, glob)
		require.Error(t, err, glob)
	}
	found, err := expand(dir, filepath.ToSlash(dir)+"/raw/L*.csv")
	require.NoError(t, err)
	require.Equal(t, []string{filepath.ToSlash(dir) + "/raw/Lakes_2024.csv"}, found, "as the plan names it")
}

// Names that begin with a dot or ~$ are read only where the glob writes that out.
func TestPassedOver(t *testing.T) {
	for _, c := range []struct {
		file, glob string
		want       bool
	}{
		{"raw/a.csv", "raw/*.csv", false}, {"raw/.a.csv", "raw/*.csv", true}, {"raw/.a.csv", "raw/.*.csv", false},
		{"raw/~$a.xlsx", "raw/*.xlsx", true}, {"raw/~$a.xlsx", "raw/~*.xlsx", false},
		{".raw/a.csv", "**/*.csv", true}, {".raw/a.csv", ".raw/*.csv", false}, {"../raw/a.csv", "../raw/*.csv", false},
		{"./a.csv", "*.csv", false}, {"raw/.a.csv", "../*.csv", true},
	} {
		require.Equal(t, c.want, passedOver(c.file, c.glob), "%s by %s", c.file, c.glob)
	}
}

func TestExcepted(t *testing.T) {
	globs := []string{"raw/old*", "./raw/**/draft_*.csv"}
	for file, want := range map[string]bool{"raw/old.csv": true, "raw/older/a.csv": false, "raw/new.csv": false, "raw/a/b/draft_1.csv": true,
		"raw/draft_1.csv": true, "draft_1.csv": false} {
		require.Equal(t, want, excepted(file, globs), file)
	}
}

// A pattern is held against the end of a path, whose endings may be left out.
func TestFitPath(t *testing.T) {
	for _, c := range []struct{ pattern, file, want string }{
		{"{region}_{year:digits}", "raw/north_east_2023.csv", "map[region:north_east year:2023]"},
		{"{region}_{year}", "raw/2023/Lakes_2023.csv.gz", "map[region:Lakes year:2023]"},
		{"{region}_{year}.csv", "raw/Lakes_2023.csv", "map[region:Lakes year:2023]"},
		{"{region}/{year}", "raw/Lakes/2023.xlsx", "map[region:Lakes year:2023]"},
		{"{year}/{region}[ v*]", "raw/2024/Amber Bay v2.csv", "map[region:Amber Bay year:2024]"},
		{"{region}", "Lakes.csv", "map[region:Lakes]"},
		{"{region}", "all.zip/Lakes.csv", "map[region:Lakes]"},
		{"sales_{month}/{region}", "raw/sales_2024-01.zip/Lakes.csv", "map[month:2024-01 region:Lakes]"},
		{"sales_{month}/{region}.csv", "raw/Sales_2024-01.ZIP/Lakes.csv", "map[month:2024-01 region:Lakes]"},
		{"{month}.zip/{region}", "raw/2024-01.zip/Lakes.csv.gz", "map[month:2024-01 region:Lakes]"},
		{"{year}/{region}/{month}", "raw/2024.zip/Lakes/May.csv", "map[month:May region:Lakes year:2024]"},
		{"{a}/{b}/{c}", "b/c.csv", ""},
		{"{region}_{year}", "raw/Lakes.csv", ""},
		{"raw {region}", "raw/Lakes.csv", ""},
	} {
		p, err := pattern.Parse(c.pattern)
		require.NoError(t, err)
		have, ok := fitPath(p, c.file, []string{".csv", ".gz", ".xlsx"})
		require.Equal(t, c.want != "", ok, "%s on %s", c.pattern, c.file)
		if ok {
			require.Equal(t, c.want, fmt.Sprint(have), "%s on %s", c.pattern, c.file)
		}
	}
}
