package fact

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
	"umbau/internal/core/pass"
	"umbau/internal/core/place"
	"umbau/internal/core/table"
	"umbau/internal/core/treat"
	"umbau/internal/core/whole"
)

// CorrectionsHeader is the header of a file of corrections.
var CorrectionsHeader = []string{"file", "sheet", "row", "header", "was", "value", "reason"}

// readCorrections reads the cells answered by hand. A line without a value is not
// answered yet.
func (b *build) readCorrections() []*pass.Correction {
	file := b.plan.Corrections
	if file == "" {
		return nil
	}
	info, problem := pass.Inspect(b.plan, file)
	if problem != nil {
		problem.Plan = b.plan.CorrectionsPos
		problem.Message = "the file of corrections cannot be read: " + problem.Message
		b.fail(*problem)
		return nil
	}
	r := &correctionReader{build: b, file: file, lines: map[place.Place]int{}}
	data, err := os.ReadFile(b.plan.At(file))
	if err == nil {
		data, err = io.ReadAll(b.plan.Formats.Text(bytes.NewReader(data)))
	}
	if err != nil {
		r.fail(0, "the file of corrections cannot be read: %s", whole.Reason(err))
		return nil
	}
	b.summary.addInputs(pass.File{Name: file, Info: info})
	r.readAll(data)
	return r.list
}

// correctionReader reads a file of corrections.
type correctionReader struct {
	*build
	file    string
	columns []int               // of the file, by CorrectionsHeader; nil before its header
	lines   map[place.Place]int // of the cells
	list    []*pass.Correction
}

func (r *correctionReader) fail(line int, format string, args ...any) {
	p := place.At(place.Place{File: r.file, Row: line}, "corrections", format, args...)
	p.Plan, p.Advice = r.plan.CorrectionsPos, "a file of corrections begins with "+strings.Join(CorrectionsHeader, ",")
	r.build.fail(p)
}

func (r *correctionReader) readAll(data []byte) {
	in := csv.NewReader(bytes.NewReader(data))
	in.FieldsPerRecord = -1
	for {
		row, err := in.Read()
		if err == io.EOF {
			break
		}
		var bad *csv.ParseError
		if errors.As(err, &bad) {
			r.fail(bad.Line, "%v", bad.Err)
			return
		}
		line, _ := in.FieldPos(0)
		if r.columns != nil {
			r.row(row, line)
			continue
		}
		missing := ""
		if r.columns, missing = correctionColumns(row); missing != "" {
			r.fail(line, "the file of corrections has no column %s", missing)
			return
		}
	}
	if r.columns == nil {
		r.fail(1, "the file of corrections is empty")
	}
}

// correctionColumns finds the columns of a file of corrections; missing is one that is not
// there and must be.
func correctionColumns(header []string) (columns []int, missing string) {
	for _, name := range CorrectionsHeader {
		i := slices.IndexFunc(header, func(h string) bool { return key.Same(h, name) })
		if i < 0 && name != "reason" {
			return nil, name
		}
		columns = append(columns, i)
	}
	return columns, ""
}

// row reads one line.
func (r *correctionReader) row(row []string, line int) {
	cell := func(i int) string {
		if c := r.columns[i]; c >= 0 && c < len(row) {
			return row[c]
		}
		return ""
	}
	if cell(5) == "" {
		return
	}
	n, err := strconv.Atoi(strings.TrimSpace(cell(2)))
	if err != nil || n < 1 {
		r.fail(line, "%q is no number of a row", cell(2))
		return
	}
	c := &pass.Correction{At: place.Place{File: cell(0), Sheet: cell(1), Row: n, Header: cell(3)}, Line: line}
	c.Correction = treat.Correction{Index: len(r.list), Header: cell(3), Was: cell(4), Value: cell(5)}
	k := c.At
	k.Header = key.Of(k.Header)
	if before, twice := r.lines[k]; twice {
		p := place.At(c.At, "correction", "a cell has two corrections").ByRule()
		p.Texts = []string{fmt.Sprintf("in lines %d and %d of %s", before, line, r.file)}
		p.Plan, p.Advice = r.plan.CorrectionsPos, "leave one of them"
		r.build.fail(p)
		return
	}
	r.lines[k] = line
	r.list = append(r.list, c)
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
	columns, missing := correctionColumns(rows[0])
	if missing != "" {
		return nil, 0, fmt.Errorf("it has no column %s", missing)
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

// checkCorrections stops for corrections whose cell is not there.
func (b *build) checkCorrections() {
	if b.summary.ExitCode() == 1 {
		return
	}
	for _, c := range b.rules.Corrections {
		if b.kept.applied.Lines[c.Index] {
			continue
		}
		p := place.At(c.At, "correction", "a cell of the file of corrections is in no extract").ByRule()
		p.Texts = []string{fmt.Sprintf("line %d of %s", c.Line, b.plan.Corrections)}
		p.Plan, p.Advice = b.plan.CorrectionsPos, "is the file, the sheet, the row or the header another one? mend or remove the line"
		b.fail(p)
	}
}
