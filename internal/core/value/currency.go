package value

import (
	"bytes"
	"strings"
	"unicode"
	"unicode/utf8"

	"umbau/internal/core/key"
)

// signs that stand for one currency only; every other sign is itself.
var signs = map[rune]string{'€': "EUR", '£': "GBP", '₹': "INR"}

// words are signs of letters; kr, or kr., stands for several currencies, and is itself. In capitals, or with a hyphen behind it, it is
// the beginning of a code (KR-1001).
var words = map[string]string{"zł": "PLN", "Kč": "CZK", "kr": "kr", "Kr": "kr"}

// wordKeys are the keys of words.
var wordKeys = func() map[string]bool {
	set := map[string]bool{}
	for w := range words {
		set[key.Of(w)] = true
	}
	return set
}()

// codes are the alphabetic codes of ISO 4217.
var codes = func() map[string]bool {
	set := map[string]bool{}
	for _, c := range strings.Fields(`AED AFN ALL AMD ANG AOA ARS AUD AWG AZN BAM BBD BDT BGN BHD BIF BMD BND BOB
		BRL BSD BTN BWP BYN BZD CAD CDF CHF CLP CNY COP CRC CUP CVE CZK DJF DKK DOP DZD EGP ERN ETB EUR FJD FKP GBP
		GEL GHS GIP GMD GNF GTQ GYD HKD HNL HTG HUF IDR ILS INR IQD IRR ISK JMD JOD JPY KES KGS KHR KMF KPW KRW KWD
		KYD KZT LAK LBP LKR LRD LSL LYD MAD MDL MGA MKD MMK MNT MOP MRU MUR MVR MWK MXN MYR MZN NAD NGN NIO NOK NPR
		NZD OMR PAB PEN PGK PHP PKR PLN PYG QAR RON RSD RUB RWF SAR SBD SCR SDG SEK SGD SHP SLE SOS SRD SSP STN SVC
		SYP SZL THB TJS TMT TND TOP TRY TTD TWD TZS UAH UGX USD UYU UZS VES VND VUV WST XAF XCD XOF XPF YER ZAR ZMW ZWG`) {
		set[c] = true
	}
	return set
}()

// CurrencyOf is the code (ISO 4217) of the currency that a text is, or its sign, where that stands for several; "" for none.
func CurrencyOf(text string) string {
	if !IsCurrency(text) {
		return ""
	}
	for _, t := range []string{TrimText(text), strings.ToUpper(TrimText(text))} {
		if code, size := currencyAt([]byte(t)); size > 0 {
			return code
		}
	}
	return key.Of(text) // a sign of another width
}

// CurrencyIn finds the first currency sign or ISO 4217 code in a text, as it stands there;
// "" for none.
func CurrencyIn(text string) string {
	before := false // a letter stands before
	for i, r := range text {
		if _, size := currencyAt([]byte(text[i:])); size > 0 && !(before && unicode.IsLetter(r)) {
			return strings.TrimSuffix(text[i:i+size], ".")
		}
		before = unicode.IsLetter(r)
	}
	return ""
}

// currencyAt reads the currency sign or code that b begins with, and its size;
// size is 0 when there is none.
func currencyAt(b []byte) (code string, size int) {
	switch c := b[0]; {
	case c >= utf8.RuneSelf || c == '$':
		if r, n := utf8.DecodeRune(b); unicode.Is(unicode.Sc, r) {
			if code, ok := signs[r]; ok {
				return code, n
			}
			return string(r), n
		}
	case c >= 'A' && c <= 'Z' || c == 'k' || c == 'z':
		word := b[:min(len(b), 8)] // longer than any
		if end := bytes.IndexFunc(word, func(r rune) bool { return !unicode.IsLetter(r) }); end >= 0 {
			word = word[:end]
		}
		size = len(word)
		if codes[string(word)] {
			return string(word), size
		}
		if code = words[string(word)]; code == "kr" && size < len(b) && b[size] == '.' {
			size++
		}
		if code != "" && (size == len(b) || b[size] != '-') {
			return code, size
		}
	}
	return "", 0
}
