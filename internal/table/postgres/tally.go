package postgres

import (
	"bytes"
	"crypto/md5" //nolint:gosec // the sum is compared with the server's own, and nobody tries to make another text of it
	"encoding/binary"
	"fmt"
	"slices"
	"strings"
	"sync"
	"sync/atomic"

	"junvo/internal/table"
	"junvo/internal/value"
)

// What is sent is compared with what is there, in the transaction. The server says how many rows it has taken, which is
// enough where nothing comes between. Where a table has triggers, which leave rows out or change them, or a column is of
// a type that writes texts in its own way, the rows of the transaction are read back: of each column how many values
// there are, and the sum of their hashes.

// tally is what has been sent to a table that was there.
type tally struct {
	rows   atomic.Int64
	mu     sync.Mutex
	values []int64  // of each column; nil where rows need not be read back
	hashes []uint64 // their sums
}

// exact are the types that keep a value as it is, or refuse it.
var exact = []string{
	"text", "character varying", "smallint", "integer", "bigint", "numeric", "boolean", "date", "time without time zone",
	"timestamp without time zone", zoned, "json",
}

// rewriting are the types that always write texts in their own way.
var rewriting = []string{"jsonb", "hstore", "tsvector", "tsquery", "name"}

// prepare finds whether rows have to be read back, for columns of these types.
func (s *Sink) prepare(t *named, types []string) error {
	s.tally = &tally{}
	rows, err := texts(s.ctx, s.conn, `SELECT count(*) FROM pg_trigger WHERE NOT tgisinternal AND tgenabled <> 'D'
AND (tgrelid = to_regclass($1) OR tgrelid IN (SELECT relid FROM pg_partition_tree(to_regclass($1))))`, t.quoted())
	if err != nil {
		return err
	}
	if rows[0][0] != "0" || slices.ContainsFunc(types, func(typ string) bool { return !slices.Contains(exact, typ) }) {
		s.tally.values, s.tally.hashes = make([]int64, len(types)), make([]uint64, len(types))
	}
	return nil
}

// add adds the rows of a block. Several blocks may be added at once.
func (y *tally) add(rows *table.Rows) {
	values, hashes := make([]int64, len(y.values)), make([]uint64, len(y.values))
	for row := range rows.Count {
		if rows.Out != nil && !rows.Out[row] {
			continue
		}
		y.rows.Add(1)
		for c := range values {
			if cell := rows.Cells[c].At(row); len(cell) > 0 {
				values[c]++
				hashes[c] += hashOf(written(cell, &rows.Fields[c]))
			}
		}
	}
	if len(values) == 0 {
		return
	}
	y.mu.Lock()
	defer y.mu.Unlock()
	for c := range values {
		y.values[c] += values[c]
		y.hashes[c] += hashes[c]
	}
}

// hashOf is the first four bytes of a hash that the server computes, too.
func hashOf(text []byte) uint64 {
	sum := md5.Sum(text) //nolint:gosec // see above
	return uint64(binary.BigEndian.Uint32(sum[:4]))
}

// written is a value as the server writes it.
func written(cell []byte, f *table.Field) []byte {
	switch f.Type {
	case value.Integer, value.Decimal, value.Time, value.Timestamp:
		if bytes.IndexByte(cell, '.') >= 0 {
			cell = bytes.TrimRight(bytes.TrimRight(cell, "0"), ".")
		}
		return bytes.Replace(cell, []byte("T"), []byte(" "), 1)
	}
	return cell
}

// compare holds what the server has against what was sent.
func (s *Sink) compare(taken int64) error {
	y := s.tally
	if sent := y.rows.Load(); taken != sent {
		return fmt.Errorf("of %d rows the table has taken %d: a trigger leaves rows out; nothing was written", sent, taken)
	}
	if y.values == nil {
		return nil
	}
	parts := []string{"count(*)"}
	for i := range s.fields {
		parts = append(parts, "count("+s.quotedNames[i]+")", hashed(s.quotedNames[i], &s.fields[i]))
	}
	rows, err := texts(s.ctx, s.conn, "SELECT "+strings.Join(parts, ", ")+" FROM "+s.into.quoted()+
		" WHERE xmin = (txid_current() % 4294967296)::text::xid")
	if err != nil {
		return err
	}
	if have := rows[0][0]; have != fmt.Sprint(y.rows.Load()) {
		return fmt.Errorf("of %d rows that were sent the table has %s: a trigger leaves rows out or adds some; nothing was "+
			"written", y.rows.Load(), have)
	}
	for i := range s.fields {
		offsets := s.fields[i].Type == value.Timestamp && s.fields[i].Offsets // which the server does not keep
		if rows[0][1+2*i] != fmt.Sprint(y.values[i]) || !offsets && rows[0][2+2*i] != fmt.Sprint(y.hashes[i]) {
			return fmt.Errorf("the column %q of the table has other values than were sent: a trigger changes them, or its type "+
				"writes them in its own way; nothing was written", s.names[i])
		}
	}
	return nil
}

// hashed is the sum of the hashes of a column as the server computes it.
func hashed(name string, f *table.Field) string {
	text := name + "::text"
	switch f.Type {
	case value.Integer, value.Decimal:
		text = "trim_scale(" + name + "::numeric)::text"
	case value.Date:
		text = name + "::date::text"
	}
	return "coalesce(sum(('x' || substr(md5(" + text + "), 1, 8))::bit(32)::bigint), 0)"
}
