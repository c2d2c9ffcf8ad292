package sqlite

import (
	"context"
	"database/sql"
	"fmt"
	"strconv"
	"strings"

	"umbau/internal/core/place"
	"umbau/internal/core/table"
	"umbau/internal/format/rowset"
)

// sink fills a table.
type sink struct {
	*session
	target  table.Target
	columns []table.SinkColumn
	insert  *sql.Stmt // of many rows
	one     *sql.Stmt
	pending []any            // values of rows that are too few for the first
	before  int64            // the greatest row number of rows that are not ours
	values  map[string][]any // of the columns by which rows are replaced
	begun   int              // how often
}

func newSink(t table.Target) (table.Sink, error) {
	s, err := join(t)
	if err != nil {
		return nil, err
	}
	return &sink{session: s, target: t}, nil
}

// shown is what messages call the table.
func (s *sink) shown() string { return Prefix + s.target.To + "#" + s.target.Table }

// typeOf is the type of a column. Numbers with places are text: all other types that hold
// them are binary.
func typeOf(c table.SinkColumn) string {
	switch c.Is {
	case "number":
		if c.Decimals >= 0 {
			return fmt.Sprintf("DECIMAL_TEXT(38,%d)", c.Decimals)
		}
		return "DECIMAL_TEXT"
	case "whole", "year", "flag":
		return "INTEGER"
	}
	return "TEXT"
}

// wanted are the columns as the table should have them.
func (s *sink) wanted() (out []rowset.Column) {
	for _, c := range s.columns {
		name, _, _ := strings.Cut(typeOf(c), "(")
		out = append(out, rowset.Column{Name: c.Name, Type: typeOf(c), Fits: func(have string) bool {
			have, _, _ = strings.Cut(have, "(")
			return strings.EqualFold(have, name)
		}})
	}
	return out
}

// Begin implements table.Sink.
func (s *sink) Begin(columns []table.SinkColumn) error {
	if s.begun++; s.begun-1 > s.back { // the first of the session that begins again
		s.back++
		if err := s.exec("rollback to umbau"); err != nil {
			return worded(err)
		}
	}
	s.columns, s.pending, s.before, s.values = columns, nil, 0, map[string][]any{}
	if err := s.makeTable(); err != nil {
		return err
	}
	name := rowset.Quoted(s.target.Table)
	if l := s.target.Load; !l.Append && len(l.Replace) == 0 {
		if err := s.exec("delete from " + name); err != nil {
			return worded(err)
		}
	} else if len(l.Replace) > 0 {
		row := s.conn.QueryRowContext(context.Background(), "select coalesce(max(rowid), 0) from "+name)
		if err := row.Scan(&s.before); err != nil {
			return worded(err)
		}
	}
	return s.prepare()
}

// makeTable makes the table, or finds the one that has the same columns.
func (s *sink) makeTable() error {
	kind, err := kindOf(s.conn, s.target.Table)
	if err != nil {
		return worded(err)
	}
	have, err := columnsOf(s.conn, s.target.Table)
	if err != nil {
		return worded(err)
	}
	name := rowset.Quoted(s.target.Table)
	switch differ := rowset.Differ(have, s.wanted()); {
	case kind == "":
	case kind != "table":
		return place.List{rowset.Problem(s.shown(), "it is a %s, and no table that can be filled", kind)}
	case len(differ) == 0:
		return nil
	case !s.target.Load.Recreate:
		return place.List{rowset.OtherColumns(s.shown(), differ)}
	default:
		if err := s.exec("drop table " + name); err != nil {
			return worded(err)
		}
	}
	var columns []string
	for _, c := range s.columns {
		columns = append(columns, rowset.Quoted(c.Name)+" "+typeOf(c))
	}
	if err := s.exec("create table " + name + " (" + strings.Join(columns, ", ") + ")"); err != nil {
		return worded(err)
	}
	return nil
}

// kindOf is what a name stands for: table, view, or nothing.
func kindOf(conn *sql.Conn, name string) (kind string, err error) {
	row := conn.QueryRowContext(context.Background(),
		"select type from sqlite_schema where lower(name) = lower(?) and type in ('table', 'view')", name)
	if err = row.Scan(&kind); err == sql.ErrNoRows {
		return "", nil
	}
	return kind, err
}

func columnsOf(conn *sql.Conn, name string) (out []rowset.Column, err error) {
	rows, err := conn.QueryContext(context.Background(), "select name, type from pragma_table_info(?)", name)
	if err != nil {
		return nil, err
	}
	defer rows.Close()
	for rows.Next() {
		var c rowset.Column
		if err := rows.Scan(&c.Name, &c.Type); err != nil {
			return nil, err
		}
		out = append(out, c)
	}
	return out, rows.Err()
}

// mostValues is how many values one insert has at most.
const mostValues = 900

// together is how many rows one insert has.
func (s *sink) together() int { return max(1, mostValues/len(s.columns)) }

func (s *sink) prepare() (err error) {
	row := "(" + strings.TrimSuffix(strings.Repeat("?,", len(s.columns)), ",") + ")"
	into := "insert into " + rowset.Quoted(s.target.Table) + " (" + rowset.QuotedList(rowset.Names(s.columns)) + ") values "
	many := into + strings.TrimSuffix(strings.Repeat(row+",", s.together()), ",")
	if s.insert, err = s.conn.PrepareContext(context.Background(), many); err != nil {
		return worded(err)
	}
	s.one, err = s.conn.PrepareContext(context.Background(), into+row)
	return err
}

// part takes the rows of a block.
type part struct {
	of     *sink
	values []any
	keys   map[string][]any // values of the columns by which rows are replaced
	nuls   rowset.NULs
	known  []known
	err    place.List
}

// known are the texts of a dictionary as values.
type known struct {
	of     *table.Dict
	texts  []string
	values []any
}

// Part implements table.Sink.
func (s *sink) Part() table.SinkPart { return &part{of: s, known: make([]known, len(s.columns))} }

// Encode implements table.SinkPart.
func (p *part) Encode(b *table.Batch) {
	p.values, p.keys = p.values[:0], map[string][]any{}
	if p.err = p.nuls.Check(b, p.of.columns); len(p.err) > 0 {
		return
	}
	var by []int
	for i, c := range p.of.columns {
		for _, name := range p.of.target.Load.Replace {
			if c.Name == name {
				by = append(by, i)
			}
		}
	}
	for row, slot := range b.Delivered {
		from := len(p.values)
		for i := range p.of.columns {
			p.values = append(p.values, p.value(b, i, row, slot))
		}
		if len(by) > 0 {
			p.note(p.values[from:], by)
		}
	}
}

// note keeps the values of a row by which others are replaced.
func (p *part) note(row []any, by []int) {
	var k strings.Builder
	for _, i := range by {
		fmt.Fprintf(&k, "%T %v\x00", row[i], row[i])
	}
	if _, known := p.keys[k.String()]; !known {
		var values []any
		for _, i := range by {
			values = append(values, row[i])
		}
		p.keys[k.String()] = values
	}
}

// value is what a row has in a column.
func (p *part) value(b *table.Batch, i, row, slot int) any {
	is, c := p.of.columns[i].Is, &b.Columns[p.of.columns[i].Index]
	at := c.At(row, slot, b.Slots)
	if c.Texts == nil {
		n := &c.Numbers[at]
		switch {
		case n.Form == table.Empty:
			return nil
		case is == "whole" && n.Form != table.Large && n.Places == 0:
			return n.Coef
		}
		return string(b.AppendNumber(nil, c, at))
	}
	k, code := &p.known[i], c.Codes[at]
	if k.of != c.Texts {
		*k = known{of: c.Texts}
	}
	for int(code) >= len(k.texts) {
		k.texts, k.values = append(k.texts, ""), append(k.values, nil)
	}
	if text := c.Texts.Out(code); text != k.texts[code] {
		k.texts[code], k.values[code] = text, valueOf(text, is)
	}
	return k.values[code]
}

// valueOf is the value of a text.
func valueOf(text, is string) any {
	switch is {
	case "year":
		if n, err := strconv.ParseInt(text, 10, 64); err == nil {
			return n
		}
	case "flag":
		if text == "true" {
			return int64(1)
		}
		return int64(0)
	}
	return strings.Clone(text)
}

// Put implements table.SinkPart.
func (p *part) Put() error {
	s := p.of
	if len(p.err) > 0 {
		return p.err
	}
	for k, v := range p.keys {
		s.values[k] = v
	}
	s.pending = append(s.pending, p.values...)
	n := s.together() * len(s.columns)
	rest := s.pending
	for ; len(rest) >= n; rest = rest[n:] {
		if _, err := s.insert.Exec(rest[:n]...); err != nil {
			return worded(err)
		}
	}
	s.pending = s.pending[:copy(s.pending, rest)]
	return nil
}

// End implements table.Sink.
func (s *sink) End() ([]table.Written, error) {
	n := len(s.columns)
	for rest := s.pending; len(rest) >= n; rest = rest[n:] {
		if _, err := s.one.Exec(rest[:n]...); err != nil {
			return nil, worded(err)
		}
	}
	s.pending = nil
	for _, values := range s.values {
		var where []string
		for _, name := range s.inOrder() {
			where = append(where, rowset.Quoted(name)+" is ?")
		}
		text := "delete from " + rowset.Quoted(s.target.Table) + " where rowid <= ? and " + strings.Join(where, " and ")
		if err := s.exec(text, append([]any{s.before}, values...)...); err != nil {
			return nil, worded(err)
		}
	}
	s.insert.Close()
	s.one.Close()
	return []table.Written{{Rows: -1}}, nil
}

// inOrder are the columns by which rows are replaced, in the order of the table.
func (s *sink) inOrder() (out []string) {
	for _, c := range s.columns {
		for _, name := range s.target.Load.Replace {
			if c.Name == name {
				out = append(out, name)
			}
		}
	}
	return out
}

// Publish implements table.Sink.
func (s *sink) Publish() error { return s.commit() }

// Abandon implements table.Sink.
func (s *sink) Abandon() { s.leave() }
