package charset

import (
	"bytes"
	"io"
	"strings"
	"testing"
	"testing/iotest"

	"github.com/stretchr/testify/require"

	"umbau/internal/core/table"
)

func encoded(t *testing.T, name, text string) []byte {
	if name == UTF8 {
		return []byte(text)
	}
	b, err := encodings[name].NewEncoder().Bytes([]byte(text))
	require.NoError(t, err)
	return b
}

func TestFoundOut(t *testing.T) {
	ascii := strings.Repeat("Branch;Buoy\r\nHolm;1,50\r\n", 8000)
	for _, test := range []struct {
		name, text, want string
		data             []byte
	}{
		{"ASCII", ascii, UTF8, []byte(ascii)},
		{"UTF-8", "Möwe € \n" + ascii, UTF8, []byte("Möwe € \n" + ascii)},
		{"UTF-8, late", ascii + "Möwe", UTF8, []byte(ascii + "Möwe")},
		{"UTF-8 with a mark", "Möwe", UTF8, []byte("\ufeffMöwe")},
		{"Windows-1252", "Möwe € – „x“\n", Windows1252, encoded(t, Windows1252, "Möwe € – „x“\n")},
		{"Windows-1252, late", ascii + "Möwe\n" + ascii, Windows1252, encoded(t, Windows1252, ascii+"Möwe\n"+ascii)},
		{"ISO 8859-15", "Möwe 5 €\n", ISO885915, encoded(t, ISO885915, "Möwe 5 €\n")},
		{"UTF-16 LE with a mark", "Möwe €\n" + ascii, UTF16LE, append([]byte("\xff\xfe"), encoded(t, UTF16LE, "Möwe €\n"+ascii)[2:]...)},
		{"UTF-16 BE with a mark", "Möwe €\n", UTF16BE, encoded(t, UTF16BE, "Möwe €\n")},
		{"UTF-16 LE without", "Branch;Möwe €\n", UTF16LE, encoded(t, UTF16LE, "Branch;Möwe €\n")[2:]},
		{"UTF-16 BE without", "Branch;Möwe €\n", UTF16BE, encoded(t, UTF16BE, "Branch;Möwe €\n")[2:]},
		{"empty", "", UTF8, nil},
	} {
		t.Run(test.name, func(t *testing.T) {
			for _, in := range []io.Reader{bytes.NewReader(test.data), iotest.OneByteReader(bytes.NewReader(test.data))} {
				r := NewReader(in, "")
				have, err := io.ReadAll(r)
				require.NoError(t, err)
				require.Equal(t, test.text, string(have))
				require.Equal(t, test.want, r.Encoding())
			}
		})
	}
}

func TestSaid(t *testing.T) {
	for _, name := range table.Encodings {
		text := "Möwe €"
		if name == CP437 || name == CP850 { // which have no euro sign
			text = "Möwe £"
		}
		data := encoded(t, name, text)
		have, err := io.ReadAll(NewReader(bytes.NewReader(data), name))
		require.NoError(t, err)
		require.Equal(t, text, string(have), name)
	}
	_, err := io.ReadAll(NewReader(iotest.ErrReader(io.ErrClosedPipe), ""))
	require.ErrorIs(t, err, io.ErrClosedPipe)
}

// What speaks against the encoding that was found out.
func TestDoubt(t *testing.T) {
	for _, test := range []struct {
		name string
		data []byte
		want *Doubt
	}{
		{"Windows-1252", encoded(t, Windows1252, "Größe; L’œuvre; „Anker“ – 5 €; Côté; Žižka; rope…and; Gore™tex"), nil},
		{"signs within words", encoded(t, Windows1252, "Tom´s; MÜLLER; Œuvres; n°; m²; col·lecció; 1½inch; Rope®s; João; a b"), nil},
		{"ISO 8859-15", encoded(t, ISO885915, "5 €; Größe"), nil},
		{"UTF-8 in some lines", append(encoded(t, Windows1252, "a\nGröße\n"), "Müller\n"...), &Doubt{Row: 3, Word: "MÃ¼ller", Mixed: true}},
		{"code page 850", encoded(t, CP850, "a\nKöln\nMüller\n"), &Doubt{Row: 2, Word: "K”ln", Other: CP850}},
		{"one letter beside another", encoded(t, CP850, "a\nGröße\n"), &Doubt{Row: 2, Word: "Gr”áe", Other: CP850}},
		{"capital letters", encoded(t, CP437, "ÖLJACKE\n"), &Doubt{Row: 1, Word: "™LJACKE", Other: CP850}},
		{"one of them", encoded(t, CP850, "MÜLLER\n"), &Doubt{Row: 1, Word: "MšLLER", Other: CP850}},
		{"a tilde", encoded(t, CP850, "João\n"), &Doubt{Row: 1, Word: "JoÆo", Other: CP850}},
		{"Macintosh", encoded(t, Macintosh, "Flüsse\n"), &Doubt{Row: 1, Word: "FlŸsse", Other: Macintosh}},
		{"a sharp s of it", encoded(t, Macintosh, "Größe\n"), &Doubt{Row: 1, Word: "Grš§e", Other: Macintosh}},
		{"ISO 8859-15 without a euro", encoded(t, ISO885915, "a\nbœuf\n"), nil},
		{"more of it", encoded(t, ISO885915, "Košice; muž; Größe\n"), nil},
		{"ISO 8859-15 with one", encoded(t, ISO885915, "bœuf; Žižka; 5 €\n"), nil},
		{"ISO 8859-15, which shows late", append(bytes.Repeat(encoded(t, ISO885915, "Größe\n"), 20_000), encoded(t, ISO885915, "bœuf\n")...),
			&Doubt{Row: 20_001, Word: "b½uf", Other: ISO885915}},
	} {
		for _, in := range []io.Reader{bytes.NewReader(test.data), iotest.OneByteReader(bytes.NewReader(test.data))} {
			r := NewReader(in, "")
			_, err := io.ReadAll(r)
			require.NoError(t, err, test.name)
			require.Equal(t, test.want, r.Doubt(), test.name)
		}
		r := NewReader(bytes.NewReader(test.data), Windows1252)
		_, _ = io.ReadAll(r)
		require.Nil(t, r.Doubt(), "what the plan says is not doubted")
	}
}
