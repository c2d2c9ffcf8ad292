package cli

import (
	"fmt"

	"github.com/spf13/cobra"

	"umbau/internal/core/place"
	"umbau/internal/core/survey"
	"umbau/internal/core/table"
)

func (a *app) surveyCommand() *cobra.Command {
	var limits limits
	cmd := &cobra.Command{
		Use:               "survey PATH...",
		ValidArgsFunction: completeExtracts,
		Short:             "See what came in, before anything is decided",
		Long: `Read files, folders and globs and say which tables they hold: where each header
is, what lies around the data, how it is written, what each column holds and which
cells have no usable value; then which headers differ between tables, and which
traps wait. Nothing is written or changed.`,
		Example: `  umbau survey raw
  umbau survey raw/lakes.xlsx "raw/*_2024.csv"
  umbau survey raw --json | jq '.traps[]'`,
		Args: func(_ *cobra.Command, args []string) error {
			if len(args) == 0 {
				return usageError{fmt.Errorf("survey needs a PATH: a file, a folder or a glob")}
			}
			return nil
		},
		RunE: func(c *cobra.Command, args []string) error {
			args, err := a.withoutPlans(args)
			if err != nil {
				return err
			}
			bar := a.progress("reading")
			r, err := survey.Run(c.Context(), survey.Options{Paths: args, Workers: a.workers, Formats: formats(limits), Progress: bar.set})
			bar.stop()
			if err != nil {
				return err
			}
			a.exit = r.Problems.ExitCode()
			if a.json {
				a.printJSON(surveyDocOf(r, words(c), a.exit))
				return nil
			}
			if !a.quiet {
				a.printSurvey(r)
			}
			a.printErrors(r.Problems, true)
			return nil
		},
	}
	limits.add(cmd)
	return cmd
}

// The documents that survey prints for a machine.
type surveyDoc struct {
	place.DocHead
	Tables  []tableDoc  `json:"tables"`
	Headers []headerDoc `json:"headers"`
	Traps   []trapDoc   `json:"traps"`
}

type tableDoc struct {
	File            string     `json:"file"`
	Sheet           *string    `json:"sheet"`
	HeaderRow       int        `json:"header_row"`
	Rows            int        `json:"rows"`
	Columns         int        `json:"columns"`
	Encoding        *string    `json:"encoding"`
	Delimiter       *string    `json:"delimiter"`
	Numbers         *string    `json:"numbers"`
	Dates           *string    `json:"dates"`
	Titles          []int      `json:"titles"`
	Footnotes       []int      `json:"footnotes"`
	BlankRows       []int      `json:"blank_rows"`
	RepeatedHeaders []int      `json:"repeated_headers"`
	TotalRows       []int      `json:"total_rows"`
	TotalColumns    []string   `json:"total_columns"`
	Fields          []fieldDoc `json:"fields"`
}

type fieldDoc struct {
	Header    string   `json:"header"`
	Is        string   `json:"is"`
	Wide      bool     `json:"wide"`
	Filled    int      `json:"filled"`
	Blank     int      `json:"blank"`
	Null      int      `json:"null"`
	Text      int      `json:"text"`
	Unclear   int      `json:"unclear"`
	Error     int      `json:"error"`
	Distinct  int      `json:"distinct"`
	Estimated bool     `json:"estimated,omitempty"`
	Examples  []string `json:"examples"`
	Gaps      []gapDoc `json:"gaps"`
}

type gapDoc struct {
	Row  int    `json:"row"`
	Kind string `json:"kind"`
	Text string `json:"text"`
}

type placeOfTable struct {
	File  string  `json:"file"`
	Sheet *string `json:"sheet"`
}

type headerDoc struct {
	Header    string         `json:"header"`
	Spellings []string       `json:"spellings"`
	Tables    int            `json:"tables"`
	MissingIn []placeOfTable `json:"missing_in"`
}

type trapDoc struct {
	What   string  `json:"what"`
	File   string  `json:"file"`
	Sheet  *string `json:"sheet"`
	Row    *int    `json:"row"`
	Header *string `json:"header"`
	Count  int     `json:"count"`
	Detail string  `json:"detail"`
}

// orEmpty is a list that JSON prints as [] when there is nothing in it.
func orEmpty[T any](list []T) []T {
	if list == nil {
		return []T{}
	}
	return list
}

func surveyDocOf(r *survey.Report, command string, exit int) surveyDoc {
	d := surveyDoc{DocHead: head(command, exit, r.Problems),
		Tables: []tableDoc{}, Headers: []headerDoc{}, Traps: []trapDoc{}}
	for _, t := range r.Tables {
		td := tableDoc{File: t.Place.File, Sheet: place.OrNull(t.Place.Sheet), HeaderRow: t.HeaderRow, Rows: t.Rows, Columns: t.Columns,
			Encoding: place.OrNull(t.Facts.Encoding), Delimiter: delimiterOf(t.Facts), Numbers: place.OrNull(t.Numbers),
			Dates:  place.OrNull(t.Dates),
			Titles: orEmpty(t.Titles), Footnotes: orEmpty(t.Footnotes), BlankRows: orEmpty(t.BlankRows), RepeatedHeaders: orEmpty(t.RepeatedHeaders),
			TotalRows: orEmpty(t.TotalRows), TotalColumns: orEmpty(t.TotalColumns), Fields: []fieldDoc{}}
		for _, f := range t.Fields {
			fd := fieldDoc{f.Header, f.Is, f.Wide, f.Filled, f.Blank, f.Null, f.Text, f.Unclear, f.Error, f.Distinct, f.Estimated,
				orEmpty(f.Examples), []gapDoc{}}
			for _, g := range f.Gaps {
				fd.Gaps = append(fd.Gaps, gapDoc(g))
			}
			td.Fields = append(td.Fields, fd)
		}
		d.Tables = append(d.Tables, td)
	}
	for _, h := range r.Headers {
		hd := headerDoc{Header: h.Text, Spellings: orEmpty(h.Spellings), Tables: h.Tables, MissingIn: []placeOfTable{}}
		for _, p := range h.MissingIn {
			hd.MissingIn = append(hd.MissingIn, placeOfTable{p.File, place.OrNull(p.Sheet)})
		}
		d.Headers = append(d.Headers, hd)
	}
	for _, t := range r.Traps {
		d.Traps = append(d.Traps, trapDoc{t.What, t.Place.File, place.OrNull(t.Place.Sheet), place.OrNull(t.Place.Row),
			place.OrNull(t.Place.Header), t.Count, t.Detail})
	}
	return d
}

func delimiterOf(f table.Facts) *string {
	if f.Encoding == "" {
		return nil
	}
	return &f.Delimiter
}
