package draft

import (
	"errors"
	"fmt"
	"math/rand/v2"
	"strings"
	"testing"

	"github.com/stretchr/testify/require"

	"umbau/internal/core/place"
)

var (
	oddHeaders = strings.Split("Branch|Region|Month|Date|Year|Quarter|Product|Article no|Amount|Qty|Price|Total|Returns|EUR|Amount EUR|"+
		"Net|Gross|Jan|Feb|Mar 2024|2023|2024|2024-01|Q1|Buoy|Oar|n/a||Remark|Currency|Scenario|Type|Status|Metric|Value|Units|Discount|"+
		"Last year|YTD|No.|Where|What|When|%|Customer|Actual|Budget|Void|Manager|Betrag|Filiale|Soll|Haben|D/C", "|")
	oddCells = strings.Split("Dock|dock|1|2.5|1,234.50|1.234,50|-3|(4.5)|n/a||-|#REF!|2024-01|2024-01-05|05/01/2024|Jan|Feb 2024|2024|Q1|"+
		"Total|Subtotal|EUR|USD|Actual|Budget|invoice|credit note|Amount|Units|yes|no|Buoy|Returns|D|C|5 %|€ 3.20|Lakes|"+
		"note: see|approx 3|true", "|")
	oddColumns = strings.Split("region,branch,month,product,amount|branch,amount||year,month,amount|product,quantity|branch,day,amount|"+
		"metric,value|branch,currency,amount", "|")
	oddTitles = []string{"Region: Lakes\n", "Sales 2024\n", "Report;x\n", "Amounts in thousand EUR\n"}
)

// oddTable is a table of headers and cells that do not go together.
func oddTable(r *rand.Rand) string {
	pick := func(of []string) string { return of[r.IntN(len(of))] }
	var b strings.Builder
	if r.IntN(4) == 0 {
		b.WriteString(pick(oddTitles))
	}
	width := 2 + r.IntN(7)
	line := func(cell func(j int) string) {
		var cells []string
		for j := range width {
			cells = append(cells, cell(j))
		}
		b.WriteString(strings.Join(cells, ";") + "\n")
	}
	if r.IntN(6) == 0 {
		line(func(j int) string { return []string{"", pick(oddHeaders)}[j%2] })
	}
	line(func(int) string { return pick(oddHeaders) })
	first := r.IntN(len(oddCells))
	for i := range 1 + r.IntN(12) {
		line(func(j int) string {
			own := []string{fmt.Sprintf("%d.%d", i*37+j, j), []string{"Dock", "Pier", "Holm"}[i%3], fmt.Sprintf("2024-%02d", 1+i),
				oddCells[(first+i%3)%len(oddCells)], pick(oddCells)}
			return own[min((first+j*j)%5+r.IntN(12)/11, 4)]
		})
	}
	return b.String()
}

// Whatever a table says, there is a plan without a mistake, or it is said why there is none.
func TestOddTables(t *testing.T) {
	names := []string{"Lakes", "Wick_2024", "all", "2024/Lakes", "control/x", "Sales Jan 2024"}
	for seed := range uint64(200) {
		r := rand.New(rand.NewPCG(seed, 5))
		files := map[string]string{}
		for k := range 1 + r.IntN(3) {
			files[names[r.IntN(len(names))]+strings.Repeat(" v2", k)+".csv"] = oddTable(r)
		}
		_, err := drafted(t, oddColumns[r.IntN(len(oddColumns))], files)
		var list place.List
		if err == nil {
			continue
		}
		require.True(t, errors.As(err, &list), "seed %d: %v", seed, err)
		require.Contains(t, []string{"no file", "missing header"}, list[len(list)-1].What, "seed %d: %v", seed, err)
	}
}
