package draft

import (
	"fmt"
	"strings"
	"testing"

	"github.com/stretchr/testify/require"
)

// A file without a header row loses its first row to it, one in cents is out of scale: both are questions.
func TestOddities(t *testing.T) {
	const header, columns = "Branch,Month,Product,Amount\n", "region,branch,month,product,amount"
	rows := func(month string) string {
		return strings.ReplaceAll("Holm,M,Buoy,1010.50\nHolm,M,Oar,3.20\nSaltby,M,Buoy,5.75\n", "M", month)
	}
	for _, test := range []struct{ text, asked string }{
		{rows("2024-02"), `"2024-02" stands where its header row should be`},
		{strings.ReplaceAll(rows("2024-02"), ",2024-02", ""), `"1010.50" stands where its header row should be`},
		{header + strings.NewReplacer("1010.50", "101050", "3.20", "320", "5.75", "575").Replace(rows("2024-02")), "are these cents?"},
		{header + strings.NewReplacer("1010.50", "1010", "3.20", "3", "5.75", "5").Replace(rows("2024-02")), ""},
		{header + rows("2024-02"), ""},
		{"Branch,Product,2024-02\nHolm,Buoy,1010.50\n", ""},
		{"Branch,Month,1.5 m,2.5 m\nHolm,2024-02,1010.50,3.25\n", ""},
	} {
		r, err := drafted(t, columns, map[string]string{"raw/Lakes_2024-01.csv": header + rows("2024-01"), "raw/Lakes_2024-02.csv": test.text})
		require.NoError(t, err)
		require.Equal(t, test.asked != "", r.Exit != 0 || len(r.Missing) > 0, "%s\n%s\n%v", test.text, r.Text, r.Problems)
		require.Contains(t, strings.Join(r.Open, "\n"), test.asked, test.text)
	}
}

// A title right above headers of which some stand twice is read as their upper row: that is a question, in the first column alone.
func TestTitleAbove(t *testing.T) {
	const rows = "Holm,10.50,20.25,30.75,1.50,32.25\nPier,11.50,21.25,32.75,2.50,35.25\nQuay,12.50,22.25,34.75,3.25,38.00\n"
	for above, asks := range map[string]bool{"Coast of Lakes,,,,,\n": true, ",Lakes,,,,\n": false, "": false} {
		r, err := drafted(t, "region,branch,month,amount", map[string]string{
			"Lakes.csv": above + "Branch,2024-01,2024-02,YTD,2024-03,YTD\n" + rows})
		require.NoError(t, err)
		require.Equal(t, asks, strings.Contains(strings.Join(r.Open, "\n"), "is it a title? header: 2 says so"), "%q: %s", above, r.Text)
		require.True(t, !asks || r.Exit != 0 || len(r.Missing) > 0, r.Text)
	}
}

// Numbers of rows without a header are left aside, other figures there are not.
func TestNumbersOfRows(t *testing.T) {
	const rows = "Branch,Month,Amount\n0,Holm,2024-01,30.75\n1,Saltby,2024-02,12.85\n2,Pier,2024-02,1.15\n"
	for first, asked := range map[string]bool{"0": false, "2": true, "4.50": true} {
		for _, columns := range []string{"branch,month,amount", ""} {
			r, err := drafted(t, columns, map[string]string{"Lakes.csv": "," + strings.Replace(rows, "\n0", "\n"+first, 1)})
			require.NoError(t, err)
			require.Equal(t, asked, r.Exit != 0, "%s\n%s\n%v", first, r.Text, r.Problems)
		}
	}
}

// Rows and columns that are sums of others, and do not say so: a question, or left aside where each row shows it.
func TestSumsThatDoNotSaySo(t *testing.T) {
	const header, rows = "Branch,Product,Amount\n", "Holm,Buoy,10.50\nHolm,Oar,23.45\nSaltby,Buoy,6.90\nSaltby,Oar,7.10\n"
	for last, asked := range map[string]bool{",,47.95\n": true, "Whole coast,,47.95\n": true, "Pier,Oar,47.96\n": false,
		"Overall,,47.95\n": false, "T o t a l,,47.95\n": false, "Lakes Totale,,47.95\n": false} {
		r, err := drafted(t, "region,branch,product,amount", map[string]string{"raw/Lakes.csv": header + rows + last})
		require.NoError(t, err)
		require.Equal(t, asked, r.Exit != 0 || len(r.Missing) > 0, "%s\n%s\n%v", last, r.Text, r.Problems)
		require.Equal(t, asked, strings.Contains(strings.Join(r.Open, "\n"), "row 6 has the sums of the rows above it"), last)
		require.Equal(t, asked, strings.Contains(r.Text, "# amount: left out until what is asked above is settled"), last)

		r, err = drafted(t, "", map[string]string{"raw/Lakes.csv": header + rows + last}) // the figures stay, and the build waits
		require.NoError(t, err)
		require.Contains(t, r.Text, "\n  amount:", last)
		require.Equal(t, asked, r.Exit != 0, "%s\n%s\n%v", last, r.Text, r.Problems)
		require.Equal(t, asked, strings.Contains(r.Text, Unsettled), last)
	}
	for _, columns := range []string{"region,branch,product,amount", ""} {
		r, err := drafted(t, columns, map[string]string{"raw/Lakes.csv": "Branch,Buoy,Oar,Floats,Jib,Sail,Canvas\n" +
			"Holm,1000.25,300.50,1300.75,1000.10,1095.33,2095.43\nSaltby,100.15,200.20,300.35,500.40,600.55,1100.95\n" +
			"Pier,150.10,250.15,400.25,1000.70,1106.20,2106.90\n"})
		require.NoError(t, err)
		require.Zero(t, r.Exit, "%v\n%s", r.Problems, r.Text)
		require.Equal(t, 12, r.Rows)
		require.Contains(t, r.Text, "others: [Floats, Canvas]")
		require.Contains(t, r.Text, "# Floats, Canvas: in every row the sum of columns beside it")
	}

	r, err := drafted(t, "branch,product,quantity,amount", map[string]string{"Lakes.csv": "Branch,Product,Figure,Value\n" +
		"Holm,Buoy,Quantity,2\nHolm,Buoy,Amount,10.50\n" +
		"Holm,Buoy,Margin %,0.42\nHolm,Oar,Quantity,3\nHolm,Oar,Amount,23.45\nHolm,Oar,Margin %,0.40\n"})
	require.NoError(t, err)
	require.Zero(t, r.Exit, "%v\n%s", r.Problems, r.Text)
	require.Equal(t, 2, r.Rows)
}

// One label that all rows with the sums of those above have, and no other row, is a word for totals: a build sees whether they agree.
func TestSumsOfOneName(t *testing.T) {
	const header = "Branch,Product,Amount\n"
	const rows = "Holm,Oar,1210.50\nHolm,Buoy,23.45\nHolm,Endstand,1233.95\nPier,Oar,1350.25\nPier,Buoy,2.25\nPier,Endstand,1352.50\n"
	for text, asked := range map[string]bool{rows: false, strings.Replace(rows, "Holm,Buoy", "Holm,Endstand", 1): true,
		strings.Replace(rows, "Endstand", "Beide", 1):                                    true,
		strings.ReplaceAll(rows, "Endstand", "Ergebnis"):                                 false,
		"Holm,Oar,25\nHolm,Buoy,5\nHolm,Net,30\nPier,Oar,30\nPier,Buoy,2\nPier,Net,32\n": true} {
		r, err := drafted(t, "region,branch,product,amount", map[string]string{"Lakes.csv": header + text})
		require.NoError(t, err)
		require.Equal(t, !asked, strings.Contains(r.Text, "total_words: [E"), r.Text)
		require.Equal(t, asked, r.Exit != 0 || len(r.Missing) > 0, r.Text)
		require.Equal(t, asked, strings.Contains(r.Text, "the rows above it, and says Holm, "), r.Text)
		require.Equal(t, asked, r.Rows != 4, r.Text)
	}
}

// What is asked about figures across leaves them where the plan has them: the build stops, and goes on when the line that
// stops it is taken out. Months without a year are a plan all the same, whatever becomes of the figures.
func TestQuestionsAboutFiguresAcross(t *testing.T) {
	const columns = "region,branch,month,amount"
	for name, test := range map[string]struct{ text, open string }{
		"a row that is a sum": {"Branch,Jan,Feb,Mar\nHolm,1.5,2,3\nSaltby,6,7.25,8\nCoast,7.5,9.25,11\n",
			"row 4 has the sums of the rows above it"},
		"sums so far": {"Branch,Jan,Feb,Mar,Apr,May\nA,1,2,4,6,9\nB,2,3,5,9,12\nC,7,9,11,12,13\nD,1,3,5,7,10\nE,2,4,5,6,8\n",
			"grow from left to right in every row"},
	} {
		t.Run(name, func(t *testing.T) {
			r, err := drafted(t, columns, map[string]string{"raw/Lakes 2024.csv": test.text})
			require.NoError(t, err)
			require.Equal(t, 3, r.Exit, r.Text)
			require.Empty(t, r.Missing)
			require.Contains(t, strings.Join(r.Open, "\n"), test.open)
			require.Contains(t, r.Text, `unpivot: { header: "{mon}", cell: amount }`)
			require.Contains(t, r.Text, `must: ["='what is asked above' = 'settled'"]`)
		})
	}
	r, err := drafted(t, "branch,month,amount", map[string]string{"A 2024.csv": "Sales in EUR\nBranch,Jan,Feb\nHolm,1.5,2\nLowe,7,8\n",
		"B 2024.csv": "Sales in USD\nBranch,Jan,Feb\nPier,1.5,2\nMole,7,8\n"})
	require.NoError(t, err)
	require.Equal(t, []string{"month", "amount"}, r.Missing, r.Text)
	require.NotContains(t, r.Text, "mon:")
}

// A time alone in a row may be that of the rows below it, which no plan takes from there.
func TestTimesAlone(t *testing.T) {
	for _, columns := range []string{"", "region,branch,product,amount"} {
		r, err := drafted(t, columns, map[string]string{"Lakes.csv": "Branch,Product,Amount\n2024-01,,\nQuay 4,Oar,1.50\nOld Slip,Oar,2.25\n" +
			"2024-02,,\nQuay 4,Oar,3.50\n"})
		require.NoError(t, err)
		require.NotZero(t, r.Exit)
		require.Contains(t, strings.Join(r.Open, "\n"), "row 2 has 2024-01 alone")
	}
}

// Few numbers that are written otherwise are held; of many, the plan says both ways.
func TestNumbersInTwoWays(t *testing.T) {
	for other, want := range map[int]string{2: "unclear: hold",
		13: `numbers: ["1,234.56", "1.234,56"]`, 20: `numbers: ["1,234.56", "1.234,56"]`} {
		text := "Month;Branch;Amount\n"
		for i := range 40 {
			amount := fmt.Sprintf("%d,%03d.%02d", i+1, i*17%1000, i+10)
			if i%20 < other/2 || i == 39 && other%2 == 1 {
				amount = strings.NewReplacer(",", ".", ".", ",").Replace(amount)
			}
			text += fmt.Sprintf("2024-%02d;Quay %d;%s\n", i%12+1, i, amount)
		}
		r, err := drafted(t, "region,branch,month,amount", map[string]string{"Lakes.csv": text})
		require.NoError(t, err)
		require.Zero(t, r.Exit)
		require.Contains(t, r.Text, want, "%d", other)
		require.Equal(t, map[bool]int{true: 38, false: 40}[other == 2], r.Rows)
	}
}

// 6.102 beside 12.50 and 1.234,50 may be six thousand: both ways are said, and it is held. Without numbers of the other kind it is
// a number.
func TestThousandsOfAnotherStyle(t *testing.T) {
	text := "Month;Branch;Amount\n"
	for i := range 30 {
		text += fmt.Sprintf("2024-%02d;Quay %d;%d,%03d.50\n", i%12+1, i, i+1, i*17%1000)
	}
	for _, test := range []struct {
		more string
		rows int
		want string
	}{
		{"2024-01;Pier;6.102\n2024-02;Pier;1.234,50\n", 31, `numbers: ["1,234.56", "1.234,56"]`},
		{"2024-01;Pier;6.102\n2024-02;Pier;12.50\n", 32, "decimals: 3"},
		{"2024-01;Pier;6,102\n2024-02;Pier;1.234,50\n", 31, "unclear: hold"},
	} {
		r, err := drafted(t, "region,branch,month,amount", map[string]string{"Lakes.csv": text + test.more})
		require.NoError(t, err)
		require.Zero(t, r.Exit)
		require.Contains(t, r.Text, test.want)
		require.Equal(t, test.rows, r.Rows, "%s\n%s", test.more, r.Text)
	}
	r, err := drafted(t, "region,branch,month,amount", map[string]string{
		"Lakes 2024.csv": "Branch;Jan;Feb;Mar\nQuay;12.50;6.102;7.25\nPier;8.75;9.50;1.234,50\nMole;2.25;3.50;4.75\n"})
	require.NoError(t, err)
	require.Contains(t, r.Text, `numbers: ["1,234.56", "1.234,56"]`, "across together")
}
