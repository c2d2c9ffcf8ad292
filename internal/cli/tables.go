package cli

import (
	"encoding/csv"
	"errors"
	"fmt"
	"io/fs"
	"os"
	"path/filepath"
	"slices"
	"strings"
	"time"

	"github.com/spf13/cobra"

	"umbau/internal/core/finished"
	"umbau/internal/core/pass"
	"umbau/internal/core/place"
	"umbau/internal/core/plan"
	"umbau/internal/core/table"
	"umbau/internal/core/value"
)

// tableFlags are what all commands on finished tables know.
type tableFlags struct {
	only, output, plan string
	limits             limits
}

func (o *tableFlags) add(cmd *cobra.Command) {
	f := cmd.Flags()
	f.StringVar(&o.only, "only", "", "a formula: which rows, such as \"region = 'Lakes' and month >= '2024-03'\"")
	f.StringVarP(&o.output, "output", "o", "", "write a tidy table to this file; - writes CSV to stdout")
	f.StringVar(&o.plan, "plan", plan.DefaultFile, "the plan whose first delivery is meant where no table is named")
	o.limits.add(cmd)
}

// openTable opens the table that is named, or the first delivery of the plan. One that is a delivery of the plan has the kinds
// that it has there.
func (a *app) openTable(c *cobra.Command, args []string, o tableFlags) (*finished.Table, error) {
	options := finished.Options{Formats: formats(o.limits), Workers: a.workers}
	name := ""
	if len(args) > 0 {
		name = args[0]
	}
	p, err := readPlan(o.plan, o.limits)
	switch {
	case err != nil && name == "":
		return nil, err
	case err != nil && c.Flags().Changed("plan"):
		return nil, err
	case err == nil:
		if first := delivered(p); first != nil && name == "" {
			name = tableOf(p, first)
		}
		if d := deliveryNamed(p, name); d != nil {
			options.Of = p
			defer a.warnStale(p, tableOf(p, d))
		}
	}
	bar := a.progress("reading")
	defer bar.stop()
	options.Progress = bar.set
	return finished.Open(c.Context(), name, options)
}

// delivered is the first delivery of a plan that is a table, nil for none.
func delivered(p *plan.Plan) *plan.Delivery {
	for i := range p.Deliveries {
		if !p.Deliveries[i].Page() {
			return &p.Deliveries[i]
		}
	}
	return nil
}

// deliveryNamed is the delivery of a plan that a table is, nil for none. One of several files is none: it is not all that was
// delivered.
func deliveryNamed(p *plan.Plan, table string) *plan.Delivery {
	as := func(name string) string { return filepath.Clean(plan.Shown(name)) }
	for i := range p.Deliveries {
		if d := &p.Deliveries[i]; !d.Page() && !d.Several() && as(tableOf(p, d)) == as(table) {
			return d
		}
	}
	return nil
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

// stdout is the name of a file that means standard output; there, the document of --json goes before all else.
const stdout = "-"

// tidy is a table that is written to a file.
type tidy struct {
	what   string // what it is
	header []string
	kinds  []plan.Kind // of the columns
	rows   [][]string
	strong func(row int) bool // rows that stand out; nil for none
}

// writeTable writes a table with a header to a file, whole or not at all, or as CSV to
// stdout.
func (a *app) writeTable(to string, t tidy) error {
	for _, text := range t.tellApart() {
		if !a.quiet {
			a.note("%s", text)
		}
	}
	if to == stdout {
		w := csv.NewWriter(a.out)
		_ = w.Write(t.header)
		_ = w.WriteAll(t.rows)
		return w.Error()
	}
	all := formats(limits{})
	outlet := all.OutletOf(to)
	if outlet == nil || outlet.Database || outlet.Page {
		return usageError{fmt.Errorf("-o %s: a table is written to a file whose ending is one of %s", place.Shorten(to),
			strings.Join(all.OutletEndings(), " "))}
	}
	if dir := filepath.Dir(to); dir != "." {
		if err := os.MkdirAll(dir, 0o777); err != nil {
			return err
		}
	}
	if err := t.write(outlet, to); err != nil {
		var path *fs.PathError
		if errors.As(err, &path) {
			err = path.Err
		}
		return place1("output", to, "the "+t.what+" cannot be written: "+err.Error())
	}
	if !a.quiet && !a.json {
		a.note("wrote %s: %s", to, countOf(len(t.rows), "line"))
	}
	return nil
}

// tellApart gives a header that stands twice, such as that of a column which the command adds, another name, and says so.
func (t *tidy) tellApart() (told []string) {
	seen := map[string]bool{}
	t.header = slices.Clone(t.header)
	for i, own := range t.header {
		name := own
		for n := 2; seen[name]; n++ {
			name = fmt.Sprintf("%s (%d)", own, n)
		}
		if t.header[i], seen[name] = name, true; name != own {
			told = append(told, fmt.Sprintf("two columns are called %s; in the %s one is %s", place.Shorten(own), t.what, place.Shorten(name)))
		}
	}
	return told
}

// write gives the rows to a sink.
func (t *tidy) write(outlet *table.Outlet, to string) error {
	s, err := outlet.NewSink(table.Target{To: to, Mark: ".umbau-"})
	if err != nil {
		return err
	}
	var columns []table.SinkColumn
	var numeric []bool
	for i, name := range t.header {
		c := table.SinkColumn{Index: i, Name: name, Is: t.kind(i).String(), Decimals: t.decimals(i)}
		columns, numeric = append(columns, c), append(numeric, c.Numeric())
	}
	err = s.Begin(columns)
	part, b := s.Part(), table.NewBuilder(numeric)
	for i := 0; i < len(t.rows) && err == nil; i++ {
		for j, text := range t.rows[i] {
			if d, _, ok := value.English.Number([]byte(text)); !numeric[j] {
				b.Text(j, []byte(text))
			} else if ok {
				b.Number(j, d)
			} else {
				b.NoNumber(j)
			}
		}
		if b.EndRow(); t.strong != nil && t.strong(i) {
			b.Strong()
		}
		if b.Rows() == 4096 || i == len(t.rows)-1 {
			part.Encode(b.Batch())
			b.Clear()
			err = part.Put()
		}
	}
	if err == nil {
		_, err = s.End()
	}
	if err == nil {
		err = s.Publish()
	}
	if err != nil {
		s.Abandon()
	}
	return err
}

// kind is that of a column: text where one of numbers has something else.
func (t *tidy) kind(column int) plan.Kind {
	kind := t.kinds[column]
	for _, row := range t.rows {
		if _, _, ok := value.English.Number([]byte(row[column])); kind.Numeric() && !ok && row[column] != "" {
			return plan.Text
		}
	}
	return kind
}

// decimals are those that all numbers of a column have, -1 where they differ.
func (t *tidy) decimals(column int) int {
	places := -1
	for _, row := range t.rows {
		text := row[column]
		if t.kinds[column] != plan.Number || text == "" {
			continue
		}
		_, behind, _ := strings.Cut(text, ".")
		if places >= 0 && len(behind) != places {
			return -1
		}
		places = len(behind)
	}
	return places
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
