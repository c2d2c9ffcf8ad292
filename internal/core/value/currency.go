package value

import (
	"strings"
	"unicode"
	"unicode/utf8"

	"umbau/internal/core/key"
)

// signs that stand for one currency only; every other sign is itself.
var signs = map[rune]string{'€': "EUR", '£': "GBP", '₹': "INR"}

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
	code, size := currencyAt([]byte(strings.ToUpper(TrimText(text))))
	if size == 0 { // a sign of another width
		return key.Of(text)
	}
	return code
}

// CurrencyIn finds the first currency sign or ISO 4217 code in a text, as it stands there;
// "" for none.
func CurrencyIn(text string) string {
	before := false // a letter stands before
	for i, r := range text {
		if _, size := currencyAt([]byte(text[i:])); size > 0 && !(before && unicode.IsLetter(r)) {
			return text[i : i+size]
		}
		before = unicode.IsLetter(r)
	}
	return ""
}

// currencyAt reads the currency sign or code that b begins with, and its size;
// size is 0 when there is none.
func currencyAt(b []byte) (code string, size int) {
	if c := b[0]; c < utf8.RuneSelf && c != '$' && (c < 'A' || c > 'Z') {
		return "", 0
	}
	r, n := utf8.DecodeRune(b)
	if unicode.Is(unicode.Sc, r) {
		if code, ok := signs[r]; ok {
			return code, n
		}
		return string(r), n
	}
	if len(b) < 3 || !codes[string(b[:3])] {
		return "", 0
	}
	if next, _ := utf8.DecodeRune(b[3:]); unicode.IsLetter(next) {
		return "", 0
	}
	return string(b[:3]), 3
}
