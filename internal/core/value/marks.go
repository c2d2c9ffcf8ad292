package value

import (
	"strings"

	"umbau/internal/core/key"
)

// pageWords stand before the number of a page, pageBetween behind it before how many there are, and pageAlone where a table goes on.
var (
	pageWords   = wordSet("page", "seite", "pagina", "blad", "blatt", "feuille")
	pageBetween = wordSet("of", "von", "de", "di", "van", "sur", "/", "")
	pageAlone   = wordSet("continued", "continuation", "fortsetzung", "wird fortgesetzt", "suite page suivante")
)

// Mark reports whether a text that stands where a label does names nothing: a ruled line (-----), or what is printed between the pages of a
// table: Page 2 of 3, - 2 -, continued.
func Mark(text string) bool {
	if len(text) < 3 {
		return false
	}
	rest := strings.Trim(text, "-–—_=~ ")
	switch {
	case rest == "":
		return true
	case strings.Trim(rest, "0123456789") == "":
		return strings.HasPrefix(text, "- ") && strings.HasSuffix(text, " -")
	}
	k := key.Of(text)
	list := strings.Fields(k)
	if pageAlone[k] || len(list) == 0 || !pageWords[list[0]] {
		return pageAlone[k]
	}
	numbers := 0
	for _, w := range list[1:] {
		if n := strings.Trim(w, "0123456789/"); n == "" {
			numbers++
		} else if !pageBetween[n] {
			return false
		}
	}
	return numbers > 0
}
