package fact

import (
	"umbau/internal/core/layout"
	"umbau/internal/core/place"
	"umbau/internal/core/plan"
	"umbau/internal/core/tie"
	"umbau/internal/core/value"
)

// delivered is what a file, or a sheet of one, delivers of each measure.
type delivered struct {
	place   place.Place
	entry   *plan.Entry
	amounts map[int]value.Decimal // by column of the plan
	sheets  []delivered           // of a file that has some
}

func (d *delivered) add(e map[int]value.Decimal) {
	for m, amount := range e {
		d.amounts[m] = d.amounts[m].Add(amount)
	}
}

// warnSums warns of a sheet that delivers what all others of its workbook do together, and of such a file: it may sum
// them up, though nothing calls it a total, and all would count twice.
func (b *build) warnSums() {
	var files []delivered
	at := map[string]int{}
	for i := range b.summary.Extracts {
		e := &b.summary.Extracts[i]
		own := delivered{place: place.Place{File: e.File, Sheet: e.Sheet}, entry: b.inputs[i].Entry, amounts: map[int]value.Decimal{}}
		for _, m := range e.Measures {
			own.amounts[m] = e.Account(m).Totals().Fact
		}
		f, known := at[e.File]
		if !known {
			f = len(files)
			at[e.File] = f
			files = append(files, delivered{place: place.Place{File: e.File}, entry: own.entry, amounts: map[int]value.Decimal{}})
		}
		files[f].add(own.amounts)
		if e.Sheet != "" {
			files[f].sheets = append(files[f].sheets, own)
		}
	}
	for i := range files {
		if s := sumOfOthers(files[i].sheets); s != nil {
			leave := "except_sheets: [" + layout.Flow(s.place.Sheet) + "]"
			if s.entry.From != "" {
				leave = "name the other tables alone"
			}
			b.warnSum(s, "a sheet has the amounts of all other sheets of its workbook together", leave)
		}
	}
	if f := sumOfOthers(files); f != nil {
		b.warnSum(f, "a file has the amounts of all other files together", "except: ["+layout.Flow(f.place.File)+"]")
	}
}

func (b *build) warnSum(d *delivered, message, leave string) {
	w := place.At(d.place, "sum of others", "%s: does it sum them up? Then all counts twice", message)
	w.Plan, w.Advice = d.entry.Pos, "if so, say in its entry of extracts: "+leave
	b.summary.Warnings.Add(w)
}

// sumOfOthers is the one of three or more that has, in each measure in which it has an amount, the sum of two others or more,
// if these amounts are no chance; nil for none.
func sumOfOthers(list []delivered) *delivered {
	total, filled := delivered{amounts: map[int]value.Decimal{}}, map[int]int{}
	for i := range list {
		total.add(list[i].amounts)
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
