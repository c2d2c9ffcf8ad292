package parquet

import (
	"bufio"
	"errors"
	"io"

	"github.com/parquet-go/parquet-go/encoding/thrift"
	"github.com/parquet-go/parquet-go/format"
)

// The library asks for twice the room, again and again, where a block of LZ4 cannot be unpacked. So the blocks of a file are looked
// through before: whether they can be, without unpacking them.

var errBlock = errors.New("a packed page cannot be unpacked")

// checkBlocks looks through the pages of all columns that are packed by LZ4. A page whose header cannot be read is left to who reads it.
func checkBlocks(in io.ReaderAt, m *format.FileMetaData) error {
	for _, g := range m.RowGroups {
		for _, c := range g.Columns {
			if c.MetaData.Codec == format.Lz4Raw {
				if err := checkColumn(in, &c.MetaData); err != nil {
					return err
				}
			}
		}
	}
	return nil
}

func checkColumn(in io.ReaderAt, m *format.ColumnMetaData) error {
	from := m.DataPageOffset
	if m.DictionaryPageOffset != 0 {
		from = m.DictionaryPageOffset
	}
	r := bufio.NewReader(io.NewSectionReader(in, from, m.TotalCompressedSize))
	d := thrift.NewDecoder((&thrift.CompactProtocol{}).NewReader(r))
	for {
		var h format.PageHeader
		if d.Decode(&h) != nil || h.CompressedPageSize < 0 || int64(h.CompressedPageSize) > m.TotalCompressedSize {
			return nil
		}
		page := make([]byte, h.CompressedPageSize)
		if _, err := io.ReadFull(r, page); err != nil {
			return nil
		}
		v2 := h.DataPageHeaderV2
		if v2.Valid && v2.V.IsCompressed.Valid && !v2.V.IsCompressed.V {
			continue
		}
		if v2.Valid {
			levels := int64(v2.V.RepetitionLevelsByteLength) + int64(v2.V.DefinitionLevelsByteLength)
			if levels < 0 || levels > int64(len(page)) {
				return nil
			}
			page = page[levels:]
		}
		if len(page) > 0 && !unpacks(page) {
			return errBlock
		}
	}
}

// unpacks reports whether a block of LZ4 can be unpacked: sequences of a token, the bytes that stand for themselves, and how far back
// those are that come again, the last one without these (LZ4 Block Format Description, Y. Collet).
func unpacks(block []byte) bool {
	const more, least = 15, 4 // a length goes on in the next bytes; the shortest bytes that come again
	at, out := 0, 0
	length := func(n int) (int, bool) {
		for next := byte(255); n >= more && next == 255; {
			if at >= len(block) {
				return 0, false
			}
			next = block[at]
			n += int(next)
			at++
		}
		return n, true
	}
	for at < len(block) {
		token := block[at]
		at++
		n, ok := length(int(token >> 4))
		if !ok || n > len(block)-at {
			return false
		}
		at, out = at+n, out+n
		if at == len(block) {
			return true
		}
		if len(block)-at < 2 {
			return false
		}
		back := int(block[at]) | int(block[at+1])<<8
		at += 2
		again, ok := length(int(token & more))
		if !ok || back == 0 || back > out {
			return false
		}
		out += again + least
	}
	return false
}
