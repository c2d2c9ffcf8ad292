package cli

import (
	"fmt"
	"strconv"
	"strings"

	"github.com/spf13/cobra"

	"umbau/internal/core/table"
	"umbau/internal/format"
	"umbau/internal/format/packed"
	"umbau/internal/report"
)

// size is a flag for a number of bytes: 500MB, 64GB.
type size int64

var units = []struct {
	name  string
	bytes int64
}{{"TB", 1 << 40}, {"GB", 1 << 30}, {"MB", 1 << 20}, {"KB", 1 << 10}, {"B", 1}}

// String implements pflag.Value.
func (s *size) String() string {
	for _, u := range units {
		if int64(*s) >= u.bytes && int64(*s)%u.bytes == 0 {
			return fmt.Sprintf("%d%s", int64(*s)/u.bytes, u.name)
		}
	}
	return ""
}

// Set implements pflag.Value.
func (s *size) Set(text string) error {
	low := strings.ToUpper(strings.ReplaceAll(text, " ", ""))
	for _, u := range units {
		digits, ok := strings.CutSuffix(low, u.name)
		if !ok {
			continue
		}
		if n, err := strconv.ParseInt(digits, 10, 64); err == nil && n > 0 && n <= (1<<62)/u.bytes {
			*s = size(n * u.bytes)
			return nil
		}
		break
	}
	return fmt.Errorf("it is a size such as 500MB or 64GB")
}

// Type implements pflag.Value.
func (s *size) Type() string { return "SIZE" }

func unpackFlag(cmd *cobra.Command, s *size) {
	cmd.Flags().Var(s, "unpack-most", "how much one packed file may unpack to (default 64GB, and 500 times what it takes packed)")
}

// formats are all formats, the page among them, within the limit that a person has set.
func formats(unpack size) *table.Formats {
	all := format.All()
	if unpack != 0 {
		all = format.Within(packed.Limit{Bytes: int64(unpack)})
	}
	all.All = append(all.All, report.Format)
	return all
}
