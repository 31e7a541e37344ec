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

	"junvo/internal/table"
	"junvo/internal/table/delim"
	"junvo/internal/table/jsonlines"
	"junvo/internal/table/sqlite"
	"junvo/internal/table/workbook"
)

// Options say how to read; zero values leave it to detection.
type Options struct {
	delim.Options
	Stdin io.Reader // what "-" stands for

	path string // of the file that is opened
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
		file, _ := part(p)
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

// Open opens a path, or standard input for "-". A part of a container is named behind
// #, as in book.xlsx#Sheet2.
func Open(path string, o Options) (*Source, error) {
	s := &Source{Size: -1}
	var in io.Reader
	path, sheet := part(path)
	name := filepath.Base(path)
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
		switch container(f) {
		case zipMagic:
			return s.openWorkbook(f, path, sheet, o)
		case sqlite.Magic:
			f.Close()
			return s.openDatabase(path, sheet)
		}
	}
	if sheet != "" {
		s.close()
		return nil, &Error{path, fmt.Errorf("it is no workbook or database, so that it has no part %q", sheet), "Leave out what stands behind #."}
	}
	o.path = path
	src, err := s.open(in, name, o)
	if err != nil {
		s.close()
		return nil, explain(path, err)
	}
	s.Source = src
	return s, nil
}

// part takes apart the path of a container and the name of a part of it. A # may also
// stand in the name of a file.
func part(path string) (file, name string) {
	i := strings.LastIndexByte(path, '#')
	if i <= 0 {
		return path, ""
	}
	if _, err := os.Stat(path); err == nil {
		return path, ""
	}
	return path[:i], path[i+1:]
}

// zipMagic is how a zip archive begins, as workbooks are.
const zipMagic = "PK\x03\x04"

// container returns how a file begins if that makes it a container, or "".
func container(f *os.File) string {
	var head [16]byte
	n, _ := f.ReadAt(head[:], 0) // what can't be read here can't be read later either
	for _, magic := range []string{zipMagic, sqlite.Magic} {
		if strings.HasPrefix(string(head[:n]), magic) {
			return magic
		}
	}
	return ""
}

func (s *Source) openDatabase(path, name string) (*Source, error) {
	src, err := sqlite.Open(path, s.Size, name)
	if err != nil {
		return nil, &Error{path, err, ""}
	}
	s.Source, s.close = src, src.Close
	return s, nil
}

func (s *Source) openWorkbook(f *os.File, path, sheet string, o Options) (*Source, error) {
	src, err := workbook.Open(f, s.Size, filepath.Base(path), sheet, workbook.Options{HeaderRow: o.HeaderRow})
	if err != nil {
		f.Close()
		do := ""
		if errors.Is(err, workbook.ErrNoSheet) {
			do = "If it is another archive, unpack it and name a file in it."
		}
		return nil, &Error{path, err, do}
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
	buffered := bufio.NewReaderSize(counter{in, &s.read}, 256<<10)
	r, how, err := decompress(buffered)
	if err != nil {
		return nil, err
	}
	if how != "" {
		r = truncated{r, how}
	}
	again := bufio.NewReaderSize(r, 4096)
	if head, _ := again.Peek(1024); jsonlines.Looks(head) {
		return s.openRecords(again, name, o)
	}
	r = again
	src, err := delim.Open(r, name, s.Size, o.Options)
	if err != nil {
		return nil, err
	}
	if how != "" {
		info := src.Info()
		info.Decisions = append([]table.Decision{{What: "compression", Value: how, Why: "the file's first bytes"}}, info.Decisions...)
	}
	return src, nil
}

// openRecords opens JSON, which is read twice: for its columns, and for its rows. What can
// be read once only is kept in a file meanwhile.
func (s *Source) openRecords(r io.Reader, name string, o Options) (table.Source, error) {
	path := o.path
	if path == "-" {
		f, err := os.CreateTemp("", "junvo-input-*")
		if err != nil {
			return nil, err
		}
		path = f.Name()
		before := s.close
		s.close = func() error { return errors.Join(before(), os.Remove(path)) }
		if _, err := io.Copy(f, r); err != nil {
			return nil, errors.Join(err, f.Close())
		}
		if err := f.Close(); err != nil {
			return nil, err
		}
	}
	src, err := jsonlines.Open(func() (io.ReadCloser, error) {
		f, err := os.Open(path)
		if err != nil {
			return nil, err
		}
		s.read.Store(0)
		in, how, err := decompress(bufio.NewReaderSize(counter{f, &s.read}, 256<<10))
		if err != nil {
			return nil, errors.Join(err, f.Close())
		}
		if how != "" {
			in = truncated{in, how}
		}
		return struct {
			io.Reader
			io.Closer
		}{in, f}, nil
	}, name, s.Size)
	if err != nil {
		return nil, err
	}
	before := s.close
	s.close = func() error { return errors.Join(src.Close(), before()) }
	return src, nil
}

// decompress reads through a compression that the first bytes show.
func decompress(r *bufio.Reader) (io.Reader, string, error) {
	head, err := r.Peek(6)
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
	case bytes.HasPrefix(head, []byte("PK\x03\x04")):
		return nil, "", errors.New("a workbook or other archive can't be read as a stream; keep it in a file first")
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
