package value

import (
	"math/rand/v2"
	"strings"
	"testing"

	"github.com/stretchr/testify/require"

	"umbau/internal/core/key"
)

func TestStyles(t *testing.T) {
	for _, test := range []struct {
		text string
		want [5]string // by style
	}{
		{"1,234.56", [5]string{"1234.56", "", "", "", "1234.56"}},
		{"1.234,56", [5]string{"", "1234.56", "", "", ""}},
		{"1 234,56", [5]string{"", "", "1234.56", "", ""}},
		{"1\u202f234,56 €", [5]string{"", "", "1234.56", "", ""}},
		{"1'234.56", [5]string{"", "", "", "1234.56", ""}},
		{"12,34,567.89", [5]string{"", "", "", "", "1234567.89"}},
		{"1,23", [5]string{"", "1.23", "1.23", "", ""}},
		{"1,234", [5]string{"1234", "1.234", "1.234", "", "1234"}},
		{"1.234", [5]string{"1.234", "1234", "", "1.234", "1.234"}},
		{"12.50", [5]string{"12.50", "", "", "12.50", "12.50"}},
		{"-7", [5]string{"-7", "-7", "-7", "-7", "-7"}},
	} {
		for i, s := range Styles {
			d, _, ok := s.Number([]byte(test.text))
			if test.want[i] == "" {
				require.False(t, ok, "%s as %s", test.text, s.Example)
				continue
			}
			require.True(t, ok, "%s as %s", test.text, s.Example)
			require.Equal(t, test.want[i], d.String(), "%s as %s", test.text, s.Example)
		}
	}
}

// Signs of letters are currencies where they stand alone.
func TestSignsOfLetters(t *testing.T) {
	english, german := Styles[0], Styles[1]
	for _, test := range []struct {
		style          Style
		text           string
		want, currency string
	}{
		{english, "1,234.50 kr", "1234.50", "kr"}, {english, "kr 7", "7", "kr"}, {english, "7kr.", "7", "kr"},
		{english, "-kr. 7", "-7", "kr"},
		{german, "kr.1.250,00", "1250.00", "kr"}, {english, "Kr 7", "7", "kr"}, {english, "1 zł", "1", "PLN"}, {german, "1,5 Kč", "1.5", "CZK"},
		{english, "kr.1250", "", ""}, {english, "kr.5", "", ""}, {english, "EUR.5", "0.5", "EUR"}, {english, "7 kroner", "", ""},
		{english, "KR-1001", "", ""}, {english, "KR 1001", "", ""}, {english, "kr-1001", "", ""}, {english, "kr -7", "-7", "kr"},
		{english, "7 kr EUR", "", ""}, {english, "7 krona", "", ""}, {english, "7 zły", "", ""}, {english, "7 km", "", ""},
		{english, "7 K", "", ""},
		{english, "7 kr..", "", ""}, {english, "7 z", "", ""}, {english, "7 ZŁ", "", ""},
	} {
		d, currency, ok := test.style.Number([]byte(test.text))
		require.Equal(t, test.want != "", ok, test.text)
		if ok {
			require.Equal(t, test.want, d.String(), test.text)
			require.Equal(t, test.currency, currency, test.text)
			require.True(t, Dressed([]byte(test.text)), test.text)
		}
	}
	for text, want := range map[string]string{"Belopp (kr)": "kr", "kr.": "kr", "Kwota zł": "zł", "krone": "", "Okr": "", "0.00 kr": "kr",
		strings.Repeat("K", 1<<20): ""} {
		require.Equal(t, want, CurrencyIn(text), text[:min(len(text), 9)])
	}
	for text, want := range map[string]string{"kr": "kr", "zł": "PLN", "pln": "PLN", "€": "EUR", "Kč": "CZK", "krone": ""} {
		require.Equal(t, want, CurrencyOf(text), text)
	}
	require.True(t, new(Totals).Alone("Total kr"))
	require.True(t, new(Totals).Alone("Suma zł"))
}

func TestStyleOf(t *testing.T) {
	for example, want := range map[string]string{ // what 12345678.9 and 1234 are written like
		"1,234.56": "12,345,678.9 1,234", "1.234,56": "12.345.678,9 1.234", "1 234,56": "12 345 678,9 1 234", "1'234.56": "12'345'678.9 1’234",
		"12,34,567.89": "1,23,45,678.9 1,234", "1234,56": "12345678,9 1234", "1234.56": "12345678.9 1234", "0,5": "12345678,9 1234",
		"1.234": " 1.234", "1,234": " 1,234", "1.234.567": " 1.234", "1234": " 1234", "1 234": " 1 234", "1234.567": "12345678.9 1234",
		"1,234,567.8": "12,345,678.9 1,234",
	} {
		s, ok := StyleOf(example)
		require.True(t, ok, example)
		for i, text := range strings.SplitN(want, " 1", 2) {
			if i == 1 {
				text = "1" + text
			}
			d, _, ok := s.Number([]byte(text))
			require.Equal(t, text != "", ok, "%s as %s", text, example)
			require.Equal(t, []string{"12345678.9", "1234"}[i], map[bool]string{true: d.String(), false: "12345678.9"}[ok], "%s as %s", text,
				example)
		}
		if s.Point == none {
			_, _, ok := s.Number([]byte("5.5"))
			require.False(t, ok, example)
		}
	}
	for _, example := range []string{"", "abc", "1.234.56", "1,23,4", "1e5", "1'2", "-5", "1.2.3", "12,345.678,9", "1 2", ".", "1,234 567",
		"€ 5"} {
		_, ok := StyleOf(example)
		require.False(t, ok, example)
	}
}

// FuzzStyleOf: an example is read in its own style.
func FuzzStyleOf(f *testing.F) {
	f.Add("1.234,56")
	f.Add("12,34,567.89")
	f.Fuzz(func(t *testing.T, s string) {
		if style, ok := StyleOf(s); ok {
			_, _, ok := style.Number([]byte(s))
			require.True(t, ok)
		}
	})
}

func TestDateFormOf(t *testing.T) {
	for example, text := range map[string]string{"31.12.2024": "5.3.2023", "31/12/24": "05/03/23", "25/01/2020": "5/3/2023",
		"12/31/24": "3/5/23", "20241231": "20230305",
		"31-Dec-24": "5-März-23", "25 Jan 24": "5 Mar 23", "2024/12/31": "2023/3/5", "31-Dec-2024": "5 March 2023", "2024-12-31": "2023-3-5"} {
		f, ok := DateFormOf(example)
		require.True(t, ok, example)
		day, ok := Reading{Dates: []DateForm{f}}.Day(text)
		require.True(t, ok, example)
		require.Equal(t, "2023-03-05", day, example)
	}
	for example, text := range map[string]string{"202412": "202303", "Dec 2024": "März 2023", "Dec-24": "mars-23", "12/2024": "3/2023",
		"2024/12": "2023/03", "12.2024": "03.2023", "2024-12": "2023-3"} {
		f, ok := DateFormOf(example)
		require.True(t, ok, example)
		month, ok := Reading{Dates: []DateForm{f}}.Month(text)
		require.True(t, ok, example)
		require.Equal(t, "2023-03", month, example)
	}
	for _, example := range []string{"03/04/2024", "31.13.2024", "soon", "", "12", "2024"} {
		_, ok := DateFormOf(example)
		require.False(t, ok, example)
	}
}

func TestCalendar(t *testing.T) {
	april := Reading{Calendar: Calendar{Starts: 4, ByEnd: true}}
	begins := Reading{Calendar: Calendar{Starts: 4}}
	for _, test := range []struct{ text, plain, byEnd, byStart string }{
		{"2023-04", "2023-Q2", "2024-Q1", "2023-Q1"}, {"2024-03-31", "2024-Q1", "2024-Q4", "2023-Q4"},
		{"Dec 2023", "2023-Q4", "2024-Q3", "2023-Q3"},
		{"Q3 2024", "2024-Q3", "2024-Q3", "2024-Q3"}, {"2024-Q3", "2024-Q3", "2024-Q3", "2024-Q3"},
		{"2024 q3", "2024-Q3", "2024-Q3", "2024-Q3"},
		{"Quarter 3 2024", "2024-Q3", "2024-Q3", "2024-Q3"}, {"3. Quartal 2024", "2024-Q3", "2024-Q3", "2024-Q3"},
		{"3Q 2024", "2024-Q3", "2024-Q3", "2024-Q3"}, {"Q3/24", "2024-Q3", "2024-Q3", "2024-Q3"}, {"q3 '24", "2024-Q3", "2024-Q3", "2024-Q3"},
		{"3Q24", "2024-Q3", "2024-Q3", "2024-Q3"}, {"24Q3", "2024-Q3", "2024-Q3", "2024-Q3"}, {"Q3-99", "1999-Q3", "1999-Q3", "1999-Q3"},
		{"3e trimestre 2024", "2024-Q3", "2024-Q3", "2024-Q3"}, {"2024 Qtr. 3", "2024-Q3", "2024-Q3", "2024-Q3"},
	} {
		for i, r := range []Reading{Default, april, begins} {
			want := []string{test.plain, test.byEnd, test.byStart}[i]
			q, ok := r.Quarter(test.text)
			require.True(t, ok, test.text)
			require.Equal(t, want, q, test.text)
			y, ok := r.Year(test.text)
			require.True(t, ok, test.text)
			require.Equal(t, want[:4], y, test.text)
		}
	}
	for _, text := range []string{"Q5 2024", "Q0 2024", "2024", "Q3", "", "Q324", "Q3--24", "5Q24", "24Q5", "3Q4", "Quarter 3",
		"Quartal 32024", "2024 Q3 2024", "3 2024", "Quarry 3 2024", "Q3 Q4 2024"} {
		_, ok := Default.Quarter(text)
		require.False(t, ok, text)
	}
	for text, want := range map[string]string{"Yes": "true", "FALSCH": "false", "0": "false", "sí": "true"} {
		got, ok := Flag(text)
		require.True(t, ok, text)
		require.Equal(t, want, got, text)
	}
	_, ok := Flag("maybe")
	require.False(t, ok)
}

func TestDateForms(t *testing.T) {
	read := func(text string) map[string]Date {
		out := map[string]Date{}
		for _, f := range DateForms {
			if d, ok := f.Read(text); ok {
				out[f.Example] = d
			}
		}
		return out
	}
	require.Equal(t, map[string]Date{"31.12.2024": {2024, 3, 25}}, read("25.03.2024"))
	require.Equal(t, map[string]Date{"31/12/2024": {2024, 3, 4}, "12/31/2024": {2024, 4, 3}}, read("4/3/2024"))
	require.Equal(t, map[string]Date{"31/12/24": {1999, 12, 30}}, read("30/12/99 10:30"))
	require.Equal(t, map[string]Date{"20241231": {2024, 2, 29}}, read("20240229"))
	require.Equal(t, map[string]Date{"202412": {2024, 7, 0}}, read("202407"))
	require.Equal(t, map[string]Date{"Dec-24": {2024, 3, 0}}, read("März-24"))
	require.Equal(t, map[string]Date{"2024/12/31": {2024, 12, 31}}, read("2024/12/31"))
	for _, text := range []string{"", "31.02.2024", "20230229", "1//2024", "12", "soon"} {
		require.Empty(t, read(text), text)
	}
}

func TestDaysOfMonths(t *testing.T) {
	for _, days := range []string{"Nov-05 Nov-12", "Oct-26 Nov-02 Nov-09", "mai_03 mai_10 mai_17 mai_24 mai_31", "Dec-22 Dec-23"} {
		require.True(t, DaysOfMonths(strings.Fields(days)), days)
	}
	for _, months := range []string{"", "Nov-05", "Nov-23 Dec-23 Jan-24", "Nov-98 Nov-05", "Nov-00 Nov-12", "Nov'05 Nov'12",
		"Nov-05 Nov-12 2024-11", "Nov-2005 Nov-2012", "Feb-25 Feb-30", "Quay-05 Quay-12", "05 12"} {
		require.False(t, DaysOfMonths(strings.Fields(months)), months)
	}
}

// A text that may not be a date with the name of its month is none, in whatever form.
func TestMayName(t *testing.T) {
	r := rand.New(rand.NewPCG(3, 8))
	pieces := []string{"March", "dec", "D'ec", "März", "31", "5", "2024", "24", "'24", " ", "-", "/", ".", ", ", "de", "receipt", "Di", "–",
		"x", "’"}
	dates := 0
	for range 300_000 {
		text := ""
		for range 1 + r.IntN(6) {
			text += pieces[r.IntN(len(pieces))]
		}
		_, is := ReadDate(text)
		for _, f := range DateForms {
			_, reads := f.Read(text)
			is = is || f.Named() && reads
		}
		if is {
			dates++
			require.True(t, MayName(text), text)
		}
	}
	require.Greater(t, dates, 1000)
	require.False(t, MayName("receipt 386696589, paid late"))
}

// What is passed over before a text is taken apart is no quarter.
func TestMayBeQuarter(t *testing.T) {
	r := rand.New(rand.NewPCG(1, 3))
	pieces := []string{"q", "Q", "qtr", "Quarter", "quartal", "Trimestre", "TRIM", "kwartaal",
		"1", "3", "2024", "24", "er", ".", " ", "-", "/", "of", "x", "5"}
	read := 0
	for range 200_000 {
		var b strings.Builder
		for range 1 + r.IntN(7) {
			b.WriteString(pieces[r.IntN(len(pieces))])
		}
		text := b.String()
		m := namedQuarter().FindStringSubmatch(key.Of(text))
		named := m != nil && (m[1] == "") != (m[4] == "")
		if _, _, plain := plainQuarter(text); plain || named || shortQuarter().MatchString(text) {
			require.True(t, mayBeQuarter(text), text)
			require.True(t, IsQuarter(text), text)
			read++
		} else {
			require.False(t, IsQuarter(text), text)
		}
		require.Equal(t, m != nil && m[1]+m[4] == "", BareQuarter(text) > 0, text)
	}
	require.Greater(t, read, 150)
}
