package main

import (
	"encoding/json"
	"os"
	"path/filepath"
	"slices"
	"strings"
)

// locale is what one locale, or several that are alike, writes values by: names and
// patterns in the letters of UTS #35.
type locale struct {
	Locales   []string            `json:"locales"`
	Months    map[string][]string `json:"months"`   // by context and width, as format/wide
	Weekdays  map[string][]string `json:"weekdays"` // from Sunday
	Periods   map[string]string   `json:"periods"`  // day periods: am, pm, noon, morning1, …
	Era       string              `json:"era"`      // of the Common Era
	Dates     []string            `json:"dates"`
	Times     []string            `json:"times"`      // medium and short
	DateTimes []string            `json:"date_times"` // with {0} for the time and {1} for the date
	Numbers   []numbers           `json:"numbers"`    // one for each system of digits
	Pairs     [][2]string         `json:"pairs,omitempty"`

	dateWords []string // other names that the reader has to know
	before    []string // names of the era before the common one
	currency  map[string][]string
}

// numbers is how a locale writes numbers in one system of digits.
type numbers struct {
	Digits                                       string // the ten digits
	Decimal, Group, Minus, Percent, MoneyDecimal string
	DecimalPattern, PercentPattern               string
	CurrencyPattern, AccountingPattern           string
	Currencies                                   []string // symbols to write amounts with
}

// key tells locales apart.
func (l *locale) key() string {
	c := *l
	c.Locales = nil
	text, err := json.Marshal(&c)
	check(err)
	return string(text)
}

// load reads one locale.
func load(dir, name string) *locale {
	l := &locale{
		Locales: []string{name}, Months: map[string][]string{}, Weekdays: map[string][]string{},
		Periods: map[string]string{},
	}
	l.loadDates(dir, name)
	l.loadNumbers(dir, name)
	l.loadWords(dir, name)
	return l
}

func (l *locale) loadDates(dir, name string) {
	var file struct {
		Main map[string]struct {
			Dates struct {
				Calendars struct {
					Gregorian struct {
						Months, Days, DayPeriods map[string]map[string]map[string]string
						Eras                     map[string]map[string]string
						DateFormats, TimeFormats map[string]any
						DateTimeFormats          map[string]any
						DateTimeFormatsAtTime    struct{ Standard map[string]any } `json:"dateTimeFormats-atTime"`
					}
				}
			}
		}
	}
	read(&file, dir, "cldr-dates-full", "main", name, "ca-gregorian.json")
	g := file.Main[name].Dates.Calendars.Gregorian
	days := []string{"sun", "mon", "tue", "wed", "thu", "fri", "sat"}
	for _, context := range []string{"format", "stand-alone"} {
		for _, width := range []string{"abbreviated", "wide"} {
			key := context + "/" + width
			for m := 1; m <= 12; m++ {
				l.Months[key] = append(l.Months[key], g.Months[context][width][itoa(m)])
			}
			for _, d := range days {
				l.Weekdays[key] = append(l.Weekdays[key], g.Days[context][width][d])
			}
		}
	}
	for period, text := range g.DayPeriods["format"]["abbreviated"] {
		if !strings.Contains(period, "-alt-") {
			l.Periods[period] = text
		}
	}
	for _, width := range []string{"abbreviated", "wide", "narrow"} {
		for period, text := range g.DayPeriods["format"][width] {
			l.dateWords = append(l.dateWords, period+"\t"+text)
		}
	}
	l.Era = g.Eras["eraAbbr"]["1"]
	for _, width := range []string{"eraAbbr", "eraNames"} {
		l.before = append(l.before, g.Eras[width]["0"], g.Eras[width]["0-alt-variant"])
	}
	for _, w := range []string{"full", "long", "medium", "short"} {
		l.Dates = append(l.Dates, pattern(g.DateFormats[w]))
		for _, f := range []map[string]any{g.DateTimeFormats, g.DateTimeFormatsAtTime.Standard} {
			if p := pattern(f[w]); p != "" && !slices.Contains(l.DateTimes, p) {
				l.DateTimes = append(l.DateTimes, p)
			}
		}
	}
	l.Times = []string{pattern(g.TimeFormats["medium"]), pattern(g.TimeFormats["short"])}
}

// pattern returns a pattern, which some locales write with digits of their own.
func pattern(v any) string {
	switch v := v.(type) {
	case string:
		return v
	case map[string]any:
		s, _ := v["_value"].(string)
		return s
	}
	return ""
}

func itoa(n int) string {
	return strings.TrimPrefix(string([]byte{byte('0' + n/10), byte('0' + n%10)}), "0")
}

func (l *locale) loadNumbers(dir, name string) {
	var file struct {
		Main map[string]struct{ Numbers map[string]json.RawMessage }
	}
	read(&file, dir, "cldr-numbers-full", "main", name, "numbers.json")
	n := file.Main[name].Numbers
	var system string
	check(json.Unmarshal(n["defaultNumberingSystem"], &system))
	var other map[string]string
	check(json.Unmarshal(n["otherNumberingSystems"], &other))
	l.loadCurrencies(dir, name)
	var symbols []string
	for _, code := range []string{"EUR", "USD", "JPY", "INR", "CHF"} {
		symbols = append(symbols, l.currency[code][0])
	}
	for i, s := range []string{system, "latn", other["native"]} {
		if n["symbols-numberSystem-"+s] == nil || digits(dir, s) == "" ||
			slices.Contains([]string{system, "latn"}[:min(i, 2)], s) {
			continue
		}
		var y map[string]any
		check(json.Unmarshal(n["symbols-numberSystem-"+s], &y))
		format := func(kind, standard string) string {
			var f map[string]any
			check(json.Unmarshal(n[kind+"Formats-numberSystem-"+s], &f))
			return pattern(f[standard])
		}
		one := numbers{
			Digits: digits(dir, s), Decimal: pattern(y["decimal"]), Group: pattern(y["group"]), Minus: pattern(y["minusSign"]),
			Percent: pattern(y["percentSign"]), MoneyDecimal: pattern(y["currencyDecimal"]),
			DecimalPattern: format("decimal", "standard"), PercentPattern: format("percent", "standard"),
			CurrencyPattern: format("currency", "standard"), AccountingPattern: format("currency", "accounting"),
			Currencies: symbols,
		}
		l.Numbers = append(l.Numbers, one)
	}
}

// digits returns the ten digits of a system, "" where it has none.
func digits(dir, system string) string {
	var file struct {
		Supplemental struct {
			NumberingSystems map[string]map[string]string
		}
	}
	read(&file, dir, "cldr-core", "supplemental", "numberingSystems.json")
	s := file.Supplemental.NumberingSystems[system]
	if s["_type"] != "numeric" || system == "hanidec" {
		return ""
	}
	return s["_digits"]
}

// loadCurrencies reads the symbols of each currency, the usual one first.
func (l *locale) loadCurrencies(dir, name string) {
	var file struct {
		Main map[string]struct {
			Numbers struct{ Currencies map[string]map[string]string }
		}
	}
	read(&file, dir, "cldr-numbers-full", "main", name, "currencies.json")
	l.currency = map[string][]string{}
	for code, names := range file.Main[name].Numbers.Currencies {
		symbol := names["symbol"]
		if symbol == "" {
			symbol = code
		}
		l.currency[code] = append(l.currency[code], symbol)
		for _, k := range []string{"symbol-alt-narrow", "symbol-alt-variant", "symbol-alt-formal"} {
			if s := names[k]; s != "" {
				l.currency[code] = append(l.currency[code], s)
			}
		}
	}
}

func (l *locale) loadWords(dir, name string) {
	path := filepath.Join(dir, "cldr-misc-full", "main", name, "posix.json")
	if _, err := os.Stat(path); err != nil {
		return
	}
	var file struct {
		Main map[string]struct {
			Posix struct {
				Messages struct{ Yesstr, Nostr string }
			}
		}
	}
	read(&file, path)
	m := file.Main[name].Posix.Messages
	// The first of the words that a colon separates is the whole word.
	yes, _, _ := strings.Cut(m.Yesstr, ":")
	no, _, _ := strings.Cut(m.Nostr, ":")
	if yes, no = strings.TrimSpace(yes), strings.TrimSpace(no); len(yes) > 1 && len(no) > 1 {
		l.Pairs = append(l.Pairs, [2]string{yes, no})
	}
}
