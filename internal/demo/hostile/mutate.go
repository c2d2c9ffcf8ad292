package hostile

import (
	"archive/zip"
	"bytes"
	"io"
	"math/rand/v2"
)

// tokens are what changes the reading of all that follows.
var tokens = []string{`"`, `""`, "\r", "\n", ";", "\t", "\x00", "\xff\xfe", "\xef\xbb\xbf", "1e999999", "-", "'", "=1+1", "<![CDATA[",
	"]]>", "<!--", "</row>", "&#0;", "&amp", "<c>", `r="A0"`, `r="ZZZZZ9"`, `t="s"`, "{", "[", ": ", "- ",
	"&a ", "*a ", "\xff\xff\xff\xff", "\x7f\xff\xff\xff", "**/", "../", "#REF!"}

// Mutate changes, cuts, doubles or moves bytes of a file, one to four times; of an archive, half of the
// time, those of a member before it is packed.
func Mutate(r *rand.Rand, data []byte) []byte {
	if bytes.HasPrefix(data, []byte("PK")) && r.IntN(2) == 0 {
		if packed := mutateMember(r, data); packed != nil {
			return packed
		}
	}
	out := bytes.Clone(data)
	for range 1 + r.IntN(4) {
		if len(out) == 0 {
			return out
		}
		from := r.IntN(len(out))
		to := from + r.IntN(min(len(out)-from, 1<<r.IntN(14))+1)
		switch r.IntN(7) {
		case 0:
			out[from] = byte(r.IntN(256))
		case 1:
			out[from] ^= 1 << r.IntN(8)
		case 2:
			out = out[:from]
		case 3:
			out = append(out[:from:from], out[to:]...)
		case 4:
			out = append(out[:to:to], out[from:]...)
		case 5:
			piece := bytes.Clone(out[from:to])
			out = append(out[:from:from], out[to:]...)
			at := r.IntN(len(out) + 1)
			out = append(out[:at:at], append(piece, out[at:]...)...)
		case 6:
			out = append(out[:from:from], append([]byte(tokens[r.IntN(len(tokens))]), out[from:]...)...)
		}
	}
	return out
}

// mutateMember packs an archive again in which one member has changed; nil where it cannot be read.
func mutateMember(r *rand.Rand, data []byte) []byte {
	in, err := zip.NewReader(bytes.NewReader(data), int64(len(data)))
	if err != nil || len(in.File) == 0 {
		return nil
	}
	var out bytes.Buffer
	w := zip.NewWriter(&out)
	which := r.IntN(len(in.File))
	for i, f := range in.File {
		from, err := f.Open()
		if err != nil {
			return nil
		}
		content, err := io.ReadAll(from)
		if err != nil {
			return nil
		}
		if i == which {
			content = Mutate(r, content)
		}
		to, err := w.Create(f.Name)
		if err == nil {
			_, err = to.Write(content)
		}
		if err != nil {
			return nil
		}
	}
	if w.Close() != nil {
		return nil
	}
	return out.Bytes()
}
