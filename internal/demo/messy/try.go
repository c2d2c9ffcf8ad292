package messy

import (
	"context"
	"encoding/csv"
	"fmt"
	"math/rand/v2"
	"os"
	"path/filepath"
	"slices"
	"strings"

	"umbau/internal/core/draft"
	build "umbau/internal/core/fact"
	"umbau/internal/core/key"
	"umbau/internal/core/place"
	"umbau/internal/core/plan"
	"umbau/internal/core/since"
	"umbau/internal/format"
)

// Outcome is what comes of a drafted plan.
type Outcome string

// The outcomes.
const (
	Exact Outcome = "exact"
	Stops Outcome = "stops"
	Wrong Outcome = "WRONG"
)

// Tried is what came of one delivery.
type Tried struct {
	Outcome Outcome
	Why     string
	About   []string
}

// Asked is which columns a draft is asked for.
type Asked int

// What a draft may be asked for.
const (
	All  Asked = iota // all that the truth has
	None              // nothing is said
	Some              // some of them, and coarser times
)

// Try makes a delivery in a folder, drafts its plan, builds with it, and compares.
func Try(ctx context.Context, dir string, seed uint64, hard int, asked Asked) Tried {
	var own *unwanted
	r := rand.New(rand.NewPCG(seed, 99))
	if asked == Some {
		own = &unwantedOf[r.IntN(len(unwantedOf))]
	}
	d, err := makeWith(dir, seed, hard, own)
	if err != nil {
		return Tried{Stops, "not made: " + err.Error(), nil}
	}
	if asked == Some {
		d.narrow(r)
	}
	p, tried := d.draft(ctx, dir, asked)
	if p != nil {
		tried = d.build(ctx, p, asked)
	}
	return tried
}

// tryTwice drafts a plan for a delivery to which something was done, and builds with it; with later that is done when the plan is drafted,
// if it builds exactly what it should.
func tryTwice(ctx context.Context, dir string, asked Asked, later bool, make func(done bool) (*Delivery, error)) Tried {
	d, err := make(!later)
	if err != nil {
		return Tried{Stops, "not made: " + err.Error(), nil}
	}
	p, tried := d.draft(ctx, dir, asked)
	if p == nil {
		return tried
	}
	if tried = d.build(ctx, p, asked); !later || tried.Outcome != Exact {
		return tried
	}
	if d, err = make(true); err != nil {
		return Tried{Stops, "not made: " + err.Error(), nil}
	}
	return d.build(ctx, p, asked)
}

// draft drafts a plan for a delivery in a folder; nil where there is none that can be built with.
func (d *Delivery) draft(ctx context.Context, dir string, asked Asked) (*plan.Plan, Tried) {
	o := draft.Options{Paths: []string{dir}, Dir: dir, Formats: format.All(), Workers: 2}
	if asked != None {
		o.Columns = d.Columns
	}
	drafted, err := draft.Draft(ctx, o)
	if err != nil {
		return nil, Tried{Stops, "not drafted: " + err.Error(), d.About}
	}
	file := filepath.Join(dir, "umbau.yaml")
	for _, b := range drafted.Books {
		book := filepath.Join(dir, filepath.FromSlash(b.File))
		_ = os.MkdirAll(filepath.Dir(book), 0o777)
		_ = os.WriteFile(book, b.Text, 0o666)
	}
	_ = os.WriteFile(file, []byte(drafted.Text), 0o666)
	if len(drafted.Missing) > 0 {
		return nil, Tried{Stops, "no source for " + strings.Join(drafted.Missing, ", "), d.About}
	}
	p, err := plan.Read(file, []byte(drafted.Text), format.All())
	if err != nil {
		return nil, Tried{Stops, err.Error(), d.About}
	}
	return p, Tried{}
}

// build builds with a plan, and compares.
func (d *Delivery) build(ctx context.Context, p *plan.Plan, asked Asked) Tried {
	s, err := build.Build(ctx, p, build.Options{Workers: 2})
	if err != nil {
		return Tried{Stops, err.Error(), d.About}
	}
	if s.ExitCode() != 0 {
		return Tried{Stops, s.Problems[0].What + ": " + s.Problems[0].Message, d.About}
	}
	held := s.Rows().Held
	switch why := d.compare(p.At("out/sales.csv"), asked); {
	case why == "":
	case held > 0 && s.FactRows < len(d.Rows) && s.FactRows+held >= len(d.Rows) && strings.HasSuffix(why, fmt.Sprintf("not %d", len(d.Rows))):
		return Tried{Stops, "holds " + why, d.About}
	case held > d.Held:
		return Tried{Stops, "holds more: " + why, d.About}
	case slices.ContainsFunc(s.Warnings, func(w place.Problem) bool { return w.What == "section rows" || w.What == "no sales" || d.Damaged }):
		return Tried{Stops, "tells: " + s.Warnings[0].Message + ": " + why, d.About}
	case d.Stray != "" && slices.ContainsFunc(s.Warnings, func(w place.Problem) bool { return strings.Contains(w.Error(), d.Stray) }):
		return Tried{Stops, "tells of " + d.Stray + ": " + why, d.About}
	case d.Later && slices.ContainsFunc(s.Since.Changes, func(c since.Change) bool { return c.What == since.Value }):
		return Tried{Stops, "tells of new values: " + why, d.About}
	case len(s.Since.Alike) > 0:
		return Tried{Stops, "tells of new texts like others: " + why, d.About}
	default:
		return Tried{Wrong, why, d.About}
	}
	return Tried{Exact, "", d.About}
}

// compare says how a table differs from what it must be; "" where it does not. Without asked
// columns they may stand in any order, under other names.
func (d *Delivery) compare(file string, asked Asked) string {
	text, err := os.ReadFile(file)
	if err != nil {
		return err.Error()
	}
	rows, err := csv.NewReader(strings.NewReader(string(text))).ReadAll()
	if err != nil {
		return err.Error()
	}
	if asked != None && !slices.Equal(rows[0], d.Columns) {
		return fmt.Sprintf("columns %v, not %v", rows[0], d.Columns)
	}
	if asked == Some {
		return d.compareSums(rows[1:])
	}
	line := func(row []string) string {
		row = keysOf(row)
		if asked == None {
			row = slices.Sorted(slices.Values(row))
		}
		return strings.Join(row, "|")
	}
	count := map[string]int{}
	for _, r := range d.Rows {
		count[line(r)]++
	}
	for _, r := range rows[1:] {
		if count[line(r)]--; count[line(r)] < 0 {
			return fmt.Sprintf("%d rows, not %d; there should be no %s", len(rows)-1, len(d.Rows), line(r))
		}
	}
	if len(rows)-1 != len(d.Rows) {
		return fmt.Sprintf("%d rows, not %d", len(rows)-1, len(d.Rows))
	}
	return ""
}

// keysOf are the cells of a row as they are compared: which spelling stands is a matter of counting.
func keysOf(row []string) []string {
	row = slices.Clone(row)
	for i := range row {
		if !strings.ContainsAny(row[i], "0123456789") {
			row[i] = key.Of(row[i])
		}
	}
	return row
}
