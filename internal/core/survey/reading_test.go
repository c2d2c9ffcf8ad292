package survey

import (
	"fmt"
	"math/rand/v2"
	"strings"
	"testing"

	"github.com/stretchr/testify/require"

	"umbau/internal/core/key"
	"umbau/internal/core/table"
	"umbau/internal/core/value"
)

// slowly reads a text in every style and every form, one after another.
func slowly(text string) reading {
	r := reading{gap: value.TextGap(text)}
	if r.gap != value.NoGap {
		return r
	}
	if r.gap = value.GapOf(text); r.gap == value.Text {
		low := key.Of(text)
		r.truth = low == "true" || low == "false"
		return r
	}
	for i, style := range value.Styles {
		if d, code, ok := style.Number([]byte(text)); ok {
			r.styles |= 1 << i
			if d.Shorten().Places() == 0 {
				r.wholes |= 1 << i
			}
			if code != "" {
				r.money = code
			}
		}
	}
	d, date := value.ReadDate(text)
	r.parts = r.styles == 0 && !date && value.IsQuarter(text)
	if r.styles != 0 && (len(text) < 6 || len(text) > 10 || strings.Contains(text, ",")) {
		return r
	}
	likely := func(d value.Date) bool { return d.String()[:4] >= "1800" && d.String()[:4] <= "2199" }
	if date && likely(d) {
		r.forms, r.months = defaultDate, d.Day == 0
	}
	for i := range value.DateForms {
		if d, ok := value.DateForms[i].Read(text); ok && likely(d) && !value.DateForms[i].Brief() {
			r.forms |= 1 << (i + 1)
			r.months = d.Day == 0
		}
	}
	return r
}

// The ways to read what stands in most cells come to what every style and form says, one after another.
func TestReadings(t *testing.T) {
	r := rand.New(rand.NewPCG(22, 1))
	digits := func(n int) string { return fmt.Sprintf("%0*d", n, r.IntN(1000))[:n] }
	pieces := []func() string{
		func() string { return digits(1 + r.IntN(3)) },
		func() string { return digits(3) },
		func() string { return "," + digits(3) },
		func() string { return "." + digits(1+r.IntN(3)) },
		func() string { return ",000" },
		func() string { return ".00" },
		func() string {
			return []string{",", ".", " ", "'", "-", "/", "(", ")", "%", "€", " EUR", "GBP ", "x"}[r.IntN(13)]
		},
		func() string { return []string{"2024", "31", "12", "20240131", "202412", "0", "00"}[r.IntN(7)] },
		func() string { return []string{"Jan", " March ", "août", "'Mai", "de", "Q1", "quay", "t"}[r.IntN(8)] },
	}
	short, grouped, dates, seen := 0, 0, 0, map[uint32]bool{}
	for range 200_000 {
		text := ""
		for range 1 + r.IntN(5) {
			text += pieces[r.IntN(len(pieces))]()
		}
		text = value.TrimText(text)
		if text == "" {
			continue
		}
		want := slowly(text)
		require.Equal(t, want, read([]byte(text), table.TextCell), "%q", text)
		if have, ok := readPlain([]byte(text), table.TextCell); ok {
			short++
			require.Equal(t, want, have.of(table.TextCell), "%q", text)
		}
		if have, ok := readGrouped([]byte(text)); ok {
			grouped++
			require.Equal(t, want, have.of(table.TextCell), "%q", text)
		}
		if want.forms != 0 {
			dates++
		}
		seen[want.styles] = true
	}
	require.Greater(t, min(short, grouped, dates), 1000)
	require.Greater(t, len(seen), 8)
}
