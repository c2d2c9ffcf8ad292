package filenames

import (
	"strings"
	"unicode"

	"umbau/internal/core/key"
	"umbau/internal/core/terms"
)

// VersionOf is what a name is a version of, by what stands before or behind it: Lakes of "Lakes (2)", "Copy of Lakes", "Lakes old" and
// "Lakes corrected"; "" for nothing. A number alone makes none: Quay 4.
func VersionOf(name string) string {
	rest := name
	for {
		if i := strings.LastIndexAny(rest, " _-("); i > 0 && terms.OfVersion(key.Of(strings.TrimSuffix(rest[i+1:], ")"))) {
			rest = strings.TrimRight(rest[:i], " _-(")
			continue
		}
		before, after := GeneralEnds(rest)
		marks := before + after
		if len(marks) == len(rest) || !strings.ContainsFunc(marks, func(r rune) bool { return r == '(' || unicode.IsLetter(r) }) {
			break
		}
		rest = rest[len(before) : len(rest)-len(after)]
	}
	if rest == name {
		return ""
	}
	return rest
}
