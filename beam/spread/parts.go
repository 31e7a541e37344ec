// Package spread runs the commands of junvo over the parts of a table on Apache Beam.
//
// A table is cut into parts, which are whole files, groups of rows of Parquet files, or ranges of large files of
// delimited text (see the package delim), which are found in a pipeline of its own. Each part is worked on by the
// command itself, in the process of the worker, and what comes of it is brought together: what was collected for a
// profile by a combine, what was converted by the files that stand in a folder.
//
// All workers, and the program that starts the job, see the sources and the folder for what the parts leave at the same
// place of a file system.
package spread

import (
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"io"
	"os"
	"path/filepath"

	"github.com/apache/beam/sdks/v2/go/pkg/beam"
	"github.com/apache/beam/sdks/v2/go/pkg/beam/register"

	"junvo/internal/table"
	"junvo/internal/table/delim"
	"junvo/internal/table/input"
)

// Part is a part of a table.
type Part struct {
	Index    int // in the order of the table
	Path     string
	Range    *input.Range // nil for all of the file
	FirstRow int64        // the number of its first row in the table
}

// reading is how the files are read.
type reading struct {
	Options delim.Options
	Format  string
}

func (r reading) options() input.Options { return input.Options{Options: r.Options, Format: r.Format} }

// piece is a piece of a file, before it is known where its rows begin.
type piece struct {
	File  int
	Path  string
	Piece int // -1 for a file that is not cut
}

// walked is what was found of a piece.
type walked struct {
	File, Piece int
	Rows        int64 // of a file that is not cut
	Walks       []delim.Walk
}

// walkFn finds what is to be known of a piece, and writes it to the folder: the file's name says of which piece, so that
// a piece that is walked through again changes nothing.
type walkFn struct {
	Reading reading
	Each    int64
	Folder  string
}

// ProcessElement walks through a piece.
func (f *walkFn) ProcessElement(ctx context.Context, p piece) error {
	return failed(p.Path, f.walk(ctx, p))
}

func (f *walkFn) walk(ctx context.Context, p piece) error {
	w := walked{File: p.File, Piece: p.Piece}
	var err error
	if p.Piece < 0 {
		w.Rows, err = f.count(ctx, p.Path)
	} else {
		var c *input.Cut
		if c, err = input.NewCut(p.Path, f.Reading.options(), f.Each); err == nil {
			if c == nil {
				return errChanged
			}
			w.Walks, err = c.Walk(p.Piece)
			err = errors.Join(err, c.Close())
		}
	}
	if err != nil {
		return err
	}
	text, err := json.Marshal(w)
	if err != nil {
		return err
	}
	return appear(filepath.Join(f.Folder, fmt.Sprintf("walk-%06d-%08d.json", p.File, p.Piece+1)), text)
}

var errChanged = errors.New("it has changed while it was read")

func (f *walkFn) count(ctx context.Context, source string) (int64, error) {
	file, done, err := fetched(ctx, source)
	if err != nil {
		return 0, err
	}
	defer done()
	return countRows(ctx, file, f.Reading.options())
}

// countRows counts the rows of a file.
func countRows(ctx context.Context, path string, o input.Options) (rows int64, err error) {
	src, err := input.Open(path, o)
	if err != nil {
		return 0, err
	}
	defer src.Close()
	for b := (&table.Block{}); ; {
		b.Reset()
		err := src.Next(b)
		if errors.Is(err, io.EOF) {
			return rows, nil
		}
		if err == nil {
			err = ctx.Err()
		}
		if err != nil {
			return 0, err
		}
		src.Split(b)
		rows += b.RowsOfFile()
	}
}

// appear writes a file of the job's own, which appears whole. Its part file has a name that no other machine gives to
// another, and nothing is cleared away that may be of one.
func appear(path string, text []byte) error {
	f, err := os.CreateTemp(filepath.Dir(path), ".junvo-*")
	if err != nil {
		return err
	}
	defer os.Remove(f.Name()) // where it has not appeared
	_, err = f.Write(text)
	if err = errors.Join(err, f.Close()); err != nil {
		return err
	}
	return os.Rename(f.Name(), path)
}

// cut finds the parts of a table that the files make. Where the numbers of their rows are wanted, the rows of files that
// are not cut are counted.
func (j *Job) cut(ctx context.Context, paths []string, how reading, numbered bool) ([]Part, error) {
	var pieces []piece
	known := make([]bool, len(paths)) // which files' ranges are, without walking through them
	for i, path := range paths {
		n, all, err := j.piecesOf(path, how)
		if err != nil {
			return nil, err
		}
		known[i] = all
		for k := range n {
			pieces = append(pieces, piece{i, path, k})
		}
		if n == 0 && !known[i] && numbered && len(paths) > 1 {
			pieces = append(pieces, piece{i, path, -1})
		}
	}
	if len(pieces) > 0 {
		p, s := beam.NewPipelineWithRoot()
		beam.ParDo0(s, &walkFn{how, j.Each, j.folder}, beam.Reshuffle(s, beam.CreateList(s, pieces)))
		if err := j.run(ctx, p); err != nil {
			return nil, err
		}
	}
	return j.parts(paths, how, pieces, known)
}

// piecesOf returns how many pieces of a file are to be walked through, and whether its ranges are known without.
func (j *Job) piecesOf(path string, how reading) (pieces int, known bool, err error) {
	if remote(path) {
		return 0, false, nil
	}
	c, err := input.NewCut(path, how.options(), j.Each)
	if c == nil || err != nil {
		return 0, false, err
	}
	return c.Pieces, c.Pieces == 0, c.Close()
}

// rangesOf puts the ranges of a file together of what was found of its pieces, and counts its rows.
func (j *Job) rangesOf(path string, how reading, found []walked) (ranges []input.Range, rows int64, err error) {
	c, err := input.NewCut(path, how.options(), j.Each)
	if err != nil {
		return nil, 0, err
	}
	if c == nil || c.Pieces != len(found) {
		return nil, 0, &input.Error{Name: path, Err: errChanged}
	}
	var walks [][]delim.Walk
	for _, w := range found { // in their order, as the pieces are
		walks = append(walks, w.Walks)
	}
	ranges, rows, err = c.Ranges(walks)
	return ranges, rows, errors.Join(err, c.Close())
}

// parts puts the parts together of what was found of the pieces.
func (j *Job) parts(paths []string, how reading, pieces []piece, known []bool) (parts []Part, err error) {
	found := make([][]walked, len(paths))
	for _, p := range pieces {
		text, err := os.ReadFile(filepath.Join(j.folder, fmt.Sprintf("walk-%06d-%08d.json", p.File, p.Piece+1)))
		if err != nil {
			return nil, err
		}
		var w walked
		if err := json.Unmarshal(text, &w); err != nil {
			return nil, err
		}
		found[p.File] = append(found[p.File], w)
	}
	row := int64(1)
	for i, path := range paths {
		var ranges []input.Range
		rows := int64(0)
		switch {
		case known[i] || len(found[i]) > 0 && found[i][0].Piece >= 0:
			if ranges, rows, err = j.rangesOf(path, how, found[i]); err != nil {
				return nil, err
			}
		case len(found[i]) > 0:
			rows = found[i][0].Rows
		}
		if ranges == nil {
			parts = append(parts, Part{Index: len(parts), Path: path, FirstRow: row})
		}
		for _, r := range ranges {
			parts = append(parts, Part{Index: len(parts), Path: path, Range: &r, FirstRow: row + r.Row()})
		}
		row += rows
	}
	return parts, nil
}

func init() {
	register.DoFn2x1[context.Context, piece, error](&walkFn{})
}
