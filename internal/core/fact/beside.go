package fact

import (
	"crypto/sha256"
	"encoding/hex"
	"fmt"
	"io"
	"os"

	"umbau/internal/core/pass"
	"umbau/internal/core/place"
	"umbau/internal/core/plan"
	"umbau/internal/core/table"
)

// checkInput reports an input that is no longer what it was: what was read may be
// half of one and half of another.
func (b *build) checkInput(in *FileInfo) {
	before, what := in.found, ""
	switch now, err := os.Stat(b.plan.At(in.Name)); {
	case err != nil:
		what = "it is no longer there"
	case now.Size() != before.Size():
		what = fmt.Sprintf("it had %d bytes and has %d", before.Size(), now.Size())
	case !os.SameFile(before, now):
		what = "another file took its place"
	case !now.ModTime().Equal(before.ModTime()):
		what = "it was written to"
	default:
		return
	}
	p := place.At(place.Place{File: in.Name}, "changed file", "the file changed while it was read: %s", what)
	p.Advice = "let the one who writes it finish, then build again"
	b.fail(p)
}

// checkCopies stops for files of extracts that are copies of others, byte for byte once
// unpacked, and have rows. Only files of one size are compared, by their SHA-256.
func (b *build) checkCopies() {
	if b.summary.ExitCode() == 1 {
		return
	}
	var files []*pass.Input
	used := map[string]int{}
	for i, in := range b.inputs {
		if _, known := used[in.File]; !known {
			files = append(files, in)
		}
		used[in.File] += b.summary.Extracts[i].Rows.Used
		if n := in.Table.Bytes; n >= 0 {
			in.Size = n
		}
	}
	bySize := map[int64][]*pass.Input{}
	for _, in := range files {
		if used[in.File] > 0 && in.Table.Content != nil {
			bySize[in.Size] = append(bySize[in.Size], in)
		}
	}
	inputs := map[string]*FileInfo{} // what is known of the files themselves
	for i := range b.summary.Inputs {
		f := &b.summary.Inputs[i]
		inputs[f.Name] = f
	}
	for _, in := range files {
		if same := bySize[in.Size]; len(same) > 1 && same[0] == in {
			b.compareCopies(same, inputs)
		}
	}
}

// compareCopies compares files of one size.
func (b *build) compareCopies(files []*pass.Input, inputs map[string]*FileInfo) {
	first := map[string]*pass.Input{}
	for _, in := range files {
		digest, err := contentDigest(in, inputs[in.Path])
		if err != nil {
			b.fail(table.Problem(in.Place(), err))
			return
		}
		before := first[digest]
		if before == nil {
			first[digest] = in
			continue
		}
		if in.Entry.SameFiles != plan.Stop {
			continue
		}
		p := place.At(place.Place{File: in.File}, "same file", "a file is the copy of another one: its rows would count twice").ByRule()
		p.Texts = []string{"the same as " + before.File}
		p.Plan, p.Add = in.Entry.Pos, "same_files: keep"
		p.Advice = "if both are meant; else remove one of them, or leave it out with except"
		b.fail(p)
	}
}

// contentDigest is the SHA-256 of a file of extracts, unpacked.
func contentDigest(in *pass.Input, file *FileInfo) (string, error) {
	if file != nil && file.Digest != nil && in.Table.Bytes == file.Bytes && in.Table.Member == "" {
		return *file.Digest, nil
	}
	content, err := in.Table.Content()
	if err != nil {
		return "", err
	}
	defer content.Close()
	h := sha256.New()
	if _, err := io.CopyBuffer(h, content, make([]byte, min(in.Size+1, 32<<10))); err != nil {
		return "", err
	}
	return hex.EncodeToString(h.Sum(nil)), nil
}
