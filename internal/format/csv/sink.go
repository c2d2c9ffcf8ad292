package csv

import (
	"bytes"
	"fmt"

	"umbau/internal/core/table"
	"umbau/internal/format/lines"
)

// Format is comma text, which is read and delivered.
var Format = formatOf(".csv", lines.Kind{
	Head: func(columns []table.SinkColumn) []byte { return table.AppendLine(nil, namesOf(columns)...) },
	Encoder: func(columns []table.SinkColumn) lines.Encoder {
		var index []int
		for _, c := range columns {
			index = append(index, c.Index)
		}
		return NewEncoder(index)
	},
})

// Tabbed is text with tabs, which is read and delivered.
var Tabbed = formatOf(".tsv", lines.Kind{
	Head: func(columns []table.SinkColumn) (head []byte) {
		for i, name := range namesOf(columns) {
			if i > 0 {
				head = append(head, '\t')
			}
			head, _ = appendPlain(head, []byte(name))
		}
		return append(head, '\n')
	},
	Encoder: func(columns []table.SinkColumn) lines.Encoder { return &tabs{columns: columns} },
	Remark: func(counted int) string {
		return fmt.Sprintf("tabs and line breaks in texts, which stand as spaces: %d", counted)
	},
})

// Others are texts with another delimiter, which are read.
var Others = table.Format{Endings: []string{".txt", ".tab"}}

func formatOf(ending string, kind lines.Kind) table.Format {
	f := kind.Format(ending)
	f.Endings = []string{ending}
	for i := range f.Outlets {
		f.Outlets[i].Text = true
	}
	return f
}

func namesOf(columns []table.SinkColumn) (names []string) {
	for _, c := range columns {
		names = append(names, c.Name)
	}
	return names
}

// tabs writes lines with a tab between the cells. Nothing is quoted: a tab or a line break
// in a text is a space.
type tabs struct {
	columns []table.SinkColumn
	counted int
}

// Encode implements lines.Encoder.
func (e *tabs) Encode(dst []byte, b *table.Batch) []byte {
	for row, slot := range b.Delivered {
		for i := range e.columns {
			c := &b.Columns[e.columns[i].Index]
			if c.Texts == nil {
				dst = b.AppendText(dst, c, row, slot)
			} else {
				n := 0
				dst, n = appendPlain(dst, []byte(c.Texts.Out(c.Codes[c.At(row, slot, b.Slots)])))
				e.counted += n
			}
			dst = append(dst, '\t')
		}
		dst[len(dst)-1] = '\n'
	}
	return dst
}

// Counted implements lines.Counting.
func (e *tabs) Counted() int {
	n := e.counted
	e.counted = 0
	return n
}

// appendPlain appends a text without tabs and line breaks, and counts what it changed.
func appendPlain(dst, text []byte) ([]byte, int) {
	if bytes.IndexAny(text, "\t\n\r") < 0 {
		return append(dst, text...), 0
	}
	n := 0
	for i, c := range text {
		switch c {
		case '\n':
			if i > 0 && text[i-1] == '\r' { // one break
				continue
			}
			c = ' '
			n++
		case '\t', '\r':
			c = ' '
			n++
		}
		dst = append(dst, c)
	}
	return dst, n
}
