package cli

import (
	"bytes"
	"os"
	"os/exec"
	"path/filepath"
	"strings"
	"testing"

	"github.com/stretchr/testify/require"
	batchv1 "k8s.io/api/batch/v1"
	"sigs.k8s.io/yaml"
)

// odd is a plan whose title and path need quotes everywhere.
func odd(t *testing.T) string {
	file := filepath.Join(t.TempDir(), `it's a "plan": #1.yaml`)
	require.NoError(t, os.WriteFile(file, []byte("umbau: 1\ntitle: 'Ventes d''été: 100 % $HOME'\nextracts: [{ files: raw/*.csv }]\n"+
		"fact: { amount: number }\ndeliver: [{ to: out/s.csv }]\n"), 0o666))
	return file
}

func printed(t *testing.T, args ...string) string {
	var out, errOut bytes.Buffer
	require.Zero(t, Main(args, &out, &errOut), errOut.String())
	return out.String()
}

// The manifests are what the published types of the API know, and no more.
func TestKubernetesManifests(t *testing.T) {
	text := printed(t, "cluster", "kubernetes", "--shares", "12", "--parts", "/parts/it's #2", odd(t))
	docs := strings.Split(text, "\n---\n")
	require.Len(t, docs, 2)
	var shares, join batchv1.Job
	require.NoError(t, yaml.UnmarshalStrict([]byte(docs[0]), &shares))
	require.NoError(t, yaml.UnmarshalStrict([]byte(docs[1]), &join))
	require.Equal(t, "Job", shares.Kind)
	require.EqualValues(t, 12, *shares.Spec.Completions)
	require.Equal(t, batchv1.IndexedCompletion, *shares.Spec.CompletionMode)
	require.Equal(t, "ventes-d-t-100-home-shares", shares.Name)
	for _, job := range []batchv1.Job{shares, join} {
		pod := job.Spec.Template.Spec
		require.EqualValues(t, "Never", pod.RestartPolicy)
		require.Equal(t, pod.Volumes[0].Name, pod.Containers[0].VolumeMounts[0].Name)
		require.Equal(t, []string{"sh", "-c"}, pod.Containers[0].Command)
		out, err := exec.Command("sh", "-n", "-c", pod.Containers[0].Args[0]).CombinedOutput()
		require.NoError(t, err, string(out))
	}
	require.Contains(t, shares.Spec.Template.Spec.Containers[0].Args[0], `"$((JOB_COMPLETION_INDEX + 1))/12"`)
}

// The script for the scheduler is one that a shell reads, whatever the plan is called.
func TestSlurmScript(t *testing.T) {
	file := odd(t)
	text := printed(t, "cluster", "slurm", "--shares", "5", file)
	c := exec.Command("sh", "-n")
	c.Stdin = strings.NewReader(text)
	out, err := c.CombinedOutput()
	require.NoError(t, err, string(out))
	require.True(t, strings.HasPrefix(text, "#!/bin/sh\n"))
	require.Contains(t, text, "#SBATCH --array=1-5\n")
	c = exec.Command("sh")
	c.Stdin = strings.NewReader(text[strings.Index(text, "plan="):strings.Index(text, "mkdir")] + `printf '%s' "$plan"`)
	plan, err := c.Output()
	require.NoError(t, err)
	require.Equal(t, file, string(plan))
}

func TestClusterUsage(t *testing.T) {
	for _, args := range [][]string{
		{"cluster"}, {"cluster", "slurm", "--shares", "0"},
		{"build", "--share", "3/2", "--parts", "p"}, {"build", "--share", "1/2"}, {"build", "--parts", "p"},
		{"build", "--share", "1/2", "--parts", "p", "--dry-run"}, {"build", "--join", "p", "--try", "a.b=c"},
	} {
		var out, errOut bytes.Buffer
		require.Equal(t, 2, Main(args, &out, &errOut), "%v", args)
	}
}
