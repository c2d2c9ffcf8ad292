package keep_test

import (
	"context"
	"fmt"
	"strings"
	"testing"

	"github.com/stretchr/testify/require"

	"umbau/internal/core/keep"
	"umbau/internal/core/pass"
)

// Section rows are doubtful whose label rows with figures have in the same column, before them or behind, in another extract of the
// same columns, too; the first of each is told, with the number of them, by any number of workers.
func TestSections(t *testing.T) {
	var b strings.Builder
	b.WriteString("Product,Note,Amount\nHolm,,\nBuoy,,1\nOar,,\nLamp,,2\n")
	for i := range 30_000 { // several blocks
		fmt.Fprintf(&b, "Pier %d,,\nRope %d,x,3\nOar,,\nLamp,late,4\n", i%50, i%700)
	}
	rules, inputs := reading(t, `umbau: 1
extracts: [{ files: "*.csv", sections: branch, others: [Note] }]
fact: { branch: text, product: text, amount: whole }
deliver: [{ to: out/s.csv }]
`, map[string]string{"a.csv": b.String(), "b.csv": "Product,Note,Amount\nQuay,,\nOAR,,5\nx,,\nBuoy,,6\nBuoy,,\nLamp,,7\n"})
	sameRows(t, rules, inputs, (*keep.Sections).Doubtful, []string{"Oar a.csv 4 30001", "Buoy b.csv 6 1"})
	sameRows(t, rules, inputs, (*keep.Sections).Between, nil)
}

// sameRows holds the rows that are kept against those that are wanted, by any number of workers.
func sameRows(t *testing.T, rules *pass.Rules, inputs []*pass.Input, of func(*keep.Sections) []keep.SectionRow, want []string) {
	for workers := 1; workers < 4; workers++ {
		rules.Workers = workers
		k := &keep.Sections{}
		require.Empty(t, pass.Run(context.Background(), rules, inputs, k))
		var have []string
		for _, r := range of(k) {
			have = append(have, fmt.Sprint(r.Text, " ", r.Place.File, " ", r.Place.Row, " ", r.Count))
		}
		require.Equal(t, want, have, "%d workers", workers)
	}
}

// Section rows that are lines above the table once more, or marks of pages, are told by any number of workers.
func TestSectionsBetweenPages(t *testing.T) {
	page := "Product,Amount\nHolm,\nBuoy,1\nOar,2\n"
	rules, inputs := reading(t, `umbau: 1
extracts: [{ files: "*.csv", sections: branch, titles: "Coast: {region}" }]
fact: { region: text, branch: text, product: text, amount: whole }
deliver: [{ to: out/s.csv }]
`, map[string]string{
		"a.csv": "Halyard & Moss,\nCoast: Lakes,\n" + page + "HALYARD & MOSS,\ncoast: lakes,\n" + page + "Page 2 of 3,\n" + page,
		"b.csv": "Coast: Skerries,\n" + page + "Halyard & Moss,\nLamp,3\n"})
	sameRows(t, rules, inputs, (*keep.Sections).Between,
		[]string{"HALYARD & MOSS a.csv 7 1", "coast: lakes a.csv 8 1", "Page 2 of 3 a.csv 13 1"})
}

// Rows that have headers of their table in other columns are told by any number of workers, whether a rule made numbers of their words or
// held them; a label that is called as a header is none.
func TestHeadersWithin(t *testing.T) {
	var b strings.Builder
	b.WriteString("Branch,Month,Product,Amount\nQuay,2024-01,Oar,1\nBranch,2024-01,Oar,closed\n")
	for range 9_000 { // several blocks
		b.WriteString("Quay,2024-01,Oar,closed\n")
	}
	b.WriteString("Branch,Product,Month,AMOUNT\nQuay,Oar,2024-02,3\nProduct,Branch,Note,Amount\n")
	for rule, want := range map[string][]string{
		"texts: hold": {"Branch, Product, Month, AMOUNT a.csv 9004 1", "Product, Branch, Amount a.csv 9006 1"},
		"texts: drop": {"Branch, Product, Month, AMOUNT a.csv 9004 1", "Product, Branch, Amount a.csv 9006 1"},
	} {
		rules, inputs := reading(t, `umbau: 1
extracts: [{ files: "*.csv" }]
fact: { branch: text, month: { is: month, `+rule+` }, product: text, amount: { is: whole, texts: 0 } }
deliver: [{ to: out/s.csv }]
`, map[string]string{"a.csv": b.String()})
		sameRows(t, rules, inputs, (*keep.Sections).Headers, want)
	}
}

// Months across in another order are told, too, where a rule makes numbers of what may be read in several ways.
func TestMonthsAcrossWithin(t *testing.T) {
	rules, inputs := reading(t, `umbau: 1
extracts: [{ files: "*.csv", unpivot: { columns: ["* 2024"], header: "{month}", cell: amount } }]
fact: { product: text, month: month, amount: { is: whole, unclear: 0, texts: 0 } }
deliver: [{ to: out/s.csv }]
`, map[string]string{"a.csv": "Product,Jan 2024,Feb 2024\nOar,1,2\nProduct,Feb 2024,Jan 2024\nOar,4,3\n"})
	sameRows(t, rules, inputs, (*keep.Sections).Headers, []string{"Product, Feb 2024, Jan 2024 a.csv 3 1"})
}
