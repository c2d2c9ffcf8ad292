package fact

import (
	"fmt"
	"maps"
	"slices"
	"strconv"

	"umbau/internal/core/filenames"
	"umbau/internal/core/keep"
	"umbau/internal/core/key"
	"umbau/internal/core/layout"
	"umbau/internal/core/pass"
	"umbau/internal/core/place"
	"umbau/internal/core/plan"
	"umbau/internal/core/record"
	"umbau/internal/core/terms"
	"umbau/internal/core/tie"
	"umbau/internal/core/value"
)

// warnPlaces warns of amounts that all have three digits behind the decimal sign, where
// their column has other decimals: groups may be meant, and 1.234 be read as 1.23. So does it of
// amounts with a percent sign, which add up to nothing.
func (b *build) warnPlaces() {
	for i := range b.summary.Extracts {
		for ci, c := range b.plan.Columns {
			p := b.kept.accounts.Places[i][ci]
			if p.Percents > 0 {
				w := place.At(p.Percent, "percents", "cells with a percent sign are added up (12 %% as 0.12): are they amounts?")
				w.Count, w.Column, w.Plan = p.Percents, c.Name, b.inputs[i].Entry.Pos
				w.Advice = "if they are not, leave their rows or columns out, or say in column " + c.Name + ": add: no"
				b.summary.Warnings.Add(w)
			}
			if p.Three == 0 || p.Other {
				continue
			}
			e := &b.summary.Extracts[i]
			w := place.At(place.Place{File: e.File, Sheet: e.Sheet}, "number readings",
				"every cell with a decimal sign has three digits behind it: are they groups (1.234 for 1234)?")
			w.Column, w.Plan = c.Name, b.inputs[i].Entry.Pos // counted are extracts
			w.Advice = "if they are, say how numbers are written, numbers: \"1.234,56\", in the entry of extracts"
			b.summary.Warnings.Add(w)
		}
	}
}

// delivered is what a file, or a sheet of one, delivers of each measure.
type delivered struct {
	place   place.Place
	entry   *plan.Entry
	rows    int
	amounts map[int]value.Decimal // by column of the plan
	sheets  []delivered           // of a file that has some
}

func (d *delivered) add(o *delivered) {
	d.rows += o.rows
	for m, amount := range o.amounts {
		d.amounts[m] = d.amounts[m].Add(amount)
	}
}

// leave is what a plan says to leave it out.
func (d *delivered) leave() string {
	switch {
	case d.entry.From != "":
		return "the tables that are meant, by their names"
	case d.place.Sheet != "":
		return "except_sheets: [" + layout.Flow(d.place.Sheet) + "]"
	}
	return "except: [" + layout.Flow(d.place.File) + "]"
}

// warnSums warns of a sheet that delivers what all others of its workbook do together, and of such a file: it may sum
// them up, though nothing calls it a total, and all would count twice. So would what is there twice, but for the bytes.
func (b *build) warnSums() {
	var files, all []delivered
	at := map[string]int{}
	for i := range b.summary.Extracts {
		e := &b.summary.Extracts[i]
		own := delivered{place: place.Place{File: e.File, Sheet: e.Sheet}, entry: b.inputs[i].Entry, rows: e.Rows.Fact,
			amounts: map[int]value.Decimal{}}
		for _, m := range e.Measures {
			own.amounts[m] = e.Account(m).Totals().Fact
		}
		all = append(all, own)
		f, known := at[e.File]
		if !known {
			f = len(files)
			at[e.File] = f
			files = append(files, delivered{place: place.Place{File: e.File}, entry: own.entry, amounts: map[int]value.Decimal{}})
		}
		files[f].add(&own)
		if e.Sheet != "" {
			files[f].sheets = append(files[f].sheets, own)
		}
	}
	for i := range files {
		if s := sumOfOthers(files[i].sheets); s != nil {
			b.warnSum(s, "a sheet has the amounts of all other sheets of its workbook together: does it sum them up?")
		}
	}
	if f := sumOfOthers(files); f != nil {
		b.warnSum(f, "a file has the amounts of all other files together: does it sum them up?")
	}
	b.warnTwins(all)
}

// warnTwins warns of extracts that have as many fact rows as another, and the same amounts.
func (b *build) warnTwins(all []delivered) {
	first := map[string]*delivered{}
	for i := range all {
		d := &all[i]
		digits, key := 0, strconv.Itoa(d.rows)
		for _, m := range slices.Sorted(maps.Keys(d.amounts)) {
			digits += d.amounts[m].Digits()
			key += fmt.Sprintf(" %d:%s", m, d.amounts[m].Shorten())
		}
		if d.rows < 2 || digits < tie.LongFigure || d.entry.SameFiles != plan.Stop {
			continue
		}
		if first[key] == nil {
			first[key] = d
			continue
		}
		b.warnSum(d, "an extract has as many fact rows as "+first[key].place.Source()+", and the same amounts: is it the same once more?")
	}
}

func (b *build) warnSum(d *delivered, question string) {
	w := place.At(d.place, "sum of others", "%s Then all counts twice", question)
	w.Plan, w.Advice = d.entry.Pos, "if so, say in its entry of extracts: "+d.leave()
	b.summary.Warnings.Add(w)
}

// sumOfOthers is the one of three or more that has, in each measure in which it has an amount, the sum of two others or more,
// if these amounts are no chance; nil for none.
func sumOfOthers(list []delivered) *delivered {
	total, filled := delivered{amounts: map[int]value.Decimal{}}, map[int]int{}
	for i := range list {
		total.add(&list[i])
		for m, amount := range list[i].amounts {
			if amount.Sign() != 0 {
				filled[m]++
			}
		}
	}
	for i := range list {
		agrees, digits := true, 0
		for m, amount := range list[i].amounts {
			if amount.Sign() != 0 {
				agrees = agrees && filled[m] > 2 && amount.Add(amount).Cmp(total.amounts[m]) == 0
				digits += amount.Digits()
			}
		}
		if agrees && digits >= tie.LongFigure {
			return &list[i]
		}
	}
	return nil
}

// warnNoSales warns of delivered rows that are called averages, differences, the year before, or what was planned.
func (b *build) warnNoSales() {
	if b.plan.LastMeasure() < 0 {
		return
	}
	list := slices.Clone(b.kept.noSales.List)
	slices.SortStableFunc(list, func(a, b keep.NoSale) int { return a.Column - b.Column })
	for _, n := range list {
		c := b.plan.Columns[n.Column]
		w := place.At(n.First, "no sales", "fact rows of %s are added up like all others: are they sales?", n.Label)
		w.Count, w.Column, w.Plan = n.Rows, c.Name, c.Pos
		label := layout.Flow(n.Label)
		w.Advice = "rows: { only: … } leaves them out; no_totals: [" + label + "] in the entry of extracts says that they are"
		if n.Wide {
			w.Advice = "others: [" + layout.FlowHeader(n.Label) + "] in the entry of extracts leaves the column out; " +
				"no_totals: [" + label + "] says that they are"
		}
		if n.Whole {
			of := slices.IndexFunc(b.inputs, func(in *pass.Input) bool { return in.Place() == n.First })
			whole := delivered{place: n.First, entry: b.inputs[max(of, 0)].Entry}
			w.Advice = whole.leave() + " in the entry of extracts leaves it out; no_totals: [" + label + "] says that they are"
		}
		if n.More {
			w.Count, w.Message = 1, "fact rows of more such labels are added up, from "+n.Label+" on: are they sales?"
		}
		b.summary.Warnings.Add(w)
	}
}

// warnNameless warns of rows with figures that have none of several labels.
func (b *build) warnNameless() {
	for _, r := range b.kept.sections.Nameless() {
		w := place.At(r.Place, "rows without labels", "rows with figures and no label at all are added up like all others: are they totals?")
		w.Count = r.Count
		w.Advice = "if so, blanks: drop in the column of a label leaves them out, hold sets them aside"
		b.summary.Warnings.Add(w)
	}
}

// warnSections warns of section rows that are what stands between the pages of a table, and of those that have a label of the rows below
// them: such a row may be one whose figures are blank. What stands below both is of another section. It warns of rows of headers, too.
func (b *build) warnSections() {
	for _, r := range b.kept.sections.Headers() {
		w := place.At(r.Place, "headers within", "a row within the table has headers of it: %s. Does another table begin there, its columns "+
			"in another order?", r.Text)
		w.Count = r.Count
		w.Advice = "if so, its figures are read below the wrong headers: make it a file of its own, or say with area which part is meant"
		b.summary.Warnings.Add(w)
	}
	for _, r := range b.kept.sections.Between() {
		w := place.At(r.Place, "section rows", "%s heads the rows below it as a section, though it stands above the table, too, or between "+
			"its pages", layout.Flow(r.Text))
		w.Count = r.Count
		w.Advice = "if no section begins there, answer its cell with a line of corrections: the label of the one that goes on"
		b.summary.Warnings.Add(w)
	}
	for _, r := range b.kept.sections.Doubtful() {
		c := b.plan.Columns[r.Column]
		w := place.At(r.Place, "section rows", "a label alone heads the rows below it, but rows with figures have it too: %s. Is its figure "+
			"blank, and no section begins?", layout.Flow(r.Text))
		w.Count, w.Column, w.Plan = r.Count, c.Name, c.Pos
		w.Advice = "if so, fill the cell in, or answer it with a line of corrections"
		b.summary.Warnings.Add(w)
	}
}

// warnVersions warns of extracts whose path or sheet says of a text what another one's does, and that it is a version of that (Lakes (2),
// Lakes - Copy, Lakes old), or has other figures than sales (Lakes cost). Both are added up.
func (b *build) warnVersions() {
	for _, c := range b.plan.Columns {
		if c.Kind != plan.Text && (c.Kind != plan.Name || c.Book != "") {
			continue
		}
		said := map[string]bool{}
		for i := range b.summary.Extracts { // none where nothing was read
			if text := b.inputs[i].Named(c.Name); text != "" && b.summary.Extracts[i].Rows.Fact > 0 {
				said[key.Of(text)] = true
			}
		}
		for i := range b.summary.Extracts {
			e, in := &b.summary.Extracts[i], b.inputs[i]
			text := in.Named(c.Name)
			if e.Rows.Fact == 0 || in.Entry.Labels.None(text) {
				continue
			}
			var w place.Problem
			if of := filenames.VersionOf(text); of != "" && said[key.Of(of)] {
				w = place.At(in.Place(), "sum of others", "%s and %s are added up: is one a copy of the other, or a version of it? Then much "+
					"counts twice", layout.Flow(of), layout.Flow(text))
			} else if said[terms.NoSalesOf(text)] && !(terms.Returns(text) && belowZero(e)) {
				w = place.At(in.Place(), "no sales", "fact rows of %s are added up like all others: are they sales?", layout.Flow(text))
			} else {
				continue
			}
			d := delivered{place: in.Place(), entry: in.Entry}
			w.Column, w.Plan = c.Name, in.Entry.Pos
			w.Advice = "if not all is to count, say in its entry of extracts: " + d.leave() + "; no_totals: [" + layout.Flow(text) +
				"] says that it is"
			b.summary.Warnings.Add(w)
		}
	}
}

// belowZero reports whether the fact rows of an extract add up to less than nothing in some measure.
func belowZero(e *record.Extract) bool {
	return slices.ContainsFunc(e.Measures, func(m int) bool { return e.Account(m).Totals().Fact.Sign() < 0 })
}
