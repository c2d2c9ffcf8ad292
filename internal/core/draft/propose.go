package draft

import (
	"slices"
	"strings"

	"umbau/internal/core/key"
)

// proposeColumns names the columns of the finished table by what the extracts have.
func (d *drafter) proposeColumns() (out []string) {
	byClass := map[class][]string{}
	var others []string
	for _, e := range d.entries {
		for _, s := range e.sheets {
			for _, i := range s.labels() {
				h := s.Fields[i].Header
				switch c := classOf(h); {
				case c == aside:
				case c != noClass:
					byClass[c] = append(byClass[c], h)
				case !s.numeric(i):
					others = append(others, h)
				}
			}
			if len(s.wide) == 0 {
				continue
			}
			switch t := s.wideTime(); {
			case s.rows == 2:
				for _, i := range s.wide {
					for _, part := range strings.Split(s.Fields[i].Header, " | ") {
						if c := classOf(part); c.ofMeasure() {
							byClass[c] = append(byClass[c], part)
						}
					}
				}
				byClass[product] = append(byClass[product], "item")
			case t != noClass:
				byClass[t] = append(byClass[t], string(t))
				byClass[amount] = append(byClass[amount], "amount")
			default:
				byClass[product] = append(byClass[product], "item")
				byClass[amount] = append(byClass[amount], "amount")
			}
		}
		for _, p := range e.pieces {
			if p.time != noClass {
				byClass[p.time] = append(byClass[p.time], string(p.time))
			} else if p.varies() && len(p.values) > 0 {
				byClass[region] = append(byClass[region], "region")
			}
		}
	}
	for _, c := range []class{region, year, branch, day, month, quarter, product, quantity, amount} {
		if c == year && (len(byClass[month]) > 0 || len(byClass[day]) > 0) {
			continue
		}
		if list := byClass[c]; len(list) > 0 {
			out = append(out, snake(commonest(list)))
		}
	}
	for _, h := range others {
		if name := snake(h); name != "" && !slices.Contains(out, name) {
			out = append(out, name)
		}
	}
	return out
}

// commonest is the text that stands most often by its key, in the spelling seen first.
func commonest(list []string) string {
	count, best := map[string]int{}, ""
	for _, t := range list {
		k := key.Of(t)
		if count[k]++; best == "" || count[k] > count[key.Of(best)] {
			best = t
		}
	}
	return best
}

// snake is a header as the name of a column: small letters, with low lines.
func snake(header string) string { return strings.ReplaceAll(key.Of(header), " ", "_") }
