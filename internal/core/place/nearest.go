package place

import "umbau/internal/core/key"

// Nearest returns the known word most like the given one, or "" when none is
// near: at most one edit for every three characters (insert, drop, replace or
// swap neighbours; the optimal string alignment distance). Plans and command
// lines use it to say "did you mean".
func Nearest(word string, known []string) string {
	best, found := len([]rune(word))/3+1, ""
	for _, k := range known {
		if d := key.Distance([]rune(word), []rune(k)); d < best || d == best && found == "" && d <= len([]rune(word))/3 {
			best, found = d, k
		}
	}
	return found
}
