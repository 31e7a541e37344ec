// Package input opens sources: it finds the file, reads through compression and archives, and
// hands the bytes to the package of the format.
//
//	src, err := input.Open("landings.csv.gz", input.Options{})
//	defer src.Close()
package input

import (
	"errors"
	"fmt"
	"io"
	"path/filepath"
	"slices"
	"sync/atomic"

	"golang.org/x/text/transform"

	"junvo/internal/table"
	"junvo/internal/table/delim"
	"junvo/internal/table/postgres"
)

// Options say how to read; zero values leave it to detection.
type Options struct {
	delim.Options
	Stdin  io.Reader // what "-" stands for
	Format string    // one of Formats; "" for what the content shows
	Query  string    // in SQL, in place of a table of a database
	Range  *Range    // of the file; nil for all of it
	// Shown are the names that are shown for paths of files that stand for others.
	Shown map[string]string

	// decoder makes UTF-8 of a text in another encoding, charset; nil for none.
	decoder func() transform.Transformer
	charset string
}

// Source is an open source.
type Source struct {
	table.Source
	Size   int64 // of the file in bytes, compressed if it is; -1 where that is not known
	direct bool  // the bytes are those of the file itself, which can be read at any place
	read   atomic.Int64
	closes []func() error // what is to be closed, the last first
}

// Read returns how many bytes of the file have been read so far.
func (s *Source) Read() int64 { return s.read.Load() }

// Close ends the use of the source.
func (s *Source) Close() error {
	var all error
	for _, end := range slices.Backward(s.closes) {
		all = errors.Join(all, end())
	}
	s.closes = nil
	return all
}

// onClose adds what is to be done when the source is closed, before what was added earlier.
func (s *Source) onClose(end func() error) { s.closes = append(s.closes, end) }

// Error is a source that can't be read, and what to do about it.
type Error struct {
	Name string
	Err  error
	Do   string
}

func (e *Error) Error() string {
	if e.Do == "" {
		return fmt.Sprintf("can't read %s: %v", e.Name, e.Err)
	}
	return fmt.Sprintf("can't read %s: %v. %s", e.Name, e.Err, e.Do)
}

func (e *Error) Unwrap() error { return e.Err }

// OpenAll opens several paths as one table. A path may be a pattern such as
// 2021-*.csv, which stands for the files that match, in the order of their names.
func OpenAll(paths []string, o Options) (*Source, error) {
	paths, err := Paths(paths)
	if err != nil {
		return nil, err
	}
	if len(paths) == 1 {
		return Open(paths[0], o)
	}
	all := &Source{}
	var parts []*table.Info
	for _, p := range paths {
		s, err := Open(p, o)
		if err != nil {
			return nil, err
		}
		parts = append(parts, s.Info().Own())
		all.Size += max(0, s.Size)
		s.Close()
	}
	// The files are opened again one after the other, so that their number does not matter.
	current := &Source{}
	all.onClose(func() error { return current.Close() })
	chain, err := table.NewChain(parts, func(part int) (table.Source, error) {
		all.read.Add(current.Read())
		current.Close()
		s, err := Open(paths[part], o)
		if err != nil {
			return nil, err
		}
		current = s
		return s.Source, nil
	})
	if err != nil {
		return nil, &Error{paths[0], err, "Go through them one by one (--each, or a folder for the output), or leave out " +
			"the one that differs."}
	}
	all.Source = chain
	return all, nil
}

// Open opens a path, or standard input for "-". A part of a container is named after
// #, as in book.xlsx#Sheet2.
func Open(path string, o Options) (*Source, error) {
	at, part := Part(path)
	if postgres.Is(at) {
		return openServer(at, part, o)
	}
	f, err := fileAt(at, part, &o)
	if err == nil {
		s := &Source{Size: f.size}
		if err = s.open(f, o); err == nil {
			return s, nil
		}
		s.Close()
		err = explain(f.path, err)
	}
	var e *Error
	if shown := o.Shown[at]; shown != "" && errors.As(err, &e) {
		e.Name = shown
	}
	return nil, err
}

// openServer opens a table of a server.
func openServer(address, name string, o Options) (*Source, error) {
	shown := postgres.Shown(address)
	if name != "" && o.Query != "" {
		return nil, &Error{shown, errors.New("a query takes the place of a table"), "Leave out what stands after #."}
	}
	src, err := postgres.Open(address, name, o.Query)
	if err != nil {
		return nil, &Error{shown, err, ""}
	}
	s := &Source{Source: src, Size: -1}
	s.onClose(src.Close)
	return s, nil
}

func explain(path string, err error) error {
	var e *Error
	var option *delim.OptionError
	switch {
	case errors.As(err, &e), errors.As(err, &option):
		return err
	case errors.Is(err, delim.ErrBinary):
		return &Error{path, err, "If it is text in an unusual encoding, name it with --encoding."}
	case errors.Is(err, delim.ErrEmpty):
		return &Error{path, err, "There is no header and no row in it."}
	}
	return &Error{path, err, ""}
}

// open opens what the content of a file shows.
func (s *Source) open(f *file, o Options) error {
	r, err := f.stream(&s.read)
	if err != nil {
		return err
	}
	s.onClose(r.Close)
	s.direct = f.disk != "" && r.how == ""
	head, _ := r.Peek(headSize) // what can't be read here can't be read later either
	if c := containerOf(head, &o); c != nil {
		if o.Query != "" && !c.asks {
			return errNoQuery(f)
		}
		disk, err := s.onDisk(f, r)
		if err != nil {
			return err
		}
		if err := c.open(s, disk, f, o); err != nil || o.Range == nil {
			return err
		}
		return s.narrow(f, o.Range)
	}
	if o.Query != "" {
		return errNoQuery(f)
	}
	m, err := markupOf(head, &o)
	if err != nil {
		return err
	}
	if m == nil && o.Format == "" {
		err = recognise(f.path, head)
	}
	switch {
	case err != nil:
		return err
	case m != nil:
		return s.openMarkup(m, r, f, o)
	case f.part != "":
		return &Error{
			f.path, fmt.Errorf("it is no workbook, database, archive, page or JSON, so that it has no part %q", f.part),
			"Leave out what stands after #.",
		}
	}
	src, err := delim.Open(r, f.name, s.Size, o.Options)
	if err != nil {
		return err
	}
	if r.how != "" {
		info := src.Info()
		info.Decisions = append([]table.Decision{{What: "compression", Value: r.how, Why: "the file's first bytes"}},
			info.Decisions...)
	}
	s.Source = src
	if o.Range == nil {
		return nil
	}
	return s.narrow(f, o.Range)
}

// errNoQuery says that a file is no database.
func errNoQuery(f *file) error {
	return &Error{f.path, errors.New("it is no database, and a query asks one"), "Leave out --query."}
}

// shownName returns the name that is shown for a path.
func (o *Options) shownName(path string) string {
	if shown := o.Shown[path]; shown != "" {
		return shown
	}
	return filepath.Base(path)
}
