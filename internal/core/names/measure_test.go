package names

import (
	"fmt"
	"maps"
	"math/rand/v2"
	"slices"
	"strings"
	"testing"

	"github.com/stretchr/testify/require"
)

// Made-up names of several trades. The thresholds were tuned on the first three;
// the bakery was kept aside.
var trades = map[string][2]string{
	"chandlery": {"Anchor Bilge Brass Deck Dock Marine Signal Storm Teak Galley Harbour Canvas Copper Oilskin Rigging Nylon",
		"Chain Pump Cleat Brush Line Rope Flag Jacket Lantern Bucket Shackle Ladder Compass Winch Fender Paint"},
	"garden": {"Cold Raised Propagator Willow Bamboo Clay Compost Copper Potting Hanging Pruning Watering Slate Terracotta Folding",
		"Frame Bed Trellis Barrel Basket Planter Trowel Spade Fork Hose Edging Cloche Bench Gloves Sieve"},
	"stationery": {"Ruled Blotting Carbon Fountain Ledger Wax Drafting Mailing Parchment Ring Gummed Kraft Letter Pocket",
		"Paper Pen Notebook Envelope Binder Ruler Stapler Folder Diary Eraser Label Marker Pencil Sharpener"},
	"bakery": {"Almond Rye Walnut Cinnamon Sourdough Poppy Honey Raisin Caraway Butter Spelt Lemon Ginger Pumpkin",
		"Loaf Bun Pretzel Tart Biscuit Crispbread Baguette Strudel Muffin Croissant Roll Brioche Wafer Cookie"},
}

var sizes = []string{"", "", "", " 10 mm", " 15 mm", " 1.5 l", " 500 g", " Large"}

// namesOf makes so many different names of a trade.
func namesOf(r *rand.Rand, trade string, n int) []string {
	first, second := strings.Fields(trades[trade][0]), strings.Fields(trades[trade][1])
	var out []string
	seen := map[string]bool{}
	for len(out) < n {
		name := first[r.IntN(len(first))] + " " + second[r.IntN(len(second))] + sizes[r.IntN(len(sizes))]
		if !seen[name] {
			seen[name] = true
			out = append(out, name)
		}
	}
	return out
}

// misspelt makes a mistake in a name.
func misspelt(r *rand.Rand, name string) string {
	words := strings.Fields(name)
	w := r.IntN(2)
	b := []byte(words[w])
	i := 1 + r.IntN(len(b)-1)
	letters := func(s []byte) string {
		words[w] = string(s)
		return strings.Join(words, " ")
	}
	switch r.IntN(11) {
	case 0: // dropped
		return letters(append(b[:i:i], b[i+1:]...))
	case 1: // doubled
		return letters(append(b[:i:i], append([]byte{b[i]}, b[i:]...)...))
	case 2: // swapped
		if i+1 < len(b) && b[i] != b[i+1] {
			b[i], b[i+1] = b[i+1], b[i]
		} else {
			b[i-1], b[i] = b[i], b[i-1]
		}
		return letters(b)
	case 3: // a neighbouring key
		for _, row := range rowsOfKeys {
			if k := strings.IndexByte(row, b[i]); k >= 0 {
				b[i] = row[max(0, min(len(row)-1, k+1-2*(k&1)))]
				break
			}
		}
		return letters(b)
	case 4: // a missing space
		return words[0] + strings.ToLower(words[1]) + strings.TrimPrefix(name, words[0]+" "+words[1])
	case 5: // abbreviated
		if len(b) < 6 {
			return letters(append(b, 's'))
		}
		return letters(append(b[:3:3], '.'))
	case 6: // the order of the words
		words[0], words[1] = words[1], words[0]
		return strings.Join(words, " ")
	case 7: // a plural
		return letters(append(b, 's'))
	case 8: // an accent on a vowel
		return letters([]byte(strings.NewReplacer("a", "à", "e", "é", "o", "ô", "u", "ü").Replace(string(b))))
	case 9: // look-alikes
		s := strings.NewReplacer("rn", "m", "m", "rn", "l", "1", "o", "0").Replace(string(b[1:]))
		return letters([]byte(string(b[:1]) + s))
	}
	return strings.ToUpper(name) + fmt.Sprintf(" HM-%d", 1000+r.IntN(9000)) // a maker's code
}

type figures struct{ cases, right, wrong, high, highWrong int }

func measure(r *rand.Rand, trade string) (f figures, newNames, proposed int) {
	all := namesOf(r, trade, 110)
	known, unknown := all[:90], all[90:]
	x := NewIndexOf(known)
	for _, name := range known {
		for range 20 {
			seen := misspelt(r, name)
			got := x.Suggest(seen)
			f.cases++
			switch {
			case len(got) > 0 && got[0].Standard == name:
				f.right++
			case len(got) > 0:
				f.wrong++
			}
			if len(got) > 0 && got[0].Likeness >= 0.9 {
				if f.high++; got[0].Standard != name {
					f.highWrong++
				}
			}
		}
	}
	for _, name := range unknown {
		newNames++
		if len(x.Suggest(name)) > 0 {
			proposed++
		}
	}
	return f, newNames, proposed
}

func TestMeasure(t *testing.T) {
	var all figures
	newNames, proposed := 0, 0
	var names []string
	for trade := range trades {
		names = append(names, trade)
	}
	slices.Sort(names)
	for _, trade := range names {
		f, n, p := measure(rand.New(rand.NewPCG(7, 7)), trade)
		t.Logf("%-10s first proposal right %.1f %%, wrong among likeness 0.9 and more %.2f %%, new names with a proposal %d of %d",
			trade, 100*float64(f.right)/float64(f.cases), 100*float64(f.highWrong)/float64(max(1, f.high)), p, n)
		all.cases, all.right, all.high, all.highWrong = all.cases+f.cases, all.right+f.right, all.high+f.high, all.highWrong+f.highWrong
		newNames, proposed = newNames+n, proposed+p
	}
	require.GreaterOrEqual(t, float64(all.right), 0.95*float64(all.cases))
	require.LessOrEqual(t, float64(all.highWrong), 0.005*float64(all.high))
	require.LessOrEqual(t, float64(proposed), 0.1*float64(newNames))
}

// onePlace makes a mistake in a word: a letter dropped, doubled, swapped, replaced or put in.
func onePlace(r *rand.Rand, word string) string {
	b, other := []byte(word), string(rune('a'+r.IntN(26)))
	i := 1 + r.IntN(len(b)-1)
	switch r.IntN(5) {
	case 0:
		return word[:i] + word[i+1:]
	case 1:
		return word[:i] + word[i-1:i] + word[i:]
	case 2:
		b[i-1], b[i] = b[i], b[i-1]
		return string(b)
	case 3:
		return word[:i] + other + word[i+1:]
	}
	return word[:i] + other + word[i:]
}

var scans = strings.NewReplacer("l", "1", "o", "0", "s", "5")

// misspeltTwice makes the mistakes that misspelt leaves out: two at once, at the beginning of
// a word, vowels left out, several letters scanned as digits, decimal commas.
func misspeltTwice(r *rand.Rand, name string) string {
	words := strings.Fields(name)
	w := r.IntN(2)
	word, rest := words[w], strings.TrimPrefix(name, words[0]+" "+words[1])
	switch r.IntN(8) {
	case 0:
		words[w] = word[1:]
	case 1:
		words[0], words[1] = onePlace(r, words[0]), onePlace(r, words[1])
	case 2:
		words[w] = word[:1] + vowels.Replace(word[1:])
	case 3:
		words[w] = onePlace(r, word)
		return words[0] + strings.ToLower(words[1]) + rest
	case 4:
		words[w] = onePlace(r, word)
		words[0], words[1] = words[1], words[0]
	case 5:
		words[w] = word[:1] + scans.Replace(word[1:])
	case 6:
		return strings.ToUpper(strings.ReplaceAll(strings.ReplaceAll(name, " ", "-"), "1.5-l", "1,5l")) + "."
	default:
		words[w] = onePlace(r, word)
	}
	return strings.Join(words, " ")
}

func TestMeasureOthers(t *testing.T) {
	var f figures
	r := rand.New(rand.NewPCG(9, 9))
	for _, trade := range slices.Sorted(maps.Keys(trades)) {
		known := namesOf(r, trade, 90)
		x := NewIndexOf(known)
		for _, name := range known {
			for range 20 {
				f.cases++
				got := x.Suggest(misspeltTwice(r, name))
				right := len(got) > 0 && got[0].Standard == name
				if right {
					f.right++
				}
				if len(got) > 0 && got[0].Likeness >= 0.9 {
					if f.high++; !right {
						f.highWrong++
					}
				}
			}
		}
	}
	t.Logf("first proposal right %.1f %%, wrong among likeness 0.9 and more %.2f %%", 100*float64(f.right)/float64(f.cases),
		100*float64(f.highWrong)/float64(f.high))
	require.GreaterOrEqual(t, float64(f.right), 0.95*float64(f.cases))
	require.LessOrEqual(t, float64(f.highWrong), 0.005*float64(f.high))
}

func TestLikeness(t *testing.T) {
	for _, test := range []struct {
		a, b  string
		least float64
		most  float64
	}{
		{"Marine Rope 10 mm", "Marine Rope 15 mm", 0, 0},
		{"Oil 1.5 l", "Oil 15 l", 0, 0},
		{"Marine Rope 10mm", "Marine Rope 10 mm", 0.98, 1},
		{"Dockline", "Dock Line", 0.97, 1},
		{"Line Dock", "Dock Line", 0.95, 1},
		{"Anchor Chian", "Anchor Chain", 0.9, 0.99},
		{"Bilge pmup", "Bilge Pump", 0.85, 0.99},
		{"Oilskin Jkt", "Oilskin Jacket", 0.85, 0.95},
		{"Sig. Flag", "Signal Flag", 0.85, 0.95},
		{"Dock Lines", "Dock Line", 0.95, 0.99},
		{"Dock Line HM-4711", "Dock Line", 0.85, 0.95},
		{"Dock Line HM-4711", "dock-line HM4711", 1, 1},
		{"Dock Line HM-4711", "Dock Line HM-4712", 0, 0},
		{"HM-4711", "HM-4712", 0, 0},
		{"Garden Fork", "Garden Pork", 0, 0.78},
		{"Seed Tray", "Feed Tray", 0, 0.78},
		{"Teak Oil", "Oak Oil", 0, 0.78},
		{"Storm Lantern", "Dock Line", 0, 0.5},
		{"", "Dock Line", 0, 0},
	} {
		for _, names := range [][2]string{{test.a, test.b}, {test.b, test.a}} {
			l, why := Likeness(names[0], names[1])
			require.GreaterOrEqual(t, l, test.least, "%v %s", names, why)
			require.LessOrEqual(t, l, test.most, "%v %s", names, why)
		}
	}
}

// FuzzLikeness: any two texts compare, in either order, between 0 and 1.
func FuzzLikeness(f *testing.F) {
	f.Add("Dock Line", "Dockline")
	f.Add("a1b2", "ü 5,5 §")
	f.Fuzz(func(t *testing.T, a, b string) {
		if len(a)+len(b) > 400 {
			return
		}
		l, _ := Likeness(a, b)
		require.GreaterOrEqual(t, l, 0.0)
		require.LessOrEqual(t, l, 1.0)
	})
}

func BenchmarkSuggest(b *testing.B) {
	r := rand.New(rand.NewPCG(1, 1))
	var standards, seen []string
	for i := range 20_000 {
		standards = append(standards, fmt.Sprintf("%s %s %c%c%c", strings.Fields(trades["garden"][0])[i%15],
			strings.Fields(trades["bakery"][1])[i/15%14], 'a'+rune(i/210%26), 'a'+rune(r.IntN(26)), 'a'+rune(r.IntN(26))))
	}
	x := NewIndexOf(standards)
	for range 1000 {
		seen = append(seen, misspelt(r, standards[r.IntN(len(standards))]))
	}
	i := 0
	for b.Loop() {
		x.Suggest(seen[i%len(seen)])
		i++
	}
}
