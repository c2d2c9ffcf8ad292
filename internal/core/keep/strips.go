package keep

import (
	"bytes"
	"encoding/gob"

	"umbau/internal/core/pass"
	"umbau/internal/core/treat"
)

// Strips writes down what the blocks of extracts that are read in pieces leave open, by gob.
type Strips struct {
	Write   func([]byte)
	Failed  error
	buffer  bytes.Buffer
	encoder *gob.Encoder
}

// Strip is what a block of an extract leaves open.
type Strip struct {
	Extract int
	treat.Strip
}

type stripsPart struct {
	to    *Strips
	any   bool
	strip Strip
}

// Part implements pass.Keeper.
func (k *Strips) Part() pass.Part { return &stripsPart{to: k} }

// See implements pass.Part.
func (p *stripsPart) See(b *pass.Block) {
	if p.any = b.Strip != nil; p.any {
		p.strip = Strip{b.Extract, *b.Strip}
		p.strip.Hashes = bytes.Clone(b.Strip.Hashes)
		p.strip.Columns = append(p.strip.Columns[:0:0], b.Strip.Columns...)
	}
}

// Take implements pass.Part.
func (p *stripsPart) Take() {
	k := p.to
	if !p.any || k.Failed != nil {
		return
	}
	if k.encoder == nil {
		k.encoder = gob.NewEncoder(&k.buffer)
	}
	k.buffer.Reset()
	if k.Failed = k.encoder.Encode(&p.strip); k.Failed == nil {
		k.Write(k.buffer.Bytes())
	}
}
