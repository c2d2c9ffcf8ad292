package keep

import (
	"umbau/internal/core/pass"
	"umbau/internal/core/table"
)

// Delivery puts the fact rows of a pass into a sink, which has begun.
type Delivery struct {
	Sink   table.Sink
	Failed func(error) // hears why rows could not be put; none are put any more then
	failed bool
}

type deliveryPart struct {
	to   *Delivery
	part table.SinkPart
}

// Part implements pass.Keeper.
func (k *Delivery) Part() pass.Part { return &deliveryPart{k, k.Sink.Part()} }

// See implements pass.Part.
func (p *deliveryPart) See(b *pass.Block) { p.part.Encode(b.Batch) }

// Take implements pass.Part.
func (p *deliveryPart) Take() {
	if p.to.failed {
		return
	}
	if err := p.part.Put(); err != nil {
		p.to.failed = true
		p.to.Failed(err)
	}
}
