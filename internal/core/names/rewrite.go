package names

import (
	"bytes"
	"encoding/csv"
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
