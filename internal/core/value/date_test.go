package value

import (
	"fmt"
	"math/rand/v2"
	"regexp"
	"strings"
	"testing"
	"unicode"

	"github.com/stretchr/testify/require"

	"umbau/internal/core/key"
)

// slowNamed reads a date with the name of its month, word by word.
func slowNamed(text string) (Date, bool) {
	var d Date
	var figures []string
	nameAt := -1
	for _, w := range wordsOf(text, func(r rune) bool { return unicode.IsSpace(r) || strings.ContainsRune("-/.,_–", r) }) {
		switch m := monthNames[key.Of(w)]; {
		case w[0] >= '0' && w[0] <= '9':
			figures = append(figures, w)
		case strings.ToLower(w) == "de" || strings.ToLower(w) == "di":
		case m == 0 || d.Month != 0:
			return Date{}, false
		default:
			d.Month, nameAt = m, len(figures)
		}
	}
	if d.Month == 0 || len(figures) == 0 || len(figures) > 2 || nameAt == 2 {
		return Date{}, false
	}
	last := figures[len(figures)-1]
	if d.Year = number(last); len(last) != 4 || d.Year < 1 {
		return Date{}, false
	}
	if len(figures) == 2 {
		if d.Day = number(figures[0]); d.Day < 1 || len(figures[0]) > 2 {
			return Date{}, false
		}
	}
	return d, d.Valid()
}

// wordsOf are the words and figures of a text: 31DEC2024 has three.
func wordsOf(text string, between func(rune) bool) (out []string) {
	for _, w := range strings.FieldsFunc(text, between) {
		out = append(out, regexp.MustCompile(`[0-9]+|[^0-9]+`).FindAllString(w, -1)...)
	}
	return out
}

var gluedYear = regexp.MustCompile(`^(\pL(?:.*\pL)?)([0-9]*)$`)

// slowParts takes a text apart in a form.
func slowParts(f DateForm, text string) []string {
	switch {
	case f.glued:
		if m := gluedYear.FindStringSubmatch(text); m != nil {
			return m[1:]
		}
		return nil
	case f.named:
		return strings.FieldsFunc(text, func(r rune) bool { return r == ' ' || strings.ContainsRune("-/._'’", r) })
	case f.sep != 0:
		return strings.Split(text, string(f.sep))
	case f.order == "YMD" && len(text) == 8:
		return []string{text[:4], text[4:6], text[6:]}
	case f.order == "YM" && len(text) == 6:
		return []string{text[:4], text[4:]}
	}
	return nil
}

var (
	yearAndM = regexp.MustCompile(`^([0-9]{4})[ ./_-]?M([0-9]{1,2})$`)
	mAndYear = regexp.MustCompile(`^M([0-9]{1,2})[ ./_-]([0-9]{4})$`)
)

// Dates are read as the slow way does, whatever stands there.
func TestDatesTwoWays(t *testing.T) {
	r := rand.New(rand.NewPCG(7, 8))
	pieces := []string{"31", "1", "02", "2024", "24", "Dec", "décembre", "märz", "MAI", "Août", "sept", "de", "DI", "rope", "2nd", "", "000",
		"’24", "T10:30", "M", "M1", "M12"}
	between := []string{" ", "-", "/", ".", ",", "–", "'", "’", "\u00a0", "", "  ", "_"}
	read := 0
	for range 60_000 {
		var b strings.Builder
		for range r.IntN(6) {
			b.WriteString(pieces[r.IntN(len(pieces))] + between[r.IntN(len(between))])
		}
		text := b.String()
		want, wantOK := slowNamed(text)
		got, ok := namedDate(text)
		require.Equal(t, wantOK, ok, "%q", text)
		if ok {
			read++
			require.Equal(t, want, got, "%q", text)
		}
		for _, f := range DateForms {
			if f.sep == 'M' {
				m := map[string]*regexp.Regexp{"YM": yearAndM, "MY": mAndYear}[f.order].FindStringSubmatch(text)
				d, ok := f.Read(text)
				require.Equal(t, m != nil && number(m[1])*number(m[2]) > 0 && min(number(m[1]), number(m[2])) <= 12, ok, "%q as %s", text, f.Example)
				if ok {
					require.Equal(t, fmt.Sprintf("%04d-%02d", max(number(m[1]), number(m[2])), min(number(m[1]), number(m[2]))), d.String())
				}
				continue
			}
			want := slowParts(f, text)
			parts, n := f.parts(text)
			if len(want) > 3 {
				require.Greater(t, n, 3, "%q as %s", text, f.Example)
				continue
			}
			require.Equal(t, append([]string{}, want...), append([]string{}, parts[:n]...), "%q as %s", text, f.Example)
		}
	}
	require.Greater(t, read, 150)
}

// Months and days as programs write them are read, and nothing else is.
func TestDatesOfPrograms(t *testing.T) {
	for text, want := range map[string]string{"JAN2024": "2024-01", "31DEC2024": "2024-12-31", "Mär_2024": "2024-03",
		"5_May_2024": "2024-05-05", "2024MAR": "2024-03",
		"JAN24": "", "JANUARY2024X": "", "M012024": "", "Jan_24": "", "2024_01": "", "JAN-FEB2024": ""} {
		d, ok := ReadDate(text)
		require.Equal(t, want != "", ok, text)
		if ok {
			require.Equal(t, want, d.String(), text)
		}
	}
	for example, texts := range map[string]map[string]string{
		"Dec-24": {"Jan_24": "2024-01", "Jan 24": "2024-01", "J-24": "", "24-JAN": "", "JAN24": ""},
		"45657": {"45657": "2024-12-31", "45292": "2024-01-01", "45351.75": "2024-02-29", "25569": "1970-01-01", "62093": "2069-12-31",
			"25568": "", "62094": "", "4565": "", "045657": "", "45657.": "", "-45657": "", "45657 pcs": ""},
		"DEC24":   {"JAN24": "2024-01", "Mär24": "2024-03", "J24": "", "24JAN": "", "JAN2024": "", "JAN 24": "", "JAN": ""},
		"2024_12": {"2024_01": "2024-01", "2024_1": "2024-01", "2024_13": "", "24_01": "", "2024-01": ""},
		"12_2024": {"01_2024": "2024-01", "13_2024": ""},
		"2024M12": {"2024M01": "2024-01", "2024M1": "2024-01", "2024-M01": "2024-01", "2024 M1": "2024-01", "2024M13": "", "24M01": "",
			"2024--M01": "", "M01 2024": "", "2024-M": "", "-M01": "", "2024M01M": ""},
		"M12 2024": {"M01 2024": "2024-01", "M1-2024": "2024-01", "M01/2024": "2024-01", "M13 2024": "", "M0 2024": "", "M01 24": "",
			"M012024": "", "M 2024": "", "AM1 2024": "", "M1 2024 M": "", "2024M01": "", "M01 20:24": "", "M": ""},
		"12/24": {"01/24": "2024-01", "1/70": "1970-01", "13/24": "", "01/2024": "", "1/2/24": ""},
		"12.24": {"01.24": "2024-01", "1.5": "", "01-24": ""},
		"12-24": {"12-24": "2024-12"},
	} {
		form, ok := DateFormOf(example)
		require.True(t, ok, example)
		for text, want := range texts {
			d, ok := form.Read(text)
			require.Equal(t, want != "", ok, "%s as %s", text, example)
			if ok {
				require.Equal(t, want, d.String())
			}
		}
	}
}

// A time of day behind a date is set aside, of twelve hours too.
func TestTimesOfDay(t *testing.T) {
	for text, want := range map[string]string{"2024-01-31 9:05": "2024-01-31", "2024-01-31 09:05:33 PM": "2024-01-31",
		"Dec 31, 2024 9:05 a.m.": "2024-12-31",
		"Dec 31, 2024, 9:05 AM":  "2024-12-31", "31-Dec-2024 10:30:15": "2024-12-31", "31DEC2024T10:30": "2024-12-31", "2024-01-31 9:5": "",
		"2024-01-31 9:05 PMX": "", "2024-01-31T9:05": "", "2024-01-31 :05": "", "2024-01-31 100:05": "", "Dec 31, 2024 am": ""} {
		d, ok := ReadDate(text)
		require.Equal(t, want != "", ok, text)
		if ok {
			require.Equal(t, want, d.String(), text)
		}
	}
	for example, text := range map[string]string{"12/31/2024": "4/25/2024 10:05 PM", "31/12/2024": "25/4/2024 9:05",
		"31-Dec-24": "25-Apr-24 9:05 am", "31.12.2024": "25.04.2024 10:05:00"} {
		form, ok := DateFormOf(example)
		require.True(t, ok)
		d, ok := form.Read(text)
		require.True(t, ok, text)
		require.Equal(t, "2024-04-25", d.String(), text)
	}
}
