package build

import (
	"bytes"
	"encoding/csv"
	"errors"
	"fmt"
	"io"
	"os"
	"slices"
	"strconv"
	"strings"

	"umbau/internal/core/key"
	"umbau/internal/core/place"
	"umbau/internal/core/table"
	"umbau/internal/core/treat"
)

// correction is a line of the file of corrections: a cell answered by hand.
type correction struct {
	treat.Correction
	at      place.Place // of the cell
	line    int         // in the file
	applied bool        // the cell was there
}

// CorrectionsHeader is the header of a file of corrections.
var CorrectionsHeader = []string{"file", "sheet", "row", "header", "was", "value", "reason"}

// readCorrections reads the cells answered by hand. A line without a value is not
// answered yet.
func (r *run) readCorrections() {
	file := r.plan.Corrections
	if file == "" {
		return
	}
	fail := func(line int, format string, args ...any) {
		p := place.At(place.Place{File: file, Row: line}, "corrections", format, args...)
		p.Plan, p.Advice = r.plan.CorrectionsPos, "a file of corrections begins with "+strings.Join(CorrectionsHeader, ",")
		r.fail(p)
	}
	info, problem := inspect(r.dir, file)
	if problem != nil {
		problem.Plan = r.plan.CorrectionsPos
		problem.Message = "the file of corrections cannot be read: " + problem.Message
		r.fail(*problem)
		return
	}
	data, err := os.ReadFile(at(r.dir, file))
	if err == nil {
		data, err = io.ReadAll(r.options.Text(bytes.NewReader(data)))
	}
	if err != nil {
		fail(0, "the file of corrections cannot be read: %s", reason(err))
		return
	}
	r.addInput(file, info)
	in := csv.NewReader(bytes.NewReader(data))
	in.FieldsPerRecord = -1
	var columns []int
	cells := map[place.Place]int{}
	for {
		row, err := in.Read()
		if err == io.EOF {
			break
		}
		var bad *csv.ParseError
		if errors.As(err, &bad) {
			fail(bad.Line, "%v", bad.Err)
			return
		}
		line, _ := in.FieldPos(0)
		if columns == nil {
			for _, name := range CorrectionsHeader {
				i := slices.IndexFunc(row, func(h string) bool { return key.Same(h, name) })
				if i < 0 && name != "reason" {
					fail(line, "the file of corrections has no column %s", name)
					return
				}
				columns = append(columns, i)
			}
			continue
		}
		cell := func(i int) string {
			if columns[i] < 0 || columns[i] >= len(row) {
				return ""
			}
			return row[columns[i]]
		}
		if cell(5) == "" {
			continue
		}
		n, err := strconv.Atoi(strings.TrimSpace(cell(2)))
		if err != nil || n < 1 {
			fail(line, "%q is no number of a row", cell(2))
			continue
		}
		c := &correction{Correction: treat.Correction{Index: len(r.corrections), Header: cell(3), Was: cell(4), Value: cell(5)},
			at: place.Place{File: cell(0), Sheet: cell(1), Row: n, Header: cell(3)}, line: line}
		k := c.at
		k.Header = key.Of(k.Header)
		if before, twice := cells[k]; twice {
			p := place.At(c.at, "correction", "a cell has two corrections").ByRule()
			p.Texts = []string{fmt.Sprintf("in lines %d and %d of %s", before, line, file)}
			p.Plan, p.Advice = r.plan.CorrectionsPos, "leave one of them"
			r.fail(p)
			continue
		}
		cells[k] = line
		r.corrections = append(r.corrections, c)
	}
	if columns == nil {
		fail(1, "the file of corrections is empty")
	}
}

// AppendCorrections returns the text of a file of corrections with further lines, but
// for cells that it has already, and how many were new. All that is in it stays.
func AppendCorrections(file []byte, lines [][]string) (text []byte, added int, err error) {
	in := csv.NewReader(bytes.NewReader(bytes.TrimPrefix(file, []byte("\ufeff"))))
	in.FieldsPerRecord = -1
	rows, err := in.ReadAll()
	if err != nil {
		return nil, 0, err
	}
	if len(rows) == 0 {
		rows = [][]string{CorrectionsHeader}
	}
	var columns []int
	for _, name := range CorrectionsHeader {
		i := slices.IndexFunc(rows[0], func(h string) bool { return key.Same(h, name) })
		if i < 0 && name != "reason" {
			return nil, 0, fmt.Errorf("it has no column %s", name)
		}
		columns = append(columns, i)
	}
	cellOf := func(row []string) (k [4]string) {
		for i := range k {
			if columns[i] < len(row) {
				k[i] = strings.TrimSpace(row[columns[i]])
			}
		}
		k[3] = key.Of(k[3])
		return k
	}
	have := map[[4]string]bool{}
	for _, row := range rows {
		text = table.AppendLine(text, row...)
		have[cellOf(row)] = true
	}
	for _, line := range lines {
		row := make([]string, len(rows[0]))
		for i, c := range columns {
			if c >= 0 {
				row[c] = line[i]
			}
		}
		if k := cellOf(row); !have[k] {
			have[k] = true
			text = table.AppendLine(text, row...)
			added++
		}
	}
	return text, added, nil
}

// correct makes the corrections of an extract ready.
func (r *run) correct(in *input, p *treat.Program, problems *place.List) {
	var list []*treat.Correction
	var lines []int
	for _, c := range r.corrections {
		if c.at.File == in.file && c.at.Sheet == in.sheet {
			own := c.Correction
			list, lines = append(list, &own), append(lines, c.at.Row)
		}
	}
	if len(list) > 0 {
		p.Correct(list, lines)
	}
}

// checkCorrections stops for corrections whose cell is not there.
func (r *run) checkCorrections() {
	if r.summary.ExitCode() == 1 {
		return
	}
	for _, c := range r.corrections {
		if c.applied {
			continue
		}
		p := place.At(c.at, "correction", "a cell of the file of corrections is in no extract").ByRule()
		p.Texts = []string{fmt.Sprintf("line %d of %s", c.line, r.plan.Corrections)}
		p.Plan, p.Advice = r.plan.CorrectionsPos, "is the file, the sheet, the row or the header another one? mend or remove the line"
		r.fail(p)
	}
}
