package csv

import (
	"bytes"
	stdcsv "encoding/csv"
	"errors"
	"fmt"
	"io"
	"math/rand/v2"
	"slices"
	"strings"
	"testing"
	"unicode/utf8"

	"github.com/stretchr/testify/require"

	"umbau/internal/core/table"
)

// read returns all cells of a comma text and the line of each row.
func read(data []byte) (rows [][]string, lines []int, err error) {
	r := NewReader(bytes.NewReader(data), ',')
	var buf []byte
	for {
		b, err := r.Next(buf)
		if err == io.EOF {
			return rows, lines, nil
		}
		if err != nil {
			return rows, lines, err
		}
		buf = b.Data[:0]
		var t table.Rows
		if err := r.Split(b, &t); err != nil {
			return rows, lines, err
		}
		for i := range t.Len() {
			row := []string{}
			for _, c := range t.Row(i) {
				row = append(row, string(t.Text(c)))
			}
			rows = append(rows, row)
		}
		lines = append(lines, t.Lines...)
	}
}

func TestRead(t *testing.T) {
	for _, test := range []struct {
		name, text string
		want       string // cells joined by |, rows by /
		lines      []int
	}{
		{"plain", "a,b\n1,2\n", "a|b/1|2", []int{1, 2}},
		{"no line feed at the end", "a,b\n1,2", "a|b/1|2", []int{1, 2}},
		{"mixed row ends", "a\r\nb\nc\r\n", "a/b/c", []int{1, 2, 3}},
		{"byte order mark", "\ufeffa,b\n", "a|b", []int{1}},
		{"empty cells", ",\n,,\n", "|/||", []int{1, 2}},
		{"empty lines", "\n\na\n\n", "//a/", []int{1, 2, 3, 4}},
		{"quoted", `"a,b",c` + "\n" + `d,"e ""f"""` + "\n", `a,b|c/d|e "f"`, []int{1, 2}},
		{"line break in quotes", "\"a\nb\",c\nd,e\n", "a\nb|c/d|e", []int{1, 3}},
		{"spaces around quotes", ` "a" ,` + "\t\"b\"\t\n", "a|b", []int{1}},
		{"quote within a cell", `2" rope,b` + "\n", `2" rope|b`, []int{1}},
		{"quotes end the text", `a,"b"`, "a|b", []int{1}},
		{"quotes end the row", "\"a\",\"b\"\r\n\"c\",\n", "a|b/c|", []int{1, 2}},
		{"empty quotes", `"","",`, "||", []int{1}},
		{"letters below the comma", "a(b) #1+2 *$%!',c\n", "a(b) #1+2 *$%!'|c", []int{1}},
		{"other letters", "é,ü€😀\n", "é|ü€😀", []int{1}},
		{"a carriage return within", "a\rb,c\n", "a\rb|c", []int{1}},
	} {
		t.Run(test.name, func(t *testing.T) {
			rows, lines, err := read([]byte(test.text))
			require.NoError(t, err)
			var texts []string
			for _, r := range rows {
				texts = append(texts, strings.Join(r, "|"))
			}
			require.Equal(t, test.want, strings.Join(texts, "/"))
			require.Equal(t, test.lines, lines)
		})
	}
}

// Whether rows end in carriage returns shows behind a header that is longer than a block, wherever that is cut.
func TestRowEndsBehindALongHeader(t *testing.T) {
	for _, end := range []string{"\n", "\r\n", "\r"} {
		for _, long := range []int{BlockSize - 3, BlockSize - 2, BlockSize - 1, BlockSize, 3 * BlockSize} {
			header := strings.Repeat("x", long-5) + `,"a b"`
			if end != "\r" {
				header = strings.Replace(header, "a b", "a\rb", 1)
			}
			rows, _, err := read([]byte(header + end + "1,2" + end + "3,4" + end))
			require.NoError(t, err)
			require.Len(t, rows, 3, "%q %d", end, long)
			require.Equal(t, strings.ReplaceAll(header[long-4:], `"`, ""), rows[0][1])
			require.Equal(t, []string{"3", "4"}, rows[2])
		}
	}
}

func TestDelimiters(t *testing.T) {
	for _, test := range []struct {
		name, text string
		delim      byte
		want       string
	}{
		{"semicolons and decimal commas", "Branch;Buoy;Oar\nHolm;1,50;2,25\nSaltby;3,75;4,00\n", ';',
			"Branch|Buoy|Oar/Holm|1,50|2,25/Saltby|3,75|4,00"},
		{"tabs", "Branch\tBuoy\n Holm, East\t\"1\t2\"\n", '\t', "Branch|Buoy/ Holm, East|1\t2"},
		{"tabs around quotes", "a\t\"b\"\t\t\"c\" \n", '\t', "a|b||c"},
		{"pipes", "a|b\n1;5|2,5\n", '|', "a*b/1;5*2,5"},
		{"commas under a title", "Sales; all coasts\n\na,b,c\n1,2,3\n4,5,6\n", ',', "Sales; all coasts//a|b|c/1|2|3/4|5|6"},
		{"quoted delimiters do not count", "\"a;b\",\"c;d\"\n\"1;2\",\"3;4\"\n", ',', "a;b|c;d/1;2|3;4"},
		{"decimal commas in all rows but the header, notes beside some", "Branch\tOar\t\nHolm\t1,50\nSaltby\t3,75\t\tchecked\nMole\t2,25\n", '\t',
			"Branch|Oar|/Holm|1,50/Saltby|3,75||checked/Mole|2,25"},
		{"codes with bars", "Code,Amount\n1|2,12\n3|4,13\n5|6,14\n", ',', "Code|Amount/1|2|12/3|4|13/5|6|14"},
		{"figures alone", "1,2\n", ',', "1|2"},
		{"one column", "Buoy\n1\n2\n", ',', "Buoy/1/2"},
		{"nothing", "\n", ',', ""},
	} {
		t.Run(test.name, func(t *testing.T) {
			r := NewReader(strings.NewReader(test.text), 0)
			b, err := r.Next(nil)
			require.NoError(t, err)
			require.Equal(t, string(test.delim), string(r.Delimiter()))
			var rows table.Rows
			require.NoError(t, r.Split(b, &rows))
			var texts []string
			join := "|"
			if test.delim == '|' {
				join = "*"
			}
			for i := range rows.Len() {
				var row []string
				for _, c := range rows.Row(i) {
					row = append(row, string(rows.Text(c)))
				}
				texts = append(texts, strings.Join(row, join))
			}
			require.Equal(t, test.want, strings.Join(texts, "/"))
		})
	}
}

func TestReadErrors(t *testing.T) {
	for _, test := range []struct {
		name, text string
		row        int
		what       string
	}{
		{"open quote", "a\n\"b\nc\n", 2, "a quote opens here and is never closed"},
		{"open quote behind spaces", "a\nb, \"c\nd\n", 2, "a quote opens here"},
		{"text behind a quote", "a\n\"b\"c,d\n", 2, `text follows a closing quote: "b"c`},
		{"text behind a quote of several lines", "\"a\nb\" c\n", 2, "text follows a closing quote"},
		{"NUL", "a\nb\x00\n", 2, "a NUL byte"},
		{"no UTF-8", "a\nb\n\xff\n", 3, "the byte 0xff is no UTF-8"},
	} {
		t.Run(test.name, func(t *testing.T) {
			_, _, err := read([]byte(test.text))
			var row *table.RowError
			require.True(t, errors.As(err, &row), "%v", err)
			require.Equal(t, test.row, row.Row)
			require.Contains(t, row.Text, test.what)
		})
	}
}

// A text of many blocks reads as the standard library reads it, wherever blocks
// are cut.
func TestReadManyBlocks(t *testing.T) {
	for seed := range uint64(8) {
		r := rand.New(rand.NewPCG(seed, 7))
		var want [][]string
		var text bytes.Buffer
		for text.Len() < 5*BlockSize {
			row := make([]string, 1+r.IntN(30))
			for i := range row {
				row[i] = randomCell(r)
			}
			if len(row) == 1 && row[0] == "" {
				continue // the standard library passes over it
			}
			want = append(want, row)
			for i, c := range row {
				if i > 0 {
					text.WriteByte(',')
				}
				if strings.ContainsAny(c, ",\"\n") || r.IntN(5) == 0 {
					c = `"` + strings.ReplaceAll(c, `"`, `""`) + `"`
				}
				text.WriteString(c)
			}
			text.WriteString([]string{"\n", "\r\n"}[r.IntN(2)])
		}
		have, lines, err := read(text.Bytes())
		require.NoError(t, err)
		require.Equal(t, want, have)
		line := 1
		for i, row := range want {
			require.Equal(t, line, lines[i])
			line += 1 + strings.Count(strings.Join(row, ""), "\n")
		}
		std := stdcsv.NewReader(bytes.NewReader(text.Bytes()))
		std.FieldsPerRecord = -1
		same, err := std.ReadAll()
		require.NoError(t, err)
		require.Equal(t, same, have)
	}
}

func randomCell(r *rand.Rand) string {
	switch r.IntN(12) {
	case 0:
		return ""
	case 1:
		return "a, b"
	case 2:
		return `say "it"`
	case 3:
		return "two\nlines"
	case 4:
		return strings.Repeat("long ", r.IntN(300))
	}
	return fmt.Sprintf("%d.%02d", r.IntN(10000), r.IntN(100))
}

// FuzzRead: no text panics; what the standard library reads is read the same;
// what is read and written again reads the same.
func FuzzRead(f *testing.F) {
	for _, s := range []string{"a,b\n1,2\n", "\"a\"\"b\",\r\nc", " \"x\" ,\n", "\ufeff,\n\n", "\"open", "\"a\"b", "2\" rope,\"\"", "\x00",
		"\xff"} {
		f.Add([]byte(s))
	}
	f.Fuzz(func(t *testing.T, data []byte) {
		rows, lines, err := read(data)
		if err != nil {
			var row *table.RowError
			require.ErrorAs(t, err, &row)
			require.Positive(t, row.Row)
			return
		}
		require.Len(t, lines, len(rows))
		var again []byte
		for _, row := range rows {
			again = table.AppendLine(again, row...)
		}
		if !bytes.HasPrefix(again, []byte("\ufeff")) {
			twice, _, err := read(again)
			require.NoError(t, err)
			require.Equal(t, rows, twice)
		}
		std := stdcsv.NewReader(bytes.NewReader(bytes.TrimPrefix(data, []byte("\ufeff"))))
		std.FieldsPerRecord = -1
		want, err := std.ReadAll()
		if err != nil || !utf8.Valid(data) || bytes.Contains(data, []byte("\r")) { // it takes lone ones off, and within quotes
			return
		}
		var have [][]string
		for _, row := range rows {
			if len(row) > 1 || row[0] != "" {
				have = append(have, row)
			}
		}
		for i := len(want) - 1; i >= 0; i-- { // "" alone in a line is a row to it, an empty line none
			if len(want[i]) == 1 && want[i][0] == "" {
				want = append(want[:i], want[i+1:]...)
			}
		}
		if len(want) > 0 || len(have) > 0 {
			require.Equal(t, want, have)
		}
	})
}

// batch is one of two rows and two slots with columns of every level.
func batch() *table.Batch {
	texts := func(words ...string) *table.Dict {
		d := table.NewDict()
		for _, w := range words {
			code, _ := d.Code([]byte(w))
			d.SetOut(code, w)
		}
		return d
	}
	data := append([]byte("1.50,-7.25"), make([]byte, table.BlockSlack)...)
	return &table.Batch{Rows: 2, Slots: 2, Fates: make([]table.Fate, 4), Data: data, Columns: []table.Column{
		{Level: table.PerExtract, Codes: []uint32{0}, Texts: texts("Amber, Bay")},
		{Level: table.PerRow, Codes: []uint32{0, 1}, Texts: texts("Holm", strings.Repeat("long ", 40))},
		{Level: table.PerSlot, Codes: []uint32{0, 1}, Texts: texts("Buoy", `2" rope`)},
		{Level: table.PerCell, Numbers: []table.Number{{Coef: 150, Places: 2, Off: 0, Len: 4, Form: table.Copy}, {},
			{Coef: -725, Places: 2, Off: 5, Len: 5, Form: table.Copy}, {Coef: 12345, Places: 1, Form: table.Print}}},
		{Level: table.PerCell, Codes: []uint32{0, 1, 0, 1}, Texts: texts("", strings.Repeat("n", 500))},
	}}
}

func TestEncode(t *testing.T) {
	long := strings.Repeat("long ", 40)
	n := strings.Repeat("n", 500)
	for _, test := range []struct {
		name    string
		columns []int
		fates   []table.Fate
		want    []string
	}{
		{"all", []int{0, 1, 2, 3, 4}, nil, []string{`"Amber, Bay",Holm,Buoy,1.50,`, `"Amber, Bay",Holm,"2"" rope",,` + n,
			`"Amber, Bay",` + long + `,Buoy,-7.25,`, `"Amber, Bay",` + long + `,"2"" rope",1234.5,` + n}},
		{"another order", []int{4, 3, 2, 0, 1}, nil, []string{`,1.50,Buoy,"Amber, Bay",Holm`, n + `,,"2"" rope","Amber, Bay",Holm`,
			`,-7.25,Buoy,"Amber, Bay",` + long, n + `,1234.5,"2"" rope","Amber, Bay",` + long}},
		{"some rows", []int{2, 3}, []table.Fate{table.Held, table.Delivered, table.Skipped, table.Dropped}, []string{`"2"" rope",`}},
		{"one column", []int{0}, nil, []string{`"Amber, Bay"`, `"Amber, Bay"`, `"Amber, Bay"`, `"Amber, Bay"`}},
	} {
		t.Run(test.name, func(t *testing.T) {
			b := batch()
			copy(b.Fates, test.fates)
			e := NewEncoder(test.columns)
			want := strings.Join(test.want, "\n") + "\n"
			for range 2 { // the second time with used buffers
				require.Equal(t, "x"+want, string(e.Encode([]byte("x"), b)))
			}
		})
	}
}

// Blocks that are skipped are those that would be read, in a text with quotes around cells only; in any
// text they are all of it, and end.
func TestSkip(t *testing.T) {
	r := rand.New(rand.NewPCG(6, 6))
	cells := []string{"Holm", "", "\"a, b\"", "\"two\nlines\"", "\"he said \"\"no\"\"\"", "12.5", "\"\""}
	for round := range 60 {
		odd := round%3 == 0
		var text strings.Builder
		for range 4000 {
			for c := range 4 {
				if c > 0 {
					text.WriteString(",")
				}
				if odd && r.IntN(500) == 0 {
					text.WriteString("5\" rope")
				} else {
					text.WriteString(cells[r.IntN(len(cells))])
				}
			}
			text.WriteString([]string{"\n", "\r\n"}[round%2])
		}
		blocks := func(skip bool) (out []string, line int) {
			in := NewReader(strings.NewReader(text.String()), ',')
			for {
				next := in.Next
				if skip {
					next = in.Skip
				}
				b, err := next(nil)
				if err != nil {
					return out, line
				}
				out, line = append(out, fmt.Sprint(b.Line, " ", string(b.Data))), b.Line
			}
		}
		want, _ := blocks(false)
		have, _ := blocks(true)
		require.NotEmpty(t, want)
		if !odd {
			require.True(t, slices.Equal(want, have), "round %d", round)
		}
	}
}
