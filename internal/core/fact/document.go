package fact

import (
	"encoding/json"

	"umbau/internal/core/place"
	"umbau/internal/core/tie"
)

// Document is the summary as JSON prints it: build.json and --json.
type Document struct {
	place.DocHead
	Extracts   []extractDoc  `json:"extracts"`
	Fact       factDoc       `json:"fact"`
	Ties       []tieDoc      `json:"ties"`
	Checks     checksDoc     `json:"checks"`
	Lookups    []LookupCount `json:"lookups"`
	Changes    []ChangeCount `json:"changes"`
	Empties    []EmptyCount  `json:"empties"`
	Deliveries []deliveryDoc `json:"deliveries"`
	Record     *string       `json:"record"`
	Inputs     []inputDoc    `json:"inputs"`
	NotRead    []notReadDoc  `json:"not_read"`
	Differing  []Differing   `json:"differing"`
	Warnings   []place.Doc   `json:"warnings"`
	Remarks    []string      `json:"remarks"`
	Since      *sinceDoc     `json:"since,omitempty"`
	Noticed    *noticedDoc   `json:"noticed,omitempty"`
	Accepted   bool          `json:"accepted,omitempty"`
	Seconds    float64       `json:"seconds"`
}

type extractDoc map[string]any

type factDoc struct {
	Rows    int         `json:"rows"`
	Columns []columnDoc `json:"columns"`
}

type columnDoc struct {
	Name string `json:"name"`
	Is   string `json:"is"`
}

type tieDoc struct {
	Tie        string `json:"tie"`
	Measure    string `json:"measure"`
	Extracts   string `json:"extracts"`
	Changed    string `json:"changed"`
	Fact       string `json:"fact"`
	Held       string `json:"held"`
	LeftOut    string `json:"left_out"`
	Difference string `json:"difference"`
}

type checksDoc struct {
	TotalRows    int `json:"total_rows"`
	TotalColumns int `json:"total_columns"`
	Controls     int `json:"controls"`
	Broken       int `json:"broken"`
}

type deliveryDoc struct {
	To     string         `json:"to"`
	Rows   int            `json:"rows"`
	Bytes  int64          `json:"bytes"`
	SHA256 *string        `json:"sha256"`
	Table  *string        `json:"table"`
	Files  []deliveredDoc `json:"files"`
}

// deliveredDoc is a file, or a table, of a delivery that is several.
type deliveredDoc struct {
	File   string  `json:"file"`
	Rows   int     `json:"rows"`
	Bytes  int64   `json:"bytes"`
	SHA256 *string `json:"sha256"`
}

type notReadDoc struct {
	File   string   `json:"file"`
	Sheets []string `json:"sheets"`
	Files  int      `json:"files,omitempty"` // of a folder
}

type inputDoc struct {
	File   string  `json:"file"`
	Bytes  int64   `json:"bytes"`
	SHA256 *string `json:"sha256"`
}

// Document returns the summary for a machine. version is the program's.
func (s *Summary) Document(version, command string) *Document {
	d := &Document{DocHead: place.DocHead{Umbau: version, Command: command, Exit: s.ExitCode(), Problems: s.Problems.Docs()},
		Extracts: []extractDoc{},
		Fact:     factDoc{Rows: s.FactRows, Columns: []columnDoc{}}, Ties: []tieDoc{}, Lookups: append([]LookupCount{}, s.Lookups...),
		Changes: []ChangeCount{}, Empties: []EmptyCount{},
		Checks:     checksDoc{s.Checks.TotalRows, s.Checks.TotalColumns, s.Checks.Controls, s.Checks.Broken},
		Deliveries: []deliveryDoc{}, Inputs: []inputDoc{}, NotRead: []notReadDoc{}, Differing: append([]Differing{}, s.Differing...),
		Warnings: s.Warnings.Docs(), Remarks: append([]string{}, s.Remarks...), Since: s.Since.doc(),
		Noticed: s.Since.noticed(), Accepted: s.Since.Accepted,
		Seconds: s.Seconds}
	if s.Recorded {
		d.Record = &s.Plan.Record
	}
	d.Changes = append(d.Changes, s.Changes...)
	d.Empties = append(d.Empties, s.Empties...)
	for i := range s.Extracts {
		e := &s.Extracts[i]
		doc := extractDoc{"file": e.File, "sheet": place.OrNull(e.Sheet)}
		for j, n := range e.Rows.List() {
			doc[tie.RowsHeader[j]] = n
		}
		d.Extracts = append(d.Extracts, doc)
		for _, m := range e.Measures {
			t := e.Account(m).Totals()
			d.Ties = append(d.Ties, tieDoc{e.Name(), s.Plan.Columns[m].Name, t.Read.String(), t.Changed.String(), t.Fact.String(),
				t.Held.String(), t.LeftOut.String(), t.Difference.String()})
		}
	}
	for _, c := range s.Plan.Columns {
		if c.Kept {
			d.Fact.Columns = append(d.Fact.Columns, columnDoc{c.Name, c.Kind.String()})
		}
	}
	for _, f := range s.Deliveries {
		doc := deliveryDoc{f.Name, f.Rows, f.Bytes, f.Digest, place.OrNull(f.Table), []deliveredDoc{}}
		for _, one := range f.Files {
			doc.Files = append(doc.Files, deliveredDoc{one.Name, one.Rows, one.Bytes, one.Digest})
		}
		d.Deliveries = append(d.Deliveries, doc)
	}
	for _, n := range s.NotRead {
		d.NotRead = append(d.NotRead, notReadDoc{n.File, append([]string{}, n.Sheets...), n.Files})
	}
	for _, f := range s.Inputs {
		d.Inputs = append(d.Inputs, inputDoc{place.UTF8(f.Name), f.Bytes, f.Digest})
	}
	return d
}

// JSON writes a document as a machine reads it.
func (d *Document) JSON() []byte {
	out, err := json.MarshalIndent(d, "", "  ")
	if err != nil {
		panic(err) // texts, numbers and maps of them always marshal
	}
	return append(out, '\n')
}
