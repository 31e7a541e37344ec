package profile

import (
	"cmp"
	"fmt"
	"slices"

	"junvo/internal/finding"
	"junvo/internal/reading"
	"junvo/internal/value"
)

// lengths counts the texts of a column by their length, to find those that were cut at a
// fixed one.
type lengths struct {
	cells []int64   // by length in characters, up to maxLength
	top   []longest // some of the texts of the greatest length: those of the smallest hashes
}

// longest is a text of the greatest length, and where it occurs first.
type longest struct {
	hash  uint64
	shape uint64
	first Place
}

// maxLength is the longest text that counts. Systems cut at 255 or 1024 at most.
const maxLength = 1024

// A column counts as cut where at least cutTexts different texts have its greatest
// length, which is at least cutLength, and these are cutShare of its texts and cutTimes
// as many as those of one character less. Of five of them four have shapes of their own:
// texts that are made by one pattern are as long as each other without being cut.
const (
	cutTexts  = 5
	cutShapes = 4
	cutLength = 10
	cutShare  = 0.02
	mostCut   = 0.6
	cutTimes  = 4
)

// add counts cells of one text of that many characters, and reports whether none is longer.
func (l *lengths) add(chars int, times int64) bool {
	n := min(chars, maxLength)
	if n >= len(l.cells) {
		l.cells = append(l.cells, make([]int64, n+1-len(l.cells))...)
		l.top = nil
	}
	l.cells[n] += times
	return n == len(l.cells)-1
}

// long keeps a text that none is longer than, if it is one of those to be kept.
func (l *lengths) long(cell []byte, hash uint64, at Place) {
	if k := len(l.top); k < cutTexts || hash <= l.top[k-1].hash {
		l.keep(longest{hash, reading.ShapeHash(cell), at})
	}
}

// keep keeps a text if its hash is among the smallest.
func (l *lengths) keep(t longest) {
	i, found := slices.BinarySearchFunc(l.top, t, func(a, b longest) int { return cmp.Compare(a.hash, b.hash) })
	if found {
		if t.first.less(l.top[i].first) {
			l.top[i].first = t.first
		}
		return
	}
	if i == cutTexts {
		return
	}
	l.top = slices.Insert(l.top, i, t)
	l.top = l.top[:min(len(l.top), cutTexts)]
}

func (l *lengths) merge(o *lengths) {
	if len(o.cells) > len(l.cells) {
		l.cells = append(l.cells, make([]int64, len(o.cells)-len(l.cells))...)
		l.top = nil
	}
	for i, n := range o.cells {
		l.cells[i] += n
	}
	if len(o.cells) == len(l.cells) {
		for _, t := range o.top {
			l.keep(t)
		}
	}
}

// cut returns how many cells seem to be cut, and at which length.
func (l *lengths) cut() (cells int64, length int) {
	top := len(l.cells) - 1
	if top < cutLength || top == maxLength || len(l.top) < cutTexts {
		return 0, 0
	}
	shapes := map[uint64]bool{}
	for _, t := range l.top {
		shapes[t.shape] = true
	}
	if len(shapes) < cutShapes {
		return 0, 0
	}
	var all int64
	for _, n := range l.cells {
		all += n
	}
	n := l.cells[top]
	if float64(n) < cutShare*float64(all) || float64(n) > mostCut*float64(all) || n < cutTimes*l.cells[top-1] {
		return 0, 0
	}
	return n, top
}

// cutOff finds text that was cut at a fixed length.
func (f *finder) cutOff() {
	if f.conv.Type != value.Text {
		return
	}
	l := &f.c.Column.lengths
	n, length := l.cut()
	if n == 0 {
		return
	}
	h := hit{count: n}
	for _, t := range l.top {
		h.samples = mergeSamples(h.samples, []Sample{{Place: t.first}})
	}
	f.add(finding.CutOff, h, "text has", "texts have", fmt.Sprintf(" exactly the greatest length, %d characters: they "+
		"may have been cut there", length))
}
