package deliver

import (
	"bytes"
	"encoding/json"
	"net/url"
	"path/filepath"
	"strings"

	"umbau/internal/core/plan"
	"umbau/internal/core/table"
	"umbau/internal/core/whole"
)

// described writes metadata beside a text file: the W3C's Metadata Vocabulary for Tabular
// Data (CSV on the Web), https://www.w3.org/TR/tabular-metadata/.
type described struct {
	table.Sink
	target  table.Target
	plan    *plan.Plan
	file    *whole.File
	columns []table.SinkColumn
}

func newDescribed(s table.Sink, t table.Target, p *plan.Plan) (table.Sink, error) {
	f, err := whole.Create(t.To+"-metadata.json", t.Mark)
	if err != nil {
		s.Abandon()
		return nil, err
	}
	return &described{Sink: s, target: t, plan: p, file: f}, nil
}

// Begin implements table.Sink.
func (d *described) Begin(columns []table.SinkColumn) error {
	d.columns = columns
	if err := d.file.Empty(); err != nil {
		return err
	}
	return d.Sink.Begin(columns)
}

// datatypes are those of XML Schema for the kinds of a plan; all else is a string.
var datatypes = map[string]string{"number": "decimal", "whole": "integer", "year": "gYear", "month": "gYearMonth", "date": "date",
	"flag": "boolean"}

type metadata struct {
	Context string         `json:"@context"`
	URL     string         `json:"url"`
	Title   string         `json:"dc:title,omitempty"`
	Dialect map[string]any `json:"dialect,omitempty"`
	Schema  metadataSchema `json:"tableSchema"`
}

type metadataSchema struct {
	Columns    []metadataColumn `json:"columns"`
	PrimaryKey []string         `json:"primaryKey,omitempty"`
}

type metadataColumn struct {
	Name     string `json:"name"`
	Titles   string `json:"titles"`
	Note     string `json:"dc:description,omitempty"`
	Datatype string `json:"datatype"`
	Null     string `json:"null"`
}

// document is the metadata of a table.
func (d *described) document() []byte {
	m := metadata{Context: "http://www.w3.org/ns/csvw", URL: filepath.Base(d.target.To), Title: d.target.Title}
	if strings.Contains(strings.ToLower(m.URL), ".tsv") {
		m.Dialect = map[string]any{"delimiter": "\t", "quoteChar": nil}
	}
	named := map[string]string{}
	for _, c := range d.columns {
		is := datatypes[c.Is]
		if is == "" {
			is = "string"
		}
		named[c.Name] = c.Name
		m.Schema.Columns = append(m.Schema.Columns, metadataColumn{url.PathEscape(c.Name), c.Name, c.Note, is, ""})
	}
	if d.plan.Rows.Repeats != plan.Keep { // else a key may stand twice
		for _, name := range d.plan.Rows.Grain {
			if named[name] == "" {
				m.Schema.PrimaryKey = nil
				break
			}
			m.Schema.PrimaryKey = append(m.Schema.PrimaryKey, url.PathEscape(name))
		}
	}
	var out bytes.Buffer
	w := json.NewEncoder(&out)
	w.SetEscapeHTML(false)
	w.SetIndent("", "  ")
	if err := w.Encode(m); err != nil {
		panic(err) // texts always marshal
	}
	return out.Bytes()
}

// End implements table.Sink.
func (d *described) End() ([]table.Written, error) {
	out, err := d.Sink.End()
	if err != nil {
		return nil, err
	}
	if _, err := d.file.Write(d.document()); err != nil {
		return nil, err
	}
	return out, d.file.Finish()
}

// Remarks implements table.Remarking.
func (d *described) Remarks() []string { return table.RemarksOf(d.Sink) }

// Publish implements table.Sink.
func (d *described) Publish() error {
	if err := d.Sink.Publish(); err != nil {
		return err
	}
	return d.file.Publish()
}

// Abandon implements table.Sink.
func (d *described) Abandon() {
	d.file.Abandon()
	d.Sink.Abandon()
}
