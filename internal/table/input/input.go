// Package input opens sources: it finds the file, reads through compression, and
// hands the bytes to the package of the format.
//
//	src, err := input.Open("landings.csv.gz", input.Options{})
//	defer src.Close()
package input

import (
	"bufio"
	"bytes"
	"compress/bzip2"
	"errors"
	"fmt"
	"io"
	"io/fs"
	"os"
	"path/filepath"
	"strings"
	"sync/atomic"

	"github.com/klauspost/compress/gzip"
	"github.com/klauspost/compress/zstd"
	"github.com/ulikunitz/xz"
	"golang.org/x/text/transform"

	"junvo/internal/table"
	"junvo/internal/table/delim"
	"junvo/internal/table/jsonlines"
)

// Options say how to read; zero values leave it to detection.
type Options struct {
	delim.Options
	Stdin  io.Reader // what "-" stands for
	Format string    // one of Formats; "" for what the content shows
	Query  string    // in SQL, in place of a table of a database
	// Shown are the names that are shown for paths of files that stand for others.
	Shown map[string]string

	path string // of the file that is opened
	part string // of it, as it is named after #
	// decoder makes UTF-8 of JSON in another encoding; nil for none.
	decoder func() transform.Transformer
}

// Source is an open source.
type Source struct {
	table.Source
	Size  int64 // of the file in bytes, compressed if it is; -1 where that is not known
	read  atomic.Int64
	close func() error
}

// Read returns how many bytes of the file have been read so far.
func (s *Source) Read() int64 { return s.read.Load() }

// Close ends the use of the source.
func (s *Source) Close() error { return s.close() }

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
		parts = append(parts, s.Info())
		all.Size += max(0, s.Size)
		s.Close()
	}
	// The files are opened again one after the other, so that their number does not matter.
	current := &Source{close: func() error { return nil }}
	all.close = func() error { return current.Close() }
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
		return nil, &Error{paths[0], err, "Profile the files one by one, or leave out the one that differs."}
	}
	all.Source = chain
	return all, nil
}

// Paths replaces patterns by the files that match. A path that exists stands for itself.
func Paths(paths []string) ([]string, error) {
	var out []string
	for _, p := range paths {
		file, _ := Part(p)
		_, err := os.Stat(file)
		if err == nil || p == "-" || !strings.ContainsAny(p, "*?[") {
			out = append(out, p)
			continue
		}
		found, err := filepath.Glob(p)
		if err != nil || len(found) == 0 {
			return nil, &Error{p, errors.New("no file matches the pattern"), "Check the folder and the pattern."}
		}
		out = append(out, found...)
	}
	return out, nil
}

// Open opens a path, or standard input for "-". A part of a container is named after
// #, as in book.xlsx#Sheet2.
func Open(path string, o Options) (*Source, error) {
	s, err := open(path, o)
	var e *Error
	if shown := o.Shown[path]; shown != "" && errors.As(err, &e) {
		e.Name = shown
	}
	return s, err
}

func open(path string, o Options) (*Source, error) {
	s := &Source{Size: -1}
	var in io.Reader
	path, sheet := Part(path)
	name := filepath.Base(path)
	if shown := o.Shown[path]; shown != "" {
		name = shown
	}
	if path == "-" {
		in, name = o.Stdin, "standard input"
		s.close = func() error { return nil }
	} else {
		f, err := os.Open(path)
		if err != nil {
			return nil, missing(path, err)
		}
		info, err := f.Stat()
		if err == nil && info.IsDir() {
			err = &Error{path, errors.New("it is a folder"), "Name a file in it."}
		}
		if err != nil {
			f.Close()
			return nil, err
		}
		if info.Mode().IsRegular() {
			s.Size = info.Size()
		}
		in, s.close = f, f.Close
		if open := containers[container(f, &o)]; open != nil {
			return open(s, f, path, sheet, o)
		}
	}
	if o.Query != "" {
		s.close()
		return nil, &Error{path, errors.New("it is no database, and a query asks one"), "Leave out --query."}
	}
	o.path, o.part = path, sheet
	src, err := s.open(in, name, o)
	if err != nil {
		s.close()
		return nil, explain(path, err)
	}
	s.Source = src
	return s, nil
}

func missing(path string, err error) error {
	switch {
	case errors.Is(err, fs.ErrNotExist):
		do := "Check the name."
		if near := nearest(path); near != "" {
			do = fmt.Sprintf("Is %s meant?", near)
		}
		return &Error{path, errors.New("there is no such file"), do}
	case errors.Is(err, fs.ErrPermission):
		return &Error{path, errors.New("permission denied"), "Ask for the right to read it."}
	}
	return &Error{path, err, ""}
}

// nearest returns the file beside path whose name begins or ends alike, if there is one.
func nearest(path string) string {
	entries, err := os.ReadDir(filepath.Dir(path))
	if err != nil {
		return ""
	}
	names := make([]string, 0, len(entries))
	for _, e := range entries {
		if !e.IsDir() {
			names = append(names, e.Name())
		}
	}
	if n := table.Nearest(filepath.Base(path), names); n != "" {
		return filepath.Join(filepath.Dir(path), n)
	}
	return ""
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

// counter counts the bytes of the file as they are read.
type counter struct {
	r io.Reader
	n *atomic.Int64
}

func (c counter) Read(p []byte) (int, error) {
	n, err := c.r.Read(p)
	c.n.Add(int64(n))
	return n, err
}

func (s *Source) open(in io.Reader, name string, o Options) (table.Source, error) {
	buffered := bufio.NewReaderSize(counter{in, &s.read}, 64<<10) // no larger than a block, which is then read with no copy
	r, how, err := decompress(buffered)
	if err != nil {
		return nil, err
	}
	if how != "" {
		r = truncated{r, how}
	}
	again := bufio.NewReaderSize(r, headSize)
	head, _ := again.Peek(headSize)
	if o.Format == "" {
		if err := recognise(o.path, head); err != nil {
			return nil, err
		}
	}
	json, err := s.looksJSON(head, &o)
	if err != nil {
		return nil, err
	}
	if json {
		return s.openRecords(again, name, o)
	}
	if o.part != "" {
		return nil, &Error{
			o.path, fmt.Errorf("it is no workbook, database or JSON, so that it has no part %q", o.part),
			"Leave out what stands after #.",
		}
	}
	r = again
	src, err := delim.Open(r, name, s.Size, o.Options)
	if err != nil {
		return nil, err
	}
	if how != "" {
		info := src.Info()
		info.Decisions = append([]table.Decision{{What: "compression", Value: how, Why: "the file's first bytes"}},
			info.Decisions...)
	}
	return src, nil
}

// looksJSON reports whether a file is JSON, in UTF-8 or another encoding that is told or shown.
func (s *Source) looksJSON(head []byte, o *Options) (bool, error) {
	name, decoder, err := delim.Decoder(o.Encoding, head)
	if err != nil {
		return false, err
	}
	if decoder != nil {
		head, _, _ = transform.Bytes(decoder, head) // the last character may be cut off
		o.decoder = func() transform.Transformer {
			_, d, _ := delim.Decoder(name, nil)
			return d
		}
	}
	return o.Format == "json" || o.Format == "" && jsonlines.Looks(head), nil
}

// headSize is how many bytes of a file are looked at to see what it is.
const headSize = 16 << 10

// decompress reads through a compression that the first bytes show.
func decompress(r *bufio.Reader) (io.Reader, string, error) {
	head, err := r.Peek(16)
	if err != nil && !errors.Is(err, io.EOF) {
		return nil, "", err
	}
	switch {
	case bytes.HasPrefix(head, []byte{0x1f, 0x8b}):
		z, err := gzip.NewReader(r)
		return z, "gzip", err
	case bytes.HasPrefix(head, []byte{0x28, 0xb5, 0x2f, 0xfd}):
		z, err := zstd.NewReader(r, zstd.WithDecoderConcurrency(1), zstd.WithDecoderMaxMemory(128<<20))
		return z, "zstd", err
	case bytes.HasPrefix(head, []byte("BZh")):
		return bzip2.NewReader(r), "bzip2", nil
	case bytes.HasPrefix(head, []byte("PK\x03\x04")), bytes.HasPrefix(head, []byte("PAR1")) && !textual(head[4:]), bytes.HasPrefix(head, []byte("SQLite form")) && !textual(head[15:]):
		return nil, "", errors.New("a workbook, Parquet file or database can't be read as a stream; keep it in a file first")
	case bytes.HasPrefix(head, []byte{0xfd, '7', 'z', 'X', 'Z', 0}):
		z, err := xz.NewReader(r)
		return z, "xz", err
	}
	return r, "", nil
}

// truncated says of errors inside compressed files what they mean.
type truncated struct {
	r   io.Reader
	how string
}

func (t truncated) Read(p []byte) (int, error) {
	n, err := t.r.Read(p)
	if err != nil && !errors.Is(err, io.EOF) {
		err = fmt.Errorf("the %s data is damaged or cut off (%v)", t.how, err)
	}
	return n, err
}
