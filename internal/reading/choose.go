package reading

import (
	"cmp"
	"fmt"
	"maps"
	"slices"
	"strings"

	"junvo/internal/value"
)

const whyMixed = "no one type fits enough of the cells"

// chooseType picks the type: what the user asked for, or the first that enough of
// the non-blank cells fit. Words such as NA count as blank while a type is tried,
// since beside numbers and dates they are intruders; in text they are values.
func (d *decider) chooseType() {
	c := &d.c.Convention
	c.Zeros = true // while types are tried
	defer func() { c.Zeros = c.Type.Numeric() && d.zerosOfNumbers() }()
	if d.ask.Type != nil {
		c.Type = *d.ask.Type
		c.Compact, c.Ordinals = c.Type == value.Date, c.Type == value.Date
		d.blankWords(c.Type != value.Text && c.Type != value.Code)
		if c.Type == value.Timestamp {
			d.offsets()
		}
		d.c.Why = "as told"
		return
	}
	c.tentative = true
	defer func() { c.tentative = false }()
	d.blankWords(true)
	if d.sum(func(s Set) bool { return !s.Any(BlankWord) }) == 0 && d.boolean() == 0 {
		d.asText("every cell is blank")
		d.keepIfOnlyWords()
		return
	}
	if t, why := d.typed(); t != value.Text {
		c.Type, d.c.Why = t, why
		return
	}
	d.asText("")
	if d.c.Undecided == NothingOpen && !d.versions() {
		d.code()
	}
}

// boolean counts the cells that are words of a pair of which both occur.
func (d *decider) boolean() int64 {
	var n int64
	for _, k := range d.counts {
		if k.Set.Any(BoolWord) && d.c.Convention.truthWord(k.Form) {
			n += k.Cells
		}
	}
	return n
}

// typed tries the types other than text and code.
func (d *decider) typed() (value.Type, string) {
	c := &d.c.Convention
	d.offsets()
	if d.compact() {
		c.Compact = true
	}
	if d.c.Undecided = d.question(); d.c.Undecided != NothingOpen {
		return value.Text, ""
	}
	if why := d.clocks(); why != "" {
		c.Type = value.Time
		return value.Time, why
	}
	if d.openTruth() {
		d.c.Undecided = OpenTruth
		d.evidence(0, 0, "words such as %s stand for true and false in some languages, and for other things elsewhere",
			strings.Join(d.openWords(), " and "))
		return value.Text, ""
	}
	for _, t := range []value.Type{value.Boolean, value.Integer, value.Decimal, value.Date, value.Timestamp, value.Time} {
		c.Type, c.Zeros = t, true
		fits, fails := d.try()
		if fits == 0 || float64(fits) < d.ask.Fit*float64(fits+fails) && !(t == value.Integer && d.shortened()) {
			continue
		}
		switch t {
		case value.Boolean:
			if !d.words() {
				continue // 0 and 1 are integers
			}
		case value.Integer, value.Decimal:
			if code, why := d.codeNotNumber(); code {
				return value.Code, why
			}
			c.Zeros = d.zerosOfNumbers()
			fits, fails = d.try()
			// A few cells such as 1E5 among whole numbers are odd, and no reason to make all decimal.
			more, _ := d.tryAs(value.Decimal)
			if t == value.Integer && more-d.scientific() > fits || t == value.Decimal && !d.decimals() {
				continue
			}
		case value.Date, value.Timestamp:
			if short := d.sum(func(s Set) bool { return s.Any(ShortYear) }); d.ask.Witness.OtherCalendar && 2*short > fits {
				d.evidence(0, 0, "years of two digits may be of the other calendar that those of another column are of")
				continue
			}
		case value.Time:
			if d.sum(func(s Set) bool { return s.Any(ClockOnly) && !s.Any(dates) }) == 0 {
				continue // nothing shows that 08.10.21 is a time and not a date
			}
		}
		if fails == 0 {
			return t, fmt.Sprintf("all %d non-blank cells are %s", fits, plural[t])
		}
		return t, fmt.Sprintf("%d of %d non-blank cells are %s", fits, fits+fails, plural[t])
	}
	d.near()
	c.Type = value.Text
	return value.Text, ""
}

// minNear is the share of the cells from which a type that most of them have is worth telling.
const minNear = 0.75

// near says which type a column just misses: what is to be told for it, and what would fail.
func (d *decider) near() {
	c := &d.c.Convention
	best, most := value.Text, int64(0)
	var failing int64
	for _, t := range []value.Type{value.Boolean, value.Integer, value.Decimal, value.Date, value.Timestamp, value.Time} {
		c.Type = t
		fits, fails := d.try()
		if fits <= most || float64(fits) < minNear*float64(fits+fails) || t == value.Boolean && !d.words() || fails == 0 {
			continue
		}
		best, most, failing = t, fits, fails
	}
	if most == 0 {
		return
	}
	d.c.Near = Near{Type: best, Fits: most, Fails: failing, Fit: int(100 * most / (most + failing))}
	if best == value.Boolean || float64(most) >= d.ask.Fit*float64(most+failing) {
		d.c.Near.Fit = 0
	}
}

var plural = map[value.Type]string{
	value.Boolean: "a pair of truth words", value.Integer: "whole numbers", value.Decimal: "numbers",
	value.Date: "dates", value.Timestamp: "dates with a time", value.Time: "times of day",
}

func (d *decider) tryAs(t value.Type) (fits, fails int64) {
	was := d.c.Convention.Type
	d.c.Convention.Type = t
	fits, fails = d.try()
	d.c.Convention.Type = was
	return fits, fails
}

func (d *decider) try() (fits, fails int64) {
	for _, k := range d.counts {
		switch r, ok := d.c.Convention.Judge(k.Set, k.Form); {
		case r == AsBlank:
		case ok:
			fits += k.Cells
		default:
			fails += k.Cells
		}
	}
	return fits, fails
}

// openTruth reports whether the column is one of truth words only if those are that may be codes.
func (d *decider) openTruth() bool {
	c := &d.c.Convention
	if open := d.both.and(openPairs); open.empty() {
		return false
	}
	was := *c
	defer func() { *c = was }()
	c.Type = value.Boolean
	if fits, fails := d.try(); float64(fits) >= d.ask.Fit*float64(fits+fails) && fits > 0 {
		return false
	}
	c.Pairs = d.both
	fits, fails := d.try()
	return float64(fits) >= d.ask.Fit*float64(fits+fails)
}

// openWords lists the words of the column that may be truth words or codes.
func (d *decider) openWords() (list []string) {
	for _, k := range d.counts {
		if k.Set.Any(BoolWord) {
			if w := wordList[k.Form]; !w.yes.or(w.no).and(d.both).and(openPairs).empty() {
				list = append(list, w.text)
			}
		}
	}
	slices.Sort(list)
	return slices.Compact(list)
}

// words reports whether truth words occur as words, not only as 0 and 1.
func (d *decider) words() bool { return d.boolean() > 0 }

// compact reports whether eight digits are days: where nearly all numbers of the
// column are such, two at least. By chance one number in a thousand is.
func (d *decider) compact() bool {
	days := d.sum(func(s Set) bool { return s.Any(DateCompact) })
	all := d.sum(func(s Set) bool { return s.Any(numbers) })
	if days < 2 || float64(days) < d.ask.Fit*float64(all) {
		return false
	}
	d.evidence(days, all-days, "eight digits that are a day as yyyyMMdd")
	return true
}

// code makes a text column a code where its cells have digits and letters, no
// spaces, and one shape.
func (d *decider) code() {
	byForm := map[uint64]int64{}
	var all, most int64
	for _, k := range d.counts {
		if k.Set.Blank() != value.NotBlank {
			continue
		}
		if r, _ := d.c.Convention.Judge(k.Set, k.Form); r == AsBlank {
			continue
		}
		all += k.Cells
		if k.Set.Any(CodeLike) {
			byForm[k.Form] += k.Cells
			most = max(most, byForm[k.Form])
		}
	}
	if most > 1 && float64(most) >= d.ask.Fit*float64(all) {
		d.c.Convention.Type = value.Code
		d.c.Why = fmt.Sprintf("%d of %d have one shape of digits and letters", most, all)
	}
}

// openQuestions say why a column stays text.
var openQuestions = [...]string{
	OpenTimes: "the numbers may be decimals or times of day", OpenLists: "the numbers may be decimals or lists",
	OpenBrackets: "the parentheses may mean a minus or nothing",
	OpenTruth:    "the words may stand for true and false, or be codes",
	OpenSides:    "the words behind the numbers are sides of an account, of which one is negative",
}

// asText leaves the column as text, and says why if no reason is given.
func (d *decider) asText(why string) {
	c := d.c
	c.Convention.Type = value.Text
	d.blankWords(false)
	typed := d.sum(func(s Set) bool { return s.Any(numbers | dates | ClockOnly) })
	all := d.sum(func(Set) bool { return true })
	switch {
	case why != "":
		c.Why = why
	case c.Undecided != NothingOpen:
		c.Why = openQuestions[c.Undecided]
	case 2*d.sum(func(s Set) bool { return s.Any(Currency) }) > all && len(Currencies(d.counts)) > 1:
		c.Why = "the amounts are in several currencies: " + strings.Join(Currencies(d.counts), ", ")
	case c.MarksUndecided > 0 && 2*typed > all:
		c.Why = "the decimal mark is undecided"
	case c.OrderUndecided > 0 && 2*typed > all:
		c.Why = "the order of day and month is undecided"
	case 10*typed >= all:
		c.Why = whyMixed
	default:
		c.Why = "the cells are text"
	}
}

// Currencies returns the currencies that a column's numbers carry, the most frequent first.
func Currencies(counts []Count) []string {
	cells := map[string]int64{}
	own := ownCurrencies(counts)
	for _, k := range counts {
		if k.Set.Any(Currency) {
			cells[own.of(k.Affix)] += k.Cells
		}
	}
	return slices.SortedFunc(maps.Keys(cells), func(a, b string) int {
		return cmp.Or(cmp.Compare(cells[b], cells[a]), cmp.Compare(a, b))
	})
}

// offsets decides whether timestamps carry an offset: as most of them do.
func (d *decider) offsets() {
	with := d.sum(func(s Set) bool { return s.Any(HasOffset) })
	without := d.sum(func(s Set) bool { return s.Any(HasTime) && !s.Any(HasOffset) })
	d.c.Convention.Offsets = with > without
	if d.c.OffsetsDiffer = with > 0 && without > 0; d.c.OffsetsDiffer {
		d.evidence(max(with, without), min(with, without), "timestamps with an offset from UTC: %d, without: %d", with,
			without)
	}
}

// blankWords decides which words count as blank: in a typed column all that
// stand for blank somewhere; in text only those that are no words of a language,
// and only where they are the few.
func (d *decider) blankWords(typed bool) {
	c := &d.c.Convention
	c.blank, c.BlankWords = nil, nil
	var forms []uint64
	all := d.sum(func(Set) bool { return true })
	for _, k := range d.counts {
		if !k.Set.Any(BlankWord) || k.Set.Blank() != value.NotBlank {
			continue
		}
		w := wordList[k.Form]
		if !w.yes.or(w.no).and(d.both).empty() {
			continue // - is no blank where + stands in the column
		}
		if typed || w.marked && 2*k.Cells < all {
			forms = append(forms, k.Form)
		}
	}
	slices.Sort(forms)
	for _, form := range forms {
		c.blankIs(form)
	}
}

// keepIfOnlyWords: where a column has nothing but words such as None, they are what it holds.
func (d *decider) keepIfOnlyWords() {
	c := &d.c.Convention
	if d.sum(func(Set) bool { return true }) > 0 {
		c.blank, c.BlankWords = nil, nil
		d.c.Why = "the cells are text"
	}
}
