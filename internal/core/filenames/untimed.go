package filenames

import (
	"slices"
	"strconv"
	"strings"

	"umbau/internal/core/expression"
	"umbau/internal/core/terms"
)

// numbered are the pieces of names that begin with numbers of their own, 01 Lakes, 02 Amber Bay, or of months: 11 sales, 12 sales.
func numbered(names []string) []Piece {
	numbers, labels, sign, ok := InTwo(names, numberedName())
	if ok && terms.MonthNumbers(numbers) && terms.SaysNothing(labels[0]) && len(slices.Compact(slices.Clone(labels))) == 1 {
		return []Piece{{Values: numbers, Digits: true}, {Before: sign + labels[0]}}
	}
	if !ok || len(names) < 2 || !distinct(labels) || slices.ContainsFunc(labels, terms.SaysNothing) || !countUp(numbers) {
		return nil
	}
	return []Piece{{Values: numbers}, {Before: sign, Values: labels}}
}

// countUp reports whether numbers are all different and count from one, or are padded with zeros: "2 Rivers" is a place.
func countUp(numbers []string) bool {
	seen := map[int]bool{}
	padded := false
	for _, text := range numbers {
		n, _ := strconv.Atoi(text)
		padded = padded || strings.HasPrefix(text, "0")
		seen[n] = true
	}
	for n := range numbers {
		if !padded && !seen[n+1] {
			return false
		}
	}
	return len(seen) == len(numbers)
}

// bracketed are the pieces of names with brackets behind a label: Lakes (Ines), Amber Bay (Maren).
func bracketed(names []string) []Piece {
	labels, brackets, sign, ok := InTwo(names, bracketedName())
	if !ok || !distinct(labels) || slices.ContainsFunc(labels, terms.SaysNothing) {
		return nil
	}
	return []Piece{{Values: labels}, {Before: sign, Values: brackets}, {Before: ")"}}
}

// copied are the pieces of names of which some say that they are copies: Copy of Lakes.
func copied(names []string) []Piece {
	lead, with := "", 0
	var labels []string
	for _, n := range names {
		m := copyOf().FindString(n)
		if m != "" && lead != "" && m != lead {
			return nil
		}
		if m != "" {
			lead = m
			with++
		}
		labels = append(labels, n[len(m):])
	}
	if with == 0 || !distinct(labels) {
		return nil
	}
	return []Piece{{Before: lead, Values: labels, Absent: with < len(names)}}
}

var (
	numberedName  = expression.Of(`^(\d{1,3})([._ -]+)(\D.*)$`)
	bracketedName = expression.Of(`^([^()]+?)( ?\()([^()]*)\)$`)
	copyOf        = expression.Of(`(?i)^(?:copy of|kopie von|copie de|copia de|copia di|kopie van) `)
)
