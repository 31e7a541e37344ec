package teach

import (
	"cmp"
	"encoding/binary"
	"slices"
	"strings"
	"sync"
	"unsafe"

	"github.com/zeebo/xxh3"

	"junvo/internal/table"
)

// Bounds of the rows that stand for all others while rules are sought: of each outline the first one and some more, and
// where there are too many outlines, of each shape one. Those of one outline are chosen by a hash of their texts, so
// that they are of all sorts, wherever they stand.
const (
	mostSamples = 2000
	mostShapes  = 1000
	mostAlike   = 16 // rows of one outline
	mostGroups  = 300
)

// blocks is what both sinks of this package have in common: what workers find in blocks, until it is brought together
// in their order. What is handed from one to the other is its number.
type blocks[T any] struct {
	table.Discard
	mu   sync.Mutex
	made map[uint64]T
	next uint64
	rows int64 // that came before
}

func (b *blocks[T]) put(dst []byte, found T) []byte {
	b.mu.Lock()
	defer b.mu.Unlock()
	if b.made == nil {
		b.made = map[uint64]T{}
	}
	b.next++
	b.made[b.next] = found
	return binary.AppendUvarint(dst, b.next)
}

func (b *blocks[T]) get(encoded []byte) T {
	n, _ := binary.Uvarint(encoded)
	b.mu.Lock()
	defer b.mu.Unlock()
	found := b.made[n]
	delete(b.made, n)
	return found
}

// each calls a function with the texts of every row that goes out. They are those of the block itself, and good until
// it is used again: who keeps one takes a copy.
func each(rows *table.Rows, sources int, visit func(row int, texts []string)) {
	texts := make([]string, sources)
	for row := range rows.Count {
		if rows.Out != nil && !rows.Out[row] {
			continue
		}
		for i := range texts {
			text := rows.Cells[i].At(row)
			texts[i] = unsafe.String(unsafe.SliceData(text), len(text))
		}
		visit(row, texts)
	}
}

func ownTexts(texts []string) []string {
	own := make([]string, len(texts))
	for i, t := range texts {
		own[i] = strings.Clone(t)
	}
	return own
}

func ownOutcomes(outs []outcome) []outcome {
	own := slices.Clone(outs)
	for i := range own {
		own[i].text = strings.Clone(own[i].text)
	}
	return own
}

// collector is a sink that keeps rows that stand for others. It takes the columns of [Collecting].
type collector struct {
	blocks[[]*alike]
	Sources []Source

	outlines map[string]*alike
	order    []*alike // as they were found
	shapes   map[string]bool
}

// alike is rows of one outline.
type alike struct {
	cells int64
	first Sample
	more  []hashed // by their hashes, the smallest first
}

type hashed struct {
	hash uint64
	Sample
}

// wants reports whether a row of a hash is to be kept.
func (a *alike) wants(hash uint64) bool {
	return len(a.more) < mostAlike || hash < a.more[len(a.more)-1].hash
}

func (a *alike) add(h hashed) {
	at, have := slices.BinarySearchFunc(a.more, h.hash, func(m hashed,
		hash uint64,
	) int {
		return cmp.Compare(m.hash, hash)
	})
	if have || at == mostAlike {
		return
	}
	a.more = slices.Insert(a.more, at, h)
	a.more = a.more[:min(len(a.more), mostAlike)]
}

// Samples returns the rows that are kept: the first ones of all outlines, and as many others as there is room for.
func (c *collector) Samples() (list []Sample) {
	of := make([]int, 0, mostSamples) // which outline each is of
	taken := make([]float64, len(c.order))
	add := func(i int, s Sample) {
		list, of = append(list, s), append(of, i)
		taken[i]++
	}
	for i, a := range c.order {
		add(i, a.first)
	}
	for n := 0; n < mostAlike && len(list) < mostSamples; n++ {
		for i, a := range c.order {
			if n < len(a.more) && a.more[n].Row != a.first.Row && len(list) < mostSamples {
				add(i, a.more[n].Sample)
			}
		}
	}
	for n, i := range of {
		list[n].Cells = float64(c.order[i].cells) / taken[i]
	}
	return list
}

// appendOutline appends an outline: a text whose digits are one class.
func appendOutline(dst []byte, text string) []byte {
	for i := range len(text) {
		c := text[i]
		if c >= '0' && c <= '9' {
			c = '0'
		}
		dst = append(dst, c)
	}
	return append(dst, 0)
}

func (c *collector) outline(dst []byte, texts []string) []byte {
	for i, t := range texts {
		if c.Sources[i].Read == nil {
			dst = appendOutline(dst, t)
		}
	}
	return dst
}

func hashOf(texts []string) (hash uint64) {
	for _, t := range texts {
		hash = hash*0x9e3779b97f4a7c15 + xxh3.HashString(t)
	}
	return hash
}

// Encode finds the rows of a block that are unlike others in it.
func (c *collector) Encode(dst []byte, rows *table.Rows) []byte {
	var found []*alike
	seen := map[string]*alike{}
	shapes := map[string]bool{}
	var key []byte
	each(rows, len(c.Sources), func(row int, texts []string) {
		key = c.outline(key[:0], texts)
		hash := hashOf(texts)
		if a := seen[string(key)]; a != nil {
			a.cells++
			if a.wants(hash) {
				a.add(hashed{hash, Sample{Row: int64(row), Texts: ownTexts(texts)}})
			}
			return
		}
		own := ownTexts(texts)
		if len(seen) >= mostSamples {
			s := shapeOf(c.Sources, own)
			if shapes[s] || len(shapes) >= mostShapes {
				return
			}
			shapes[s] = true
		}
		one := Sample{Row: int64(row), Texts: own}
		a := &alike{cells: 1, first: one, more: []hashed{{hash, one}}}
		seen[string(key)] = a
		found = append(found, a)
	})
	return c.put(dst, found)
}

// Write adds what was found in a block.
func (c *collector) Write(encoded []byte, rows *table.Rows) error {
	if c.outlines == nil {
		c.outlines, c.shapes = map[string]*alike{}, map[string]bool{}
	}
	for _, a := range c.get(encoded) {
		a.first.Row += c.rows + 1
		for i := range a.more {
			a.more[i].Row += c.rows + 1
		}
		key := string(c.outline(nil, a.first.Texts))
		if have := c.outlines[key]; have != nil {
			have.cells += a.cells
			for _, m := range a.more {
				have.add(m)
			}
			continue
		}
		shape := shapeOf(c.Sources, a.first.Texts)
		if len(c.order) >= mostSamples && (c.shapes[shape] || len(c.shapes) >= mostShapes) {
			continue
		}
		c.outlines[key], c.shapes[shape] = a, true
		c.order = append(c.order, a)
	}
	c.rows += int64(rows.Count)
	return nil
}

// Picked is a sink that keeps the texts of some rows. It takes the columns of [Collecting].
type Picked struct {
	table.Discard
	Sources []Source
	Texts   map[int64][]string // by the numbers of the rows that are wanted; nil for those that are not there, or no data
	rows    int64
}

// Write keeps the rows of a block that are wanted.
func (p *Picked) Write(_ []byte, rows *table.Rows) error {
	each(rows, len(p.Sources), func(row int, texts []string) {
		if _, wanted := p.Texts[p.rows+int64(row)+1]; wanted {
			p.Texts[p.rows+int64(row)+1] = ownTexts(texts)
		}
	})
	p.rows += int64(rows.Count)
	return nil
}

// counter is a sink that takes all rows through rules, counts what comes out, and keeps where the rules disagree, or
// where none of them has an answer.
type counter struct {
	blocks[*counted]
	Sources []Source
	Rules   []*Judged
	task    *Task
	makes   *makes

	Cells  int64
	Groups []*Group
	More   int64 // rows in which rules disagree and that are in no group, because there are too many of those
	at     map[string]*Group
	idle   sync.Pool // of *runner
}

// counted is what was counted in a block.
type counted struct {
	cells   int64
	answers [][numOutcomes]int64
	groups  []*Group
	more    int64
}

// runner takes rows through rules; equal rows that stand near one another but once.
type runner struct {
	rules  []*Judged
	pieces []*Piece
	of     []outcome
	join   []func(n int) outcome // for each rule, what its pieces have made
	outs   []outcome             // which are good until the next row
	buffer []byte                // in which some of their texts stand
	known  map[string][]outcome
}

// mostKnown is how many different rows a runner remembers.
const mostKnown = 4096

func newRunner(rules []*Judged) *runner {
	r := &runner{rules: rules, outs: make([]outcome, len(rules)), known: map[string][]outcome{}}
	index := map[*Piece]int{}
	for _, rule := range rules {
		at := make([]int, len(rule.Pieces))
		for n, p := range rule.Pieces {
			i, ok := index[p]
			if !ok {
				i = len(r.pieces)
				index[p] = i
				r.pieces = append(r.pieces, p)
			}
			at[n] = i
		}
		r.join = append(r.join, func(n int) outcome { return r.of[at[n]] })
	}
	r.of = make([]outcome, len(r.pieces))
	return r
}

func (r *runner) run(texts []string) []outcome {
	for i, p := range r.pieces {
		r.of[i] = p.apply(texts)
	}
	r.buffer = r.buffer[:0]
	for i, rule := range r.rules {
		r.outs[i], r.buffer = rule.join(r.join[i], r.buffer)
	}
	return r.outs
}

// Encode takes the rows of a block through the rules.
func (c *counter) Encode(dst []byte, rows *table.Rows) []byte {
	r, ok := c.idle.Get().(*runner)
	if !ok {
		r = newRunner(c.Rules)
	}
	defer c.idle.Put(r)
	found := &counted{answers: make([][numOutcomes]int64, len(c.Rules))}
	groups := map[string]*Group{}
	var key []byte
	each(rows, len(c.Sources), func(row int, texts []string) {
		found.cells++
		key = key[:0]
		for _, t := range texts { // with their lengths, since a text may have any byte
			key = append(binary.AppendUvarint(key, uint64(len(t))), t...)
		}
		outs, known := r.known[string(key)]
		if !known {
			if outs = r.run(texts); len(r.known) < mostKnown {
				r.known[string(key)] = ownOutcomes(outs)
			}
		}
		for i := range outs {
			found.answers[i][outs[i].of]++
		}
		settled, other := c.settled(texts, outs)
		if settled {
			return
		}
		key = groupKey(key[:0], c.Sources, texts, outs)
		switch have := groups[string(key)]; {
		case have != nil:
			have.Cells++
		case len(groups) < mostGroups:
			g := &Group{
				Shape: shapeOf(c.Sources, texts), Row: int64(row), Texts: ownTexts(texts), Cells: 1,
				outs: ownOutcomes(outs), Other: other,
			}
			groups[string(key)] = g
			found.groups = append(found.groups, g)
		default:
			found.more++
		}
	})
	return c.put(dst, found)
}

// settled reports whether there is nothing to ask about a row: all rules give the same result, of the make that results
// have, or its cells are blank. Other says that only the make is another.
func (c *counter) settled(texts []string, outs []outcome) (settled, other bool) {
	first := outs[0]
	for i := range outs {
		if outs[i].text != first.text {
			return false, false
		}
	}
	if first.of == Answered {
		other = c.makes.other(c.task.cells(texts), first.text)
		return !other, other
	}
	return c.Rules[0].Without || blankFor(c.Rules[0].Rule, texts), false
}

// Write adds what was counted in a block.
func (c *counter) Write(encoded []byte, rows *table.Rows) error {
	found := c.get(encoded)
	c.Cells += found.cells
	for i := range found.answers {
		for of, n := range found.answers[i] {
			c.Rules[i].Answers[of] += n
		}
	}
	if c.at == nil {
		c.at = map[string]*Group{}
	}
	for _, g := range found.groups {
		g.Row += c.rows + 1
		k := string(groupKey(nil, c.Sources, g.Texts, g.outs))
		have := c.at[k]
		switch {
		case have != nil:
			have.Cells += g.Cells
		case len(c.Groups) < mostGroups:
			c.at[k] = g
			c.Groups = append(c.Groups, g)
		default:
			c.More += g.Cells
		}
	}
	c.More += found.more
	c.rows += int64(rows.Count)
	return nil
}
