package fact

import (
	"errors"
	"fmt"
	"io"
	"io/fs"
	"path/filepath"
	"slices"

	"umbau/internal/core/keep"
	"umbau/internal/core/parts"
	"umbau/internal/core/pass"
	"umbau/internal/core/place"
	"umbau/internal/core/record"
	"umbau/internal/core/treat"
	"umbau/internal/core/whole"
)

// openParts opens the parts of a folder: all of them must be there, whole, of this plan and of these
// files.
func (b *build) openParts(dir string) (list []*parts.Part) {
	fail := func(file, format string, args ...any) {
		p := place.At(place.Place{File: file}, "part", format, args...)
		p.Advice = "run its share again with the same --parts, or remove what is not of this build"
		b.fail(p)
	}
	shares, err := parts.Shares(dir)
	switch {
	case err != nil:
		fail(dir, "the folder of the parts cannot be read: %s", whole.Reason(err))
		return nil
	case len(shares) == 0:
		fail(dir, "there are no parts in the folder; umbau build --share 1/4 --parts %s begins", dir)
		return nil
	case len(shares) > 1:
		fail(dir, "there are parts of different numbers of shares in the folder")
		return nil
	}
	for of := range shares {
		for n := 1; n <= of; n++ {
			file := filepath.Join(dir, parts.Name(n, of))
			var is about
			p, err := parts.Open(dir, n, of, &is)
			if err != nil {
				if errors.Is(err, fs.ErrNotExist) {
					fail(file, "the part of share %d of %d is not there", n, of)
				} else {
					fail(file, "the part cannot be read: %v", whole.Reason(err))
				}
				continue
			}
			list = append(list, p)
			want := b.about(n, of)
			if text := is.differs(&want); text != "" {
				fail(file, "%s", text)
			}
		}
	}
	return list
}

// differs says what a part is of that the build is not; "" for nothing.
func (a *about) differs(want *about) string {
	switch {
	case a.Version != want.Version:
		return fmt.Sprintf("the part is of version %s of the program, this is %s", a.Version, want.Version)
	case a.Plan != want.Plan:
		return "the part is of another plan, or of the plan before it changed"
	case a.N != want.N || a.Of != want.Of:
		return fmt.Sprintf("the part is that of share %d of %d", a.N, a.Of)
	}
	for i, in := range a.Inputs {
		if i >= len(want.Inputs) || want.Inputs[i].Name != in.Name {
			return "the part is of other files: " + in.Name
		}
		if now := want.Inputs[i]; now.Bytes != in.Bytes || !now.Time.Equal(in.Time) {
			return in.Name + " has changed since the share read it"
		}
	}
	if len(a.Inputs) < len(want.Inputs) {
		return "the part is of other files: it did not see " + want.Inputs[len(a.Inputs)].Name
	}
	return ""
}

// join takes what the shares of the build have left in the place of reading the extracts; where that
// does not do, it reads them.
func (b *build) join(dir string) {
	list := b.openParts(dir)
	defer func() {
		for _, p := range list {
			p.Close()
		}
	}()
	if b.summary.ExitCode() == 1 {
		return
	}
	before := slices.Clone(b.summary.Problems)
	states, follows, err := b.takeParts(list)
	if err == nil && follows {
		follows, err = b.joinPieces(list, states)
	}
	if err == nil && (!follows || b.readTwice(len(list))) {
		b.summary.Problems, b.summary.Checks = before, Checks{}
		b.begin()
		b.read()
		return
	}
	if err == nil {
		err = b.putParts(list, states, dir)
	}
	if err != nil && b.ctx.Err() == nil {
		file := dir
		var of *partError
		if errors.As(err, &of) {
			file, err = of.part, of.error
		}
		p := place.At(place.Place{File: file}, "part", "the parts cannot be read: %v", whole.Reason(err))
		p.Advice = "run the shares again"
		b.fail(p)
	}
}

// partError is what is wrong with a part.
type partError struct {
	part string
	error
}

// takeParts merges what was kept, and reports whether each share follows those before: nothing in them
// would have made another of it.
func (b *build) takeParts(list []*parts.Part) (states []shareState, follows bool, err error) {
	b.summary.Extracts, b.summary.entries = b.kept.accounts.Extracts, nil
	var ends *treat.Ends
	for _, p := range list {
		var state shareState
		if err := p.Get(stateSection, &state); err != nil {
			return nil, false, &partError{p.Name, err}
		}
		states = append(states, state)
		own := &treat.Ends{Firsts: state.Firsts, Currencies: state.Currencies, Passed: state.Passed}
		if ends == nil {
			ends = own
		} else if !ends.Follows(own) {
			return nil, false, nil
		}
	}
	for _, p := range list {
		for i, k := range b.kept.portable() {
			other := b.emptyLike(k)
			if err := p.Get(keptSection(i), other); err != nil {
				return nil, false, &partError{p.Name, err}
			}
			k.Merge(other)
		}
	}
	return states, true, nil
}

// emptyLike is a keeper of the same kind that has kept nothing.
func (b *build) emptyLike(k pass.Portable) pass.Portable {
	switch k.(type) {
	case *keep.Accounts:
		return &keep.Accounts{}
	case *keep.Names:
		return &keep.Names{}
	case *keep.Changes:
		return keep.NewChanges()
	case *keep.Notes:
		return &keep.Notes{}
	case *keep.Applied:
		return &keep.Applied{}
	case *keep.Grain:
		return keep.NewGrain(b.plan)
	case *keep.Lookups:
		return &keep.Lookups{}
	case *keep.NoSales:
		return &keep.NoSales{}
	case *keep.Values:
		return &keep.Values{}
	case *keep.Sections:
		return &keep.Sections{}
	}
	return &keep.Groups{}
}

// readTwice reports whether extracts of one file may be in different shares, of which neither could
// see that they are read twice.
func (b *build) readTwice(shares int) bool {
	portions, first := b.cut(shares), map[string]int{}
	for i, in := range b.inputs {
		file := whole.Resolved(b.plan.At(in.Path)) + "\x00" + in.Sheet + "\x00" + in.Table.Member
		before, known := first[file]
		first[file] = i
		if !known {
			continue
		}
		for _, p := range portions {
			if p.of(i) != p.of(before) || !p.of(i).None && !p.of(i).All() {
				return true
			}
		}
	}
	return false
}

// putParts gives the fact rows and the lines of the record to the outputs.
func (b *build) putParts(list []*parts.Part, states []shareState, dir string) error {
	s := b.summary
	b.out.begin(b.plan)
	s.Extracts = b.kept.accounts.Extracts
	for _, in := range b.inputs {
		s.entries = append(s.entries, in.Entry)
	}
	var met, within place.List
	for i := range states {
		for extract, in := range states[i].Inputs {
			to := b.inputs[extract]
			to.Size, to.Measures, to.Slots, to.Headers = in.Size, in.Measures, in.Slots, in.Headers
			to.Says, to.Doubts = in.Says, in.Doubts
		}
		met.Merge(states[i].Met)
		within.Merge(states[i].Within)
	}
	var checked place.List // by the totals that came with the extracts, as they are met
	checked, s.Problems = s.Problems, nil
	for i := range states {
		for _, c := range states[i].Checks {
			b.check(c)
		}
	}
	found := s.Problems
	checked.Merge(found)
	met.Merge(within)
	met.Merge(checked)
	s.Problems = met
	for i, in := range b.inputs {
		if e := &s.Extracts[i]; e.Measures == nil { // it was not read to its end
			e.Measures = in.Measures
		}
	}
	again, err := b.joinFiles(list, states, dir)
	if err != nil {
		return err
	}
	heads := map[keep.Above]bool{}
	for i, p := range list {
		if err := b.putPart(p, &states[i], heads, again); err != nil {
			return &partError{p.Name, err}
		}
	}
	return nil
}

// putPart gives the fact rows and the lines of the record of a part to the outputs.
func (b *build) putPart(p *parts.Part, state *shareState, heads map[keep.Above]bool, again []*out) error {
	asRows := slices.Clone(again)
	for k, d := range b.out.outs {
		counted, text := state.Texts[k]
		switch {
		case d.broken || divided(d.of):
		case !text:
			asRows = append(asRows, d)
		default:
			if err := p.Read(textSection(k), func(in io.Reader) error { return b.copyText(d, in, counted) }); err != nil {
				return err
			}
		}
	}
	if state.Rows && len(asRows) > 0 {
		if err := p.Read(rowsSection, func(in io.Reader) error { return b.replay(in, asRows) }); err != nil {
			return err
		}
	}
	err := p.Read(record.ChangesFile, func(in io.Reader) error { return b.copyChanges(in, state.Heads, heads) })
	for _, name := range []string{record.HeldFile, record.LeftOutFile} {
		if err == nil {
			err = p.Read(name, func(in io.Reader) error { return b.copyLines(name, in) })
		}
	}
	return err
}

// copyChanges copies the changes to their file of the record, but for those above the rows of an extract
// that stand there already.
func (b *build) copyChanges(in io.Reader, own []keep.HeadLine, heads map[keep.Above]bool) error {
	at := int64(0)
	for _, h := range own {
		if err := b.copyLines(record.ChangesFile, io.LimitReader(in, h.At-at)); err != nil {
			return err
		}
		at = h.At + h.Bytes
		line := io.LimitReader(in, h.Bytes)
		if heads[h.Above] {
			if _, err := io.Copy(io.Discard, line); err != nil {
				return err
			}
			continue
		}
		heads[h.Above] = true
		if err := b.copyLines(record.ChangesFile, line); err != nil {
			return err
		}
	}
	return b.copyLines(record.ChangesFile, in)
}

// copyLines copies lines to a file of the record.
func (b *build) copyLines(name string, in io.Reader) error {
	buffer := make([]byte, 1<<16)
	for {
		n, err := in.Read(buffer)
		if b.out != nil {
			b.out.record.Write(name, buffer[:n])
		}
		if err == io.EOF {
			return nil
		}
		if err != nil {
			return err
		}
	}
}
