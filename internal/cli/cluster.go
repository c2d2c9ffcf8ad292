package cli

import (
	_ "embed"
	"errors"
	"fmt"
	"path/filepath"
	"strings"
	"text/template"

	"github.com/spf13/cobra"

	"umbau/internal/core/plan"
)

//go:embed cluster_slurm.sh
var slurmText string

//go:embed cluster_kubernetes.yaml
var kubernetesText string

// clusterFlags are the flags of cluster.
type clusterFlags struct {
	shares int
	parts  string
	image  string
	claim  string
}

// clusterJob is what the scripts are made of.
type clusterJob struct {
	Shares             int
	Plan, Parts        string // as they stand in the script
	Image, Claim, Name string
	Quote              func(string) string
}

// ShareCommand is what a pod runs for its share.
func (j *clusterJob) ShareCommand() string {
	return fmt.Sprintf(`exec umbau build --share "$((JOB_COMPLETION_INDEX + 1))/%d" --parts %s -- %s`, j.Shares, shellQuoted(j.Parts),
		shellQuoted(j.Plan))
}

// JoinCommand is what the pod of the join runs: it waits until all parts are there, which appear whole.
func (j *clusterJob) JoinCommand() string {
	parts := shellQuoted(j.Parts)
	there := fmt.Sprintf(`$(ls %s 2>/dev/null | grep -c 'share-.*-of-%05d[.]part$')`, parts, j.Shares)
	return fmt.Sprintf(`until [ "%s" = %d ]; do sleep 5; done; exec umbau build --join %s -- %s`, there, j.Shares, parts, shellQuoted(j.Plan))
}

const (
	slurmExample      = "  umbau cluster slurm --shares 16 > job.sh && sbatch job.sh"
	kubernetesExample = "  umbau cluster kubernetes --shares 16 --image IMAGE --claim CLAIM | kubectl apply -f -"
)

func (a *app) clusterCommand() *cobra.Command {
	cmd := &cobra.Command{
		Use:   "cluster",
		Short: "Scripts that build in shares on many machines",
		Long: `Print what a scheduler needs to build in shares on many machines: each share reads some of the
extracts, alone, and leaves a part in a folder that all machines see; the join makes the same
deliveries and record from the parts as umbau build does. See docs/scale.md for when that pays.`,
		Example: slurmExample + "\n" + kubernetesExample,
		Args:    cobra.NoArgs,
		RunE: func(c *cobra.Command, _ []string) error {
			return usageError{errors.New("say which: umbau cluster slurm or umbau cluster kubernetes")}
		},
	}
	cmd.AddCommand(
		a.clusterScript("slurm", "A script for sbatch: an array job, and the join behind it", slurmText, slurmExample),
		a.clusterScript("kubernetes", "Manifests: an Indexed Job, and the join, on a shared volume", kubernetesText, kubernetesExample),
	)
	return cmd
}

func (a *app) clusterScript(name, short, text, example string) *cobra.Command {
	var o clusterFlags
	cmd := &cobra.Command{
		Use:               name + " [PLAN]",
		Short:             short,
		Example:           example,
		Args:              atMost(1),
		ValidArgsFunction: completePlan,
		RunE: func(c *cobra.Command, args []string) error {
			file := plan.DefaultFile
			if len(args) > 0 {
				file = args[0]
			}
			if o.shares < 1 || o.shares > mostShares {
				return usageError{fmt.Errorf("--shares %d: say how many, 16 for example", o.shares)}
			}
			p, err := readPlan(file, limits{})
			if err != nil {
				return err
			}
			if o.parts == "" {
				o.parts = filepath.ToSlash(filepath.Join(filepath.Dir(file), "parts"))
			}
			if a.json {
				return usageError{errors.New("cluster prints a script; --json goes with none")}
			}
			job := &clusterJob{Shares: o.shares, Plan: filepath.ToSlash(file), Parts: o.parts, Image: o.image, Claim: o.claim,
				Name: jobName(p.Title), Quote: shellQuoted}
			return template.Must(template.New(name).Parse(text)).Execute(a.out, job)
		},
	}
	f := cmd.Flags()
	f.IntVar(&o.shares, "shares", 16, "how many shares")
	f.StringVar(&o.parts, "parts", "", "the folder of the parts, which all machines see (default: parts beside the plan)")
	if text == kubernetesText {
		f.StringVar(&o.image, "image", "umbau:latest", "the image that has the program")
		f.StringVar(&o.claim, "claim", "umbau", "the claim of the volume that has plan, extracts and parts, mounted as the working folder")
	}
	return cmd
}

// jobName is a title as the name of a job: small letters, digits and hyphens.
func jobName(title string) string {
	var b strings.Builder
	for _, r := range strings.ToLower(title) {
		switch {
		case r >= 'a' && r <= 'z' || r >= '0' && r <= '9':
			b.WriteRune(r)
		case b.Len() > 0 && !strings.HasSuffix(b.String(), "-"):
			b.WriteByte('-')
		}
	}
	if name := strings.Trim(b.String()[:min(40, b.Len())], "-"); name != "" && name[0] >= 'a' {
		return name
	}
	return "umbau"
}
