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
	bytes int64 // of changes
	lines []HeadLine
}

// HeadLine is a line among the changes that stands there once an extract.
type HeadLine struct {
	Above Above
	At    int64 // where it begins
	Bytes int64
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
		above := aboveOf(p.extract, c)
		if k := p.to; !k.heads[above] {
			k.heads[above] = true
			k.lines = append(k.lines, HeadLine{above, k.bytes, int64(len(p.lines[i]))})
			k.change(p.lines[i])
		}
	}
	p.to.change(p.changes)
	p.to.to.Write(record.HeldFile, p.held)
	p.to.to.Write(record.LeftOutFile, p.leftOut)
}

// HeadsOf are the lines that may stand in another piece of their extract too.
func (k *Lines) HeadsOf(piece func(extract int) pass.Piece) (out []HeadLine) {
	for _, l := range k.lines {
		if !piece(l.Above.Extract).All() {
			out = append(out, l)
		}
	}
	return out
}

// change writes lines of changes.
func (k *Lines) change(lines []byte) {
	k.bytes += int64(len(lines))
	k.to.Write(record.ChangesFile, lines)
}
