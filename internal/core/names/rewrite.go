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

// lines are the lines of a book, and which of its columns are seen and standard.
func lines(book []byte) (rows [][]string, seen, standard int, err error) {
	r := csv.NewReader(bytes.NewReader(bytes.TrimPrefix(book, []byte("\ufeff"))))
	r.FieldsPerRecord = -1
	if rows, err = r.ReadAll(); err != nil {
		return nil, 0, 0, err
	}
	if len(rows) == 0 {
		rows = [][]string{{"seen", "standard"}}
	}
	column := func(name string) int {
		return slices.IndexFunc(rows[0], func(h string) bool { return key.Of(h) == name })
	}
	if seen, standard = column("seen"), column("standard"); seen < 0 || standard < 0 {
		return nil, 0, 0, errors.New("it has no columns seen and standard")
	}
	return rows, seen, standard, nil
}

// written is the text of a book with these lines.
func written(rows [][]string) (out []byte) {
	for _, row := range rows {
		out = table.AppendLine(out, row...)
	}
	return out
}

// LineOf returns the standard in the line of a name, "" where it is not decided; there
// says whether it has a line.
func LineOf(book []byte, name string) (standard string, there bool, err error) {
	rows, from, to, err := lines(book)
	if err != nil {
		return "", false, err
	}
	for _, row := range rows[1:] {
		if from < len(row) && key.Same(row[from], name) {
			if to < len(row) {
				standard = row[to]
			}
			return standard, true, nil
		}
	}
	return "", false, nil
}

// Decide returns the text of a book in which a name stands for a standard: in the
// line that has the name, or in a new one. All else stays.
func Decide(book []byte, seen, standard string) ([]byte, error) {
	rows, from, to, err := lines(book)
	if err != nil {
		return nil, err
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
	return written(rows), nil
}

// Forget returns the text of a book without the lines of a name.
func Forget(book []byte, seen string) ([]byte, error) {
	rows, from, _, err := lines(book)
	if err != nil {
		return nil, err
	}
	rest := slices.DeleteFunc(rows[1:], func(row []string) bool { return from < len(row) && key.Same(row[from], seen) })
	return written(append(rows[:1], rest...)), nil
}
