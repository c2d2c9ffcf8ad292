package draft

import (
	"slices"
	"strings"

	"umbau/internal/core/key"
)

// contraries are words of which two in the headers of one measure mean figures that cannot be added up.
var contraries = [][]string{
	{"net netto nets", "gross brutto brut bruto lordo"},
	{"eur euro euros", "usd dollar dollars", "gbp pounds", "chf franken"},
	{"actual ist réel", "plan planned budget forecast target soll"},
}

// sense is which of some contraries a header says, -1 for none.
func sense(header string, of []string) int {
	for i, list := range of {
		for _, w := range strings.Fields(key.Of(header)) {
			if slices.Contains(strings.Fields(list), w) {
				return i
			}
		}
	}
	return -1
}

// findContraries finds measures that one table has net and another gross, or in other money: each
// table that says which is a question.
func (d *drafter) findContraries() {
	for _, c := range d.columns {
		if !c.class.ofMeasure() {
			continue
		}
		for _, of := range contraries {
			var headers []string
			senses, entries := map[int]bool{}, map[*entry]bool{}
			for _, e := range d.entries {
				for _, s := range e.sheets {
					for _, i := range s.labels() {
						f := &s.Fields[i]
						k := sense(f.Header, of)
						if k < 0 || d.columnFor(f.Header) != c || c.best[s] != "" && c.best[s] != key.Of(f.Header) || !c.fits(s, i) {
							continue
						}
						senses[k], entries[e] = true, true
						if header := strings.TrimSpace(f.Header); !slices.Contains(headers, header) {
							headers = append(headers, header)
						}
					}
				}
			}
			for e := range entries {
				if len(senses) > 1 && c.tossUps[e] == nil {
					c.tossUps[e] = headers
				}
			}
		}
	}
}
