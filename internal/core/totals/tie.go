package totals

import (
	"encoding/json"

	"umbau/internal/core/value"
)

// Tie is what the record of the build that delivered a table says of a measure, and what the
// table has of it.
type Tie struct {
	Measure    string
	Said, Have value.Decimal
	Held       value.Decimal // which the build set aside: it is not in the table
}

// Agrees reports whether the table has what the build delivered.
func (t *Tie) Agrees() bool { return t.Said.Cmp(t.Have) == 0 }

// Record is what the record of a build says of its fact table.
type Record struct {
	sums     map[string]*[2]value.Sum // fact and held, by measure
	HeldRows int
}

// ReadRecord reads build.json; nil where the build delivered nothing, or says nothing to tie
// to.
func ReadRecord(text []byte) *Record {
	var doc struct {
		Exit     int
		Ties     []struct{ Measure, Fact, Held string }
		Extracts []struct{ Held int }
	}
	if err := json.Unmarshal(text, &doc); err != nil || doc.Exit != 0 || len(doc.Ties) == 0 {
		return nil
	}
	r := &Record{sums: map[string]*[2]value.Sum{}}
	for _, t := range doc.Ties {
		s := r.sums[t.Measure]
		if s == nil {
			s = &[2]value.Sum{}
			r.sums[t.Measure] = s
		}
		for i, text := range []string{t.Fact, t.Held} {
			if d, _, ok := value.English.Number([]byte(text)); ok {
				s[i].Add(d)
			}
		}
	}
	for _, e := range doc.Extracts {
		r.HeldRows += e.Held
	}
	return r
}

// Tie holds the measures of a result against the record: the whole table, whatever the
// filter keeps.
func (r *Record) Tie(whole []WholeAmount) (out []Tie) {
	for _, w := range whole {
		if s := r.sums[w.Measure]; s != nil {
			out = append(out, Tie{w.Measure, s[0].Total(), w.Sum, s[1].Total()})
		}
	}
	return out
}
