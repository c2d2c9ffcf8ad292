package cli

import (
	"bytes"
	"encoding/csv"
	"errors"
	"fmt"
	"io/fs"
	"os"
	"path/filepath"
	"strings"
	"time"

	"github.com/spf13/cobra"

	"umbau/internal/core/finished"
	"umbau/internal/core/pass"
	"umbau/internal/core/plan"
	"umbau/internal/core/whole"
)

// tableFlags are what all commands on finished tables know.
type tableFlags struct {
	only, output, plan string
	unpack             size
}

func (o *tableFlags) add(cmd *cobra.Command) {
	f := cmd.Flags()
	f.StringVar(&o.only, "only", "", "a formula: which rows, such as \"region = 'Lakes' and month >= '2024-03'\"")
	f.StringVarP(&o.output, "output", "o", "", "write a tidy table to this file; - writes CSV to stdout")
	f.StringVar(&o.plan, "plan", plan.DefaultFile, "the plan whose first delivery is meant where no table is named")
	unpackFlag(cmd, &o.unpack)
}

// openTable opens the table that is named, or the first delivery of the plan.
func (a *app) openTable(c *cobra.Command, args []string, o tableFlags) (*finished.Table, error) {
	options := finished.Options{Formats: formats(o.unpack), Workers: a.workers}
	name := ""
	if len(args) > 0 {
		name = args[0]
	}
	p, err := readPlan(o.plan, o.unpack)
	switch {
	case err != nil && name == "":
		return nil, err
	case err != nil && c.Flags().Changed("plan"):
		return nil, err
	case err == nil && len(p.Deliveries) > 0:
		to := tableOf(p, &p.Deliveries[0])
		if name == "" {
			name = to
		}
		if filepath.Clean(name) == filepath.Clean(to) {
			options.Of = p
			defer a.warnStale(p, to)
		}
	}
	bar := a.progress("reading")
	defer bar.stop()
	options.Progress = bar.set
	return finished.Open(c.Context(), name, options)
}

// tableOf is a delivery of a plan as a table is named.
func tableOf(p *plan.Plan, d *plan.Delivery) string {
	if d.Database() {
		return p.AddressAt(d.To) + "#" + d.Table
	}
	return p.At(d.To)
}

// warnStale says when the plan or an extract is newer than its delivery.
func (a *app) warnStale(p *plan.Plan, to string) {
	info, err := os.Stat(to)
	if err != nil || a.quiet {
		return
	}
	newer := func(at time.Time) bool { return at.After(info.ModTime()) }
	if i, err := os.Stat(p.File); err == nil && newer(i.ModTime()) {
		a.note("%s is newer than %s: umbau build makes it anew", p.File, to)
		return
	}
	for _, f := range pass.Find(p).Files {
		if newer(f.Info.ModTime()) {
			a.note("%s is newer than %s: umbau build makes it anew", f.Name, to)
			return
		}
	}
}

// writeTable writes a table with a header to a file, whole or not at all.
func (a *app) writeTable(to string, header []string, rows [][]string, what string) error {
	var b bytes.Buffer
	w := csv.NewWriter(&b)
	w.Write(header)
	w.WriteAll(rows)
	if err := w.Error(); err != nil {
		return err
	}
	if to == "-" {
		_, err := a.out.Write(b.Bytes())
		return err
	}
	if !strings.EqualFold(filepath.Ext(to), ".csv") {
		return usageError{errors.New("-o " + to + ": tables are written as .csv")}
	}
	if dir := filepath.Dir(to); dir != "." {
		if err := os.MkdirAll(dir, 0o777); err != nil {
			return err
		}
	}
	if err := whole.Replace(to, ".umbau-", b.Bytes()); err != nil {
		var path *fs.PathError
		if errors.As(err, &path) {
			err = path.Err
		}
		return place1("output", to, "the "+what+" cannot be written: "+err.Error())
	}
	if !a.quiet && !a.json {
		a.note("wrote %s: %s", to, countOf(len(rows), "line"))
	}
	return nil
}

// note says something beside a result.
func (a *app) note(format string, args ...any) { fmt.Fprintf(a.err, format+"\n", args...) }

// remark says what a person must know of the rows of a table.
func (a *app) remark(t *finished.Table, v *finished.View) {
	for _, text := range v.Remarks {
		if !a.quiet {
			a.note("%s: %s", t.Name, text)
		}
	}
}
