package fact_test

import (
	"archive/zip"
	"bytes"
	"strings"
	"testing"

	"github.com/stretchr/testify/require"
)

// An entry may name several members of one archive, or of some by several globs: each is read once, and a glob that takes none stops.
func TestMembersOfOneArchive(t *testing.T) {
	archive := func(members string) string {
		var b bytes.Buffer
		z := zip.NewWriter(&b)
		for i, name := range strings.Fields(members) {
			w, err := z.Create(name)
			require.NoError(t, err)
			_, err = w.Write([]byte("branch,amount\n" + name + "," + strings.Repeat("7", i+3) + "\n"))
			require.NoError(t, err)
		}
		require.NoError(t, z.Close())
		return b.String()
	}
	files := map[string]string{"all.zip": archive("Lakes.csv Skerries.csv old/Wick.csv"), "more.zip": archive("x.csv y.csv z.csv Holm.csv")}
	for entry, want := range map[string]string{
		"[all.zip/Lakes.csv, all.zip/Skerries.csv]":                 "Lakes.csv Skerries.csv",
		"[all.zip/Skerries.csv, all.zip/Lakes.csv]":                 "Lakes.csv Skerries.csv",
		"[all.zip/Lakes.csv, all.zip/L*.csv]":                       "Lakes.csv",
		"[all.zip/Lakes.csv, all.zip]":                              "Lakes.csv Skerries.csv old/Wick.csv",
		"[all.zip/old/*, more.zip/Holm.csv]":                        "Holm.csv old/Wick.csv",
		"[\"*.zip/L*\", \"*.zip/H*\", \"all.zip/old/**\"]":          "Holm.csv Lakes.csv old/Wick.csv",
		"[all.zip/Lakes.csv, all.zip/Sound.csv]":                    "stops",
		"[all.zip/Lakes.csv, more.zip/Sound.csv]":                   "stops",
		"[all.zip/Lakes.csv, all.zip/Skerries.csv, more.zip/H*.cs]": "stops",
	} {
		plan := wholePlan("  - { files: "+entry+" }", "branch: text, amount: number", "")
		s, dir := silent{plan: plan, files: files}.folder(t).build(t, 2, 0)
		if want == "stops" {
			require.NotZero(t, s.ExitCode(), entry)
			continue
		}
		require.Zero(t, s.ExitCode(), "%s: %v", entry, s.Problems)
		var have []string
		for i := range s.Extracts {
			_, member, _ := strings.Cut(s.Extracts[i].File, ".zip/")
			have = append(have, member)
		}
		require.ElementsMatch(t, strings.Fields(want), have, "%s %v", entry, dir)
	}
}
