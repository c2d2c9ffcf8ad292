// Package jsonl reads and delivers JSON objects, one a line.
package jsonl

import (
	"encoding/json"
	"slices"

	"umbau/internal/core/table"
	"umbau/internal/format/lines"
)

// Format is one JSON object a line.
var Format = func() table.Format {
	f := lines.Kind{Head: func([]table.SinkColumn) []byte { return nil }, Encoder: newEncoder}.Format(".jsonl")
	f.Endings = []string{".jsonl", ".ndjson"}
	return f
}()

// encoder writes objects: numbers with all their digits, flags as truth values, what is
// missing as null, all else as strings.
type encoder struct {
	columns []table.SinkColumn
	names   [][]byte // with what stands before the value
	known   []known  // of columns of texts
}

// known are texts of a dictionary as JSON has them, by code.
type known struct {
	of    *table.Dict
	texts []asJSON
}

type asJSON struct {
	text string
	json []byte // nil where nobody has asked yet
}

func newEncoder(columns []table.SinkColumn) lines.Encoder {
	e := &encoder{columns: columns, known: make([]known, len(columns))}
	for i, c := range columns {
		before := ","
		if i == 0 {
			before = "{"
		}
		e.names = append(e.names, slices.Concat([]byte(before), quoted(c.Name), []byte(":")))
	}
	return e
}

// quoted is a text as JSON has it.
func quoted(text string) []byte {
	var b jsonBuffer
	w := json.NewEncoder(&b)
	w.SetEscapeHTML(false)
	_ = w.Encode(text)              // a text, which always has a form
	return b[: len(b)-1 : len(b)-1] // without the line break
}

type jsonBuffer []byte

func (b *jsonBuffer) Write(p []byte) (int, error) {
	*b = append(*b, p...)
	return len(p), nil
}

// Encode implements lines.Encoder.
func (e *encoder) Encode(dst []byte, b *table.Batch) []byte {
	for row, slot := range b.Delivered {
		for i := range e.columns {
			dst = append(dst, e.names[i]...)
			c := &b.Columns[e.columns[i].Index]
			at := c.At(row, slot, b.Slots)
			switch {
			case c.Texts != nil:
				dst = append(dst, e.known[i].value(c.Texts, c.Codes[at], e.columns[i].Is)...)
			case c.Numbers[at].Form == table.Empty:
				dst = append(dst, "null"...)
			default:
				dst = b.AppendNumber(dst, c, at)
			}
		}
		dst = append(dst, '}', '\n')
	}
	return dst
}

// value is the value of a text.
func (k *known) value(d *table.Dict, code uint32, is string) []byte {
	if k.of != d {
		k.of, k.texts = d, k.texts[:0]
	}
	for int(code) >= len(k.texts) {
		k.texts = append(k.texts, asJSON{})
	}
	one := &k.texts[code]
	if text := d.Out(code); one.json == nil || one.text != text {
		one.text = text
		switch {
		case text == "":
			one.json = []byte("null")
		case is == "flag" || is == "year":
			one.json = []byte(text)
		default:
			one.json = quoted(text)
		}
	}
	return one.json
}
