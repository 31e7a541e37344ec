package totals

import (
	"bytes"
	"context"
	"encoding/binary"
	"math/big"
	"strconv"
	"sync"

	"junvo/internal/order"
	"junvo/internal/table"
	"junvo/internal/value"
)

// Sink is a sink that counts. After a conversion, [Sink.Each] has the groups.
type Sink struct {
	table.Discard
	options  Options
	measured []measure
	idle     sync.Pool // of *block
	held     map[string]*part
	groups   *order.Sorter // parts of groups that are held no longer
	values   *order.Sorter // values of groups that are kept
}

// allRows is the key of the group of all rows.
const allRows = "\xff"

// heldGroups is how many groups are held in memory.
const heldGroups = 100_000

// New returns a sink.
func New(o Options) *Sink {
	if o.Groups == 0 {
		o.Groups = heldGroups
	}
	s := &Sink{
		options: o, held: map[string]*part{},
		groups: order.NewSorter(o.Folder, order.Memory), values: order.NewSorter(o.Folder, order.Memory),
	}
	for _, c := range MeasuredOf(o.Figures) {
		m := measure{column: c}
		for _, f := range o.Figures {
			if f.Column == c {
				m.sum = m.sum || f.Kind == Sum || f.Kind == Mean
				m.ends = m.ends || f.Kind == Smallest || f.Kind == Largest
				m.all = m.all || f.Kind == Median || f.Kind == Distinct
			}
		}
		s.measured = append(s.measured, m)
	}
	s.held[allRows] = &part{stats: make([]stat, len(s.measured))} // that there is where nothing comes
	s.idle.New = func() any { return newBlock(&s.options, s.measured) }
	return s
}

// ReadsFailures implements [table.FailureReader].
func (s *Sink) ReadsFailures() {}

// Encode counts a block.
func (s *Sink) Encode(dst []byte, rows *table.Rows) []byte {
	b := s.idle.Get().(*block)
	defer s.idle.Put(b)
	b.count(rows)
	return b.encoded(dst)
}

// Write adds what was counted of a block.
func (s *Sink) Write(encoded []byte, _ *table.Rows) error {
	n, at := binary.Uvarint(encoded)
	parts, values := encoded[at:at+int(n)], encoded[at+int(n):]
	order.EachRecord(parts, func(key, data []byte) {
		p := load(data, s.measured)
		if have := s.held[string(key)]; have != nil {
			have.add(&p, s.options.Fields, s.measured)
			return
		}
		s.held[string(key)] = &p
	})
	if len(s.held) > s.options.Groups {
		if err := s.release(); err != nil {
			return err
		}
	}
	return s.values.Add(values)
}

// release hands the groups that are held to the sorter.
func (s *Sink) release() error {
	var record, data []byte
	for key, p := range s.held {
		data = p.save(data[:0], s.measured)
		record = order.AppendRecord(record[:0], []byte(key), append([]byte{ofPart}, data...))
		if err := s.groups.Add(record); err != nil {
			return err
		}
	}
	clear(s.held)
	return nil
}

// What a record of a group begins with.
const (
	ofPart   = iota // a part of it
	ofValues        // what its values have told of a column
)

// Close removes what is on the disk.
func (s *Sink) Close() {
	s.groups.Close()
	s.values.Close()
}

// Each hands over the groups in their order, and all rows last. It is called once, after the conversion.
func (s *Sink) Each(ctx context.Context, f func(g *Group) error) error {
	if err := s.release(); err != nil {
		return err
	}
	if err := s.conclude(ctx); err != nil {
		return err
	}
	var key []byte
	var now *part
	var told map[int]Column
	end := func() error {
		if now == nil {
			return nil
		}
		return f(s.group(now, told))
	}
	err := s.groups.Each(ctx, func(k, data []byte) error {
		if now == nil || !bytes.Equal(k, key) {
			if err := end(); err != nil {
				return err
			}
			key, now, told = bytes.Clone(k), &part{stats: make([]stat, len(s.measured))}, map[int]Column{}
		}
		switch data[0] {
		case ofPart:
			p := load(data[1:], s.measured)
			now.keys = p.keys
			now.add(&p, s.options.Fields, s.measured)
		case ofValues:
			column, c := loadTold(data[1:])
			told[column] = c
		}
		return nil
	})
	if err != nil {
		return err
	}
	return end()
}

// group makes the result of what was counted.
func (s *Sink) group(p *part, told map[int]Column) *Group {
	g := &Group{Keys: loadKeys(p.keys), Rows: p.rows, Columns: make([]Column, len(p.stats))}
	for i := range p.stats {
		t := &p.stats[i]
		c := told[i]
		c.Used, c.Failed, c.Blank, c.Smallest, c.Largest = t.used, t.failed, t.blank, t.smallest, t.largest
		if s.measured[i].sum && t.used > 0 {
			c.Sum = t.sum.Text()
			c.Mean = meanOf(c.Sum, t.used)
		}
		g.Columns[i] = c
	}
	return g
}

// conclude finds the median and the number of different values of the groups whose values were kept.
func (s *Sink) conclude(ctx context.Context) error {
	var w *walk
	end := func() error {
		if w == nil {
			return nil
		}
		return s.groups.Add(order.AppendRecord(nil, w.group, w.save()))
	}
	err := s.values.Each(ctx, func(key, data []byte) error {
		n := binary.BigEndian.Uint32(key)
		group, rest := key[4:4+n], key[4+n:]
		column := int(rest[0])<<8 | int(rest[1])
		if w == nil || !bytes.Equal(group, w.group) || column != w.column {
			if err := end(); err != nil {
				return err
			}
			w = &walk{group: bytes.Clone(group), column: column, number: s.options.Fields[s.measured[column].column].Type.Numeric()}
		}
		if rest[2] == 0 {
			more, _ := strconv.ParseInt(string(data), 10, 64)
			w.all += more
			return nil
		}
		count, text, _ := bytes.Cut(data, []byte(" "))
		more, _ := strconv.ParseInt(string(count), 10, 64)
		w.add(rest[3:], string(text), more)
		return nil
	})
	if err != nil {
		return err
	}
	return end()
}

// walk goes through the values of a column in a group, which come in their order.
type walk struct {
	group    []byte
	column   int
	number   bool
	all      int64 // how many values there are
	passed   int64 // and how many were passed
	last     []byte
	distinct int64
	middle   []string // the one or two values in the middle
}

func (w *walk) add(key []byte, text string, n int64) {
	if w.distinct == 0 || !bytes.Equal(key, w.last) {
		w.distinct++
		w.last = append(w.last[:0], key...)
	}
	// The middle ones are those of the numbers (all-1)/2 and all/2, counted from 0.
	for _, at := range []int64{(w.all - 1) / 2, w.all / 2} {
		if w.passed <= at && at < w.passed+n {
			w.middle = append(w.middle, text)
		}
	}
	w.passed += n
}

func (w *walk) median() string {
	if len(w.middle) < 2 {
		return ""
	}
	a, err := value.ParseNumber(w.middle[0])
	if !w.number || w.middle[0] == w.middle[1] || err != nil {
		return w.middle[0]
	}
	b, _ := value.ParseNumber(w.middle[1])
	half := new(big.Rat).Mul(new(big.Rat).Add(a.Rat(), b.Rat()), big.NewRat(1, 2))
	digits, _ := half.FloatPrec()
	return plain(half.FloatString(digits))
}

func (w *walk) save() []byte {
	data := binary.AppendUvarint([]byte{ofValues}, uint64(w.column))
	data = binary.AppendVarint(data, w.distinct)
	return append(data, w.median()...)
}

func loadTold(data []byte) (column int, c Column) {
	n, at := binary.Uvarint(data)
	data = data[at:]
	c.Distinct, at = binary.Varint(data)
	c.Median = string(data[at:])
	return int(n), c
}
