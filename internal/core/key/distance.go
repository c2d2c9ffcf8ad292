package key

// MostRunes is the length of the longest texts whose distance is worked out.
const MostRunes = 64

// Distance is the optimal string alignment distance of two texts: how many
// letters have to come, go, change or change places with their neighbour, none of
// them twice. Texts of more than MostRunes letters are farther than any others.
// The method is that of F. Damerau (1964) in its restricted form.
func Distance(a, b []rune) int {
	if len(a) > MostRunes || len(b) > MostRunes {
		return MostRunes + 1
	}
	var rows [3][MostRunes + 1]int
	before, row, next := rows[0][:len(b)+1], rows[1][:len(b)+1], rows[2][:len(b)+1]
	for j := range row {
		row[j] = j
	}
	for i := 1; i <= len(a); i++ {
		next[0] = i
		for j := 1; j <= len(b); j++ {
			cost := 1
			if a[i-1] == b[j-1] {
				cost = 0
			}
			next[j] = min(row[j]+1, next[j-1]+1, row[j-1]+cost)
			if i > 1 && j > 1 && a[i-1] == b[j-2] && a[i-2] == b[j-1] {
				next[j] = min(next[j], before[j-2]+1)
			}
		}
		before, row, next = row, next, before
	}
	return row[len(b)]
}

// Nearest returns the known word most like the given one, or "" when none is
// near: at most one edit for every three characters (insert, drop, replace or
// swap neighbours; the optimal string alignment distance). Plans and command
// lines use it to say "did you mean".
func Nearest(word string, known []string) string {
	best, found := len([]rune(word))/3+1, ""
	for _, k := range known {
		if d := Distance([]rune(word), []rune(k)); d < best || d == best && found == "" && d <= len([]rune(word))/3 {
			best, found = d, k
		}
	}
	return found
}
