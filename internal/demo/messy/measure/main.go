// Measure drafts plans for made-up deliveries and prints how many build at once to exactly the
// right table, how many stop, and how many deliver something wrong, by difficulty.
//
//	go run ./internal/demo/messy/measure -n 100
//	go run ./internal/demo/messy/measure -hard 2 -seed 17 -keep DIR    one, to look at
package main

import (
	"context"
	"flag"
	"fmt"
	"os"
	"strings"

	"umbau/internal/demo/messy"
)

func main() {
	n := flag.Int("n", 100, "deliveries of each difficulty")
	seed := flag.Uint64("seed", 0, "the first one")
	hard := flag.Int("hard", -1, "one difficulty: 0, 1 or 2")
	keep := flag.String("keep", "", "make one delivery in this folder, and leave it there")
	asked := flag.Int("asked", 0, "say which columns the table has: 0 all, 1 none, 2 some, at random")
	next := flag.Bool("next", false, "build the next month with the same plan, where the first one is exact")
	stray := flag.String("stray", "", "put a file or a sheet beside it that is none of it: before the draft, or behind it")
	damage := flag.String("damage", "", "damage its text files: before the draft, or behind it")
	sheets := flag.String("sheets", "", "make workbooks of its text files, and do something to these: before the draft, or behind it")
	sums := flag.String("sums", "", "put sums into the tables of its text files: before the draft, or behind it")
	flag.Parse()
	try := func(dir string, seed uint64, hard int) messy.Tried {
		if *next {
			first, then := messy.TryNext(context.Background(), dir, seed, hard, messy.Asked(*asked))
			if first.Outcome == messy.Exact {
				return then
			}
			return messy.Tried{Outcome: "skipped"}
		}
		if *damage != "" {
			return messy.TryDamaged(context.Background(), dir, seed, hard, messy.Asked(*asked), *damage == "behind")
		}
		if *sheets != "" {
			return messy.TryBound(context.Background(), dir, seed, hard, messy.Asked(*asked), *sheets == "behind")
		}
		if *sums != "" {
			return messy.TrySummed(context.Background(), dir, seed, hard, messy.Asked(*asked), *sums == "behind")
		}
		if *stray != "" {
			return messy.TryStray(context.Background(), dir, seed, hard, messy.Asked(*asked), *stray == "behind")
		}
		return messy.Try(context.Background(), dir, seed, hard, messy.Asked(*asked))
	}
	if *keep != "" {
		r := try(*keep, *seed, max(0, *hard))
		fmt.Printf("%s: %s\n%s\n", r.Outcome, r.Why, strings.Join(r.About, ", "))
		return
	}
	for h := range 3 {
		if *hard >= 0 && h != *hard {
			continue
		}
		count := map[messy.Outcome]int{}
		for i := range uint64(*n) {
			dir, err := os.MkdirTemp("", "messy")
			if err != nil {
				panic(err)
			}
			r := try(dir, *seed+i, h)
			os.RemoveAll(dir)
			if count[r.Outcome]++; r.Outcome == messy.Stops || r.Outcome == messy.Wrong {
				fmt.Printf("  hard %d seed %d %s: %s [%s]\n", h, *seed+i, r.Outcome, r.Why, strings.Join(r.About, ", "))
			}
		}
		fmt.Printf("hard %d: %d exact, %d stop, %d wrong, of %d\n", h, count[messy.Exact], count[messy.Stops], count[messy.Wrong], *n)
	}
}
