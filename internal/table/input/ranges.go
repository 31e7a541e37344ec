package input

import (
	"errors"
	"io"
	"os"
	"slices"

	"junvo/internal/table/delim"
)

// Cut is a large file of delimited text that is cut into pieces, each of which a worker walks through to find where its
// rows begin; see [delim.Range].
type Cut struct {
	Path   string
	Size   int64
	Pieces int
	each   int64
	source *Source
	text   *delim.Source
}

// NewCut cuts a file into pieces of that many bytes. It is nil, without an error, where the file can't be cut, or has no
// more than one piece; then it is read as it is.
func NewCut(path string, o Options, each int64) (*Cut, error) {
	if file, part := Part(path); part != "" || file == "-" {
		return nil, nil
	}
	src, err := Open(path, o)
	if err != nil {
		return nil, err
	}
	c := &Cut{Path: path, Size: src.Size, each: each, source: src}
	text, ok := src.Source.(*delim.Source)
	if ok && src.Size > each && text.Info().Decisions[0].What != "compression" {
		var body int64
		if body, err = text.Body(); err == nil && body < each {
			c.text, c.Pieces = text, int((src.Size+each-1)/each)
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
func (c *Cut) Ranges(walks [][]delim.Walk) (ranges []delim.Range, rows int64, err error) {
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
