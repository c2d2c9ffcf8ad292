package messy

import (
	"context"
	"math/rand/v2"
	"os"
	"path/filepath"
	"slices"
	"strconv"
	"strings"

	"github.com/xuri/excelize/v2"
)

// stray is a file or a sheet that stands beside those of a delivery, is called nearly as one of them, and is none of the truth.
type stray struct {
	name  string // what it is called, with {} for the other's name
	whole bool   // where the other has the name of a region, this stands in its place
	part  int    // its amounts and quantities are so many of 100 of the other's
}

var strays = []stray{
	{"Budget", true, 93}, {"Plan", true, 88}, {"Forecast", true, 110}, {"Last year", true, 71},
	{"{} cost", false, 63}, {"{} budget", false, 93}, {"{} LY", false, 71}, {"{} returns", false, 4}, {"{} stock", false, 40},
	{"{} (2)", false, 97}, {"{} - Copy", false, 97}, {"Copy of {}", false, 97}, {"{} old", false, 97}, {"{}_v2", false, 97},
	{"{} final", false, 97}, {"{} backup", false, 97}, {"{} corrected", false, 97}, {"{} draft", false, 97}, {"{} neu", false, 97},
	{"{} (2)", false, 100}, {"Copy of {}", false, 100}, {"{} update", false, 100}, {"{} resent", false, 97}, {"{} quotes", false, 180},
	{"{} orders", false, 105}, {"{} VAT", false, 20}, {"{} margin", false, 37}, {"{} average", false, 50}, {"{} discounts", false, 8},
	{"old/{}", false, 97}, {"archive/{}", false, 100}, {"backup/{}", false, 97}, {"Budget/{}", false, 93}, {"costs/{}", false, 63},
	{"new/{}", false, 103}, {"{} Soll", true, 93}, {"Vorjahr", true, 71},
}

// as is what the stray is called beside a name that may have a region in it.
func (s stray) as(name string) string {
	if s.whole {
		for _, r := range regions {
			if strings.Contains(name, r) {
				return strings.ReplaceAll(name, r, s.name)
			}
		}
		return s.name
	}
	for _, r := range regions {
		if strings.Contains(name, r) {
			return strings.ReplaceAll(name, r, strings.ReplaceAll(s.name, "{}", r))
		}
	}
	return strings.ReplaceAll(s.name, "{}", name)
}

// TryStray makes a delivery in a folder and drafts its plan; then a stray file or sheet is put into it, before the draft or, with later,
// behind it. What the build then says of it is another outcome than a wrong table that nobody is told of.
func TryStray(ctx context.Context, dir string, seed uint64, hard int, asked Asked, later bool) Tried {
	r := rand.New(rand.NewPCG(seed, 55))
	d, err := newMaker(dir, seed, hard, nil).make(&change{seed: seed, style: -1})
	if err != nil {
		return Tried{Stops, "not made: " + err.Error(), nil}
	}
	if later {
		p, tried := d.draft(ctx, dir, asked)
		if p == nil {
			return tried
		}
		if tried = d.build(ctx, p, asked); tried.Outcome != Exact {
			return tried
		}
		if err := d.stray(dir, seed, hard, r); err != nil {
			return Tried{Stops, "not made: " + err.Error(), nil}
		}
		return d.build(ctx, p, asked)
	}
	if err := d.stray(dir, seed, hard, r); err != nil {
		return Tried{Stops, "not made: " + err.Error(), nil}
	}
	p, tried := d.draft(ctx, dir, asked)
	if p == nil {
		return tried
	}
	return d.build(ctx, p, asked)
}

// stray puts one beside a file of a delivery or a sheet in it.
func (d *Delivery) stray(dir string, seed uint64, hard int, r *rand.Rand) error {
	s := strays[r.IntN(len(strays))]
	from, err := os.MkdirTemp("", "stray")
	if err != nil {
		return err
	}
	defer os.RemoveAll(from)
	m := newMaker(from, seed, hard, nil)
	m.other = func(f *fact) { f.quantity, f.amount = f.quantity*s.part/100, f.amount*s.part/100 }
	if _, err := m.make(&change{seed: seed, style: -1}); err != nil {
		return err
	}
	files, err := filepath.Glob(filepath.Join(from, "raw", "*", "*"))
	if err != nil || len(files) == 0 {
		return err
	}
	slices.Sort(files)
	file := files[r.IntN(len(files))]
	at, err := filepath.Rel(from, file)
	if err != nil {
		return err
	}
	ext := filepath.Ext(file)
	if ext == ".xlsx" && r.IntN(2) == 0 && !strings.Contains(s.name, "/") {
		return d.straySheet(s, file, filepath.Join(dir, at), r)
	}
	info, err := os.Stat(file)
	if err != nil || info.IsDir() {
		return err
	}
	text, err := os.ReadFile(file)
	if err != nil {
		return err
	}
	d.Stray = s.as(strings.TrimSuffix(filepath.Base(at), ext))
	d.About = append(d.About, "stray "+filepath.Join(filepath.Dir(at), d.Stray+ext))
	to := filepath.Join(dir, filepath.Dir(at), d.Stray+ext)
	if err := os.MkdirAll(filepath.Dir(to), 0o777); err != nil {
		return err
	}
	return os.WriteFile(to, text, 0o666)
}

// straySheet puts one into a workbook, of a sheet of another one.
func (d *Delivery) straySheet(s stray, from, to string, r *rand.Rand) error {
	book, err := excelize.OpenFile(from)
	if err != nil {
		return err
	}
	defer book.Close()
	own, err := excelize.OpenFile(to)
	if err != nil {
		return err
	}
	defer own.Close()
	sheets := book.GetSheetList()
	name := sheets[r.IntN(len(sheets))]
	rows, err := book.GetRows(name, excelize.Options{RawCellValue: true})
	if err != nil {
		return err
	}
	d.Stray = s.as(name)
	d.About = append(d.About, "stray sheet "+d.Stray+" in "+filepath.Base(to))
	if _, err := own.NewSheet(d.Stray); err != nil {
		return err
	}
	for i := range rows {
		for k := range rows[i] {
			cell, _ := excelize.CoordinatesToCellName(k+1, i+1)
			kind, err := book.GetCellType(name, cell)
			if err != nil {
				return err
			}
			var v any = rows[i][k]
			if kind == excelize.CellTypeUnset || kind == excelize.CellTypeNumber {
				v = storedOf(rows[i][k])
			}
			if err := own.SetCellValue(d.Stray, cell, v); err != nil {
				return err
			}
		}
	}
	return own.Save()
}

// storedOf is a stored number, or a text.
func storedOf(text string) any {
	if f, err := strconv.ParseFloat(text, 64); err == nil {
		return f
	}
	return text
}
