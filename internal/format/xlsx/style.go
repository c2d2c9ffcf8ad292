package xlsx

import (
	"strconv"
	"strings"

	"umbau/internal/core/value"
	"umbau/internal/format/markup"
)

// style is what matters of how a cell is shown: as a date, with a time where the number
// has one, or with a currency, which counts as if it stood in the cell.
type style struct {
	date     bool
	currency string
}

// loadStyles reads which styles of cells are dates.
func (b *book) loadStyles(part string) error {
	data, err := b.small(part, 256<<20)
	if err != nil {
		return err
	}
	custom := map[int]string{}
	inCells := false
	return each(data, func(t *markup.Tag, _ int) error {
		switch {
		case t.Is("cellXfs"):
			inCells = t.Start && !t.End
		case !t.Start:
		case t.Is("numFmt"):
			id, _ := strconv.Atoi(t.Text("numFmtId"))
			custom[id] = t.Text("formatCode")
		case t.Is("xf") && inCells:
			id, _ := strconv.Atoi(t.Text("numFmtId"))
			b.styles = append(b.styles, styleOf(id, custom))
		}
		return nil
	})
}

// styleOf tells a date by the number of its format, or by its code.
func styleOf(id int, custom map[int]string) style {
	if code, ok := custom[id]; ok {
		if isDate(code) {
			return style{date: true}
		}
		return style{currency: currencyOf(code)}
	}
	// Section 18.8.30; 27 to 36 and 50 to 58 are dates in Asian languages.
	switch {
	case id >= 14 && id <= 22, id >= 27 && id <= 36, id == 45, id == 47, id >= 50 && id <= 58:
		return style{date: true}
	}
	return style{}
}

// currencyOf is the currency sign or code that a format shows: [$€-407] or text beside the
// digits.
func currencyOf(code string) string {
	code, _, _ = strings.Cut(code, ";")
	var shown strings.Builder
	for i := 0; i < len(code); i++ {
		switch c := code[i]; c {
		case '\\', '_', '*':
			if i++; c == '\\' && i < len(code) {
				shown.WriteByte(code[i])
			}
		case '"':
			text, _, _ := strings.Cut(code[i+1:], `"`)
			shown.WriteString(text)
			i += len(text) + 1
		case '[':
			in, _, _ := strings.Cut(code[i+1:], "]")
			if sign, is := strings.CutPrefix(in, "$"); is {
				sign, _, _ = strings.Cut(sign, "-")
				shown.WriteString(" " + sign + " ")
			}
			i += len(in) + 1
		default:
			if strings.IndexByte("0#?.,E%", c) >= 0 {
				c = ' '
			}
			shown.WriteByte(c)
		}
	}
	return value.CurrencyIn(shown.String())
}

// isDate reports whether a format code shows a date: if letters for years,
// months, days, hours or seconds stand outside of quotes and brackets. Elapsed
// time, such as [h]:mm, is a number.
func isDate(code string) bool {
	code, _, _ = strings.Cut(code, ";")
	var plain strings.Builder
	for i := 0; i < len(code); i++ {
		switch c := code[i]; c {
		case '\\', '_', '*':
			i++
		case '"':
			end := strings.IndexByte(code[i+1:], '"')
			if end < 0 {
				return false
			}
			i += end + 1
		case '[':
			end := strings.IndexByte(code[i:], ']')
			if end < 0 {
				return false
			}
			if in := strings.ToLower(strings.Trim(code[i:i+end+1], "[]")); in != "" && strings.Trim(in, "hms") == "" {
				return false
			}
			i += end
		default:
			plain.WriteByte(c)
		}
	}
	low := strings.ToLower(plain.String())
	for _, word := range []string{"general", "standard", "estándar", "am/pm", "a/p", "e+", "e-"} {
		low = strings.ReplaceAll(low, word, "")
	}
	if strings.ContainsAny(low, "ydhs") {
		return true
	}
	// The letters of other languages stand twice at least: TT.MM.JJJJ, jj/mm/aaaa.
	for _, pair := range []string{"mm", "jj", "tt", "aa", "gg", "åå"} {
		if strings.Contains(low, pair) {
			return true
		}
	}
	return strings.Contains(low, "m") && !strings.ContainsAny(low, "0#?")
}
