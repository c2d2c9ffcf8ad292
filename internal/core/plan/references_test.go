package plan

import (
	"fmt"
	"strings"
	"testing"

	"github.com/stretchr/testify/require"

	"umbau/internal/core/value"
	"umbau/internal/format"
)

// withLookups is a plan with these columns and references.
func withLookups(fact, references string) (*Plan, error) {
	return Read("umbau.yaml", []byte(fmt.Sprintf("umbau: 1\nextracts: [{ files: a.csv }]\nfact:\n%s\nreferences:\n%s\ndeliver: [{ "+
		"to: out.csv }]\n",
		fact, references)), format.All())
}

const branches = "  branches: { file: [ref/b.csv, ref/more/*.csv], sheets: Now, numbers: \"1.234,56\" }"

func TestLookups(t *testing.T) {
	p, err := withLookups("  branch: text\n  month: month\n  cost: { is: number, lookup: branches, by: { branch: Shop, month: }, take: Cost, "+
		"missing: 2.5, repeats: sum, decimals: 1 }", branches)
	require.Error(t, err, "a header without a text")
	require.Nil(t, p)
	p, err = withLookups("  branch: text\n  month: month\n  cost: { is: number, lookup: branches, by: [branch, month], take: Cost, "+
		"missing: 2.5, "+
		"repeats: sum, decimals: 1 }", branches)
	require.NoError(t, err)
	require.Empty(t, p.Open())
	l := p.Columns[2].Lookup
	require.Equal(t, Lookup{Pos: l.Pos, Of: "branches", By: []Paired{{Column: "branch"}, {Column: "month"}}, Take: "Cost", Repeats: Sum}, *l)
	require.Equal(t, Put, p.Columns[2].Gaps[value.Missing].Remedy)
	require.Equal(t, "2.5", p.Columns[2].Gaps[value.Missing].Number.String())
	require.Equal(t, []string{"ref/b.csv", "ref/more/*.csv"}, p.Reference("branches").Entry.Files)
	require.Equal(t, "1.234,56", p.Reference("branches").Entry.Reading.Numbers.Example)
	require.Equal(t, []int{2}, p.Made)
}

func TestLookupMistakes(t *testing.T) {
	for _, test := range [][3]string{
		{"  a: text\n  b: { lookup: branches, by: { a: Coast }, take: Coast }", branches, "take: Coast is of the key"},
		{"  a: text\n  b: { is: month, lookup: branches, by: a, missing: soon }", branches, `missing: "soon" is no value of a month column`},
		{"  a: text\n  b: { lookup: branch, by: a }", branches, "did you mean branches?"},
		{"  a: text\n  b: { is: text, lookup: branches, by: a, missing: above }", branches, "has no value above it"},
		{"  a: text\n  b: { lookup: branches, by: a }", "  branches: { flie: b.csv }", "did you mean file?"},
		{"  a: text\n  b: { lookup: branches, by: a }", "  branches: { header: none }", "the key file of reference branches is missing"},
		{"  a: { is: text, lookup: branches, by: b }\n  b: { is: text, lookup: branches, by: a }", branches, "in a circle: a needs b needs a"},
		{"  a: text\n  b: { is: date, lookup: branches, by: a, repeats: sum }", branches, "b is a date column"},
	} {
		_, err := withLookups(test[0], test[1])
		if test[2] == "" {
			require.NoError(t, err, test[0])
			continue
		}
		require.ErrorContains(t, err, test[2], test[0])
	}
}

// A lookup that does not say what it is waits for its reference; what needs it is checked
// then.
func TestOpenLookups(t *testing.T) {
	p, err := withLookups("  branch: text\n  amount: { is: number, blanks: =cost * 2 }\n  cost: { lookup: branches, by: branch, "+
		"missing: 0 }\n"+
		"  margin: =amount - cost\n  high: =margin > 3", branches)
	require.NoError(t, err)
	require.Len(t, p.Open(), 1)
	err = p.Complete(map[string]Kind{"cost": Text})
	require.ErrorContains(t, err, "calculates with numbers")
	require.Len(t, p.Open(), 1, "it is as it was")
	require.NoError(t, p.Complete(map[string]Kind{"cost": Number}))
	require.Empty(t, p.Open())
	require.Equal(t, "number number number flag", strings.Join([]string{p.Columns[1].Kind.String(), p.Columns[2].Kind.String(),
		p.Columns[3].Kind.String(), p.Columns[4].Kind.String()}, " "))
	require.Equal(t, Put, p.Columns[2].Gaps[value.Missing].Remedy)
}

func TestKindOf(t *testing.T) {
	number := func(text string) (value.Decimal, bool) {
		d, _, ok := value.English.Number([]byte(text))
		return d, ok
	}
	for texts, want := range map[string]Kind{"": Text, "n/a|": Text, "a": Text, "1|2|": Whole, "1|2.5|-": Number, "1|x": Text, "007|8": Text,
		"0.5|7":     Number,
		"2023|2024": Year, "2023|1800": Whole, "2024-01-05|7 March 2024": Date, "2024-01|2024-02": Month, "2024-Q1": Quarter,
		"true|false": Flag, "0|-3": Whole} {
		require.Equal(t, want, KindOf(strings.Split(texts, "|"), number, &value.Default), texts)
	}
}
