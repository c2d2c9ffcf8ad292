package keep

import (
	"slices"
	"strings"

	"umbau/internal/core/pass"
	"umbau/internal/core/place"
	"umbau/internal/core/plan"
	"umbau/internal/core/table"
	"umbau/internal/core/value"
)

// NoSales finds delivered fact rows whose labels say that their figures stand beside sales, or may be none: averages, the
// year before, what was planned.
type NoSales struct {
	List []NoSale // in the order in which they came

	columns []int // of the plan: labels that no book knows
}

// NoSale is such a label of a column of the plan.
type NoSale struct {
	Column int
	Label  string
	Rows   int
	First  place.Place
	Wide   bool // it stands in a wide header
}

// NewNoSales looks at the labels of a plan. Those of which an entry says that they are no totals are sales, too.
func NewNoSales(p *plan.Plan) *NoSales {
	k := &NoSales{}
	for ci, c := range p.Columns {
		if (c.Kind == plan.Text || c.Kind == plan.Name) && c.Book == "" && c.Kept && !c.Made() {
			k.columns = append(k.columns, ci)
		}
	}
	return k
}

// mostLabels is up to how many labels of a dictionary are looked at: those of very many are no names of rows.
const mostLabels = 1024

// noSalesPart looks at blocks; labels are looked at once.
type noSalesPart struct {
	to    *NoSales
	known map[uint64]*noSaleCodes // by dictionary
	found []NoSale                // of the block
}

// noSaleCodes are the codes of a dictionary that are found, among so many that were looked at.
type noSaleCodes struct {
	looked uint32
	codes  []uint32
}

// Part implements pass.Keeper.
func (k *NoSales) Part() pass.Part { return &noSalesPart{to: k, known: map[uint64]*noSaleCodes{}} }

// See implements pass.Part.
func (p *noSalesPart) See(b *pass.Block) {
	p.found = p.found[:0]
	for _, ci := range p.to.columns {
		if out := &b.Batch.Columns[ci]; out.Texts != nil && out.Level != table.PerExtract && !out.Texts.Loose() {
			if codes := p.codesOf(out.Texts); len(codes) > 0 {
				p.look(b, ci, codes)
			}
		}
	}
}

// codesOf are the codes of a dictionary that are found.
func (p *noSalesPart) codesOf(d *table.Dict) []uint32 {
	k := p.known[d.Number()]
	if k == nil {
		if len(p.known) > 64 {
			clear(p.known)
		}
		k = &noSaleCodes{}
		p.known[d.Number()] = k
	}
	for n := min(uint32(d.Len()), mostLabels); k.looked < n; k.looked++ {
		if value.NoSale(value.TrimText(d.Seen(k.looked))) {
			k.codes = append(k.codes, k.looked)
		}
	}
	return k.codes
}

// look looks for the fact rows of a block with such codes.
func (p *noSalesPart) look(b *pass.Block, ci int, codes []uint32) {
	out := &b.Batch.Columns[ci]
	for row, slot := range b.Delivered {
		code := out.Codes[out.At(row, slot, b.Batch.Slots)]
		if !slices.Contains(codes, code) {
			continue
		}
		label := value.TrimText(out.Texts.Seen(code))
		if b.Input.Entry.Labels.None(label) {
			continue
		}
		i := slices.IndexFunc(p.found, func(n NoSale) bool { return n.Column == ci && n.Label == label })
		if i < 0 {
			at := b.Input.Place()
			at.Row, at.Header = b.LineOf(ci, row), b.Program.LabelHeader(ci)
			i = len(p.found)
			n := NoSale{Column: ci, Label: strings.Clone(label), First: at, Wide: out.Level == table.PerSlot}
			if n.Wide {
				n.First.Header = n.Label
			}
			p.found = append(p.found, n)
		}
		p.found[i].Rows++
	}
}

// Take implements pass.Part.
func (p *noSalesPart) Take() { p.to.add(p.found) }

func (k *NoSales) add(list []NoSale) {
	for _, n := range list {
		i := slices.IndexFunc(k.List, func(o NoSale) bool { return o.Column == n.Column && o.Label == n.Label })
		if i < 0 {
			k.List = append(k.List, n)
		} else {
			k.List[i].Rows += n.Rows
		}
	}
}

// Merge implements pass.Portable.
func (k *NoSales) Merge(other pass.Keeper) { k.add(other.(*NoSales).List) }
