// Package markup goes through the XML of workbooks tag by tag, without building
// anything.
//
// It knows what such files have: elements with or without a namespace prefix,
// attributes in either quotes, text with the five named entities and numbered
// characters, CDATA sections, comments, processing instructions. It does not know
// document types: a file that declares one is refused, for entities of its own
// are what attacks are made of. Names are compared without their prefix.
package markup

import (
	"bytes"
	"errors"
	"io"
	"strconv"
	"unicode/utf8"

	"umbau/internal/core/table"
)

// Tag is one start or end tag.
type Tag struct {
	Name       []byte // without prefix
	Attrs      []byte // all between the name and the end of the tag
	Start, End bool   // both for an empty element
	From, To   int    // where the tag stands
}

// Is reports whether the tag has this name.
func (t *Tag) Is(name string) bool { return string(t.Name) == name }

// ErrMore says that the text ends within markup: read on, or it is cut.
var ErrMore = errors.New("the text ends within a tag")

// ErrType says that the file declares a document type.
var ErrType = errors.New("the file declares a document type with entities of its own")

// ErrSyntax says that this is no XML.
var ErrSyntax = errors.New("this is no XML")

// Cut reports whether a text that is there as a whole, and has no tag any more from at on, ends within
// one, or within a comment, an instruction or a CDATA section: then something of it is lost.
func Cut(b []byte, at int) bool {
	for {
		i := bytes.IndexByte(b[min(at, len(b)):], '<')
		if i < 0 {
			return false
		}
		at += i
		end, err := -1, error(nil)
		switch {
		case bytes.HasPrefix(b[at:], []byte("<!")):
			end, err = special(b[at:], 0)
		case bytes.HasPrefix(b[at:], []byte("<?")):
			end = bytes.Index(b[at:], []byte("?>")) + 2
		}
		if err != nil || end < 2 {
			return true
		}
		at += end
	}
}

// Next makes t the first tag from at on; comments, instructions and CDATA
// sections are passed over. At the end of the text the error is ErrMore.
func (t *Tag) Next(b []byte, at int) error {
	for {
		if at >= len(b) || b[at] != '<' { // a tag often follows another
			i := bytes.IndexByte(b[at:], '<')
			if i < 0 {
				return ErrMore
			}
			at += i
		}
		if at+1 >= len(b) {
			return ErrMore
		}
		switch b[at+1] {
		case '!':
			end, err := special(b[at:], 0)
			if err != nil {
				return err
			}
			at += end
		case '?':
			i := bytes.Index(b[at:], []byte("?>"))
			if i < 0 {
				return ErrMore
			}
			at += i + 2
		default:
			return t.read(b, at)
		}
	}
}

// special passes over a comment or a CDATA section, with which the text begins; the place behind it.
// No end of it stands before the byte at which it begins to look.
func special(b []byte, from int) (int, error) {
	begin, end := "<!--", "-->"
	if bytes.HasPrefix(b, []byte("<![CDATA[")) {
		begin, end = "<![CDATA[", "]]>"
	} else if !bytes.HasPrefix(b, []byte(begin)) {
		if len(b) < len("<![CDATA[") {
			return 0, ErrMore
		}
		return 0, ErrType
	}
	from = max(from, len(begin))
	if from > len(b) {
		return 0, ErrMore
	}
	i := bytes.Index(b[from:], []byte(end))
	if i < 0 {
		return 0, ErrMore
	}
	return from + i + len(end), nil
}

// read reads the tag at at.
func (t *Tag) read(b []byte, at int) error {
	t.From, t.Start, t.End = at, true, false
	i := at + 1
	if b[i] == '/' {
		t.Start, t.End = false, true
		i++
	}
	name := i
	for i < len(b) && b[i] > ' ' && b[i] != '>' && b[i] != '/' && b[i] != '<' {
		if b[i] == ':' {
			name = i + 1
		}
		i++
	}
	t.Name = b[name:i]
	attrs := i
	for i < len(b) {
		switch c := b[i]; c {
		case '>':
			t.Attrs, t.To = b[attrs:i], i+1
			if b[i-1] == '/' {
				t.End, t.Attrs = true, b[attrs:max(attrs, i-1)]
			}
			if len(t.Name) == 0 {
				return ErrSyntax
			}
			return nil
		case '"', '\'':
			for i++; i < len(b) && b[i] != c; i++ { // values are short
			}
			if i == len(b) {
				return ErrMore
			}
			i++
		case '<':
			return ErrSyntax
		default:
			i++
		}
	}
	return ErrMore
}

// Attr returns the value of an attribute, as it stands; nil where there is none.
func (t *Tag) Attr(name string) []byte {
	for own, value, rest := NextAttr(t.Attrs); own != nil; own, value, rest = NextAttr(rest) {
		if string(own) == name {
			return value
		}
	}
	return nil
}

// NextAttr returns the first attribute in b, its name without prefix and its value
// as it stands, and what follows it; a nil name where there is none.
func NextAttr(b []byte) (name, value, rest []byte) {
	i := 0
	for i < len(b) && (b[i] <= ' ' || b[i] == '/') {
		i++
	}
	begin := i
	for i < len(b) && b[i] != '=' && b[i] > ' ' {
		if b[i] == ':' {
			begin = i + 1
		}
		i++
	}
	name = b[begin:i]
	for i < len(b) && (b[i] <= ' ' || b[i] == '=') {
		i++
	}
	if i >= len(b) || b[i] != '"' && b[i] != '\'' {
		return nil, nil, nil
	}
	quote := b[i]
	i++
	for begin = i; i < len(b) && b[i] != quote; i++ {
	}
	if i == len(b) {
		return nil, nil, nil
	}
	return name, b[begin:i], b[i+1:]
}

// Text returns the value of an attribute as text.
func (t *Tag) Text(name string) string { return string(AppendText(nil, t.Attr(name))) }

// AppendText appends the text that stands between two tags: entities resolved,
// CDATA taken as it is, comments left out, line ends as LF.
func AppendText(dst, b []byte) []byte {
	for len(b) > 0 {
		i := 0
		for i < len(b) && b[i] != '&' && b[i] != '<' && b[i] != '\r' { // texts are short
			i++
		}
		if i == len(b) {
			return append(dst, b...)
		}
		dst = append(dst, b[:i]...)
		b = b[i:]
		switch b[0] {
		case '\r':
			if dst = append(dst, '\n'); len(b) > 1 && b[1] == '\n' {
				b = b[1:]
			}
			b = b[1:]
		case '&':
			var n int
			dst, n = appendEntity(dst, b)
			b = b[n:]
		default:
			end, err := special(b, 0)
			if err != nil {
				if i := bytes.IndexByte(b, '>'); i >= 0 && len(b) > 1 && b[1] == '?' {
					b = b[i+1:]
					continue
				}
				return dst
			}
			if cdata, ok := bytes.CutPrefix(b[:end], []byte("<![CDATA[")); ok {
				dst = appendLines(dst, cdata[:len(cdata)-3])
			}
			b = b[end:]
		}
	}
	return dst
}

// appendLines appends a text with its line ends as LF.
func appendLines(dst, b []byte) []byte {
	for {
		line, rest, found := bytes.Cut(b, []byte{'\r'})
		dst = append(dst, line...)
		if !found {
			return dst
		}
		dst, b = append(dst, '\n'), bytes.TrimPrefix(rest, []byte{'\n'})
	}
}

var entities = map[string]string{"amp": "&", "lt": "<", "gt": ">", "quot": `"`, "apos": "'"}

// appendEntity appends what an entity stands for; one that is not known stays as
// it is.
func appendEntity(dst, b []byte) ([]byte, int) {
	end := 1 // of the name
	for end < len(b) && (b[end] == '#' || b[end] >= '0' && b[end] <= '9' || b[end]|0x20 >= 'a' && b[end]|0x20 <= 'z') {
		end++
	}
	if end == len(b) || b[end] != ';' {
		return append(dst, '&'), 1
	}
	name := string(b[1:end])
	if text, ok := entities[name]; ok {
		return append(dst, text...), end + 1
	}
	base := 10
	if digits, ok := bytes.CutPrefix(b[1:end], []byte("#")); ok {
		if len(digits) > 0 && (digits[0] == 'x' || digits[0] == 'X') {
			base, digits = 16, digits[1:]
		}
		if n, err := strconv.ParseUint(string(digits), base, 32); err == nil && n <= utf8.MaxRune {
			return utf8.AppendRune(dst, rune(n)), end + 1
		}
	}
	return append(dst, '&'), 1
}

// Each visits all tags of a stream. visit gets the text at hand, where the tag
// before ended in it, and the tag; none of them is good after it returns.
func Each(in io.Reader, visit func(b []byte, at int, t *Tag) error) error {
	buf := make([]byte, 0, 256<<10)
	var t Tag
	for {
		if len(buf) > table.MostRow+cap(buf)/4 {
			return Damaged("a tag or a text of more than %d MB", table.MostRow>>20)
		}
		if len(buf) > cap(buf)/2 { // a long one, which is looked at from its beginning each time
			buf = append(make([]byte, 0, 2*cap(buf)), buf...)
		}
		n, err := io.ReadFull(in, buf[len(buf):cap(buf)])
		buf = buf[:len(buf)+n]
		at := 0
		for {
			next := t.Next(buf, at)
			if next == ErrMore {
				break
			}
			if next == nil {
				next = visit(buf, at, &t)
			}
			if next != nil {
				return next
			}
			at = t.To
		}
		buf = buf[:copy(buf, buf[at:])]
		if err == io.EOF || err == io.ErrUnexpectedEOF {
			return nil
		}
		if err != nil {
			return err
		}
	}
}
