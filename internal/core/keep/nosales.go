package keep

import (
	"slices"
	"strings"
	"sync"

	"umbau/internal/core/pass"
	"umbau/internal/core/place"
	"umbau/internal/core/plan"
	"umbau/internal/core/table"
	"umbau/internal/core/terms"
	"umbau/internal/core/value"
)

// NoSales finds delivered fact rows whose labels say that their figures stand beside sales, or may be none: averages, the
// year before, what was planned.
type NoSales struct {
	List []NoSale // in the order in which they came

	columns []int               // of the plan: labels that no book knows
	at      map[noSaleLabel]int // in the list
	many    map[int]int         // of a column

	known dictCodes // the codes of the labels
	slots dictCodes // the same of wide headers that say no more than which figures stand below them
}

// NoSale is such a label of a column of the plan.
type NoSale struct {
	Column int
	Label  string
	Rows   int
	First  place.Place
	Wide   bool // it stands in a wide header
	Whole  bool // it is said of a whole extract, by its path, its sheet or a title
	More   bool // the first of those of its column that are too many to be told
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

// mostNoSales is how many of them are kept of a column: the first ones, however the extracts are cut into blocks, and one
// more, which says that there are more.
const mostNoSales = 10 + 1

// noSaleLabel is what tells one from the others.
type noSaleLabel struct {
	column int
	label  string
}

// noSalesPart looks at blocks.
type noSalesPart struct {
	to      *NoSales
	ofBlock []uint32 // codes of a loose dictionary that are found
	found   NoSales  // of the block
}

// dictCodes are codes of dictionaries that are found, by the number of each. Parts share them, so that each text is looked at
// once: a dictionary is its worker's, which shows blocks to one part at a time.
type dictCodes struct {
	mutex sync.Mutex
	of    map[uint64]*foundCodes
}

// foundCodes are the codes of a dictionary that are found, among so many that were looked at.
type foundCodes struct {
	looked uint32
	codes  []uint32 // ascending
}

// mostDicts is how many dictionaries are remembered: more than workers have at once.
const mostDicts = 4096

// Part implements pass.Keeper.
func (k *NoSales) Part() pass.Part { return &noSalesPart{to: k} }

// See implements pass.Part.
func (p *noSalesPart) See(b *pass.Block) {
	p.found.List = p.found.List[:0]
	clear(p.found.at)
	for _, ci := range p.to.columns {
		_, set := b.Input.Entry.Set[b.Program.Plan.Columns[ci].Name]
		if out := &b.Batch.Columns[ci]; out.Texts != nil && !(set && out.Level == table.PerExtract) {
			codes := p.codesOf(out)
			if out.Level == table.PerSlot {
				codes = p.withFigures(out, codes)
			}
			if len(codes) > 0 {
				p.look(b, ci, codes)
			}
		}
	}
}

// codesOf are the codes of a column that are found: all of its dictionary, or, where each text has a code of its own
// and the next block has others, those of the block.
func (p *noSalesPart) codesOf(c *table.Column) []uint32 {
	d := c.Texts
	if d.Loose() {
		p.ofBlock = p.ofBlock[:0]
		for i, code := range c.Codes {
			if (i == 0 || code != c.Codes[i-1]) && value.NoSale(value.TrimText(d.Seen(code))) {
				p.ofBlock = append(p.ofBlock, code)
			}
		}
		slices.Sort(p.ofBlock) // values from above may be older
		return p.ofBlock
	}
	return p.to.known.find(d, value.NoSale)
}

// find returns the codes of a dictionary that are found.
func (k *dictCodes) find(d *table.Dict, is func(label string) bool) []uint32 {
	f := k.dict(d.Number())
	for n := uint32(d.Len()); f.looked < n; f.looked++ {
		if is(value.TrimText(d.Seen(f.looked))) {
			f.codes = append(f.codes, f.looked)
		}
	}
	return f.codes
}

// dict is what was found in a dictionary so far.
func (k *dictCodes) dict(number uint64) *foundCodes {
	k.mutex.Lock()
	defer k.mutex.Unlock()
	f := k.of[number]
	if f == nil {
		if len(k.of) > mostDicts {
			clear(k.of)
		}
		if k.of == nil {
			k.of = map[uint64]*foundCodes{}
		}
		f = &foundCodes{}
		k.of[number] = f
	}
	return f
}

// figuresAcross reports whether a wide header says no more than which figures stand below it, or that they are sums so far.
func figuresAcross(header string) bool {
	return terms.SaysFiguresOnly(header) || terms.SaysSoFar(header)
}

// withFigures adds the codes of wide headers that say no more than which figures stand below them (YTD, Quantity, 2023, Oars to date),
// where most headers beside them say something else: products.
func (p *noSalesPart) withFigures(c *table.Column, codes []uint32) []uint32 {
	figures, n := p.to.slots.find(c.Texts, figuresAcross), 0
	for _, code := range c.Codes {
		if _, ok := slices.BinarySearch(figures, code); ok {
			n++
		}
	}
	if n == 0 || 2*n >= len(c.Codes) {
		return codes
	}
	all := append(slices.Clone(codes), figures...)
	slices.Sort(all)
	return slices.Compact(all)
}

// look looks for the fact rows of a block with such codes.
func (p *noSalesPart) look(b *pass.Block, ci int, codes []uint32) {
	out := &b.Batch.Columns[ci]
	for row, slot := range b.Delivered {
		code := out.Codes[out.At(row, slot, b.Batch.Slots)]
		if _, ok := slices.BinarySearch(codes, code); !ok {
			continue
		}
		label := value.TrimText(out.Texts.Seen(code))
		if b.Input.Entry.Labels.None(label) {
			continue
		}
		if i, ok := p.found.at[noSaleLabel{ci, label}]; ok {
			p.found.List[i].Rows++
			continue
		}
		n := NoSale{Column: ci, Label: strings.Clone(label), Rows: 1, First: b.Input.Place(), Wide: out.Level == table.PerSlot}
		n.First.Row, n.First.Header = b.LineOf(ci, row), b.Program.LabelHeader(ci)
		if n.Wide {
			n.First.Header = n.Label
		}
		if n.Whole = out.Level == table.PerExtract; n.Whole {
			n.First = b.Input.Place()
		}
		p.found.add(n)
	}
}

// Take implements pass.Part.
func (p *noSalesPart) Take() { p.to.addAll(p.found.List) }

// add adds one that is not in the list.
func (k *NoSales) add(n NoSale) {
	if k.at == nil {
		k.at, k.many = map[noSaleLabel]int{}, map[int]int{}
	}
	k.many[n.Column]++
	k.at[noSaleLabel{n.Column, n.Label}] = len(k.List)
	k.List = append(k.List, n)
}

// addAll adds those of what comes next.
func (k *NoSales) addAll(list []NoSale) {
	for _, n := range list {
		if i, ok := k.at[noSaleLabel{n.Column, n.Label}]; ok {
			k.List[i].Rows += n.Rows
		} else if many := k.many[n.Column]; many < mostNoSales {
			n.More = many+1 == mostNoSales
			k.add(n)
		}
	}
}

// Merge implements pass.Portable.
func (k *NoSales) Merge(other pass.Keeper) { k.addAll(other.(*NoSales).List) }
