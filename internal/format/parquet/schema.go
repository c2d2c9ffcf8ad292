// Package parquet reads and delivers column files (Apache Parquet).
package parquet

import (
	"reflect"

	pq "github.com/parquet-go/parquet-go"

	"umbau/internal/core/table"
)

// Format is that of column files.
var Format = table.Format{Endings: []string{".parquet"}, Outlets: []table.Outlet{{Ending: ".parquet", NewSink: newSink}}}

// What the numbers of a column hold.
const (
	smallDigits = 18 // in 64 bits
	mostDigits  = 38 // in 16 bytes
	wideBytes   = 16
)

// number says how the numbers of a column are stored: how many places, and whether 64 bits
// hold them.
type number struct {
	scale int
	wide  bool
}

// schemaOf is the schema of a table. Its columns stand in their order.
func schemaOf(columns []table.SinkColumn, numbers []number) *pq.Schema {
	root := ordered{}
	for i, c := range columns {
		root.fields = append(root.fields, field{pq.Optional(nodeOf(c, numbers[i])), c.Name})
	}
	return pq.NewSchema("facts", root)
}

func nodeOf(c table.SinkColumn, n number) pq.Node {
	switch c.Is {
	case "number":
		if n.wide {
			return pq.Decimal(n.scale, mostDigits, pq.FixedLenByteArrayType(wideBytes))
		}
		return pq.Decimal(n.scale, smallDigits, pq.Int64Type)
	case "whole", "year":
		return pq.Int(64)
	case "date":
		return pq.Date()
	}
	return pq.Encoded(pq.String(), &pq.RLEDictionary)
}

// ordered is a group whose fields stand in the order in which they are given.
type ordered struct {
	pq.Group
	fields []field
}

// Fields implements pq.Node.
func (o ordered) Fields() []pq.Field {
	out := make([]pq.Field, len(o.fields))
	for i := range o.fields {
		out[i] = &o.fields[i]
	}
	return out
}

type field struct {
	pq.Node
	name string
}

// Name implements pq.Field.
func (f *field) Name() string { return f.name }

// Value implements pq.Field: values are written column by column, never from a struct.
func (f *field) Value(base reflect.Value) reflect.Value {
	return base.MapIndex(reflect.ValueOf(f.name))
}
