package report

import (
	"bytes"
	"fmt"
	"io"
	"io/fs"
	"math/big"
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/require"

	"umbau/internal/core/cube"
	"umbau/internal/core/table"
	"umbau/internal/core/value"
)

// Long numbers are packed seven bits a byte, with the sign in the lowest bit.
func TestLongNumbers(t *testing.T) {
	for _, text := range []string{"0", "1", "-1", "63", "64", "-64", "9223372036854775807", "-9223372036854775808", "18446744073709551616",
		"-123456789012345678901234567890"} {
		want, _ := new(big.Int).SetString(text, 10)
		have, shift := new(big.Int), uint(0)
		packed := appendLong(nil, want)
		for i, b := range packed {
			have.Or(have, new(big.Int).Lsh(big.NewInt(int64(b&127)), shift))
			shift += 7
			require.Equal(t, i < len(packed)-1, b > 127, text)
		}
		negative := have.Bit(0) == 1
		if have.Rsh(have, 1); negative {
			have.Neg(have)
		}
		require.Equal(t, text, have.String())
	}
}

// pageOf draws the page of some rows: each with its labels and amounts by column.
func pageOf(t *testing.T, columns []table.SinkColumn, rows [][]string) string {
	t.Helper()
	c := cube.New(columns, cube.MostGroups)
	var numeric []bool
	for _, s := range columns {
		numeric = append(numeric, s.Numeric())
	}
	b := table.NewBuilder(numeric)
	for _, row := range rows {
		for j, text := range row {
			d, _, ok := value.English.Number([]byte(text))
			switch {
			case !numeric[j]:
				b.Text(j, []byte(text))
			case ok:
				b.Number(j, d)
			default:
				b.NoNumber(j)
			}
		}
		b.EndRow()
	}
	p := c.Part()
	p.See(b.Batch())
	p.Take()
	a, err := readAccount(table.Told{Build: []byte(`{"exit": 0, "ties": []}`),
		Record: func(string) (io.ReadCloser, error) { return nil, fs.ErrNotExist }})
	require.NoError(t, err)
	a.Title, a.At = "Sales", time.Date(2026, 1, 2, 3, 4, 5, 0, time.UTC)
	var out bytes.Buffer
	require.NoError(t, write(&out, a, c.Result()))
	return out.String()
}

// A page can be drawn of any table: without figures, labels, times or rows, and of odd figures.
func TestPagesOfAnyTable(t *testing.T) {
	text := func(i int, name, is string) table.SinkColumn {
		return table.SinkColumn{Index: i, Name: name, Is: is, Decimals: -1}
	}
	figure := func(i int, name string) table.SinkColumn {
		return table.SinkColumn{Index: i, Name: name, Is: "number", Decimals: 2, Add: true}
	}
	for _, test := range []struct {
		name    string
		columns []table.SinkColumn
		rows    [][]string
		want    []string
	}{
		{"no rows", []table.SinkColumn{text(0, "region", "text"), figure(1, "amount")}, nil, []string{"<td>–</td>"}},
		{"no labels", []table.SinkColumn{figure(0, "amount")}, [][]string{{"1.5"}, {"2.25"}}, []string{"<td>3.75</td>"}},
		{"no figures", []table.SinkColumn{text(0, "region", "text")}, [][]string{{"Lakes"}, {"Lakes"}, {""}},
			[]string{`<th scope="row">Lakes</th><td>2</td>`, `<th scope="row">(empty)</th><td>1</td>`}},
		{"no columns", nil, nil, []string{"The table has no column of figures"}},
		{"negative ones", []table.SinkColumn{text(0, "month", "month"), text(1, "region", "text"), figure(2, "amount")},
			[][]string{{"2024-01", "Lakes", "-5"}, {"2024-02", "Skerries", "-6.5"}, {"2024-02", "Lakes", ""}},
			[]string{"<td>-11.50</td>", "amount by month and region", "amount by region, the largest first"}},
		{"huge ones", []table.SinkColumn{text(0, "year", "year"), figure(1, "amount")},
			[][]string{{"2023", "123456789012345678901234567890.12"}, {"2024", "0.88"}},
			[]string{"<td>123,456,789,012,345,678,901,234,567,891.00</td>"}},
		{"a quarter of months", []table.SinkColumn{text(0, "month", "month"), figure(1, "amount")},
			[][]string{{"2024-03", "1"}, {"2024-04", "2"}, {"2025-04", "4"}},
			[]string{`<th scope="col">2024</th><th scope="col">2025</th>`, "<td>7.00</td>"}},
		{"one value", []table.SinkColumn{text(0, "region", "text"), figure(1, "amount")}, [][]string{{"Lakes", "1"}}, []string{"<td>1.00</td>"}},
	} {
		page := pageOf(t, test.columns, test.rows)
		for _, want := range test.want {
			require.Contains(t, page, want, test.name)
		}
		require.Equal(t, strings.Count(page, "<table"), strings.Count(page, "</table>"), test.name)
		require.NotContains(t, page, "#010203", test.name)
	}
}

// A hundred lines and a thousand names are too many to draw, and are said.
func TestManyNames(t *testing.T) {
	columns := []table.SinkColumn{{Index: 0, Name: "month", Is: "month", Decimals: -1}, {Index: 1, Name: "product", Is: "name", Decimals: -1},
		{Index: 2, Name: "amount", Is: "number", Decimals: 2, Add: true}}
	var rows [][]string
	for i := range 1000 {
		rows = append(rows, []string{fmt.Sprintf("2024-%02d", i%12+1), fmt.Sprintf("A very long name of a thing, number %03d", i), fmt.Sprint(i)})
	}
	page := pageOf(t, columns, rows)
	require.Contains(t, page, "amount by product, the 12 largest of 1000")
	require.Contains(t, page, "<td>499,500.00</td>")
	require.Contains(t, page, "A very long name of a thing…")
}

// The record is read as far as it goes: what is no record is an error.
func TestNoRecord(t *testing.T) {
	_, err := readAccount(table.Told{Build: []byte("no json")})
	require.ErrorContains(t, err, "build.json is no record of a build")
	_, err = readAccount(table.Told{Build: []byte("{}"), Record: func(string) (io.ReadCloser, error) {
		return io.NopCloser(strings.NewReader("file,sheet\n\"torn")), nil
	}})
	require.ErrorContains(t, err, "rows.csv has 2 columns, not 18")
}

func TestRoughly(t *testing.T) {
	for f, want := range map[float64]string{0: "0", 1.5: "1.5", 1000: "1 k", 1250000: "1.25 M", -2e9: "-2 G", 3e12: "3 T"} {
		require.Equal(t, want, roughly(f))
	}
	require.Zero(t, shade(0, 10))
	require.LessOrEqual(t, shade(10, 10), 38)
}

// What a person should look at, though it stopped nothing, stands above the figures; what nothing reads, below.
func TestWhatToLookAt(t *testing.T) {
	page := func(build string) string {
		a, err := readAccount(table.Told{Build: []byte(build),
			Record: func(string) (io.ReadCloser, error) { return nil, fs.ErrNotExist }})
		require.NoError(t, err)
		var out bytes.Buffer
		require.NoError(t, write(&out, a, nil))
		return out.String()
	}
	text := page(`{"exit": 0, "inputs": [{"file": "a.xlsx"}], "not_read": [
		{"file": "b.xlsx", "sheets": ["Old", "2019"]}, {"file": "c.csv"}, {"file": "old", "files": 3}],
		"differing": [{"measure": "amount", "rows": 1200, "amount": "12.5"}],
		"warnings": [{"message": "a sheet has <all>", "count": 2, "advice": "leave it out", "places": [{"file": "a.xlsx", "sheet": "All"}]}]}`)
	doubts, rest, _ := strings.Cut(text, `id="account"`)
	require.Contains(t, doubts, "2 things are to be looked at, below.")
	require.Contains(t, doubts, "<strong>A sheet has &lt;all&gt;</strong>, 2 times")
	require.Contains(t, doubts, "<li>a.xlsx, sheet All</li>")
	require.Contains(t, doubts, "<p>Leave it out</p>")
	require.Contains(t, doubts, "<strong>12.5 of amount</strong> went with 1,200 repeated fact rows")
	require.Contains(t, doubts, "the plan and 1 file,")
	require.Contains(t, rest, "read by nothing: b.xlsx, sheet Old, 2019; c.csv; old (3 files).")
	require.NotContains(t, page(`{"exit": 0}`), "look at")
}
