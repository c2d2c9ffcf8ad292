package postgres

import (
	"context"
	"errors"
	"fmt"
	"io"
	"regexp"
	"slices"
	"strconv"
	"strings"
	"time"

	"github.com/jackc/pgx/v5"
	"github.com/jackc/pgx/v5/pgconn"

	"umbau/internal/core/place"
	"umbau/internal/core/table"
	"umbau/internal/format/csv"
	"umbau/internal/format/rowset"
)

// sink fills a table.
type sink struct {
	target  table.Target
	conn    *pgx.Conn
	columns []table.SinkColumn
	types   []columnType
	into    string // the table that COPY fills: the one itself, or one beside it
	begun   bool
	copy    *copying
}

// copying is a COPY under way.
type copying struct {
	in   *io.PipeWriter
	done chan error
}

func newSink(t table.Target) (table.Sink, error) {
	conn, err := dial(t.To)
	if err != nil {
		return nil, err
	}
	s := &sink{target: t, conn: conn}
	for _, text := range []string{"begin", "savepoint umbau"} {
		if err := s.exec(text); err != nil {
			s.Abandon()
			return nil, err
		}
	}
	return s, nil
}

// exec runs a statement, and says who is in the way where it has to wait.
func (s *sink) exec(text string) error {
	pid := s.conn.PgConn().PID()
	holder := make(chan string, 1)
	watch := time.AfterFunc(patience(s.conn)*7/10, func() { holder <- blocked(s.target.To, pid) })
	_, err := s.conn.Exec(context.Background(), text)
	if err == nil {
		watch.Stop()
		return nil
	}
	var server *pgconn.PgError
	if errors.As(err, &server) && server.Code == "55P03" {
		by := "somebody"
		if !watch.Stop() {
			if who := <-holder; who != "" {
				by = who
			}
		}
		return &failure{fmt.Sprintf("the table is locked for more than %v by %s; let that end, then build again", patience(s.conn), by)}
	}
	watch.Stop()
	return s.worded(err)
}

func (s *sink) worded(err error) error { return worded(err, s.conn.Config().Password) }

// shown is what messages call the table.
func (s *sink) shown() string {
	c := s.conn.Config()
	return fmt.Sprintf("postgres://%s@%s/%s#%s", c.User, c.Host, c.Database, s.target.Table)
}

// columnType is the type of a column.
type columnType struct {
	base             string // numeric, bigint, date, boolean, text
	precision, scale int    // of a numeric; 0 for as many digits as there are
}

func (t columnType) String() string {
	if t.base == "numeric" && t.precision > 0 {
		return fmt.Sprintf("numeric(%d,%d)", t.precision, t.scale)
	}
	return t.base
}

// mostDigits is how many digits numbers with decimals have, where the data need no more.
const mostDigits = 38

func typeOf(c table.SinkColumn) columnType {
	switch c.Is {
	case "number":
		if c.Decimals >= 0 {
			return columnType{"numeric", max(mostDigits, c.Decimals), c.Decimals}
		}
		return columnType{base: "numeric"}
	case "whole", "year":
		return columnType{base: "bigint"}
	case "date":
		return columnType{base: "date"}
	case "flag":
		return columnType{base: "boolean"}
	}
	return columnType{base: "text"}
}

// parsed reads a type as the server writes it.
func parsed(text string) columnType {
	base, rest, ok := strings.Cut(text, "(")
	t := columnType{base: base}
	if !ok {
		return t
	}
	p, s, _ := strings.Cut(strings.TrimSuffix(rest, ")"), ",")
	t.precision, _ = strconv.Atoi(p)
	t.scale, _ = strconv.Atoi(s)
	return t
}

// fits reports whether a column of the table holds what another type does, if need be with
// more digits.
func (t columnType) fits(have string) bool {
	h := parsed(have)
	switch t.base {
	case "numeric":
		return h.base == "numeric" && (h.precision == 0 || t.precision > 0 && h.scale >= t.scale)
	case "bigint":
		return h.base == "bigint" || h.base == "numeric" && (h.precision == 0 || h.scale == 0)
	case "text":
		return h.base == "text"
	}
	return h.base == t.base
}

// Begin implements table.Sink.
func (s *sink) Begin(columns []table.SinkColumn) error {
	if s.begun {
		s.stopCopy(errors.New("the delivery begins again"))
		if err := s.exec("rollback to umbau"); err != nil {
			return err
		}
	}
	s.begun, s.columns, s.types = true, columns, nil
	for _, c := range columns {
		s.types = append(s.types, typeOf(c))
	}
	if err := s.makeTable(); err != nil {
		return err
	}
	s.into = quotedName(s.target.Table)
	l := s.target.Load
	switch {
	case l.Append:
		return nil
	case len(l.Replace) > 0:
		s.into = "umbau_rows"
		return s.exec("create temporary table umbau_rows (like " + quotedName(s.target.Table) + ") on commit drop")
	}
	return s.exec("delete from " + quotedName(s.target.Table))
}

// makeTable makes the table, or finds the one that has the same columns.
func (s *sink) makeTable() error {
	have, kind, err := s.existing()
	if err != nil {
		return err
	}
	var want []rowset.Column
	for i, c := range s.columns {
		want = append(want, rowset.Column{Name: c.Name, Type: s.types[i].String(), Fits: s.types[i].fits})
	}
	name := quotedName(s.target.Table)
	switch differ := rowset.Differ(have, want); {
	case kind == "":
	case kind != "r" && kind != "p":
		return place.List{rowset.Problem(s.shown(), "it is no table that can be filled, but a view or something else")}
	case len(differ) == 0:
		for i, c := range s.columns { // as the table has them
			k := slices.IndexFunc(have, func(h rowset.Column) bool { return h.Name == c.Name })
			s.types[i] = parsed(have[k].Type)
		}
		return nil
	case !s.target.Load.Recreate:
		return place.List{rowset.OtherColumns(s.shown(), differ)}
	default:
		if err := s.exec("drop table " + name); err != nil {
			return err
		}
	}
	var columns []string
	for i, c := range s.columns {
		columns = append(columns, rowset.Quoted(c.Name)+" "+s.types[i].String())
	}
	if err := s.exec("create table " + name + " (" + strings.Join(columns, ", ") + ")"); err != nil {
		return err
	}
	for _, c := range s.columns {
		if c.Note == "" {
			continue
		}
		note := "'" + strings.ReplaceAll(c.Note, "'", "''") + "'"
		if err := s.exec("set local standard_conforming_strings = on"); err != nil {
			return err
		}
		if err := s.exec("comment on column " + name + "." + rowset.Quoted(c.Name) + " is " + note); err != nil {
			return err
		}
	}
	return nil
}

// existing are the columns of the table that is there, and what it is.
func (s *sink) existing() (have []rowset.Column, kind string, err error) {
	schema, name := tableName(s.target.Table)
	rows, err := s.conn.Query(context.Background(), `select c.relkind::text, a.attname, format_type(a.atttypid, a.atttypmod)
		from pg_class c join pg_namespace n on n.oid = c.relnamespace
		left join pg_attribute a on a.attrelid = c.oid and a.attnum > 0 and not a.attisdropped
		where c.relname = $1 and case when $2 = '' then pg_table_is_visible(c.oid) else n.nspname = $2 end
		and c.relkind in ('r','p','v','m','f','S')
		order by a.attnum`, name, schema)
	if err != nil {
		return nil, "", s.worded(err)
	}
	defer rows.Close()
	for rows.Next() {
		var column, is *string
		if err := rows.Scan(&kind, &column, &is); err != nil {
			return nil, "", s.worded(err)
		}
		if column != nil {
			have = append(have, rowset.Column{Name: *column, Type: *is})
		}
	}
	if err := rows.Err(); err != nil {
		return nil, "", s.worded(err)
	}
	return have, kind, nil
}

// part takes the rows of a block.
type part struct {
	of      *sink
	encoder *csv.Encoder
	nuls    rowset.NULs
	text    []byte
	digits  []int // by column: before the point, of the largest number
	err     place.List
}

// Part implements table.Sink.
func (s *sink) Part() table.SinkPart {
	var index []int
	for _, c := range s.columns {
		index = append(index, c.Index)
	}
	return &part{of: s, encoder: csv.NewEncoder(index), digits: make([]int, len(s.columns))}
}

// Encode implements table.SinkPart.
func (p *part) Encode(b *table.Batch) {
	if p.err = p.nuls.Check(b, p.of.columns); len(p.err) > 0 {
		return
	}
	p.text = p.encoder.Encode(p.text[:0], b)
	if len(p.of.columns) == 1 { // alone in a line it would end the rows
		p.text = endOfRows.ReplaceAll(p.text, []byte(`"\.`+`"`))
	}
	for i := range p.of.columns {
		if c := &b.Columns[p.of.columns[i].Index]; c.Texts == nil {
			p.digits[i] = digitsOf(c)
		}
	}
}

// endOfRows is a line that ends the rows of a COPY, and may be a text.
var endOfRows = regexp.MustCompile(`(?m)^\\\.$`)

// few is how many digits before the point any number has that needs no memory of its own.
const few = 19

// digitsOf is how many digits the largest number of a column has before its point, few for
// up to so many.
func digitsOf(c *table.Column) int {
	most := few
	for i := range c.Wide {
		text := strings.TrimPrefix(c.Wide[i].String(), "-")
		whole, _, _ := strings.Cut(text, ".")
		most = max(most, len(whole))
		if n, _ := c.Wide[i].Coefficient(0); !n.IsInt64() {
			most = max(most, few+1)
		}
	}
	return most
}

// Put implements table.SinkPart.
func (p *part) Put() error {
	s := p.of
	if len(p.err) > 0 {
		return p.err
	}
	for i, digits := range p.digits {
		if err := s.widen(i, digits); err != nil {
			return err
		}
	}
	if len(p.text) == 0 {
		return nil
	}
	if s.copy == nil {
		s.startCopy()
	}
	if _, err := s.copy.in.Write(p.text); err != nil {
		err := <-s.copy.done
		s.copy = nil
		return s.worded(err)
	}
	return nil
}

// widen makes room for numbers with so many digits before the point.
func (s *sink) widen(i, digits int) error {
	t := s.types[i]
	switch {
	case t.base == "bigint" && digits >= few && s.columns[i].Is == "whole":
		if digits == few { // it may have as many
			return nil
		}
		t = columnType{base: "numeric"}
	case t.base == "numeric" && t.precision > 0 && digits > t.precision-t.scale:
		t.precision = digits + t.scale
	default:
		return nil
	}
	if err := s.endCopy(); err != nil {
		return err
	}
	for _, name := range slices.Compact([]string{quotedName(s.target.Table), s.into}) {
		if err := s.exec("alter table " + name + " alter column " + rowset.Quoted(s.columns[i].Name) + " type " + t.String()); err != nil {
			return err
		}
	}
	s.types[i] = t
	return nil
}

func (s *sink) startCopy() {
	out, in := io.Pipe()
	s.copy = &copying{in: in, done: make(chan error, 1)}
	text := "copy " + s.into + " (" + rowset.QuotedList(rowset.Names(s.columns)) + ") from stdin with (format csv)"
	go func() {
		_, err := s.conn.PgConn().CopyFrom(context.Background(), out, text)
		out.CloseWithError(cmpErr(err, io.ErrClosedPipe))
		s.copy.done <- err
	}()
}

func cmpErr(err, other error) error {
	if err != nil {
		return err
	}
	return other
}

// endCopy ends the COPY under way, if there is one.
func (s *sink) endCopy() error {
	if s.copy == nil {
		return nil
	}
	s.copy.in.Close()
	err := <-s.copy.done
	s.copy = nil
	if err != nil {
		return s.worded(err)
	}
	return nil
}

// stopCopy ends it without its rows.
func (s *sink) stopCopy(why error) {
	if s.copy != nil {
		s.copy.in.CloseWithError(why)
		<-s.copy.done
		s.copy = nil
	}
}

// End implements table.Sink.
func (s *sink) End() ([]table.Written, error) {
	if err := s.endCopy(); err != nil {
		return nil, err
	}
	if by := s.target.Load.Replace; len(by) > 0 {
		name := quotedName(s.target.Table)
		var on []string
		for _, c := range by {
			on = append(on, "t."+rowset.Quoted(c)+" is not distinct from n."+rowset.Quoted(c))
		}
		if err := s.exec("delete from " + name + " t using (select distinct " + rowset.QuotedList(by) + " from umbau_rows) n where " +
			strings.Join(on, " and ")); err != nil {
			return nil, err
		}
		columns := rowset.QuotedList(rowset.Names(s.columns))
		if err := s.exec("insert into " + name + " (" + columns + ") select " + columns + " from umbau_rows"); err != nil {
			return nil, err
		}
	}
	if err := s.exec("set constraints all immediate"); err != nil { // what a commit would check
		return nil, err
	}
	return []table.Written{{Rows: -1}}, nil
}

// Publish implements table.Sink.
func (s *sink) Publish() error {
	if err := s.exec("commit"); err != nil {
		return err
	}
	return s.conn.Close(context.Background())
}

// Abandon implements table.Sink.
func (s *sink) Abandon() {
	s.stopCopy(errors.New("the build was given up"))
	ctx, cancel := context.WithTimeout(context.Background(), connectWithin)
	defer cancel()
	s.conn.Close(ctx) // which rolls back
}
