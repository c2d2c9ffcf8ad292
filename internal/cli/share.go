package cli

import (
	"errors"
	"fmt"
	"path/filepath"
	"strconv"
	"strings"

	"github.com/spf13/cobra"

	"umbau/internal/core/fact"
	"umbau/internal/core/parts"
	"umbau/internal/core/place"
)

// check reports flags of build that do not go together.
func (o *buildFlags) check() error {
	switch {
	case (o.share == "") != (o.parts == ""):
		return errors.New("--share 3/16 and --parts DIR go together")
	case o.share != "" && (o.join != "" || o.dryRun || len(o.try) > 0):
		return errors.New("--share goes with none of --join, --dry-run and --try")
	case o.join != "" && (o.dryRun || len(o.try) > 0):
		return errors.New("--join goes with neither --dry-run nor --try")
	}
	if o.share != "" {
		_, err := o.shareOf()
		return err
	}
	return nil
}

// mostShares is how many shares a build may have.
const mostShares = 100_000

// shareOf is the share that is meant.
func (o *buildFlags) shareOf() (*fact.Share, error) {
	first, second, ok := strings.Cut(o.share, "/")
	n, err := strconv.Atoi(first)
	of, err2 := strconv.Atoi(second)
	if !ok || err != nil || err2 != nil || n < 1 || of < n || of > mostShares {
		return nil, fmt.Errorf("--share %s: say which of how many, such as 3/16", place.Shorten(o.share))
	}
	return &fact.Share{N: n, Of: of, Dir: o.parts}, nil
}

// buildShare reads a share of the extracts.
func (a *app) buildShare(c *cobra.Command, file string, o buildFlags) error {
	share, _ := o.shareOf() // which was checked
	p, err := readPlan(file, o.limits)
	if err != nil {
		return err
	}
	bar := a.progress("reading")
	s, err := fact.Build(c.Context(), p, fact.Options{Version: Version, Command: words(c), Workers: a.workers, Share: share,
		Progress: bar.set})
	bar.stop()
	if err != nil {
		return err
	}
	part := filepath.Join(share.Dir, parts.Name(share.N, share.Of))
	if s.ExitCode() == 1 {
		a.exit = 1
		if a.json {
			a.printJSON(s.Document(Version, words(c)))
		} else {
			a.printStop(s)
		}
		return nil
	}
	if a.json { // what a rule stops, the join decides
		a.printJSON(struct {
			place.DocHead
			Share string `json:"share"`
			Part  string `json:"part"`
		}{head(words(c), 0, nil), o.share, filepath.ToSlash(part)})
		return nil
	}
	if !a.quiet {
		fmt.Fprintf(a.out, "Share %s is read: %s\n", o.share, part)
	}
	return nil
}
