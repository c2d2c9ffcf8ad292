package parquet

import (
	"encoding/binary"
	"errors"
	"fmt"
	"io"
	"math"
	"math/big"
	"os"
	"strconv"
	"time"

	pq "github.com/parquet-go/parquet-go"
	"github.com/parquet-go/parquet-go/deprecated"
	"github.com/parquet-go/parquet-go/format"

	"umbau/internal/core/table"
	"umbau/internal/core/value"
	"umbau/internal/format/cells"
)

// Tables is the table in a column file.
func Tables(name string, size int64) ([]table.Table, error) {
	return []table.Table{{Headed: true, Size: size, Bytes: size, Content: func() (io.ReadCloser, error) { return os.Open(name) },
		Open: func(how table.Reading) (table.Source, error) {
			r, err := open(name)
			if err != nil {
				return nil, err
			}
			return cells.Source(r, how), nil
		}}}, nil
}

// rows reads the rows of a column file.
type rows struct {
	in      *os.File
	groups  []pq.RowGroup
	now     pq.Rows
	headers []string
	columns []appender
	row     []pq.Row
}

// appender writes what a value shows.
type appender struct {
	kind table.CellKind
	text func(dst []byte, v pq.Value) []byte
}

func broken(err error) error {
	return &table.FileError{Text: "the column file is damaged: " + err.Error(), Advice: "write it again, or have it sent again"}
}

func open(name string) (r *rows, err error) {
	in, err := os.Open(name)
	if err != nil {
		return nil, err
	}
	defer func() {
		if p := recover(); p != nil {
			err = broken(fmt.Errorf("%v", p))
		}
		if err != nil {
			in.Close()
		}
	}()
	info, err := in.Stat()
	if err != nil {
		return nil, err
	}
	if err := checkFooter(in, info.Size()); err != nil {
		return nil, broken(err)
	}
	f, err := pq.OpenFile(in, info.Size(), pq.SkipBloomFilters(true), pq.SkipPageIndex(true))
	if err != nil {
		return nil, broken(err)
	}
	if err := checkBlocks(in, f.Metadata()); err != nil {
		return nil, broken(err)
	}
	r = &rows{in: in, groups: f.RowGroups(), row: make([]pq.Row, 128)}
	for _, c := range f.Root().Columns() {
		if !c.Leaf() || c.Repeated() {
			return nil, &table.FileError{Text: fmt.Sprintf("column %q is nested or a list, and no value of a table", c.Name()),
				Advice: "write the file without it"}
		}
		a, ok := appenderOf(c.Type())
		if !ok {
			return nil, &table.FileError{Text: fmt.Sprintf("column %q has a type that is no text, number or date: %s", c.Name(), c.Type()),
				Advice: "write the file without it, or as text"}
		}
		r.headers, r.columns = append(r.headers, c.Name()), append(r.columns, a)
	}
	if len(r.headers) == 0 {
		return nil, &table.FileError{Text: "the column file has no columns"}
	}
	return r, nil
}

// checkFooter checks that what a file says of itself fits into it, before memory is asked for: behind it
// stand its length, in 4 bytes, and PAR1.
func checkFooter(in io.ReaderAt, size int64) error {
	const ends = 8 // bytes of the length and of the sign
	var end [ends]byte
	if size < 4+ends {
		return errors.New("it is too short")
	}
	if _, err := in.ReadAt(end[:], size-ends); err != nil {
		return err
	}
	if n := int64(binary.LittleEndian.Uint32(end[:])); string(end[4:]) != "PAR1" || n > size-4-ends {
		return errors.New("the end of it is missing")
	}
	return nil
}

// Header implements cells.Rows.
func (r *rows) Header() []string { return r.headers }

// enough is how many bytes of a block are read at least.
const enough = 32 << 10

// Append implements cells.Rows.
func (r *rows) Append(dst []byte) (block []byte, n int, err error) {
	defer func() {
		if p := recover(); p != nil {
			err = broken(fmt.Errorf("%v", p))
		}
	}()
	for len(dst) < enough {
		if r.now == nil {
			if len(r.groups) == 0 {
				break
			}
			r.now, r.groups = r.groups[0].Rows(), r.groups[1:]
		}
		got, err := r.now.ReadRows(r.row)
		for _, row := range r.row[:got] {
			if len(row) != len(r.columns) {
				return dst, n, broken(fmt.Errorf("a row has %d values for %d columns", len(row), len(r.columns)))
			}
			dst = r.appendRow(dst, row)
		}
		n += got
		if err == io.EOF {
			r.now.Close()
			r.now = nil
			continue
		}
		if err != nil {
			return dst, n, broken(err)
		}
	}
	if n == 0 {
		return dst, 0, io.EOF
	}
	return dst, n, nil
}

func (r *rows) appendRow(dst []byte, row pq.Row) []byte {
	dst = cells.AppendRow(dst, len(r.columns))
	var text []byte
	for i, v := range row {
		if v.IsNull() {
			dst = cells.AppendNull(dst)
			continue
		}
		text = r.columns[i].text(text[:0], v)
		dst = cells.AppendCell(dst, r.columns[i].kind, text)
	}
	return dst
}

// Close implements cells.Rows.
func (r *rows) Close() error {
	if r.now != nil {
		r.now.Close()
	}
	return r.in.Close()
}

// appenderOf is how values of a type are written; ok is false for a type that is none of a
// table's.
func appenderOf(t pq.Type) (a appender, ok bool) {
	var logical any
	if l := t.LogicalType(); l != nil {
		logical = l.Value
	}
	switch l := logical.(type) {
	case *format.DecimalType:
		return decimalAppender(t, int(l.Scale))
	case *format.DateType:
		return appender{table.DateCell, func(dst []byte, v pq.Value) []byte {
			return time.Unix(int64(v.Int32())*86400, 0).UTC().AppendFormat(dst, time.DateOnly)
		}}, true
	case *format.TimestampType:
		return appender{table.DateCell, func(dst []byte, v pq.Value) []byte { return appendTime(dst, stamp(v.Int64(), l.Unit)) }}, true
	case *format.TimeType:
		return appender{table.TextCell, func(dst []byte, v pq.Value) []byte {
			n := int64(0)
			if v.Kind() == pq.Int32 {
				n = int64(v.Int32())
			} else {
				n = v.Int64()
			}
			return stamp(n, l.Unit).AppendFormat(dst, "15:04:05.999999999")
		}}, true
	case *format.UUIDType:
		return appender{table.TextCell, func(dst []byte, v pq.Value) []byte {
			b := v.ByteArray()
			return fmt.Appendf(dst, "%x-%x-%x-%x-%x", b[:4], b[4:6], b[6:8], b[8:10], b[10:])
		}}, true
	case *format.StringType, *format.EnumType, *format.JsonType:
		return appender{table.TextCell, func(dst []byte, v pq.Value) []byte { return append(dst, v.ByteArray()...) }}, true
	case *format.IntType:
		if !l.IsSigned {
			return appender{table.NumberCell, func(dst []byte, v pq.Value) []byte {
				if v.Kind() == pq.Int32 {
					return strconv.AppendUint(dst, uint64(v.Uint32()), 10)
				}
				return strconv.AppendUint(dst, v.Uint64(), 10)
			}}, true
		}
	case nil:
	default:
		return a, false
	}
	return plainAppender(t)
}

// plainAppender is that of a type without a meaning of its own.
func plainAppender(t pq.Type) (a appender, ok bool) {
	switch t.Kind() {
	case pq.Boolean:
		return appender{table.OtherCell, func(dst []byte, v pq.Value) []byte { return strconv.AppendBool(dst, v.Boolean()) }}, true
	case pq.Int32:
		return appender{table.NumberCell, func(dst []byte, v pq.Value) []byte { return strconv.AppendInt(dst, int64(v.Int32()), 10) }}, true
	case pq.Int64:
		return appender{table.NumberCell, func(dst []byte, v pq.Value) []byte { return strconv.AppendInt(dst, v.Int64(), 10) }}, true
	case pq.Float:
		return appender{table.NumberCell, func(dst []byte, v pq.Value) []byte { return appendFloat(dst, float64(v.Float()), 32) }}, true
	case pq.Double:
		return appender{table.NumberCell, func(dst []byte, v pq.Value) []byte { return appendFloat(dst, v.Double(), 64) }}, true
	case pq.Int96:
		return appender{table.DateCell, func(dst []byte, v pq.Value) []byte { return appendTime(dst, int96(v.Int96())) }}, true
	case pq.ByteArray:
		if c := t.ConvertedType(); c != nil && *c == deprecated.UTF8 {
			return appender{table.TextCell, func(dst []byte, v pq.Value) []byte { return append(dst, v.ByteArray()...) }}, true
		}
	}
	return a, false
}

func decimalAppender(t pq.Type, scale int) (a appender, ok bool) {
	text := func(d value.Decimal, dst []byte) []byte { return append(dst, d.String()...) }
	switch t.Kind() {
	case pq.Int32:
		return appender{table.NumberCell, func(dst []byte, v pq.Value) []byte {
			return text(value.NewDecimal(int64(v.Int32()), scale), dst)
		}}, true
	case pq.Int64:
		return appender{table.NumberCell, func(dst []byte, v pq.Value) []byte { return text(value.NewDecimal(v.Int64(), scale), dst) }}, true
	}
	return appender{table.NumberCell, func(dst []byte, v pq.Value) []byte { return text(wideDecimal(v.ByteArray(), scale), dst) }}, true
}

// wideDecimal reads two's complement, the highest byte first.
func wideDecimal(b []byte, scale int) value.Decimal {
	c := new(big.Int).SetBytes(b)
	if len(b) > 0 && b[0]&0x80 != 0 {
		c.Sub(c, new(big.Int).Lsh(big.NewInt(1), uint(8*len(b))))
	}
	return value.WithCoefficient(c, scale)
}

// appendFloat appends the shortest text that is the number.
func appendFloat(dst []byte, f float64, bits int) []byte {
	if math.IsNaN(f) || math.IsInf(f, 0) {
		return append(dst, "#NUM!"...)
	}
	return strconv.AppendFloat(dst, f, 'f', -1, bits)
}

// stamp is the time of a stamp.
func stamp(n int64, unit format.TimeUnit) time.Time {
	switch unit.Value.(type) {
	case *format.MilliSeconds:
		return time.UnixMilli(n).UTC()
	case *format.MicroSeconds:
		return time.UnixMicro(n).UTC()
	}
	return time.Unix(n/1e9, n%1e9).UTC()
}

// int96 is the time of a stamp of old files: nanoseconds of a day, and the day, counted
// from noon of 1 January 4713 BC.
func int96(v deprecated.Int96) time.Time {
	const epoch = 2440588 // 1 January 1970
	nanos := int64(v[1])<<32 | int64(v[0])
	return time.Unix((int64(v[2])-epoch)*86400, nanos).UTC()
}

// appendTime appends a date, with its time where it has one.
func appendTime(dst []byte, t time.Time) []byte {
	if t.Equal(t.Truncate(24 * time.Hour)) {
		return t.AppendFormat(dst, time.DateOnly)
	}
	return t.AppendFormat(dst, "2006-01-02 15:04:05.999999999")
}
