package messy

import (
	"context"
	"path/filepath"
	"testing"

	"github.com/stretchr/testify/require"

	"umbau/internal/core/draft"
	"umbau/internal/format"
)

// Nearly all drafted plans build at once to exactly the right table; of the others none delivers
// a wrong figure: they stop or hold.
func TestDrafts(t *testing.T) {
	const seeds = 25
	for hard := range 3 {
		exact, settled := 0, 0
		for seed := range uint64(seeds) {
			r := Try(context.Background(), t.TempDir(), 7000+seed, hard, All)
			require.NotEqual(t, Wrong, r.Outcome, "hard %d seed %d: %s %v", hard, 7000+seed, r.Why, r.About)
			if r.Outcome == Exact {
				exact++
			}
			if !r.unsettled() {
				settled++
				require.Equal(t, Exact, r.Outcome, "hard %d seed %d: %s %v", hard, 7000+seed, r.Why, r.About)
			}
		}
		require.GreaterOrEqual(t, exact, settled)
		require.Greater(t, settled, seeds/2)
	}
}

// Drafts of which fewer columns are asked for, and coarser times, deliver the same sums by these, or stop.
func TestSomeColumns(t *testing.T) {
	const seeds = 20
	exact := 0
	for hard := range 3 {
		for seed := range uint64(seeds) {
			r := Try(context.Background(), t.TempDir(), 500+seed, hard, Some)
			require.NotEqual(t, Wrong, r.Outcome, "hard %d seed %d: %s %v", hard, 500+seed, r.Why, r.About)
			if r.Outcome == Exact {
				exact++
			}
		}
	}
	require.Greater(t, exact, 3*seeds*5/6)
}

// unsettled reports whether nobody could tell from the extracts alone.
func (r *Tried) unsettled() bool {
	for _, a := range r.About {
		if a == "no region anywhere" || a == "odd headers" {
			return true
		}
	}
	return false
}

// The same files give the same plan, whatever the order of the arguments and the number of
// workers.
func TestSamePlan(t *testing.T) {
	for seed := range uint64(6) {
		dir := t.TempDir()
		d, err := Make(dir, 7100+seed, 2)
		require.NoError(t, err)
		folders, err := filepath.Glob(filepath.Join(dir, "*", "*"))
		require.NoError(t, err)
		var want string
		for workers := 1; workers <= 3; workers++ {
			for i, k := 0, len(folders)-1; workers == 2 && i < k; i, k = i+1, k-1 {
				folders[i], folders[k] = folders[k], folders[i]
			}
			r, err := draft.Draft(context.Background(), draft.Options{Paths: folders, Dir: dir, Columns: d.Columns, Formats: format.All(),
				Workers: workers})
			require.NoError(t, err)
			if want == "" {
				want = r.Text
			}
			require.Equal(t, want, r.Text)
		}
	}
}

// The plan of one month builds the next one exactly, with more months, products, branches and regions, or stops.
func TestNextMonths(t *testing.T) {
	const seeds = 40
	exact, tried := 0, 0
	for hard := range 3 {
		for seed := range uint64(seeds) {
			first, next := TryNext(context.Background(), t.TempDir(), 1100+seed, hard, All)
			if first.Outcome != Exact {
				continue
			}
			require.NotEqual(t, Wrong, next.Outcome, "hard %d seed %d: %s %v", hard, 1100+seed, next.Why, next.About)
			if tried++; next.Outcome == Exact {
				exact++
			}
		}
	}
	require.Greater(t, tried, 3*seeds*3/4)
	require.Greater(t, exact, tried*3/5)
}

// A file or a sheet that stands beside others, is called nearly as one of them and is none of the truth is left aside, stops the build, or
// is told: before the plan is drafted, and behind it.
func TestStrays(t *testing.T) {
	const seeds = 12
	exact := 0
	for hard := range 3 {
		for seed := range uint64(seeds) {
			for _, later := range []bool{false, true} {
				r := TryStray(context.Background(), t.TempDir(), 2300+seed, hard, All, later)
				require.NotEqual(t, Wrong, r.Outcome, "hard %d seed %d later %t: %s %v", hard, 2300+seed, later, r.Why, r.About)
				if r.Outcome == Exact {
					exact++
				}
			}
		}
	}
	require.Greater(t, exact, 3*2*seeds/8)
}

// Text files that are damaged, by lines between pages, sums, columns and rows twice, and cells that moved, are built exactly all the same,
// stop the build, or are told: before the plan is drafted, and behind it.
func TestDamages(t *testing.T) {
	const seeds = 24
	require.Greater(t, exactOf(t, TryDamaged, 3400, seeds), seeds)
}

// Workbooks in the place of text files, with sheets beside, other forms of cells, and columns and tables to the right, are built exactly
// all the same, stop the build, or are told: before the plan is drafted, and behind it.
func TestSheets(t *testing.T) {
	const seeds = 20
	require.Greater(t, exactOf(t, TryBound, 4500, seeds), 3*seeds/2)
}

// Sums, averages, counts and other figures that stand in tables beside sales, as rows and as columns, are left out, stop the build, or are
// told: before the plan is drafted, and behind it.
func TestSums(t *testing.T) {
	const seeds = 24
	require.Greater(t, exactOf(t, TrySummed, 5600, seeds), 2*seeds/3)
}

// exactOf is how many deliveries are built exactly to which something was done, every second one behind its draft; none is wrong.
func exactOf(t *testing.T, try func(ctx context.Context, dir string, seed uint64, hard int, asked Asked, later bool) Tried, first uint64,
	seeds int) (exact int) {
	for hard := range 3 {
		for seed := first; seed < first+uint64(seeds); seed++ {
			later := seed%2 == 0
			r := try(context.Background(), t.TempDir(), seed, hard, All, later)
			require.NotEqual(t, Wrong, r.Outcome, "hard %d seed %d later %t: %s %v", hard, seed, later, r.Why, r.About)
			if r.Outcome == Exact {
				exact++
			}
		}
	}
	return exact
}
