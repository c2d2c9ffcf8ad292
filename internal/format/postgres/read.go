package postgres

import (
	"context"
	"fmt"
	"io"
	"runtime"
	"slices"
	"strings"

	"github.com/jackc/pgx/v5"
	"github.com/jackc/pgx/v5/pgconn"
	"github.com/jackc/pgx/v5/pgtype"

	"umbau/internal/core/table"
	"umbau/internal/format/cells"
)

// reader is a database that is read: all tables in one read-only transaction.
type reader struct {
	conn     *pgx.Conn
	address  string
	snapshot string // what other connections see too
}

// Look finds the tables of a database whose names are wanted, or what a query gives. Names
// are those of tables and views in sight, and others with their schema.
func Look(address, query string, wanted func(name string) bool) ([]table.Table, error) {
	conn, err := dial(address)
	if err != nil {
		return nil, unreadable(err)
	}
	r := &reader{conn: conn, address: address}
	runtime.AddCleanup(r, func(c *pgx.Conn) { c.Close(context.Background()) }, conn)
	if _, err := conn.Exec(context.Background(), begin); err != nil {
		return nil, r.unreadable(err)
	}
	if err := conn.QueryRow(context.Background(), "select pg_export_snapshot()").Scan(&r.snapshot); err != nil {
		return nil, r.unreadable(err)
	}
	if query != "" {
		return []table.Table{r.table("query", query)}, nil
	}
	names, err := r.names()
	if err != nil {
		return nil, r.unreadable(err)
	}
	var out []table.Table
	for _, n := range names {
		if wanted(n) {
			out = append(out, r.table(n, "select * from "+quotedName(n)))
		}
	}
	if len(out) == 0 {
		r.close()
	}
	return out, nil
}

func (r *reader) close() { r.conn.Close(context.Background()) }

// begin begins a transaction in which nothing can be changed, and nothing changes.
const begin = "begin isolation level repeatable read read only"

// another is a connection that sees the same: a table may be read twice at once.
func (r *reader) another() (*pgx.Conn, error) {
	conn, err := dial(r.address)
	if err != nil {
		return nil, unreadable(err)
	}
	for _, text := range []string{begin, "set transaction snapshot '" + r.snapshot + "'"} {
		if _, err := conn.Exec(context.Background(), text); err != nil {
			conn.Close(context.Background())
			return nil, r.unreadable(err)
		}
	}
	return conn, nil
}

// Exists reports whether a database has a table.
func Exists(address, name string) bool {
	tables, err := Look(address, "", func(n string) bool { return n == name })
	if err != nil || len(tables) == 0 {
		return false
	}
	tables[0].Close()
	return true
}

func unreadable(err error) error {
	return &table.FileError{Text: err.Error(), Advice: "is it the database that is meant, and does the server run?"}
}

func (r *reader) unreadable(err error) error {
	return unreadable(worded(err, r.conn.Config().Password))
}

func (r *reader) names() (out []string, err error) {
	rows, err := r.conn.Query(context.Background(), `select
		case when pg_table_is_visible(c.oid) then c.relname else n.nspname || '.' || c.relname end
		from pg_class c join pg_namespace n on n.oid = c.relnamespace
		where c.relkind in ('r','p','v','m','f') and n.nspname not in ('pg_catalog','information_schema')
		and n.nspname not like 'pg\_%' order by 1`)
	if err != nil {
		return nil, err
	}
	return pgx.CollectRows(rows, pgx.RowTo[string])
}

// table is a table, or what a query gives.
func (r *reader) table(name, query string) table.Table {
	return table.Table{Sheet: name, Headed: true, Close: r.close, Open: func(how table.Reading) (table.Source, error) {
		s := &result{reader: r}
		if err := s.open(query); err != nil {
			s.Close()
			return nil, err
		}
		return cells.Source(s, how), nil
	}}
}

// result is what a query gives.
type result struct {
	reader  *reader
	conn    *pgx.Conn
	headers []string
	kinds   []table.CellKind
	rows    *pgconn.ResultReader
	n       int
}

func (s *result) open(query string) error {
	ctx := context.Background()
	var err error
	if s.conn, err = s.reader.another(); err != nil {
		return err
	}
	pg := s.conn.PgConn()
	about, err := pg.Prepare(ctx, "", query, nil) // which takes one statement
	if err != nil {
		return s.reader.unreadable(err)
	}
	for _, f := range about.Fields {
		kind, err := s.kindOf(f.DataTypeOID)
		if err != nil {
			return &table.FileError{Text: fmt.Sprintf("column %q: %v", f.Name, err), Advice: "leave it out with query, or cast it"}
		}
		s.headers, s.kinds = append(s.headers, f.Name), append(s.kinds, kind)
	}
	if len(s.headers) == 0 {
		return &table.FileError{Text: "query gives no columns", Advice: "it is a single select"}
	}
	if _, err := pg.Prepare(ctx, "", query, nil); err != nil { // the last one may be another's
		return s.reader.unreadable(err)
	}
	s.rows = pg.ExecPrepared(ctx, "", nil, nil, nil)
	return nil
}

// kindOf is the kind of cells of a type.
func (s *result) kindOf(oid uint32) (table.CellKind, error) {
	switch oid {
	case pgtype.Int2OID, pgtype.Int4OID, pgtype.Int8OID, pgtype.NumericOID, pgtype.Float4OID, pgtype.Float8OID, pgtype.OIDOID:
		return table.NumberCell, nil
	case pgtype.BoolOID:
		return table.OtherCell, nil
	case pgtype.DateOID, pgtype.TimestampOID, pgtype.TimestamptzOID:
		return table.DateCell, nil
	case pgtype.TextOID, pgtype.VarcharOID, pgtype.BPCharOID, pgtype.NameOID, pgtype.UUIDOID, pgtype.JSONOID, pgtype.JSONBOID, pgtype.TimeOID:
		return table.TextCell, nil
	case pgtype.ByteaOID:
		return 0, fmt.Errorf("bytes, which are no text, number or date")
	}
	row := s.conn.QueryRow(context.Background(),
		"select format_type(oid, null), typcategory::text, typbasetype from pg_type where oid = $1", oid)
	var name, category string
	var base uint32
	if err := row.Scan(&name, &category, &base); err != nil {
		return 0, err
	}
	switch {
	case base > 0: // a domain
		return s.kindOf(base)
	case strings.Contains("ACRG", category):
		return 0, fmt.Errorf("%s is a list or a composite, and no value of a table", name)
	}
	return table.TextCell, nil
}

// Header implements cells.Rows.
func (s *result) Header() []string { return s.headers }

// enough is how many bytes a block has at least.
const enough = 32 << 10

// Append implements cells.Rows.
func (s *result) Append(dst []byte) (block []byte, n int, err error) {
	for len(dst) < enough && s.rows.NextRow() {
		dst = cells.AppendRow(dst, len(s.headers))
		for i, v := range s.rows.Values() {
			dst = s.appendValue(dst, v, s.kinds[i])
		}
		n++
		s.n++
	}
	if n > 0 {
		return dst, n, nil
	}
	if _, err := s.rows.Close(); err != nil {
		return dst, 0, s.reader.unreadable(err)
	}
	return dst, 0, io.EOF
}

func (s *result) appendValue(dst, v []byte, kind table.CellKind) []byte {
	switch {
	case v == nil:
		return cells.AppendNull(dst)
	case kind == table.OtherCell:
		if v[0] == 't' {
			return cells.AppendCell(dst, kind, []byte("true"))
		}
		return cells.AppendCell(dst, kind, []byte("false"))
	case kind == table.NumberCell && slices.Contains([]string{"NaN", "Infinity", "-Infinity"}, string(v)):
		return cells.AppendCell(dst, table.OtherCell, []byte("#NUM!"))
	}
	return cells.AppendCell(dst, kind, v)
}

// Close implements cells.Rows.
func (s *result) Close() error {
	if s.conn == nil {
		return nil
	}
	ctx, cancel := context.WithCancel(context.Background())
	cancel() // rows that nobody wants are not waited for
	s.conn.Close(ctx)
	return nil
}
