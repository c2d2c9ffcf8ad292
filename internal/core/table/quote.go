package table

import "bytes"

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

// needsQuotes reports whether a comma, a quote or a line break is in a text: eight bytes at a time.
func needsQuotes[T string | []byte](text T) bool {
	const ones = 0x0101010101010101
	i := 0
	for ; i+8 <= len(text); i += 8 {
		eight := text[i : i+8]
		w := uint64(eight[0]) | uint64(eight[1])<<8 | uint64(eight[2])<<16 | uint64(eight[3])<<24 | uint64(eight[4])<<32 |
			uint64(eight[5])<<40 | uint64(eight[6])<<48 | uint64(eight[7])<<56 // one load
		found := uint64(0)
		for _, c := range [4]uint64{',' * ones, '"' * ones, '\n' * ones, '\r' * ones} {
			x := w ^ c // a byte of it is zero where w has c
			found |= (x - ones) &^ x
		}
		if found&(0x80*ones) != 0 {
			return true
		}
	}
	for ; i < len(text); i++ {
		if c := text[i]; c == ',' || c == '"' || c == '\n' || c == '\r' {
			return true
		}
	}
	return false
}

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
