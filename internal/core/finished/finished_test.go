package finished_test

import (
	"context"
	"os"
	"path/filepath"
	"strings"
	"testing"

	"github.com/stretchr/testify/require"

	"umbau/internal/core/finished"
	"umbau/internal/core/pass"
	"umbau/internal/core/place"
	"umbau/internal/core/plan"
	"umbau/internal/format"
)

func open(t *testing.T, text string) (*finished.Table, error) {
	t.Helper()
	file := filepath.Join(t.TempDir(), "sales.csv")
	require.NoError(t, os.WriteFile(file, []byte(text), 0o666))
	return finished.Open(context.Background(), file, finished.Options{Formats: format.All(), Workers: 2})
}

// The kind of a column is the one that reads all its values.
func TestKinds(t *testing.T) {
	for values, want := range map[string]string{
		"1|2|-3": "whole", "1|2.50|": "number 2", "2023|2024": "year", "2023|1899": "whole", "2023|2024.0": "year 1",
		"007|12": "text", "-07|1": "text", "0|10|0.5": "number 1", "7|x": "text", "1|2|3|4|5|6|7|8|9|x": "number",
		"1|2|3|4|5|6|7|8|9|x|n/a|#REF!|": "number", "1|2|3|4|5|6|7|8|x": "text", "01|2|3|4|5|6|7|8|9|10|11|12": "text",
		"2024-01|2024-12": "month", "2024-01-31|2023-02-01": "date", "2024-Q1|2024-Q3": "quarter", "2024-01|2024-01-31": "month", "|n/a": "text",
		"yes|no": "flag", "£2.00|£3.25": "number 2", "#REF!|4": "whole", "1,234.50|2": "number 2", "Lakes|Lakes|5|5": "text",
	} {
		table, err := open(t, "v,w\n\""+strings.ReplaceAll(values, "|", "\",x\n\"")+"\",x\n")
		require.NoError(t, err)
		c := table.Columns[0]
		have := c.Kind.String()
		if c.Places > 0 {
			have += " " + string(rune('0'+c.Places))
		}
		require.Equal(t, want, have, values)
	}
}

// A kind is settled by all rows, however far down the one is that settles it.
func TestKindsOfManyBlocks(t *testing.T) {
	text := "a,b,c\n" + strings.Repeat("2024,12.50,7\n", 120_000)
	table, err := open(t, text+"2150,1.125,08\n"+strings.Repeat("2024,3.00,7\n", 50_000))
	require.NoError(t, err)
	require.Equal(t, []plan.Kind{plan.Whole, plan.Number, plan.Text},
		[]plan.Kind{table.Columns[0].Kind, table.Columns[1].Kind, table.Columns[2].Kind})
	require.Equal(t, 3, table.Columns[1].Places)
}

func TestHeader(t *testing.T) {
	for text, want := range map[string]string{
		"region,amount\nLakes,1\n":                              "region|amount",
		"\n\nregion,amount\nLakes,1\n":                          "region|amount",
		"Sales of Halyard & Moss,\n,\nregion,amount\nLakes,1\n": "region|amount",
		"Region  Name,,amount\nLakes,x,1\n":                     "Region  Name|B|amount",
	} {
		table, err := open(t, text)
		require.NoError(t, err, text)
		var names []string
		for _, c := range table.Columns {
			names = append(names, c.Name)
		}
		require.Equal(t, want, strings.Join(names, "|"), text)
	}
}

// What cannot be read says why and where.
func TestCannotOpen(t *testing.T) {
	for text, want := range map[string]string{"": "the file is empty", "\n\n": "no header", "a,A \n1,2\n": "header",
		"a,b,a\nx,y,1\n": "header"} {
		_, err := open(t, text)
		var list place.List
		require.ErrorAs(t, err, &list, text)
		require.Contains(t, list[0].Message, want)
	}
	_, err := finished.Open(context.Background(), filepath.Join(t.TempDir(), "none.csv"), finished.Options{Formats: format.All()})
	require.ErrorContains(t, err, "there is no such file")
}

type nobody struct{}

func (nobody) Part() pass.Part { return nobody{} }
func (nobody) See(*pass.Block) {}
func (nobody) Take()           {}

// Rows that may not be data are told.
func TestRemarks(t *testing.T) {
	table, err := open(t, "region,amount\nLakes,1\nregion,amount\nTotal,1\nLakes,2\nGrand total,3\n")
	require.NoError(t, err)
	v := table.View()
	require.Empty(t, v.Run(context.Background(), nobody{}))
	require.Equal(t, []string{
		`2 rows are labelled as totals, such as "Total" in row 4, and are added up as data; --only leaves them out`,
		"the header stands again in row 3 (rows so in all: 1): left out"}, v.Remarks)
}

// A mistake in what is asked says what is there instead, and where it is in a formula.
func TestMistakes(t *testing.T) {
	table, err := open(t, "region,Product name,amount\nLakes,Oar,1\n")
	require.NoError(t, err)
	for asked, want := range map[string]string{
		"regoin": `has no column "regoin"; did you mean region?`, "upper(regoin)": "character 7: ", "amount +": "character 9",
		"year(amount)": "character", "zzzzzz": "it has region, Product name, amount",
		"region = Lakes": "it has region, Product name, amount; a text stands in quotes: 'Lakes'",
	} {
		_, err := table.View().Column(asked)
		require.ErrorContains(t, err, want, asked)
		require.IsType(t, &finished.Mistake{}, err)
	}
	for _, asked := range []string{"REGION", "product_name", "{Product name}", "amount * 2"} {
		_, err := table.View().Column(asked)
		require.NoError(t, err, asked)
	}
	require.Error(t, table.View().Filter("amount + 1"))
}
