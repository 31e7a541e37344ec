package postgres

import (
	"bytes"
	"context"
	"errors"
	"fmt"
	"io"
	"strings"

	"github.com/jackc/pgx/v5/pgconn"

	"junvo/internal/table"
	"junvo/internal/table/copytext"
	"junvo/internal/value"
)

// Source reads a table, or what a query gives. It implements [table.Source].
type Source struct {
	info   table.Info
	conn   *pgconn.PgConn
	kinds  []kind
	feed   *feed
	cancel context.CancelFunc
	rows   int64 // that were read
}

// ErrQuery is a query that does more than ask.
var ErrQuery = errors.New("a query is one statement that gives rows, and changes nothing")

// beginRead begins a transaction that sees one state of the database and changes nothing.
const beginRead = "BEGIN TRANSACTION ISOLATION LEVEL REPEATABLE READ, READ ONLY"

// Open opens a table, or what a query gives. The name may be left out where there is one table only.
func Open(address, name, query string) (*Source, error) {
	ctx, cancel := context.WithCancel(context.Background())
	c, err := connect(ctx, address, beginRead)
	if err != nil {
		cancel()
		return nil, err
	}
	s := &Source{conn: c, cancel: cancel}
	if err := s.open(ctx, Shown(address), name, query); err != nil {
		cancel()
		closeNow(c)
		return nil, err
	}
	return s, nil
}

func (s *Source) open(ctx context.Context, shown, name, query string) error {
	decision := table.Decision{What: "query", Value: query, Why: "as told"}
	rest := query
	if query == "" {
		all, err := tables(ctx, s.conn)
		if err != nil {
			return err
		}
		chosen, why, err := choose(all, name)
		if err != nil {
			return err
		}
		decision = table.Decision{What: "table", Value: chosen.String(), Why: why}
		rest = "SELECT * FROM " + chosen.quoted()
		shown += "#" + chosen.String()
	}
	// One statement only can be prepared, so that what stands in brackets below can't leave them.
	d, err := s.conn.Prepare(ctx, "", rest, nil)
	if err != nil {
		return plain(err)
	}
	switch {
	case len(d.Fields) == 0 && query == "":
		return errors.New("the table has no column")
	case len(d.Fields) == 0 || len(d.ParamOIDs) > 0:
		return ErrQuery
	}
	names := make([]string, len(d.Fields))
	for i, f := range d.Fields {
		names[i] = f.Name
		s.kinds = append(s.kinds, kinds[f.DataTypeOID])
	}
	usable, notes := table.UsableNames(names, true)
	s.info = table.Info{
		Name: shown, Format: "PostgreSQL table", Bytes: -1, Typed: true, Records: true, Names: usable, Notes: notes,
		Files: []table.File{{Name: shown, FirstLine: 1}}, Decisions: []table.Decision{decision},
	}
	if query != "" {
		s.info.Format = "PostgreSQL query"
	}
	s.feed = newFeed()
	go func() {
		_, err := s.conn.CopyTo(ctx, s.feed, "COPY (\n"+strings.TrimRight(rest, "; \t\r\n")+"\n) TO STDOUT")
		s.feed.end(err)
	}()
	return nil
}

// Info implements [table.Source].
func (s *Source) Info() *table.Info { return &s.info }

// Close ends the use of the database.
func (s *Source) Close() error {
	s.cancel()
	s.feed.stop()
	if soon(s.feed.ended) {
		closeNow(s.conn)
	}
	return nil
}

// Next implements [table.Source]: it takes over rows as the server has sent them.
func (s *Source) Next(b *table.Block) error {
	chunk, err := s.feed.next()
	if err != nil {
		if errors.Is(err, io.EOF) {
			return err
		}
		return fmt.Errorf("the table could be read up to row %d only: %w", s.rows, plain(err))
	}
	b.Raw = append(b.Raw[:0], chunk...)
	s.feed.free <- chunk
	b.Width = len(s.info.Names)
	b.LineCount = uint32(bytes.Count(b.Raw, []byte{'\n'}))
	s.rows += int64(b.LineCount)
	return nil
}

// Split implements [table.Source].
func (s *Source) Split(b *table.Block) {
	b.Text = b.Buffer()
	for raw := b.Raw; len(raw) > 0; b.Rows++ {
		end := bytes.IndexByte(raw, '\n')
		s.row(b, raw[:end])
		raw = raw[end+1:]
	}
	b.Filled()
}

// row adds the cells of a row.
func (s *Source) row(b *table.Block, line []byte) {
	for _, k := range s.kinds {
		var cell []byte
		cell, line, _ = copytext.Cut(line)
		start := len(b.Text)
		stored := value.StoredNull
		if string(cell) != copytext.Null {
			b.Text, stored = k.append(b, cell)
		}
		b.Spans = append(b.Spans, table.Span{Start: uint32(start), N: uint32(len(b.Text) - start)})
		b.Kinds = append(b.Kinds, stored)
	}
}

// feed takes rows that the server sends, and hands them on by the block.
type feed struct {
	buffer  []byte
	full    chan []byte // blocks of whole rows
	free    chan []byte // blocks that have been used
	stopped chan struct{}
	ended   chan struct{} // closed when the server's statement has ended
	err     error         // seen by whoever sees full closed
}

// chunkSize is how many bytes of whole rows make a block, and maxRow is the longest row.
const (
	chunkSize = 256 << 10
	maxRow    = table.MaxCell + 1<<20
	chunks    = 4
)

func newFeed() *feed {
	f := &feed{full: make(chan []byte, chunks), free: make(chan []byte, chunks+2), stopped: make(chan struct{}), ended: make(chan struct{})}
	for range chunks {
		f.free <- nil
	}
	return f
}

// errStopped says that nobody reads on.
var errStopped = errors.New("stopped")

// Write takes what the server sends.
func (f *feed) Write(p []byte) (int, error) {
	f.buffer = append(f.buffer, p...)
	if len(f.buffer) < chunkSize {
		return len(p), nil
	}
	end := bytes.LastIndexByte(f.buffer, '\n') + 1
	if end == 0 {
		if len(f.buffer) > maxRow {
			return 0, fmt.Errorf("a row is longer than %d MB", maxRow>>20)
		}
		return len(p), nil
	}
	if !f.send(end) {
		return 0, errStopped
	}
	return len(p), nil
}

// send hands over the first bytes of the buffer. It reports whether someone reads on.
func (f *feed) send(end int) bool {
	var next []byte
	select {
	case next = <-f.free:
	case <-f.stopped:
		return false
	}
	next = append(next[:0], f.buffer[end:]...)
	select {
	case f.full <- f.buffer[:end]:
	case <-f.stopped:
		return false
	}
	f.buffer = next
	return true
}

// end says that the server has sent all, or how it has failed.
func (f *feed) end(err error) {
	if n := len(f.buffer); err == nil && n > 0 && f.buffer[n-1] != '\n' {
		err = io.ErrUnexpectedEOF
	}
	if err == nil && len(f.buffer) > 0 {
		f.send(len(f.buffer))
	}
	f.err = err
	close(f.full)
	close(f.ended)
}

// next returns the next block of whole rows.
func (f *feed) next() ([]byte, error) {
	chunk, more := <-f.full
	if !more && f.err != nil {
		return nil, f.err
	}
	if !more {
		return nil, io.EOF
	}
	return chunk, nil
}

// stop says that nobody reads on.
func (f *feed) stop() { close(f.stopped) }
