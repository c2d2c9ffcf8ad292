package cli

import (
	"fmt"
	"os"

	"github.com/spf13/cobra"

	"umbau/internal/core/plan"
)

func (a *app) versionCommand() *cobra.Command {
	return &cobra.Command{
		Use:   "version",
		Short: "Print the version",
		Args:  atMost(0),
		RunE: func(*cobra.Command, []string) error {
			a.printVersion()
			return nil
		},
	}
}

func (a *app) printVersion() {
	if a.json {
		a.printJSON(head("version", 0, nil))
		return
	}
	fmt.Fprintf(a.out, "umbau %s\n", Version)
}

func (a *app) schemaCommand() *cobra.Command {
	return &cobra.Command{
		Use:   "schema",
		Short: "Print the JSON Schema of the plan, for editors",
		Long: `Print the JSON Schema of the plan. An editor that knows it completes keys,
shows what they mean and marks mistakes while you type.`,
		Example: `  umbau schema > umbau.schema.json

  then, as the first line of umbau.yaml, for editors that read it:
  # yaml-language-server: $schema=umbau.schema.json`,
		Args: atMost(0),
		RunE: func(*cobra.Command, []string) error {
			_, err := a.out.Write(plan.Schema())
			return err
		},
	}
}

// readPlan reads a plan file; its mistakes come as a place.List.
func readPlan(file string, limits limits) (*plan.Plan, error) {
	info, err := os.Stat(file)
	if err != nil {
		if os.IsNotExist(err) {
			return nil, place1("no plan", file, "there is no such plan; umbau draft works one out from the extracts, umbau demo has an example")
		}
		return nil, place1("no plan", file, "the plan cannot be read: "+err.Error())
	}
	if info.IsDir() {
		return nil, place1("no plan", file, "this is a folder; name the plan in it, such as "+file+"/"+plan.DefaultFile)
	}
	if !info.Mode().IsRegular() {
		return nil, place1("no plan", file, "this is no plain file")
	}
	src, err := os.ReadFile(file)
	if err != nil {
		return nil, place1("no plan", file, "the plan cannot be read: "+err.Error())
	}
	return plan.Read(file, src, formats(limits))
}
