package keep

import (
	"encoding/binary"

	"umbau/internal/core/pass"
	"umbau/internal/core/whole"
)

// spill is a file on disk with the rows of the grain check that no longer fit into
// memory, piece by piece.
type spill struct {
	file   *whole.AsideFile
	size   int64
	pieces [shards][]extent
	buffer []byte
}

// extent is a part of the file: where it begins, and how many rows it holds.
type extent struct {
	at   int64
	rows int
}

const seenRowBytes = 16

// append appends a row as it stands on disk.
func (r seenRow) append(dst []byte) []byte {
	dst = binary.LittleEndian.AppendUint64(dst, r.hash)
	return binary.LittleEndian.AppendUint64(dst, uint64(r.position))
}

// readRows appends the rows that stand so.
func readRows(rows []seenRow, b []byte) []seenRow {
	for ; len(b) >= seenRowBytes; b = b[seenRowBytes:] {
		rows = append(rows, seenRow{binary.LittleEndian.Uint64(b), pass.Position(binary.LittleEndian.Uint64(b[8:]))})
	}
	return rows
}

// spillShards writes all shards to disk.
func (g *Grain) spillShards() error {
	if g.spill == nil {
		f, err := whole.Aside()
		if err != nil {
			return err
		}
		g.spill = &spill{file: f}
	}
	for i, pieces := range g.shards {
		if err := g.spill.write(i, pieces); err != nil {
			return err
		}
		g.shards[i] = nil
	}
	g.rows = 0
	return nil
}

func (s *spill) write(shard int, pieces [][]seenRow) error {
	s.buffer = s.buffer[:0]
	n := 0
	for _, piece := range pieces {
		for _, r := range piece {
			s.buffer = r.append(s.buffer)
		}
		n += len(piece)
	}
	if _, err := s.file.WriteAt(s.buffer, s.size); err != nil {
		return err
	}
	s.pieces[shard] = append(s.pieces[shard], extent{s.size, n})
	s.size += int64(len(s.buffer))
	return nil
}

// read appends the rows of a shard.
func (s *spill) read(shard int, rows []seenRow) ([]seenRow, error) {
	for _, e := range s.pieces[shard] {
		s.buffer = append(s.buffer[:0], make([]byte, e.rows*seenRowBytes)...)
		if _, err := s.file.ReadAt(s.buffer, e.at); err != nil {
			return rows, err
		}
		rows = readRows(rows, s.buffer)
	}
	return rows, nil
}

// close removes the file.
func (s *spill) close() error { return s.file.Close() }
