package parquet

import (
	"io"
	"os"

	pq "github.com/parquet-go/parquet-go"

	"umbau/internal/core/value"
	"umbau/internal/core/whole"
)

// restart begins the file again with numbers that are stored otherwise, and copies what
// was written. It happens where a number turns up that has more digits, or more places, than
// all in the first rows.
func (s *sink) restart(next []number) error {
	if err := s.writer.Close(); err != nil {
		return err
	}
	before, err := whole.Aside()
	if err != nil {
		return err
	}
	defer before.Close()
	written, err := os.Open(s.file.Temp)
	if err != nil {
		return err
	}
	size, err := io.Copy(before, written)
	written.Close()
	if err != nil {
		return err
	}
	old := s.numbers
	s.numbers = next
	if err := s.file.Empty(); err != nil {
		return err
	}
	s.newWriter()
	f, err := pq.OpenFile(before, size)
	if err != nil {
		return err
	}
	for _, group := range f.RowGroups() {
		if err := s.copyGroup(group, old); err != nil {
			return err
		}
	}
	return nil
}

// copyGroup copies a row group.
func (s *sink) copyGroup(group pq.RowGroup, old []number) error {
	columns := s.writer.ColumnWriters()
	values := make([]pq.Value, 4096)
	for i, chunk := range group.ColumnChunks() {
		pages := chunk.Pages()
		for {
			page, err := pages.ReadPage()
			if err == io.EOF {
				break
			}
			if err != nil {
				pages.Close()
				return err
			}
			reader := page.Values()
			for {
				n, err := reader.ReadValues(values)
				if s.columns[i].Is == "number" && old[i] != s.numbers[i] {
					rescale(values[:n], i, old[i], s.numbers[i])
				}
				if n > 0 {
					if _, err := columns[i].WriteRowValues(values[:n]); err != nil {
						pages.Close()
						return err
					}
				}
				if err == io.EOF {
					break
				}
				if err != nil {
					pages.Close()
					return err
				}
			}
			pq.Release(page)
		}
		pages.Close()
	}
	s.group += int(group.NumRows())
	if s.group >= groupRows {
		s.group = 0
		return s.writer.Flush()
	}
	return nil
}

// rescale stores values in another way.
func rescale(values []pq.Value, column int, old, now number) {
	for i, v := range values {
		if v.IsNull() {
			continue
		}
		var d value.Decimal
		if old.wide {
			d = wideDecimal(v.ByteArray(), old.scale)
		} else {
			d = value.NewDecimal(v.Int64(), old.scale)
		}
		if b, ok := wideValue(d, now.scale); now.wide && ok {
			values[i] = pq.FixedLenByteArrayValue(b).Level(0, 1, column)
		} else if fixed, _ := d.Rescale(now.scale); !now.wide {
			c, _, _ := fixed.Small()
			values[i] = pq.Int64Value(c).Level(0, 1, column)
		}
	}
}
