// Package deliver makes what a plan asks of a delivery beyond the format it is in: rows in
// another order, a file for each value, several tables, metadata beside a text. Each is a
// sink that gives its rows to further sinks; formats know of none of them.
package deliver

import (
	"path/filepath"
	"slices"
	"strings"

	"umbau/internal/core/place"
	"umbau/internal/core/plan"
	"umbau/internal/core/table"
	"umbau/internal/core/whole"
)

// Options are what a delivery is made with.
type Options struct {
	Plan *plan.Plan
	Mark string // with which the names of unfinished files begin
	// Make makes the folder of a file.
	Make func(file string) error
	// Divert, if not nil, says where a file is made that will appear elsewhere.
	Divert func(file string) string
}

// New begins a delivery of a plan. Where it goes to a variable of the environment that is
// not set, or to nowhere, the error is a place.List.
func New(d *plan.Delivery, o Options) (table.Sink, error) {
	to, err := plan.Address(d.To)
	if err != nil {
		return nil, err
	}
	b := &builder{Options: o, of: d, to: to}
	pieces := d.Pieces()
	var s table.Sink
	switch {
	case d.Star != nil:
		s = newStar(b)
	case (len(pieces) > 0 || d.Parts) && !plan.IsAddress(to):
		s = newSplit(b, pieces)
	default:
		if s, err = b.sink(to, d.Table); err != nil {
			return nil, err
		}
	}
	if len(d.Sort) > 0 {
		s = &sorted{to: s, by: d.Sort, plan: o.Plan}
	}
	return s, nil
}

// builder makes the sinks of a delivery.
type builder struct {
	Options
	of *plan.Delivery
	to string // with variables of the environment
}

// sink begins one file or table.
func (b *builder) sink(to, name string) (table.Sink, error) {
	outlet := b.Plan.Formats.OutletOf(to)
	if outlet == nil {
		p := place.At(place.Place{File: plan.Shown(b.of.To)}, "output", "nothing can be delivered there: it is neither a database nor a file "+
			"in a format that is known")
		p.Plan = b.of.Pos
		return nil, place.List{p}
	}
	t := table.Target{To: to, Mark: b.Mark, Title: b.Plan.Title, Table: name, Load: b.of.Load}
	if file, ok := plan.FileOf(to); ok {
		if file = b.Plan.At(file); b.Divert != nil {
			file = b.Divert(file)
		}
		if err := b.Make(file); err != nil {
			return nil, err
		}
		t.To = file
	}
	s, err := outlet.NewSink(t)
	if err != nil {
		return nil, err
	}
	if b.of.Describe {
		return newDescribed(s, t, b.Plan)
	}
	return s, nil
}

// Columns are those of a delivery, as a batch of fact rows with the columns of the plan,
// and behind them those of origin, has them.
func Columns(p *plan.Plan, d *plan.Delivery) (out []table.SinkColumn) {
	add := func(ci int) {
		c := p.Columns[ci]
		out = append(out, table.SinkColumn{Index: ci, Name: c.Name, Is: c.Kind.String(), Decimals: c.Decimals, Note: c.Note,
			Key: slices.Contains(p.Rows.Grain, c.Name), Add: c.Measure()})
	}
	if len(d.Columns) > 0 {
		for _, name := range d.Columns {
			add(p.Index(name))
		}
	} else {
		for _, ci := range p.Kept() {
			add(ci)
		}
	}
	if d.Origin {
		for i, name := range plan.OriginColumns {
			is := "text"
			if i == originRow {
				is = "whole"
			}
			out = append(out, table.SinkColumn{Index: len(p.Columns) + i, Name: name, Is: is, Decimals: -1})
		}
	}
	return out
}

// all are all columns that rows of a delivery have, wanted or not: those by which they are
// sorted and parted among them.
func all(p *plan.Plan, wanted []table.SinkColumn, names []string) []table.SinkColumn {
	out := slices.Clone(wanted)
	for _, name := range names {
		ci := p.Index(name)
		if !slices.ContainsFunc(out, func(c table.SinkColumn) bool { return c.Index == ci }) {
			c := p.Columns[ci]
			out = append(out, table.SinkColumn{Index: ci, Name: c.Name, Is: c.Kind.String(), Decimals: c.Decimals})
		}
	}
	return out
}

// Folders are those in which files of a delivery may be.
func Folders(p *plan.Plan, d *plan.Delivery) (out []string) {
	to, ok := plan.FileOf(d.To)
	if !ok {
		return nil
	}
	for _, name := range d.Pieces() {
		to = strings.Replace(to, "{"+name+"}", "*", 1)
	}
	dir := filepath.Dir(whole.Resolved(p.At(to)))
	if !strings.Contains(dir, "*") {
		return []string{dir}
	}
	found, _ := filepath.Glob(dir) // a path that is no glob has none
	return found
}
