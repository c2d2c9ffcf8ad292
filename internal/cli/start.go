package cli

import (
	"fmt"
	"io/fs"
	"os"
	"path/filepath"
	"slices"
	"strings"

	"github.com/spf13/cobra"

	"umbau/internal/core/plan"
	"umbau/internal/format"
)

// start is what umbau says without a command: what to do in this folder, and otherwise the help.
func (a *app) start(c *cobra.Command) error {
	if _, err := os.Lstat(plan.DefaultFile); err == nil || a.json || a.quiet {
		return c.Help()
	}
	n, more := countExtracts(".")
	if n == 0 {
		return c.Help()
	}
	count := countOf(n, "file")
	if more {
		count = "more than " + count
	}
	fmt.Fprintf(a.out, "%s\n\n", a.colored(a.out, bold, "There is no "+plan.DefaultFile+" here, and "+count+" that can be extracts."))
	var g grid
	g.add("umbau draft", "works out a plan from them, and writes "+plan.DefaultFile)
	g.add("umbau survey .", "shows what came in, before anything is decided")
	g.add("umbau --help", "lists all commands")
	g.print(a.out)
	return nil
}

// mostCounted is how many files in a folder are counted, and how many entries looked at.
const mostCounted, mostLooked = 1000, 20000

// countExtracts counts the files in a folder whose ending is that of extracts; more says that
// there are others.
func countExtracts(dir string) (n int, more bool) {
	endings, looked := format.All().Endings(), 0
	_ = filepath.WalkDir(dir, func(path string, e fs.DirEntry, err error) error {
		if looked++; n == mostCounted || looked == mostLooked {
			more = n > 0
			return fs.SkipAll
		}
		switch hidden := len(e.Name()) > 1 && e.Name()[0] == '.'; {
		case err != nil || e.IsDir() && hidden:
			return fs.SkipDir
		case !e.IsDir() && !hidden && slices.Contains(endings, strings.ToLower(filepath.Ext(path))):
			n++
		}
		return nil
	})
	return n, more
}
