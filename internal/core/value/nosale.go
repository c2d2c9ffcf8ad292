package value

import (
	"slices"
	"strings"
	"unicode/utf8"

	"umbau/internal/core/key"
)

// besideWords are labels of figures that stand beside others, by the key, but for those of the year before.
var besideWords = wordSet(append(keysOf(`average avg ø mean median maximum minimum count durchschnitt mittelwert moyenne promedio gemiddelde
	difference variance deviation abweichung differenz veränderung écart diferencia differenza scostamento verschil diferença growth
	wachstum rank rang ranking δ δ%`), "number of rows", "no of rows", "row count", "anzahl zeilen", "nombre de lignes")...)

// yearsBefore are labels of figures of the year before, by the key.
var yearsBefore = wordSet("ly", "py", "last year", "prior year", "previous year", "year ago", "vorjahr", "vj", "annee precedente",
	"ano anterior", "anno precedente", "vorig jaar")

// partsOf begin labels of figures that are parts or sums of others, by the key.
var partsOf = []string{"of which ", "thereof ", "davon ", "darunter ", "di cui ", "waarvan ", "de los cuales ", "dos quais ",
	"σ "}

// noSaleWords begin labels of figures that may be no sales: what was planned, taxes, shares, balances, and sums to check others by; by the
// key.
var noSaleWords = wordSet(keysOf(`budget plan forecast prognose soll presupuesto begroting vat mwst ust umsatzsteuer mehrwertsteuer tva iva
	btw moms tax share anteil percentage percent opening closing anfangsbestand endbestand saldo balance solde übertrag check checksum
	kontrolle kontrollsumme prüfsumme highest lowest largest smallest change rows anzahl`)...)

// carried are labels of balances that were carried from one time to the next, by the key.
var carried = wordSet("balance brought forward", "balance carried forward", "balance b f", "balance c f", "balance bf", "balance cf",
	"brought forward", "carried forward", "b f", "c f", "saldovortrag", "vortrag", "vortrag vorjahr", "ubertrag vorjahr", "report a nouveau",
	"carried over", "carry over", "previous page", "last page",
	"a nouveau", "solde reporte", "saldo anterior", "saldo inicial", "saldo iniziale", "riporto", "saldo transitado", "beginsaldo")

func keysOf(words string) (out []string) {
	for _, w := range strings.Fields(words) {
		out = append(out, key.Of(w))
	}
	return out
}

// YearBefore reports whether a label, by its key, is of the year before.
func YearBefore(key string) bool { return yearsBefore[key] }

// PartOf reports whether a label, by its key, says that its figures are parts of others.
func PartOf(key string) bool {
	return slices.ContainsFunc(partsOf, func(p string) bool { return strings.HasPrefix(key, p) })
}

// StandsBeside reports whether a label is of figures that stand beside others: averages, differences, the year before,
// parts of them, and what stands between pages.
func StandsBeside(label string) bool {
	k := key.Of(label)
	return besideWords[k] || Mark(label) || len(k) > 2 && yearsBefore[k] || PartOf(k)
}

// MayBeNoSale reports whether a label is of figures that may be no sales: one of a few words alone, or with a rate, or the
// beginning of a balance or a share.
func MayBeNoSale(label string) bool {
	k := key.Of(label)
	list := strings.Fields(k)
	if carried[k] || len(list) == 0 || !noSaleWords[list[0]] {
		return carried[k]
	}
	switch list[0] {
	case "opening", "closing":
		return len(list) == 2 && (list[1] == "balance" || list[1] == "stock")
	case "share", "anteil", "percentage", "percent":
		return true
	}
	return !slices.ContainsFunc(list[1:], func(w string) bool { return w != "%" && strings.Trim(w, "0123456789.,") != "" })
}

// mostNoSale is how long a label is at most that NoSale takes for one.
const mostNoSale = 40

// firstNoSale are the first words of those labels.
var firstNoSale = func() map[string]bool {
	out := map[string]bool{}
	for _, set := range []map[string]bool{besideWords, yearsBefore, noSaleWords, carried, wordSet(partsOf...), pageWords, pageAlone} {
		for k := range set {
			out[strings.Fields(k)[0]] = true
		}
	}
	return out
}()

// beginNoSale are all beginnings of these.
var beginNoSale = func() map[string]bool {
	out := map[string]bool{}
	for word := range firstNoSale {
		for n := range len(word) {
			out[word[:n+1]] = true
		}
	}
	return out
}()

// threeNoSale are the first three letters of those that have so many, as threeOf counts them.
var threeNoSale = func() (table [1 << 10]uint32) {
	for word := range firstNoSale {
		if three, ok := threeOf(word); ok {
			table[three>>5] |= 1 << (three & 31)
		}
	}
	return table
}()

// threeOf counts the first three letters of a text, if they are of ASCII, five bits each.
func threeOf(text string) (three int, ok bool) {
	if len(text) < 3 {
		return 0, false
	}
	a, b, c := text[0]|0x20-'a', text[1]|0x20-'a', text[2]|0x20-'a'
	return int(a) | int(b)<<5 | int(c)<<10, max(a, b, c) < 26
}

// NoSale reports whether a label is of figures that stand beside sales or may be none; of most others it does so without
// looking long.
func NoSale(label string) bool {
	if len(label) < 2 || len(label) > mostNoSale || label[0] >= '0' && label[0] <= '9' {
		return false
	}
	if three, ok := threeOf(label); ok && threeNoSale[three>>5]>>(three&31)&1 == 0 {
		return false
	}
	var word [mostNoSale]byte
	n, i := 0, 0
	for i < len(label) {
		if c := label[i] | 0x20; c >= 'a' && c <= 'z' {
			word[n] = c
			n, i = n+1, i+1
			continue
		}
		letter := key.Western(label, i)
		if letter == "" || letter[0] >= utf8.RuneSelf {
			break
		}
		n, i = n+copy(word[n:], letter), i+2
	}
	// A word of western letters that ends there is looked up; what else may belong to it is left to the key.
	possible := beginNoSale
	if i == len(label) || strings.IndexByte(" .,:;-/(%", label[i]) >= 0 {
		possible = firstNoSale
	}
	if n > 0 && !possible[string(word[:n])] {
		return false
	}
	return StandsBeside(label) || MayBeNoSale(label)
}
