// Package report makes the page that shows a build to those who never open a terminal: one HTML
// file that asks nobody for anything. Its figures come from two sides: the record says what was
// read, changed, held and left out, and the delivered rows, added up by all their labels, are
// what the cross table and the charts are drawn from.
//
// Texts of extracts never become markup: the page is written by html/template, and what its
// program reads is packed.
package report

import (
	"bufio"

	"umbau/internal/core/cube"
	"umbau/internal/core/table"
	"umbau/internal/core/whole"
)

// Format is the page as a delivery.
var Format = table.Format{Outlets: []table.Outlet{{Ending: ".html", Page: true, NewSink: func(t table.Target) (table.Sink, error) {
	return New(t)
}}}}

// Page is a page under way. It is a sink: of the rows that it takes it keeps sums.
type Page struct {
	title string
	file  *whole.File
	cube  *cube.Cube
	told  table.Told
}

// New begins a page.
func New(t table.Target) (*Page, error) {
	f, err := whole.Create(t.To, t.Mark)
	if err != nil {
		return nil, err
	}
	return &Page{title: t.Title, file: f}, nil
}

// Begin implements table.Sink.
func (p *Page) Begin(columns []table.SinkColumn) error {
	p.cube = cube.New(columns, cube.MostGroups)
	return nil
}

// part gives blocks to the cube.
type part struct{ of *cube.Part }

// Part implements table.Sink.
func (p *Page) Part() table.SinkPart { return part{p.cube.Part()} }

// Encode implements table.SinkPart.
func (p part) Encode(b *table.Batch) { p.of.See(b) }

// Put implements table.SinkPart.
func (p part) Put() error {
	p.of.Take()
	return nil
}

// Tell implements table.Telling.
func (p *Page) Tell(t table.Told) { p.told = t }

// End writes the page.
func (p *Page) End() ([]table.Written, error) {
	a, err := readAccount(p.told)
	if err != nil {
		return nil, err
	}
	a.Title = p.title
	var sums *cube.Result
	if p.cube != nil && a.Exit == 0 {
		sums = p.cube.Result()
	}
	w := bufio.NewWriterSize(p.file, 1<<16)
	if err := write(w, a, sums); err != nil {
		return nil, err
	}
	if err := w.Flush(); err != nil {
		return nil, err
	}
	if err := p.file.Finish(); err != nil {
		return nil, err
	}
	return []table.Written{{File: p.file.Temp, Bytes: p.file.Bytes, Rows: -1}}, nil
}

// Publish implements table.Sink.
func (p *Page) Publish() error { return p.file.Publish() }

// Abandon implements table.Sink.
func (p *Page) Abandon() { p.file.Abandon() }
