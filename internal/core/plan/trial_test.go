package plan_test

import (
	"strings"
	"testing"

	"github.com/stretchr/testify/require"

	"umbau/internal/core/plan"
	"umbau/internal/format"
)

const triedPlan = `umbau: 1
extracts:
  - files: raw/*.csv
    path: "{region}"
  - { files: more/*.csv, numbers: "1.234,56", set: { region: Lakes } }
fact:
  region: text
  branch: { is: name, blanks: above }
  amount: number
  double: =amount * 2
  rows: text
rows: { grain: [region, branch] }
deliver: [{ to: out/sales.csv }]
`

// A value that is tried stands in the place of the plan's; the plan itself is as it was.
func TestReadTried(t *testing.T) {
	read := func(key, value string) (*plan.Plan, []plan.Tried, error) {
		return plan.ReadTried("umbau.yaml", []byte(triedPlan), format.All(), []plan.Trial{{Key: key, Value: value}})
	}
	for _, test := range []struct {
		key, value, was string
		is              func(p *plan.Plan) any
		want            any
	}{
		{"amount.decimals", "2", "", func(p *plan.Plan) any { return p.Columns[2].Decimals }, 2},
		{"AMOUNT.blanks", "0", "", func(p *plan.Plan) any { return *p.Columns[2].Gaps[1].Word() }, "0"},
		{"branch.blanks", "drop", "above", func(p *plan.Plan) any { return *p.Columns[1].Gaps[1].Word() }, "drop"},
		{"branch.blanks", "", "above", func(p *plan.Plan) any { return p.Columns[1].Gaps[1].Word() == nil }, true},
		{"double.decimals", "1", "", func(p *plan.Plan) any { return p.Columns[3].Decimals }, 1},
		{"double.formula", "=amount * 3", "=amount * 2", func(p *plan.Plan) any { return p.Columns[3].Formula != nil }, true},
		{"rows.grain", "[region]", "[region, branch]", func(p *plan.Plan) any { return len(p.Rows.Grain) }, 2}, // a column is called so
		{"extracts[2].numbers", "1 234", "1.234,56", func(p *plan.Plan) any { return p.Entries[1].Reading.Numbers.Example }, "1 234"},
		{"extracts[1].others", "drop", "", func(p *plan.Plan) any { return p.Entries[0].Others == plan.Drop }, true},
		{"extracts[1].unpivot.header", "{branch}", "", nil, nil},
		{"history.restated", "stop", "", func(p *plan.Plan) any { return p.History.Restated }, true},
		{"deliver[1].columns", "[amount]", "", func(p *plan.Plan) any { return p.Deliveries[0].Columns }, []string{"amount"}},
	} {
		p, tried, err := read(test.key, test.value)
		if test.is == nil || test.key == "rows.grain" {
			require.Error(t, err, test.key)
			continue
		}
		require.NoError(t, err, test.key)
		if test.was == "" {
			require.Nil(t, tried[0].Was, test.key)
		} else {
			require.Equal(t, test.was, *tried[0].Was, test.key)
		}
		require.Equal(t, test.value, tried[0].Is)
		require.Equal(t, test.want, test.is(p), test.key)
		require.Equal(t, triedPlan, string(p.Source()))
	}
	for _, key := range []string{"amout.blanks", "amount", "amount.", "extracts[0].numbers", "extracts[3].numbers", "extracts.numbers",
		"umbau.x",
		"branch.is.more", ""} {
		_, _, err := read(key, "1")
		require.Error(t, err, key)
	}
	_, _, err := read("amount.blanks", "[1")
	require.ErrorContains(t, err, "--try amount.blanks: the value [1")
	_, _, err = read("amount.blancs", "1")
	require.ErrorContains(t, err, "blancs")
}

func FuzzReadTried(f *testing.F) {
	for _, seed := range [][2]string{{"amount.blanks", "0"}, {"extracts[1].header", "[1, 2]"}, {"double.formula", "=amount * (2"},
		{"amount.blanks", "=regoin"}, {"rows.only", "amount > 0"}, {"branch.case.x", "{a: b}"}} {
		f.Add(seed[0], seed[1])
	}
	f.Fuzz(func(t *testing.T, key, value string) {
		p, _, err := plan.ReadTried("umbau.yaml", []byte(triedPlan), format.All(), []plan.Trial{{Key: key, Value: value}})
		require.True(t, (p == nil) == (err != nil))
	})
}

// A plan that has a column of the name, and of the next, gets one of another name for the formula; what it may name is that of the plan.
func TestReadWhere(t *testing.T) {
	text := strings.Replace(triedPlan, "  rows: text\n", "  where: text\n  WHERE2: text\n", 1)
	p, at, err := plan.ReadWhere("umbau.yaml", []byte(text), format.All(), "where = 'x'")
	require.NoError(t, err)
	require.Equal(t, "where3", p.Columns[at].Name)
	require.Len(t, p.Columns, 7)
	_, _, err = plan.ReadWhere("umbau.yaml", []byte(triedPlan), format.All(), "region = Lakes")
	require.ErrorContains(t, err, "no column Lakes; known are region, branch, amount, double, rows; a text stands in quotes: 'Lakes'")
	_, _, err = plan.ReadWhere("umbau.yaml", []byte(triedPlan), format.All(), "amount")
	require.ErrorContains(t, err, "it must be true or false")
}
