package messy

import (
	"fmt"
	"time"
)

// Layouts whose tables say from when to when they are, a month each, in the names of files or in lines above them.

func init() {
	list := []layout{{"spans in names", spansInNames}, {"spans in titles", spansInTitles}}
	layoutsOf, layoutsOfTwo = append(layoutsOf, list...), append(layoutsOfTwo, list...)
}

// spans are ways in which offices write when a month begins and ends.
var spans = []struct{ day, between string }{{"02.01.2006", "-"}, {"20060102", "-"}, {"20060102", "_"}, {"2006-01-02", " to "},
	{"02.01.2006", " bis "}}

// spanOf is from when to when a month is.
func spanOf(month string, way int) string {
	first, _ := time.Parse("2006-01", month)
	return first.Format(spans[way].day) + spans[way].between + first.AddDate(0, 1, -1).Format(spans[way].day)
}

// eachMonth writes a long table for each region and month.
func (m *maker) eachMonth(s *style, own []string, write func(n int, region, month string, rows [][]string) error) error {
	n := 0
	for _, r := range own {
		facts := m.of(func(f *fact) bool { return f.region == r })
		for _, month := range distinct(facts, monthOf) {
			rows := [][]string{m.longHead(s, false, false)}
			for _, f := range facts {
				if f.month == month {
					rows = append(rows, m.longRow(s, f, false, false))
				}
			}
			n++
			if err := write(n, r, month, rows); err != nil {
				return err
			}
		}
	}
	return nil
}

// spansInNames is a file a region and month: Lakes_20240101-20240131.
func spansInNames(m *maker, folder string, own []string) error {
	s, way := m.newStyle(), m.IntN(len(spans))
	name := []string{"%s %s", "%s_%s", "%s (%s)"}[m.IntN(3)]
	return m.eachMonth(&s, own, func(_ int, r, month string, rows [][]string) error {
		return m.write("raw/"+folder+"/"+fmt.Sprintf(name, r, spanOf(month, way))+".csv", s.text(rows))
	})
}

// spansInTitles is a numbered file a region and month, with lines above the table that say of which: Period: 01.01.2024 - 31.01.2024.
func spansInTitles(m *maker, folder string, own []string) error {
	s, way := m.newStyle(), m.IntN(len(spans))
	line := []string{"Period: ", "Zeitraum: ", "Sales from "}[m.IntN(3)]
	return m.eachMonth(&s, own, func(n int, r, month string, rows [][]string) error {
		head := [][]string{{"Halyard & Moss"}, {s.coast + r}, {line + spanOf(month, way)}, {}}
		return m.write(fmt.Sprintf("raw/%s/export (%d).csv", folder, n), s.text(append(head, rows...)))
	})
}
