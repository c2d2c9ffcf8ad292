package jsonl

import (
	"bytes"
	"encoding/json"
	"fmt"
	"io"
	"strings"
	"testing"

	"github.com/stretchr/testify/require"

	"umbau/internal/core/table"
)

// read reads a text as rows of texts; a null is "NULL".
func read(text string) ([][]string, error) {
	s, err := Source(func() (io.ReadCloser, error) { return io.NopCloser(strings.NewReader(text)), nil }, table.Reading{})
	if err != nil {
		return nil, err
	}
	defer s.Close()
	var out [][]string
	for {
		b, err := s.Next(nil)
		if err == io.EOF {
			return out, nil
		}
		if err != nil {
			return nil, err
		}
		var rows table.Rows
		if err := s.Split(b, &rows); err != nil {
			return nil, err
		}
		for i := range rows.Len() {
			row := []string{fmt.Sprint(rows.Lines[i])}
			for _, c := range rows.Row(i) {
				row = append(row, string(rows.Text(c)))
			}
			out = append(out, row)
		}
	}
}

func TestRead(t *testing.T) {
	rows, err := read("\ufeff{\"a\": 1.50, \"b\": {\"c\": \"x\", \"d\": true}}\n\n{\"b\": {\"c\": null}, \"e\": -0.10}\r\n")
	require.NoError(t, err)
	require.Equal(t, [][]string{{"0", "a", "b.c", "b.d", "e"}, {"1", "1.50", "x", "true", ""}, {"2"}, {"3", "", "NULL", "", "-0.10"}}, rows)
	for text, want := range map[string]string{
		"": "empty", "{}": "empty", "[1]": "no object", "3": "no object", "{\"a\": [1]}": `"a" is a list`, "{\"a\": 1, \"a\": 2}": "stands twice",
		"{\"a\": 1} {\"a\": 2}": "behind the object", "{\"a\": 1": "no JSON", "{\"a\": tru}": "no JSON", "{\"a\": \"\xff\"}": "no UTF-8",
		"{\"a\": {\"b\": 1}, \"a.b\": 2}": "stands twice",
	} {
		_, err := read(text)
		require.ErrorContains(t, err, want, text)
	}
	_, err = read("{\"a\": 1}\n{\"b\": [1]}")
	var row *table.RowError
	require.ErrorAs(t, err, &row)
	require.Equal(t, 2, row.Row)
}

// What is read of a line is what the standard library reads of it.
func FuzzLines(f *testing.F) {
	for _, s := range []string{`{"a":1}`, `{"a":"x\u00e9\n"}`, `{"a":{"b":null}}`, `{"a":1e5,"b":false}`, `{"":""}`, `{"a":[]}`, `nul`} {
		f.Add(s)
	}
	f.Fuzz(func(t *testing.T, line string) {
		if strings.ContainsAny(line, "\n\x00") {
			return
		}
		rows, err := read(line)
		if err != nil {
			return
		}
		d := json.NewDecoder(bytes.NewReader([]byte(strings.TrimPrefix(line, "\ufeff"))))
		d.UseNumber()
		var want map[string]any
		require.NoError(t, d.Decode(&want))
		flat := map[string]string{}
		var walk func(path string, v any)
		walk = func(path string, v any) {
			switch v := v.(type) {
			case map[string]any:
				for k, child := range v {
					if path != "" {
						k = path + k
					}
					if _, nested := child.(map[string]any); nested {
						k += "."
					}
					walk(k, child)
				}
			case nil:
				flat[path] = "NULL"
			default:
				flat[path] = fmt.Sprint(v)
			}
		}
		walk("", want)
		have := map[string]string{}
		for i, h := range rows[0][1:] {
			have[h] = rows[1][i+1]
		}
		require.Equal(t, flat, have)
	})
}
