package draft

import (
	"fmt"
	"strings"
	"testing"

	"github.com/stretchr/testify/require"
)

// A summary to the right of a long table is left aside, whatever its columns are called; sparse columns behind a blank one, and tables
// in which next month may bring more columns, are read whole.
func TestTablesToTheRight(t *testing.T) {
	table := func(header string, right ...string) string { // the cells to the right, row by row, the last ones to the end
		text := "Region,Monat,Artikel,Umsatz" + header + "\n"
		for i := range 12 {
			text += fmt.Sprintf("Lakes,2024-%02d,%s,%d.50%s\n", 1+i/2, []string{"Oar", "Net"}[i%2], 10+i, right[min(i, len(right)-1)])
		}
		return text
	}
	for _, c := range []struct{ name, text, area string }{
		{"a summary", table(",,Product,Sum", ",,Oar,90.00", ",,Net,96.00", ",,,"), "over 2 rows: Product, Sum"},
		{"sparse figures", table(",,Grund,Pfand", ",,,", ",,late,1.00", ",,,", ",,late,1.00", ",,,"), ""},
		{"remarks", table(",,Remark", ",,ok", ",,"), ""},
	} {
		r, err := drafted(t, "region,month,product,amount", map[string]string{"a.csv": c.text})
		require.NoError(t, err)
		require.Equal(t, c.area != "", strings.Contains(r.Text, "area: A1:D"), c.name)
		require.Contains(t, r.Text, c.area, c.name)
		require.Equal(t, []int{12, 0}, []int{r.Rows, r.Exit}, "%s: %s", c.name, r.Text)
		require.Contains(t, r.Text, "[Artikel]", c.name)
	}
}

// Where things may stand across, an area would leave those aside that come next: it is asked about, and the build stops. Numbers of orders
// and totals are none.
func TestTablesToTheRightOfWideOnes(t *testing.T) {
	wide := "Region,Month,Oar,Net,Buoy,,Product,Sum\nLakes,2024-01,1.50,2.50,9.25,,Oar,3.75\nLakes,2024-02,2.25,1.25,8.50,,,\n" +
		"Lakes,2024-03,2.75,1.50,8.75,,,\nLakes,2024-04,2.50,1.75,8.25,,,\n"
	long := "Order,Month,Item,Qty,Price,Total,,Product,Sum\n1,2024-01,Oar,1,2.50,2.50,,Oar,9.75\n2,2024-01,Buoy,2,1.25,2.50,,,\n" +
		"3,2024-02,Oar,1,2.75,2.75,,,\n4,2024-02,Buoy,2,1.50,3.00,,,\n"
	r, err := drafted(t, "region,month,product,amount", map[string]string{"a.csv": wide})
	require.NoError(t, err)
	require.Contains(t, r.Text, "another table stands beside it, over 1 row: Product, Sum; area leaves it aside")
	require.NotZero(t, r.Exit+len(r.Missing), r.Text)
	require.NotContains(t, r.Text, "blanks: above")

	r, err = drafted(t, "month,product,quantity,amount", map[string]string{"a.csv": long})
	require.NoError(t, err)
	require.Contains(t, r.Text, "area: A1:F")
	require.Contains(t, r.Text, "headers: [Item]")
	require.Equal(t, []int{4, 0}, []int{r.Rows, r.Exit}, r.Text)
}

// A header behind a blank column with nothing below it may be a remark: it is asked about, for a thing that is left aside would not be seen
// once it is sold. Without a column between, nobody is asked.
func TestRemarksBesideHeaders(t *testing.T) {
	for header, asks := range map[string]bool{"Oar,Buoy,,ask Ines": true, "Oar,Buoy,Fender,": false} {
		r, err := drafted(t, "region,month,product,amount", map[string]string{
			"Lakes.csv": "Month," + header + "\n2024-01,1.50,2.50,,\n2024-02,2.25,1.25,,\n"})
		require.NoError(t, err)
		require.Equal(t, asks, strings.Contains(r.Text, "# ? *.csv: nothing stands below ask Ines"), r.Text)
		require.Equal(t, []int{6, 0}, []int{r.Rows, r.Exit}, r.Text)
	}
}

// Ranks and numbers of rows keep no measures apart that rows name, and are none themselves, nor things.
func TestRanksBesideMeasures(t *testing.T) {
	long, wide := "Region,Month,Product,Figure,Value,Rank\n", ",,Qty,,Sales,,\nRegion,Month,Oar,Net,Oar,Net,Rank\n"
	for i := range 8 {
		month, thing := fmt.Sprintf("2024-0%d", 1+i/2), []string{"Oar", "Net"}[i%2]
		long += fmt.Sprintf("Lakes,%s,%s,Quantity,%d,%d\nLakes,%s,%s,Sales,%d.25,%d\n", month, thing, 3+i, 1+i%5, month, thing, 40+3*i, 2+i%4)
		wide += fmt.Sprintf("Lakes,2024-0%d,%d,%d,%d.50,%d.75,%d\n", 1+i, 1+i, 3+i, 30+i, 20+i, 1+i%3)
	}
	for _, columns := range []string{"region,month,product,quantity,amount", ""} {
		r, err := drafted(t, columns, map[string]string{"a.csv": long})
		require.NoError(t, err)
		require.Contains(t, r.Text, "widen: { header: Figure, cell: Value }")
		require.Contains(t, r.Text, "repeats: sum")
		require.Equal(t, []int{8, 0}, []int{r.Rows, r.Exit}, r.Text)
		r, err = drafted(t, columns, map[string]string{"a.csv": wide})
		require.NoError(t, err)
		require.Contains(t, r.Text, `others: ["Sales | Rank"]`)
		require.Equal(t, []int{16, 0}, []int{r.Rows, r.Exit}, r.Text)
	}
}

// Where a program let each header stand once, the two measures of a thing are put together; a thing that ends with such a number is asked
// about.
func TestHeadersMadeUnlike(t *testing.T) {
	table := func(things ...string) string {
		text := ",,Qty,,Sales,\nRegion,Month," + strings.Join(things, ",") + "\n"
		for i := range 5 {
			text += fmt.Sprintf("Lakes,2024-0%d,%d,%d,%d.50,%d.75\n", 1+i, 1+i, 3+i, 30+i, 20+i)
		}
		return text
	}
	for _, end := range []string{"2", ".1", " (2)"} {
		r, err := drafted(t, "region,month,product,quantity,amount", map[string]string{"a.csv": table("Oar", "Net", "Oar"+end, "Net"+end)})
		require.NoError(t, err)
		require.Contains(t, r.Text, `header: "{measure} | {product}[`+end+`]"`)
		require.Equal(t, []int{10, 0}, []int{r.Rows, r.Exit}, r.Text)
	}

	r, err := drafted(t, "region,month,product,quantity,amount", map[string]string{"a.csv": table("Oar", "Hook 2", "Oar2", "Hook 22")})
	require.NoError(t, err)
	require.NotContains(t, r.Text, "[2]")
	require.Contains(t, r.Text, "below two names")
	require.NotZero(t, r.Exit)

	r, err = drafted(t, "region,month,product,quantity,amount", map[string]string{"a.csv": table("Oar", "Hook 2", "Oar", "Hook 2")})
	require.NoError(t, err)
	require.NotContains(t, r.Text, "[2]")
	require.Equal(t, []int{10, 0}, []int{r.Rows, r.Exit}, r.Text)
}

// Months that sheets store as their first days are months across, too; other days are days.
func TestFirstDaysAcross(t *testing.T) {
	for headers, want := range map[string]string{
		"2024-01-01,2024-02-01,2024-03-01": "{month}", "2024-01-01,2024-01-02,2024-01-03": "{day}",
		"2024-01-08,2024-02-08,2024-03-08": "{day}"} {
		text := "Region,Product," + headers + "\nLakes,Oar,1.50,2.50,3.25\nLakes,Net,4.50,1.50,3.75\n"
		r, err := drafted(t, "", map[string]string{"a.csv": text})
		require.NoError(t, err)
		require.Contains(t, r.Text, `unpivot: { header: "`+want+`"`, headers)
	}
}

// A row with figures and no label at all, which may be a total of one measure, is held, where no other row lacks the label.
func TestRowsWithoutLabels(t *testing.T) {
	rows := "Region,Branch,Product,Qty,Amount\nLakes,Holm,Oar,1,10.50\nLakes,Holm,Net,2,20.25\nLakes,Pier,Oar,3,30.50\n" +
		"Lakes,Pier,Net,4,5.50\nLakes,Quay,Oar,5,6.50\nLakes,Quay,Net,6,7.50\n"
	for _, c := range []struct {
		more, want string
		rows       int
	}{
		{",,,,80.75\n", "region:   { blanks: hold }", 6},
		{",,,,80.75\nLakes,,Net,5,3.25\nLakes,Quay,Rope,1,1.25\n", "may be a total: held", 8},
		{"Lakes,,,,80.75\n", "branch: 1 row without one at the ends of tables, where sums and averages stand: held", 6},
		{"Lakes,,,,80.75\nLakes,Quay,Rope,1,1.25\n", "branch:   { blanks: Unassigned }", 8},
	} {
		r, err := drafted(t, "region,branch,product,quantity,amount", map[string]string{"a.csv": rows + c.more})
		require.NoError(t, err)
		require.Contains(t, r.Text, c.want, c.more)
		require.Equal(t, []int{c.rows, 0}, []int{r.Rows, r.Exit}, r.Text)
	}
}
