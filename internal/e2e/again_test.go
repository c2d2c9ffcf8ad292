package e2e

import (
	"os"
	"path/filepath"
	"strings"
	"testing"

	"github.com/stretchr/testify/require"
)

// The second month: a plan that draft wrote for the first one stops at nothing, but the summary says what a person should look at,
// the worst of it first.
func TestNextMonthIsTold(t *testing.T) {
	dir := t.TempDir()
	write := func(file, text string) {
		file = filepath.Join(dir, file)
		require.NoError(t, os.MkdirAll(filepath.Dir(file), 0o777))
		require.NoError(t, os.WriteFile(file, []byte(text), 0o666))
	}
	const header = "Date,Branch,Product,Amount\n"
	write("raw/2024-01/Lakes.csv", header+"25/01/2024,Quay,Brass Shackle,1234.50\n26/01/2024,Pier,Dock Line,2345.25\n"+
		"27/01/2024,Pier,Oilskin,3.75\n")
	write("raw/2024-01/Skerries.csv", header+"13/01/2024,Mole,Brass Shackle,1000.50\n14/01/2024,Mole,Dock Line,2000.25\n"+
		"15/01/2024,Mole,Oilskin,4000.75\n")
	run(t, dir, "draft", "raw", "--columns", "region,date,branch,product,amount")
	require.Contains(t, run(t, dir, "build"), "Delivered out/sales.csv: 6 fact rows")
	write("raw/2024-02/Lakes.csv", "Sales in thousands\n\n"+header+"02/03/2024,Quay,Bras Shackle,1.25\n02/04/2024,Dock Line,Pier,2.25\n"+
		"02/05/2024,Pier,Fender,3.35\n")
	said := run(t, dir, "build")
	_, said, _ = strings.Cut(said, "New since the last build")
	_, said, _ = strings.Cut(said, "\n")
	require.Equal(t, strings.TrimPrefix(`
  ! raw/2024-02/Lakes.csv says "Sales in thousands" of its figures; nothing said so then
  ! raw/2024-02/Lakes.csv: amount is 2.28 a fact row, was 1,194.50 to 2,333.83 in each extract then: is it in other units?
  ! Skerries has nothing in 2024-05, as others do: is its delivery missing?
  1 extract new  raw/2024-02/Lakes.csv
  4 values new   `+"Dock Line of branch (of product before), Bras Shackle of product (like Brass Shackle), "+
		`Pier of product (of branch before) and 1 more
  date           2024-01-13 to 2024-05-02, was 2024-01-13 to 2024-01-27
  rows           of 1 extract, amounts in 1 account
  two spellings of one? product: { is: name, book: names/product.csv } in the plan; umbau names suggest --write begins the book
  all of it in out/record/since.csv and build.json
`, "\n"), said)
}
