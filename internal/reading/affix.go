package reading

import (
	"bytes"
	"slices"
	"strings"
)

// An affix is what stands around the digits of a number: a currency, a unit, a
// percent sign. Its name is the same for every way to write it ("€" and "EUR").
type affix struct {
	name string
	kind Set
}

// currencies are the codes of ISO 4217 in use.
const currencies = `AED AFN ALL AMD AOA ARS AUD AWG AZN BAM BBD BDT BGN BHD BIF BMD BND BOB BRL BSD BTN BWP BYN BZD
CAD CDF CHF CLP CNY COP CRC CUP CVE CZK DJF DKK DOP DZD EGP ERN ETB EUR FJD FKP GBP GEL GHS GIP GMD GNF GTQ GYD
HKD HNL HTG HUF IDR ILS INR IQD IRR ISK JMD JOD JPY KES KGS KHR KMF KPW KRW KWD KYD KZT LAK LBP LKR LRD LSL LYD
MAD MDL MGA MKD MMK MNT MOP MRU MUR MVR MWK MXN MYR MZN NAD NGN NIO NOK NPR NZD OMR PAB PEN PGK PHP PKR PLN PYG
QAR RON RSD RUB RWF SAR SBD SCR SDG SEK SGD SHP SLE SOS SRD SSP STN SVC SYP SZL THB TJS TMT TND TOP TRY TTD TWD
TZS UAH UGX USD UYU UZS VES VND VUV WST XAF XCD XOF XPF YER ZAR ZMW ZWG`

// thousandParts are the currencies whose unit has 1000 parts (ISO 4217).
var thousandParts = strings.Fields("BHD IQD JOD KWD LYD OMR TND")

// symbols are the ways to write a currency; those that several countries share keep their own name.
var symbols = map[string]string{
	"€": "EUR", "£": "GBP", "¥": "¥", "$": "$", "US$": "USD", "A$": "AUD", "C$": "CAD", "R$": "BRL", "₹": "INR",
	"₽": "RUB",
	"₺": "TRY", "₩": "KRW", "₴": "UAH", "₪": "ILS", "₫": "VND", "₦": "NGN", "₱": "PHP", "฿": "THB", "₸": "KZT", "₾": "GEL",
	"zł": "PLN", "Kč": "CZK", "Ft": "HUF", "kr": "kr", "kr.": "kr", "Kr": "kr", "Fr.": "CHF", "lei": "RON", "¢": "¢",
	"руб.": "RUB",
	"R":    "ZAR", "K": "K", "so'm": "UZS", "円": "JPY", "圓": "¥", "元": "CNY", "円也": "JPY", "US $": "USD", "JP¥": "JPY",
	"CN¥": "CNY",
	"eur": "EUR", "Eur": "EUR", "Euro": "EUR", "euro": "EUR", "usd": "USD", "Usd": "USD", "gbp": "GBP", "chf": "CHF",
	"SFr": "CHF", "sFr": "CHF", "Fr": "CHF",
	"р": "RUB", "руб": "RUB", "грн": "UAH", "тг": "KZT", "лв": "BGN", "ден": "MKD", "дин": "RSD", "din": "RSD",
	"сом": "KGS", "сум": "UZS", "сўм": "UZS",
	"KD": "KWD", "BD": "BHD", "JD": "JOD",
	"Rs": "Rs", "Rs.": "Rs", "RM": "MYR", "Rp": "IDR", "Tk": "BDT", "zl": "PLN", "DM": "DEM", "TL": "TRY", "Bs": "Bs",
	"Bs.": "Bs", "￥": "¥",
}

// units are the units that are so widely known that they may follow the digits
// without a space. Single capitals are left out: 12A is a house number.
const units = `kg g mg t lb lbs oz l ml cl hl dl m cm mm km m² m³ cm² cm³ km² ha ft yd mi h min s ms °C °F °
kW MW Wh kWh MWh kV mA Hz kHz MHz GHz kJ MJ kN Pa hPa kPa MPa bar mbar psi kB KB MB GB TB dB
km/h m/s kg/m³ g/l mg/l kg/l rpm pcs Stk Stk. St. Stck ppm µm µg µl kn nm sm`

// shared are the symbols that several currencies share: where a column names one of them by its
// code, the symbol beside it means that one.
var shared = map[string]string{
	"$":  "USD AUD CAD NZD HKD SGD TWD MXN ARS CLP COP UYU BBD BMD BSD BZD BND FJD GYD JMD KYD LRD NAD SBD SRD TTD XCD",
	"¥":  "JPY CNY",
	"kr": "SEK NOK DKK ISK",
	"Rs": "INR PKR LKR NPR MUR SCR",
	"Bs": "BOB VES",
	"K":  "PGK MMK ZMW LAK",
	"¢":  "USD",
}

// means reports whether a symbol may stand for a currency.
func means(symbol, currency string) bool {
	return symbol == currency || slices.Contains(strings.Fields(shared[symbol]), currency)
}

// affixNamed returns the affix of a text; an abbreviation may have a point.
func affixNamed(text []byte) (affix, bool) {
	a, ok := theAffixes.get().all[string(text)]
	if !ok && text[len(text)-1] == '.' {
		a, ok = theAffixes.get().all[string(text[:len(text)-1])]
		ok = ok && a.kind == Currency
	}
	return a, ok
}

// affixTable has the units, currencies and signs.
type affixTable struct {
	all map[string]affix // by the texts that stand for them
	// starts has, for the first byte of a currency that begins with a letter, the second bytes that occur, by their
	// lowest five bits.
	starts [256]uint32
	words  map[string]bool // the letters in ASCII that currencies begin with, as far as they go
}

var theAffixes = lazy[affixTable]{make: func() *affixTable {
	t := &affixTable{all: allAffixes(), words: map[string]bool{}}
	for text, a := range t.all {
		if a.kind != Currency || !letter(text[0]) {
			continue
		}
		t.words[text[:letters([]byte(text))]] = true
		next := text[1:]
		if next == "" { // a sign of one letter stands before a space or a number
			next = " 0123456789-.,("
		} else {
			next = next[:1]
		}
		for _, b := range []byte(next) {
			t.starts[text[0]] |= 1 << (b & 31)
		}
	}
	return t
}}

func allAffixes() map[string]affix {
	t := map[string]affix{"%": {"%", Percent}, "‰": {"‰", PerMille}, "$": {"$", Currency}}
	for _, u := range strings.Fields(units) {
		t[u] = affix{u, Unit}
		t[strings.ReplaceAll(u, "µ", "μ")] = affix{u, Unit} // the Greek letter for the sign
	}
	for _, c := range strings.Fields(currencies) {
		t[c] = affix{c, Currency}
	}
	for line := range strings.Lines(strings.TrimSpace(cldrCurrencies)) {
		code, list, _ := strings.Cut(strings.TrimRight(line, "\n"), "\t")
		if code == noCurrency {
			code = "*" // the sign stands for any
		}
		for s := range strings.SplitSeq(list, "\t") {
			if _, taken := t[s]; taken || !clearSymbol(s) {
				continue
			}
			if t[s] = (affix{code, Currency}); code == "*" {
				t[s] = affix{s, Currency}
			}
		}
	}
	for s, c := range symbols {
		t[s] = affix{c, Currency}
	}
	return t
}

// multiplying has the words after a number that make another number of it, by what they multiply it; "" where that is
// another number elsewhere, or where the word is something else as often: a billion, and a k. To take one off as a unit
// would leave a wrong value.
var multiplying = func() map[string]string {
	m := map[string]string{}
	for _, line := range [][2]string{
		{"", "k K M B T Mn mn tn Cr cr mil mille bi billion billions Billion Billionen trillion trillions bilhão bilhões 兆 조"},
		{"12", "dozen Dutzend"},
		{"1000", "thousand tausend Tausend Tsd Tsd. tsd tsd. тыс тыс. 千"},
		{"10000", "万 萬 만"},
		{"100000", "lakh lakhs Lakh Lakhs lac lacs"},
		{"1000000", "Mio Mio. mio mio. Million million millions Millionen millones milioni miljoen млн млн. 百万"},
		{"10000000", "crore crores Crore Crores"},
		{"100000000", "億 亿 억"},
		{"1000000000", "Mrd Mrd. mrd mrd. milliard milliards Milliarde Milliarden miliardi miljard млрд млрд. Bn bn"},
	} {
		for w := range strings.FieldsSeq(line[1]) {
			m[w] = line[0]
		}
	}
	return m
}()

// sides are the words that say on which side of an account a number is. Which side is the negative one differs between
// those who write the account.
var sides = func() map[string]string {
	m := map[string]string{}
	for _, pair := range [][2]string{
		{"DR", "CR"},
		{"Dr", "Cr"},
		{"dr", "cr"},
		{"Dr.", "Cr."},
		{"debit", "credit"},
		{"Debit", "Credit"},
		{"DEBIT", "CREDIT"},
		{"S", "H"},
		{"Soll", "Haben"},
		{"SOLL", "HABEN"},
		{"D", "C"},
	} {
		m[pair[0]], m[pair[1]] = pair[1], pair[0]
	}
	return m
}()

// glued reports whether a word may stand right after the digits of a number though it is no unit: 3万 is one number, and
// so is 12.50CR, but 12CR is a code.
func glued(word, digits []byte) bool {
	return multiplying[string(word)] != "" || len(word) > 1 && sides[string(word)] != "" && bytes.ContainsAny(digits, ".,")
}

// partOfDay reports whether a word after a number makes it a time of day: pm, Uhr.
func partOfDay(word []byte) bool {
	if len(word) > maxNameKey {
		return false
	}
	var key [maxNameKey]byte
	n, ok := nameOf(appendKey(key[:0], word))
	return ok && (n.hours != 0 && (n.short == 0 || n.universal()) || n.roles&clocks != 0 && n.short != 1)
}

// clearSymbol reports whether a symbol of the CLDR can stand for nothing but a
// currency: short ones in plain letters are codes, units or initials more often.
func clearSymbol(s string) bool {
	plain := 0
	for _, b := range []byte(s) {
		if !letter(b) && b != '.' && b != ' ' {
			return true
		}
		plain += int(bit(letter(b)))
	}
	return plain > 2 && s != strings.ToLower(s)
}

// letters returns how many letters in ASCII a text begins with.
func letters(text []byte) (n int) {
	for n < len(text) && letter(text[n]) {
		n++
	}
	return n
}

// mayBeCurrency reports whether text that begins with a letter may begin with a currency.
func mayBeCurrency(text []byte) bool {
	if len(text) < 2 {
		return false
	}
	t := theAffixes.get()
	return t.starts[text[0]]>>(text[1]&31)&1 == 1 && t.words[string(text[:letters(text)])]
}

// noCurrency is the code for no currency, which is none of those in use.
const noCurrency = "XXX"

// maxUnit is the longest word, in bytes, that may be taken for a unit.
const maxUnit = 24

// AffixForm returns the form of a number with another word after it.
func AffixForm(word string) uint64 { return affixForm(word) }

// affixForm hashes an affix's name (FNV-1a), so that columns can count by affix
// without keeping its text with every cell.
func affixForm[T []byte | string](name T) uint64 {
	h := uint32(fnvStart)
	for i := range len(name) {
		h = (h ^ uint32(name[i])) * fnvPrime
	}
	return uint64(h)
}

// unitWord reports whether text could be a unit: one word of letters, with no
// digits, that starts with a letter or a degree sign.
func unitWord(text []byte) bool {
	if len(text) == 0 || len(text) > maxUnit {
		return false
	}
	if c := classes[text[0]]; c&(cLower|cUpper|cHigh) == 0 {
		return false
	}
	for _, b := range text {
		if b != '/' && b != '.' && classes[b]&(cLower|cUpper|cHigh) == 0 {
			return false
		}
	}
	return true
}
