package cli

import (
	"crypto/sha256"
	"encoding/hex"
	"encoding/json"
	"errors"
	"fmt"
	"io"
	"io/fs"
	"os"
	"path"
	"path/filepath"
	"strings"

	"github.com/spf13/cobra"

	"umbau/internal/core/deliver"
	"umbau/internal/core/fact"
	"umbau/internal/core/finished"
	"umbau/internal/core/place"
	"umbau/internal/core/plan"
	"umbau/internal/core/record"
	"umbau/internal/core/table"
	"umbau/internal/report"
)

// reportFlags are the flags of report.
type reportFlags struct {
	output string
	limits limits
}

func (a *app) reportCommand() *cobra.Command {
	var o reportFlags
	cmd := &cobra.Command{
		Use:   "report [PLAN]",
		Short: "A page about the last build, for those who never open a terminal",
		Long: `Make one HTML file of the last build of a plan (umbau.yaml, if none is named), from
its record and its delivery: the account, a cross table to choose from, charts,
what was wrong and what was done about it. It can be sent and opened anywhere; it
asks no other machine for anything. Of a build that was stopped it says first what
stands in the way.

The plan can deliver the page with each build: deliver: [{ to: out/report.html }]`,
		Example: `  umbau report
  umbau report plans/march.yaml -o march.html`,
		Args:              atMost(1),
		ValidArgsFunction: completePlan,
		RunE: func(c *cobra.Command, args []string) error {
			file := plan.DefaultFile
			if len(args) > 0 {
				file = args[0]
			}
			return a.report(c, file, o)
		},
	}
	cmd.Flags().StringVarP(&o.output, "output", "o", "out/report.html", "where the page goes")
	o.limits.add(cmd)
	return cmd
}

// built is what report wants to know of build.json.
type built struct {
	Exit       int `json:"exit"`
	Deliveries []struct {
		To    string  `json:"to"`
		Table *string `json:"table"`
		Bytes int64   `json:"bytes"`
		Files []struct {
			File string `json:"file"`
		} `json:"files"`
	} `json:"deliveries"`
}

func (a *app) report(c *cobra.Command, file string, o reportFlags) error {
	if o.output == stdout {
		return usageError{errors.New("-o -: the page goes into a file, such as out/report.html")}
	}
	p, err := readPlan(file, o.limits)
	if err != nil {
		return err
	}
	if err := fact.CheckTarget(&plan.Plan{File: p.File, Record: p.Record}, nil, o.output); err != nil {
		return place1("output", o.output, "the page cannot be written there: "+err.Error())
	}
	told, b, err := tellOf(p)
	if err != nil {
		return err
	}
	if dir := filepath.Dir(o.output); dir != "." {
		if err := os.MkdirAll(dir, 0o777); err != nil {
			return place1("output", o.output, "the page cannot be written: "+err.Error())
		}
	}
	page, err := report.New(table.Target{To: o.output, Mark: ".umbau-", Title: p.Title})
	if err != nil {
		return place1("output", o.output, "the page cannot be written: "+err.Error())
	}
	defer page.Abandon()
	if b.Exit == 0 {
		if err := a.showRows(c, p, b, page, o); err != nil {
			return err
		}
	}
	page.Tell(told)
	written, err := page.End()
	if err == nil {
		err = page.Publish()
	}
	if err != nil {
		return place1("output", o.output, "the page cannot be written: "+err.Error())
	}
	if a.json {
		a.printJSON(struct {
			place.DocHead
			File  string `json:"file"`
			Bytes int64  `json:"bytes"`
		}{head(words(c), 0, nil), o.output, written[0].Bytes})
		return nil
	}
	if !a.quiet {
		fmt.Fprintf(a.out, "Wrote %s: a page of %s; open it in a browser\n", o.output, sizeOf(written[0].Bytes))
		if b.Exit != 0 {
			fmt.Fprintln(a.out, "The last build was stopped: the page says what stands in the way, and has no figures.")
		}
	}
	return nil
}

// sizeOf is a size as a person says it.
func sizeOf(bytes int64) string {
	if bytes >= 1<<20 {
		return fmt.Sprintf("%.1f MB", float64(bytes)/(1<<20))
	}
	return fmt.Sprintf("%d KB", (bytes+1023)>>10)
}

// tellOf is what the record of a plan tells of its last build.
func tellOf(p *plan.Plan) (told table.Told, b built, err error) {
	name := path.Join(p.Record, record.BuildFile)
	text, err := os.ReadFile(p.At(name))
	if errors.Is(err, fs.ErrNotExist) {
		return told, b, place1("no file", name, "there is no record of a build yet; umbau build makes one")
	}
	if err == nil {
		err = json.Unmarshal(text, &b)
	}
	if err != nil {
		return told, b, place1("no file", name, "it cannot be read as the record of a build: "+err.Error())
	}
	info, err := os.Stat(p.At(name))
	if err != nil {
		return told, b, err
	}
	return table.Told{Build: text, Plan: p.Shown(), Own: p.Source(), At: info.ModTime(), Calendar: p.Calendar,
		Record: func(name string) (io.ReadCloser, error) { return os.Open(p.At(path.Join(p.Record, name))) },
		Digest: func(name string) string { return digestOf(p.At(name)) }}, b, err
}

// digestOf is the SHA-256 of a file, "" where it cannot be read.
func digestOf(file string) string {
	f, err := os.Open(file)
	if err != nil {
		return ""
	}
	defer f.Close()
	h := sha256.New()
	if _, err := io.Copy(h, f); err != nil {
		return ""
	}
	return hex.EncodeToString(h.Sum(nil))
}

// showRows gives the delivered rows to the page.
func (a *app) showRows(c *cobra.Command, p *plan.Plan, b built, page *report.Page, o reportFlags) error {
	bar := a.progress("reading")
	defer bar.stop()
	options := finished.Options{Formats: formats(o.limits), Workers: a.workers, Of: p, Progress: bar.set}
	var names []string
	for _, d := range b.Deliveries {
		of := &plan.Delivery{To: d.To}
		if d.Table != nil {
			of.Table = *d.Table
		}
		switch {
		case of.Page() || strings.Contains(d.To, "{"+plan.TablePiece+"}") || of.Database() && of.Table == "":
			continue
		case len(d.Files) > 0 && of.Database(): // a star
			continue
		case len(d.Files) > 0:
			for _, f := range d.Files {
				names = append(names, p.At(f.File))
			}
		default:
			names = append(names, tableOf(p, of))
		}
		break
	}
	if len(names) == 0 {
		return place1("no file", p.File, "no delivery of the plan is one table, which a page is made of; add to deliver: "+
			"- to: out/report.html, and the next build makes the page")
	}
	var tables []*finished.Table
	for _, name := range names {
		t, err := finished.Open(c.Context(), name, options)
		if err != nil {
			return err
		}
		defer t.Close()
		tables = append(tables, t)
	}
	a.warnStale(p, names[0])
	return deliver.Again(c.Context(), tables, page)
}
