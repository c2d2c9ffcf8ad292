// Package format registers the formats that extracts are read in and fact
// tables are delivered in. A new format is a folder here and a line below.
package format

import (
	"io"
	"strings"

	"umbau/internal/core/build"
	"umbau/internal/core/table"
	"umbau/internal/format/csv"
)

// Open returns a source for the text of an extract.
func Open(_ string, in io.Reader) (table.Source, error) { return csv.NewReader(in), nil }

// NewEncoder returns an encoder for a delivery, by the ending of its path.
func NewEncoder(to string, columns []int) build.Encoder {
	switch {
	case strings.HasSuffix(strings.ToLower(to), ".csv"):
		return csv.NewEncoder(columns)
	}
	return nil // the plan allows no other ending
}
