package profile

import (
	"fmt"
	"strings"
	"unicode"

	"junvo/internal/finding"
	"junvo/internal/reading"
	"junvo/internal/value"
)

// What a column of numbers or dates may be, although its cells fit: whole numbers that are numbers of something, a year or
// a minus that hardly any cell has. Nothing is decided here; who knows the table looks at it.

// rareShare is the share of a column's cells, one in so many, up to which what they have is rare.
const rareShare = 100

// doubts finds what is worth a look in a column whose cells fit.
func (f *finder) doubts() {
	switch f.conv.Type {
	case value.Integer:
		f.mayBeCode()
		f.rareSigns()
	case value.Decimal:
		f.rareSigns()
		if same, _ := f.c.versions(); same != "" {
			if f.c.Private() {
				same = "two texts"
			}
			f.add(finding.VersionsOrDecimals, f.gather(func(t *Tally) bool { return t.Set.IsNumber() }), "number", "numbers",
				": "+same+" stand among them, which are one number, and two versions")
		}
	case value.Date, value.Timestamp:
		if h := f.gather(func(t *Tally) bool { return reading.IsFar(t.Set, t.Form) }); f.rare(h.count) {
			f.add(finding.FarYears, h, "date is", "dates are", fmt.Sprintf(" of a year before %d or after %d, and the others are not",
				reading.FirstNearYear, reading.LastNearYear))
		}
	}
}

// rare reports whether so many of the column's cells are few of them.
func (f *finder) rare(cells int64) bool {
	all := f.c.Conclusion.Fits + f.c.Conclusion.Fails
	return rareShare*cells <= all || cells == 1 && all >= 20
}

// rareSigns finds numbers with a minus behind them or in parentheses, where no number has a minus before it.
func (f *finder) rareSigns() {
	h := f.gather(func(t *Tally) bool {
		return t.Set.IsNumber() && (t.Set.Any(reading.Bracketed) || t.Form == reading.SignBehind)
	})
	if h.count > 0 && f.rare(h.count) && !strings.HasPrefix(f.c.otherSmallest(), "-") {
		f.add(finding.RareSigns, h, "number has", "numbers have", " a minus behind the digits or parentheses around them, "+
			"and no others are negative")
	}
}

// otherSmallest is the smallest number of the column but for those that rareSigns is about.
func (c *ColumnProfile) otherSmallest() string {
	var numbers numberStats
	for i := range c.Column.Tallies {
		t := &c.Column.Tallies[i]
		if r, fits := c.Conclusion.Convention.Judge(t.Set, t.Form); fits && r != reading.AsBlank &&
			!t.Set.Any(reading.Bracketed) && t.Form != reading.SignBehind {
			numbers.merge(t.numbersUnder(&c.Conclusion.Convention))
		}
	}
	all, any := numbers.total()
	if !any {
		return ""
	}
	return all.smallest.String()
}

// codeWords are words at the end of a column's name, or alone in it, that say that its cells are numbers of something: in
// the languages of the demo's harbour and its neighbours.
var codeWords = strings.Fields(`no nr num number nummer numero número numéro numer nomor code kode código codice kod zip plz
	postcode postleitzahl cap cep id account konto kontonummer compte cuenta conta iban bic phone telephone telefon telefono
	teléfono téléphone tel fax mobile handy isbn ean gtin sku vin imo mmsi ssn ust vat siret siren`)

// minCodeDigits is how many digits whole numbers have at least that may be codes by their length.
const minCodeDigits = 4

// minCodes is how many cells it takes to say that all of them differ.
const minCodes = 10

// mayBeCode finds whole numbers that may be numbers of something.
func (f *finder) mayBeCode() {
	length := f.oneLength()
	if length == 0 {
		return
	}
	h := f.gather(func(t *Tally) bool { return t.Set.IsNumber() })
	if w := codeWord(f.c.Name); w != "" {
		f.add(finding.MayBeCode, h, "whole number", "whole numbers", fmt.Sprintf(" of %d digits: may be codes, by the word %q in "+
			"the column's name", length, w))
	} else if f.allDiffer() {
		f.add(finding.MayBeCode, h, "whole number", "whole numbers", fmt.Sprintf(" of %d digits, and all differ: may be codes", length))
	}
}

// codeWord returns the word of a column's name that says that its cells are numbers of something, "" for none.
func codeWord(name string) string {
	words := strings.FieldsFunc(strings.ToLower(name), func(r rune) bool { return !unicode.IsLetter(r) })
	if len(words) == 0 {
		return ""
	}
	last := words[len(words)-1]
	for _, w := range codeWords {
		if last == w || len(w) >= len("nummer") && strings.HasSuffix(last, w) {
			return last
		}
	}
	return ""
}

// oneLength returns how many digits all whole numbers of the column have, 0 where they have several lengths, fewer digits
// than codes have, or are years.
func (f *finder) oneLength() int {
	length := 0
	for _, k := range f.c.Counts {
		if !k.Set.IsNumber() {
			continue
		}
		if k.Set.Any(reading.Affixes|reading.GroupMarks) || k.Digits[0] != k.Digits[1] || length > 0 && k.Digits[0] != length {
			return 0
		}
		length = k.Digits[0]
	}
	if r := f.c.Range; length == minCodeDigits && r.Smallest >= "1800" && r.Largest <= "2100" || length < minCodeDigits {
		return 0
	}
	return length
}

// allDiffer reports whether no two of the column's cells are the same, as far as is known.
func (f *finder) allDiffer() bool {
	cells := f.c.Conclusion.Fits + f.c.Conclusion.Fails
	count, exact := f.c.Distinct()
	return cells >= minCodes && exact && int64(count) >= cells
}
