package plan

import (
	"encoding/json"
	"math/rand/v2"
	"strings"
	"testing"

	"github.com/stretchr/testify/require"

	"umbau/internal/core/place"
	"umbau/internal/format"
)

// keysOf are the keys of a map in the schema, by the path to it.
func keysOf(t *testing.T, path ...string) []string {
	var schema map[string]any
	require.NoError(t, json.Unmarshal(Schema(), &schema))
	at := schema
	for _, step := range path {
		next, ok := at["properties"].(map[string]any)[step].(map[string]any)
		require.True(t, ok, step)
		if forms, ok := next["anyOf"].([]any); ok {
			next = forms[0].(map[string]any)
		}
		at = next
	}
	var keys []string
	for k := range at["properties"].(map[string]any) {
		keys = append(keys, k)
	}
	require.NotEmpty(t, keys)
	return keys
}

// Every key of the plan is known to the reader, and found again where it is misspelt.
func TestMisspeltKeys(t *testing.T) {
	for _, level := range []struct{ name, old, new string }{
		{"", "title: Sales", "KEY: x"},
		{"extracts", "    name: coasts", "    KEY: x"},
		{"rows", "repeats: keep", "KEY: x"},
	} {
		path := []string{level.name}
		if level.name == "" {
			path = nil
		}
		for _, k := range keysOf(t, path...) {
			if len(k) < 4 || k == "fact" || k == "record" || k == "extracts" || k == "deliver" || k == "umbau" || k == "repeats" {
				continue
			}
			n := len(k)
			for _, wrong := range []string{k + "e", k[:n-2] + k[n-1:] + k[n-2:n-1]} { // another letter, two that changed places
				if wrong == k {
					continue
				}
				_, err := Read("umbau.yaml", []byte(strings.Replace(full, level.old, strings.Replace(level.new, "KEY", wrong, 1), 1)), format.All())
				require.ErrorContains(t, err, "no key \""+wrong+"\"", wrong)
				require.ErrorContains(t, err, "did you mean "+k, wrong)
			}
			_, err := Read("umbau.yaml", []byte(strings.Replace(full, level.old, strings.Replace(level.new, "KEY", k, 1), 1)), format.All())
			if err != nil {
				require.NotContains(t, err.Error(), "no key \""+k+"\"")
			}
		}
	}
}

// A plan that is damaged anywhere is read or refused with the place of each mistake,
// which is in the plan.
func TestDamagedPlans(t *testing.T) {
	lines := strings.Split(full, "\n")
	for seed := range uint64(4000) {
		r := rand.New(rand.NewPCG(seed, 3))
		text := full
		for range 1 + r.IntN(3) {
			at := r.IntN(len(text))
			switch r.IntN(5) {
			case 0: // a byte goes
				text = text[:at] + text[at+1:]
			case 1: // another comes
				text = text[:at] + string("{}[]:,#'\"=- \n\t&*|>x7"[r.IntN(20)]) + text[at:]
			case 2: // the end is missing
				text = text[:at]
			case 3: // a line stands twice
				text += lines[r.IntN(len(lines))] + "\n"
			case 4: // a line moves
				text = lines[r.IntN(len(lines))] + "\n" + text
			}
			if text == "" {
				break
			}
		}
		p, err := Read("umbau.yaml", []byte(text), format.All())
		if err == nil {
			require.NotEmpty(t, p.Columns)
			continue
		}
		var list place.List
		require.ErrorAs(t, err, &list, text)
		for _, m := range list {
			require.NotEmpty(t, m.Message, text)
			require.LessOrEqual(t, m.Plan.Line, strings.Count(text, "\n")+1, "%s\n%s", m.Message, text)
			require.GreaterOrEqual(t, m.Plan.Line, 1, "%s\n%s", m.Message, text)
			require.GreaterOrEqual(t, m.Plan.Column, 1, "%s\n%s", m.Message, text)
			require.LessOrEqual(t, len(strings.Split(m.Error(), "\n")), 4, m.Error())
		}
	}
}
