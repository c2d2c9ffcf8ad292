package markup_test

import (
	"encoding/xml"
	"errors"
	"fmt"
	"io"
	"math/big"
	"math/rand/v2"
	"regexp"
	"strconv"
	"strings"
	"testing"
	"testing/iotest"

	"github.com/stretchr/testify/require"

	"umbau/internal/core/table"
	"umbau/internal/format/markup"
)

// tags lists the tags of a text: +name or -name, both for an empty element, and its
// attributes.
func tags(text string) (out []string, err error) {
	var t markup.Tag
	for at := 0; ; at = t.To {
		if err := t.Next([]byte(text), at); err != nil {
			return out, err
		}
		s := ""
		if t.Start {
			s += "+"
		}
		if t.End {
			s += "-"
		}
		s += string(t.Name)
		for name, value, rest := markup.NextAttr(t.Attrs); name != nil; name, value, rest = markup.NextAttr(rest) {
			s += fmt.Sprintf(" %s=%s", name, markup.AppendText(nil, value))
		}
		if text[t.From] != '<' || text[t.To-1] != '>' {
			return out, fmt.Errorf("the tag does not stand at %d to %d", t.From, t.To)
		}
		out = append(out, s)
	}
}

func TestTags(t *testing.T) {
	for _, c := range []struct {
		text, want string
		err        error
	}{
		{"", "", markup.ErrMore},
		{"text alone", "", markup.ErrMore},
		{"<a>1</a>", "+a|-a", markup.ErrMore},
		{"<x:a y:b='1' c=\"2\"/>", "+-a b=1 c=2", markup.ErrMore},
		{"<a b='/>' c=\"'\"><d  \n e = '&lt;>' /></a>", "+a b=/> c='|+-d e=<>|-a", markup.ErrMore},
		{"<?xml version='1.0'?><!-- <no> --><a/><![CDATA[ <no/> ]]><b/>", "+-a|+-b", markup.ErrMore},
		{"<a/>", "+-a", markup.ErrMore},
		{"<a /><b", "+-a", markup.ErrMore},
		{"<a b='1", "", markup.ErrMore},
		{"<", "", markup.ErrMore},
		{"<!", "", markup.ErrMore},
		{"<![CDATA[ ]]", "", markup.ErrMore},
		{"<!-- ", "", markup.ErrMore},
		{"<?xml", "", markup.ErrMore},
		{"<!DOCTYPE a [<!ENTITY b 'c'>]><a>&b;</a>", "", markup.ErrType},
		{"<a><<b>", "+a", markup.ErrSyntax},
		{"<>", "", markup.ErrSyntax},
		{"</>", "", markup.ErrSyntax},
		{"<a b <c>", "", markup.ErrSyntax},
	} {
		have, err := tags(c.text)
		require.ErrorIs(t, err, c.err, c.text)
		require.Equal(t, c.want, strings.Join(have, "|"), c.text)
	}
}

func TestAttr(t *testing.T) {
	var tag markup.Tag
	require.NoError(t, tag.Next([]byte(`<c r="A1" x:s='3' t="" n="a&amp;b&#10;c">`), 0))
	require.True(t, tag.Is("c"))
	require.Equal(t, []string{"A1", "3", ""}, []string{string(tag.Attr("r")), string(tag.Attr("s")), string(tag.Attr("t"))})
	require.NotNil(t, tag.Attr("t"))
	require.Nil(t, tag.Attr("missing"))
	require.Equal(t, "a&b\nc", tag.Text("n"))
}

func TestAppendText(t *testing.T) {
	for in, want := range map[string]string{
		"plain": "plain", "a &amp; b &lt;&gt;&quot;&apos;": `a & b <>"'`, "&#65;&#x42;&#X1F600;&#x000000100;": "AB😀Ā", "&a b;&;&é;": "&a b;&;&é;",
		"&nbsp; &; &#; &#x110000; & &amp": "&nbsp; &; &#; &#x110000; & &amp", // not known: as it stands
		"a\r\nb\rc\nd":                    "a\nb\nc\nd", "x<![CDATA[<&amp;]]>y": "x<&amp;y", "<![CDATA[\r\na\r\rb\n\r]]>\r": "\na\n\nb\n\n\n",
		"a<!-- & -->b": "ab", "a<?p q?>b": "ab", "cut<![CDATA[": "cut", "": "",
	} {
		require.Equal(t, want, string(markup.AppendText(nil, []byte(in))), in)
	}
}

// Whatever the reader hands out at a time, the same tags come.
func TestEach(t *testing.T) {
	text := "<?xml version='1.0'?><a>" + strings.Repeat("<b c='1'>text &amp; text</b><!-- a comment --><d/>", 3000) + "</a>"
	want, err := tags(text)
	require.ErrorIs(t, err, markup.ErrMore)
	for _, in := range []io.Reader{strings.NewReader(text), iotest.OneByteReader(strings.NewReader(text)),
		iotest.HalfReader(strings.NewReader(text)), iotest.DataErrReader(strings.NewReader(text))} {
		var have int
		require.NoError(t, markup.Each(in, func(b []byte, at int, tag *markup.Tag) error {
			require.True(t, strings.HasSuffix(want[have], string(tag.Name)) || tag.Is("b"))
			if tag.Is("b") && !tag.Start {
				require.Equal(t, "text & text", string(markup.AppendText(nil, b[at:tag.From])))
			}
			have++
			return nil
		}))
		require.Equal(t, len(want), have)
	}
	stop := errors.New("enough")
	require.ErrorIs(t, markup.Each(strings.NewReader(text), func([]byte, int, *markup.Tag) error { return stop }), stop)
	require.ErrorIs(t, markup.Each(iotest.ErrReader(stop), func([]byte, int, *markup.Tag) error { return nil }), stop)
	require.ErrorIs(t, markup.Each(strings.NewReader("<!DOCTYPE a>"), func([]byte, int, *markup.Tag) error { return nil }), markup.ErrType)
}

// FuzzText: text that the standard library reads between two tags is read as it does.
// directive is markup that begins as a declaration does, and is no comment and no CDATA section.
var directive = regexp.MustCompile(`<!([^-\[]|-[^-]|\[[^C])`)

func FuzzText(f *testing.F) {
	for _, s := range []string{"a &amp; b", "&#13;&#x41;", "<![CDATA[<]]>", "<!-- - -->x", "a\r\nb\r", "]]>", "&#0;", "&lt", "<?p?>",
		"<![CDATA[\r]]>", "&#x000000100;"} {
		f.Add(s)
	}
	f.Fuzz(func(t *testing.T, s string) {
		var std struct {
			Text string `xml:",chardata"`
		}
		d := xml.NewDecoder(strings.NewReader("<a>" + s + "</a>"))
		if err := d.Decode(&std); err != nil {
			markup.AppendText(nil, []byte(s)) // does not panic
			return
		}
		if strings.Contains(s, "</a") { // another element may follow
			return
		}
		if len(directive.FindString(s)) > 0 { // which Next does not let through
			return
		}
		if strings.Contains(strings.ReplaceAll(s, "<!--", ""), "<") && !strings.Contains(s, "<![CDATA[") { // elements within
			return
		}
		require.Equal(t, std.Text, string(markup.AppendText(nil, []byte(s))))
	})
}

func TestNumbers(t *testing.T) {
	for in, want := range map[string]string{
		"0": "0", "-0": "0", "1": "1", "-1.50": "-1.5", "1234.5599999999999": "1234.56", "0.1": "0.1", "0.30000000000000004": "0.3",
		"1E5": "100000", "1.5e-3": "0.0015",
		"999999999999999.5": "1000000000000000", "99999999999999.95": "100000000000000", "123456789012345678": "123456789012346000",
		"-2.5e+2": "-250", "1e-7": "0.0000001",
		"000123.4500": "123.45", "0.00000000000000000000": "0", "1.7976931348623157E308": "179769313486232" + strings.Repeat("0", 294),
		".5": "0.5", "5.": "5",
		"44927.999999999996": "44928",
	} {
		have, ok := markup.AppendNumber(nil, []byte(in))
		require.True(t, ok, in)
		require.Equal(t, want, string(have), in)
	}
	for _, in := range []string{"", "-", ".", "e5", "1e", "1e5.0", "1,5", "1.2.3", "abc", "0x10", "1e999", "--1", "1 ", "INF", "NaN"} {
		have, ok := markup.AppendNumber([]byte("before"), []byte(in))
		require.False(t, ok, in)
		require.Equal(t, "before", string(have), in)
	}
}

// A stored number is rounded to 15 digits, halves away from zero, as exact
// arithmetic says.
func TestNumbersAreExact(t *testing.T) {
	r := rand.New(rand.NewPCG(15, 1))
	for range 20_000 {
		f := (r.Float64() - 0.5) * []float64{1e-9, 1e-3, 1, 100, 1e6, 1e12, 1e18}[r.IntN(7)]
		if r.IntN(3) == 0 {
			f = float64(r.IntN(2_000_000)-1_000_000) / 100
		}
		in := strconv.FormatFloat(f, "eEfgG"[r.IntN(5)], -1, 64)
		have, ok := markup.AppendNumber(nil, []byte(in))
		require.True(t, ok, in)
		exact, _ := new(big.Rat).SetString(in)
		got, ok := new(big.Rat).SetString(string(have))
		require.True(t, ok, string(have))
		require.Zero(t, got.Cmp(rounded(exact)), "%s: %s", in, have)
	}
}

// rounded is x at 15 significant digits.
func rounded(x *big.Rat) *big.Rat {
	if x.Sign() == 0 {
		return x
	}
	ten, size := big.NewRat(10, 1), new(big.Rat).Abs(x)
	scale, least, most := big.NewRat(1, 1), new(big.Rat).SetInt64(1e14), new(big.Rat).SetInt64(1e15)
	for new(big.Rat).Mul(size, scale).Cmp(most) >= 0 {
		scale.Quo(scale, ten)
	}
	for new(big.Rat).Mul(size, scale).Cmp(least) < 0 {
		scale.Mul(scale, ten)
	}
	size.Mul(size, scale).Add(size, big.NewRat(1, 2))
	whole := new(big.Rat).SetInt(new(big.Int).Quo(size.Num(), size.Denom()))
	whole.Quo(whole, scale)
	if x.Sign() < 0 {
		whole.Neg(whole)
	}
	return whole
}

var dialect = markup.Dialect{
	Body:   func(t *markup.Tag) bool { return t.Is("rows") },
	Row:    "r",
	Filled: []string{"<v"},
	Rows: func(t *markup.Tag, before int) (first, last int, err error) {
		if own := t.Attr("n"); own != nil {
			n, err := strconv.Atoi(string(own))
			return n, n, err
		}
		return before + 1, before + 1, nil
	},
	Blank: func(from, to int) string { return fmt.Sprintf("<blank %d-%d/>", from, to) },
	Hides: func(t *markup.Tag) bool { return t.Attr("h") != nil },
	Columns: func(t *markup.Tag, within bool) (table.Span, bool) {
		n, err := strconv.Atoi(string(t.Attr("c")))
		return table.Span{First: n, Last: n}, err == nil && !within
	},
}

// blocks are the blocks of a sheet, each behind the number it begins at.
func blocks(in io.Reader) (out []string, err error) {
	b := markup.NewBlocks(io.NopCloser(in), nil, nil, dialect)
	for {
		block, err := b.Next(nil)
		if err == io.EOF {
			return out, b.Close()
		}
		if err != nil {
			return out, err
		}
		out = append(out, fmt.Sprintf("%d:%s", block.Line, block.Data))
	}
}

func TestBlocks(t *testing.T) {
	for _, c := range []struct{ name, text, want, err string }{
		{"rows", "<s><x/><rows><r><v>1</v></r><r><v>2</v></r></rows><y>", "1:<r><v>1</v></r><r><v>2</v></r>", ""},
		{"blank rows before and between", "<rows><r/><r n='4'><v/></r><r/><r n='9'><v/></r></rows>",
			"1:<blank 1-3/><r n='4'><v/></r><r/><r n='9'><v/></r>", ""},
		{"blank rows at the end", "<rows><r><v/></r><r><b/></r><r/></rows>", "1:<r><v/></r>", ""},
		{"nothing in any row", "<rows><r/><r><b/></r></rows>", "", ""},
		{"an empty body", "<s><rows/></s>", "", ""},
		{"no row ends in a comment or in CDATA", "<rows><r><v><![CDATA[</r>]]></v><!-- </r> --></r></rows>",
			"1:<r><v><![CDATA[</r>]]></v><!-- </r> --></r>", ""},
		{"with a prefix", "<q:rows><q:r><v/></q:r></q:rows>", "1:<q:r><v/></q:r>", ""},
		{"a tag whose name ends alike", "<rows><r><v/><br></br></r></rows>", "1:<r><v/><br></br>", ""},
		{"no body", "<s></s>", "", "no rows at all"},
		{"cut in a row", "<rows><r><v/></r><r n='7'><v>", "1:<r><v/></r>", "ends in row 7"},
		{"cut behind a row", "<rows><r><v/></r>", "1:<r><v/></r>", "ends in row 1"},
		{"no XML", "<rows><r n='3'><v/></r><<", "", "row 3"},
		{"a number that is none", "<rows><r n='x'><v/></r></rows>", "", "invalid syntax"},
	} {
		t.Run(c.name, func(t *testing.T) {
			for _, in := range []io.Reader{strings.NewReader(c.text), iotest.OneByteReader(strings.NewReader(c.text))} {
				have, err := blocks(in)
				if c.err == "" {
					require.NoError(t, err)
				} else {
					require.ErrorContains(t, err, c.err)
				}
				require.Equal(t, c.want, strings.Join(have, "|"))
			}
		})
	}
}

// Large sheets come in several blocks, none of which cuts a row.
func TestManyBlocks(t *testing.T) {
	var b strings.Builder
	b.WriteString("<rows>")
	n := 0
	for i := range 20_000 {
		switch {
		case i%997 == 3:
			b.WriteString("<r/>")
		default:
			fmt.Fprintf(&b, "<r n='%d'><v>%s</v></r>", i+1, strings.Repeat("x", i%90))
			n++
		}
	}
	b.WriteString("</rows>")
	have, err := blocks(strings.NewReader(b.String()))
	require.NoError(t, err)
	require.Greater(t, len(have), 3)
	all := 0
	for _, block := range have {
		_, text, _ := strings.Cut(block, ":")
		require.True(t, strings.HasPrefix(text, "<r") || strings.HasPrefix(text, "<blank"))
		require.True(t, strings.HasSuffix(text, "</r>"))
		require.LessOrEqual(t, len(text), 2*markup.BlockSize)
		all += strings.Count(text, "</r>")
	}
	require.Equal(t, n, all)
	var file *table.FileError
	require.ErrorAs(t, error(markup.Damaged("row %d", 3)), &file)
	require.Equal(t, "the workbook is damaged: row 3", file.Text)
}

// What is whole may follow the last tag; what is not is a loss.
func TestCut(t *testing.T) {
	for text, cut := range map[string]bool{"": false, " \n": false, "<!-- a --> ": false, "<?a?><!-- b -->": false, "<![CDATA[a]]>": false,
		"<": true, "x<": true, "<!-- a": true, "<?a": true, "<![CDATA[a]]": true, "<a": true, "<!-- a --><b": true, "<!D>": true} {
		require.Equal(t, cut, markup.Cut([]byte(text), 0), text)
	}
}
