// Plain does two of the benchmark's jobs as a person would write them for one
// day's use, on Go's standard library alone:
//
//	plain long  FILE...   day, branch, product, remark, quantity, amount: days and amounts rewritten
//	plain codes FILE...   a code taken out of a text, its first spelling kept, each row of one grain
//
// The fact table goes to standard output.
package main

import (
	"bufio"
	"encoding/csv"
	"fmt"
	"io"
	"os"
	"path/filepath"
	"regexp"
	"strconv"
	"strings"
	"time"
)

func main() {
	jobs := map[string]job{"long": long, "codes": codes}
	if len(os.Args) < 3 || jobs[os.Args[1]] == nil {
		fmt.Fprintln(os.Stderr, "usage: plain long|codes FILE...")
		os.Exit(2)
	}
	w := bufio.NewWriterSize(os.Stdout, 1<<16)
	out := csv.NewWriter(w)
	if err := all(jobs[os.Args[1]], os.Args[2:], out); err != nil {
		fmt.Fprintln(os.Stderr, err)
		os.Exit(1)
	}
	out.Flush()
	w.Flush()
	fmt.Fprintln(os.Stderr, "total", cents)
}

var cents int64 // of all amounts

// job makes a fact row, all but its region, of an extract row.
type job func(region string, in, row []string) error

func all(do job, files []string, out *csv.Writer) error {
	for i, name := range files {
		f, err := os.Open(name)
		if err != nil {
			return err
		}
		in := csv.NewReader(bufio.NewReaderSize(f, 1<<16))
		in.ReuseRecord = true
		header, err := in.Read()
		if err != nil {
			return err
		}
		if i == 0 {
			names := append([]string{"region"}, header...)
			for k := range names {
				names[k] = strings.ToLower(names[k])
			}
			if err := out.Write(names); err != nil {
				return err
			}
		}
		row := make([]string, len(header)+1)
		row[0] = strings.TrimSuffix(filepath.Base(name), ".csv")
		for {
			cells, err := in.Read()
			if err == io.EOF {
				break
			}
			if err == nil {
				err = do(row[0], cells, row[1:])
			}
			if err == nil {
				err = out.Write(row)
			}
			if err != nil {
				return fmt.Errorf("%s: %w", name, err)
			}
		}
		f.Close()
	}
	return nil
}

// amount rewrites 1,234.5 as 1234.50 and adds it up.
func amount(s string) (string, error) {
	s = strings.ReplaceAll(strings.TrimSpace(s), ",", "")
	whole, places, _ := strings.Cut(s, ".")
	for len(places) < 2 {
		places += "0"
	}
	n, err := strconv.ParseInt(whole+places, 10, 64)
	cents += n
	return whole + "." + places, err
}

func long(_ string, in, row []string) error {
	day, err := time.Parse("02/01/2006", in[0])
	if err != nil {
		return err
	}
	if _, err := strconv.ParseInt(in[4], 10, 64); err != nil {
		return err
	}
	row[0], row[1], row[2], row[3], row[4] = day.Format("2006-01-02"), strings.TrimSpace(in[1]), strings.TrimSpace(in[2]), strings.TrimSpace(in[3]), in[4]
	row[5], err = amount(in[5])
	return err
}

var (
	article = regexp.MustCompile(`^.*?-(.*?) .*$`)
	first   = map[string]string{}
	seen    = map[string]bool{}
)

func codes(region string, in, row []string) (err error) {
	m := article.FindStringSubmatch(in[1])
	if m == nil {
		return fmt.Errorf("no code in %q", in[1])
	}
	key := strings.ToLower(m[1])
	code, ok := first[key]
	if !ok {
		code = m[1]
		first[key] = code
	}
	grain := region + "\x00" + in[0] + "\x00" + code
	if seen[grain] {
		return fmt.Errorf("%q stands twice", grain)
	}
	seen[grain] = true
	row[0], row[1] = in[0], code
	row[2], err = amount(in[2])
	return err
}
