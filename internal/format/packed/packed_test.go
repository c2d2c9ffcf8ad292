package packed_test

import (
	"archive/zip"
	"bytes"
	"errors"
	"io"
	"testing"

	"github.com/klauspost/compress/gzip"
	"github.com/klauspost/compress/zstd"
	"github.com/stretchr/testify/require"

	"umbau/internal/core/table"
	"umbau/internal/format/packed"
)

func gzipped(t *testing.T, parts ...string) []byte {
	var b bytes.Buffer
	for _, p := range parts {
		z := gzip.NewWriter(&b)
		_, err := io.WriteString(z, p)
		require.NoError(t, err)
		require.NoError(t, z.Close())
	}
	return b.Bytes()
}

func zstandard(t *testing.T, text string) []byte {
	var b bytes.Buffer
	z, err := zstd.NewWriter(&b)
	require.NoError(t, err)
	_, err = io.WriteString(z, text)
	require.NoError(t, err)
	require.NoError(t, z.Close())
	return b.Bytes()
}

// zipped is an archive of members, name and text by turns.
func zipped(t *testing.T, members ...string) []byte {
	var b bytes.Buffer
	z := zip.NewWriter(&b)
	for i := 0; i < len(members); i += 2 {
		w, err := z.Create(members[i])
		require.NoError(t, err)
		_, err = io.WriteString(w, members[i+1])
		require.NoError(t, err)
	}
	require.NoError(t, z.Close())
	return b.Bytes()
}

func unpack(data []byte, limit packed.Limits) (string, error) {
	in, err := packed.Unpack(bytes.NewReader(data), packed.KindOf(data), int64(len(data)), limit)
	if err != nil {
		return "", err
	}
	defer in.Close()
	out, err := io.ReadAll(in)
	return string(out), err
}

// says requires an error about a file with these words.
func says(t *testing.T, err error, words string) {
	t.Helper()
	var file *table.FileError
	require.True(t, errors.As(err, &file), "%v", err)
	require.Contains(t, file.Text, words)
	require.NotEmpty(t, file.Advice)
}

func TestKindOf(t *testing.T) {
	for head, want := range map[string]packed.Kind{
		"": packed.Plain, "a,b\n1,2\n": packed.Plain, "PK": packed.Plain, "\x1f": packed.Plain, "PK\x01\x02": packed.Plain,
		string(gzipped(t, "a")): packed.Gzip, string(zstandard(t, "a")): packed.Zstandard, string(zipped(t, "a", "b")): packed.Zip,
		string(zipped(t)): packed.Zip,
	} {
		require.Equal(t, want, packed.KindOf([]byte(head)), "%q", head)
	}
}

func TestUnpack(t *testing.T) {
	text := "branch,amount\nQuay 4,1\n"
	for name, data := range map[string][]byte{"gzip": gzipped(t, text), "gzip of two members": gzipped(t, text[:9], text[9:]),
		"Zstandard": zstandard(t, text)} {
		have, err := unpack(data, packed.Default)
		require.NoError(t, err, name)
		require.Equal(t, text, have, name)
	}
	_, err := packed.Unpack(bytes.NewReader(zipped(t)), packed.Zip, 1, packed.Default)
	require.Error(t, err, "an archive of several files is no stream")
}

func TestDamaged(t *testing.T) {
	long := bytes.Repeat([]byte("Quay 4,12.50\nOld Slip,3\n"), 2000)
	gz, zs := gzipped(t, string(long)), zstandard(t, string(long))
	flipped := func(data []byte, at int) []byte {
		out := bytes.Clone(data)
		out[at] ^= 0xff
		return out
	}
	for _, c := range []struct {
		name, words string
		data        []byte
	}{
		{"gzip cut in its header", "ends too early", gz[:5]},
		{"gzip cut in the middle", "ends too early", gz[:len(gz)/2]},
		{"gzip cut before its sum", "ends too early", gz[:len(gz)-3]},
		{"gzip with another sum", "its checksum is wrong", flipped(gz, len(gz)-6)},
		{"gzip with a wrong header", "damaged", flipped(gz, 2)},
		{"Zstandard cut", "ends too early", zs[:len(zs)-7]},
		{"Zstandard with another sum", "its checksum is wrong", flipped(zs, len(zs)-1)},
	} {
		t.Run(c.name, func(t *testing.T) {
			_, err := unpack(c.data, packed.Default)
			says(t, err, c.words)
		})
	}
}

// A small file may not fill memory or disk.
func TestLimits(t *testing.T) {
	zeros := string(make([]byte, 1<<20))
	for name, data := range map[string][]byte{"gzip": gzipped(t, zeros), "Zstandard": zstandard(t, zeros)} {
		_, err := unpack(data, packed.Limits{Bytes: 1<<20 - 1})
		says(t, err, "unpacks to far more")
		have, err := unpack(data, packed.Limits{Bytes: 1 << 20})
		require.NoError(t, err, name)
		require.Len(t, have, 1<<20)
		_, err = unpack(data, packed.Limits{Bytes: 1 << 30, Ratio: 2})
		require.NoError(t, err, "any file may unpack to a hundred MB")
	}
	// Beyond that the ratio counts: 200 MB of zeros take some hundred KB.
	var b bytes.Buffer
	z := gzip.NewWriter(&b)
	for range 200 {
		_, err := io.WriteString(z, zeros)
		require.NoError(t, err)
	}
	require.NoError(t, z.Close())
	in, err := packed.Unpack(&b, packed.Gzip, int64(b.Len()), packed.Limits{Bytes: 1 << 40, Ratio: 500})
	require.NoError(t, err)
	n, err := io.Copy(io.Discard, in)
	says(t, err, "unpacks to far more")
	require.Less(t, n, int64(129<<20))
}

func TestMembers(t *testing.T) {
	data := zipped(t, "2024/", "", "2024/Lakes.csv", "a\n1\n", `2023\Skerries.csv`, "b\n", "./top.csv", "c\n", "__MACOSX/2024/._Lakes.csv",
		"x", ".hidden.csv", "x", "2024/~$Lakes.xlsx", "x", "Thumbs.db", "x")
	members, err := packed.Members(bytes.NewReader(data), int64(len(data)), packed.Default)
	require.NoError(t, err)
	var names []string
	for _, m := range members {
		if m.Hidden() {
			continue
		}
		names = append(names, m.Name)
		in, err := m.Open(packed.Default)
		require.NoError(t, err)
		text, err := io.ReadAll(in)
		require.NoError(t, err)
		require.EqualValues(t, m.Size, len(text))
		require.NoError(t, in.Close())
	}
	require.Equal(t, []string{"2024/Lakes.csv", "2023/Skerries.csv", "top.csv"}, names)
	require.Len(t, members, 7, "those that are hidden are listed too")
}

func TestMembersThatAreRefused(t *testing.T) {
	for name, words := range map[string]string{"../a.csv": "out of the archive", "a/../../b.csv": "out of the archive",
		"/etc/a.csv": "out of the archive", `C:\a.csv`: "out of the archive"} {
		data := zipped(t, "good.csv", "a", name, "b")
		_, err := packed.Members(bytes.NewReader(data), int64(len(data)), packed.Default)
		says(t, err, words)
		var file *table.FileError
		require.ErrorAs(t, err, &file)
		require.Equal(t, name, file.Member)
	}
	data := zipped(t, "a.csv", "text")
	_, err := packed.Members(bytes.NewReader(data[:len(data)-10]), int64(len(data)-10), packed.Default)
	says(t, err, "the end of it is missing")

	locked := bytes.Clone(data)
	locked[bytes.Index(locked, []byte("PK\x01\x02"))+8] |= 1
	_, err = packed.Members(bytes.NewReader(locked), int64(len(locked)), packed.Default)
	says(t, err, "password")

	other := bytes.Clone(data)
	other[bytes.Index(other, []byte("PK\x01\x02"))+10] = 97 // a method of packing
	members, err := packed.Members(bytes.NewReader(other), int64(len(other)), packed.Default)
	require.NoError(t, err)
	_, err = members[0].Open(packed.Default)
	says(t, err, "not known here")
}

func TestMemberLimit(t *testing.T) {
	data := zipped(t, "zeros.csv", string(make([]byte, 1<<20)))
	members, err := packed.Members(bytes.NewReader(data), int64(len(data)), packed.Default)
	require.NoError(t, err)
	in, err := members[0].Open(packed.Limits{Bytes: 1000})
	require.NoError(t, err)
	_, err = io.ReadAll(in)
	says(t, err, "unpacks to far more")
}

// A frame to be skipped may stand before the text; a window that is too wide is called what it is.
func TestFramesOfZstandard(t *testing.T) {
	skipped := append([]byte{0x5a, 0x2a, 0x4d, 0x18, 3, 0, 0, 0}, "abc"...)
	text, err := unpack(append(skipped, zstandard(t, "Branch,Buoy\n")...), packed.Default)
	require.NoError(t, err)
	require.Equal(t, "Branch,Buoy\n", text)
	require.Equal(t, packed.Plain, packed.KindOf([]byte{0x5a, 0x2a, 0x4d, 0x19, 3, 0, 0, 0}))

	wide := []byte{0x28, 0xb5, 0x2f, 0xfd, 0x00, 21 << 3, 1, 0, 0} // a window of 2^31 bytes
	_, err = unpack(wide, packed.Default)
	require.ErrorContains(t, err, "--long=31")
}

// Names of members are of the code page of the system that packed them, where they are no UTF-8.
func TestNamesOfMembers(t *testing.T) {
	for name, want := range map[string]string{
		"Lakes.csv": "Lakes.csv", "Köln.csv": "Köln.csv", "K\x94ln.csv": "Köln.csv", "M\x81hle/\x9aber.csv": "Mühle/Über.csv",
		"Troms\x9b.csv": "Tromsø.csv", "Stra\xe1e.csv": "Straße.csv", "K\xf6ln.csv": "Köln.csv", "S\xe3o Tom\xe9.csv": "São Tomé.csv",
		"a\xb0b.csv": "a\xb0b.csv",
	} {
		data := zipped(t, name, "a\n1\n")
		members, err := packed.Members(bytes.NewReader(data), int64(len(data)), packed.Default)
		require.NoError(t, err)
		require.Equal(t, want, members[0].Name, "%q", name)
	}
}
