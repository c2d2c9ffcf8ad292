package table

import "strings"

// Quoted returns a text as a cell of a comma text file (RFC 4180): in quotes
// where it holds a comma, a quote or a line break, with quotes doubled.
func Quoted(s string) string {
	for i := 0; i < len(s); i++ {
		if c := s[i]; c == ',' || c == '"' || c == '\n' || c == '\r' {
			return quoted(s)
		}
	}
	return s
}

func quoted(s string) string {
	return `"` + strings.ReplaceAll(s, `"`, `""`) + `"`
}

// AppendQuoted appends a text as a cell of a comma text file.
func AppendQuoted(dst, s []byte) []byte {
	plain := true
	for _, c := range s {
		if c == ',' || c == '"' || c == '\n' || c == '\r' {
			plain = false
			break
		}
	}
	if plain {
		return append(dst, s...)
	}
	dst = append(dst, '"')
	for _, c := range s {
		if c == '"' {
			dst = append(dst, '"')
		}
		dst = append(dst, c)
	}
	return append(dst, '"')
}

// AppendLine appends one row of a comma text file.
func AppendLine(dst []byte, cells ...string) []byte {
	for i, c := range cells {
		if i > 0 {
			dst = append(dst, ',')
		}
		dst = append(dst, Quoted(c)...)
	}
	return append(dst, '\n')
}
