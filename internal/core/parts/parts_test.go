package parts_test

import (
	"bytes"
	"errors"
	"io"
	"io/fs"
	"os"
	"path/filepath"
	"testing"

	"github.com/stretchr/testify/require"

	"umbau/internal/core/parts"
)

type about struct{ Plan string }

const text = "branch,amount\nOld Slip,5\nHolm,7.25\n"

// part writes a part with a text and a value.
func part(t *testing.T, dir string, n, of int) {
	t.Helper()
	w, err := parts.Create(dir, n, of)
	require.NoError(t, err)
	to, err := w.Section("text")
	require.NoError(t, err)
	for _, piece := range []string{text[:9], text[9:]} {
		_, err := io.WriteString(to, piece)
		require.NoError(t, err)
	}
	require.NoError(t, w.Put("counts", map[string]int{"Holm": 1, "Old Slip": 2}))
	require.NoError(t, w.Publish(&about{Plan: "sales"}))
}

// read reads all of a part. Each of its errors is about the part.
func read(dir string, n, of int) (is about, have string, counts map[string]int, err error) {
	p, err := parts.Open(dir, n, of, &is)
	if err != nil {
		return is, "", nil, err
	}
	defer p.Close()
	err = p.Read("text", func(in io.Reader) error {
		b, err := io.ReadAll(in)
		have = string(b)
		return err
	})
	if err == nil {
		err = p.Get("counts", &counts)
	}
	return is, have, counts, err
}

func TestPart(t *testing.T) {
	dir := t.TempDir()
	part(t, dir, 2, 3)
	is, have, counts, err := read(dir, 2, 3)
	require.NoError(t, err)
	require.Equal(t, about{"sales"}, is)
	require.Equal(t, text, have)
	require.Equal(t, map[string]int{"Holm": 1, "Old Slip": 2}, counts)

	var of about
	_, err = parts.Open(dir, 1, 3, &of)
	require.ErrorIs(t, err, fs.ErrNotExist)
	p, err := parts.Open(dir, 2, 3, &of)
	require.NoError(t, err)
	defer p.Close()
	require.ErrorContains(t, p.Get("other", &counts), "it has no other")
	require.NoError(t, p.Read("text", func(io.Reader) error { return nil }), "who reads a part of it only has the rest looked at")
	own := errors.New("no room")
	require.ErrorIs(t, p.Read("text", func(io.Reader) error { return own }), own)
}

// Which shares are there is told by names alone; other files are none.
func TestShares(t *testing.T) {
	dir := t.TempDir()
	for _, name := range []string{"share-1-of-3.part", "share-00001-of-00003.part.tmp", "share-00001-of-00003", "notes.txt"} {
		require.NoError(t, os.WriteFile(filepath.Join(dir, name), nil, 0o666))
	}
	part(t, dir, 1, 3)
	part(t, dir, 3, 3)
	part(t, dir, 123456, 200000)
	of, err := parts.Shares(dir)
	require.NoError(t, err)
	require.Equal(t, map[int][]int{3: {1, 3}, 200000: {123456}}, of)
	_, err = parts.Shares(filepath.Join(dir, "none"))
	require.ErrorIs(t, err, fs.ErrNotExist)
}

// A part that was not published is not there, nor anything of it.
func TestAbandoned(t *testing.T) {
	dir := t.TempDir()
	w, err := parts.Create(dir, 1, 2)
	require.NoError(t, err)
	require.NoError(t, w.Put("counts", 5))
	w.Abandon()
	left, err := os.ReadDir(dir)
	require.NoError(t, err)
	require.Empty(t, left)
}

// Whichever byte of a part is another, or from wherever on it is torn: it is an error, or what is read is
// what was written.
func TestDamaged(t *testing.T) {
	dir := t.TempDir()
	part(t, dir, 1, 1)
	name := filepath.Join(dir, parts.Name(1, 1))
	good, err := os.ReadFile(name)
	require.NoError(t, err)
	found := 0
	check := func(bad []byte, what string, at int) {
		require.NoError(t, os.WriteFile(name, bad, 0o666))
		is, have, counts, err := read(dir, 1, 1)
		if err != nil {
			found++
			return
		}
		require.Equal(t, about{"sales"}, is, "%s at %d", what, at)
		require.Equal(t, text, have, "%s at %d", what, at)
		require.Equal(t, map[string]int{"Holm": 1, "Old Slip": 2}, counts, "%s at %d", what, at)
	}
	for at := range good {
		for _, flip := range []byte{1, 0x80, 0xff} {
			bad := bytes.Clone(good)
			bad[at] ^= flip
			check(bad, "another byte", at)
		}
		check(good[:at], "torn", at)
	}
	require.Greater(t, found, 3*len(good), "most of it matters")
}
