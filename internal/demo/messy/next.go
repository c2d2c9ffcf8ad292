package messy

import (
	"context"
	"fmt"
	"math/rand/v2"
	"os"
	"path/filepath"
	"slices"
	"strconv"
)

// change is what the next month brings.
type change struct {
	seed    uint64
	more    bool // a month more
	only    bool // the extracts have that month alone
	product bool // a product more
	branch  bool // a branch more
	region  bool // a region more
	style   int  // in what the offices write otherwise, of changedStyles; -1 for nothing
}

// changedStyles are ways in which offices come to write otherwise.
var changedStyles = []func(s *style){
	func(s *style) { s.numbers = 0 },
	func(s *style) { s.numbers = 1 },
	func(s *style) { s.numbers, s.sign = 2, ';' },
	func(s *style) { s.numbers, s.sign = 3, ';' },
	func(s *style) { s.dates = 0 },
	func(s *style) { s.dates = 1 },
	func(s *style) { s.dates = 2 },
	func(s *style) { s.sign = '\t' },
	func(s *style) { s.encoding = 1 },
	func(s *style) { s.encoding = 2 },
	func(s *style) { s.totals = !s.totals },
	func(s *style) { s.notes = !s.notes },
	func(s *style) { s.titles = !s.titles },
	func(s *style) { s.unwanted = !s.unwanted },
	func(s *style) { s.first = !s.first },
	func(s *style) { s.spell = !s.spell },
	func(s *style) { s.gaps = !s.gaps },
	func(s *style) { s.language = languages[1] },
	func(s *style) { s.language = languages[3] },
}

// later adds to the tidy table what a change brings.
func (m *maker) later(c *change, own []string) []string {
	if !c.more {
		return own
	}
	if c.region {
		own = append(own, another(regions, own))
	}
	last := m.months[len(m.months)-1]
	n, _ := strconv.Atoi(last[5:])
	next := fmt.Sprintf("%s-%02d", last[:4], n+1)
	all := append(slices.Clone(m.months), next)
	goods, shops := distinct(m.facts, productOf), map[string][]string{}
	for _, f := range m.facts {
		if !slices.Contains(shops[f.region], f.branch) {
			shops[f.region] = append(shops[f.region], f.branch)
		}
	}
	if c.product {
		goods = append(goods, another(products, goods))
	}
	if c.branch {
		shops[own[0]] = append(shops[own[0]], another(branches, distinct(m.facts, branchOf)))
	}
	if c.region {
		shops[own[len(own)-1]] = []string{"Customs House", "Old Slip"}
	}
	at := map[string]*fact{}
	for _, f := range m.facts {
		at[f.region+"|"+f.branch+"|"+f.month+"|"+f.product] = f
	}
	m.facts = nil
	r := rand.New(rand.NewPCG(c.seed, 7))
	if m.months = all; c.only {
		m.months = all[len(all)-1:]
	}
	for _, region := range own {
		for _, b := range shops[region] {
			for _, month := range m.months {
				for _, p := range goods {
					f := at[region+"|"+b+"|"+month+"|"+p]
					if f == nil {
						f = &fact{region: region, branch: b, month: month, product: p, quantity: 1 + r.IntN(400), amount: 100 + r.IntN(900_000)}
					}
					m.facts = append(m.facts, f)
				}
			}
		}
	}
	return own
}

// another is the first of a list that is not among those known.
func another(list, known []string) string {
	for _, v := range list {
		if !slices.Contains(known, v) {
			return v
		}
	}
	return "Customs House"
}

// TryNext makes a delivery in a folder, drafts its plan and builds with it; then it puts the next month's in its place and builds
// with the same plan. Where the first build is not exact nothing is said of the next one.
func TryNext(ctx context.Context, dir string, seed uint64, hard int, asked Asked) (first, next Tried) {
	r := rand.New(rand.NewPCG(seed, 77))
	c := change{seed: seed, style: -1, more: true, only: r.IntN(3) == 0, product: r.IntN(3) == 0, branch: r.IntN(4) == 0,
		region: r.IntN(6) == 0}
	if r.IntN(2) == 0 {
		c.style = r.IntN(len(changedStyles))
	}
	d, err := newMaker(dir, seed, hard, nil).make(&change{seed: seed, style: -1})
	if err != nil {
		return Tried{Stops, "not made: " + err.Error(), nil}, Tried{}
	}
	p, first := d.draft(ctx, dir, asked)
	if p != nil {
		first = d.build(ctx, p, asked)
	}
	if first.Outcome != Exact {
		return first, Tried{}
	}
	for _, folder := range []string{"raw", "control"} {
		if err := os.RemoveAll(filepath.Join(dir, folder)); err != nil {
			return first, Tried{Stops, err.Error(), nil}
		}
	}
	if d, err = newMaker(dir, seed, hard, nil).make(&c); err != nil {
		return first, Tried{Stops, "not made: " + err.Error(), nil}
	}
	d.About = append(d.About, fmt.Sprintf("%+v", c))
	return first, d.build(ctx, p, asked)
}
