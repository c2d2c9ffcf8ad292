package names

import (
	"bytes"
	"encoding/csv"
	"errors"
	"io"
	"slices"

	"umbau/internal/core/key"
	"umbau/internal/core/table"
)

// Suggested is the column of a book in which proposals stand for a person to take
// over.
const Suggested = "suggested"

// Append returns the text of a book with lines for names that are not decided:
// standard is empty but for the sure ones, the proposal stands in a column
// suggested beside it. All that is in the book stays: lines, their order, further
// columns. Names that it has already are passed over.
func Append(book []byte, proposals []Proposal) ([]byte, int, error) {
	r := csv.NewReader(bytes.NewReader(bytes.TrimPrefix(book, []byte("\ufeff"))))
	r.FieldsPerRecord = -1
	header, err := r.Read()
	if err == io.EOF {
		header = []string{"seen", "standard"}
	} else if err != nil {
		return nil, 0, err
	}
	column := func(name string) int {
		return slices.IndexFunc(header, func(h string) bool { return key.Of(h) == name })
	}
	if column(Suggested) < 0 {
		header = append(header, Suggested)
	}
	seen, standard, suggested := column("seen"), column("standard"), column(Suggested)
	out := table.AppendLine(nil, header...)
	have := map[string]bool{}
	for {
		cells, err := r.Read()
		if err == io.EOF {
			break
		}
		if err != nil {
			return nil, 0, err
		}
		if seen >= 0 && seen < len(cells) {
			have[key.Of(cells[seen])] = true
		}
		out = table.AppendLine(out, cells...)
	}
	n := 0
	for _, p := range proposals {
		if seen < 0 || standard < 0 || have[key.Of(p.Seen)] {
			continue
		}
		have[key.Of(p.Seen)] = true
		cells := make([]string, len(header))
		cells[seen] = p.Seen
		if len(p.Candidates) > 0 {
			cells[suggested] = p.Candidates[0].Standard
			if p.Sure {
				cells[standard] = p.Candidates[0].Standard
			}
		}
		out = table.AppendLine(out, cells...)
		n++
	}
	return out, n, nil
}

// Decide returns the text of a book in which a name stands for a standard: in the
// line that has the name undecided, or in a new one. All else stays.
func Decide(book []byte, seen, standard string) ([]byte, error) {
	r := csv.NewReader(bytes.NewReader(bytes.TrimPrefix(book, []byte("\ufeff"))))
	r.FieldsPerRecord = -1
	rows, err := r.ReadAll()
	if err != nil {
		return nil, err
	}
	if len(rows) == 0 {
		rows = [][]string{{"seen", "standard"}}
	}
	column := func(name string) int {
		return slices.IndexFunc(rows[0], func(h string) bool { return key.Of(h) == name })
	}
	from, to := column("seen"), column("standard")
	if from < 0 || to < 0 {
		return nil, errors.New("it has no columns seen and standard")
	}
	found := false
	for i, row := range rows[1:] {
		if from >= len(row) || !key.Same(row[from], seen) {
			continue
		}
		for len(row) <= to {
			row = append(row, "")
		}
		row[to], rows[i+1], found = standard, row, true
	}
	if !found {
		row := make([]string, len(rows[0]))
		row[from], row[to] = seen, standard
		rows = append(rows, row)
	}
	var out []byte
	for _, row := range rows {
		out = table.AppendLine(out, row...)
	}
	return out, nil
}
