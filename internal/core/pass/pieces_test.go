package pass_test

import (
	"context"
	"fmt"
	"math/rand/v2"
	"strings"
	"testing"

	"github.com/stretchr/testify/require"

	"umbau/internal/core/pass"
)

// blocks lists the blocks that are seen: where each begins, how many rows it has, and what is told of it.
type blocks struct{ list []string }

type blocksPart struct {
	to  *blocks
	has string
}

func (k *blocks) Part() pass.Part { return &blocksPart{to: k} }

func (p *blocksPart) See(b *pass.Block) {
	p.has = fmt.Sprint(b.Extract, b.Batch.Rows, b.Last)
	for row := range b.Batch.Rows {
		p.has += fmt.Sprint(" ", b.Line(row))
		for ci := range b.Batch.Columns {
			p.has += "|" + string(b.Batch.AppendText(nil, &b.Batch.Columns[ci], row, 0))
		}
	}
}

func (p *blocksPart) Take() { p.to.list = append(p.to.list, p.has) }

// Wherever an extract is cut, the pieces together have the blocks of the whole, each once, as they are in
// the whole: rows that wait for what decides them go over a cut.
func TestPieces(t *testing.T) {
	r := rand.New(rand.NewPCG(4, 4))
	var text strings.Builder
	text.WriteString("Branch,Note,Amount\n")
	for i := range 18000 {
		switch {
		case r.IntN(30) == 0:
			text.WriteString("Old Slip,,\n") // a single filled cell: it shows below what it is
		case r.IntN(10) == 0:
			fmt.Fprintf(&text, "Holm,\"over\ntwo lines\",%d\n", i)
		default:
			fmt.Fprintf(&text, "Old Slip,note %d,%d\n", i, i)
		}
	}
	text.WriteString("Old Slip,,\nSource: the till\n")
	rules, found := ready(t, `umbau: 1
extracts: [{ files: "*.csv", titles: [] }]
fact: { branch: text, note: { is: text, blanks: leave }, amount: { is: number, blanks: 0 } }
deliver: [{ to: out/s.csv }]
`, map[string]string{"Lakes_1.csv": text.String()})
	read := func(piece pass.Piece, workers int) []string {
		own, k := *rules, &blocks{}
		own.Workers = workers
		own.Piece = func(int) pass.Piece { return piece }
		require.Empty(t, pass.Run(context.Background(), &own, found.Inputs, k))
		return k.list
	}
	want := read(pass.Piece{}, 1)
	require.Greater(t, len(want), 5)
	for range 6 {
		var have []string
		from := int64(0)
		for range r.IntN(4) {
			to := from + r.Int64N(int64(text.Len())/2)
			if to > from {
				have = append(have, read(pass.Piece{From: from, To: to}, 1+r.IntN(3))...)
				from = to
			}
		}
		have = append(have, read(pass.Piece{From: from}, 1+r.IntN(3))...)
		require.Equal(t, want, have)
	}
	require.Empty(t, read(pass.Piece{None: true}, 1))
}
