// Package cli is the command line: one file a command, each from flags to the
// core to what a person sees.
package cli

import (
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"io"
	"runtime"
	"runtime/debug"
	"slices"
	"strings"
	"sync/atomic"

	"github.com/spf13/cobra"
	"github.com/spf13/pflag"
	"golang.org/x/term"

	"umbau/internal/core/place"
)

// Version is the program's version; the release build sets it.
var Version = "0.1.0"

// app is what all commands share: the flags and where to print.
type app struct {
	out, err io.Writer
	json     bool
	quiet    bool
	noColor  bool
	workers  int
	exit     int
	command  string                     // that runs
	terminal atomic.Pointer[term.State] // as it was before it gave keys one by one; nil where it does not
}

// usageError is a mistake in the command line: exit 2.
type usageError struct{ error }

// Main runs the program and returns its exit code.
func Main(args []string, out, errOut io.Writer) int {
	shownOut, shownErr := &screen{out: out}, &screen{out: errOut}
	a := &app{out: shownOut, err: shownErr}
	code := a.main(args)
	if shownOut.err != nil && code == 0 {
		fmt.Fprintf(shownErr, "the output cannot be written: %v\n", shownOut.err)
		code = 1
	}
	return code
}

// main runs the program. A mistake in it ends with 1 and says what to send.
func (a *app) main(args []string) (code int) {
	defer func() {
		if p := recover(); p != nil {
			fmt.Fprintf(a.err, "a mistake in the program: %v\nNothing was delivered. Please report it with the command, the plan and these "+
				"lines (umbau %s, %s):\n%s", p, Version, runtime.Version(), debug.Stack())
			code = 1
		}
	}()
	root := a.root()
	root.SetArgs(args)
	root.SetOut(a.out)
	root.SetErr(a.err)
	ctx, stop := a.untilTold()
	defer stop()
	cmd, err := root.ExecuteContextC(ctx)
	if err == nil {
		return a.exit
	}
	a.json = a.json || slices.Contains(args, "--json") // flags are not read when one of them is wrong
	return a.fail(cmd, err)
}

// fail reports an error and returns the exit code for it.
func (a *app) fail(cmd *cobra.Command, err error) int {
	list, code := a.problemsOf(err)
	if a.json {
		a.printJSON(head(words(cmd), code, list))
		return code
	}
	fmt.Fprintln(a.err, list.Error())
	switch {
	case code == 2:
		fmt.Fprintf(a.err, "See %s --help.\n", cmd.CommandPath())
	case len(list) > 0 && list[0].What == "plan" || len(list) > 1:
		fmt.Fprintf(a.err, "%s; nothing was read or written.\n", countOf(len(list), "mistake"))
	}
	return code
}

// problemsOf are the problems that an error is, and the exit code for it.
func (a *app) problemsOf(err error) (list place.List, code int) {
	var usage usageError
	code = 1
	switch {
	case errors.As(err, &list):
		if len(list) > 0 && !slices.ContainsFunc(list, func(p place.Problem) bool { return !p.Rule }) {
			code = 3
		}
	case errors.As(err, &usage) || strings.HasPrefix(err.Error(), "unknown command"):
		code = 2
		list = place.List{{What: "usage", Message: err.Error(), Count: 1}}
	case errors.Is(err, context.Canceled):
		list = place.List{{What: "interrupted", Message: "interrupted; nothing was delivered", Count: 1}}
	default:
		list = place.List{{What: "error", Message: err.Error(), Count: 1}}
	}
	return list, code
}

// head is how the document of a command begins.
func head(command string, exit int, problems place.List) place.DocHead {
	return place.DocHead{Umbau: Version, Command: command, Exit: exit, Problems: problems.Docs()}
}

func words(cmd *cobra.Command) string {
	_, w, _ := strings.Cut(cmd.CommandPath(), " ")
	return w
}

func (a *app) printJSON(v any) {
	b, err := json.MarshalIndent(v, "", "  ")
	if err != nil {
		panic(err)
	}
	fmt.Fprintf(a.out, "%s\n", b)
}

// Commands are the commands of the program, for manual pages.
func Commands() *cobra.Command { return (&app{}).root() }

func (a *app) root() *cobra.Command {
	cmd := &cobra.Command{
		Use:   "umbau",
		Short: "Rebuild raw sales extracts into one tidy fact table",
		Long: `Umbau rebuilds raw sales extracts into one tidy fact table.

A plan, umbau.yaml, says what comes in and what the finished table looks like.
Every cell that is changed, every row that is left out and every name that is
replaced is on record, and every amount can be added back to the extracts.`,
		Example: `  umbau demo            see the whole job on made-up extracts
  umbau draft           work out a plan from the extracts in this folder
  umbau build           run umbau.yaml in this folder
  umbau build --dry-run show what it would do, write nothing`,
		SilenceUsage:  true,
		SilenceErrors: true,
		Args:          cobra.NoArgs,
	}
	version := cmd.Flags().Bool("version", false, "print the version")
	cmd.RunE = func(c *cobra.Command, _ []string) error {
		if *version {
			a.printVersion()
			return nil
		}
		return a.start(c)
	}
	f := cmd.PersistentFlags()
	f.BoolVar(&a.json, "json", false, "print one JSON document on stdout and nothing else there")
	f.BoolVarP(&a.quiet, "quiet", "q", false, "print nothing but errors")
	f.BoolVar(&a.noColor, "no-color", false, "print without colours (NO_COLOR does the same)")
	f.IntVar(&a.workers, "workers", 0, "how many cores to work on (default: all)")
	cmd.SetFlagErrorFunc(func(_ *cobra.Command, err error) error { return usageError{err} })
	cmd.PersistentPreRunE = func(c *cobra.Command, _ []string) error {
		a.command = words(c)
		if a.workers < 0 || a.workers > 1024 {
			return usageError{fmt.Errorf("--workers is a number from 1 to 1024, or 0 for all cores, not %d", a.workers)}
		}
		if a.workers > 0 {
			runtime.GOMAXPROCS(a.workers)
		}
		return lostValue(c)
	}
	cmd.AddCommand(a.draftCommand(), a.surveyCommand(), a.traceCommand(), a.watchCommand(), a.clusterCommand())
	cmd.AddCommand(a.buildCommand(), a.reportCommand(), a.namesCommand(), a.gapsCommand(), a.totalsCommand(), a.keysCommand(),
		a.compareCommand(), a.widenCommand(), a.demoCommand(), a.schemaCommand(), a.versionCommand(), planHelp())
	return cmd
}

// lostValue is the error of an option that took the next one for its value.
func lostValue(c *cobra.Command) (err error) {
	c.Flags().Visit(func(f *pflag.Flag) {
		values := []string{f.Value.String()}
		if list, ok := f.Value.(pflag.SliceValue); ok {
			values = list.GetSlice()
		}
		for _, v := range values {
			if name, ok := strings.CutPrefix(v, "--"); ok && c.Flags().Lookup(name) != nil && err == nil {
				err = usageError{fmt.Errorf("--%s: its value is missing; %s is another option", f.Name, v)}
			}
		}
	})
	return err
}

// atMost is cobra's check of the number of arguments, as a usage error.
func atMost(n int) cobra.PositionalArgs {
	return func(c *cobra.Command, args []string) error {
		if err := cobra.MaximumNArgs(n)(c, args); err != nil {
			return usageError{err}
		}
		return nil
	}
}

// printErrors prints problems beside a result that stands, with what to do next, if the
// result does not say that.
func (a *app) printErrors(problems place.List, advice bool) {
	for _, p := range problems {
		fmt.Fprintln(a.err, a.colored(a.err, bad, p.Error()))
		if advice && p.Advice != "" {
			fmt.Fprintf(a.err, "  → %s\n", p.Advice)
		}
	}
}
