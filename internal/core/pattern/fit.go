package pattern

import (
	"slices"
	"unicode"
	"unicode/utf8"
)

// A pattern is compiled to instructions for a machine that tries choices in
// order of preference and marks each pair of instruction and position it has
// failed at, so that no text takes longer than instructions times characters
// (the bit-state method of R. Cox, "Regular Expression Matching: the Virtual
// Machine Approach", 2009).

type op uint8

const (
	opChar   op = iota // one character, in any case
	opSpace            // one white-space character
	opPiece            // one character that limit allows
	opSplit            // go on at x; if that fails, at y
	opJump             // go on at x
	opBegin            // field number x begins here
	opEnd              // field number x ends here
	opAccept           // the text must end here
)

type instr struct {
	op    op
	char  rune
	limit Limit
	x, y  int
}

func (p *Pattern) compile() {
	p.code = p.code[:0]
	number := 0
	p.emit(p.nodes, &number)
	p.code = append(p.code, instr{op: opAccept})
	p.parts = simple(p.nodes)
}

func (p *Pattern) emit(nodes []node, number *int) {
	for _, n := range nodes {
		switch n.kind {
		case literal:
			p.code = append(p.code, instr{op: opChar, char: folded(n.char)})
		case space:
			p.repeat(instr{op: opSpace}, false)
		case field:
			k := *number
			*number++
			p.code = append(p.code, instr{op: opBegin, x: k})
			p.repeat(instr{op: opPiece, limit: n.limit}, true)
			p.code = append(p.code, instr{op: opEnd, x: k})
		case anything: // L: split out, in; in: piece; jump L; out:
			at := len(p.code)
			p.code = append(p.code, instr{op: opSplit, x: at + 3, y: at + 1}, instr{op: opPiece}, instr{op: opJump, x: at})
		case group: // prefer the group to its absence
			at := len(p.code)
			p.code = append(p.code, instr{op: opSplit, x: at + 1})
			p.emit(n.group, number)
			p.code[at].y = len(p.code)
		}
	}
}

// repeat emits one or more of an instruction, as few as possible or as many.
func (p *Pattern) repeat(in instr, few bool) {
	at := len(p.code)
	split := instr{op: opSplit, x: at, y: at + 2}
	if few {
		split.x, split.y = split.y, split.x
	}
	p.code = append(p.code, in, split)
}

// folded is one rune for all cases of a character.
func folded(r rune) rune {
	least := r
	for f := unicode.SimpleFold(r); f != r; f = unicode.SimpleFold(f) {
		least = min(least, f)
	}
	return least
}

// Fit takes a text apart. It returns the pieces by name, nil pieces and false
// when the pattern does not fit the whole text. A piece in an absent bracket is
// missing from the map.
func (p *Pattern) Fit(text string) (map[string]string, bool) {
	spans := make([]int, 2*len(p.fields))
	if !p.run(text, spans) {
		return nil, false
	}
	pieces := make(map[string]string, len(p.fields))
	for i, name := range p.fields {
		if spans[2*i+1] > 0 {
			pieces[name] = text[spans[2*i]:spans[2*i+1]]
		}
	}
	return pieces, true
}

// Piece is Fit for the piece "{}" alone, which is empty where it stands in an
// absent bracket.
func (p *Pattern) Piece(text string) (piece string, ok bool) {
	var few [8]int
	spans := few[:]
	if n := 2 * len(p.fields); n <= len(few) {
		spans = spans[:n]
	} else {
		spans = make([]int, n)
	}
	if !p.run(text, spans) {
		return "", false
	}
	if i := slices.Index(p.fields, Keep); i >= 0 && spans[2*i+1] > 0 {
		piece = text[spans[2*i]:spans[2*i+1]]
	}
	return piece, true
}

// Fits reports whether the pattern fits the whole text.
func (p *Pattern) Fits(text string) bool { return p.run(text, make([]int, 2*len(p.fields))) }

type job struct {
	pc, at  int
	restore int // >= 0: undo spans[restore] = at
}

// run fits the text; spans receives begin and end of each field, end 0 when absent.
func (p *Pattern) run(text string, spans []int) bool {
	if p.parts != nil && fitSimple(p.parts, text, spans) {
		return true
	}
	return p.try(text, spans)
}

// try is run without the short way.
func (p *Pattern) try(text string, spans []int) bool {
	width := len(text) + 1
	tried := make([]uint64, (len(p.code)*width+63)/64)
	todo := []job{{0, 0, -1}}
	for len(todo) > 0 {
		j := todo[len(todo)-1]
		todo = todo[:len(todo)-1]
		if j.restore >= 0 {
			spans[j.restore] = j.at
			continue
		}
		pc, at := j.pc, j.at
	step:
		for {
			if bit := pc*width + at; tried[bit/64]&(1<<(bit%64)) != 0 {
				break
			} else {
				tried[bit/64] |= 1 << (bit % 64)
			}
			in := &p.code[pc]
			switch in.op {
			case opJump:
				pc = in.x
			case opSplit:
				todo = append(todo, job{in.y, at, -1})
				pc = in.x
			case opBegin, opEnd:
				slot := 2 * in.x
				if in.op == opEnd {
					slot++
				}
				todo = append(todo, job{0, spans[slot], slot})
				spans[slot] = at
				pc++
			case opAccept:
				if at == len(text) {
					return true
				}
				break step
			default:
				r, size := utf8.DecodeRuneInString(text[at:])
				if size == 0 || !in.takes(r) {
					break step
				}
				pc, at = pc+1, at+size
			}
		}
	}
	return false
}

func (in *instr) takes(r rune) bool {
	switch in.op {
	case opChar:
		return r == in.char || folded(r) == in.char
	case opSpace:
		return unicode.IsSpace(r)
	}
	return in.limit.allows(r)
}
