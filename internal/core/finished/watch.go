package finished

import (
	"bytes"
	"fmt"

	"umbau/internal/core/layout"
	"umbau/internal/core/pass"
	"umbau/internal/core/value"
)

// watch is the keeper of what a person must know of the rows of a table: those that seem to
// be totals and are added up as data, and headers that stand again and are left out.
type watch struct{ totals, headers seen }

// seen counts rows, and knows the first.
type seen struct {
	rows, first int
	text        string
}

func (s *seen) add(row int, text string) {
	if s.rows++; s.first == 0 {
		s.first, s.text = row, text
	}
}

// watchPart has what one block has of them.
type watchPart struct {
	to              *watch
	totals, headers seen
	words           value.Totals
}

// Part implements pass.Keeper.
func (k *watch) Part() pass.Part { return &watchPart{to: k, words: value.NewTotals(nil, nil)} }

// See implements pass.Part.
func (p *watchPart) See(b *pass.Block) {
	p.totals, p.headers = seen{}, seen{}
	var before []byte
	for _, row := range b.Sorted.Used {
		text := firstFilled(b, int(row))
		if bytes.Equal(text, before) { // its row was no total either
			continue
		}
		if label := string(text); p.words.Alone(label) {
			p.totals.add(b.Rows.Lines[row], label)
			continue
		}
		before = text
	}
	for _, o := range b.Sorted.Out {
		if o.Reason == layout.RepeatedHeader {
			p.headers.add(b.Rows.Lines[o.Row], "")
		}
	}
}

// firstFilled is the first cell of a row that is not blank.
func firstFilled(b *pass.Block, row int) []byte {
	for _, c := range b.Rows.Row(row) {
		if text := value.Trim(b.Rows.Text(c)); len(text) > 0 {
			return text
		}
	}
	return nil
}

// Take implements pass.Part.
func (p *watchPart) Take() {
	for _, pair := range [][2]*seen{{&p.to.totals, &p.totals}, {&p.to.headers, &p.headers}} {
		if to, own := pair[0], pair[1]; own.rows > 0 {
			if to.rows += own.rows; to.first == 0 {
				to.first, to.text = own.first, own.text
			}
		}
	}
}

// remarks say it in words.
func (k *watch) remarks() (out []string) {
	if s := k.totals; s.rows == 1 {
		out = append(out, fmt.Sprintf("row %d is labelled %q: it seems to be a total, and is added up as data; --only leaves it out",
			s.first, s.text))
	} else if s.rows > 1 {
		out = append(out, fmt.Sprintf("%d rows are labelled as totals, such as %q in row %d, and are added up as data; --only leaves them out",
			s.rows, s.text, s.first))
	}
	if s := k.headers; s.rows > 0 {
		out = append(out, fmt.Sprintf("the header stands again in row %d (rows so in all: %d): left out", s.first, s.rows))
	}
	return out
}
