package cli

import (
	"bytes"
	"encoding/json"
	"os"
	"path/filepath"
	"strings"
	"testing"

	"github.com/spf13/cobra"
	"github.com/stretchr/testify/require"

	"umbau/internal/core/fact"
	"umbau/internal/core/place"
	"umbau/internal/core/plan"
	"umbau/internal/demo"
)

func TestWords(t *testing.T) {
	for want, have := range map[string]string{
		"1 row": countOf(1, "row"), "0 rows": countOf(0, "row"), "1,200 rows": countOf(1200, "row"), "2 deliveries": countOf(2, "delivery"),
		"3 branches":     countOf(3, "branch"),
		"1 thing stands": standing(1), "12 things stand": standing(12), ".": ending(1), ", most important first.": ending(2),
		"nothing": nothingOr(0, "a"), "3 rows": nothingOr(3, "3 rows"),
		"Ähnlich": place.Capital("ähnlich"), "A b": place.Capital("a b"),
		"Länge…": cut("Länge 10 m", 6), "Länge": cut("Länge", 5),
		"plain/path.csv": shellQuoted("plain/path.csv"), `'it'\''s here'`: shellQuoted("it's here"), "'a$b'": shellQuoted("a$b"),
	} {
		require.Equal(t, want, have)
	}
	for in, want := range map[string]string{"0": "0", "999": "999", "1000": "1,000", "-1234567.891": "-1,234,567.891", "-999.5": "-999.5",
		"12345678901234567890": "12,345,678,901,234,567,890"} {
		require.Equal(t, want, grouped(in))
	}
}

func TestSize(t *testing.T) {
	for in, want := range map[string]int64{"500MB": 500 << 20, "64 gb": 64 << 30, "1kb": 1 << 10, "7B": 7, "2TB": 2 << 40} {
		var s size
		require.NoError(t, s.Set(in), in)
		require.EqualValues(t, want, s, in)
		var again size
		require.NoError(t, again.Set(s.String()))
		require.Equal(t, s, again)
	}
	for _, in := range []string{"", "5", "MB", "-1MB", "0GB", "1.5GB", "9999999999TB", "1 MBs", "GB5"} {
		var s size
		require.ErrorContains(t, s.Set(in), "500MB", in)
		require.Zero(t, s)
		require.Empty(t, s.String())
	}
}

// Colours are for terminals: never in a file or a pipe.
func TestColored(t *testing.T) {
	a := &app{}
	require.Equal(t, "text", a.colored(&bytes.Buffer{}, bold, "text"))
	f, err := os.CreateTemp(t.TempDir(), "")
	require.NoError(t, err)
	defer f.Close()
	require.Equal(t, "text", a.colored(f, bold, "text"))
	require.Nil(t, a.progress("reading").out)
	p := a.progress("reading")
	p.set(1, 2)
	p.stop()
}

func TestAddTo(t *testing.T) {
	s := &fact.Summary{Plan: &plan.Plan{File: "umbau.yaml"}}
	at := place.Pos{Line: 7}
	for want, p := range map[string]place.Problem{
		"column amount (umbau.yaml, line 7)":          {What: "blank gap", Column: "amount", Plan: at, Add: "blanks: 0"},
		"the entry of extracts (umbau.yaml, line 7)":  {What: "total", Column: "amount", Plan: at, Add: "totals: drop"},
		"rows (umbau.yaml, line 7)":                   {What: "repeated grain", Plan: at, Add: "repeats: sum"},
		"the entry of extracts (umbau.yaml, line  7)": {What: "unclear gap", Column: "day", Plan: at, Add: "dates: 31/12/2024"},
	} {
		require.Equal(t, strings.ReplaceAll(want, "  ", " "), addTo(s, p), p.Add)
	}
	require.Equal(t, "the entry of extracts (umbau.yaml, line 7)",
		addTo(s, place.Problem{What: "missing header", Column: "day", Plan: at, Add: "absent: leave"}))
}

// said is what a command prints and ends with, run in a folder.
func said(t *testing.T, dir string, args ...string) (out, errOut string, code int) {
	t.Chdir(dir)
	var o, e bytes.Buffer
	code = Main(args, &o, &e)
	return o.String(), e.String(), code
}

// With --json a command ends with the same code, prints one document and nothing
// else; with --quiet it prints nothing but what is wrong.
func TestEveryCommandAlike(t *testing.T) {
	dir := t.TempDir()
	require.NoError(t, demo.Write(dir))
	broken := filepath.Join(dir, "broken.yaml")
	require.NoError(t, os.WriteFile(broken, []byte("umbau: 1\nextracts: [{ files: raw/*.csv, unpivt: x }]\nfact: { a: numbr }\n"), 0o666))
	stopped := filepath.Join(dir, "stopped.yaml")
	src, err := os.ReadFile(filepath.Join(dir, "umbau.yaml"))
	require.NoError(t, err)
	require.NoError(t, os.WriteFile(stopped, bytes.ReplaceAll(src, []byte("errors: hold"), []byte("errors: stop")), 0o666))
	for _, c := range []struct {
		args string
		code int
	}{
		{"build", 0}, {"build --dry-run", 0}, {"build stopped.yaml", 3}, {"build broken.yaml", 1}, {"build missing.yaml", 1}, {"build a b", 2},
		{"build --no-such", 2},
		{"survey raw", 0}, {"survey missing.csv", 1}, {"survey", 2}, {"gaps", 0}, {"gaps raw", 0}, {"gaps stopped.yaml", 0},
		{"gaps broken.yaml", 1},
		{"names list", 0}, {"names suggest", 0}, {"names list --column amount", 2}, {"names list broken.yaml", 1}, {"names review", 2},
		{"version", 0}, {"--version", 0}, {"demo .", 0}, {"nonsense", 2},
		{"build --workers -3", 2}, {"build --unpack-most 3", 2},
	} {
		t.Run(c.args, func(t *testing.T) {
			args := strings.Fields(c.args)
			out, errOut, code := said(t, dir, args...)
			require.Equal(t, c.code, code, out+errOut)
			if code != 0 {
				require.NotEmpty(t, errOut)
			}
			doc, _, jsonCode := said(t, dir, append(args, "--json")...)
			require.Equal(t, code, jsonCode, doc)
			require.True(t, strings.HasPrefix(doc, "{\n  \"umbau\": \""), doc)
			var fields struct {
				Umbau    *string
				Command  *string
				Exit     *int
				Problems []struct{ What, Message string }
			}
			d := json.NewDecoder(strings.NewReader(doc))
			require.NoError(t, d.Decode(&fields), doc)
			require.False(t, d.More(), "one document")
			require.NotNil(t, fields.Umbau)
			require.NotNil(t, fields.Command)
			if fields.Exit != nil {
				require.Equal(t, code, *fields.Exit)
			}
			if code != 0 {
				require.NotEmpty(t, fields.Problems, doc)
				for _, p := range fields.Problems {
					require.NotEmpty(t, p.What)
					require.NotEmpty(t, p.Message)
				}
			}
			out, errOut, quietCode := said(t, dir, append(args, "--quiet")...)
			require.Equal(t, code, quietCode)
			if code == 0 && args[0] == "build" {
				require.Empty(t, out+errOut)
			}
		})
	}
}

// Every command has a line, examples that name it, and help that ends well.
func TestHelp(t *testing.T) {
	var visit func(c *cobra.Command)
	visit = func(c *cobra.Command) {
		require.NotEmpty(t, c.Short, c.CommandPath())
		require.NotContains(t, c.Short, ".", c.CommandPath())
		if c.Runnable() && c.Parent() != nil && c.Name() != "version" {
			require.Contains(t, c.Example, c.CommandPath(), "examples of %s", c.CommandPath())
			for line := range strings.Lines(c.Example) {
				require.True(t, strings.HasPrefix(line, "  ") || line == "\n", "%s: %q", c.CommandPath(), line)
			}
		}
		for line := range strings.Lines(c.Long) {
			require.LessOrEqual(t, len([]rune(line)), 100, "%s: %s", c.CommandPath(), line)
		}
		for _, sub := range c.Commands() {
			visit(sub)
		}
	}
	visit(Commands())
	out, _, code := said(t, t.TempDir(), "build", "--help")
	require.Zero(t, code)
	require.Contains(t, out, "umbau build --dry-run")
}

// What a shell is told to complete.
func TestCompletion(t *testing.T) {
	dir := t.TempDir()
	require.NoError(t, demo.Write(dir))
	for args, want := range map[string]string{
		"build ": "yaml\nyml\n:8\n", "build umbau.yaml ": ":4\n", "names list --column ": "branch\nproduct\n:4\n",
	} {
		words := append([]string{"__complete"}, strings.Split(args, " ")...)
		out, _, code := said(t, dir, words...)
		require.Zero(t, code)
		require.Equal(t, want, out, args)
	}
	out, _, _ := said(t, dir, "__complete", "gaps", "")
	require.Contains(t, out, "xlsx\n")
	require.Contains(t, out, "yaml\n")
	out, _, _ = said(t, dir, "__complete", "survey", "")
	require.NotContains(t, out, "yaml\n")

	table := filepath.Join(dir, "sales.csv")
	require.NoError(t, os.WriteFile(table, []byte("region,Product name,year\nLakes,Oar,2024\nSkerries,Anchor,2023\n"), 0o666))
	for _, c := range [][3]string{
		{"totals", "--by", "region,year,"}, {"totals", "--only", "region = |region = 'Lakes'\nregion = 'Skerries'\n:6\n"},
		{"widen", "--across", "|region\nProduct name\nyear\n:6\n"}, {"totals", "--by", "region,y|region,year\n:6\n"},
		{"totals", "--only", "year >= 2|year >= 2023\nyear >= 2024\n:6\n"},
		{"totals", "--only", "region = 'Lakes' and P|:6\n"},
		{"totals", "--only", "region = 'Lakes' and {P|region = 'Lakes' and {Product name}\n:6\n"},
		{"keys", "--on", "region=P|:4\n"},
	} {
		begun, want, _ := strings.Cut(c[2], "|")
		out, _, _ := said(t, dir, "__complete", c[0], table, c[1], begun)
		if want != "" {
			require.Equal(t, want, out, c)
		}
	}
}
