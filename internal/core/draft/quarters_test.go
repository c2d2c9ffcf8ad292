package draft

import (
	"fmt"
	"strings"
	"testing"

	"github.com/stretchr/testify/require"
)

// Quarters or halves above months are known, so that their totals are compared.
func TestQuartersAboveMonths(t *testing.T) {
	months := strings.Fields("Jan Feb Mar Apr May Jun")
	table := func(above, total string, size int, wrong bool) string {
		top, head := []string{"", ""}, []string{"Branch", "Product"}
		for m, name := range months {
			group := fmt.Sprintf(above, m/size+1)
			if top, head = append(top, group), append(head, name); total != "" && m%size == size-1 {
				top, head = append(top, group), append(head, strings.ReplaceAll(total, "%d", fmt.Sprint(m/size+1)))
			}
		}
		text := strings.Join(top, ",") + "\n" + strings.Join(head, ",") + "\n"
		for b := range 4 {
			row, sum := []string{fmt.Sprint("Quay ", b), "Oar"}, 0
			for m := range months {
				n := 100 + (m*37+b*53)%71
				sum += n
				if row = append(row, fmt.Sprintf("%d.25", n)); total != "" && m%size == size-1 {
					if wrong && b == 2 {
						sum++
					}
					row, sum = append(row, fmt.Sprintf("%d.%02d", sum+size*25/100, size*25%100)), 0
				}
			}
			text += strings.Join(row, ",") + "\n"
		}
		return text
	}
	for _, test := range []struct {
		above, total, plan string
		size               int
		wrong              bool
	}{
		{"Q%d", "Total", `header: "{above} | {mon}"`, 3, false},
		{"Quarter %d", "", `header: "{above} | {mon}"`, 3, false},
		{"Q%d", "Q%d", `others: ["Q1 | Q1", "Q2 | Q2"]`, 3, false},
		{"Q%d 2024", "Total", `header: "{above} {year} | {mon}"`, 3, false},
		{"Q%d-2024", "", `header: "{above}-{year} | {mon}"`, 3, false},
		{"H%d", "Total", `header: "{above} | {mon}"`, 3, false},
		{"Q%d", "Total", `header: "{above} | {mon}"`, 3, true},
	} {
		for _, columns := range []string{"region,branch,month,product,amount", ""} {
			name := "raw/Lakes_2024.csv"
			if strings.Contains(test.above, "2024") {
				name = "raw/Lakes.csv"
			}
			rows, r := rowsOf(t, columns, map[string]string{name: table(test.above, test.total, test.size, test.wrong)})
			require.Contains(t, r.Text, test.plan, "%+v", test)
			if test.wrong {
				require.NotZero(t, r.Exit, "a total is compared")
				continue
			}
			require.Zero(t, r.Exit, "%+v %v\n%s", test, r.Problems, r.Text)
			require.Len(t, rows, 24)
		}
	}
}
