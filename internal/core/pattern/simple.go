package pattern

import "strings"

// Most patterns are simple: pieces without a limit and stars, with ASCII text
// between them, no brackets. These are first tried from left to right without a
// choice: each piece ends where the text behind it first stands, and white space
// is taken whole. Where that fits, it is what the machine would have found: a
// piece that ended earlier would not have that text behind it, and one that ends
// later is not preferred. Where it does not fit, the machine decides.

// part is a piece or star, and the text behind it.
type part struct {
	least int    // bytes the piece has at least, 0 for a star, -1 for none before the first text
	field int    // its number, -1 for a star
	text  []byte // in small letters, a space for white space
}

// simple returns the parts of a simple pattern, nil for others.
func simple(nodes []node) []part {
	parts, fields := []part{{least: -1, field: -1}}, 0
	for _, n := range nodes {
		last := &parts[len(parts)-1]
		switch {
		case n.kind == space:
			last.text = append(last.text, ' ')
		case n.kind == literal && n.char > ' ' && n.char < 0x7f:
			last.text = append(last.text, lower(byte(n.char)))
		case n.kind == field && n.limit == Any:
			parts = append(parts, part{least: 1, field: fields})
			fields++
		case n.kind == anything:
			parts = append(parts, part{field: -1})
		default:
			return nil
		}
	}
	return parts
}

func lower(c byte) byte {
	if c >= 'A' && c <= 'Z' {
		return c | 0x20
	}
	return c
}

// fitSimple fits a text in ASCII; spans receives begin and end of each field.
func fitSimple(parts []part, text string, spans []int) bool {
	for i := 0; i < len(text); i++ {
		if text[i] >= 0x80 {
			return false
		}
	}
	at := 0
	for i := range parts {
		p := &parts[i]
		begin, end, next := at, at+p.least, 0
		switch last := i == len(parts)-1; {
		case p.least < 0:
			end = at
			if next = p.behind(text, end); next < 0 || last && next < len(text) {
				return false
			}
		case last && len(p.text) == 0:
			if end, next = len(text), len(text); end-begin < p.least {
				return false
			}
		default:
			for ; ; end++ {
				if end += p.skip(text, end); end > len(text) {
					return false
				}
				if next = p.behind(text, end); next == len(text) || next >= 0 && !last {
					break
				}
			}
		}
		if p.field >= 0 {
			spans[2*p.field], spans[2*p.field+1] = begin, end
		}
		at = next
	}
	return true
}

// skip is how many characters from at on the text behind the piece cannot begin
// with; it goes beyond the text where it is not there.
func (p *part) skip(text string, at int) int {
	if len(p.text) == 0 || at > len(text) {
		return 0
	}
	c := p.text[0]
	if c == ' ' || c >= 'a' && c <= 'z' {
		n := at
		for n < len(text) && lower(text[n]) != c && (c != ' ' || text[n] > ' ') {
			n++
		}
		return n - at
	}
	if n := strings.IndexByte(text[at:], c); n >= 0 {
		return n
	}
	return len(text)
}

// behind returns where the text behind a piece ends if it stands at at, else -1.
func (p *part) behind(text string, at int) int {
	for _, c := range p.text {
		if at >= len(text) {
			return -1
		}
		if c != ' ' {
			if lower(text[at]) != c {
				return -1
			}
			at++
			continue
		}
		from := at
		for at < len(text) && strings.IndexByte(" \t\n\v\f\r", text[at]) >= 0 {
			at++
		}
		if at == from {
			return -1
		}
	}
	return at
}
