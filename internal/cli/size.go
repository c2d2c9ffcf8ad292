package cli

import (
	"fmt"
	"maps"
	"slices"
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

// mostTexts is the most that the texts of a block may take: places of 32 bits tell where each begins.
const mostTexts = 2 << 30

// limits are those of one file that a person has raised.
type limits struct {
	unpack size
	most   map[string]int64
}

// named are the limits by their names in --most.
func named(l *packed.Limits) map[string]*int64 {
	return map[string]*int64{"strings": &l.Strings, "texts": &l.Texts, "cells": &l.Cells, "sheets": &l.Sheets, "members": &l.Members,
		"depth": &l.Depth}
}

// add gives a command the flags of limits.
func (l *limits) add(cmd *cobra.Command) {
	cmd.Flags().Var(&l.unpack, "unpack-most", "how much one packed file may unpack to (default 64GB, and 500 times what it takes packed)")
	cmd.Flags().Var(l, "most", "NAME=N: another limit of one file, as its message names it: strings=1GB")
}

// String implements pflag.Value.
func (l *limits) String() string { return "" }

// Type implements pflag.Value.
func (l *limits) Type() string { return "LIMIT" }

// Set implements pflag.Value.
func (l *limits) Set(text string) error {
	name, text, _ := strings.Cut(text, "=")
	all := named(&packed.Limits{})
	if all[name] == nil {
		return fmt.Errorf("the limits are %s", strings.Join(slices.Sorted(maps.Keys(all)), ", "))
	}
	n, err := strconv.ParseInt(text, 10, 64)
	if err != nil {
		var s size
		if err = s.Set(text); err != nil {
			return fmt.Errorf("%s is a number or a size, such as %s=20000 or %s=2GB", name, name, name)
		}
		n = int64(s)
	}
	if n < 1 {
		return fmt.Errorf("%s is at least 1", name)
	}
	if name == "texts" && n > mostTexts {
		most := size(mostTexts)
		return fmt.Errorf("texts is at most %s", &most)
	}
	if l.most == nil {
		l.most = map[string]int64{}
	}
	l.most[name] = n
	return nil
}

// formats are all formats, the page among them, within the limits that a person has set.
func formats(l limits) *table.Formats {
	within := packed.Default
	if l.unpack != 0 {
		within.Bytes, within.Ratio = int64(l.unpack), 0
	}
	for name, n := range l.most {
		*named(&within)[name] = n
	}
	all := format.Within(within)
	all.All = append(all.All, report.Format)
	return all
}
