package expression

import (
	"math/big"
	"strconv"
	"strings"
	"time"

	"cel.dev/cel-go/common/types"
	"cel.dev/cel-go/common/types/ref"

	"junvo/internal/value"
)

var momentFunctions = []Function{
	{
		"moment", "The timestamp that a text is, written yyyy-MM-ddTHH:mm:ss, with an offset from UTC perhaps.",
		`moment("2021-03-04T06:05:00Z")`, "2021-03-04T06:05:00Z",
		[]form{of(stampType, asMoment, textType)},
	},
	{
		"time", "The time of day that a text is, written HH:mm:ss.", `time("06:05:00")`, "06:05:00",
		[]form{of(clockType, asTime, textType)},
	},
	{
		"year", "The year of a date.", `year(date("2021-03-04"))`, "2021",
		[]form{of(numberType, part(value.Day.Year), dateType)},
	},
	{
		"month", "The month of a date, from 1.", `month(date("2021-03-04"))`, "3",
		[]form{of(numberType, part(value.Day.Month), dateType)},
	},
	{
		"day", "The day of the month.", `day(date("2021-03-04"))`, "4",
		[]form{of(numberType, part(value.Day.Day), dateType)},
	},
	{
		"quarter", "The quarter of a year that a date lies in, from 1.", `quarter(date("2021-05-04"))`, "2",
		[]form{of(numberType, part(func(d value.Day) int { return (d.Month() + 2) / 3 }), dateType)},
	},
	{
		"weekday", "The day of the week, from 1 for Monday to 7 for Sunday (ISO 8601).", `weekday(date("2021-03-04"))`, "4",
		[]form{of(numberType, part(weekday), dateType)},
	},
	{
		"week", "The number of the week (ISO 8601): the first one has the year's first Thursday.", `week(date("2021-01-03"))`,
		"53",
		[]form{of(numberType, part(func(d value.Day) int { _, w := timeOf(d).ISOWeek(); return w }), dateType)},
	},
	{
		"weekYear", "The year that the week of a date belongs to (ISO 8601).", `weekYear(date("2021-01-03"))`, "2020",
		[]form{of(numberType, part(func(d value.Day) int { y, _ := timeOf(d).ISOWeek(); return y }), dateType)},
	},
	{
		"plusDays", "The date that many days later.", `plusDays(date("2021-02-27"), 3)`, "2021-03-02",
		[]form{of(dateType, plusDays, dateType, numberType)},
	},
	{
		"plusMonths", "The date that many months later; a day that the month does not have is its last.",
		`plusMonths(date("2021-01-31"), 1)`, "2021-02-28",
		[]form{of(dateType, plusMonths, dateType, numberType)},
	},
	{
		"monthEnd", "The last day of the month.", `monthEnd(date("2021-02-03"))`, "2021-02-28",
		[]form{of(dateType, monthEnd, dateType)},
	},
	{
		"daysBetween", "How many days the second date lies after the first.",
		`daysBetween(date("2021-03-04"), date("2021-03-01"))`, "-3",
		[]form{of(numberType, daysBetween, dateType, dateType)},
	},
	{
		"yearsBetween", "How many whole years lie between two dates, as people count their age.",
		`yearsBetween(date("2000-03-05"), date("2021-03-04"))`, "20",
		[]form{of(numberType, yearsBetween, dateType, dateType)},
	},
	{
		"hoursBetween", "How many hours the second timestamp lies after the first, or the second time of the same day; " +
			"parts of one as a fraction.",
		`hoursBetween(moment("2021-03-04T22:00:00"), moment("2021-03-05T06:30:00"))`, "8.5", between(3600),
	},
	{
		"minutesBetween", "How many minutes the second timestamp or time lies after the first.",
		`minutesBetween(time("06:00:00"), time("07:15:30"))`, "75.5",
		between(60),
	},
	{
		"inPattern", "A date, time or timestamp as text in a pattern of field letters (UTS #35): y, M, d, E, D, Q, H, h, " +
			"m, s, S, a, and text in single quotes. Names are English.",
		`inPattern(date("2021-03-04"), "EEE d MMM yyyy")`, "Thu 4 Mar 2021",
		[]form{
			of(textType, inPattern, dateType, textType), of(textType, inPattern, stampType, textType),
			of(textType, inPattern, clockType, textType),
		},
	},
}

// between makes the forms of a function that tells how many units of so many seconds lie between two moments.
func between(seconds int64) []form {
	call := func(args []ref.Val) ref.Val {
		from, to := args[0].(moment), args[1].(moment)
		a, b := from.nanos(), to.nanos()
		if from.at.HasOffset != to.at.HasOffset {
			return types.NewErr("one timestamp has an offset from UTC and the other has none")
		}
		return number{r: new(big.Rat).SetFrac(b.Sub(b, a), big.NewInt(seconds*1e9))}
	}
	return []form{of(numberType, call, stampType, stampType), of(numberType, call, clockType, clockType)}
}

// nanos counts the billionths of a second to a timestamp from a fixed day, or to a time from midnight.
func (m moment) nanos() *big.Int {
	if m.t == clockType {
		t, _ := time.Parse("15:04:05.999999999", m.text)
		return big.NewInt(int64(t.Sub(t.Truncate(24 * time.Hour))))
	}
	n := new(big.Int).Mul(big.NewInt(m.at.Minutes()), big.NewInt(60e9))
	return n.Add(n, big.NewInt(m.at.Clock.Nanos%60e9))
}

func asMoment(args []ref.Val) ref.Val {
	text := textAt(args, 0)
	at, err := value.ParseMoment(text)
	if err != nil {
		return types.NewErr("%q is no timestamp written yyyy-MM-ddTHH:mm:ss", text)
	}
	return moment{text: string(at.Append(nil)), t: stampType, at: at}
}

func asTime(args []ref.Val) ref.Val {
	text := textAt(args, 0)
	if _, err := time.Parse("15:04:05.999999999", text); err != nil || len(text) < 8 {
		return types.NewErr("%q is no time written HH:mm:ss", text)
	}
	return moment{text: text, t: clockType}
}

func timeOf(d value.Day) time.Time {
	return time.Date(d.Year(), time.Month(d.Month()), d.Day(), 0, 0, 0, 0, time.UTC)
}

func weekday(d value.Day) int { return (int(timeOf(d).Weekday())+6)%7 + 1 }

// inPattern writes a moment by a pattern of UTS #35.
func inPattern(args []ref.Val) ref.Val {
	m, pattern := args[0].(moment), string(args[1].(types.String))
	t, err := m.time()
	if err != nil {
		return types.NewErr("%q is no moment", m.text)
	}
	var b strings.Builder
	for pattern != "" {
		if pattern[0] == '\'' {
			var ok bool
			if pattern, ok = quotedText(&b, pattern[1:]); !ok {
				return types.NewErr("the quote that ends a text of the pattern is missing")
			}
			continue
		}
		letter := pattern[0]
		n := len(pattern) - len(strings.TrimLeft(pattern, pattern[:1]))
		if letter|0x20 < 'a' || letter|0x20 > 'z' {
			b.WriteString(pattern[:n])
		} else if say := field(&b, letter, n, t, m.t.TypeName()); say != "" {
			return types.NewErr("%s", say)
		}
		pattern = pattern[n:]
	}
	return types.String(b.String())
}

// quotedText writes the text of a pattern up to its quote, two of which stand for one, and returns what follows.
func quotedText(b *strings.Builder, pattern string) (string, bool) {
	if strings.HasPrefix(pattern, "'") {
		b.WriteByte('\'')
		return pattern[1:], true
	}
	for {
		text, after, ok := strings.Cut(pattern, "'")
		b.WriteString(text)
		if !ok || !strings.HasPrefix(after, "'") {
			return after, ok
		}
		b.WriteByte('\'')
		pattern = after[1:]
	}
}

// time returns the moment as a time of the standard library.
func (m moment) time() (time.Time, error) {
	switch m.t {
	case clockType:
		return time.Parse("15:04:05.999999999", m.text)
	case dateType:
		return timeOf(m.day()), nil
	}
	c := m.at.Clock.Nanos
	return timeOf(m.at.Day).Add(time.Duration(c)), nil
}

// field writes a field of a pattern: its letter n times. It returns what is wrong with it.
func field(b *strings.Builder, letter byte, n int, t time.Time, of string) string {
	ofDay, ofClock := strings.IndexByte("yMdEDQ", letter) >= 0, strings.IndexByte("HhmsSa", letter) >= 0
	switch {
	case !ofDay && !ofClock:
		return "a pattern has no field " + string(letter) + "; the fields are y M d E D Q H h m s S a"
	case ofDay && of == clockType.TypeName(), ofClock && of == dateType.TypeName():
		return "a " + of + " has no field " + string(letter)
	}
	number := func(v int) {
		digits := strconv.Itoa(v)
		b.WriteString(strings.Repeat("0", max(0, n-len(digits))) + digits)
	}
	name := func(s string) {
		if n <= 3 {
			s = s[:3]
		}
		b.WriteString(s)
	}
	switch letter {
	case 'y':
		if n == 2 {
			number(t.Year() % 100)
			break
		}
		number(t.Year())
	case 'M':
		if n > 2 {
			name(t.Month().String())
			break
		}
		number(int(t.Month()))
	case 'd':
		number(t.Day())
	case 'E':
		name(t.Weekday().String())
	case 'D':
		number(t.YearDay())
	case 'Q':
		number((int(t.Month()) + 2) / 3)
	case 'H':
		number(t.Hour())
	case 'h':
		number((t.Hour()+11)%12 + 1)
	case 'm':
		number(t.Minute())
	case 's':
		number(t.Second())
	case 'S':
		fraction := "000000000" + strconv.Itoa(t.Nanosecond())
		fraction = fraction[len(fraction)-9:] + strings.Repeat("0", max(0, min(n, 100)-9))
		b.WriteString(fraction[:min(n, len(fraction))])
	case 'a':
		b.WriteString([]string{"AM", "PM"}[t.Hour()/12])
	}
	return ""
}

func part(of func(value.Day) int) func([]ref.Val) ref.Val {
	return func(args []ref.Val) ref.Val { return ofInt(of(args[0].(moment).day())) }
}

func plusDays(args []ref.Val) ref.Val {
	n, ok := whole(args[1])
	days := args[0].(moment).day().Days() + n
	if first, last := minDay.Days(), maxDay.Days(); !ok || days < first || days > last {
		return types.NewErr("the day lies outside the years 1 to 9999, or the number of days is not whole")
	}
	return dateOf(value.DayOf(days))
}

var (
	minDay, _ = value.NewDay(1, 1, 1)
	maxDay, _ = value.NewDay(9999, 12, 31)
)

func plusMonths(args []ref.Val) ref.Val {
	n, ok := whole(args[1])
	d := args[0].(moment).day()
	months := d.Year()*12 + d.Month() - 1 + n
	if !ok || months < 12 || months >= 10000*12 {
		return types.NewErr("the month lies outside the years 1 to 9999, or the number of months is not whole")
	}
	year, month := months/12, months%12+1
	day, _ := value.NewDay(year, month, min(d.Day(), value.DaysIn(year, month)))
	return dateOf(day)
}

func monthEnd(args []ref.Val) ref.Val {
	d := args[0].(moment).day()
	day, _ := value.NewDay(d.Year(), d.Month(), value.DaysIn(d.Year(), d.Month()))
	return dateOf(day)
}

func daysBetween(args []ref.Val) ref.Val {
	return ofInt(args[1].(moment).day().Days() - args[0].(moment).day().Days())
}

func yearsBetween(args []ref.Val) ref.Val {
	a, b := args[0].(moment).day(), args[1].(moment).day()
	years, sign := 0, 1
	if b < a {
		a, b, sign = b, a, -1
	}
	if years = b.Year() - a.Year(); b.Month() < a.Month() || b.Month() == a.Month() && b.Day() < a.Day() {
		years--
	}
	return ofInt(sign * years)
}
