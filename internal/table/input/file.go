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
	"sync/atomic"

	"github.com/klauspost/compress/gzip"
	"github.com/klauspost/compress/zstd"
	"github.com/ulikunitz/xz"

	"junvo/internal/table"
	"junvo/internal/table/wholefile"
)

// file is where the bytes of a source come from: a file, standard input, or a file in an archive.
type file struct {
	path  string // as messages have it
	name  string // as pages have it
	part  string // what stands after #
	disk  string // where it can be read at any place; "" for a stream
	size  int64  // in bytes; -1 where that is not known
	once  bool   // it can be opened once only
	depth int    // in how many archives it is
	bound int64  // how many bytes may be unpacked of it; 0 for any number
	open  func() (io.ReadCloser, error)
}

// fileAt finds a file, or standard input for "-".
func fileAt(path, part string, o *Options) (*file, error) {
	if path == "-" {
		return &file{
			path: path, name: "standard input", part: part, size: -1, once: true,
			open: func() (io.ReadCloser, error) { return io.NopCloser(o.Stdin), nil },
		}, nil
	}
	info, err := os.Stat(path)
	switch {
	case err != nil:
		return nil, missing(path, err)
	case info.IsDir():
		return nil, &Error{path, errors.New("it is a folder"), "Name a file in it."}
	}
	f := &file{path: path, name: o.shownName(path), part: part, size: -1, once: true, open: func() (io.ReadCloser, error) {
		in, err := os.Open(path)
		if err != nil {
			return nil, missing(path, err)
		}
		return in, nil
	}}
	if info.Mode().IsRegular() {
		f.size, f.disk, f.once = info.Size(), path, false
	}
	return f, nil
}

func missing(path string, err error) error {
	switch {
	case errors.Is(err, fs.ErrNotExist):
		do := "Check the name."
		if near := nearest(path); near != "" {
			do = fmt.Sprintf("Did you mean %s?", near)
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

// headSize is how many bytes of a file are looked at to see what it is.
const headSize = 16 << 10

// stream is an open file, read through its compression.
type stream struct {
	*bufio.Reader
	io.Closer
	how string // the compression; "" for none
}

// stream opens a file. Its bytes are counted from 0 as they are read.
func (f *file) stream(read *atomic.Int64) (*stream, error) {
	in, err := f.open()
	if err != nil {
		return nil, err
	}
	read.Store(0)
	// The buffer is no larger than a block, which is then read with no copy.
	r, how, err := decompress(bufio.NewReaderSize(counter{in, read}, 64<<10))
	if err != nil {
		return nil, errors.Join(err, in.Close())
	}
	if how != "" {
		r = truncated{r, how}
	}
	return &stream{bufio.NewReaderSize(r, headSize), in, how}, nil
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

// onDisk opens a file for reading at any place. What is a stream, or compressed, is kept in a temporary file
// meanwhile.
func (s *Source) onDisk(f *file, r *stream) (*os.File, error) {
	path := f.disk
	if path == "" || r.how != "" {
		var err error
		if path, err = s.spool(f, r); err != nil {
			return nil, err
		}
	}
	disk, err := os.Open(path)
	if err != nil {
		return nil, missing(path, err)
	}
	s.onClose(disk.Close)
	return disk, nil
}

// What is unpacked into a temporary file may have so many bytes, and maxUnpacked for each byte of what it is unpacked
// from. A test makes it less.
var maxSpool int64 = 1 << 30

const maxUnpacked = 100

// spool keeps the rest of a stream in a temporary file until the source is closed.
func (s *Source) spool(f *file, r *stream) (path string, err error) {
	limit := f.bound
	if r.how != "" && f.size >= 0 {
		limit = maxSpool + maxUnpacked*f.size
	}
	t, err := wholefile.Temp(os.TempDir(), "junvo-input")
	if err != nil {
		return "", err
	}
	s.onClose(func() error { return wholefile.Remove(t.Name()) })
	in := io.Reader(r)
	if limit > 0 {
		in = io.LimitReader(r, limit+1)
	}
	n, err := io.Copy(t, in)
	if f.size < 0 {
		f.size, s.Size = n, n
	}
	if err == nil && limit > 0 && n > limit {
		err = fmt.Errorf("it unpacks to more than %d MB", limit>>20)
	}
	return t.Name(), errors.Join(err, t.Close())
}
