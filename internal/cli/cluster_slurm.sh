#!/bin/sh
# Builds a plan in {{.Shares}} shares, and joins them: sbatch this, in the folder that it was made in.
# All machines must see that folder under the same path, and have the program (UMBAU says where).
#SBATCH --job-name={{.Name}}
#SBATCH --array=1-{{.Shares}}
#SBATCH --cpus-per-task=2
#SBATCH --requeue
#SBATCH --open-mode=append
#SBATCH --output={{.Name}}-%a.log
set -eu
umbau=${UMBAU:-umbau}
plan={{call .Quote .Plan}}
parts={{call .Quote .Parts}}
mkdir -p "$parts"

# This script again, as task 0 of a job of its own, is the join.
if [ "$SLURM_ARRAY_TASK_ID" = 0 ]; then
    exec "$umbau" build --join "$parts" -- "$plan"
fi

# One task submits it, to begin when all shares have ended well. A share that was killed is run again by
# the scheduler; it leaves its part whole, or not at all.
if mkdir "$parts/.join-$SLURM_ARRAY_JOB_ID" 2>/dev/null; then
    sbatch --array=0 --job-name={{.Name}}-join --dependency="afterok:$SLURM_ARRAY_JOB_ID" --export=ALL "$0"
fi
exec "$umbau" build --share "$SLURM_ARRAY_TASK_ID/{{.Shares}}" --parts "$parts" -- "$plan"
