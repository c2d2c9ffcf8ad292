package keep

import (
	"umbau/internal/core/pass"
	"umbau/internal/core/record"
	"umbau/internal/core/tie"
	"umbau/internal/core/treat"
)

// Accounts keeps the account of each extract: its rows, and its amounts by column.
type Accounts struct {
	Extracts []record.Extract       // in the order of the inputs
	Places   []map[int]treat.Places // of each, by column: decimal signs in its cells
}

// NewAccounts keeps the accounts of these inputs.
func NewAccounts(inputs []*pass.Input) *Accounts {
	k := &Accounts{Places: make([]map[int]treat.Places, len(inputs))}
	for _, in := range inputs {
		k.Extracts = append(k.Extracts, record.Extract{File: in.File, Sheet: in.Sheet})
	}
	return k
}

// accountsPart is the account of one block.
type accountsPart struct {
	to       *Accounts
	extract  int
	last     bool
	rows     tie.Rows
	accounts []tie.Account
	places   []treat.Places
	measures []int
}

// Part implements pass.Keeper.
func (k *Accounts) Part() pass.Part { return &accountsPart{to: k} }

// See implements pass.Part.
func (p *accountsPart) See(b *pass.Block) {
	p.extract, p.last, p.rows, p.places, p.measures = b.Extract, b.Last, b.Account, b.Places, b.Program.Measures()
	p.accounts = append(p.accounts[:0], b.Accounts...)
}

// Take implements pass.Part.
func (p *accountsPart) Take() {
	e := &p.to.Extracts[p.extract]
	if p.last { // which knows of a widened extract what no row names
		e.Measures = p.measures
	}
	e.Rows.Merge(p.rows)
	for _, ci := range p.measures {
		e.Account(ci).Merge(&p.accounts[ci])
	}
	p.to.addPlaces(p.extract, p.places)
}

func (k *Accounts) addPlaces(extract int, list []treat.Places) {
	if len(list) > 0 && k.Places[extract] == nil {
		k.Places[extract] = map[int]treat.Places{}
	}
	for _, p := range list {
		s := k.Places[extract][p.Column]
		s.Column = p.Column
		s.Add(p)
		k.Places[extract][p.Column] = s
	}
}

// Merge implements pass.Portable.
func (k *Accounts) Merge(other pass.Keeper) {
	o := other.(*Accounts)
	for i := range o.Extracts {
		e, f := &k.Extracts[i], &o.Extracts[i]
		if f.Measures != nil {
			e.Measures = f.Measures
		}
		e.Rows.Merge(f.Rows)
		for ci, a := range f.Accounts {
			e.Account(ci).Merge(a)
		}
		for _, p := range o.Places[i] {
			k.addPlaces(i, []treat.Places{p})
		}
	}
}
