package cli

import (
	"github.com/spf13/cobra"

	"umbau/internal/core/plan"
	"umbau/internal/format"
)

// PlanHelp is the plan on one screen; its example is a plan that is valid.
const PlanHelp = `The plan is a YAML file, umbau.yaml, in the folder of the extracts. An example,
and what else there is:

  umbau: 1                              # the version of this language
  title: Sales of all coasts
  extracts:                             # what comes in; an entry for each shape
    - files: raw/*.csv                  # or from: sqlite:till.db; except, encoding, area, header
      path: "{region}_{year}"           # also sheet, titles, sections, set: more columns
      numbers: 1.234,56                 # how numbers are written, by example; dates alike
      unpivot: { header: "{product}", cell: amount, blanks: skip }   # or widen: ...
      others: drop                      # or a list; absent, short_rows, totals, total_words
  fact:                                 # the table, column by column: name: kind, or ...
    region: text                        # text name whole number date month quarter year flag
    year: year                          # also calendar: { year_starts: april, ... }
    branch: { is: name, headers: [Outlet], blanks: above }
    product: { is: name, book: names/product.csv, unknown: hold }   # stop keep hold drop
    amount: { is: number, decimals: 2, blanks: 0, nulls: 0, errors: hold }   # currency, add
    coast: { lookup: branches, by: branch, take: Coast, missing: None }   # repeats: first sum
    large: =amount >= 1000              # a formula; also value, from, write, read, case
  references: { branches: { file: ref/branches.csv } }   # tables in which columns are looked up
  rows:
    only: year >= 2023                  # others are left out, and stop nothing; must, zeros
    grain: [region, year, branch, product]   # may stand once; repeats: sum first last keep
  ties:                                 # figures of others that must agree
    - { file: control.csv, by: [region, year], measures: { amount: Booked } }
  corrections: corrections.csv          # cells answered by hand; umbau gaps --to begins it
  deliver: [{ to: out/sales.csv }]      # .tsv .parquet .xlsx .html, sqlite: postgres:, sort, star
  record: out/record                    # every change, gap, name and total, in writing

Cells without a value are blanks, nulls (n/a), texts, unclear or errors; each gets a
value, a =formula, leave, above, drop, hold or stop, and stops the build while the
plan is silent. In patterns {name} is a piece, * any text, [ ... ] may be absent.

docs/plan.md explains every key; "umbau schema" makes editors complete and check it.
`

func planHelp() *cobra.Command {
	return &cobra.Command{Use: "plan", Short: "The plan on one screen", Long: PlanHelp}
}

// completePlan completes the name of a plan, the only argument.
func completePlan(_ *cobra.Command, args []string, _ string) ([]string, cobra.ShellCompDirective) {
	if len(args) > 0 {
		return nil, cobra.ShellCompDirectiveNoFileComp
	}
	return []string{"yaml", "yml"}, cobra.ShellCompDirectiveFilterFileExt
}

// completeExtracts completes the names of files that can be extracts.
func completeExtracts(*cobra.Command, []string, string) ([]string, cobra.ShellCompDirective) {
	var endings []string
	for _, e := range format.All().Endings() {
		endings = append(endings, e[1:])
	}
	return endings, cobra.ShellCompDirectiveFilterFileExt
}

// completePlanOrExtracts is for commands that take one or the other.
func completePlanOrExtracts(c *cobra.Command, args []string, begun string) ([]string, cobra.ShellCompDirective) {
	endings, how := completeExtracts(c, args, begun)
	return append(endings, "yaml", "yml"), how
}

// completeNames completes the columns of names of a plan.
func completeNames(_ *cobra.Command, args []string, _ string) ([]string, cobra.ShellCompDirective) {
	file := plan.DefaultFile
	if len(args) > 0 {
		file = args[0]
	}
	var columns []string
	if p, err := readPlan(file, limits{}); err == nil {
		for _, c := range p.Columns {
			if c.Kind == plan.Name {
				columns = append(columns, c.Name)
			}
		}
	}
	return columns, cobra.ShellCompDirectiveNoFileComp
}
