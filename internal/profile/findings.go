package profile

import (
	"fmt"
	"slices"
	"strings"

	"junvo/internal/finding"
	"junvo/internal/reading"
	"junvo/internal/rowkind"
	"junvo/internal/value"
)

// findings draws the findings of a column from its tallies.
func (c *ColumnProfile) findings(p *Profile) {
	f := &finder{p: p, c: c, conv: &c.Conclusion.Convention}
	conv, done := f.conv, c.Conclusion
	t := conv.Type
	if done.Mixed {
		f.mixed()
	}
	if done.OrderUndecided > 0 {
		f.add(finding.OrderUndecided, f.where(func(s reading.Set) bool { return s.Any(reading.DateDMY | reading.DateMDY | reading.DateYMD) }),
			"date", "dates", " can be read with day and month exchanged, or contradict each other")
	}
	if done.MarksUndecided > 0 {
		f.add(finding.MarksUndecided, f.where(func(s reading.Set) bool { return s.Any(reading.MarkPoint | reading.MarkComma) }),
			"number has", "numbers have", " a mark that can be a decimal mark or a group mark, or contradict each other")
	}
	if n := done.ByWitness; n > 0 {
		h := f.where(func(s reading.Set) bool {
			return s.Any(reading.MarkPoint|reading.MarkComma) || s.Any(reading.DateDMY|reading.DateMDY|reading.DateYMD)
		})
		f.add(finding.ByWitness, h, "cell leaves", "cells leave", " open how it is read; "+done.ByWitnessSay)
	}
	if f.conv.EachMark && t.Numeric() {
		f.add(finding.TwoStyles, f.where(func(s reading.Set) bool { return s.IsNumber() && s.Has(reading.NumComma) && !s.Any(reading.NumPoint) }),
			"number has", "numbers have", " a decimal comma, and others a decimal point: each is read by its own")
	}
	f.open()
	f.near()
	f.asText()
	if t.Numeric() {
		f.add(finding.TextAmongNumbers, f.failing(), "cell", "cells", " among the numbers cannot be read as one of them")
	}
	f.add(finding.StrayCharacters, f.where(func(s reading.Set) bool { return s.Any(reading.Strays) }), "cell has",
		"cells have", " characters that do not show, or spaces at an end")
	if t == value.Code || t.Numeric() {
		f.add(finding.LeadingZeros, f.where(func(s reading.Set) bool { return s.Any(reading.LeadingZero) }), "value begins",
			"values begin", " with 0: as numbers they would lose it")
	}
	f.add(finding.DigitsLost, f.where(func(s reading.Set) bool { return s.Any(reading.Shortened) }), "number is",
		"numbers are",
		" in the notation in which spreadsheets show long ones: if they are identifiers, digits were lost where the file "+
			"was made")
	f.add(finding.LongDigits, f.where(func(s reading.Set) bool { return s.Any(reading.LongDigits) }), "value has",
		"values have", " 16 digits or more: binary floating point would change them")
	if t == value.Date || t == value.Timestamp {
		f.add(finding.TwoDigitYears, f.where(func(s reading.Set) bool { return s.Any(reading.ShortYear) }),
			"year is", "years are", fmt.Sprintf(" written with two digits and read as %d to %d", reading.ShortYearFrom,
				reading.ShortYearFrom+99))
	}
	if t.Numeric() {
		f.affixes()
	} else if len(reading.Currencies(c.Counts)) > 1 {
		f.currencies()
	}
	f.doubts()
	f.cutOff()
	f.damage()
	f.add(finding.ErrorValues, f.where(func(s reading.Set) bool { return s.Any(reading.ErrorValue) }), "cell holds",
		"cells hold", " an error value of a spreadsheet")
	f.add(finding.FormulaLike, f.where(func(s reading.Set) bool { return s.Any(reading.Formula) }), "cell begins",
		"cells begin", " like a formula of a spreadsheet")
	sortFindings(c.Findings)
}

// near finds the type that a column just misses, with the cells that keep it from it.
func (f *finder) near() {
	n := f.c.Conclusion.Near
	if n.Fits == 0 || f.conv.Type != value.Text {
		return
	}
	conv := *f.conv
	conv.Type = n.Type
	h := f.gather(func(t *Tally) bool {
		r, fits := conv.Judge(t.Set, t.Form)
		return r != reading.AsBlank && !fits
	})
	f.c.Findings = append(f.c.Findings, Finding{
		finding.NearlyTyped, n.Fails, f.p.rowsOf(h.samples), n.Say(f.c.Name),
		h.tallies,
	})
}

// open finds questions that the column leaves open about what its numbers are.
func (f *finder) open() {
	numbers := func(bits reading.Set) hit {
		return f.where(func(s reading.Set) bool { return s.IsNumber() && s.Has(bits) })
	}
	switch f.c.Conclusion.Undecided {
	case reading.OpenTimes:
		f.add(finding.TimesUndecided, numbers(reading.ClockPoint), "number", "numbers",
			" such as 18.05 can be a decimal or a time of day")
	case reading.OpenLists:
		f.add(finding.ListsUndecided, numbers(reading.MarkComma), "number", "numbers",
			" with a comma may be lists, as others of the column are")
	case reading.OpenTruth:
		f.add(finding.TruthUndecided, f.where(func(s reading.Set) bool { return s.Any(reading.BoolWord) }), "cell may be a",
			"cells may be", " truth words, or codes")
	case reading.OpenSides:
		f.add(finding.SidesUndecided, numbers(reading.UnitWord), "number has", "numbers have",
			" a word behind that says on which side of an account it is, such as CR: which side is negative is open")
	case reading.OpenBrackets:
		f.add(finding.BracketsUndecided, numbers(reading.Bracketed), "number stands", "numbers stand",
			" in parentheses, as all of the column do: a minus, or nothing")
	}
}

// damage finds what happened to cells before they got here.
func (f *finder) damage() {
	if t := f.conv.Type; t == value.Date || t == value.Timestamp {
		f.add(finding.DayNumbers, f.gather(func(t *Tally) bool {
			return t.Set.Has(reading.IntPoint|reading.IntComma|reading.Plain) && t.dayNumbers()
		}),
			"whole number among the dates", "whole numbers among the dates", " can be the day number of a spreadsheet")
	}
	if f.conv.Type.Numeric() || f.conv.Type == value.Date || f.conv.Type == value.Timestamp {
		f.add(finding.LookAlikes, f.where(func(s reading.Set) bool { return s.Any(reading.LookAlike) }), "cell has",
			"cells have", " letters where digits should stand")
	}
	f.add(finding.WrongDecoding, f.where(func(s reading.Set) bool { return s.Any(reading.WrongDecoding) }), "cell was",
		"cells were", " decoded with the wrong encoding before")
	f.add(finding.Markup, f.where(func(s reading.Set) bool { return s.Any(reading.Markup) }), "cell holds", "cells hold",
		" tags or character references of a web page")
}

// The day numbers of the years 1954 to 2064, counted from 1900.
const firstDayNumber, lastDayNumber = 20000, 60000

// dayNumbers reports whether all whole numbers of the tally can be day numbers.
func (t *Tally) dayNumbers() bool {
	n := t.numbersUnder(&reading.Convention{})
	if n == nil {
		return false
	}
	all, any := n.total()
	if !any {
		return false
	}
	first, last := value.Number{Coef: firstDayNumber}, value.Number{Coef: lastDayNumber}
	return all.smallest.Compare(first) >= 0 && all.top.Compare(last) <= 0
}

func (f *finder) mixed() {
	rare := f.odd()
	f.add(finding.Mixed, rare, "cell", "cells", " cannot be read as the rest of the column is")
}

// odd gathers the cells that do not read as the column does: those that fail, or
// in a text column those that are more than text, or the text if that is rarer.
func (f *finder) odd() hit {
	if f.conv.Type != value.Text {
		return f.failing()
	}
	loose := func(t *Tally) bool {
		r, _ := f.conv.Judge(t.Set, t.Form)
		return r == reading.AsText || r == reading.AsCode
	}
	typed := f.gather(func(t *Tally) bool {
		r, _ := f.conv.Judge(t.Set, t.Form)
		return r != reading.AsBlank && !loose(t)
	})
	if text := f.gather(loose); text.count > 0 && text.count < typed.count {
		return text
	}
	return typed
}

// asText finds values that other programs would take for text.
func (f *finder) asText() {
	notPlain := func(want ...reading.Reading) hit {
		return f.gather(func(t *Tally) bool {
			r, fits := f.conv.Judge(t.Set, t.Form)
			// Where the source has types, whatever it stores as text is not in its proper type.
			proper := f.conv.Plain(t.Set)
			if f.p.Info.Typed {
				proper = t.Set.Any(reading.Typed)
			}
			return fits && r != reading.AsBlank && !proper && slices.Contains(want, r)
		})
	}
	switch f.conv.Type {
	case value.Integer, value.Decimal:
		f.add(finding.NumbersAsText, notPlain(reading.AsInteger, reading.AsDecimal), "number is", "numbers are",
			" written so that other programs take them for text")
	case value.Date, value.Timestamp, value.Time:
		f.add(finding.DatesAsText, notPlain(reading.AsDate, reading.AsTimestamp, reading.AsTime), "date or time is",
			"dates or times are", " not written in the form of ISO 8601")
	case value.Boolean:
		f.add(finding.BooleansAsText, notPlain(reading.AsBoolean), "truth value is a word", "truth values are words", "")
	}
	f.add(finding.BlanksAsText, f.gather(func(t *Tally) bool {
		r, _ := f.conv.Judge(t.Set, t.Form)
		b := t.Set.Blank()
		return r == reading.AsBlank && (b == value.NotBlank || b == value.Word || b == value.Spaces || b == value.Invisible)
	}), "blank cell holds", "blank cells hold", " a word, spaces or invisible characters")
}

func (f *finder) affixes() {
	f.add(finding.Units, f.where(func(s reading.Set) bool { return s.Any(reading.Unit | reading.UnitWord) }),
		"number carries", "numbers carry", " a unit")
	f.currencies()
	f.add(finding.Percent, f.where(func(s reading.Set) bool { return s.Any(reading.Percent | reading.PerMille) }),
		"number is a percentage", "numbers are percentages", "")
}

// currencies finds amounts, and names the currencies where they are several.
func (f *finder) currencies() {
	rest := " a currency"
	if all := reading.Currencies(f.c.Counts); len(all) > 1 {
		rest = " different currencies, so that a sum of them means nothing: " + strings.Join(all[:min(len(all), 8)], ", ")
	}
	f.add(finding.Currencies, f.where(func(s reading.Set) bool { return s.Any(reading.Currency) }), "number carries",
		"numbers carry", rest)
}

// structure draws the findings of the file.
func (p *Profile) structure(all *part, trouble *[numTroubles]places, odd map[byte]int64) {
	for _, e := range rowkind.Catalogue {
		n := p.Aside[e.Kind]
		if n == 0 || e.Kind == rowkind.Long {
			continue
		}
		rows := p.rowsOf(all.aside[e.Kind].first)
		p.Findings = append(p.Findings, Finding{
			Kind: e.Finding, Count: n, Rows: rows,
			Say: Counted(n, "row is", "rows are") + " set aside: " + strings.TrimSuffix(lowerFirst(e.Say), "."),
		})
	}
	for i, say := range map[int]struct {
		kind            finding.Kind
		one, many, rest string
	}{
		shortRows:   {finding.ShortRows, "row has", "rows have", " fewer cells than the table has columns"},
		longRows:    {finding.LongRows, "row has", "rows have", " more cells than the table has columns, and is set aside"},
		strayQuotes: {finding.StrayQuotes, "row has", "rows have", " a quote inside a cell"},
		nuls:        {finding.NulBytes, "row has", "rows have", " NUL bytes, which are kept"},
		badBytes: {finding.BadBytes, "row has", "rows have", " bytes that are not text in the encoding (" + sayOdd(odd) +
			"); if letters are broken, name the right one with --encoding"},
		tooLong: {finding.LongCells, "row has", "rows have", " a cell of more than 64 MB"},
		names: {finding.SecondTable, "row below a blank one has", "rows below a blank one have", " words in every cell, and columns have " +
			"other cells than they should: another table may begin there"},
		openQuotes: {finding.OpenQuotes, "row has", "rows have", " a cell with a quote that opens and is never closed"},
	} {
		if t := trouble[i]; t.count > 0 && (i != names || p.breaks()) {
			p.Findings = append(p.Findings, Finding{
				Kind: say.kind, Count: t.count, Rows: t.rows,
				Say: Counted(t.count, say.one, say.many) + say.rest,
			})
		}
	}
	p.duplicates(&all.same.rows)
	for _, n := range p.Info.Notes {
		p.Findings = append(p.Findings, Finding{Kind: n.Kind, Count: n.Count, Rows: []int64{}, Say: n.Say})
	}
	sortFindings(p.Findings)
}

// breaks reports whether a column of values has cells that do not fit, as it has where another table goes on below.
func (p *Profile) breaks() bool {
	return slices.ContainsFunc(p.Columns, func(c *ColumnProfile) bool {
		done := c.Conclusion
		typed := done.Convention.Type != value.Text && done.Convention.Type != value.Code
		return typed && done.Fails > 0 || done.Near.Fits > 0 || done.Mixed
	})
}

// duplicates finds rows that repeat others.
func (p *Profile) duplicates(rows *rowSet) {
	n, first, exact := rows.repeated(p.Rows)
	if n == 0 {
		return
	}
	say := Counted(n, "row is", "rows are") + " the same as a row before, in every column"
	if !exact {
		say = "about " + say
	}
	f := Finding{Kind: finding.Duplicates, Count: n, Rows: []int64{}, Say: say}
	for _, at := range first {
		f.Rows = append(f.Rows, p.Where(at).Row)
	}
	p.Findings = append(p.Findings, f)
}

func lowerFirst(s string) string { return string(s[0]|0x20) + s[1:] }

// Odd returns up to max cells that do not read as the column does, the first in
// the file, with what each reads as.
func (p *Profile) Odd(c *ColumnProfile, max int) []OddCell {
	f := &finder{p: p, c: c, conv: &c.Conclusion.Convention}
	if !c.Conclusion.Mixed {
		if f.failing().count == 0 && f.conv.Type != value.Text {
			return nil
		}
	}
	var odd []OddCell
	h := f.odd()
	for _, s := range h.samples[:min(max, len(h.samples))] {
		odd = append(odd, OddCell{p.Where(s.Place), s.Text, f.readingAt(s.Place)})
	}
	return odd
}

// readingAt returns the reading of the cell that was kept from a place.
func (f *finder) readingAt(at Place) reading.Reading {
	for i := range f.c.Column.Tallies {
		t := &f.c.Column.Tallies[i]
		if slices.ContainsFunc(t.First, func(s Sample) bool { return s.Place == at }) {
			r, _ := f.conv.Judge(t.Set, t.Form)
			return r
		}
	}
	return reading.AsText
}

// OddCell is a cell that does not read as its column does.
type OddCell struct {
	Where   Where
	Text    string
	Reading reading.Reading
}
