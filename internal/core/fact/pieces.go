package fact

import (
	"cmp"
	"encoding/gob"
	"errors"
	"io"
	"slices"

	"umbau/internal/core/keep"
	"umbau/internal/core/parts"
	"umbau/internal/core/pass"
	"umbau/internal/core/treat"
)

// A share reads a run of the extracts. A large text file may be cut: who reads its end skips what stands
// before it, which is quick, and must be, for it is done by each who reads some of the file.

const (
	// finest is how many pieces a share has at least that is made of pieces alone.
	finest = 16
	// mostShares is how many shares read one file at most.
	mostShares = 16
)

// leastPiece is the least that is cut off a file, in bytes.
var leastPiece int64 = 1 << 20

// portion is what a share reads of each extract.
type portion map[int]pass.Piece

func (p portion) of(extract int) pass.Piece {
	piece, ok := p[extract]
	piece.None = !ok
	return piece
}

// cut says what each of so many shares reads: runs of extracts, and of pieces of large text files, of
// about the same size.
func (b *build) cut(of int) []portion {
	all := int64(0)
	for _, in := range b.inputs {
		all += max(1, in.Table.Size)
	}
	share := max(1, (all+int64(of)-1)/int64(of))
	out := make([]portion, of)
	for i := range out {
		out[i] = portion{}
	}
	before := int64(0)
	for i, in := range b.inputs {
		size := max(1, in.Table.Size)
		unit := size
		if in.Table.Text && treat.Cuttable(b.plan, in.Entry) {
			unit = max(share/finest, leastPiece)
			if size > mostShares*share {
				unit = max(size/mostShares, leastPiece)
			}
		}
		for from := int64(0); from < size; from += unit {
			to := from + unit
			if size-to < unit { // no crumbs
				to = size
			}
			n := min(int64(of-1), (before+(from+to)/2)/share)
			piece, begun := out[n][i]
			if !begun {
				piece.From = from
			}
			if piece.To = to; to == size {
				piece.To = 0
				out[n][i] = piece
				break
			}
			out[n][i] = piece
		}
		before += size
	}
	return out
}

// joinPieces settles what the pieces of extracts left open: the figures of totals are compared, and
// stand among the others. It reports whether they come to the same as if one had read them.
func (b *build) joinPieces(list []*parts.Part, states []shareState) (settled bool, err error) {
	if !fit(states) {
		return false, nil
	}
	j := joining{build: b, currencies: make([]string, len(b.plan.Columns)), extract: -1, settled: true}
	for i, p := range list {
		if len(states[i].Broken) > 0 {
			return false, nil
		}
		if err := p.Read(stripsSection, func(in io.Reader) error { return j.add(in, &states[i]) }); err != nil {
			return false, &partError{p.Name, err}
		}
		for ci, c := range states[i].Currencies {
			j.currencies[ci] = cmp.Or(j.currencies[ci], c)
		}
		if !j.settled {
			return false, nil
		}
	}
	j.endExtract()
	return j.settled, nil
}

// fit reports whether the pieces of each extract are all of it: each begins where the one before ended, with
// the row that stands there. Who skips what stands above a piece guesses where rows end; who reads the
// piece before knows.
func fit(states []shareState) bool {
	extract, last, next := -1, pass.None, pass.None
	for i := range states {
		for _, c := range states[i].Cuts {
			if c.Extract != extract {
				if next != pass.None { // it has no end
					return false
				}
				extract, last, next = c.Extract, pass.None, pass.Edge{At: 0, Row: c.First.Row}
			}
			if c.First == pass.None {
				continue
			}
			if c.First != next || c.Before != last {
				return false
			}
			last, next = c.Last, c.After
		}
	}
	return next == pass.None
}

// joining goes through what the pieces of extracts left open.
type joining struct {
	build      *build
	currencies []string // by column, of the shares before
	extract    int      // at hand, -1 for none
	seam       *treat.Seam
	settled    bool
}

// add takes what a share left open, and puts the figures that were compared among its checks.
func (j *joining) add(in io.Reader, state *shareState) error {
	own := state.Checks
	state.Checks = nil
	var after []keep.Check // of the extract of which the share reads the beginning, at its end
	decoder, read := gob.NewDecoder(in), -1
	for j.settled {
		var strip keep.Strip
		err := decoder.Decode(&strip)
		if err != nil && !errors.Is(err, io.EOF) {
			return err
		}
		if read >= 0 && (err != nil || read != strip.Extract) {
			j.endPiece(state, read)
		}
		if err != nil {
			break
		}
		if read = strip.Extract; read != j.extract {
			j.endExtract()
			j.extract, j.seam = read, treat.NewSeam(j.currencies)
			after = []keep.Check{}
		}
		checks, settled := j.seam.Add(&strip.Strip)
		j.settled = j.settled && settled
		for _, c := range checks {
			check := keep.Check{Check: c, File: j.build.inputs[read].File, Sheet: j.build.inputs[read].Sheet}
			if after != nil {
				after = append(after, check)
			} else {
				state.Checks = append(state.Checks, check)
			}
		}
	}
	state.Checks = slices.Concat(state.Checks, own, after)
	return nil
}

func (j *joining) endPiece(state *shareState, extract int) {
	i := slices.IndexFunc(state.Pieces, func(e *treat.PieceEnd) bool { return e.Extract == extract })
	j.settled = i >= 0 && j.seam.End(state.Pieces[i], state.Currencies) && j.settled
}

func (j *joining) endExtract() {
	j.settled = j.settled && (j.seam == nil || j.seam.Settled())
}
