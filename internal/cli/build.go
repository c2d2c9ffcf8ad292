package cli

import (
	"github.com/spf13/cobra"

	"umbau/internal/core/fact"
	"umbau/internal/core/place"
	"umbau/internal/core/plan"
	"umbau/internal/core/treat"
)

func (a *app) buildCommand() *cobra.Command {
	var o buildFlags
	cmd := &cobra.Command{
		Use:   "build [PLAN]",
		Short: "Run the plan: the fact table, the record, a summary that ties",
		Long: `Run the plan (umbau.yaml in this folder, if none is named).

The fact table and the record appear when every rule of the plan has held. When
one stops the build nothing is delivered, earlier deliveries are untouched, and
the record shows what was met; the message says what to add to the plan.

Exit codes: 0 done; 1 could not (bad plan, unreadable input, disk); 2 wrong
usage; 3 stopped by a rule of the plan.`,
		Example: `  umbau build
  umbau build plans/march.yaml
  umbau build --dry-run      show the first rows and all that stands in the way
  umbau build --try amount.unclear=0 --try rows.repeats=first
  umbau build --json | jq .ties`,
		Args:              atMost(1),
		ValidArgsFunction: completePlan,
		RunE: func(c *cobra.Command, args []string) error {
			file := plan.DefaultFile
			if len(args) > 0 {
				file = args[0]
			}
			if err := o.check(); err != nil {
				return usageError{err}
			}
			if len(o.try) > 0 {
				return a.try(c, file, o)
			}
			if o.share != "" {
				return a.buildShare(c, file, o)
			}
			s, err := a.build(c, file, o)
			if err != nil {
				return err
			}
			a.exit = s.ExitCode()
			switch {
			case a.json:
				_, err = a.out.Write(s.Document(Version, words(c)).JSON())
			case a.exit != 0:
				a.printStop(s)
			case !a.quiet:
				a.printSummary(s)
			}
			return err
		},
	}
	o.add(cmd)
	return cmd
}

// buildFlags are the flags of build.
type buildFlags struct {
	dryRun, digests bool
	accept          bool
	try             []string
	share, parts    string // 3/16, and the folder of parts
	join            string
	where           bool // names stand first
	begin           bool // books may be yet to be made
	gaps            func(*plan.Plan, treat.GapCell)
	limits          limits
}

// add gives the command its flags.
func (o *buildFlags) add(cmd *cobra.Command) {
	cmd.Flags().BoolVar(&o.dryRun, "dry-run", false, "do everything but write: show the first rows, and what stands in the way")
	cmd.Flags().BoolVar(&o.accept, "accept", false,
		"deliver although figures of the last delivered build are others now (history: in the plan)")
	cmd.Flags().StringVar(&o.share, "share", "", "I/N: read only share I of N of the extracts, and leave its part in the folder of --parts")
	cmd.Flags().StringVar(&o.parts, "parts", "", "the folder of the parts, with --share")
	cmd.Flags().StringVar(&o.join, "join", "", "a folder of parts: build from what the shares have left there")
	cmd.Flags().StringArrayVar(&o.try, "try", nil,
		"KEY=VALUE: what the plan would give with another value, beside what it gives; nothing is written")
	cmd.Flags().BoolVar(&o.digests, "digests", false,
		"work out the SHA-256 of files over 1 MB too, for build.json (takes longer than the build)")
	o.limits.add(cmd)
}

// build runs a plan with a progress bar.
func (a *app) build(c *cobra.Command, file string, o buildFlags) (*fact.Summary, error) {
	p, err := readPlan(file, o.limits)
	if err != nil {
		return nil, err
	}
	bar := a.progress("reading")
	defer bar.stop()
	var gaps func(treat.GapCell)
	if o.gaps != nil {
		gaps = func(g treat.GapCell) { o.gaps(p, g) }
	}
	return fact.Build(c.Context(), p, fact.Options{
		Version: Version, Command: words(c), Workers: a.workers, DryRun: o.dryRun, Digests: o.digests, Where: o.where, Begin: o.begin,
		Accept: o.accept, Join: o.join,
		Gaps: gaps, Progress: bar.set,
	})
}

// place1 is a list of one problem that concerns a file as a whole.
func place1(what, file, message string) error {
	return place.List{{What: what, Message: message, Count: 1, File: file}}
}
