package reading

import (
	"cmp"
	"fmt"
	"slices"
	"sort"

	"junvo/internal/value"
)

// Count is how many cells of a column have a set and form.
type Count struct {
	Set   Set
	Form  uint64
	Affix string
	Cells int64
	// Digits are how many digits the whole part of the smallest and of the largest number of the cells has, if they do not
	// begin with 0; 0 where there is none.
	Digits [2]int
}

// Ask is what the user has said about a column; the zero value leaves all to the evidence.
type Ask struct {
	Type  *value.Type
	Mark  *Mark
	Order *Order
	// CountsUp says that the fractions of the column count up, as 1.9, 1.10, 1.11: those of versions do.
	CountsUp bool
	Fit      float64 // the share of the non-blank cells that a type must fit; 0 is DefaultFit
	// Witness is what other columns of the file show.
	Witness Witness
}

// Witness is what other columns of a file show, which agree. It decides what a column leaves open for want of evidence,
// and nothing against the column's own.
type Witness struct {
	Mark   *Mark
	Order  *Order
	Marks  string // the columns that show the mark
	Orders string // those that show the order
	// OtherCalendar says that the years of other columns are of another calendar, so that years of two digits may be, too.
	OtherCalendar bool
}

// Testimony is what the cells of a column show of the conventions of its file; nil where they show nothing.
type Testimony struct {
	Mark          *Mark
	Order         *Order
	OtherCalendar bool
	MayBeTimes    bool // all numbers can be times of day, as 9.45 can
}

// DefaultFit is the share of the non-blank cells that must fit a type, so that
// the column gets it in spite of the others: nine in ten.
const DefaultFit = 0.9

// Evidence is one question that the column's cells answered.
type Evidence struct {
	Say     string `json:"say"`
	For     int64  `json:"for"`
	Against int64  `json:"against"`
}

// Conclusion is what the cells of a column show.
type Conclusion struct {
	Convention Convention
	Why        string
	Evidence   []Evidence
	Reads      [NumReadings]int64
	Blanks     [value.NumBlanks]int64
	Fits       int64
	Fails      int64
	Mixed      bool
	// MarksUndecided and OrderUndecided count the cells whose reading stayed open.
	MarksUndecided int64
	OrderUndecided int64
	// OffsetsDiffer says that some timestamps carry an offset from UTC, and some none.
	OffsetsDiffer bool
	// Near is the type that the column just misses.
	Near Near
	// Undecided is the question that stayed open about what the numbers are; NothingOpen for none.
	Undecided Question
	Shown     Testimony
	// ByWitness counts the cells whose reading other columns decided, and says which.
	ByWitness    int64
	ByWitnessSay string
}

// Near is a type that most cells of a column fit, but too few of them; Fits is 0 for none. Fit is
// the share in a hundred with which it would be the column's, 0 where that has to be told by its name.
type Near struct {
	Type        value.Type
	Fits, Fails int64
	Fit         int
}

// Say says how the column would get the type.
func (n Near) Say(column string) string {
	how := fmt.Sprintf("--fit %d%%", n.Fit)
	if n.Fit == 0 {
		how = fmt.Sprintf("--as %q", column+"="+n.Type.String())
	}
	cells := "cells fail"
	if n.Fails == 1 {
		cells = "cell fails"
	}
	return fmt.Sprintf("would be %s with %s: %d %s", n.Type, how, n.Fails, cells)
}

// Question is what can stay open about a column beside marks and orders.
type Question uint8

// The questions.
const (
	NothingOpen  Question = iota
	OpenTimes             // 18.05 is a decimal or a time of day
	OpenLists             // 1,3 is a decimal or a list, as 1,2,3 is
	OpenBrackets          // (1990) is a negative number or a number in brackets
	OpenTruth             // N and S are truth words of a language, or codes
	OpenSides             // 100 CR is on one side of an account, and may be negative
)

// Conclude decides convention and type from the counts alone. The order of the
// counts does not matter.
func Conclude(counts []Count, ask Ask) *Conclusion {
	counts = slices.Clone(counts)
	sort.Slice(counts, func(i, j int) bool {
		a, b := &counts[i], &counts[j]
		return cmp.Or(cmp.Compare(a.Set, b.Set), cmp.Compare(a.Form, b.Form)) < 0
	})
	d := &decider{counts: counts, ask: ask, c: &Conclusion{}}
	if d.ask.Fit == 0 {
		d.ask.Fit = DefaultFit
	}
	d.c.Shown.OtherCalendar = 2*d.sum(func(s Set) bool { return s.Any(DateOther) }) > d.sum(func(Set) bool { return true })
	times := d.sum(func(s Set) bool { return s.Any(ClockPoint) })
	d.c.Shown.MayBeTimes = times >= minShortHours && times == d.sum(func(s Set) bool { return s.Any(numbers) })
	d.mark()
	d.affix()
	d.order()
	d.months()
	d.timeWords()
	d.pairs()
	d.chooseType()
	d.tally()
	return d.c
}

type decider struct {
	counts []Count
	ask    Ask
	c      *Conclusion
	both   pairSet // the pairs of truth words of which the column has both
}

// sum adds up the cells of the counts for which keep holds.
func (d *decider) sum(keep func(Set) bool) (n int64) {
	for _, k := range d.counts {
		if k.Set.Blank() == value.NotBlank && keep(k.Set) {
			n += k.Cells
		}
	}
	return n
}

func (d *decider) evidence(yes, no int64, format string, args ...any) {
	d.c.Evidence = append(d.c.Evidence, Evidence{fmt.Sprintf(format, args...), yes, no})
}

// witnessed notes what other columns have decided of so many cells.
func (d *decider) witnessed(cells int64, format string, args ...any) {
	d.evidence(0, 0, format, args...)
	d.c.ByWitness += cells
	d.c.ByWitnessSay = fmt.Sprintf(format, args...)
}

// mark decides the decimal mark: cells that are numbers under one mark only are the evidence.
func (d *decider) mark() {
	conv := &d.c.Convention
	var only [numMarks]int64
	for m := Point; m < numMarks; m++ {
		only[m] = d.sum(func(s Set) bool { return s&numbers == m.number() })
	}
	open := d.sum(func(s Set) bool { return s.Has(NumPoint|NumComma) && s.Any(MarkPoint|MarkComma) })
	total := only[Point] + only[Comma] + only[Arabic]
	best := Point
	for m, n := range only {
		if n > only[best] {
			best = Mark(m)
		}
	}
	conv.Mark, conv.Known = best, true
	switch {
	case d.ask.Mark != nil:
		conv.Mark = *d.ask.Mark
		d.evidence(only[conv.Mark], total-only[conv.Mark], "decimal mark %q as told", conv.Mark.String())
	case total > 0 && float64(only[best]) >= d.ask.Fit*float64(total):
		d.c.Shown.Mark = &best
		d.evidence(only[best], total-only[best], "decimal mark %q: cells that can be read with no other", best.String())
	case total > 0 && open == 0 && 10*total >= d.sum(func(s Set) bool { return s.Any(numbers) }):
		conv.Known, conv.EachMark = false, true
		d.evidence(total, 0, "two styles of numbers: each cell shows its own decimal mark")
	case total > 0:
		conv.Known = false
		d.evidence(only[best], total-only[best], "decimal mark undecided: the cells contradict each other")
		d.c.MarksUndecided = total + open
	case open > 0 && d.milsOf(open) != nil:
		conv.Mark = *d.milsOf(open)
		d.evidence(open, 0, "decimal mark %q: amounts in a currency of 1000 parts", conv.Mark.String())
	case open > 0 && d.ask.Witness.Mark != nil:
		conv.Mark = *d.ask.Witness.Mark
		d.witnessed(open, "decimal mark %q: as the numbers of %s show", conv.Mark.String(), d.ask.Witness.Marks)
	case open > 0:
		conv.Known = false
		d.evidence(0, 0, "decimal mark undecided: %d cells such as 1,234 or 1.234 can be read in two ways and none shows "+
			"which", open)
		d.c.MarksUndecided = open
	}
}

// milsOf returns the decimal mark of amounts such as KD 391.479, if all open numbers are in a currency whose unit has
// 1000 parts (ISO 4217) and have the same mark; else nil.
func (d *decider) milsOf(open int64) *Mark {
	var points, commas int64
	for _, k := range d.counts {
		if k.Set.Has(NumPoint|NumComma|Currency) && slices.Contains(thousandParts, k.Affix) {
			switch k.Set & groupMarks {
			case MarkPoint:
				points += k.Cells
			case MarkComma:
				commas += k.Cells
			}
		}
	}
	for m, n := range []int64{points, commas} {
		if mark := Mark(m); n == open {
			return &mark
		}
	}
	return nil
}

// affix decides what the column's numbers carry: the most frequent unit,
// currency or sign, if the others hardly occur beside it.
func (d *decider) affix() {
	// What is stored as a number has no room for a unit.
	numbersAll := d.sum(func(s Set) bool { return s.Any(numbers) && !s.Any(Typed) })
	byName := map[string]int64{}
	kinds := map[string]Set{}
	var carrying int64
	sure := map[string]bool{} // names that stand beside more than a bare whole number
	own := ownCurrencies(d.counts)
	for _, k := range d.counts {
		if k.Set.Any(numbers) && k.Set.Any(affixes) {
			name := own.of(k.Affix)
			byName[name] += k.Cells
			kinds[name] = k.Set & affixes
			carrying += k.Cells
			sure[name] = sure[name] || !k.Set.Any(LetterSign)
		}
	}
	for name := range byName {
		if !sure[name] { // R 12 and R 14 are rooms as likely as amounts
			delete(byName, name)
		}
	}
	best, most := "", int64(0)
	for name, n := range byName {
		if n > most || n == most && name < best {
			best, most = name, n
		}
	}
	if d.multiplied(byName, carrying, numbersAll) {
		return
	}
	if _, other := multiplying[best]; other || most == 0 || float64(most) < d.ask.Fit*float64(carrying) {
		return
	}
	kind := kinds[best]
	if !kind.Any(Currency) && 2*most < numbersAll {
		return
	}
	d.c.Convention.affixIs(best, kind)
	d.evidence(most, carrying-most, "%s %s", affixWord(kind), best)
}

func affixWord(kind Set) string {
	switch {
	case kind.Any(Currency):
		return "currency"
	case kind.Any(Percent | PerMille):
		return "sign"
	}
	return "unit"
}

// order decides the order of dates for each separator; a separator without
// evidence of its own follows the others where these agree.
func (d *decider) order() {
	conv := &d.c.Convention
	var only [len(dateSeps)][numOrders]int64
	var open [len(dateSeps)]int64
	for _, k := range d.counts {
		s := k.Set & orders
		switch {
		case s == 0 || k.Set.Any(DateNever):
		case s&(s-1) == 0:
			for o := DMY; o < numOrders; o++ {
				if s == o.bit() {
					only[dateSepOf(k.Form)][o] += k.Cells
				}
			}
		default:
			open[dateSepOf(k.Form)] += k.Cells
		}
	}
	var all [numOrders]int64
	for _, n := range only {
		for o := range all {
			all[o] += n[o]
		}
	}
	rest := d.decideOrder(all)
	if rest != Undecided {
		d.c.Shown.Order = &rest
	}
	witness := d.ask.Witness.Order
	if all != [numOrders]int64{} {
		witness = nil // the column has evidence of its own
	}
	for i, sep := range dateSeps {
		conv.Orders[i] = d.decideOrder(only[i])
		seen := only[i][DMY] + only[i][MDY] + only[i][YMD]
		if d.ask.Order != nil {
			conv.Orders[i] = *d.ask.Order
			if seen+open[i] > 0 {
				d.evidence(only[i][*d.ask.Order], seen-only[i][*d.ask.Order], "%s as told, between %q", d.ask.Order.say(), sep)
			}
			continue
		}
		if seen == 0 {
			conv.Orders[i] = rest
			if witness != nil {
				conv.Orders[i] = *witness
			}
		}
		if seen+open[i] == 0 {
			continue
		}
		o := conv.Orders[i]
		switch {
		case o == Undecided && seen == 0:
			d.evidence(0, 0, "order of day and month undecided: %d dates with %q can be read in two ways and none shows which",
				open[i], sep)
		case o == Undecided:
			d.evidence(slices.Max(only[i][:]), seen-slices.Max(only[i][:]),
				"order of day and month undecided: the dates with %q contradict each other", sep)
		case seen == 0 && witness != nil:
			d.witnessed(open[i], "%s, with %q: as the dates of %s show", o.say(), sep, d.ask.Witness.Orders)
		case seen == 0:
			d.evidence(all[o], 0, "%s, with %q: as the other dates of the column show", o.say(), sep)
		default:
			d.evidence(only[i][o], seen-only[i][o], "%s, with %q: dates that can be read in no other order", o.say(), sep)
		}
		if o == Undecided {
			d.c.OrderUndecided += seen + open[i]
		}
	}
}

// months decides what the names mean that stand for one month in Croatian and for
// another in Czech and Polish: the other names of the column show the language.
func (d *decider) months() {
	croatian := d.sum(func(s Set) bool { return s.Any(NamesCroatian) })
	west := d.sum(func(s Set) bool { return s.Any(NamesWest) })
	open := d.sum(func(s Set) bool { return s.Any(MonthOpen) })
	if open == 0 {
		return
	}
	c := &d.c.Convention
	c.Croatian = croatian > west
	c.MonthsKnown = float64(max(croatian, west)) >= d.ask.Fit*float64(croatian+west) && croatian+west > 0
	switch {
	case !c.MonthsKnown:
		d.evidence(0, 0, "%d names of months are others in Croatian than in Czech and Polish, and nothing shows the "+
			"language", open)
		d.c.OrderUndecided += open
	case c.Croatian:
		d.evidence(croatian, west, "names of months in Croatian")
	default:
		d.evidence(west, croatian, "names of months in Czech or Polish")
	}
}

func (d *decider) decideOrder(only [numOrders]int64) Order {
	var total int64
	best := DMY
	for o, n := range only {
		total += n
		if n > only[best] {
			best = Order(o)
		}
	}
	if total == 0 || float64(only[best]) < d.ask.Fit*float64(total) {
		return Undecided
	}
	return best
}

// pairs finds the pairs of truth words of which the column has both.
func (d *decider) pairs() {
	var yes, no pairSet
	for _, k := range d.counts {
		if k.Set.Any(BoolWord) {
			w := wordList[k.Form]
			yes, no = yes.or(w.yes), no.or(w.no)
			if k.Set.Any(Typed) { // one stored truth value is enough
				yes, no = yes.or(w.no), no.or(w.yes)
			}
		}
	}
	d.both = yes.and(no)
	d.c.Convention.Pairs = d.both.without(openPairs)
	d.c.Convention.Ticks = d.onlyTicks()
	if d.ask.Type != nil && *d.ask.Type == value.Boolean && !d.c.Convention.Ticks {
		if d.c.Convention.Pairs = d.both; d.both.empty() {
			d.c.Convention.Pairs = yes.or(no)
		}
	}
}

// onlyTicks reports whether one sign for true and blank cells are all that the column has.
func (d *decider) onlyTicks() bool {
	blank, sign := false, ""
	for _, k := range d.counts {
		switch {
		case k.Set.Blank() != value.NotBlank:
			blank = true
		case !k.Set.Any(BoolWord) || !wordList[k.Form].tick || sign != "" && sign != wordList[k.Form].text:
			return false
		default:
			sign = wordList[k.Form].text
		}
	}
	return blank && sign != ""
}

// tally judges every count under the conclusion.
func (d *decider) tally() {
	c := d.c
	for _, k := range d.counts {
		r, fits := c.Convention.Judge(k.Set, k.Form)
		c.Reads[r] += k.Cells
		switch {
		case r == AsBlank && k.Set.Blank() == value.NotBlank:
			c.Blanks[value.Word] += k.Cells
		case r == AsBlank:
			c.Blanks[k.Set.Blank()] += k.Cells
		case fits:
			c.Fits += k.Cells
		default:
			c.Fails += k.Cells
		}
	}
	c.Mixed = c.Fails > 0
	if c.Convention.Type == value.Text && c.Fits > 0 {
		loose := c.Reads[AsText] + c.Reads[AsCode]
		c.Mixed = loose < c.Fits && float64(c.Fits-loose) >= (1-d.ask.Fit)*float64(c.Fits)
		if loose == 0 {
			c.Mixed = d.c.Why == whyMixed
		}
	}
}
