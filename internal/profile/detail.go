package profile

import (
	"math"
	"unicode/utf8"

	"junvo/internal/character"
	"junvo/internal/reading"
	"junvo/internal/table"
)

// detail is what is collected of a column that is opened: the texts with their counts
// and the shapes, exactly while there are few, and lengths. What it comes to does not
// depend on the order of the cells.
type detail struct {
	limit             int // of different texts
	texts             map[string]*int64
	manyTexts         bool // there were more, and texts is empty
	shapes            map[string]*shapeCount
	coarse            bool // there were too many shapes, and runs are counted as one
	shortest, longest int  // in characters; longest is 0 before the first cell

	memo       *[1 << memoBits]shapeMemo  // of the shapes of short texts; nil until there is one
	coarseMemo *[1 << memoBits]coarseMemo // of coarse ones
	plain      *plainShapes               // of short numbers; nil before the first
	scratch    []byte
}

// shapeMemo is a short text in ASCII, with what stands for each of its bytes in a shape, and the count of that shape:
// to take a shape together costs more than to see that it was there a short while ago.
type shapeMemo struct {
	classes [maxMemo]byte
	size    uint8
	count   *shapeCount
}

// coarseMemo is the first runs of like characters of texts in ASCII, and the count of their coarse shape.
type coarseMemo struct {
	runs  uint64 // what stands for each in a shape, the first one in the topmost byte that is not 0
	count *shapeCount
}

// plainShapes are the counts of the shapes of short numbers, by their bytes, their digits after the point, and whether
// they have a minus.
type plainShapes [table.MaxWord + 1][table.MaxWord][2]*shapeCount

const (
	maxMemo  = 32 // bytes of a text
	memoBits = 6
)

type shapeCount struct {
	cells int64
	first Sample
	moved bool // it is counted as another one, and this one no longer
}

// The bounds of what is kept of each column.
const (
	maxTexts    = 10_000
	allTexts    = 400_000 // of all columns together, for each worker
	maxShapes   = 512
	maxFrequent = 10
	maxListed   = 100 // shapes
)

func newDetail(columns int) *detail {
	return &detail{
		limit: min(maxTexts, max(100, allTexts/columns)), texts: map[string]*int64{},
		shapes: map[string]*shapeCount{},
	}
}

// add counts a text of n characters that has been read. at is nil for more of a text that has been added with its
// place. noted is what is noted of texts with the same outline, which have the same shape; nil where there is none.
func (d *detail) add(cell []byte, n int, times int64, at *Place, noted *alike) {
	d.length(n)
	if !d.manyTexts {
		if have := d.texts[string(cell)]; have != nil {
			*have += times
		} else {
			n := times
			if d.texts[string(cell)] = &n; len(d.texts) > d.limit {
				d.texts, d.manyTexts = nil, true
			}
		}
	}
	sample := cell[:min(len(cell), maxSampleText)]
	var s *shapeCount
	if noted != nil {
		s = noted.shape
	}
	if s == nil || s.moved {
		if s = d.shapeOf(sample); noted != nil {
			noted.shape = s
		}
	}
	s.cells += times
	if at != nil && at.less(s.first.Place) {
		s.first = Sample{*at, string(sample)}
	}
	if len(d.shapes) > maxShapes && !d.coarse {
		d.coarsen()
	}
}

// length notes that there is a text of n characters.
func (d *detail) length(n int) {
	if d.longest == 0 || n < d.shortest {
		d.shortest = n
	}
	d.longest = max(d.longest, n)
}

// seen reports whether a cell has the shape.
func (s *shapeCount) seen() bool { return s.first.Place.Block != math.MaxUint32 }

// counts reports whether of more texts with an outline nothing is wanted but how many they are, since their shape is
// known, and there are too many texts to be counted apart.
func (d *detail) counts(a *alike) bool { return d.manyTexts && a.shape != nil && !a.shape.moved }

// shapeOf returns the count of a text's shape.
func (d *detail) shapeOf(text []byte) *shapeCount {
	switch {
	case d.coarse:
		return d.coarseOf(text)
	case len(text) > maxMemo:
		return d.countOf(text)
	}
	var classes [maxMemo]byte
	hash, high := uint64(len(text)), byte(0)
	for i, b := range text {
		class := character.ShapeBytes[b]
		classes[i&(maxMemo-1)] = class
		high |= b
		hash = (hash ^ uint64(class)) * 0x9e3779b97f4a7c15
	}
	if high >= utf8.RuneSelf {
		return d.countOf(text)
	}
	if d.memo == nil {
		d.memo = new([1 << memoBits]shapeMemo)
	}
	e := &d.memo[hash>>(64-memoBits)]
	if e.count == nil || int(e.size) != len(text) || e.classes != classes {
		*e = shapeMemo{classes, uint8(len(text)), d.countOf(text)}
	}
	return e.count
}

// coarseOf is shapeOf where runs are counted as one: then the first runs are all that a text in ASCII counts for, but
// for those with many digits, whose shapes have their number.
func (d *detail) coarseOf(text []byte) *shapeCount {
	runs, n, digits := uint64(0), 0, 0
	for _, b := range text {
		class := character.ShapeBytes[b]
		if digits++; class != '9' {
			digits = 0
		}
		switch {
		case b >= utf8.RuneSelf || b == 0 || digits > character.MaxShapeRun:
			return d.countOf(text)
		case class == byte(runs):
			continue
		}
		if n++; n > maxCoarse {
			break
		}
		runs = runs<<8 | uint64(class)
	}
	if d.coarseMemo == nil {
		d.coarseMemo = new([1 << memoBits]coarseMemo)
	}
	e := &d.coarseMemo[runs*0x9e3779b97f4a7c15>>(64-memoBits)]
	if e.count == nil || e.runs != runs {
		*e = coarseMemo{runs, d.countOf(text)}
	}
	return e.count
}

// countOf is shapeOf without the memory.
func (d *detail) countOf(text []byte) *shapeCount {
	runs := math.MaxInt
	if d.coarse {
		runs = maxCoarse
	}
	shape := character.AppendShapeStart(d.scratch[:0], text, runs)
	d.scratch = shape[:0]
	if d.coarse {
		shape = appendCoarse(shape, shape)
	}
	s := d.shapes[string(shape)]
	if s == nil {
		s = &shapeCount{first: Sample{Place: Place{Block: math.MaxUint32}}}
		d.shapes[string(shape)] = s
	}
	return s
}

// coarseShape makes one character of every run.
func coarseShape(shape string) string { return string(appendCoarse(nil, []byte(shape))) }

// appendCoarse appends the coarse shape of a shape, which may stand in the same room.
func appendCoarse(dst, shape []byte) []byte {
	dst = dst[:0]
	last, n := utf8.RuneError, 0
	for len(shape) > 0 && n < maxCoarse {
		r, size := utf8.DecodeRune(shape)
		if r != '…' && (n == 0 || r != last) {
			dst = append(dst, shape[:size]...)
			last = r
			n++
		}
		shape = shape[size:]
	}
	return dst
}

// maxCoarse cuts long shapes once there are too many, which bounds their number in practice.
const maxCoarse = 8

func (d *detail) coarsen() {
	d.coarse, d.memo = true, nil
	old := d.shapes
	d.shapes = map[string]*shapeCount{}
	for shape, n := range old {
		d.addShape(coarseShape(shape), n)
	}
}

func (d *detail) addShape(shape string, n *shapeCount) {
	have := d.shapes[shape]
	if have == nil {
		d.shapes[shape] = n
		return
	}
	n.moved = true
	have.cells += n.cells
	if n.first.Place.less(have.first.Place) {
		have.first = n.first
	}
}

func (d *detail) merge(o *detail) {
	d.memo, d.coarseMemo, d.plain = nil, nil, nil // counts are brought together
	if o.longest > 0 {
		if d.longest == 0 || o.shortest < d.shortest {
			d.shortest = o.shortest
		}
		d.longest = max(d.longest, o.longest)
	}
	if o.manyTexts {
		d.texts, d.manyTexts = nil, true
	}
	if !d.manyTexts {
		for t, n := range o.texts {
			if have := d.texts[t]; have != nil {
				*have += *n
			} else {
				d.texts[t] = n
			}
		}
		if len(d.texts) > d.limit {
			d.texts, d.manyTexts = nil, true
		}
	}
	if o.coarse && !d.coarse {
		d.coarsen()
	}
	for shape, n := range o.shapes {
		if d.coarse {
			shape = coarseShape(shape)
		}
		d.addShape(shape, n)
	}
	if len(d.shapes) > maxShapes && !d.coarse {
		d.coarsen()
	}
}

// Frequent is a text and how many cells have it.
type Frequent struct {
	Text  string
	Cells int64
}

// ShapeCount is a shape, how many cells have it, and the first of them.
type ShapeCount struct {
	Shape string
	Cells int64
	First Where
	Text  string
}

// Details is what there is to tell of a column that was opened.
type Details struct {
	Shortest, Longest int
	Frequent          []Frequent // the most frequent texts; none where there are too many different ones
	ManyTexts         bool
	Shapes            []ShapeCount
	AllShapes         bool       // Shapes has them all
	ManyShapes        bool       // runs of like characters are shown as one
	Quartiles         []string   // the smallest quarter, the median, the largest quarter; none for other types
	Estimated         bool       // the quartiles are estimates, within one percent
	Mean              string     // of numbers
	Histogram         []Bin      // of numbers and dates
	Readings          []Readings // how many cells have each reading, with the first rows
}

// Bin is a range of values and how many cells lie in it.
type Bin struct {
	From, To string
	Cells    int64
}

// Readings is one reading and where it occurs first.
type Readings struct {
	Reading reading.Reading
	Cells   int64
	Rows    []int64
}
