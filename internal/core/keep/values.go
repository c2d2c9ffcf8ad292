package keep

import (
	"slices"
	"strings"

	"umbau/internal/core/pass"
	"umbau/internal/core/plan"
	"umbau/internal/core/table"
)

// Values are the texts that the fact table has in columns of text, of those that have few, and the first and the last
// of its dates.
type Values struct{ List []ColumnValues }

// ColumnValues are the texts of a column, or its span of time.
type ColumnValues struct {
	Column int      // of the plan
	Many   bool     // there are too many to be kept
	Texts  []string // in the order in which they came; none where there are many, or dates

	Dates       bool
	First, Last string // of dates, months, quarters or years as they are delivered; empty where there is none

	has map[string]bool
}

// mostValues is how many texts of a column are few.
const mostValues = 1000

// NewValues looks at the delivered columns of text and of time that come from extracts.
func NewValues(p *plan.Plan) *Values {
	k := &Values{}
	for ci, c := range p.Columns {
		if (c.Kind == plan.Text || c.Kind.Dated()) && c.Kept && !c.Made() {
			k.List = append(k.List, ColumnValues{Column: ci, Dates: c.Kind.Dated()})
		}
	}
	return k
}

// add adds a text. It reports whether it changed anything: not what is there, or within the span, nor one more of many.
func (c *ColumnValues) add(text string) bool {
	if c.Dates {
		within := c.First != "" && c.First <= text && text <= c.Last
		if c.First == "" || text < c.First {
			c.First = text
		}
		c.Last = max(c.Last, text)
		return !within
	}
	if c.Many || c.has[text] {
		return false
	}
	if len(c.Texts) == mostValues {
		*c = ColumnValues{Column: c.Column, Many: true}
		return true
	}
	if c.has == nil {
		c.has = map[string]bool{}
	}
	c.has[text], c.Texts = true, append(c.Texts, text)
	return true
}

// Merge implements pass.Portable.
func (k *Values) Merge(other pass.Keeper) {
	for i, c := range other.(*Values).List {
		if c.Many {
			k.List[i] = c
		}
		for _, text := range append(c.Texts, c.First, c.Last) {
			if text != "" {
				k.List[i].add(text)
			}
		}
	}
}

// valuesPart looks at blocks: of each dictionary once at each code that stands in a delivered fact row.
type valuesPart struct {
	to    *Values
	seen  []map[uint64][]bool // by column, dictionary and code
	known Values              // to the part
	fresh [][]string          // by column: of the block
}

// Part implements pass.Keeper.
func (k *Values) Part() pass.Part {
	p := &valuesPart{to: k, fresh: make([][]string, len(k.List))}
	for _, c := range k.List {
		p.known.List = append(p.known.List, ColumnValues{Column: c.Column, Dates: c.Dates})
		p.seen = append(p.seen, map[uint64][]bool{})
	}
	return p
}

// See implements pass.Part.
func (p *valuesPart) See(b *pass.Block) {
	for i := range p.known.List {
		p.fresh[i] = p.fresh[i][:0]
		if known := &p.known.List[i]; !known.Many {
			p.look(i, b.Batch, &b.Batch.Columns[known.Column])
		} else {
			p.fresh[i] = nil
		}
	}
}

// look looks at a column of a block.
func (p *valuesPart) look(i int, b *table.Batch, c *table.Column) {
	if c.Texts == nil {
		return
	}
	known := &p.known.List[i]
	seen := p.seenOf(i, c.Texts)
	for at, code := range c.Codes {
		if seen[code] || !hasDelivered(b, c.Level, at) {
			continue
		}
		seen[code] = true
		if text := strings.Clone(c.Texts.Out(code)); text != "" && known.add(text) {
			p.fresh[i] = append(p.fresh[i], text)
		}
		if known.Many {
			p.seen[i] = nil
			return
		}
	}
}

// seenOf tells which codes of a dictionary were looked at.
func (p *valuesPart) seenOf(i int, d *table.Dict) []bool {
	of := p.seen[i]
	if len(of) > 64 {
		clear(of)
	}
	list := grown(of[d.Number()], d.Len())
	of[d.Number()] = list
	return list
}

// hasDelivered reports whether a delivered fact row has value i of a column of a level.
func hasDelivered(b *table.Batch, l table.Level, i int) bool {
	switch l {
	case table.PerExtract:
		return slices.Contains(b.Fates, table.Delivered)
	case table.PerRow:
		return slices.Contains(b.Fates[i*b.Slots:(i+1)*b.Slots], table.Delivered)
	case table.PerSlot:
		for ; i < len(b.Fates); i += b.Slots {
			if b.Fates[i] == table.Delivered {
				return true
			}
		}
		return false
	}
	return b.Fates[i] == table.Delivered
}

// Take implements pass.Part.
func (p *valuesPart) Take() {
	for i, list := range p.fresh {
		for _, text := range list {
			p.to.List[i].add(text)
		}
	}
}
