package table

import (
	"bytes"
	"strings"
)

// Quoted returns a text as a cell of a comma text file (RFC 4180): in quotes
// where it holds a comma, a quote or a line break, with quotes doubled.
func Quoted(s string) string {
	if !needsQuotes(s) {
		return s
	}
	return string(appendQuotes(nil, []byte(s)))
}

// AppendQuoted appends a text as a cell of a comma text file.
func AppendQuoted[T string | []byte](dst []byte, s T) []byte {
	if !needsQuotes(s) {
		return append(dst, s...)
	}
	return appendQuotes(dst, []byte(s))
}

func appendQuotes(dst, s []byte) []byte {
	dst = append(dst, '"')
	for {
		i := bytes.IndexByte(s, '"')
		if i < 0 {
			break
		}
		dst = append(append(dst, s[:i+1]...), '"')
		s = s[i+1:]
	}
	return append(append(dst, s...), '"')
}

// needsQuotes reports whether a comma, a quote or a line break is in a text.
func needsQuotes[T string | []byte](text T) bool {
	needs, _ := signsIn(text)
	return needs
}

// signsIn reports whether a comma, a quote or a line break is in a text, and whether a quote is: eight bytes at a time,
// the last ones once more where they are fewer than eight. Only where one is met of the eight controls among which line breaks
// are, these are looked for.
func signsIn[T string | []byte](text T) (any, quote bool) {
	if len(text) < 8 {
		for i := range len(text) {
			c := text[i]
			quote = quote || c == '"'
			any = any || c == ',' || c == '"' || c == '\n' || c == '\r'
		}
		return any, quote
	}
	var commas, quotes, controls uint64
	for i := 0; ; i += 8 {
		i = min(i, len(text)-8)
		eight := text[i : i+8]
		w := uint64(eight[0]) | uint64(eight[1])<<8 | uint64(eight[2])<<16 | uint64(eight[3])<<24 | uint64(eight[4])<<32 |
			uint64(eight[5])<<40 | uint64(eight[6])<<48 | uint64(eight[7])<<56 // one load
		commas |= zeroIn(w ^ ','*ones)
		quotes |= zeroIn(w ^ '"'*ones)
		controls |= zeroIn(w&^(7*ones) ^ '\b'*ones) // 8 to 15
		if i == len(text)-8 {
			break
		}
	}
	any = (commas|quotes)&highs != 0 || controls&highs != 0 && strings.ContainsAny(string(text), "\n\r")
	return any, quotes&highs != 0
}

// zeroIn has one of the highs set for a word in which one of the bytes is zero: of that byte, and maybe of others above it.
func zeroIn(w uint64) uint64 { return (w - ones) &^ w }

// AppendLine appends one row of a comma text file.
func AppendLine(dst []byte, cells ...string) []byte {
	for i, c := range cells {
		if i > 0 {
			dst = append(dst, ',')
		}
		dst = AppendQuoted(dst, c)
	}
	return append(dst, '\n')
}
