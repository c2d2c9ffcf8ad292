package draft

import (
	"path"
	"slices"
	"strings"

	"umbau/internal/core/filenames"
	"umbau/internal/core/key"
	"umbau/internal/core/pattern"
	"umbau/internal/core/terms"
	"umbau/internal/core/value"
)

// What the names of files and sheets say.

// nameOf is the name of the file, or the member of an archive, that a table is in, without its
// endings.
func (s *sheet) nameOf() string {
	name := s.file
	if s.member != "" {
		name = s.member
	}
	base := path.Base(name)
	for range 2 {
		if ext := path.Ext(base); len(ext) <= 6 && strings.Trim(ext, ".0123456789()") != "" {
			base = strings.TrimSuffix(base, ext)
		}
	}
	return base
}

// wanted are the places and things that are asked for, or, if nothing is, those that headers of some extracts name.
func (d *drafter) wanted() map[terms.Class]bool {
	names := d.Columns
	if len(names) == 0 {
		for _, s := range d.extracts() {
			for _, i := range s.labels() {
				names = append(names, s.Fields[i].Header)
			}
		}
	}
	out := map[terms.Class]bool{terms.Region: len(d.Columns) == 0, terms.Branch: len(d.Columns) == 0 && d.pairsInNames()}
	for _, name := range names {
		if c := terms.Of(name); c == terms.Region || c == terms.Branch || c == terms.Product {
			out[c] = true
		}
	}
	return out
}

// pairsInNames reports whether names of extracts are of two labels, of which the first comes again: Lakes_Mill,
// Lakes_Quay, Holm_Pier.
func (d *drafter) pairsInNames() bool {
	firsts, n := map[string]bool{}, 0
	for _, s := range d.extracts() {
		for _, name := range append(s.around(), s.nameOf()) {
			if label, _, _, timed := filenames.SplitTime(name); timed {
				name = label
			}
			if first, _, _, two := filenames.SplitTwo(name); two {
				firsts[key.Of(first)] = true
				n++
				break
			}
		}
	}
	return n > 2 && len(firsts) > 1 && len(firsts) < n
}

// unsaid is how many of the places and things wanted neither a header nor a section row, a sheet or a title of a
// table says: its path has to.
func (s *sheet) unsaid(wanted map[terms.Class]bool) (n int) {
	said := map[terms.Class]bool{terms.Product: len(s.wide) > 0 && s.wideTime() == terms.None}
	for _, i := range s.labels() {
		f := &s.Fields[i]
		c := terms.Of(f.Header)
		if said[c] = true; c == terms.None && f.Is == "text" { // by elimination it may be one of them
			n--
		}
	}
	for c := range wanted {
		if !said[c] {
			n++
		}
	}
	if sheet := s.Place.Sheet; sheet != "" && !terms.SaysNothing(sheet) && !filenames.Alone(sheet) && !ofMonth(sheet) {
		n--
	}
	if s.sections {
		n--
	}
	return n - len(s.titles())
}

// readNames finds what varies in the names of the files, and of their folders where the files themselves say
// no more than a time.
func (e *entry) readNames() {
	var names []string
	for _, s := range e.sheets {
		names = append(names, s.nameOf())
	}
	depth := len(e.sheets[0].folders)
	pieces := e.piecesOf(names, depth, filenames.Pieces)
	if depth > 0 {
		if len(pieces) == 0 {
			pieces = []filenames.Piece{{Values: names, Digits: depth > 1 && terms.MonthNumbers(names)}}
		}
		for k := depth - 1; k >= 0; k-- {
			pieces[0].Before = "/" + pieces[0].Before
			pieces = append(e.folderPieces(k, !terms.SaysNothing(names[0])), pieces...)
		}
	}
	e.addPieces("path", pieces)
}

// folderPieces are those of the folders of a depth. A label that is the same in all of them counts only where the files have none.
func (e *entry) folderPieces(depth int, labelled bool) []filenames.Piece {
	var names []string
	for _, s := range e.sheets {
		names = append(names, s.folders[depth].name)
	}
	pieces := e.piecesOf(names, depth, filenames.OfFolders)
	if labelled {
		pieces = filenames.Unvaried(pieces)
	}
	for i := range pieces {
		p := &pieces[i]
		p.Folder, p.Aside = true, p.Aside || e.sheets[0].folders[depth].timeAlone && p.IsLabel()
	}
	return pieces
}

// piecesOf are what of finds in names of a depth, or the number of a month in a folder of a year; with two labels in each, if there are,
// where two are to be found or a column of each table has one of them. Labels that such columns have are aside.
func (e *entry) piecesOf(names []string, depth int, of func(names []string) []filenames.Piece) []filenames.Piece {
	if depth > 0 && terms.IsYear(e.sheets[0].folders[depth-1].name) {
		if months := filenames.MonthsOfYear(names); months != nil {
			return months
		}
	}
	pieces := of(names)
	parted, labels := filenames.PartLabel(pieces), filenames.TwoLabels(names)
	if labels == nil || !slices.ContainsFunc(labels, isTime) && slices.ContainsFunc(parted, isTime) {
		labels = parted
	}
	if labels != nil && (e.sheets[0].two || slices.ContainsFunc(labels, e.said)) {
		pieces = labels
	}
	for i := range pieces {
		pieces[i].Aside = e.said(pieces[i])
	}
	return pieces
}

func isTime(p filenames.Piece) bool { return len(p.Values) > 0 && !p.IsLabel() }

// said reports whether a piece is a label that a column of each table has.
func (e *entry) said(p filenames.Piece) bool {
	for i, s := range e.sheets {
		if !p.IsLabel() || !s.says(p.Values[i]) {
			return false
		}
	}
	return true
}

// addPieces adds pieces of paths, sheets or titles, and how times in them are written.
func (e *entry) addPieces(from string, pieces []filenames.Piece) {
	for _, p := range pieces {
		if value.DaysOfMonths(p.Values) {
			e.open = append(e.open, "names such as "+p.Values[0]+" may say days, or months of some years: say set: in an entry for each")
			continue
		}
		e.readTimes(p.Values)
	}
	for _, p := range pieces {
		own := piece{Piece: p, from: from}
		if from == "titles" {
			own.title = e.titles
		}
		e.pieces = append(e.pieces, own)
	}
}

// partSheet takes what stands before the time in the names of all sheets for a label.
func (e *entry) partSheet() {
	for i := range e.pieces {
		p := e.pieces[i]
		label := strings.TrimRight(p.Before, "_- ")
		if p.from == "sheet" && p.Time != terms.None && label != "" && !terms.SaysNothing(label) {
			e.pieces[i].Before = p.Before[len(label):]
			label := filenames.Piece{Values: slices.Repeat([]string{label}, len(p.Values))}
			e.pieces = slices.Insert(e.pieces, i, piece{Piece: label, from: "sheet"})
			return
		}
	}
}

// readSheets finds what varies in the names of sheets: times, or labels.
func (e *entry) readSheets() {
	if e.sheets[0].Place.Sheet == "" {
		return
	}
	var names []string
	for _, s := range e.sheets {
		names = append(names, s.Place.Sheet)
	}
	pieces := filenames.OfSheets(names)
	timed := func(p filenames.Piece) bool { return p.Time != terms.None || p.Letters || p.Digits }
	if len(names) == 1 && e.sheets[0].database() && !slices.ContainsFunc(pieces, timed) { // one table is called as it may
		return
	}
	e.addPieces("sheet", pieces)
}

// leftSheets are the sheets of the files of the entry that are none of its tables, and whether another entry has some of them.
func (e *entry) leftSheets(d *drafter) (out []string, shared bool) {
	files := e.files()
	for _, s := range d.sheets {
		if s.entry == e || s.Place.Sheet == "" || !slices.Contains(files, s.file) {
			continue
		}
		shared = shared || s.entry != nil
		if !slices.Contains(out, s.Place.Sheet) {
			out = append(out, s.Place.Sheet)
		}
	}
	return out, shared
}

// writeSheets writes which sheets the entry takes, where a file has others: those of its own, few and with their names, where others are
// of another entry, and else all but the others.
func (e *entry) writeSheets(b *strings.Builder, d *drafter) {
	left, shared := e.leftSheets(d)
	named := slices.ContainsFunc(e.pieces, func(p piece) bool { return p.from == "sheet" && p.column != nil })
	if e.choosesSheets() {
		left = e.chosenToo(left)
		named = true
	}
	if len(left) == 0 || e.sheets[0].database() {
		return
	}
	flow := func(names []string) string {
		out := slices.Clone(names)
		for i := range out {
			out[i] = pattern.Escape(out[i])
		}
		return "[" + strings.Join(flowAll(out), ", ") + "]"
	}
	var own []string
	for _, s := range e.sheets {
		if !slices.Contains(own, s.Place.Sheet) {
			own = append(own, s.Place.Sheet)
		}
	}
	switch {
	case !shared:
		keyed(b, "    ", "except_sheets", flow(left), "left aside")
	case named || len(own) > 2:
		keyed(b, "    ", "except_sheets", flow(left), "other entries, or left aside")
	default:
		keyed(b, "    ", "sheets", flow(own), "")
	}
}

// chosenToo are those of some sheets that are none of the entry's which the pattern takes by which it chooses its own.
func (e *entry) chosenToo(left []string) []string {
	text, _, _ := e.pattern("sheet", 0)
	chosen, err := pattern.Parse(text)
	return slices.DeleteFunc(left, func(name string) bool {
		if err != nil {
			return true
		}
		_, fits := chosen.Fit(name)
		return !fits
	})
}

// choosesSheets reports whether the entry says which sheets it takes.
func (e *entry) choosesSheets() bool {
	for _, p := range e.pieces {
		if p.from == "sheet" && p.column == nil && len(p.Values) > 0 && p.Time != terms.None {
			return true
		}
	}
	return false
}
