package sqlite

import (
	"context"
	"database/sql"
	"errors"
	"fmt"
	"io"
	"math"
	"os"
	"regexp"
	"runtime"
	"strconv"
	"strings"
	"time"

	"umbau/internal/core/table"
	"umbau/internal/format/cells"
	"umbau/internal/format/rowset"
)

// reader is a database that is read: all tables in one transaction.
type reader struct {
	file string
	size int64
	db   *sql.DB
	conn *sql.Conn
}

// Look finds the tables of a database whose names are wanted, or what a query gives.
func Look(file, query string, wanted func(name string) bool) ([]table.Table, error) {
	info, err := os.Stat(file)
	if err != nil {
		return nil, err
	}
	r := &reader{file: file, size: info.Size()}
	if err := r.begin(); err != nil {
		r.close()
		return nil, unreadable(err)
	}
	runtime.AddCleanup(r, func(db *sql.DB) { db.Close() }, r.db)
	if query != "" {
		if err := single(query); err != nil {
			return nil, err
		}
		return []table.Table{r.table("query", query)}, nil
	}
	names, err := r.names()
	if err != nil {
		return nil, unreadable(err)
	}
	var out []table.Table
	for _, n := range names {
		if wanted(n) {
			out = append(out, r.table(n, "select * from "+rowset.Quoted(n)))
		}
	}
	if len(out) == 0 {
		r.close()
	}
	return out, nil
}

// Exists reports whether a database has a table.
func Exists(file, name string) bool {
	tables, err := Look(file, "", func(n string) bool { return n == name })
	if err != nil || len(tables) == 0 {
		return false
	}
	tables[0].Close()
	return true
}

func unreadable(err error) error {
	return &table.FileError{Text: worded(err).Error(), Advice: "is it the database that is meant?"}
}

func (r *reader) begin() (err error) {
	if r.db, err = open(r.file, "ro"); err != nil {
		return err
	}
	r.db.SetMaxOpenConns(0) // a table may be read twice at once
	r.conn, err = r.another()
	return err
}

// another is a connection with a transaction in which nothing can be changed.
func (r *reader) another() (*sql.Conn, error) {
	ctx := context.Background()
	conn, err := r.db.Conn(ctx)
	if err != nil {
		return nil, err
	}
	for _, text := range []string{"pragma query_only = on", "begin", "select count(*) from sqlite_schema"} {
		if _, err := conn.ExecContext(ctx, text); err != nil {
			conn.Close()
			return nil, err
		}
	}
	return conn, nil
}

func (r *reader) close() {
	if r.conn != nil {
		_, _ = r.conn.ExecContext(context.Background(), "rollback") // nothing was changed
		r.conn.Close()
	}
	if r.db != nil {
		r.db.Close()
	}
}

// names are those of the tables and views.
func (r *reader) names() (out []string, err error) {
	rows, err := r.conn.QueryContext(context.Background(),
		"select name from sqlite_schema where type in ('table', 'view') and name not like 'sqlite\\_%' escape '\\' order by name")
	if err != nil {
		return nil, err
	}
	defer rows.Close()
	for rows.Next() {
		var name string
		if err := rows.Scan(&name); err != nil {
			return nil, err
		}
		out = append(out, name)
	}
	return out, rows.Err()
}

// table is a table, or what a query gives.
func (r *reader) table(name, query string) table.Table {
	return table.Table{Sheet: name, Headed: true, Close: r.close, Size: r.size, Bytes: r.size,
		Content: func() (io.ReadCloser, error) { return os.Open(r.file) },
		Open: func(how table.Reading) (table.Source, error) {
			conn, err := r.another()
			if err != nil {
				return nil, unreadable(err)
			}
			rows, err := conn.QueryContext(context.Background(), query)
			if err != nil {
				conn.Close()
				return nil, unreadable(err)
			}
			s := &result{conn: conn, rows: rows}
			if s.headers, err = rows.Columns(); err != nil {
				s.Close()
				return nil, unreadable(err)
			}
			s.values = make([]any, len(s.headers))
			for range s.headers {
				s.into = append(s.into, new(any))
			}
			return cells.Source(s, how), nil
		}}
}

// result is what a query gives.
type result struct {
	conn    *sql.Conn
	rows    *sql.Rows
	headers []string
	values  []any
	into    []any
	n       int
}

// Header implements cells.Rows.
func (s *result) Header() []string { return s.headers }

// enough is how many bytes a block has at least.
const enough = 32 << 10

// Append implements cells.Rows.
func (s *result) Append(dst []byte) (block []byte, n int, err error) {
	for len(dst) < enough && s.rows.Next() {
		if err := s.rows.Scan(s.into...); err != nil {
			return dst, n, unreadable(err)
		}
		s.n++
		dst = cells.AppendRow(dst, len(s.into))
		for i, v := range s.into {
			if dst, err = appendValue(dst, *v.(*any)); err != nil {
				return dst, n, &table.RowError{Row: s.n, Text: fmt.Sprintf("column %q: %v", s.headers[i], err)}
			}
		}
		n++
	}
	if err := s.rows.Err(); err != nil {
		return dst, n, unreadable(err)
	}
	if n == 0 {
		return dst, 0, io.EOF
	}
	return dst, n, nil
}

func appendValue(dst []byte, v any) ([]byte, error) {
	switch v := v.(type) {
	case nil:
		return cells.AppendNull(dst), nil
	case int64:
		return cells.AppendCell(dst, table.NumberCell, strconv.AppendInt(nil, v, 10)), nil
	case float64:
		if math.IsNaN(v) || math.IsInf(v, 0) {
			return cells.AppendCell(dst, table.OtherCell, []byte("#NUM!")), nil
		}
		return cells.AppendCell(dst, table.NumberCell, strconv.AppendFloat(nil, v, 'f', -1, 64)), nil
	case bool:
		return cells.AppendCell(dst, table.OtherCell, strconv.AppendBool(nil, v)), nil
	case string:
		return cells.AppendCell(dst, table.TextCell, []byte(v)), nil
	case time.Time:
		form := time.DateOnly
		if !v.Equal(v.Truncate(24 * time.Hour)) {
			form = "2006-01-02 15:04:05.999999999"
		}
		return cells.AppendCell(dst, table.DateCell, []byte(v.Format(form))), nil
	}
	return dst, errors.New("bytes, which are no text, number or date; leave it out with query")
}

// Close implements cells.Rows.
func (s *result) Close() error {
	err := s.rows.Close()
	_, _ = s.conn.ExecContext(context.Background(), "rollback") // nothing was changed
	return errors.Join(err, s.conn.Close())
}

// single reports a query that is more than one select.
func single(query string) error {
	text := strings.TrimRight(strings.TrimSpace(query), "; \t\r\n")
	first, _, _ := strings.Cut(strings.ToLower(strings.TrimLeft(text, "( \t\r\n")), " ")
	first, _, _ = strings.Cut(first, "\n")
	if first != "select" && first != "with" && first != "values" || strings.Contains(withoutTexts(text), ";") {
		return &table.FileError{Text: "query is a single select, and this is not", Advice: "write one select; table reads a whole table"}
	}
	return nil
}

// withoutTexts is a query without what stands in quotes and in comments.
var withoutTexts = func() func(string) string {
	aside := regexp.MustCompile(`(?s)'(?:[^']|'')*'|"(?:[^"]|"")*"|\[[^\]]*\]|` + "`[^`]*`" + `|--[^\n]*|/\*.*?\*/`)
	return func(text string) string { return aside.ReplaceAllString(text, "") }
}()
