package hostile

import (
	"bytes"
	"compress/flate"
	"encoding/binary"
	"fmt"
	"hash/crc32"
	"io"
)

// Archives that no program writes: their directories do not say what is there.

// local is a member as it stands in an archive: its header, and its text packed.
func local(name string, packed []byte, crc uint32, size int) []byte {
	var b bytes.Buffer
	b.WriteString("PK\x03\x04")
	put(&b, uint16(20), uint16(0), uint16(8), uint32(0), crc, uint32(len(packed)), uint32(size), uint16(len(name)), uint16(0))
	b.WriteString(name)
	b.Write(packed)
	return b.Bytes()
}

// listed is a member as it stands in the directory.
func listed(b *bytes.Buffer, name string, packed int, crc uint32, size, at int) {
	b.WriteString("PK\x01\x02")
	put(b, uint16(20), uint16(20), uint16(0), uint16(8), uint32(0), crc, uint32(packed), uint32(size), uint16(len(name)), uint16(0), uint16(0),
		uint16(0), uint16(0), uint32(0), uint32(at))
	b.WriteString(name)
}

func ended(b *bytes.Buffer, members, at int) {
	size := b.Len() - at
	b.WriteString("PK\x05\x06")
	put(b, uint16(0), uint16(0), uint16(members), uint16(members), uint32(size), uint32(at), uint16(0))
}

func put(b *bytes.Buffer, values ...any) {
	for _, v := range values {
		_ = binary.Write(b, binary.LittleEndian, v)
	}
}

func packedText(text []byte) ([]byte, uint32) {
	var b bytes.Buffer
	z, _ := flate.NewWriter(&b, flate.BestCompression)
	_, _ = z.Write(text)
	_ = z.Close()
	return b.Bytes(), crc32.ChecksumIEEE(text)
}

// overlapping is an archive of about so many bytes, whose members are all the same 20 MB.
func overlapping(bytesLong int) func(io.Writer) error {
	return func(w io.Writer) error {
		text := append([]byte("branch,amount\n"), bytes.Repeat([]byte("Old Slip,5\n"), 2<<20)...)
		packed, crc := packedText(text)
		b := bytes.NewBuffer(local("a.csv", packed, crc, len(text)))
		at, n := b.Len(), 0
		for ; b.Len() < bytesLong; n++ {
			listed(b, fmt.Sprintf("%04d.csv", n), len(packed), crc, len(text), 0)
		}
		ended(b, n, at)
		_, err := w.Write(b.Bytes())
		return err
	}
}

// liar is an archive with a member that says it has 20 bytes, and has 1 GB.
func liar(w io.Writer) error {
	packed, crc := packedText(append([]byte("branch,amount\n"), bytes.Repeat([]byte("Old Slip,5\n"), 100_000_000)...))
	b := bytes.NewBuffer(local("a.csv", packed, crc, 20))
	at := b.Len()
	listed(b, "a.csv", len(packed), crc, 20, 0)
	ended(b, 1, at)
	_, err := w.Write(b.Bytes())
	return err
}
