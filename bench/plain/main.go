// Plain does three of the benchmark's jobs as a person would write them for one
// day's use, on Go's standard library alone:
//
//	plain long  FILE...   day, branch, product, remark, quantity, amount: days and amounts rewritten
//	plain codes FILE...   a code taken out of a text, its first spelling kept, each row of one grain
//	plain wide  FILE...   one product a column: a row for each, gaps as zeros; also of gzip files
//
// The fact table goes to standard output. Lean programs for the same (lean-long, lean-codes, lean-wide) are
// in lean.go.
package main

import (
	"bufio"
	"compress/gzip"
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
	if len(os.Args) > 2 && leans[os.Args[1]] != nil {
		if err := runLean(os.Args[1], os.Args[2:]); err != nil {
			fmt.Fprintln(os.Stderr, err)
			os.Exit(1)
		}
		fmt.Fprintln(os.Stderr, "total", cents)
		return
	}
	jobs := map[string]job{"long": long, "codes": codes, "wide": wide}
	if len(os.Args) < 3 || jobs[os.Args[1]].rows == nil {
		fmt.Fprintln(os.Stderr, "usage: plain long|codes|wide FILE...")
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

// job makes fact rows of an extract row: it puts them into row, behind the region,
// and writes each. Its columns are those of the extract where it names none.
type job struct {
	columns []string
	rows    func(region string, header, in, row []string, write func() error) error
}

func all(do job, files []string, out *csv.Writer) error {
	for i, name := range files {
		if err := one(do, name, i == 0, out); err != nil {
			return fmt.Errorf("%s: %w", name, err)
		}
	}
	return nil
}

func one(do job, name string, first bool, out *csv.Writer) error {
	f, err := os.Open(name)
	if err != nil {
		return err
	}
	defer f.Close()
	base, packed := strings.CutSuffix(filepath.Base(name), ".gz")
	var text io.Reader = bufio.NewReaderSize(f, 1<<16)
	if packed {
		if text, err = gzip.NewReader(text); err != nil {
			return err
		}
	}
	in := csv.NewReader(text)
	header, err := in.Read()
	if err != nil {
		return err
	}
	in.ReuseRecord = true
	row := append([]string{"region"}, do.columns...)
	if do.columns == nil {
		row = append(row, header...)
	}
	for k := range row {
		row[k] = strings.ToLower(row[k])
	}
	write := func() error { return out.Write(row) }
	if first {
		if err := write(); err != nil {
			return err
		}
	}
	row[0] = strings.TrimSuffix(base, ".csv")
	for {
		cells, err := in.Read()
		if err == io.EOF {
			return nil
		}
		if err == nil {
			err = do.rows(row[0], header, cells, row[1:], write)
		}
		if err != nil {
			return err
		}
	}
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

var long = job{nil, func(region string, _, in, row []string, write func() error) (err error) {
	day, err := time.Parse("02/01/2006", in[0])
	if err != nil {
		return err
	}
	if _, err := strconv.ParseInt(in[4], 10, 64); err != nil {
		return err
	}
	row[0], row[1], row[2], row[3], row[4] = day.Format("2006-01-02"), strings.TrimSpace(in[1]), strings.TrimSpace(in[2]),
		strings.TrimSpace(in[3]), in[4]
	if row[5], err = amount(in[5]); err != nil {
		return err
	}
	return write()
}}

var (
	article = regexp.MustCompile(`^.*?-(.*?) .*$`)
	first   = map[string]string{}
	seen    = map[string]bool{}
)

var codes = job{nil, func(region string, _, in, row []string, write func() error) (err error) {
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
	if row[2], err = amount(in[2]); err != nil {
		return err
	}
	return write()
}}

var wide = job{[]string{"branch", "month", "product", "amount"},
	func(region string, header, in, row []string, write func() error) (err error) {
		row[0], row[1] = strings.TrimSpace(in[0]), strings.TrimSpace(in[1])
		for i, cell := range in[2:] {
			row[2], row[3] = header[i+2], "0.00"
			if cell = strings.TrimSpace(cell); cell != "" && cell != "n/a" {
				if row[3], err = amount(cell); err != nil {
					return err
				}
			}
			if err := write(); err != nil {
				return err
			}
		}
		return nil
	}}
