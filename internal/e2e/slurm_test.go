//go:build linux

package e2e

import (
	"fmt"
	"os"
	"os/exec"
	"path/filepath"
	"runtime"
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/require"
)

// scheduler is a real Slurm on this machine, in a folder and on ports of its own.
type scheduler struct {
	t   *testing.T
	dir string
}

// newScheduler starts the daemons, which end with the test.
func newScheduler(t *testing.T) *scheduler {
	for _, name := range []string{"slurmctld", "slurmd", "sbatch", "munged"} {
		need(t, name)
	}
	if os.Geteuid() != 0 {
		t.Skip("Slurm's daemons want to be root")
	}
	dir, err := os.MkdirTemp("", "slurm")
	require.NoError(t, err)
	t.Cleanup(func() { os.RemoveAll(dir) })
	require.NoError(t, os.Chmod(dir, 0o755))
	s := &scheduler{t, dir}
	for _, name := range []string{"state", "spool", "munge"} {
		require.NoError(t, os.Mkdir(filepath.Join(dir, name), 0o755))
	}
	host, err := os.Hostname()
	require.NoError(t, err)
	host, _, _ = strings.Cut(host, ".")
	conf := fmt.Sprintf(`ClusterName=umbau
SlurmctldHost=%[1]s(127.0.0.1)
SlurmctldPort=%[2]d
SlurmdPort=%[3]d
AuthType=auth/munge
AuthInfo=socket=%[4]s/munge/socket
CredType=cred/munge
SlurmUser=root
SlurmdUser=root
StateSaveLocation=%[4]s/state
SlurmdSpoolDir=%[4]s/spool
SlurmctldPidFile=%[4]s/ctld.pid
SlurmdPidFile=%[4]s/d.pid
SlurmctldLogFile=%[4]s/ctld.log
SlurmdLogFile=%[4]s/d.log
ProctrackType=proctrack/linuxproc
TaskPlugin=task/none
JobAcctGatherType=jobacct_gather/none
MpiDefault=none
ReturnToService=2
SchedulerType=sched/builtin
SelectType=select/cons_tres
SelectTypeParameters=CR_CPU
NodeName=%[1]s NodeAddr=127.0.0.1 CPUs=%[5]d State=UNKNOWN
PartitionName=all Nodes=ALL Default=YES MaxTime=INFINITE State=UP
`, host, 46817, 46818, dir, max(2, runtime.NumCPU()))
	require.NoError(t, os.WriteFile(filepath.Join(dir, "slurm.conf"), []byte(conf), 0o644))
	require.NoError(t, os.WriteFile(filepath.Join(dir, "munge", "key"), []byte(strings.Repeat("a key for tests ", 8)), 0o600))
	out, err := exec.Command("chown", "-R", "munge", filepath.Join(dir, "munge")).CombinedOutput()
	require.NoError(t, err, string(out))
	munge := filepath.Join(dir, "munge")
	s.daemon("runuser", "-u", "munge", "--", "munged", "--foreground", "--key-file="+munge+"/key", "--socket="+munge+"/socket",
		"--pid-file="+munge+"/pid", "--log-file="+munge+"/log", "--seed-file="+munge+"/seed")
	s.wait("munge", func() bool { _, err := os.Stat(munge + "/socket"); return err == nil })
	s.daemon("slurmctld", "-D", "-f", filepath.Join(dir, "slurm.conf"))
	s.daemon("slurmd", "-D", "-f", filepath.Join(dir, "slurm.conf"), "-N", host)
	s.wait("the node", func() bool { return strings.Contains(s.ask("sinfo", "-h", "-o", "%T"), "idle") })
	return s
}

// daemon starts a daemon.
func (s *scheduler) daemon(name string, args ...string) {
	c := exec.Command(name, args...)
	c.Env = append(os.Environ(), "SLURM_CONF="+filepath.Join(s.dir, "slurm.conf"))
	require.NoError(s.t, c.Start())
	s.t.Cleanup(func() {
		_ = c.Process.Kill()
		_ = c.Wait()
	})
}

// wait waits until something is so.
func (s *scheduler) wait(what string, is func() bool) {
	s.t.Helper()
	for begun := time.Now(); time.Since(begun) < 90*time.Second; time.Sleep(200 * time.Millisecond) {
		if is() {
			return
		}
	}
	log, _ := os.ReadFile(filepath.Join(s.dir, "ctld.log"))
	require.Fail(s.t, "waited in vain for "+what, string(log))
}

// ask runs a command of the scheduler.
func (s *scheduler) ask(name string, args ...string) string {
	c := exec.Command(name, args...)
	c.Env = append(os.Environ(), "SLURM_CONF="+filepath.Join(s.dir, "slurm.conf"))
	out, _ := c.CombinedOutput()
	return string(out)
}

// The script that is printed builds in shares under a real scheduler, with a task that is killed and run
// again, to the same bytes.
func TestSlurm(t *testing.T) {
	s := newScheduler(t)
	dir := t.TempDir()
	run(t, dir, "demo", ".")
	want := files(t, filepath.Join(dir, "out"))
	require.NoError(t, os.RemoveAll(filepath.Join(dir, "out")))
	require.NoError(t, os.WriteFile(filepath.Join(dir, "job.sh"), []byte(run(t, dir, "cluster", "slurm", "--shares", "3")), 0o755))
	// the second share hangs when it is run for the first time
	wrapper := filepath.Join(dir, "program")
	require.NoError(t, os.WriteFile(wrapper, []byte(fmt.Sprintf(`#!/bin/sh
case "$*" in
*2/3*) if mkdir %[1]s/hangs 2>/dev/null; then sleep 600; fi ;;
esac
exec %[2]s "$@"
`, dir, program(t))), 0o755))
	c := exec.Command("sbatch", "--parsable", "job.sh")
	c.Dir = dir
	c.Env = append(os.Environ(), "SLURM_CONF="+filepath.Join(s.dir, "slurm.conf"), "UMBAU="+wrapper)
	out, err := c.CombinedOutput()
	require.NoError(t, err, string(out))
	job := strings.TrimSpace(string(out))
	s.wait("the share that hangs", func() bool { _, err := os.Stat(filepath.Join(dir, "hangs")); return err == nil })
	require.NoDirExists(t, filepath.Join(dir, "out"))
	s.wait("the task to be requeued", func() bool { return !strings.Contains(s.ask("scontrol", "requeue", job+"_2"), "error") })
	s.wait("the join", func() bool {
		s.ask("scontrol", "update", "JobId="+job+"_2", "StartTime=now") // else it waits for two minutes
		_, err := os.Stat(filepath.Join(dir, "out", "record", "build.json"))
		return err == nil && !strings.Contains(s.ask("squeue", "-h"), "halyard")
	})
	have := files(t, filepath.Join(dir, "out"))
	delete(want, "record/build.json") // which has the time in it
	for name := range want {
		require.Equal(t, want[name], have[name], name)
	}
}
