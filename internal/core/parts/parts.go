// Package parts writes and reads part files: what one share of a build leaves for the join.
//
// A part is an archive of sections, behind them a manifest with the digest of each: a part that is torn
// or was changed is found before anything is made of it. It appears whole or not at all.
package parts

import (
	"archive/zip"
	"bytes"
	"crypto/sha256"
	"encoding/gob"
	"encoding/hex"
	"errors"
	"fmt"
	"hash"
	"io"
	"os"
	"path/filepath"
	"regexp"
	"strconv"

	"umbau/internal/core/whole"
)

// Name is the name of the part of share n of so many.
func Name(n, of int) string { return Folder(n, of) + ".part" }

// Folder is the folder of the files beside the part of share n of so many.
func Folder(n, of int) string { return fmt.Sprintf("share-%05d-of-%05d", n, of) }

var nameForm = regexp.MustCompile(`^share-(\d{5,})-of-(\d{5,})\.part$`)

// Shares says which numbers of shares the parts in a folder are of.
func Shares(dir string) (of map[int][]int, err error) {
	entries, err := os.ReadDir(dir)
	if err != nil {
		return nil, err
	}
	of = map[int][]int{}
	for _, e := range entries {
		if m := nameForm.FindStringSubmatch(e.Name()); m != nil {
			n, _ := strconv.Atoi(m[1])
			all, _ := strconv.Atoi(m[2])
			of[all] = append(of[all], n)
		}
	}
	return of, nil
}

const manifestName = "manifest"

// manifest is what is known of the sections of a part.
type manifest struct {
	About   []byte // what the part is of, by gob
	Digests map[string]string
}

// Writer writes a part.
type Writer struct {
	file *whole.File
	zip  *zip.Writer
	made manifest
	open *section
}

type section struct {
	name string
	to   io.Writer
	hash hash.Hash
}

// Write implements io.Writer.
func (s *section) Write(p []byte) (int, error) {
	s.hash.Write(p)
	return s.to.Write(p)
}

// Create begins the part of a share in a folder.
func Create(dir string, n, of int) (*Writer, error) {
	f, err := whole.Create(filepath.Join(dir, Name(n, of)), fmt.Sprintf(".umbau-share-%d-%d-", n, of))
	if err != nil {
		return nil, err
	}
	return &Writer{file: f, zip: zip.NewWriter(f), made: manifest{Digests: map[string]string{}}}, nil
}

// Section begins a section, which ends with the next.
func (w *Writer) Section(name string) (io.Writer, error) {
	w.end()
	to, err := w.zip.CreateHeader(&zip.FileHeader{Name: name, Method: zip.Store})
	if err != nil {
		return nil, err
	}
	w.open = &section{name, to, sha256.New()}
	return w.open, nil
}

func (w *Writer) end() {
	if w.open != nil {
		w.made.Digests[w.open.name] = hex.EncodeToString(w.open.hash.Sum(nil))
		w.open = nil
	}
}

// Put writes a section that a value is, by gob.
func (w *Writer) Put(name string, value any) error {
	to, err := w.Section(name)
	if err != nil {
		return err
	}
	return gob.NewEncoder(to).Encode(value)
}

// Publish ends the part, which is of what about says, and lets it appear.
func (w *Writer) Publish(about any) error {
	w.end()
	var text bytes.Buffer
	if err := gob.NewEncoder(&text).Encode(about); err != nil {
		return err
	}
	w.made.About = text.Bytes()
	to, err := w.zip.CreateHeader(&zip.FileHeader{Name: manifestName, Method: zip.Store})
	if err == nil {
		err = gob.NewEncoder(to).Encode(&w.made)
	}
	if err == nil {
		err = w.zip.Close()
	}
	if err == nil {
		err = w.file.Finish()
	}
	if err == nil {
		err = w.file.Publish()
	}
	return err
}

// Abandon removes what has not appeared.
func (w *Writer) Abandon() { w.file.Abandon() }

// Part is a part that was read.
type Part struct {
	Name string
	file *os.File
	zip  *zip.Reader
	made manifest
}

// Open opens the part of a share, and reads what it is of into about.
func Open(dir string, n, of int, about any) (*Part, error) {
	p := &Part{Name: filepath.Join(dir, Name(n, of))}
	var err error
	if p.file, err = os.Open(p.Name); err != nil {
		return nil, err
	}
	info, err := p.file.Stat()
	if err == nil {
		p.zip, err = zip.NewReader(p.file, info.Size())
	}
	var in io.ReadCloser
	if err == nil {
		in, err = p.zip.Open(manifestName)
	}
	var made []byte
	if err == nil {
		made, err = io.ReadAll(in) // to its end, where its checksum is
	}
	if err == nil {
		err = gob.NewDecoder(bytes.NewReader(made)).Decode(&p.made)
	}
	if err == nil {
		err = gob.NewDecoder(bytes.NewReader(p.made.About)).Decode(about)
	}
	if err != nil {
		p.file.Close()
		return nil, fmt.Errorf("it is damaged: %w", err)
	}
	return p, nil
}

// Read reads a section to its end.
func (p *Part) Read(name string, read func(io.Reader) error) error {
	in, err := p.zip.Open(name)
	if err != nil {
		return fmt.Errorf("it is damaged: it has no %s", name)
	}
	defer in.Close()
	h := sha256.New()
	all := io.TeeReader(in, h)
	if err := read(all); errors.Is(err, zip.ErrChecksum) || errors.Is(err, io.ErrUnexpectedEOF) {
		return fmt.Errorf("it is damaged: %w", err)
	} else if err != nil {
		return err
	}
	if _, err := io.Copy(io.Discard, all); err != nil {
		return fmt.Errorf("it is damaged: %w", err)
	}
	if hex.EncodeToString(h.Sum(nil)) != p.made.Digests[name] {
		return fmt.Errorf("it is damaged: its section %s is not as it was written", name)
	}
	return nil
}

// Get reads a section that a value is.
func (p *Part) Get(name string, value any) error {
	return p.Read(name, func(in io.Reader) error {
		if err := gob.NewDecoder(in).Decode(value); err != nil {
			return fmt.Errorf("it is damaged: %w", err)
		}
		return nil
	})
}

// Close ends reading.
func (p *Part) Close() { p.file.Close() }
