package xlsx

import (
	"fmt"
	"strconv"
	"time"
)

// appendDate appends the date that a number stands for, as 2024-01-31, with a
// time where it has one. Numbers of days count from the first day of the
// calendar; that from 1900 has a 29 February in that year, which there was not.
// ok is false for numbers that no date is.
func appendDate(dst, v []byte, from int) (out []byte, ok bool) {
	n, err := strconv.ParseFloat(string(v), 64)
	if err != nil || n < 0 || n >= 2958466 { // 10000-01-01
		return dst, false
	}
	// A number has 15 digits in a sheet; a time is rounded, but never into the next day.
	n, _ = strconv.ParseFloat(strconv.FormatFloat(n, 'g', 15, 64), 64)
	days := int64(n)
	rest := min(int64((n-float64(days))*86400+0.5), 86399)
	base := time.Date(1899, 12, 30, 0, 0, 0, 0, time.UTC)
	switch {
	case from == 1904:
		base = time.Date(1904, 1, 1, 0, 0, 0, 0, time.UTC)
	case days < 60:
		base = base.AddDate(0, 0, 1)
	}
	d := base.AddDate(0, 0, int(days))
	if days == 0 && from == 1900 { // a time alone
		return fmt.Appendf(dst, "%02d:%02d:%02d", rest/3600, rest/60%60, rest%60), true
	}
	if days == 60 && from == 1900 { // no date: a person has to look at it
		dst = append(dst, "1900-02-29"...)
	} else {
		dst = fmt.Appendf(dst, "%04d-%02d-%02d", d.Year(), d.Month(), d.Day())
	}
	if rest > 0 {
		dst = fmt.Appendf(dst, " %02d:%02d:%02d", rest/3600, rest/60%60, rest%60)
	}
	return dst, true
}
