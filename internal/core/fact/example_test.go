package fact_test

import (
	"context"
	"fmt"
	"os"
	"path/filepath"

	"umbau/internal/core/fact"
	"umbau/internal/core/plan"
	"umbau/internal/format"
)

func ExampleBuild() {
	dir, _ := os.MkdirTemp("", "example")
	defer os.RemoveAll(dir)
	os.WriteFile(filepath.Join(dir, "Lakes_2024.csv"), []byte("Branch,Dock Line,Fender\nQuay 4,10.50,\nOld Slip,7,n/a\n"), 0o666)
	p, err := plan.Read(filepath.Join(dir, "umbau.yaml"), []byte(`umbau: 1
extracts: [{ files: "*_*.csv", path: "{region}_{year}", unpivot: { header: "{product}", cell: amount } }]
fact: { region: text, year: year, branch: text, product: name, amount: { is: number, decimals: 2, gaps: 0 } }
deliver: [{ to: out.csv }]
record: record
`), format.All())
	if err != nil {
		fmt.Println(err)
		return
	}
	s, _ := fact.Build(context.Background(), p, fact.Options{})
	fact, _ := os.ReadFile(filepath.Join(dir, "out.csv"))
	fmt.Printf("exit %d, %d fact rows\n%s", s.ExitCode(), s.FactRows, fact)
	// Output:
	// exit 0, 4 fact rows
	// region,year,branch,product,amount
	// Lakes,2024,Quay 4,Dock Line,10.50
	// Lakes,2024,Quay 4,Fender,0.00
	// Lakes,2024,Old Slip,Dock Line,7.00
	// Lakes,2024,Old Slip,Fender,0.00
}
