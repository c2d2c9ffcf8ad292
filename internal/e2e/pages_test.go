package e2e

import (
	"bytes"
	"database/sql"
	"encoding/json"
	"fmt"
	"os"
	"path/filepath"
	"strings"
	"testing"

	"github.com/goccy/go-yaml"
	"github.com/santhosh-tekuri/jsonschema/v6"
	"github.com/stretchr/testify/require"

	"umbau/internal/cli"
	"umbau/internal/core/plan"
	"umbau/internal/format"
)

// block is a part of a page between two lines of backquotes.
type block struct{ info, body string }

func blocksOf(text string) []block {
	var out []block
	parts := strings.Split("\n"+text, "\n```")
	for i := 1; i < len(parts); i += 2 {
		info, body, _ := strings.Cut(parts[i], "\n")
		out = append(out, block{info, body + "\n"})
	}
	return out
}

// Every example of the manual is built as it stands there, its plan is valid by the
// editor schema, and together they use every key of the plan. In shares the same comes out.
func TestPages(t *testing.T) {
	schema := compiled(t)
	used := map[string]bool{}
	for page, examples := range map[string]int{"shapes": 13, "formulas": 4, "gaps": 1, "plan": 4, "references": 3, "deliver": 4,
		"sources": 2} {
		text, err := os.ReadFile("../../docs/" + page + ".md")
		require.NoError(t, err)
		n := 0
		for _, section := range strings.Split(string(text), "\n## ")[1:] {
			title, text, _ := strings.Cut(section, "\n")
			dir, want, source, gives := t.TempDir(), "", "", map[string]string{}
			for _, b := range blocksOf(text) {
				name := strings.TrimPrefix(strings.TrimPrefix(b.info, "csv "), "cells ")
				file := filepath.Join(dir, name)
				require.NoError(t, os.MkdirAll(filepath.Dir(file), 0o777))
				switch {
				case b.info == "yaml" && strings.HasPrefix(b.body, "umbau:"):
					source = b.body
					require.NoError(t, os.WriteFile(filepath.Join(dir, "umbau.yaml"), []byte(source), 0o666))
				case b.info == "csv out.csv":
					want = b.body
				case strings.HasPrefix(b.info, "gives "):
					gives[strings.TrimPrefix(b.info, "gives ")] = b.body
				case strings.HasPrefix(b.info, "sql "):
					makeDatabase(t, filepath.Join(dir, strings.TrimPrefix(b.info, "sql ")), b.body)
				case strings.HasPrefix(b.info, "csv "):
					require.NoError(t, os.WriteFile(file, []byte(b.body), 0o666))
				case strings.HasPrefix(b.info, "cells "):
					require.NoError(t, writeBook(file, b.body))
				}
			}
			if want == "" {
				continue
			}
			t.Run(page+"/"+title, func(t *testing.T) {
				valid(t, schema, source)
				collect(t, source, used)
				gives["out.csv"] = want
				requireBuilt(t, dir, gives)
				for i := range 3 {
					requireBuilt(t, dir, nil, "--share", fmt.Sprintf("%d/3", i+1), "--parts", filepath.Join(dir, "parts"))
				}
				requireBuilt(t, dir, gives, "--join", filepath.Join(dir, "parts"))
			})
			n++
		}
		require.Equal(t, examples, n, page)
	}
	for key := range keysOf(t) {
		require.True(t, used[key], "no example uses the key %s", key)
	}
}

// requireBuilt builds in a folder, and holds files against what they must be.
func requireBuilt(t *testing.T, dir string, gives map[string]string, args ...string) {
	var out, errOut bytes.Buffer
	code := cli.Main(append([]string{"build", filepath.Join(dir, "umbau.yaml")}, args...), &out, &errOut)
	require.Zero(t, code, out.String()+errOut.String())
	for name, text := range gives {
		have, err := os.ReadFile(filepath.Join(dir, name))
		require.NoError(t, err)
		require.Equal(t, text, string(have), "%v: %s", args, name)
		require.NoError(t, os.Remove(filepath.Join(dir, name)))
	}
}

// makeDatabase makes an SQLite database.
func makeDatabase(t *testing.T, file, text string) {
	db, err := sql.Open("sqlite", file)
	require.NoError(t, err)
	_, err = db.Exec(text)
	require.NoError(t, err)
	require.NoError(t, db.Close())
}

func compiled(t *testing.T) *jsonschema.Schema {
	doc, err := jsonschema.UnmarshalJSON(bytes.NewReader(plan.Schema()))
	require.NoError(t, err)
	c := jsonschema.NewCompiler()
	require.NoError(t, c.AddResource("plan.json", doc))
	s, err := c.Compile("plan.json")
	require.NoError(t, err)
	return s
}

// valid checks a plan by the schema.
func valid(t *testing.T, schema *jsonschema.Schema, source string) {
	text, err := yaml.YAMLToJSON([]byte(source))
	require.NoError(t, err)
	doc, err := jsonschema.UnmarshalJSON(bytes.NewReader(text))
	require.NoError(t, err)
	require.NoError(t, schema.Validate(doc), source)
}

// collect notes all keys of the maps of a plan.
func collect(t *testing.T, source string, used map[string]bool) {
	var doc any
	require.NoError(t, yaml.Unmarshal([]byte(source), &doc))
	var walk func(v any)
	walk = func(v any) {
		switch v := v.(type) {
		case map[string]any:
			for k, child := range v {
				used[k] = true
				walk(child)
			}
		case []any:
			for _, child := range v {
				walk(child)
			}
		}
	}
	walk(doc)
}

// keysOf are all keys that a plan may have, by its schema.
func keysOf(t *testing.T) map[string]bool {
	var doc any
	require.NoError(t, json.Unmarshal(plan.Schema(), &doc))
	keys := map[string]bool{}
	var walk func(v any)
	walk = func(v any) {
		switch v := v.(type) {
		case map[string]any:
			if properties, ok := v["properties"].(map[string]any); ok {
				for k := range properties {
					keys[k] = true
				}
			}
			for _, child := range v {
				walk(child)
			}
		case []any:
			for _, child := range v {
				walk(child)
			}
		}
	}
	walk(doc)
	return keys
}

// The plan of "umbau help plan" is valid, fits a screen, and names what there is.
func TestPlanHelp(t *testing.T) {
	lines := strings.Split(cli.PlanHelp, "\n")
	require.LessOrEqual(t, len(lines), 40)
	var example []string
	for _, l := range lines {
		require.LessOrEqual(t, len(l), 100, l)
		if text, ok := strings.CutPrefix(l, "  "); ok {
			example = append(example, text)
		}
	}
	p, err := plan.Read("umbau.yaml", []byte(strings.Join(example, "\n")), format.All())
	require.NoError(t, err)
	require.Len(t, p.Columns, 7)
	for _, key := range []string{"umbau", "title", "extracts", "fact", "rows", "ties", "deliver", "record"} {
		require.Contains(t, cli.PlanHelp, "\n  "+key+":")
	}
}
