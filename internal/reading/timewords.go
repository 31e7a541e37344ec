package reading

import (
	"cmp"
	"math/bits"
	"slices"
	"strings"
)

// The language of a column's words for months and parts of the day is a convention: it is decided once, from all cells.
// Most names are sure by themselves (March, 7:05 pm). Others are units, codes or words of a text as likely, in some
// language: LA-07-2019 is a day of July where Friulian writes it, and a number of Los Angeles elsewhere. Such a name counts
// only where the column shows its language otherwise:
//
//   - a short name of a month where others of the same language are sure, or three different months have such names;
//   - a short part of the day where both halves of the day are named so, or a sure one of the language occurs;
//   - an hour without minutes (6 pm) where both halves of the day are named, or a time with minutes has such a name, or
//     the column is one of times by its other cells.

// minMonths is how many different months make short names sure that are none by themselves.
const minMonths = 3

// maxTimeWords is how many languages the time words of one column may be in.
const maxTimeWords = 4

// languageEvidence is what the cells of a column show of one language.
type languageEvidence struct {
	months     uint16 // that have names, as bits
	sureMonth  bool   // a name is sure by itself
	halves     uint8  // of the day that are named, as bits
	surePeriod bool
}

// believes reports whether the names of a form are what they may be, as far as the cells of a language show.
func (e *languageEvidence) believes(form uint64) bool {
	if form&weakMonth != 0 && !e.sureMonth && bits.OnesCount16(e.months) < minMonths {
		return false
	}
	return form&weakPeriod == 0 || e.surePeriod || e.halves == 3
}

// wordsIn returns the languages that the names of a form have in common.
func wordsIn(form uint64) (in languages, names bool) {
	month, period := namesOf(form)
	switch {
	case month != nil && period != nil && !period.universal():
		return month.in[ofMonths].and(period.in[ofPeriods]), true
	case month != nil:
		return month.in[ofMonths], true
	case period != nil:
		return period.in[ofPeriods], true
	}
	return in, false
}

// timeWords decides the languages of the column's time words.
func (d *decider) timeWords() {
	seen := map[int]*languageEvidence{}
	for _, k := range d.counts {
		in, names := d.named(&k)
		if !names {
			continue
		}
		month, period := namesOf(k.Form)
		for _, place := range in.places() {
			e := seen[place]
			if e == nil {
				e = &languageEvidence{}
				seen[place] = e
			}
			if month != nil {
				e.months |= 1 << month.month
				e.sureMonth = e.sureMonth || k.Form&weakMonth == 0
			}
			if period != nil {
				e.halves |= uint8(bit(period.hours&pmHours == 0) | bit(period.hours&amHours == 0)<<1)
				e.surePeriod = e.surePeriod || k.Form&weakPeriod == 0
			}
		}
	}
	if len(seen) > 0 {
		d.chooseLanguages(seen)
	}
	d.halfDays()
}

// named returns the languages of the names in the cells of a count, and whether there are any.
func (d *decider) named(k *Count) (in languages, names bool) {
	if !k.Set.Any(dates|ClockOnly) || k.Set.Any(numbers) {
		return in, false
	}
	return wordsIn(k.Form)
}

// chooseLanguages takes the languages that explain the most cells, one after the other.
func (d *decider) chooseLanguages(seen map[int]*languageEvidence) {
	c := &d.c.Convention
	places := make([]int, 0, len(seen))
	for p := range seen {
		places = append(places, p)
	}
	slices.Sort(places)
	for range maxTimeWords {
		best, most, alike, weak := -1, int64(0), 0, int64(0)
		for _, p := range places {
			var cells, open int64
			for _, k := range d.counts {
				in, names := d.named(&k)
				if names && in.has(p) && in.and(c.Languages).empty() && seen[p].believes(k.Form) {
					cells += k.Cells
					open += k.Cells * int64(bit(k.Form&(weakMonth|weakPeriod) != 0))
				}
			}
			switch {
			case cells > most:
				best, most, alike, weak = p, cells, 1, open
			case cells == most:
				alike++
			}
		}
		if best < 0 || alike > 1 && best != english && weak == 0 {
			return // Mai is a month in several languages, and sure in each
		}
		c.Languages = c.Languages.or(oneLanguage(best))
		d.evidence(most, 0, "time words: %s", strings.Join(oneLanguage(best).codes(), ""))
	}
}

// halfDays decides whether a time without a part of the day is open: where others have one, and no hour shows that it is
// a clock of 24 hours.
func (d *decider) halfDays() {
	var with, without, late int64
	for _, k := range d.counts {
		if !k.Set.Any(ClockOnly|HasTime) || k.Set.Any(numbers) {
			continue
		}
		switch {
		case hasHalf(k.Set, k.Form):
			with += k.Cells
		case hasHours24(k.Set, k.Form):
			late += k.Cells
		default:
			without += k.Cells
		}
	}
	d.c.Convention.HalfDays = with > 0 && (late == 0 || float64(with) >= d.ask.Fit*float64(with+late+without))
}

// hasHalf reports whether the time of a form has a part of the day.
func hasHalf(s Set, form uint64) bool {
	if s.Any(dates) {
		form >>= 14
	}
	return unpackClock(form).half > 0
}

// hasHours24 reports whether the time of a form is one of a clock of 24 hours: by its hour, or since it is written as
// ISO 8601 has it or with an offset.
func hasHours24(s Set, form uint64) bool {
	if s.Any(dates) && form>>11&3 == 1 || s.Any(HasOffset) {
		return true
	}
	return form&lateHour != 0
}

// timed reports whether a date or time is one under the convention, as far as its words go.
func (c *Convention) timed(s Set, form uint64) bool {
	if c.HalfDays && s.Any(ClockOnly|HasTime) && !hasHalf(s, form) && !hasHours24(s, form) {
		return false
	}
	weak := form & (weakMonth | weakPeriod)
	if weak == 0 {
		return true
	}
	// Of a column that is one of times by its other cells, or by a plan, 6 pm is one, too.
	if _, period := namesOf(form); weak == weakPeriod && !c.tentative && (period.universal() || !period.latin) {
		return true
	}
	in, _ := wordsIn(form)
	return !in.and(c.Languages).empty()
}

// timeWordTerms lists the languages of the column's time words, where its cells need them.
func (c *Convention) timeWordTerms(counts []Count) (codes []string) {
	var used languages
	for _, k := range counts {
		if month, period := namesOf(k.Form); k.Set.Any(dates|ClockOnly) && !k.Set.Any(numbers) &&
			(month != nil || period != nil && !period.universal()) {
			in, _ := wordsIn(k.Form)
			used = used.or(in)
		}
	}
	for _, place := range c.Languages.and(used).places() {
		codes = append(codes, oneLanguage(place).codes()...)
	}
	slices.SortFunc(codes, cmp.Compare)
	return codes
}
