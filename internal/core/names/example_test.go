package names_test

import (
	"fmt"
	"strings"

	"umbau/internal/core/names"
)

func Example() {
	book, _ := names.ReadBook("product.csv", strings.NewReader("seen,standard\nDock Line,Dock Line\nRope 10,Marine Rope 10 mm\n"))
	for _, seen := range []string{"dock-line", "ROPE 10", "Dcok Line"} {
		standard, how, ok := book.Find(seen)
		fmt.Printf("%s: %q %s %v\n", seen, standard, how, ok)
	}
	fmt.Println(book.NewIndex().Suggest("Dcok Line")[0].Standard)
	// Output:
	// dock-line: "Dock Line" spelling true
	// ROPE 10: "Marine Rope 10 mm" book true
	// Dcok Line: "" unknown false
	// Dock Line
}
