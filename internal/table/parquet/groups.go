package parquet

import (
	"bufio"
	"encoding/binary"
	"errors"
	"io"
	"slices"

	"github.com/parquet-go/parquet-go"
)

// The file is written in groups of rows, which are worked on two at a time: each has its own writer, and takes its place in the
// file in the order of the rows, so that the file does not depend on which is ready first.

// atOnce is how many groups are worked on at the same time; each takes memory for its rows.
const atOnce = 2

// batch is how many rows are handed to the library at once.
const batch = 64

// group is the rows of a group as text, all cells after each other.
type group struct {
	text    []byte
	lengths []uint32 // of each cell, row by row
	rg      *parquet.ConcurrentRowGroupWriter
	written chan error
}

// groupWriter writes a file in groups of rows.
type groupWriter interface {
	BeginRowGroup() *parquet.ConcurrentRowGroupWriter
	Close() error
}

// writeGroups reads the rows that were kept and writes them.
func (s *Sink) writeGroups(w groupWriter, columns []*column) error {
	in := bufio.NewReaderSize(s.spool, 1<<20)
	var working []*group
	var free []*group
	// take waits for the oldest group, and gives it its place.
	take := func() error {
		g := working[0]
		working = working[1:]
		if err := <-g.written; err != nil {
			return err
		}
		_, err := g.rg.Commit()
		free = append(free, g)
		return err
	}
	var err error
	for left := s.rows; err == nil && left > 0; {
		g := &group{}
		if n := len(free); n > 0 {
			g, free = free[n-1], free[:n-1]
		}
		var n int64
		if n, err = g.read(in, len(columns), left); err != nil {
			break
		}
		left -= n
		g.rg, g.written = w.BeginRowGroup(), make(chan error, 1)
		working = append(working, g)
		go func() { g.written <- g.write(columns) }()
		if len(working) == atOnce {
			err = take()
		}
	}
	for len(working) > 0 {
		if err == nil {
			err = take()
			continue
		}
		<-working[0].written // nothing works on when this returns
		working = working[1:]
	}
	return errors.Join(err, w.Close())
}

// read reads the rows of a group, of those that are left, and returns how many they are.
func (g *group) read(in *bufio.Reader, columns int, left int64) (rows int64, err error) {
	g.text, g.lengths = g.text[:0], g.lengths[:0]
	for bytes := 0; rows < left && bytes <= groupBytes; rows++ {
		for range columns {
			n, err := binary.ReadUvarint(in)
			if err != nil {
				return rows, err
			}
			start := len(g.text)
			g.text = slices.Grow(g.text, int(n))[:start+int(n)]
			if _, err := io.ReadFull(in, g.text[start:]); err != nil {
				return rows, err
			}
			g.lengths = append(g.lengths, uint32(n))
			bytes += int(n) + 8
		}
	}
	return rows, nil
}

// write hands the rows to the library.
func (g *group) write(columns []*column) error {
	cells := make([]parquet.Value, batch*len(columns))
	rows := make([]parquet.Row, batch)
	for i := range rows {
		rows[i] = cells[i*len(columns) : (i+1)*len(columns)]
	}
	text, lengths := g.text, g.lengths
	for len(lengths) > 0 {
		n := 0
		for ; n < batch && len(lengths) > 0; n++ {
			for c, length := range lengths[:len(columns)] {
				v, err := columns[c].value(text[:length], c)
				if err != nil {
					return err
				}
				rows[n][c] = v
				text = text[length:]
			}
			lengths = lengths[len(columns):]
		}
		if _, err := g.rg.WriteRows(rows[:n]); err != nil {
			return err
		}
	}
	return nil
}
