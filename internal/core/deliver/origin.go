package deliver

import (
	"umbau/internal/core/pass"
	"umbau/internal/core/place"
	"umbau/internal/core/plan"
	"umbau/internal/core/table"
	"umbau/internal/core/value"
)

const originRow = 2

// Keeper puts the fact rows of a pass into a sink, which has begun.
type Keeper struct {
	Sink   table.Sink
	Origin bool        // with columns that say where each row comes from
	Failed func(error) // hears why rows could not be put; none are put any more then
	failed bool
}

// part gives the rows of a block to a part of the sink.
type part struct {
	to     *Keeper
	sink   table.SinkPart
	batch  table.Batch // with what the block does not have
	origin *origin
}

// Part implements pass.Keeper.
func (k *Keeper) Part() pass.Part {
	p := &part{to: k, sink: k.Sink.Part()}
	if k.Origin {
		p.origin = &origin{}
	}
	return p
}

// See implements pass.Part.
func (p *part) See(b *pass.Block) {
	p.batch = *b.Batch
	p.batch.Where, p.batch.Extract = b.At, b.Extract
	if p.origin != nil {
		p.batch.Columns = append(p.batch.Columns[:len(p.batch.Columns):len(p.batch.Columns)], p.origin.columns(b)...)
	}
	p.sink.Encode(&p.batch)
}

// Take implements pass.Part.
func (p *part) Take() {
	if p.to.failed {
		return
	}
	if err := p.sink.Put(); err != nil {
		p.to.failed = true
		p.to.Failed(err)
	}
}

// origin makes the columns that say where rows come from.
type origin struct {
	texts   [3]*table.Dict // file, sheet, header
	codes   [3][]uint32
	numbers []table.Number
}

func (o *origin) columns(b *pass.Block) []table.Column {
	text := func(i int, level table.Level, texts ...string) table.Column {
		if o.texts[i] == nil || o.texts[i].Full() {
			o.texts[i] = table.NewDict()
		}
		o.codes[i] = o.codes[i][:0]
		for _, text := range texts {
			code, fresh := o.texts[i].Code([]byte(text))
			if fresh {
				o.texts[i].SetOut(code, text)
			}
			o.codes[i] = append(o.codes[i], code)
		}
		return table.Column{Level: level, Codes: o.codes[i], Texts: o.texts[i]}
	}
	o.numbers = o.numbers[:0]
	for row := range b.Batch.Rows {
		o.numbers = append(o.numbers, table.Number{Coef: int64(b.Line(row)), Form: table.Print})
	}
	return []table.Column{
		text(0, table.PerExtract, b.Input.File), text(1, table.PerExtract, b.Input.Sheet),
		{Level: table.PerRow, Numbers: o.numbers}, text(2, table.PerSlot, b.Input.Slots...),
	}
}

// OriginKinds are which of the columns that say where a row comes from have numbers.
func OriginKinds() []bool {
	out := make([]bool, len(plan.OriginColumns))
	out[originRow] = true
	return out
}

// AddOrigin puts where a row comes from into the columns from one on of the row under way.
func AddOrigin(to *table.Builder, first int, at place.Place) {
	to.Text(first, []byte(at.File))
	to.Text(first+1, []byte(at.Sheet))
	to.Number(first+originRow, value.NewDecimal(int64(at.Row), 0))
	to.Text(first+3, []byte(at.Header))
}
