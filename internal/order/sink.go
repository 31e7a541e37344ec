package order

import (
	"context"
	"encoding/binary"

	"junvo/internal/table"
)

// Sink hands its rows to another sink in order, when all have come.
type Sink struct {
	to     table.Sink
	ctx    context.Context
	keys   []Key
	sorter *Sorter
	fields []table.Field
	before int64 // rows of the source so far

	finished bool
	err      error // of Finish
}

// Rows are handed on when there are this many, or this many bytes of them.
const (
	batch      = 4096
	batchBytes = 16 << 20
)

// NewSink returns a sink that orders rows by keys before another sink writes them. What
// does not fit in memory is kept in a folder.
func NewSink(ctx context.Context, to table.Sink, keys []Key, folder string) *Sink {
	return &Sink{to: to, ctx: ctx, keys: keys, sorter: NewSorter(folder, Memory)}
}

// Encode appends the rows as records: the key, and all cells.
func (s *Sink) Encode(dst []byte, rows *table.Rows) []byte {
	keys := NewKeys(s.keys)
	var key, data []byte
	for row := range rows.Count {
		if rows.Out != nil && !rows.Out[row] {
			continue
		}
		key = keys.Append(key[:0], func(column int) []byte {
			if column < 0 {
				return rows.Helpers[-1-column].At(row)
			}
			return rows.Cells[column].At(row)
		})
		data = binary.BigEndian.AppendUint64(data[:0], uint64(row)) // Write makes it the row's number
		for i := range rows.Fields {
			cell := rows.Cells[i].At(row)
			data = binary.AppendUvarint(data, uint64(len(cell)))
			data = append(data, cell...)
		}
		dst = AppendRecord(dst, key, data)
	}
	return dst
}

// Write keeps encoded rows.
func (s *Sink) Write(encoded []byte, rows *table.Rows) error {
	s.fields = rows.Fields
	for rest := encoded; len(rest) > 0; {
		var one record
		one, rest = cutRecord(rest)
		binary.BigEndian.PutUint64(one.data, binary.BigEndian.Uint64(one.data)+uint64(s.before)+1)
	}
	s.before += int64(rows.Count)
	return s.sorter.Add(encoded)
}

// Finish writes all rows in order.
func (s *Sink) Finish() error {
	if !s.finished {
		s.finished = true
		s.err = s.finish()
	}
	return s.err
}

func (s *Sink) finish() error {
	rows := &table.Rows{Fields: s.fields, Cells: make([]table.Values, len(s.fields))}
	var encoded []byte
	flush := func() error {
		encoded = s.to.Encode(encoded[:0], rows)
		err := s.to.Write(encoded, rows)
		rows.Count, rows.Numbers = 0, rows.Numbers[:0]
		for i := range rows.Cells {
			rows.Cells[i].Reset(nil)
		}
		return err
	}
	bytes := 0
	err := s.sorter.Each(s.ctx, func(_, data []byte) error {
		bytes += len(data)
		rows.Numbers = append(rows.Numbers, int64(binary.BigEndian.Uint64(data)))
		data = data[8:]
		for i := range rows.Cells {
			n, size := binary.Uvarint(data)
			cell := data[size : size+int(n)]
			data = data[size+int(n):]
			rows.Cells[i].AddText(cell)
		}
		if rows.Count++; rows.Count == batch || bytes > batchBytes {
			bytes = 0
			return flush()
		}
		return nil
	})
	if err == nil && rows.Count > 0 {
		err = flush()
	}
	s.sorter.Close()
	if err != nil {
		return err
	}
	return s.to.Finish()
}

// Commit makes the output appear.
func (s *Sink) Commit() error {
	if err := s.Finish(); err != nil {
		return err
	}
	return s.to.Commit()
}

// Abort leaves nothing behind.
func (s *Sink) Abort() {
	s.sorter.Close()
	s.to.Abort()
}
