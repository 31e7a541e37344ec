package totals

import (
	"bytes"
	"encoding/binary"
	"strconv"
	"strings"
	"unsafe"

	"junvo/internal/order"
	"junvo/internal/table"
	"junvo/internal/value"
)

// part is what has been counted of a group so far.
type part struct {
	keys  string // the keys as they are saved
	rows  int64
	stats []stat
}

// stat is what has been counted of a column in a group so far.
type stat struct {
	used, failed, blank int64
	sum                 value.Adder
	smallest, largest   string
}

// block counts the rows of a block. It serves one goroutine.
type block struct {
	*Options
	measured  []measure
	order     []*order.Keys // of the columns that make groups
	values    []*order.Keys // of the columns whose values are kept
	at        map[string]int
	parts     []part
	counts    map[string]uint64 // of the values that are kept: by group, column and text
	buffer    []byte
	failed    map[[2]int]string // why cells of the block failed, by row and column
	inherited map[[2]int]string // and why others are blank that are made of them
}

// measure is a column of figures, and what is counted of it.
type measure struct {
	column         int
	sum, ends, all bool // all: every value is kept
}

func newBlock(o *Options, measured []measure) *block {
	b := &block{
		Options: o, measured: measured, at: map[string]int{}, counts: map[string]uint64{},
		failed: map[[2]int]string{}, inherited: map[[2]int]string{},
	}
	for _, c := range o.By {
		b.order = append(b.order, order.NewKeys([]order.Key{{Type: o.Fields[c].Type}}))
	}
	for _, m := range measured {
		b.values = append(b.values, order.NewKeys([]order.Key{{Type: o.Fields[m.column].Type}}))
	}
	return b
}

// What a saved key begins with.
const (
	keyOfText = iota
	keyOfBlank
	keyOfFailed
)

// all is the number of the part that has all rows.
const all = 0

func (b *block) count(rows *table.Rows) {
	clear(b.at)
	clear(b.counts)
	clear(b.failed)
	clear(b.inherited)
	for _, f := range rows.Failed {
		to := b.failed
		if f.Inherited {
			to = b.inherited
		}
		to[[2]int{f.Row, f.Column}] = f.Reason
	}
	b.parts = append(b.parts[:0], b.newPart(""))
	for row := range rows.Count {
		if rows.Out != nil && !rows.Out[row] {
			continue
		}
		b.add(rows, row, all)
		if len(b.By) > 0 {
			b.add(rows, row, b.partOf(rows, row))
		}
	}
}

func (b *block) newPart(keys string) part {
	return part{keys: keys, stats: make([]stat, len(b.measured))}
}

// partOf returns the number of the part that a row belongs to.
func (b *block) partOf(rows *table.Rows, row int) int {
	key := b.buffer[:0]
	for _, c := range b.By {
		text := rows.Cells[c].At(row)
		kind := byte(keyOfText)
		if len(text) == 0 {
			kind = keyOfBlank
		}
		if len(b.failed) > 0 {
			if why, ok := b.failed[[2]int{row, c}]; ok {
				kind, text = keyOfFailed, []byte(why)
			}
		}
		if kind == keyOfBlank && len(b.inherited) > 0 {
			if why, ok := b.inherited[[2]int{row, c}]; ok {
				kind, text = keyOfFailed, []byte(why)
			}
		}
		if kind == keyOfText {
			text = sameText(&b.Fields[c], text)
		}
		key = append(key, kind)
		key = binary.AppendUvarint(key, uint64(len(text)))
		key = append(key, text...)
	}
	b.buffer = key
	i, ok := b.at[string(key)]
	if !ok {
		i = len(b.parts)
		b.at[string(key)] = i
		b.parts = append(b.parts, b.newPart(string(key)))
	}
	return i
}

// sameText returns the one text for all that are the same value: without zeros at the end of a fraction, and of a
// moment with an offset that in UTC.
func sameText(f *table.Field, text []byte) []byte {
	switch {
	case f.Type.Numeric(), f.Type == value.Time, f.Type == value.Timestamp && !f.Offsets:
		return trimmed(text)
	case f.Type == value.Timestamp && f.Offsets:
		if m, err := value.ParseMoment(string(text)); err == nil {
			return m.UTC().Append(nil)
		}
	}
	return text
}

// trimmed leaves the zeros at the end of a fraction out.
func trimmed(number []byte) []byte {
	if bytes.IndexByte(number, '.') < 0 {
		return number
	}
	return bytes.TrimSuffix(bytes.TrimRight(number, "0"), []byte("."))
}

// add adds a row to a part.
func (b *block) add(rows *table.Rows, row, i int) {
	p := &b.parts[i]
	p.rows++
	for j, m := range b.measured {
		s, text := &p.stats[j], rows.Cells[m.column].At(row)
		if len(b.failed) > 0 {
			if _, ok := b.failed[[2]int{row, m.column}]; ok {
				s.failed++
				continue
			}
		}
		if len(text) == 0 {
			s.blank++
			continue
		}
		s.used++
		if m.sum {
			s.sum.Add(text)
		}
		if m.ends {
			s.end(b.Fields[m.column].Type, unsafe.String(unsafe.SliceData(text), len(text)))
		}
		if m.all {
			b.keep(i, j, text)
		}
	}
}

// end keeps a value that is smaller or larger than those so far. The text is not kept as it is.
func (s *stat) end(t value.Type, text string) {
	if s.smallest == "" || value.Before(t, text, s.smallest) {
		s.smallest = strings.Clone(text)
	}
	if s.largest == "" || value.Before(t, s.largest, text) {
		s.largest = strings.Clone(text)
	}
}

// keep counts a value of a column of which every value is kept.
func (b *block) keep(part, column int, text []byte) {
	key := binary.AppendUvarint(b.buffer[:0], uint64(part))
	key = binary.AppendUvarint(key, uint64(column))
	text = sameText(&b.Fields[b.measured[column].column], text)
	key = append(key, text...)
	b.buffer = key
	b.counts[string(key)]++
}

// encoded appends what was counted: the parts as records behind their length, and then the values that are kept.
func (b *block) encoded(dst []byte) []byte {
	var parts, values, data []byte
	keys := make([]string, len(b.parts))
	for i := range b.parts {
		p := &b.parts[i]
		keys[i] = string(b.sortKey(p.keys, i == all))
		data = p.save(data[:0], b.measured)
		parts = order.AppendRecord(parts, []byte(keys[i]), data)
		for j, m := range b.measured {
			if m.all && p.stats[j].used > 0 { // how many there are comes before them
				values = order.AppendRecord(values, valueKey(keys[i], j, 0, nil), strconv.AppendInt(nil, p.stats[j].used, 10))
			}
		}
	}
	for key, n := range b.counts {
		part, at := binary.Uvarint([]byte(key))
		column, next := binary.Uvarint([]byte(key[at:]))
		text := key[at+next:]
		sorted := b.values[column].Append(nil, func(int) []byte { return []byte(text) })
		data = append(strconv.AppendUint(data[:0], n, 10), ' ')
		values = order.AppendRecord(values, valueKey(keys[part], int(column), 1, sorted), append(data, text...))
	}
	dst = binary.AppendUvarint(dst, uint64(len(parts)))
	return append(append(dst, parts...), values...)
}

// valueKey is the key of a value in a group, or with 0 in place of 1 that of how many there are.
func valueKey(group string, column int, kind byte, sorted []byte) []byte {
	key := binary.BigEndian.AppendUint32(nil, uint32(len(group)))
	key = append(key, group...)
	return append(append(key, byte(column>>8), byte(column), kind), sorted...)
}

// sortKey returns a key whose bytes are in the order of the groups: values first, then blanks, then failures; all rows
// last.
func (b *block) sortKey(keys string, all bool) []byte {
	if all {
		return []byte(allRows)
	}
	key := []byte{0}
	for i, k := range loadKeys(keys) {
		if k.Failed != "" {
			key = append(append(append(key, 0xfe), k.Failed...), 0, 0)
			continue
		}
		key = b.order[i].Append(key, func(int) []byte { return []byte(k.Text) })
	}
	return append(key, keys...) // whatever the order calls equal is not
}

// loadKeys reads saved keys.
func loadKeys(saved string) (keys []Key) {
	for saved != "" {
		kind := saved[0]
		n, at := binary.Uvarint([]byte(saved[1:min(len(saved), 1+binary.MaxVarintLen64)]))
		text := saved[1+at : 1+at+int(n)]
		saved = saved[1+at+int(n):]
		k := Key{Blank: kind == keyOfBlank}
		if kind == keyOfFailed {
			k.Failed = text
		} else {
			k.Text = text
		}
		keys = append(keys, k)
	}
	return keys
}

// save appends a part in bytes.
func (p *part) save(dst []byte, measured []measure) []byte {
	put := func(s string) { dst = append(binary.AppendUvarint(dst, uint64(len(s))), s...) }
	put(p.keys)
	dst = binary.AppendVarint(dst, p.rows)
	for i := range p.stats {
		s := &p.stats[i]
		for _, n := range []int64{s.used, s.failed, s.blank} {
			dst = binary.AppendVarint(dst, n)
		}
		if measured[i].sum {
			put(s.sum.Text())
		}
		if measured[i].ends {
			put(s.smallest)
			put(s.largest)
		}
	}
	return dst
}

// load reads a part.
func load(saved []byte, measured []measure) (p part) {
	text := func() string {
		n, at := binary.Uvarint(saved)
		s := string(saved[at : at+int(n)])
		saved = saved[at+int(n):]
		return s
	}
	number := func() int64 {
		n, at := binary.Varint(saved)
		saved = saved[at:]
		return n
	}
	p.keys, p.rows, p.stats = text(), number(), make([]stat, len(measured))
	for i := range p.stats {
		s := &p.stats[i]
		s.used, s.failed, s.blank = number(), number(), number()
		if measured[i].sum {
			s.sum.Add([]byte(text()))
		}
		if measured[i].ends {
			s.smallest, s.largest = text(), text()
		}
	}
	return p
}

// add adds what has been counted of the same group elsewhere.
func (p *part) add(o *part, fields []table.Field, measured []measure) {
	p.rows += o.rows
	for i := range p.stats {
		s, t := &p.stats[i], &o.stats[i]
		s.used += t.used
		s.failed += t.failed
		s.blank += t.blank
		if measured[i].sum {
			s.sum.Merge(&t.sum)
		}
		for _, text := range []string{t.smallest, t.largest} {
			if text != "" {
				s.end(fields[measured[i].column].Type, text)
			}
		}
	}
}
