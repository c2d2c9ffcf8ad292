// Man writes the manual pages of all commands into a folder:
//
//	go run ./internal/cli/man FOLDER
package main

import (
	"fmt"
	"os"
	"time"

	"github.com/spf13/cobra/doc"

	"umbau/internal/cli"
)

func main() {
	if len(os.Args) != 2 {
		fmt.Fprintln(os.Stderr, "usage: go run ./internal/cli/man FOLDER")
		os.Exit(2)
	}
	if err := pages(os.Args[1]); err != nil {
		fmt.Fprintln(os.Stderr, err)
		os.Exit(1)
	}
}

func pages(folder string) error {
	if err := os.MkdirAll(folder, 0o777); err != nil {
		return err
	}
	day := time.Unix(0, 0) // the same pages whenever they are made
	c := cli.Commands()
	c.DisableAutoGenTag = true
	return doc.GenManTree(c, &doc.GenManHeader{Section: "1", Source: "Umbau " + cli.Version, Manual: "Umbau", Date: &day}, folder)
}
