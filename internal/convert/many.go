package convert

import (
	"junvo/internal/reading"
	"junvo/internal/table"
)

// Most cells of most columns stay as they are: they are right already. Runs of them are
// passed many at a time, each sort in a loop of its own that does nothing else.

// same passes cells that stay as they are, from the column's row on, up to the first of which that is
// not known so easily, or to the row to, where it leaves the column.
func (c *column) same(to int, counts *[numOutcomes]int64) {
	b, spans := c.b, c.out.Spans
	spans = spans[len(spans) : len(spans)+to-c.row]
	at := c.row*b.Width + c.from
	n := 0
	switch {
	case c.verbatim:
		n = verbatim(b, at, spans, c.code)
		counts[c.unchanged] += int64(n)
	case c.recent.Resting():
		if c.sameShorts != 0 {
			n = c.shorts(b, at, spans)
			c.recent.Rested(n)
			counts[right] += int64(n)
		}
	case len(c.plan.Steps) <= maxRemembered:
		n = c.remembered(b, at, spans, counts)
	}
	c.out.Spans = c.out.Spans[:len(c.out.Spans)+n]
	c.row += n
}

// verbatim passes texts of a column that takes any as it is. It writes their spans to dst, and
// returns how many they are.
func verbatim(b *table.Block, at int, dst []table.Span, code bool) int {
	for i := range dst {
		s := b.Spans[at]
		if s.Len() == 0 || s.N&table.Escaped != 0 || !printed(b.Text[s.Start:]) {
			return i
		}
		if code && reading.MayBeShortened(b.Text[s.Start:int(s.Start)+s.Len()]) {
			return i
		}
		dst[i] = s.Bare()
		at += b.Width
	}
	return len(dst)
}

// shorts passes short numbers that are written as the column's type is.
func (c *column) shorts(b *table.Block, at int, dst []table.Span) int {
	padded, same := b.Padded(), c.sameShorts
	for i := range dst {
		s := b.Spans[at]
		if !s.Within(table.MaxWord) {
			return i
		}
		w := padded.Word(s)
		if _, kind, ok := reading.ReadShort(w, uint(s.Len())); !ok || same>>(kind&63)&1 == 0 || byte(w) == '-' {
			return i
		}
		dst[i] = s.Bare()
		at += b.Width
	}
	return len(dst)
}

// remembered passes texts that were seen a short while ago and stayed as they were.
func (c *column) remembered(b *table.Block, at int, dst []table.Span, counts *[numOutcomes]int64) int {
	padded, recent := b.Padded(), &c.recent
	n := 0
	for ; n < len(dst); n++ {
		s := b.Spans[at]
		if !s.Within(table.MaxKey) {
			break
		}
		e := recent.Find(padded.Key(s))
		if e == nil || !e.Known.same {
			break
		}
		counts[e.Known.outcome]++
		dst[n] = s.Bare()
		at += b.Width
	}
	return n
}

// findSameShorts finds the kinds of short numbers that the column leaves as they are.
func (c *column) findSameShorts() {
	c.sameShorts = 0
	if len(c.plan.Steps) > 0 || c.plan.Made() || c.reader.Told() {
		return
	}
	for kind, short := range reading.Shorts {
		if r, fits := c.conv.Judge(short.Set, short.Form); r != reading.AsBlank && c.staysPlain(fits, short.Set) {
			c.sameShorts |= 1 << kind
		}
	}
}
