package csv

import (
	"bytes"
	stdcsv "encoding/csv"
	"fmt"
	"math"
	"math/rand/v2"
	"strings"
	"testing"

	"github.com/stretchr/testify/require"

	"umbau/internal/core/table"
	"umbau/internal/core/value"
)

// randomBatch has columns of any kind and level, of texts of any length.
func randomBatch(r *rand.Rand) *table.Batch {
	b := &table.Batch{Rows: 1 + r.IntN(6), Slots: 1 + r.IntN(4)*r.IntN(2)}
	for range b.Rows * b.Slots {
		fate := table.Delivered
		if r.IntN(4) == 0 {
			fate = []table.Fate{table.Held, table.Skipped, table.Summed}[r.IntN(3)]
		}
		b.Fates = append(b.Fates, fate)
	}
	for range 1 + r.IntN(7) {
		c := table.Column{Level: table.Level(r.IntN(4))}
		n := map[table.Level]int{table.PerExtract: 1, table.PerRow: b.Rows, table.PerSlot: b.Slots, table.PerCell: b.Rows * b.Slots}[c.Level]
		if r.IntN(2) == 0 {
			c.Texts = table.NewDict()
			for range n {
				code, fresh := c.Texts.Code([]byte(randomText(r)))
				if fresh && r.IntN(5) > 0 {
					c.Texts.SetOut(code, randomText(r))
				}
				c.Codes = append(c.Codes, code)
			}
		} else {
			c.Numbers = make([]table.Number, n)
			for i := range n {
				coef, places := r.Int64()>>r.IntN(63), r.IntN(19)
				if r.IntN(2) == 0 {
					coef = -coef
				}
				switch r.IntN(4) {
				case 0:
				case 1: // as it stands in the data
					off := len(b.Data)
					b.Data = value.AppendFixed(b.Data, coef, places)
					c.Numbers[i] = table.Number{Coef: coef, Places: uint8(places), Off: uint32(off), Len: uint8(len(b.Data) - off), Form: table.Copy}
				case 2:
					c.Numbers[i] = table.Number{Coef: coef, Places: uint8(places), Form: table.Print}
				default:
					product := value.NewDecimal(coef, places).Mul(value.NewDecimal(math.MaxInt64, r.IntN(19)))
					c.Set(i, product)
				}
			}
		}
		b.Columns = append(b.Columns, c)
	}
	b.Data = append(b.Data, make([]byte, table.BlockSlack)...)
	return b
}

func randomText(r *rand.Rand) string {
	letters := []rune("abc ,\"\n\r;é😀-")
	var s strings.Builder
	for range r.IntN([]int{3, 20, 70, 400}[r.IntN(4)]) {
		s.WriteRune(letters[r.IntN(len(letters))])
	}
	return s.String()
}

// slowly writes a batch cell by cell.
func slowly(b *table.Batch, columns []int) [][]string {
	var rows [][]string
	for at, fate := range b.Fates {
		if fate != table.Delivered {
			continue
		}
		var row []string
		for _, ci := range columns {
			row = append(row, string(b.AppendText(nil, &b.Columns[ci], at/b.Slots, at%b.Slots)))
		}
		rows = append(rows, row)
	}
	return rows
}

// Whatever columns there are, in whatever order: a row reads back as its cells are,
// and nothing before it changes.
func TestEncodeRandom(t *testing.T) {
	encoders := map[string]*Encoder{}
	for seed := range uint64(3000) {
		r := rand.New(rand.NewPCG(seed, 5))
		b := randomBatch(r)
		columns := r.Perm(len(b.Columns))[:1+r.IntN(len(b.Columns))]
		key := fmt.Sprint(columns)
		if encoders[key] == nil { // some are used again
			encoders[key] = NewEncoder(columns)
		}
		before := bytes.Repeat([]byte("kept,"), r.IntN(50))
		have := encoders[key].Encode(bytes.Clone(before), b)
		require.True(t, bytes.HasPrefix(have, before), "seed %d", seed)
		text := string(have[len(before):])

		var want strings.Builder
		for _, row := range slowly(b, columns) {
			want.Write(table.AppendLine(nil, row...))
		}
		require.Equal(t, want.String(), text, "seed %d", seed)
	}
}

// What is written reads back, by the standard library and by this package; but for
// carriage returns, which the former changes.
func TestWrittenIsRead(t *testing.T) {
	for seed := range uint64(500) {
		r := rand.New(rand.NewPCG(seed, 6))
		b := randomBatch(r)
		columns := append(r.Perm(len(b.Columns)), r.IntN(len(b.Columns))) // two at least: a blank cell alone is a blank line
		text := NewEncoder(columns).Encode(nil, b)
		want := slowly(b, columns)
		have, _, err := read(text)
		require.NoError(t, err)
		require.Equal(t, len(want), len(have))
		for i := range want {
			require.Equal(t, want[i], have[i], "seed %d", seed)
		}
		if bytes.Contains(text, []byte("\r")) {
			continue
		}
		std := stdcsv.NewReader(bytes.NewReader(text))
		have, err = std.ReadAll()
		require.NoError(t, err)
		require.Equal(t, len(want), len(have))
		for i := range want {
			require.Equal(t, want[i], have[i])
		}
	}
}

// lay goes as far as it must and no further than it may.
func TestLay(t *testing.T) {
	source := []byte(strings.Repeat("0123456789abcdef", 8))
	for n := range 100 {
		for _, at := range []int{0, 1, 7, 16, 63} {
			out := bytes.Repeat([]byte{'.'}, at+n+16)
			end := lay(out, at, source[:n])
			require.Equal(t, at+n, end)
			require.Equal(t, strings.Repeat(".", at)+string(source[:n]), string(out[:end]))
			require.Panics(t, func() { lay(out[:at+n+15:at+n+15], at, source[:n]) }, "no room behind")
		}
	}
	require.Panics(t, func() { lay(make([]byte, 200), 0, source[:120:120]) }, "nothing behind the text")
}
