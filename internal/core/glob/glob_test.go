package glob

import (
	"os"
	"path/filepath"
	"strings"
	"testing"

	"github.com/stretchr/testify/require"
)

// A glob that stands for more than can be looked through says what is too much.
func TestCheck(t *testing.T) {
	for _, test := range []struct{ glob, says string }{
		{"raw/*.csv", ""},
		{"raw/{a,b,c}/{2023,2024}*.csv", ""},
		{strings.Repeat("{a,b}", 9) + ".csv", ""},
		{strings.Repeat("{a,b}", 10) + ".csv", "more than 1000 choices in braces"},
		{"{" + strings.Repeat("a,", 1000) + "b}", "more than 1000 choices in braces"},
		{strings.Repeat("{a,{b,c}}", 7), "more than 1000 choices in braces"},
		{strings.Repeat("**/", 8) + "*.csv", ""},
		{strings.Repeat("**/", 9) + "*.csv", "** more than 8 times"},
		{"a},b}", ""},
	} {
		err := Check(test.glob)
		if test.says == "" {
			require.NoError(t, err, test.glob)
			continue
		}
		require.ErrorContains(t, err, test.says, test.glob)
		_, err = Files(filepath.Join(t.TempDir(), test.glob))
		require.ErrorContains(t, err, test.says, "before it is looked through")
	}
}

// A record is known by what a build writes of itself, not by its name.
func TestIsRecord(t *testing.T) {
	dir := t.TempDir()
	write := func(name, text string) {
		require.NoError(t, os.MkdirAll(filepath.Join(dir, filepath.Dir(name)), 0o777))
		require.NoError(t, os.WriteFile(filepath.Join(dir, name), []byte(text), 0o666))
	}
	write("record/build.json", "{\n  \"umbau\": \"0.1.0\",\n")
	write("record/last/build.csv", "what,value\n")
	write("other/build.json", "{\"name\": \"a build of something else\"}")
	write("short/build.json", "{")
	write("last/a.csv", "branch,amount\n")
	for name, want := range map[string]bool{"record": true, "record/last": true, "other": false, "short": false, "last": false,
		"none": false} {
		require.Equal(t, want, IsRecord(filepath.Join(dir, name)), name)
	}
}
