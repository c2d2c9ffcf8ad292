package value

import (
	"testing"

	"github.com/stretchr/testify/require"
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
