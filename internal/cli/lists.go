package cli

import (
	"fmt"
	"strings"
)

// pieces cuts a text at a sign that stands neither in quotes nor in brackets.
func pieces(text, at string) (out []string) {
	var quote rune
	depth, begin := 0, 0
	for i, r := range text {
		switch {
		case quote != 0:
			if r == quote {
				quote = 0
			}
		case r == '"' || r == '\'' && (i == begin || strings.TrimSpace(text[begin:i]) == "" || depth > 0):
			quote = r
		case r == '(' || r == '{':
			depth++
		case r == ')' || r == '}':
			depth--
		case depth <= 0 && string(r) == at:
			out = append(out, text[begin:i])
			begin = i + len(at)
		}
	}
	return append(out, text[begin:])
}

// listOf is a list with commas, such as of columns and formulas.
func listOf(text string) (out []string, err error) {
	if strings.TrimSpace(text) == "" {
		return nil, nil
	}
	for _, piece := range pieces(text, ",") {
		if piece = strings.TrimSpace(piece); piece == "" {
			return nil, fmt.Errorf("nothing stands between two commas of %q", text)
		}
		out = append(out, piece)
	}
	return out, nil
}

// halves are the two sides of an = sign, or the whole where there is none.
func halves(text string) []string {
	parts := pieces(text, "=")
	if len(parts) > 2 {
		parts = []string{parts[0], strings.Join(parts[1:], "=")}
	}
	return parts
}

// plainText is a text without the quotes around it.
func plainText(text string) string {
	text = strings.TrimSpace(text)
	if len(text) > 1 && (text[0] == '"' || text[0] == '\'') && text[len(text)-1] == text[0] {
		return text[1 : len(text)-1]
	}
	return text
}

// namesIn are the texts of a list with commas, each in quotes or not.
func namesIn(text string) (out []string) {
	for _, piece := range pieces(text, ",") {
		if piece = plainText(piece); piece != "" {
			out = append(out, piece)
		}
	}
	return out
}
