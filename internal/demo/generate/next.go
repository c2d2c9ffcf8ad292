package main

import (
	"fmt"
	"log"
	"strings"

	"golang.org/x/text/encoding/charmap"
)

// The month after: Amber Bay sends January of the next year, with a product that is new, and the year
// before once more, with one figure restated and one column lost.

// restated is a cell of the last year as it was sent first, and as it is sent now.
var restated = [2]string{"Saltby;Jan 2025;174,20;402,12;147,47;1.065,06;", "Saltby;Jan 2025;174,20;402,12;147,47;1.265,06;"}

// addNext adds the files of the next month, in a folder of their own.
func addNext(out map[string][]byte) {
	const name = "Amber Bay_2025.csv"
	before, err := charmap.Windows1252.NewDecoder().String(string(out["raw/"+name]))
	if err != nil {
		log.Fatal(err)
	}
	if strings.Count(before, restated[0]) != 1 {
		log.Fatalf("%s has no row %s", name, restated[0])
	}
	lines := strings.Split(strings.Replace(before, restated[0], restated[1], 1), "\n")
	for i, l := range lines {
		if end := strings.LastIndexByte(l, ';'); end >= 0 { // the last column is lost
			lines[i] = l[:end]
		}
	}
	out["next/raw/"+name] = encoded(strings.Join(lines, "\n"))
	var b strings.Builder
	b.WriteString("Branch;Month;Deck Brush;Dock Line;Bilge Pump;" + comingProduct + "\n")
	for i, branch := range []string{"Amber Harbour", "Saltby", "Quarry Head"} {
		fmt.Fprintf(&b, "%s;Jan 2026;1%d2,40;%d61,05;1.%d20,90;%d84,00\n", branch, i+3, i+5, i+1, i+2)
	}
	out["next/raw/Amber Bay_2026.csv"] = encoded(b.String())
	out["next/control/Amber Bay.csv"] = append(append([]byte(nil), out["control/Amber Bay.csv"]...), "Amber Bay,2026,\n"...)
}

// encoded is a text as Amber Bay sends it.
func encoded(s string) []byte {
	b, err := charmap.Windows1252.NewEncoder().String(s)
	if err != nil {
		log.Fatal(err)
	}
	return []byte(b)
}
