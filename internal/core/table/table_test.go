package table

import (
	"bytes"
	"fmt"
	"math/rand/v2"
	"strings"
	"testing"

	"github.com/stretchr/testify/require"

	"umbau/internal/core/value"
)

func TestDict(t *testing.T) {
	d := NewDict()
	for i := range 5000 {
		code, fresh := d.Code(fmt.Appendf(nil, "name %d", i))
		require.True(t, fresh)
		require.Equal(t, uint32(i), code)
		d.SetOut(code, fmt.Sprintf("%d, %d", i, i))
	}
	for i := range 5000 {
		code, fresh := d.Code(fmt.Appendf(nil, "name %d", i))
		require.False(t, fresh)
		require.Equal(t, uint32(i), code)
		require.Equal(t, fmt.Sprintf(`"%d, %d"`, i, i), string(d.Quoted(code)))
		require.Equal(t, fmt.Sprintf("%d, %d", i, i), d.Out(code))
		require.Equal(t, fmt.Sprintf("name %d", i), d.Seen(code))
	}
	early := d.Seen(0)
	d.SetOut(7, "name 7")
	d.SetOut(8, "eight")
	d.SetOut(8, "Eight")
	require.Equal(t, []string{"name 7", "Eight", "9, 9"}, []string{d.Out(7), d.Out(8), d.Out(9)})
	require.Equal(t, "Eight", string(d.Quoted(8)))
	require.Equal(t, 5000, d.Len())
	require.False(t, d.Full())
	d.Code(make([]byte, mostBytes))
	require.True(t, d.Full(), "by the bytes it holds")
	require.Equal(t, "name 0", early, "stays as it was")
	d = d.Next()
	_, fresh := d.Code([]byte("name 1"))
	require.True(t, fresh)
	most := d.most
	d.Code([]byte("name 1"))
	require.Equal(t, most, d.Next().most, "its text came again")
	d = NewDict()
	d.Code([]byte("name 1"))
	require.Equal(t, fewTexts, d.Next().most, "none came again")
}

// Many texts at a time get the codes that one after another would get, whatever is new
// among them and however the table grows.
func TestCodes(t *testing.T) {
	r := rand.New(rand.NewPCG(1, 64))
	one, many := NewDict(), NewDict()
	for range 60 {
		var data []byte
		var cells []Cell
		for range r.IntN(300) {
			off := uint32(len(data))
			data = fmt.Appendf(data, "%d%s", r.IntN(20_000), strings.Repeat("x", r.IntN(3)*r.IntN(40)))
			cells = append(cells, Cell{Off: off, End: uint32(len(data))})
		}
		data = append(data, make([]byte, BlockSlack)...)
		codes := make([]uint32, len(cells))
		var fresh []string
		many.Codes(data, cells, codes, func(code uint32) {
			fresh = append(fresh, many.Seen(code))
			many.SetOut(code, "out "+many.Seen(code))
		})
		var wantFresh []string
		for i, c := range cells {
			text := data[c.Off:c.End]
			_, there := one.Find(text)
			code, isNew := one.Code(text)
			require.Equal(t, isNew, !there)
			require.Equal(t, code, codes[i])
			require.Equal(t, string(text), many.Seen(code))
			require.Equal(t, "out "+string(text), many.Out(code))
			if isNew {
				wantFresh = append(wantFresh, string(text))
			}
			found, there := one.Find(text)
			require.True(t, there)
			require.Equal(t, code, found)
		}
		require.Equal(t, wantFresh, fresh)
	}
	require.Greater(t, many.Len(), 4000)
}

// Short texts are told apart by all of their bytes and by their length, whatever stands behind them.
func TestCodesOfShortTexts(t *testing.T) {
	r := rand.New(rand.NewPCG(2, 24))
	d, want := NewDict(), map[string]uint32{}
	for range 200 {
		var data []byte
		var cells []Cell
		for range 50 {
			off := uint32(len(data))
			for range r.IntN(4) * r.IntN(10) {
				data = append(data, "\x00\x00\x00a"[r.IntN(4)])
			}
			cells = append(cells, Cell{Off: off, End: uint32(len(data))})
		}
		data = append(data, bytes.Repeat([]byte{"\x00a\xff"[r.IntN(3)]}, BlockSlack)...)
		codes := make([]uint32, len(cells))
		d.Codes(data, cells, codes, func(code uint32) {
			want[d.Seen(code)] = code
			require.Equal(t, len(want), d.Len())
		})
		for i, c := range cells {
			require.Equal(t, want[string(data[c.Off:c.End])], codes[i])
		}
	}
	require.Greater(t, d.Len(), nearTexts/2)
}

// What a list holds stays where it is while it grows.
func TestChunks(t *testing.T) {
	var c Chunks[int]
	var places []*int
	for i := range 1000 {
		require.Equal(t, i, c.Len())
		c.Add(i)
		places = append(places, c.At(i))
	}
	i := 0
	for v := range c.All() {
		require.Equal(t, i, *v)
		require.Same(t, places[i], v)
		i++
	}
	require.Equal(t, 1000, i)
	for v := range c.All() {
		if *v == 3 {
			break // early
		}
	}
}

// The grain check takes equal hashes for equal texts, so that short texts that
// differ little must not meet.
func TestHashTellsTextsApart(t *testing.T) {
	seen := map[uint64]string{}
	add := func(s string) {
		h := Hash([]byte(s))
		if other, ok := seen[h]; ok {
			t.Fatalf("%q and %q have one hash", s, other)
		}
		seen[h] = s
	}
	add("")
	for i := range 200_000 {
		add(fmt.Sprint(i))
		add(fmt.Sprintf("%07d", i))
		add(fmt.Sprintf("2024-%06d", i))
		add(fmt.Sprintf("Branch %d Buoy", i))
	}
}

func TestQuoted(t *testing.T) {
	for s, want := range map[string]string{
		"":         "",
		"Buoy":     "Buoy",
		"a,b":      `"a,b"`,
		`2" rope`:  `"2"" rope"`,
		"a\nb":     "\"a\nb\"",
		"a\rb":     "\"a\rb\"",
		" spaces ": " spaces ",
	} {
		require.Equal(t, want, Quoted(s))
		require.Equal(t, want, string(AppendQuoted(nil, []byte(s))))
	}
	require.Equal(t, "a,\"b,c\",\n", string(AppendLine(nil, "a", "b,c", "")))
}

func TestBatch(t *testing.T) {
	d := NewDict()
	for _, w := range []string{"x", "y", "z"} {
		c, _ := d.Code([]byte(w))
		d.SetOut(c, w+w)
	}
	b := &Batch{Rows: 2, Slots: 3, Data: []byte("12.50"), Columns: []Column{
		{Level: PerExtract, Codes: []uint32{2}, Texts: d},
		{Level: PerRow, Codes: []uint32{0, 1}, Texts: d},
		{Level: PerSlot, Codes: []uint32{0, 1, 2}, Texts: d},
		{Level: PerCell, Numbers: make([]Number, 6)},
	}}
	numbers := &b.Columns[3]
	numbers.Numbers[0] = Number{Coef: 1250, Places: 2, Len: 5, Form: Copy}
	numbers.Set(1, value.NewDecimal(-5, 1))
	large, _, ok := value.English.Number([]byte("123456789012345678901234567890.5"))
	require.True(t, ok)
	numbers.Set(5, large)

	texts := func(row, slot int) (out []string) {
		for i := range b.Columns {
			out = append(out, string(b.AppendText(nil, &b.Columns[i], row, slot)))
		}
		return out
	}
	require.Equal(t, []string{"zz", "xx", "xx", "12.50"}, texts(0, 0))
	require.Equal(t, []string{"zz", "xx", "yy", "-0.5"}, texts(0, 1))
	require.Equal(t, []string{"zz", "yy", "zz", "123456789012345678901234567890.5"}, texts(1, 2))
	require.Equal(t, []string{"zz", "yy", "xx", ""}, texts(1, 0))

	var sum value.Sum
	for i := range numbers.Numbers {
		numbers.AddTo(&sum, i)
	}
	require.Equal(t, "123456789012345678901234567902.50", sum.Total().String())
	_, ok = numbers.Decimal(2)
	require.False(t, ok)
}

// Whatever Fixed reads, the general reader reads as the same number; a short one leaves
// those with a needless zero at their end.
func FuzzFixed(f *testing.F) {
	for _, s := range []string{"123.45", "-0.00", "00.5", "99999.99", "999999.99", "-99999.99", "0.10", "-", "5", "", "-.5", "1.2.3"} {
		f.Add(s)
	}
	f.Fuzz(func(t *testing.T, s string) {
		for i := range 2 * 2 * 7 {
			sign, short, places := []byte{'.', ','}[i%2], i/2%2 == 1, i/4
			fixed, ok := NewFixed(places, sign, short)
			require.True(t, ok)
			data := []byte("12345678" + s + strings.Repeat(" ", BlockSlack))
			numbers, sums := make([]Number, 1), make([]value.Sum128, 1)
			coef, p, neat, plain := value.Plain([]byte(s), sign)
			needless := plain && short && p > 0 && s[len(s)-1] == '0'
			if fixed.Read(data, []Cell{{Off: 8, End: uint32(8 + len(s))}}, numbers, sums) == 0 {
				require.False(t, plain && p == places && len(s) <= 8 && !needless, s)
				require.Zero(t, numbers[0], s)
				require.Zero(t, sums[0], s)
				continue
			}
			form := Print
			if neat {
				form = Copy
			}
			require.True(t, plain && !needless, s)
			require.Equal(t, Number{Coef: coef, Off: 8, Len: uint8(len(s)), Places: uint8(p), Form: form}, numbers[0], s)
			var sum value.Sum128
			sum.Add(coef)
			require.Equal(t, sum, sums[0], s)
		}
	})
}

// Whether texts come again or not, and whichever dictionary follows on which: each cell has the code of
// its text, new ones are heard of once, and a text that is looked for alone is found.
func TestDictOfManyTexts(t *testing.T) {
	data := make([]byte, 0, 1<<20)
	d, next, loosest := NewDict(), 0, 0
	for phase, distinct := range []int{1 << 30, 40, 1 << 30} {
		alike := 0 // cells that share a code with another one that does not stand above them
		for range 900 {
			if d.Full() {
				d = d.Next()
			}
			data = data[:0]
			var cells []Cell
			for i := range 1000 {
				text := fmt.Sprintf([]string{"receipt %d, \"paid\"", "receipt %d, paid", "receipt %d", " %d"}[next%distinct%4], next%distinct)
				if i%50 != 0 {
					next++
				}
				cells = append(cells, Cell{Off: uint32(len(data)), End: uint32(len(data) + len(text))})
				data = append(data, text...)
			}
			codes, before := make([]uint32, len(cells)), d.Len()
			fresh := map[uint32]bool{}
			d.Codes(append(data, make([]byte, BlockSlack)...), cells, codes, func(code uint32) {
				require.False(t, fresh[code])
				fresh[code] = true
				d.SetOut(code, strings.TrimSpace(d.Seen(code)))
			})
			require.Equal(t, d.Len()-before, len(fresh))
			seen := map[string]uint32{}
			for i, c := range cells {
				text := string(data[c.Off:c.End])
				if out := strings.TrimSpace(text); text != d.Seen(codes[i]) || out != d.Out(codes[i]) || Quoted(out) != string(d.Quoted(codes[i])) {
					t.Fatalf("%q has a code of %q: %q, %q", text, d.Seen(codes[i]), d.Out(codes[i]), d.Quoted(codes[i]))
				}
				if other, known := seen[text]; known && other != codes[i] {
					loosest++
				} else if known {
					alike++
				}
				seen[text] = codes[i]
			}
			one, isNew := d.Code([]byte("alone"))
			two, again := d.Code([]byte("alone"))
			require.Equal(t, one, two)
			require.False(t, again)
			if isNew {
				d.SetOut(one, "")
			}
		}
		if distinct < 1000 {
			require.Greater(t, alike, 400_000, "phase %d: texts that come again are known again", phase)
		}
	}
	require.Positive(t, loosest, "texts that hardly come again are not looked for")
}

// Spans count what stands behind a number, join what follows each other, and stay few.
func TestSpans(t *testing.T) {
	var s Spans
	for _, n := range []int{3, 4, 5, 9, 12} {
		s.Add(Span{First: n, Last: n})
	}
	require.Equal(t, Spans{{First: 3, Last: 5}, {First: 9, Last: 9}, {First: 12, Last: 12}}, s)
	require.True(t, s.Has(4) && s.Has(9))
	require.False(t, s.Has(6) || s.Has(13))
	for behind, want := range map[int][2]int{0: {5, 3}, 3: {4, 4}, 5: {2, 9}, 9: {1, 12}, 12: {0, 0}} {
		n, first := s.Behind(behind)
		require.Equal(t, want, [2]int{n, first}, behind)
	}
	for n := 20; n < 40_020; n += 2 {
		s.Add(Span{First: n, Last: n})
	}
	require.Less(t, len(s), 5000)
	n, first := s.Behind(12)
	require.Equal(t, [2]int{20_000, 20}, [2]int{n, first})
}

// Short texts, long ones, equal ones but for zeros behind them, few and more than there are codes of two bytes: a text has one
// code, comes back as it stood, and is quoted as Quoted does, whatever stands behind its cell.
func TestCodesOfAllSizes(t *testing.T) {
	signs := []string{"a", "b", "\x00", ",", "\"", "\n", "ö", " "}
	for seed := range uint64(40) {
		r := rand.New(rand.NewPCG(seed, 77))
		d, known := NewDict(), map[string]uint32{}
		for range 5 {
			var data []byte
			var cells []Cell
			n := []int{3, 500, 3000, 900}[r.IntN(4)]
			if seed == 0 {
				n = 70_000
			}
			for range n {
				off := uint32(len(data))
				switch r.IntN(3) {
				case 0:
					data = fmt.Append(data, r.IntN(n))
				case 1:
					for range r.IntN(27) {
						data = append(data, signs[r.IntN(len(signs))]...)
					}
				default:
					data = append(fmt.Appendf(data, "%023d", r.IntN(50)), "x\x00"[:r.IntN(3)]...)
				}
				cells = append(cells, Cell{Off: off, End: uint32(len(data))})
				data = append(data, "~junk"[:r.IntN(5)]...)
			}
			data = append(data, make([]byte, BlockSlack)...)
			codes := make([]uint32, n)
			d.Codes(data, cells, codes, func(code uint32) { d.SetOut(code, d.Seen(code)) })
			for i, c := range cells {
				text := string(data[c.Off:c.End])
				code, before := known[text]
				require.True(t, !before || code == codes[i], "%q", text)
				known[text] = codes[i]
				require.Equal(t, text, d.Seen(codes[i]))
				require.Equal(t, Quoted(text), string(d.Quoted(codes[i])))
			}
		}
		require.Len(t, known, d.Len())
	}
}
