package reading

import (
	"bufio"
	"compress/gzip"
	"encoding/json"
	"fmt"
	"os"
	"slices"
	"strings"
	"testing"
	"time"
	"unicode"
	"unicode/utf8"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"junvo/internal/character"
	"junvo/internal/value"
)

// locale is how one locale writes values: see gen, which makes the file.
type locale struct {
	Locales   []string            `json:"locales"`
	Months    map[string][]string `json:"months"`
	Weekdays  map[string][]string `json:"weekdays"`
	Periods   map[string]string   `json:"periods"`
	Era       string              `json:"era"`
	Dates     []string            `json:"dates"`
	Times     []string            `json:"times"`
	DateTimes []string            `json:"date_times"`
	Numbers   []localeNumbers     `json:"numbers"`
	Pairs     [][2]string         `json:"pairs"`
}

type localeNumbers struct {
	Digits, Decimal, Group, Minus, Percent, MoneyDecimal               string
	DecimalPattern, PercentPattern, CurrencyPattern, AccountingPattern string
	Currencies                                                         []string
}

func locales(t *testing.T) (all []*locale) {
	t.Helper()
	f, err := os.Open("testdata/locales.json.gz")
	require.NoError(t, err)
	defer f.Close()
	z, err := gzip.NewReader(f)
	require.NoError(t, err)
	lines := bufio.NewScanner(z)
	lines.Buffer(nil, 1<<20)
	for lines.Scan() {
		l := &locale{}
		require.NoError(t, json.Unmarshal(lines.Bytes(), l))
		all = append(all, l)
	}
	require.NoError(t, lines.Err())
	return all
}

// format writes a time by a pattern in the letters of UTS #35.
func (l *locale) format(pattern string, at time.Time) string {
	var b strings.Builder
	for i := 0; i < len(pattern); {
		c := pattern[i]
		if c == '\'' {
			end := strings.IndexByte(pattern[i+1:], '\'')
			if end == 0 {
				b.WriteByte('\'')
			}
			b.WriteString(pattern[i+1 : i+1+end])
			i += end + 2
			continue
		}
		n := 1
		for i+n < len(pattern) && pattern[i+n] == c {
			n++
		}
		if c >= 'a' && c <= 'z' || c >= 'A' && c <= 'Z' {
			b.WriteString(l.field(c, n, at))
		} else {
			b.WriteString(pattern[i : i+n])
		}
		i += n
	}
	return b.String()
}

func (l *locale) field(c byte, n int, at time.Time) string {
	width := "abbreviated"
	if n == 4 {
		width = "wide"
	}
	padded := func(v int) string { return fmt.Sprintf("%0*d", n, v) }
	switch c {
	case 'y':
		if n == 2 {
			return padded(at.Year() % 100)
		}
		return fmt.Sprint(at.Year())
	case 'M', 'L':
		if n < 3 {
			return padded(int(at.Month()))
		}
		return l.Months[map[byte]string{'M': "format", 'L': "stand-alone"}[c]+"/"+width][at.Month()-1]
	case 'd':
		return padded(at.Day())
	case 'E', 'c':
		return l.Weekdays[map[byte]string{'E': "format", 'c': "stand-alone"}[c]+"/"+width][at.Weekday()]
	case 'G':
		return l.Era
	case 'H':
		return padded(at.Hour())
	case 'h':
		return padded((at.Hour()+11)%12 + 1)
	case 'K':
		return padded(at.Hour() % 12)
	case 'm':
		return padded(at.Minute())
	case 's':
		return padded(at.Second())
	case 'a', 'B':
		if at.Hour() < 12 {
			return l.Periods["am"]
		}
		return l.Periods["pm"]
	}
	panic(string(c))
}

// days are days of every month, in and after its first twelve days.
func days() (all []time.Time) {
	for m := time.January; m <= time.December; m++ {
		all = append(all,
			time.Date(2021, m, 3, int(m), 5, 9, 0, time.UTC), time.Date(1998, m, 25, 11+int(m), 48, 0, 0, time.UTC))
	}
	return all
}

// column reads cells as one column, and returns each in canonical text.
func column(cells []string, ask Ask) (*Conclusion, []string) {
	r := NewReader(nil)
	var counts []Count
	for _, c := range cells {
		x := r.Read([]byte(c))
		counts = append(counts, Count{Set: x.Set, Form: x.Form, Affix: x.Affix(), Cells: 1})
	}
	con := Conclude(counts, ask)
	var out []string
	for _, c := range cells {
		x := r.Read([]byte(c))
		switch got, fits := con.Convention.Judge(x.Set, x.Form); {
		case got == AsBlank:
			out = append(out, "")
			continue
		case !fits:
			reason, _ := con.Convention.Explain([]byte(c), x)
			out = append(out, "!"+reason.String())
			continue
		}
		out = append(out, string(con.Convention.Append(nil, []byte(c), x)))
	}
	return con, out
}

// comesBack holds that cells are read as one column of the type, with the values wanted.
func comesBack(t *testing.T, l *locale, pattern string, typ value.Type, cells, want []string) {
	t.Helper()
	con, got := column(cells, Ask{})
	if con.Convention.Type == typ && slices.Equal(got, want) {
		return
	}
	for i := range want {
		if got[i] != want[i] || con.Convention.Type != typ {
			t.Errorf("%s: %q as %s (%s): %q is %q, not %q", l.Locales[0], pattern, con.Convention.Type, con.Why, cells[i], got[i], want[i])
			return
		}
	}
}

func TestDatesOfEveryLocaleComeBack(t *testing.T) {
	all := locales(t)
	assert.Greater(t, len(all), 200)
	for _, l := range all {
		for _, p := range l.Dates {
			var cells, want []string
			for _, d := range days() {
				cells = append(cells, l.format(p, d))
				want = append(want, d.Format("2006-01-02"))
			}
			comesBack(t, l, p, value.Date, cells, want)
		}
	}
}

// unsure are the patterns of texts that are something else more often.
var unsure = map[string]bool{
	"HH.mm": true, "H.mm": true, // 18.05 is a number
	"H:m":          true, // 2:1 is a score
	"{1} 'am' {0}": true, // am is before noon, and in one language at
}

func TestTimesOfEveryLocaleComeBack(t *testing.T) {
	for _, l := range locales(t) {
		for _, p := range l.Times {
			if unsure[p] {
				continue
			}
			var cells, want []string
			for _, d := range days() {
				if !strings.Contains(p, "s") {
					d = d.Truncate(time.Minute)
				}
				cells = append(cells, l.format(p, d))
				want = append(want, d.Format("15:04:05"))
			}
			comesBack(t, l, p, value.Time, cells, want)
		}
	}
}

func TestDatesWithTimesOfEveryLocaleComeBack(t *testing.T) {
	for _, l := range locales(t) {
		for _, date := range l.Dates {
			for _, both := range l.DateTimes {
				for _, clock := range l.Times {
					if unsure[both] || clock == "H:m" {
						continue
					}
					var cells, want []string
					for _, d := range days() {
						if !strings.Contains(clock, "s") {
							d = d.Truncate(time.Minute)
						}
						text := strings.Replace(l.format(both, d), "{1}", l.format(date, d), 1)
						cells = append(cells, strings.Replace(text, "{0}", l.format(clock, d), 1))
						want = append(want, d.Format("2006-01-02T15:04:05"))
					}
					comesBack(t, l, date+" "+both+" "+clock, value.Timestamp, cells, want)
				}
			}
		}
	}
}

// write writes a number in plain digits by a pattern.
func (n *localeNumbers) write(pattern, decimal, symbol, number string) string {
	positive, negative, own := strings.Cut(pattern, ";")
	minus := strings.HasPrefix(number, "-")
	number = strings.TrimPrefix(number, "-")
	switch {
	case minus && own:
		pattern = negative
	case minus:
		pattern = "-" + positive
	default:
		pattern = positive
	}
	start, end := strings.IndexAny(pattern, "#0"), strings.LastIndexAny(pattern, "#0")+1
	body := n.group(pattern[start:end], decimal, number)
	before, behind := pattern[:start], pattern[end:]
	if symbol != "" && unicode.IsLetter([]rune(symbol)[len([]rune(symbol))-1]) {
		before = strings.Replace(before, "¤", "¤\u00a0", 1) // CLDR's currencySpacing
	}
	if symbol != "" && unicode.IsLetter([]rune(symbol)[0]) && strings.HasPrefix(behind, "¤") {
		behind = "\u00a0" + behind
	}
	around := strings.NewReplacer("-", n.Minus, "%", n.Percent, "¤", symbol)
	return around.Replace(before) + body + around.Replace(behind)
}

// group writes digits with group marks and a decimal mark, in the locale's digits.
func (n *localeNumbers) group(pattern, decimal, number string) string {
	whole, fraction, _ := strings.Cut(number, ".")
	size := 3
	if strings.HasPrefix(pattern, "#,##,") {
		size = 2
	}
	var parts []string
	for rest, width := whole, 3; ; width = size {
		if len(rest) <= width {
			parts = append(parts, rest)
			break
		}
		parts = append(parts, rest[len(rest)-width:])
		rest = rest[:len(rest)-width]
	}
	slices.Reverse(parts)
	digits := []rune(n.Digits)
	inDigits := func(s string) string {
		return strings.Map(func(r rune) rune { return digits[r-'0'] }, s)
	}
	for i := range parts {
		parts[i] = inDigits(parts[i])
	}
	text := strings.Join(parts, n.Group)
	if fraction != "" {
		text += decimal + inDigits(fraction)
	}
	return text
}

func TestNumbersOfEveryLocaleComeBack(t *testing.T) {
	values := []string{"0.5", "7", "-7", "1234.5", "-1234567.891", "12345678.25", "123", "-0.125", "99999"}
	for _, l := range locales(t) {
		for _, n := range l.Numbers {
			var cells []string
			for _, v := range values {
				cells = append(cells, n.write(n.DecimalPattern, n.Decimal, "", v))
			}
			comesBack(t, l, n.DecimalPattern, value.Decimal, cells, values)
		}
	}
}

func TestPercentagesOfEveryLocaleComeBack(t *testing.T) {
	values := []string{"12", "-7", "1250", "100", "-1234567"}
	want := []string{"0.12", "-0.07", "12.50", "1.00", "-12345.67"}
	for _, l := range locales(t) {
		for _, n := range l.Numbers {
			var cells []string
			for _, v := range values {
				cells = append(cells, n.write(n.PercentPattern, n.Decimal, "", v))
			}
			comesBack(t, l, n.PercentPattern, value.Decimal, cells, want)
		}
	}
}

func TestAmountsOfEveryLocaleComeBack(t *testing.T) {
	values := []string{"12.50", "-7.00", "1234.99", "-1234567.05", "0.10", "12345678.00"}
	for _, l := range locales(t) {
		for _, n := range l.Numbers {
			decimal := n.Decimal
			if n.MoneyDecimal != "" {
				decimal = n.MoneyDecimal
			}
			for _, p := range []string{n.CurrencyPattern, n.AccountingPattern} {
				for _, symbol := range n.Currencies {
					var cells []string
					for _, v := range values {
						cells = append(cells, n.write(p, decimal, symbol, v))
					}
					comesBack(t, l, p+" "+symbol, value.Decimal, cells, values)
				}
			}
		}
	}
}

func TestPairsOfEveryLocaleComeBack(t *testing.T) {
	for _, l := range locales(t) {
		for _, p := range l.Pairs {
			if words[Fold(strings.ToLower(p[0]))] == nil || words[Fold(strings.ToLower(p[1]))] == nil {
				continue // of two words, or the other way round in another language
			}
			if open := p[0] + p[1]; strings.EqualFold(open, "sino") || strings.EqualFold(open, "iena") {
				continue // codes of countries, too
			}
			comesBack(t, l, "yes and no", value.Boolean, []string{p[0], p[1], p[0]}, []string{"true", "false", "true"})
		}
	}
}

// The pages of characters that are taken as they are have none that fold changes.
func TestAsItIs(t *testing.T) {
	pages := 0
	for page, asIs := range asItIs.get() {
		if !asIs {
			continue
		}
		pages++
		for r := rune(page * foldPage); r < rune((page+1)*foldPage); r++ {
			_, folded := foldRunes[r]
			stray := character.Stray(r) || unicode.In(r, unicode.Zs, unicode.Nd)
			require.False(t, folded || stray || r < utf8.RuneSelf || r == utf8.RuneError, "%U", r)
		}
	}
	require.Greater(t, pages, 900)
	for _, letter := range "üéñ\u00c3жшΩ東京都あカ한" {
		require.True(t, asItIs.get()[letter/foldPage], "%c", letter)
	}
}

// A cell of one character is blank where that does not show, and only there.
func TestShown(t *testing.T) {
	r := NewReader(nil)
	for c := rune(1); c < 0x30000; c++ {
		if !utf8.ValidRune(c) {
			continue
		}
		blank := r.Read([]byte(string(c))).Set.Blank() != value.NotBlank
		require.Equal(t, !blank, Shown(c), "%U", c)
	}
}
