package draft

import (
	"fmt"
	"strings"
	"testing"

	"github.com/stretchr/testify/require"
)

// Measures that no word names, beside other figures: what they are is a question, and they are never lost.
func TestMeasuresThatNoWordNames(t *testing.T) {
	table := func(header string, row func(i int, branch, product string) string) string {
		lines := []string{header}
		for i := range 36 {
			lines = append(lines, row(i, []string{"Holm", "Saltby", "Pier"}[i/12], []string{"Buoy", "Oar", "Jib", "Rope"}[i/3%4]))
		}
		return strings.Join(lines, "\n") + "\n"
	}
	month := func(i int) string { return fmt.Sprintf("2024-0%d", i%3+1) }
	usual := table("Branch,Month,Product,Amount", func(i int, b, p string) string {
		return fmt.Sprintf("%s,%s,%s,%d.%02d", b, month(i), p, 7*i+3, i)
	})
	const columns = "region,branch,month,product,amount"
	for _, c := range []struct {
		name, columns string
		files         map[string]string
		want          string // in the plan
		asks          bool
	}{
		{"a measure's word among three figures", columns, map[string]string{"raw/Lakes.csv": table(
			"Branch,Month,Product,Commission,Delta,Vendite", func(i int, b, p string) string {
				return fmt.Sprintf("%s,%s,%s,%d.25,%d.75,%d.%02d", b, month(i), p, 3*i+1, 5*i+2, 7*i+3, i)
			})}, "amount:  { is: number, decimals: 2, headers: [Vendite] }", false},
		{"units beside products across", columns, map[string]string{"raw/Lakes.csv": table("Branch,Month,Rope,Oar,Sail,Units",
			func(i int, b, _ string) string {
				return fmt.Sprintf("%s,20%d-0%d,%d.25,%d.75,%d.50,%d", b, i/3%4+20, i%3+1, 3*i+1, 5*i+2, 7*i+3, i+4)
			})}, `unpivot: { header: "{product}", cell: amount }`, false},
		{"no word among three figures", columns, map[string]string{"raw/all/Lakes.csv": table("Branch,Month,Product,Kassa,Delta,X2",
			func(i int, b, p string) string {
				return fmt.Sprintf("%s,%s,%s,%d.25,%d.75,%d", b, month(i), p, 3*i+1, 5*i+2, 7*i+3)
			}), "raw/Skerries.csv": usual}, "amount may be Kassa or X2", true},
		{"net of something, and another", columns, map[string]string{"raw/Lakes.csv": table("Branch,Month,Product,Net,Kassa",
			func(i int, b, p string) string {
				return fmt.Sprintf("%s,%s,%s,%d.25,%d.75", b, month(i), p, 3*i+1, 5*i+2)
			})}, "amount may be Net or Kassa", true},
		{"costs are no branches across", columns, map[string]string{"raw/Lakes.csv": table("Branch,Month,Product,Cost,Col4",
			func(i int, b, p string) string {
				return fmt.Sprintf("%s,%s,%s,%d.25,%d.75", b, month(i), p, 3*i+1, 5*i+2)
			})}, "headers: [Col4]", false},
		{"kinds of which one has a measure's name", "region,branch,month,product,quantity,amount", map[string]string{"raw/Lakes.csv": table(
			"Branch,Month,Product,Kind,Value", func(i int, b, p string) string {
				return fmt.Sprintf("%s,%s,%s,Qty,%d\n%s,%s,%s,Kassa,%d.75", b, month(i), p, 3*i+1, b, month(i), p, 5*i+2)
			})}, "Kind says what the figures of a row are (Qty, Kassa), and a build stops: widen makes columns of them", true},
		{"kinds of which none has", "region,branch,month,product,quantity,amount", map[string]string{"raw/Lakes.csv": table(
			"Branch,Month,Product,Type,Value", func(i int, b, p string) string {
				return fmt.Sprintf("%s,%s,%s,K3,%d\n%s,%s,%s,Kassa,%d.75", b, month(i), p, 3*i+1, b, month(i), p, 5*i+2)
			})}, "rows of one grain differ in Type (K3 and Kassa)", true},
		{"two header rows", "region,branch,month,quantity,amount", map[string]string{"raw/Lakes.csv": ",,K3,,Kassa,\n" + table(
			"Branch,Month,Buoy,Oar,Buoy,Oar", func(i int, b, _ string) string {
				return fmt.Sprintf("%s,20%d-0%d,%d,%d,%d.75,%d.25", b, i/3%4+20, i%3+1, i+1, i+2, 5*i+2, 7*i+2)
			})}, "which part of the wide headers names a measure, and which a thing, does not show", true},
	} {
		r, err := drafted(t, c.columns, c.files)
		require.NoError(t, err, c.name)
		require.Contains(t, r.Text+strings.Join(r.Open, "\n"), c.want, c.name)
		require.Equal(t, c.asks, r.Exit != 0 || len(r.Missing) > 0, "%s\n%s", c.name, r.Text)
	}
}

// Dates of a header that no word names are no months where names say other ones.
func TestDatesAgainstNames(t *testing.T) {
	sheet := func(due string) string {
		return "Branch,Product,Due,Amount\nHolm,Buoy,2024-0" + due + "-14,10.50\nHolm,Oar,2024-0" + due + "-20,23.45\nSaltby,Buoy,2024-0" + due +
			"-21,6.90\nSaltby,Oar,2024-0" + due + "-22,7.10\n"
	}
	files := map[string]string{"raw/Lakes 2023-11.csv": sheet("1"), "raw/Lakes 2023-12.csv": strings.ReplaceAll(sheet("2"), "10.50", "11.50")}
	r, err := drafted(t, "region,branch,month,product,amount", files)
	require.NoError(t, err)
	require.Contains(t, r.Text, `path: "{region} {month}"`)
	require.NotContains(t, r.Text, "[Due]")

	for name, text := range files { // one year, and months by their names
		delete(files, name)
		files[strings.NewReplacer("2023-11", "2023/Nov", "2023-12", "2023/Dec").Replace(name)] = text
	}
	r, err = drafted(t, "region,branch,month,product,amount", files)
	require.NoError(t, err)
	require.NotContains(t, r.Text, "month:   { is: month, headers: [Due] }", r.Text)

	files = map[string]string{"raw/Lakes 2023.csv": sheet("1"), "raw/Skerries 2023.csv": sheet("2")}
	r, err = drafted(t, "region,branch,month,product,amount", files)
	require.NoError(t, err)
	require.Contains(t, r.Text, "# ? raw/* 20*.csv: month may be Due")
}
