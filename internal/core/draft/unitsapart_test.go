package draft

import (
	"fmt"
	"strings"
	"testing"

	"github.com/stretchr/testify/require"
)

// Units in headers across are no part of what these are of; another one does not fit, and is not added up.
func TestUnitsAcross(t *testing.T) {
	months := strings.Fields("Jan Feb Mar")
	table := func(headers ...string) string {
		text := "Branch,Product"
		for _, m := range months {
			for _, h := range headers {
				text += "," + strings.ReplaceAll(h, "%", m)
			}
		}
		for b := range 4 {
			text += fmt.Sprintf("\nQuay %d,Oar", b)
			for m := range months {
				for h := range headers {
					text += fmt.Sprintf(",%d.%d5", 100+(m*37+b*53+h*11)%71, 2+(m+b+h)%7)
				}
			}
		}
		return text + "\n"
	}
	for _, test := range []struct{ headers, plan string }{
		{"Sales % 2024 (EUR)", `header: "Sales {month} (EUR)"`},
		{"Sales % 2024 EUR", `header: "Sales {month} EUR"`},
		{"% 2024 Sales in EUR", `header: "{month} Sales in EUR"`},
		{"Sales % 2024 (EUR);Cost % 2024 (EUR)", `header: "Sales {month} (EUR)"`},
		{"Sales % 2024 (EUR);Qty % 2024 (kg)", `header: "{measure} {month}[ (kg)][ (EUR)]"`},
		{"Sales % 2024 [€];Qty % 2024", `header: "{measure} {month}[ \\[€\\]]"`},
		{"% 2024 Sales (EUR);% 2024 Qty (kg)", `header: "{month} {measure:letters}[ (kg)][ (EUR)]"`},
		{"Sales (EUR) % 2024;Qty (kg) % 2024", `header: "{measure}[ (kg)][ (EUR)] {month}"`},
		{"Net sales (EUR) % 2024;Qty (kg) % 2024", `header: "[Net ]{measure:letters}[ (EUR)][ (kg)] {month}"`},
		{"Net sales (EUR);Qty (kg)", `headers: [Net sales (EUR)]`},
	} {
		text := table(strings.Split(test.headers, ";")...)
		if !strings.Contains(test.headers, "%") {
			text = "Branch,Product," + strings.ReplaceAll(test.headers, ";", ",") + "\nQuay 1,Oar,12.5,2\nQuay 2,Oar,11.5,1\n"
		}
		_, r := rowsOf(t, "region,branch,month,product,amount,quantity", map[string]string{"raw/Lakes.csv": text})
		require.Contains(t, r.Text, test.plan, test.headers)
	}
	for _, other := range []string{table("Sales % 2024 (USD)"), table("Sales % 2024 (TEUR)"), table("% 2024 USD"), table("% 2024 Sales USD"),
		"All amounts in USD\n\n" + table("Sales % 2024"), "in thousand EUR\n\n" + table("Sales % 2024 (EUR)")} {
		rows, r := rowsOf(t, "region,branch,month,product,amount", map[string]string{
			"raw/Lakes.csv": table("Sales % 2024 (EUR)"), "raw/Skerries.csv": other})
		require.Empty(t, rows, other)
		require.True(t, r.Exit != 0 || len(r.Missing) > 0, other)
	}
}

// One measure of several things is wide where products are asked for that stand nowhere else.
func TestOneMeasureOfProducts(t *testing.T) {
	columns := "region,branch,month,product,amount"
	body := "Quay 1,2024-01,12.5,2.5\nQuay 2,2024-02,11.5,1.5\nQuay 1,2024-02,10.5,3.5\n"
	for head, plan := range map[string]string{
		"Branch,Month,Sales Oar,Sales Dock Line":             `header: "Sales {product}"`,
		"Branch,Month,Oar - Sales (EUR),Lamp - Sales (EUR)":  `header: "{product} - Sales (EUR)"`,
		"Branch,Month,Sales (EUR) Oar,Sales (EUR) Dock Line": `header: "Sales (EUR) {product}"`,
		"Branch,Month,Sales net,Sales gross":                 "amount may be Sales net or Sales gross",
		"Branch,Product,Sales online,Sales at the counter":   "amount may be Sales online or Sales at the counter",
	} {
		_, r := rowsOf(t, columns, map[string]string{"raw/Lakes.csv": head + "\n" + body})
		require.Contains(t, r.Text, plan, head)
	}
}
