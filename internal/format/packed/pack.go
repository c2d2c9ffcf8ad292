package packed

import (
	"bytes"

	"github.com/klauspost/compress/gzip"
	"github.com/klauspost/compress/zstd"
)

// Packer packs texts into members that stand one behind the other: what they unpack to is
// all texts in their order. Each goroutine has its own.
type Packer struct {
	gzip *gzip.Writer
	zstd *zstd.Encoder
}

// NewPacker returns a packer of gzip or Zstandard.
func NewPacker(kind Kind) *Packer {
	if kind == Gzip {
		z, _ := gzip.NewWriterLevel(nil, gzip.DefaultCompression) // a level that there is
		return &Packer{gzip: z}
	}
	z, err := zstd.NewWriter(nil, zstd.WithEncoderConcurrency(1), zstd.WithEncoderCRC(true), zstd.WithWindowSize(1<<20))
	if err != nil {
		panic(err) // options that there are
	}
	return &Packer{zstd: z}
}

// Append appends a member.
func (p *Packer) Append(dst, text []byte) []byte {
	if p.zstd != nil {
		return p.zstd.EncodeAll(text, dst)
	}
	b := bytes.NewBuffer(dst)
	p.gzip.Reset(b)
	p.gzip.Write(text) // into memory, which never fails
	p.gzip.Close()
	return b.Bytes()
}
