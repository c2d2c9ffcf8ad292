package main

import (
	"io/fs"
	"testing"

	"github.com/stretchr/testify/require"

	"umbau/internal/demo"
)

// The embedded files are what the generator makes: after a change to it, run go
// generate ./internal/demo.
func TestFilesAreGenerated(t *testing.T) {
	made := files()
	err := fs.WalkDir(demo.Files(), ".", func(name string, d fs.DirEntry, err error) error {
		require.NoError(t, err)
		if d.IsDir() {
			return nil
		}
		have, err := fs.ReadFile(demo.Files(), name)
		require.NoError(t, err)
		require.Equal(t, string(made[name]), string(have), name)
		delete(made, name)
		return nil
	})
	require.NoError(t, err)
	require.Empty(t, made, "not embedded")
}
