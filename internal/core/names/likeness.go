package names

import (
	"slices"
	"strings"
	"unicode"
	"unicode/utf8"

	"umbau/internal/core/key"
)

// Likeness says how alike two names are, from 0 to 1, and why. Names that differ
// in a number or a size, or have other codes of their makers, are not alike at all
// (0): 10 m is never 15 m.
//
// Words are compared one by one, by the optimal string alignment distance (insert,
// drop, replace or swap neighbours) with the mistakes that people make weighed
// less: letters swapped or doubled, neighbours on a keyboard, letters that look
// alike, plurals, abbreviations. A letter replaced in a short word, and at its
// beginning above all, makes another word of it (fork, pork) and weighs more. The
// worst pair of words counts as much as all of them together. Words may stand in
// another order, and spaces be missing.
func Likeness(a, b string) (likeness float64, why string) {
	if len(a) > longest || len(b) > longest {
		return 0, ""
	}
	return compare(newParts(a), newParts(b))
}

// parts is a name taken apart.
type parts struct {
	words   []string // letters only, by the key
	numbers string   // all numbers, in order of size of text
	compact string   // words and numbers without spaces
	code    string   // maker's codes that were set aside, letters and digits alone
}

func newParts(name string) parts {
	var p parts
	var numbers []string
	for _, raw := range strings.Fields(name) {
		if isCode(raw) {
			p.code += strings.ReplaceAll(key.Of(raw), " ", "")
			continue
		}
		for _, token := range strings.Fields(key.Of(raw)) {
			for _, piece := range pieces(unlook(token)) {
				p.compact += piece
				if piece[0] >= '0' && piece[0] <= '9' {
					numbers = append(numbers, decimal(piece))
				} else {
					p.words = append(p.words, piece)
				}
			}
		}
	}
	slices.Sort(numbers)
	p.numbers = strings.Join(numbers, " ")
	return p
}

// isCode reports whether a word looks like a maker's code: a few letters and at
// least three digits, such as HM-4711 or #10023.
func isCode(s string) bool {
	letters, digits := 0, 0
	for _, r := range s {
		switch {
		case unicode.IsLetter(r):
			if digits > 0 {
				return false // 100ml
			}
			letters++
		case r >= '0' && r <= '9':
			digits++
		case !strings.ContainsRune("-/#()[]", r):
			return false
		}
	}
	return digits >= 3 && (letters > 0 && letters <= 4 || letters == 0 && strings.ContainsAny(s, "#([")) && utf8.RuneCountInString(s) <= 14
}

// unlook puts letters in the place of digits that stand between letters, as a
// scanner reads them.
func unlook(token string) string {
	b := []byte(token)
	for i := 1; i+1 < len(b); i++ {
		if !isLetter(b[i-1]) || !isLetter(b[i+1]) {
			continue
		}
		switch b[i] {
		case '0':
			b[i] = 'o'
		case '1':
			b[i] = 'l'
		case '5':
			b[i] = 's'
		case '8':
			b[i] = 'b'
		}
	}
	return string(b)
}

func isLetter(c byte) bool { return c >= 'a' && c <= 'z' || c >= 0x80 }

// pieces parts a token where letters and digits meet: 10mm is 10 and mm.
func pieces(token string) []string {
	var out []string
	begin := 0
	digit := func(i int) bool {
		c := token[i]
		return c >= '0' && c <= '9' || (c == '.' || c == ',' || c == '/') && i > 0 && i+1 < len(token)
	}
	for i := 1; i <= len(token); i++ {
		if i == len(token) || digit(i) != digit(i-1) {
			out = append(out, token[begin:i])
			begin = i
		}
	}
	return out
}

// decimal writes a number with a decimal comma with a point: 1,5 is 1.5, but 1,500 is not.
func decimal(number string) string {
	whole, places, ok := strings.Cut(number, ",")
	if !ok || len(places) == 0 || len(places) > 2 || strings.ContainsAny(whole+places, ".,/") {
		return number
	}
	return whole + "." + places
}

// unlookAll puts letters in the place of all digits of words that begin with two letters,
// where these may be letters that a scanner took for digits: Strude1. It returns the name
// itself where there are none.
func unlookAll(name string) string {
	words := strings.Fields(name)
	for i, w := range words {
		r := []rune(w)
		if len(r) < 4 || !unicode.IsLetter(r[0]) || !unicode.IsLetter(r[1]) && !strings.ContainsRune("0158", r[1]) ||
			strings.ContainsAny(w, "234679") {
			continue
		}
		letters := 0
		for _, c := range r {
			if unicode.IsLetter(c) {
				letters++
			}
		}
		if 2*letters >= len(r) {
			words[i] = scanned.Replace(w)
		}
	}
	return strings.Join(words, " ")
}

var scanned = strings.NewReplacer("0", "o", "1", "l", "5", "s", "8", "b")

// pair is how alike two words are, and why.
type pair struct {
	likeness float64
	why      string
}

func compare(a, b parts) (float64, string) {
	if a.numbers != b.numbers || a.compact == "" || b.compact == "" || a.code != "" && b.code != "" && a.code != b.code {
		return 0, ""
	}
	p := compareWords(a, b)
	if a.code != b.code { // one of them has none
		p.likeness *= 0.9
		p.why = "an added maker's code"
	}
	return p.likeness, p.why
}

func compareWords(a, b parts) pair {
	switch {
	case slices.Equal(a.words, b.words):
		return pair{1, "the same but for spaces around numbers"}
	case a.compact == b.compact:
		return pair{0.98, "a missing space"}
	case len(a.words) == len(b.words) && sameWords(a.words, b.words):
		return pair{0.97, "another order of the words"}
	}
	long, short := a.words, b.words
	if len(long) < len(short) {
		long, short = short, long
	}
	best := align(long, short)
	if len(long) == len(short)+1 { // two words written as one
		for i := range len(long) - 1 {
			joined := append(append(slices.Clone(long[:i]), long[i]+long[i+1]), long[i+2:]...)
			if p := align(joined, short); p.likeness*0.98 > best.likeness {
				best = pair{p.likeness * 0.98, "a missing space, " + p.why}
			}
		}
	}
	return best
}

func sameWords(a, b []string) bool {
	a, b = slices.Clone(a), slices.Clone(b)
	slices.Sort(a)
	slices.Sort(b)
	return slices.Equal(a, b)
}

// align pairs each word with the one most like it, in any order.
func align(long, short []string) pair {
	if len(short) == 0 || len(long) > 12 {
		return pair{}
	}
	used := make([]bool, len(short))
	weight, sum, worst, why, moved := 0.0, 0.0, 1.0, "", false
	for i, w := range long {
		best, at := pair{}, -1
		for j, v := range short {
			if used[j] {
				continue
			}
			if p := likeWords(w, v); at < 0 || p.likeness > best.likeness || p.likeness == best.likeness && j == i {
				best, at = p, j
			}
		}
		n := float64(utf8.RuneCountInString(w))
		weight += n
		if at < 0 || best.likeness < 0.5 {
			worst = 0
			continue
		}
		used[at] = true
		moved = moved || at != i && len(long) == len(short)
		sum += n * best.likeness
		if best.likeness < worst {
			worst, why = best.likeness, best.why
		}
	}
	if worst == 0 {
		return pair{}
	}
	likeness := min(sum/weight, 0.4+0.6*worst)
	if moved {
		likeness *= 0.98
	}
	return pair{likeness, why}
}

// likeWords compares two words.
func likeWords(a, b string) pair {
	if a == b {
		return pair{1, ""}
	}
	x, y := []rune(a), []rune(b)
	if len(x) < len(y) {
		x, y = y, x
	}
	if p := plural(x, y); p.likeness > 0 {
		return p
	}
	best := edits(x, y)
	if p := abbreviation(x, y); p.likeness > best.likeness {
		best = p
	}
	if best.likeness < 0.94 && len(x)-len(y) <= 2 && a[0] == b[0] && lookAlike(a) == lookAlike(b) {
		best = pair{0.94, "letters that look alike"}
	}
	return best
}

// plural reports whether the longer word is the other one with an ending.
func plural(long, short []rune) pair {
	if len(short) < 3 {
		return pair{}
	}
	if rest, ok := strings.CutPrefix(string(long), string(short)); ok && (rest == "s" || rest == "es" || rest == "n" || rest == "en") {
		return pair{0.96, "a plural"}
	}
	if len(long) > 4 && strings.HasSuffix(string(long), "ies") && strings.HasSuffix(string(short), "y") &&
		string(long[:len(long)-3]) == string(short[:len(short)-1]) {
		return pair{0.96, "a plural"}
	}
	return pair{}
}

// edits weighs the letters that two words differ in.
func edits(x, y []rune) pair {
	if len(x)-len(y) > 3 {
		return pair{}
	}
	d, n := key.Distance(x, y), len(x)
	switch {
	case d == 1 && len(x) != len(y):
		i := 0
		for i < len(y) && x[i] == y[i] {
			i++
		}
		if i > 0 && x[i] == x[i-1] || i+1 < len(x) && x[i] == x[i+1] {
			return pair{by(n, 0.7, 0.9, 0.94, 0.95), "a letter doubled or not"}
		}
		if i == 0 {
			return pair{by(n, 0.3, 0.66, 0.85, 0.91), "a missing letter"}
		}
		return pair{by(n, 0.66, 0.86, 0.92, 0.94), "a missing letter"}
	case d == 1:
		i := 0
		for x[i] == y[i] {
			i++
		}
		if i+1 < n && x[i] == y[i+1] && x[i+1] == y[i] {
			return pair{by(n, 0.8, 0.92, 0.94, 0.95), "swapped letters"}
		}
		near := neighbours(x[i], y[i])
		switch {
		case near && i > 0:
			return pair{by(n, 0.66, 0.82, 0.91, 0.93), "a neighbouring key"}
		case i == 0:
			return pair{by(n, 0.2, 0.5, 0.7, 0.85), "another first letter"}
		}
		return pair{by(n, 0.3, 0.66, 0.84, 0.9), "another letter"}
	case d == 2 && n >= 6:
		return pair{by(n, 0, 0, 0.7, 0.84), "two letters"}
	case d == 3 && n >= 10:
		return pair{0.76, "three letters"}
	}
	return pair{}
}

// by chooses by the length of a word: up to 3 letters, 4 or 5, 6 or 7, more.
func by(n int, three, five, seven, more float64) float64 {
	switch {
	case n <= 3:
		return three
	case n <= 5:
		return five
	case n <= 7:
		return seven
	}
	return more
}

// abbreviation reports whether the shorter word may stand for the longer one: its
// beginning, letters of it in order from the first to the last, or all but its vowels.
func abbreviation(long, short []rune) pair {
	if len(short) < 2 || len(long) < len(short)+2 || long[0] != short[0] {
		return pair{}
	}
	if strings.HasPrefix(string(long), string(short)) {
		if len(short) == 2 { // many words begin so
			return pair{0.78, "an abbreviation"}
		}
		return pair{by(len(short), 0.86, 0.89, 0.89, 0.89), "an abbreviation"}
	}
	j := 0
	for _, r := range long {
		if j < len(short) && r == short[j] {
			j++
		}
	}
	if j == len(short) && len(short) >= 3 && (long[len(long)-1] == short[len(short)-1] ||
		vowels.Replace(string(long[1:])) == string(short[1:])) {
		return pair{0.87, "an abbreviation"}
	}
	return pair{}
}

var vowels = strings.NewReplacer("a", "", "e", "", "i", "", "o", "", "u", "")

// looks are letters that are taken for others: rn for m, vv for w.
var looks = strings.NewReplacer("rn", "m", "vv", "w", "cl", "d", "ii", "u", "l", "i", "0", "o", "1", "i", "5", "s", "8", "b")

func lookAlike(s string) string { return looks.Replace(s) }

var rowsOfKeys = []string{"qwertyuiop", "asdfghjkl", "zxcvbnm"}

// neighbours reports whether two letters stand side by side on a keyboard.
func neighbours(a, b rune) bool {
	var at [2][2]int
	for k, r := range [2]rune{a, b} {
		found := false
		for row, keys := range rowsOfKeys {
			if i := strings.IndexRune(keys, r); i >= 0 {
				at[k] = [2]int{row, i}
				found = true
			}
		}
		if !found {
			return false
		}
	}
	rows, columns := at[0][0]-at[1][0], at[0][1]-at[1][1]
	return rows >= -1 && rows <= 1 && columns >= -1 && columns <= 1
}
