package input

import (
	"errors"
	"io"
	"os"
	"slices"

	"junvo/internal/table/delim"
	"junvo/internal/table/parquet"
)

// Range is a part of a file, whole rows, that is read by itself: of delimited text, or of a Parquet file.
type Range struct {
	Text   *delim.Range
	Groups *parquet.Range
}

// Row returns how many rows stand before it.
func (r *Range) Row() int64 {
	if r.Groups != nil {
		return r.Groups.Row
	}
	return r.Text.Row
}

// narrow makes the source read a range of its file only.
func (s *Source) narrow(f *file, r *Range) error {
	if !s.direct {
		return delim.ErrNoRanges
	}
	switch src := s.Source.(type) {
	case *parquet.Source:
		if r.Groups != nil {
			return src.Narrow(*r.Groups)
		}
	case *delim.Source:
		if r.Text == nil {
			break
		}
		in, err := src.Narrow(*r.Text, f.size, fromDisk(f.disk))
		if err == nil {
			s.onClose(in.Close)
		}
		return err
	}
	return delim.ErrNoRanges
}

// Cut is a large file that is read in ranges. Delimited text is cut into pieces, each of which a worker walks through to
// find where its rows begin; see [delim.Range]. Of a Parquet file all is known, so that it has no pieces.
type Cut struct {
	Path   string
	Size   int64
	Pieces int
	each   int64
	source *Source
	text   *delim.Source
	groups []parquet.Range
	rows   int64 // of the groups
}

// NewCut cuts a file into ranges of about that many bytes. It is nil, without an error, where the file can't be cut, or
// is delimited text of no more than one piece; then it is read as it is.
func NewCut(path string, o Options, each int64) (*Cut, error) {
	if file, part := Part(path); part != "" || file == "-" {
		return nil, nil
	}
	src, err := Open(path, o)
	if err != nil {
		return nil, err
	}
	c := &Cut{Path: path, Size: src.Size, each: each, source: src}
	switch inner := src.Source.(type) {
	case *delim.Source:
		var body int64
		if src.Size <= each || !src.direct {
			break
		}
		if body, err = inner.Body(); err == nil && body < each {
			c.text, c.Pieces = inner, int((src.Size+each-1)/each)
			return c, nil
		}
	case *parquet.Source:
		if src.direct {
			c.groups, c.rows = inner.Ranges(each)
			return c, nil
		}
	}
	if errors.Is(err, delim.ErrNoRanges) {
		err = nil
	}
	return nil, errors.Join(err, src.Close())
}

// Close ends the use of it.
func (c *Cut) Close() error { return c.source.Close() }

func fromDisk(path string) delim.From {
	return func(offset int64) (io.ReadCloser, error) {
		f, err := os.Open(path)
		if err != nil {
			return nil, err
		}
		if _, err := f.Seek(offset, io.SeekStart); err != nil {
			return nil, errors.Join(err, f.Close())
		}
		return f, nil
	}
}

func (c *Cut) bounds(piece int) (from, to int64) {
	from = int64(piece) * c.each
	return from, min(from+c.each, c.Size)
}

// Walk walks through a piece in the ways in which it may begin.
func (c *Cut) Walk(piece int) ([]delim.Walk, error) {
	from, to := c.bounds(piece)
	if piece > 0 {
		return c.text.Probe(fromDisk(c.Path), from, to, c.Size)
	}
	body, err := c.text.Body()
	if err != nil {
		return nil, err
	}
	w, err := c.text.Walk(fromDisk(c.Path), body, to, c.Size)
	return []delim.Walk{w}, err
}

// Ranges puts the ranges together of what was found of each piece, and counts the rows. There are none where they can't
// be read by themselves.
func (c *Cut) Ranges(walks [][]delim.Walk) (all []Range, rows int64, err error) {
	for i := range c.groups {
		all = append(all, Range{Groups: &c.groups[i]})
	}
	if c.text == nil {
		return all, c.rows, nil
	}
	ranges, rows, err := c.textRanges(walks)
	for i := range ranges {
		all = append(all, Range{Text: &ranges[i]})
	}
	return all, rows, err
}

func (c *Cut) textRanges(walks [][]delim.Walk) (ranges []delim.Range, rows int64, err error) {
	ranges, rows, err = c.text.Ranges(walks[0][0], walks[1:], func(piece int, begin int64) (delim.Walk, error) {
		_, to := c.bounds(piece + 1)
		return c.text.Walk(fromDisk(c.Path), begin, to, c.Size)
	})
	beyond := false
	for _, list := range walks {
		beyond = beyond || slices.ContainsFunc(list, func(w delim.Walk) bool { return w.Beyond })
	}
	if err != nil || !beyond {
		return ranges, rows, err
	}
	late, err := c.text.LateEncoding()
	switch {
	case err != nil || late.Value == "":
		return ranges, rows, err
	case !delim.AsBytes(late.Value):
		return nil, rows, nil
	}
	for i := range ranges {
		ranges[i].Encoding = late
	}
	return ranges, rows, nil
}
