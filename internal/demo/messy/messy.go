// Package messy makes whole deliveries of extracts, and the table that must come of them: the
// tidy table is drawn first, then it is messed up as offices do. It measures how well plans are
// drafted.
package messy

import (
	"bytes"
	"encoding/csv"
	"fmt"
	"math/rand/v2"
	"os"
	"path/filepath"
	"slices"
	"strings"
)

// Delivery is a delivery with its truth.
type Delivery struct {
	Columns []string
	Rows    [][]string // as the finished table has them, in any order
	About   []string   // what was made hard
	Held    int        // rows of which a cell is to be held
	Damaged bool       // its text files are
	Later   bool       // sums came into its tables behind the draft
	Stray   string     // what a file or a sheet that is none of it is called
}

// fact is a row of the truth.
type fact struct {
	region, branch, month, product string
	quantity, amount               int // amounts in cents
	held                           bool
}

// maker makes a delivery.
type maker struct {
	*rand.Rand
	dir      string
	hard     int
	facts    []*fact
	measures int // 1: amounts; 2: quantities too
	months   []string
	about    []string
	files    int
	styles   *rand.Rand // what styles are drawn from; nil for what all is
	changed  func(*style)
	other    func(*fact)                            // what all facts become; nil for what they are
	damage   *damage                                // what becomes of text files; nil for nothing
	hurt     *rand.Rand                             // what that is drawn from
	bind     func(s *style, rows [][]string) []byte // makes a workbook of what would be a text file; nil for none
	unwanted *unwanted                              // what stands in the columns that nobody wants; nil for who entered the row
}

// Make makes a delivery in a folder: the harder, the more layouts and the more mess.
func Make(dir string, seed uint64, hard int) (*Delivery, error) {
	return makeWith(dir, seed, hard, nil)
}

func makeWith(dir string, seed uint64, hard int, unwanted *unwanted) (*Delivery, error) {
	return newMaker(dir, seed, hard, unwanted).make(nil)
}

func newMaker(dir string, seed uint64, hard int, unwanted *unwanted) *maker {
	return &maker{Rand: rand.New(rand.NewPCG(seed, uint64(hard))), dir: dir, hard: hard, measures: 1, unwanted: unwanted}
}

// make makes a delivery, or, with a change, one of months and next months.
func (m *maker) make(c *change) (*Delivery, error) {
	if m.hard > 0 && m.IntN(3) == 0 {
		m.measures = 2
	}
	own := m.draw()
	layouts := 1 + m.IntN(1+m.hard)
	list := slices.Clone(layoutsOf)
	if m.measures == 2 {
		list = slices.Clone(layoutsOfTwo)
	}
	m.Shuffle(len(list), func(i, k int) { list[i], list[k] = list[k], list[i] })
	layouts = min(layouts, len(list), len(own))
	if c != nil {
		own = m.later(c, own)
	}
	for _, f := range m.facts {
		if m.other != nil {
			m.other(f)
		}
	}
	groups := make([][]string, layouts) // regions by layout
	for i, r := range own {
		groups[i%layouts] = append(groups[i%layouts], r)
	}
	for i, g := range groups {
		if c != nil {
			m.Rand = rand.New(rand.NewPCG(c.seed, uint64(i))) // whatever is drawn for more rows, the office writes as before
			m.styles = rand.New(rand.NewPCG(c.seed, 1000+uint64(i)))
			if c.style >= 0 {
				m.changed = changedStyles[c.style]
			}
		}
		if err := list[i].write(m, fmt.Sprintf("office %c", 'a'+i), g); err != nil {
			return nil, err
		}
		m.about = append(m.about, list[i].name)
	}
	if err := m.beside(); err != nil {
		return nil, err
	}
	return m.truth(), nil
}

// draw draws the tidy table, and returns its regions.
func (m *maker) draw() []string {
	own := slices.Clone(regions)
	m.Shuffle(len(own), func(i, k int) { own[i], own[k] = own[k], own[i] })
	own = own[:2+m.IntN(3)]
	shops := slices.Clone(branches)
	m.Shuffle(len(shops), func(i, k int) { shops[i], shops[k] = shops[k], shops[i] })
	goods := slices.Clone(products)
	m.Shuffle(len(goods), func(i, k int) { goods[i], goods[k] = goods[k], goods[i] })
	goods = goods[:3+m.IntN(4)]
	year, first := 2022+m.IntN(3), 1+m.IntN(6)
	for y := range 1 + m.IntN(2) {
		for k := range 3 + m.IntN(3) {
			m.months = append(m.months, fmt.Sprintf("%d-%02d", year+y, first+k))
		}
	}
	for i, r := range own {
		for _, b := range shops[3*i%len(shops):][:2+m.IntN(2)] {
			for _, month := range m.months {
				for _, p := range goods {
					m.facts = append(m.facts, &fact{region: r, branch: b, month: month, product: p, quantity: 1 + m.IntN(400),
						amount: 100 + m.IntN(900_000)})
				}
			}
		}
	}
	return own
}

// truth is the table that must come of the delivery.
func (m *maker) truth() *Delivery {
	d := &Delivery{Columns: []string{"region", "branch", "month", "product"}, About: m.about}
	if m.measures == 2 {
		d.Columns = append(d.Columns, "quantity")
	}
	d.Columns = append(d.Columns, "amount")
	for _, f := range m.facts {
		if f.held {
			d.Held++
			continue
		}
		row := []string{f.region, f.branch, f.month, f.product}
		if m.measures == 2 {
			row = append(row, fmt.Sprint(f.quantity))
		}
		sign, n := "", f.amount
		if n < 0 {
			sign, n = "-", -n
		}
		d.Rows = append(d.Rows, append(row, fmt.Sprintf("%s%d.%02d", sign, n/100, n%100)))
	}
	return d
}

// of are the facts of some regions.
func (m *maker) of(keep func(*fact) bool) (out []*fact) {
	for _, f := range m.facts {
		if keep(f) {
			out = append(out, f)
		}
	}
	return out
}

// write writes a file.
func (m *maker) write(name string, text []byte) error {
	file := filepath.Join(m.dir, filepath.FromSlash(called(name, text)))
	if err := os.MkdirAll(filepath.Dir(file), 0o777); err != nil {
		return err
	}
	m.files++
	return os.WriteFile(file, text, 0o666)
}

// called is the name of a text file, or of a workbook that stands in its place.
func called(name string, text []byte) string {
	if stem, ok := strings.CutSuffix(name, ".csv"); ok && bytes.HasPrefix(text, []byte("PK")) {
		return stem + ".xlsx"
	}
	return name
}

// beside writes what is no extract: notes, control totals, a book.
func (m *maker) beside() error {
	if m.hard > 0 && m.IntN(2) == 0 {
		if err := m.write("readme.txt", []byte("Halyard & Moss\n\nThe files of the coasts come on the third working day.\n")); err != nil {
			return err
		}
	}
	if m.hard == 0 || m.IntN(3) > 0 {
		return nil
	}
	m.about = append(m.about, "control file")
	sums, order := map[string]int{}, []string{}
	for _, f := range m.facts {
		if f.held {
			continue
		}
		if _, known := sums[f.region]; !known {
			order = append(order, f.region)
		}
		sums[f.region] += f.amount
	}
	slices.Sort(order)
	for _, f := range m.facts {
		if f.held { // the office knows better, and its total does not agree
			return nil
		}
	}
	var b bytes.Buffer
	w := csv.NewWriter(&b)
	_ = w.Write([]string{"Region", "Amount"})
	for _, r := range order {
		_ = w.Write([]string{r, fmt.Sprintf("%d.%02d", sums[r]/100, sums[r]%100)})
	}
	w.Flush()
	return m.write("control/region totals.csv", b.Bytes())
}
