package keep

import (
	"umbau/internal/core/pass"
	"umbau/internal/core/record"
	"umbau/internal/core/treat"
)

// Lines writes the lines of the record that come with the rows: what was changed, held and
// left out.
type Lines struct {
	to    *record.Files
	heads map[Above]bool
}

// NewLines writes to the files of a record.
func NewLines(to *record.Files) *Lines { return &Lines{to: to, heads: map[Above]bool{}} }

type linesPart struct {
	to      *Lines
	encoder record.Encoder
	extract int
	heads   []treat.Change
	lines   [][]byte // of heads
	changes []byte
	held    []byte
	leftOut []byte
}

// Part implements pass.Keeper.
func (k *Lines) Part() pass.Part { return &linesPart{to: k} }

// See implements pass.Part.
func (p *linesPart) See(b *pass.Block) {
	p.extract, p.heads, p.lines = b.Extract, append(p.heads[:0], b.HeadChanges...), p.lines[:0]
	for i := range p.heads {
		p.lines = append(p.lines, p.encoder.HeadChange(nil, b.Outcome, &p.heads[i]))
	}
	p.changes = p.encoder.Changes(p.changes[:0], b.Outcome)
	p.held = p.encoder.Held(p.held[:0], b.Outcome)
	p.leftOut = p.encoder.LeftOut(p.leftOut[:0], b.Outcome)
}

// Take implements pass.Part.
func (p *linesPart) Take() {
	for i, c := range p.heads {
		if first(p.to.heads, p.extract, c) {
			p.to.to.Write(record.ChangesFile, p.lines[i])
		}
	}
	p.to.to.Write(record.ChangesFile, p.changes)
	p.to.to.Write(record.HeldFile, p.held)
	p.to.to.Write(record.LeftOutFile, p.leftOut)
}
