package format

import (
	"errors"
	"io/fs"
	"strings"

	"umbau/internal/core/table"
	"umbau/internal/format/postgres"
	"umbau/internal/format/sqlite"
)

// fileOf is the file of a database, if it is one.
func fileOf(address string) (file string, ok bool) {
	if len(address) >= len(sqlite.Prefix) && strings.EqualFold(address[:len(sqlite.Prefix)], sqlite.Prefix) {
		return address[len(sqlite.Prefix):], true
	}
	return "", false
}

// lookIn finds the tables of a database.
func lookIn(address, query string, wanted func(name string) bool) ([]table.Table, error) {
	if file, ok := fileOf(address); ok {
		tables, err := sqlite.Look(file, query, wanted)
		if errors.Is(err, fs.ErrNotExist) {
			err = &table.FileError{Text: "there is no such file"}
		}
		return tables, err
	}
	low := strings.ToLower(address)
	if strings.HasPrefix(low, "postgres:") || strings.HasPrefix(low, "postgresql:") {
		return postgres.Look(address, query, wanted)
	}
	return nil, &table.FileError{Text: "this is no address of a database", Advice: "write sqlite:raw/till.db or postgres://user@host/db"}
}

// exists reports whether a database has a table.
func exists(address, name string) bool {
	if file, ok := fileOf(address); ok {
		return sqlite.Exists(file, name)
	}
	return postgres.Exists(address, name)
}
