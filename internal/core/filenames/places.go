package filenames

import (
	"slices"
	"strings"

	"umbau/internal/core/key"
	"umbau/internal/core/terms"
)

// firstOfPlaces and lastOfPlaces are words that names of places begin and end with: New Quay and New Harbour, Amber Bay and Long Bay.
var (
	firstOfPlaces = terms.List(`new old north south east west northern southern eastern western upper lower inner outer great little
		big saint st san santa sankt lake port mount mt bay isle cape gulf point la le les los las el bad alt neu groß gross klein
		ober unter nord süd sud ost ouest est oeste norte sur sul este vieux vieille nouveau nouvelle grand grande petit petite villa
		val valle mont monte puerto porto baie baia bahía île isla isola cap cabo capo lac lago`)
	lastOfPlaces = terms.List(`bay quay harbour harbor island islands isle head point cove creek river lake lakes sound ness reach slip end
		gate row street road lane hill park town city ville burg dorf stadt hafen strand beach cliff shore side water mouth ford bridge field wood
		ridge valley lock straße strasse platz tor plage`)
)

// OfPlace reports whether words are all such as names of places begin or end with.
func OfPlace(words []string) bool {
	return !slices.ContainsFunc(words, func(w string) bool { return !firstOfPlaces[w] && !lastOfPlaces[w] })
}

// UntilPlace is the beginning that some labels have in common, without the words at its end that are part of names of places: those that
// such names begin with, or before numbers end with (Quay 4), or all that say something where the labels go on with a word that names
// end with (Stone Ness, Stone Head).
func UntilPlace(before string, rests []string) string {
	words := wordForm().FindAllStringIndex(before, -1)
	word := func(i int) string { return key.Of(before[words[i][0]:words[i][1]]) }
	alone := len(rests) > 0 && !slices.ContainsFunc(rests, func(rest string) bool { return !lastOfPlaces[firstWord(rest)] })
	numbered := allNumbers(rests)
	end := len(words)
	for i := len(words) - 1; i >= 0; i-- {
		switch {
		case firstOfPlaces[word(i)], numbered && lastOfPlaces[word(i)], alone && !terms.SaysNothing(before[words[i][0]:words[i][1]]):
			end = i
		case !terms.Genitive(word(i)):
			i = 0
		}
	}
	if end == len(words) {
		return before
	}
	return before[:words[end][0]]
}

// FromPlace is the end that some labels have in common, without the words at its beginning that are part of names of places: those that
// such names end with, or all that say something where the labels end with a word that names begin with (Upper Lock, Lower Lock).
func FromPlace(after string, rests []string) string {
	alone := len(rests) > 0 && !slices.ContainsFunc(rests, func(rest string) bool { return !firstOfPlaces[terms.LastWord(rest)] })
	end := 0
	for _, w := range wordForm().FindAllStringIndex(after, -1) {
		if word := after[w[0]:w[1]]; !lastOfPlaces[key.Of(word)] && (!alone || terms.SaysNothing(word)) {
			break
		}
		end = w[1]
	}
	return after[end:]
}

// firstWord is the first word of a text, by the key.
func firstWord(text string) string {
	first, _, _ := strings.Cut(key.Of(text), " ")
	return first
}
