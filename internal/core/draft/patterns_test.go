package draft

import (
	"fmt"
	"strings"
	"testing"

	"github.com/stretchr/testify/require"
)

// A row whose figure is missing, below the label of a group, heads no section: its label stands in other rows too.
func TestLabelsAlone(t *testing.T) {
	r, err := drafted(t, "region,branch,month,product,amount", map[string]string{"raw/Lakes/2024-01.csv": "Branch,Product,Amount\n" +
		"Quay,Oar,1.5\n,Dock  Line,2.5\nPier,Oar,3.5\n,Dock Line,\n,Rope,4.5\nMole,Oar,5.5\n,Rope,\n"})
	require.NoError(t, err)
	require.NotContains(t, r.Text, "sections")
	require.Contains(t, r.Text, `path: "{region}/{month}"`)
	require.EqualValues(t, 7, r.Rows)
}

// A period in the name of a file, without a year, is no place; what is one is taken whole, of however many words it is.
func TestPeriodsInNames(t *testing.T) {
	for _, test := range []struct{ names, want, path, month string }{
		{"Lakes Jan,Lakes Feb", "Lakes", `path: "{region} *"`, "2024-01"},
		{"Amber Bay Jan,Amber Bay Feb", "Amber Bay", `path: "{region} {mon:letters}"`, "2024-01"},
		{"Amber Bay Jan,Long Sound Jan", "Amber Bay,Long Sound", `path: "{region} {mon:letters}"`, "2024-01"},
		{"Amber Bay KW12,Long Sound KW13", "Amber Bay,Long Sound", `path: "{region} KW*"`, "2024-01"},
		{"Amber Bay Apr 2024,Long Sound Apr 2024", "Amber Bay,Long Sound", `path: "{region} {mon:letters} 20*"`, "2024-01"},
		{"Amber Bay Q1,Long Sound Q1", "Amber Bay,Long Sound", `path: "{region} Q1"`, "2024-01"},
		{"2024/Amber Bay Jan,2024/Long Sound Feb", "Amber Bay,Long Sound", `path: "{year}/{region} {mon:letters}"`, ""},
		{"Amber Bay 2024-01,Long Sound 2024-02", "Amber Bay,Long Sound", `path: "{region} {year}-{mon:digits}"`, ""},
		{"Amber Bay 01-2024,Long Sound 02-2024", "Amber Bay,Long Sound", `path: "{region} {mon:digits}-{year}"`, ""},
		{"Amber Bay 202401,Long Sound 202402", "Amber Bay,Long Sound", `path: "{region} {month:digits}"`, ""},
		{"Amber Bay 2024-01,Long Sound 2024-02", "Amber Bay,Long Sound", `path: "{region} 20*-*"`, "2024-01"},
		{"Amber Bay_2024-01,Long Sound_2024-02", "Amber Bay,Long Sound", `path: "{region}_{month}"`, ""},
		{"Lakes_2024_Jan,Amber Bay_2024_Feb", "Lakes,Amber Bay", `path: "{region}_{year}_{mon}"`, ""},
		{"Amber Bay Q1,Long Sound Q2", "", "no pattern takes names such as", "2024-01"},
		{"Jan,Feb", "", "no source was found", "2024-01"},
		{"Old Slip_2023,Amber Bay", "Old Slip,Amber Bay", `path: "{region}[_20*]"`, "2024-01"},
		{"2024/01/Amber Bay,2024/02/Lakes", "Amber Bay,Lakes", `path: "{year}/{mon:digits}/{region}"`, ""},
		{"2024/Jan/Amber Bay,2024/Feb/Lakes", "Amber Bay,Lakes", `path: "{year}/{mon}/{region}"`, ""},
		{"Amber Bay/2024/01,Lakes/2024/02", "Amber Bay,Lakes", `path: "{region}/{year}/{mon:digits}"`, ""},
		{"Amber Bay/2024/01,Lakes/2024/02", "Amber Bay,Lakes", `path: "{region}/20*/*"`, "2024-01"},
		{"2024/01/Amber Bay,2024/02/Lakes", "Amber Bay,Lakes", `path: "{region}"`, "2024-01"},
	} {
		files := map[string]string{}
		for i, name := range strings.Split(test.names, ",") {
			header, cell := "Branch,Product,Amount", ""
			if test.month != "" {
				header, cell = "Branch,Product,Month,Amount", test.month+","
			}
			files["raw/"+name+".csv"] = fmt.Sprintf("%s\nQuay,Oar,%s%d.5\nPier,Oar,%s%d.25\n", header, cell, i+1, cell, i+3)
		}
		r, err := drafted(t, "region,branch,month,product,amount", files)
		require.NoError(t, err, test.names)
		require.Contains(t, r.Text, test.path, test.names)
		if test.want == "" {
			require.Contains(t, r.Missing, "region", test.names)
			continue
		}
		require.Zero(t, r.Exit, r.Text)
		require.Empty(t, r.Missing, test.names)
	}
}

// A month that another entry says whole is not put together of parts.
func TestPartsOfTimes(t *testing.T) {
	r, err := drafted(t, "", map[string]string{"Lakes Nov-05.csv": "Branch,Amount\nHolm,1.50\n",
		"Lakes Nov-12.csv": "Branch,Amount\nHolm,2.50\n"})
	require.NoError(t, err)
	require.Contains(t, r.Text, "# ? names such as Nov-05 may say days, or months of some years")
	require.NotContains(t, r.Text, "Dec-24")
	r, err = drafted(t, "region,month,amount", map[string]string{"x.csv": "Region,Week,Amount\nLakes,Nov-05,1.50\nLakes,Nov-12,2.50\n"})
	require.NoError(t, err)
	require.Contains(t, r.Text, "# ? x.csv, column Week: texts such as Nov-05 may be days, or months of some years")
	require.Contains(t, r.Text, "unclear: hold")
	for _, headers := range []string{"Region,Nov-05,Nov-12,Nov-19", ",Amount,,,Quantity,,\nRegion,Nov-05,Nov-12,Nov-19,Nov-05,Nov-12,Nov-19"} {
		text := headers + "\nLakes,1.50,2.50,3.50,1,2,3\nHolm,4.50,5.50,6.50,1,2,3\n"
		r, err = drafted(t, "region,month,amount", map[string]string{"x.csv": text})
		require.NoError(t, err)
		require.Contains(t, r.Text, "# ? x.csv, headers such as Nov-05 may be days, or months of some years")
		require.NotContains(t, r.Text, "    dates: \"Dec-24\"\n")
	}
	files := map[string]string{"a/Old Slip Nov-23.csv": "Branch,Amount\nHolm,1.50\n", "a/New Slip Dec-23.csv": "Branch,Amount\nHolm,2.50\n",
		"b/x.csv": "Region,Branch,Month,Amount\nLakes,Pier,2023-11,3.50\n"}
	r, err = drafted(t, "region,branch,month,amount", files)
	require.NoError(t, err)
	require.NotZero(t, r.Exit)
	require.Contains(t, r.Text, "# ? a/*-*.csv: no pattern takes names such as")
	require.NotContains(t, r.Text, "write:")
}
