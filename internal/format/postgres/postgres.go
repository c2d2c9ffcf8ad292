// Package postgres reads and fills tables of PostgreSQL databases: each delivery in one
// transaction, by COPY; what is read in one read-only transaction.
package postgres

import (
	"context"
	"errors"
	"fmt"
	"net"
	"strconv"
	"strings"
	"time"

	"github.com/jackc/pgx/v5"
	"github.com/jackc/pgx/v5/pgconn"

	"umbau/internal/core/table"
	"umbau/internal/format/rowset"
)

// Format is that of PostgreSQL databases.
var Format = table.Format{Outlets: []table.Outlet{{Ending: "postgres:", Database: true, NewSink: newSink},
	{Ending: "postgresql:", Database: true, NewSink: newSink}}}

const (
	connectWithin = 10 * time.Second
	lockWithin    = 10 * time.Second // how long a lock of somebody else is waited for, unless the address says lock_timeout
)

// dial connects to a server.
func dial(address string) (*pgx.Conn, error) {
	config, err := pgx.ParseConfig(address)
	if err != nil {
		return nil, &failure{text: "the address of the database cannot be read; it is written postgres://user@host:5432/database"}
	}
	if config.ConnectTimeout == 0 {
		config.ConnectTimeout = connectWithin
	}
	config.RuntimeParams["application_name"] = "umbau"
	config.RuntimeParams["datestyle"] = "ISO"
	config.RuntimeParams["client_encoding"] = "UTF8"
	config.RuntimeParams["synchronize_seqscans"] = "off" // rows of a table as they lie in it, each time
	config.RuntimeParams["max_parallel_workers_per_gather"] = "0"
	if config.RuntimeParams["lock_timeout"] == "" {
		config.RuntimeParams["lock_timeout"] = fmt.Sprint(lockWithin.Milliseconds())
	}
	config.DefaultQueryExecMode = pgx.QueryExecModeExec
	ctx, cancel := context.WithTimeout(context.Background(), config.ConnectTimeout)
	defer cancel()
	conn, err := pgx.ConnectConfig(ctx, config)
	if err != nil {
		return nil, worded(err, config.Password)
	}
	return conn, nil
}

// patience is how long a connection waits for a lock.
func patience(conn *pgx.Conn) time.Duration {
	text := conn.Config().RuntimeParams["lock_timeout"]
	if n, err := strconv.Atoi(text); err == nil {
		return time.Duration(n) * time.Millisecond
	}
	if d, err := time.ParseDuration(text); err == nil {
		return d
	}
	return lockWithin
}

// failure is an error in words.
type failure struct{ text string }

// Error implements error.
func (f *failure) Error() string { return f.text }

// worded says what is wrong, without a password.
func worded(err error, password string) error {
	var own *failure
	if errors.As(err, &own) {
		return own
	}
	text := err.Error()
	var server *pgconn.PgError
	var connect *pgconn.ConnectError
	var network *net.OpError
	switch {
	case errors.As(err, &server):
		text = server.Message
		if server.Detail != "" {
			text += " (" + server.Detail + ")"
		}
		switch server.Code {
		case "28P01", "28000":
			text = "the server refuses the user or the password: " + text
		case "3D000":
			text = "the server has no such database: " + text
		}
	case errors.As(err, &connect) && errors.As(err, &network):
		text = "the server cannot be reached: " + network.Error()
	case errors.As(err, &connect):
		text = "the server cannot be reached: " + lastLine(connect.Error())
	case errors.Is(err, context.DeadlineExceeded):
		text = fmt.Sprintf("the server did not answer within %v", connectWithin)
	case strings.Contains(text, "conn closed"), strings.Contains(text, "unexpected EOF"), errors.As(err, &network):
		text = "the connection to the server broke: " + text
	}
	if password != "" {
		text = strings.ReplaceAll(text, password, "…")
	}
	return &failure{text}
}

// lastLine is the last line of a text, in which drivers say why.
func lastLine(text string) string {
	text = strings.TrimSpace(text)
	return strings.TrimSpace(text[strings.LastIndexByte(text, '\n')+1:])
}

// tableName is the name of a table, with its schema where it has one.
func tableName(text string) (schema, name string) {
	schema, name, ok := strings.Cut(text, ".")
	if !ok {
		return "", text
	}
	return schema, name
}

// quotedName is the same as SQL has it.
func quotedName(text string) string {
	schema, name := tableName(text)
	if schema == "" {
		return rowset.Quoted(name)
	}
	return rowset.Quoted(schema) + "." + rowset.Quoted(name)
}

// blocked says who holds a lock that a connection waits for; "" where nobody does.
func blocked(address string, pid uint32) string {
	conn, err := dial(address)
	if err != nil {
		return ""
	}
	ctx := context.Background()
	defer conn.Close(ctx)
	rows, err := conn.Query(ctx, fmt.Sprintf(`select pid, coalesce(usename, ''), coalesce(application_name, ''),
		coalesce(client_addr::text, 'local'), coalesce(to_char(xact_start, 'HH24:MI:SS'), '')
		from pg_stat_activity where pid = any(pg_blocking_pids(%d))`, pid))
	if err != nil {
		return ""
	}
	defer rows.Close()
	var out []string
	for rows.Next() {
		var holder int
		var user, program, from, since string
		if rows.Scan(&holder, &user, &program, &from, &since) == nil {
			out = append(out, fmt.Sprintf("%s (%s, from %s, process %d, in a transaction since %s)", user, program, from, holder, since))
		}
	}
	return strings.Join(out, ", ")
}
