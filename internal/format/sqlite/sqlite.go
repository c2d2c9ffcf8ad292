// Package sqlite reads and fills tables of SQLite databases. All deliveries of a build into
// one database are one transaction; a database that is not there yet appears as a file, when
// all has held.
package sqlite

import (
	"context"
	"database/sql"
	"errors"
	"fmt"
	"io/fs"
	"net/url"
	"os"
	"strings"
	"sync"

	"modernc.org/sqlite"
	lib "modernc.org/sqlite/lib"

	"umbau/internal/core/table"
	"umbau/internal/core/whole"
)

// Prefix begins the address of a database.
const Prefix = "sqlite:"

// Format is that of SQLite databases.
var Format = table.Format{Outlets: []table.Outlet{{Ending: Prefix, Database: true, NewSink: newSink}}}

// patience is how long a database that another program writes to is waited for, in
// milliseconds.
const patience = 10_000

// open opens a database file.
func open(file, mode string) (*sql.DB, error) {
	u := url.URL{Scheme: "file", Opaque: (&url.URL{Path: file}).EscapedPath(),
		RawQuery: fmt.Sprintf("mode=%s&_pragma=busy_timeout(%d)", mode, patience)}
	db, err := sql.Open("sqlite", u.String())
	if err == nil {
		db.SetMaxOpenConns(1)
	}
	return db, err
}

// worded says what is wrong in words.
func worded(err error) error {
	var e *sqlite.Error
	if !errors.As(err, &e) {
		return err
	}
	switch e.Code() & 0xff {
	case lib.SQLITE_BUSY, lib.SQLITE_LOCKED:
		return fmt.Errorf("another program has a lock on the database for more than %d s; let it end, then build again", patience/1000)
	case lib.SQLITE_NOTADB:
		return errors.New("it is no SQLite database, or one that is locked with a key")
	case lib.SQLITE_FULL:
		return errors.New("no space left on the disk")
	case lib.SQLITE_READONLY, lib.SQLITE_PERM:
		return errors.New("the database may not be written")
	case lib.SQLITE_CANTOPEN:
		return errors.New("the database cannot be opened")
	}
	return errors.New(strings.TrimPrefix(e.Error(), "SQL logic error: "))
}

// session is a transaction on a database, which several sinks share.
type session struct {
	key  string
	file *whole.File // of a database that is not there yet, nil for another
	db   *sql.DB
	conn *sql.Conn
	uses int
	done bool // committed, or rolled back
	back int  // how often it began again with nothing
}

var sessions = struct {
	sync.Mutex
	open map[string]*session
}{open: map[string]*session{}}

// join joins the transaction on a database, or begins it.
func join(t table.Target) (*session, error) {
	sessions.Lock()
	defer sessions.Unlock()
	key := t.Mark + "\x00" + whole.Resolved(t.To)
	if s := sessions.open[key]; s != nil && !s.done {
		s.uses++
		return s, nil
	}
	s := &session{key: key, uses: 1}
	to := t.To
	info, err := os.Stat(t.To)
	switch {
	case errors.Is(err, fs.ErrNotExist):
		if s.file, err = whole.Create(t.To, t.Mark); err != nil {
			return nil, err
		}
		to = s.file.Temp
	case err != nil:
		return nil, err
	case !info.Mode().IsRegular():
		return nil, &fs.PathError{Op: "open", Path: t.To, Err: errors.New("it is there already and no plain file")}
	}
	if err := s.begin(to); err != nil {
		s.end()
		return nil, worded(err)
	}
	sessions.open[key] = s
	return s, nil
}

func (s *session) begin(file string) (err error) {
	if s.db, err = open(file, "rw"); err != nil {
		return err
	}
	if s.conn, err = s.db.Conn(context.Background()); err != nil {
		return err
	}
	pragmas := []string{"pragma cache_size = -16000"}
	if s.file != nil { // nobody sees it before it is whole
		pragmas = append(pragmas, "pragma journal_mode = off", "pragma synchronous = off")
	}
	for _, p := range append(pragmas, "begin immediate", "savepoint umbau") {
		if err := s.exec(p); err != nil {
			return err
		}
	}
	return nil
}

func (s *session) exec(text string, args ...any) error {
	_, err := s.conn.ExecContext(context.Background(), text, args...)
	return err
}

// commit makes all that was done last. Others of the session find it done.
func (s *session) commit() error {
	if s.done {
		return nil
	}
	if err := s.exec("commit"); err != nil {
		return worded(err)
	}
	s.done = true
	sessions.Lock()
	delete(sessions.open, s.key)
	sessions.Unlock()
	if s.file == nil {
		s.end()
		return nil
	}
	if err := errors.Join(s.conn.Close(), s.db.Close()); err != nil {
		return err
	}
	s.conn, s.db = nil, nil
	if err := s.file.Finish(); err != nil {
		return err
	}
	return s.file.Publish()
}

// leave rolls back when the last one leaves a transaction that is not done.
func (s *session) leave() {
	sessions.Lock()
	defer sessions.Unlock()
	if s.uses--; s.uses > 0 {
		return
	}
	if !s.done {
		s.done = true
		s.end()
		if s.file != nil {
			s.file.Abandon()
			for _, behind := range []string{"-journal", "-wal", "-shm"} {
				os.Remove(s.file.Temp + behind)
			}
		}
	}
	if sessions.open[s.key] == s {
		delete(sessions.open, s.key)
	}
}

// end closes the connection, which rolls back.
func (s *session) end() {
	if s.conn != nil {
		s.conn.Close()
	}
	if s.db != nil {
		s.db.Close()
	}
	s.conn, s.db = nil, nil
}
