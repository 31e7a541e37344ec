package input

import (
	"archive/zip"
	"compress/bzip2"
	"errors"
	"fmt"
	"io"
	"path"
	"strings"
	"sync/atomic"
	"unicode/utf8"

	"github.com/klauspost/compress/zstd"
	"github.com/ulikunitz/xz"
	"golang.org/x/text/encoding/charmap"

	"junvo/internal/table"
	"junvo/internal/table/postgres"
)

// A file in a ZIP archive is opened as any other, whatever it is: text, compressed text, a workbook, an archive.

// maxArchives is in how many archives a file may be: some archives hold themselves.
const maxArchives = 4

// Methods of compression beyond those of the library (APPNOTE.TXT of the ZIP format, 4.4.5).
const (
	methodBzip2 = 12
	methodXZ    = 95
)

// encrypted is the bit of an archive's file that says that it is.
const encrypted = 1

// entry is a file in an archive.
type entry struct {
	*zip.File
	name string // in UTF-8
}

// entries returns the files of an archive that can be tables: neither folders nor what a system adds for itself.
func entries(z *zip.Reader) (out []entry) {
	for _, f := range z.File {
		e := entry{f, f.Name}
		if f.NonUTF8 && !utf8.ValidString(f.Name) {
			e.name, _ = charmap.CodePage437.NewDecoder().String(f.Name) // what the format says of such names
		}
		base := path.Base(strings.ReplaceAll(e.name, `\`, "/"))
		own := strings.HasPrefix(e.name, "__MACOSX/") || strings.HasPrefix(base, ".")
		if !f.FileInfo().IsDir() && !own {
			out = append(out, e)
		}
	}
	return out
}

// openArchive opens a file in an archive: the one that is named after #, or the only one.
func (s *Source) openArchive(z *zip.Reader, f *file, o Options) error {
	e, rest, err := choose(z, f)
	if err != nil {
		return err
	}
	inner, err := f.entry(z, e, rest)
	if err != nil {
		return err
	}
	s.Size = inner.size
	if err := s.open(inner, o); err != nil {
		return explain(inner.path, err)
	}
	if f.part == "" {
		info := s.Info()
		d := table.Decision{What: "file", Value: e.name, Why: "the only one of the archive"}
		info.Decisions = append([]table.Decision{d}, info.Decisions...)
	}
	return nil
}

// choose returns the file of an archive that is meant, and what stands after its name.
func choose(z *zip.Reader, f *file) (e entry, rest string, err error) {
	all := entries(z)
	names := namesOf(all)
	if len(all) == 0 {
		return e, "", &Error{f.path, errors.New("it is an archive (ZIP) with no file in it"), ""}
	}
	for _, e := range all {
		if rest, ok := strings.CutPrefix(f.part, e.name); ok && (rest == "" || rest[0] == '#') {
			return e, strings.TrimPrefix(rest, "#"), nil
		}
	}
	// A name without its folder, or in other letters, will do where it is one file's only.
	parts := table.Parts{What: "file", Example: path.Base(f.name), Names: names, Short: path.Base}
	i, _, err := parts.Choose(f.part)
	if err != nil {
		return e, "", &Error{f.path, err, ""}
	}
	return all[i], "", nil
}

// entry returns a file of an archive as a file, within bounds.
func (f *file) entry(z *zip.Reader, e entry, part string) (*file, error) {
	name := f.path + "#" + e.name
	switch {
	case e.Flags&encrypted != 0:
		return nil, &Error{name, errors.New("it is encrypted"), "Unpack the archive with its password first."}
	case f.depth+1 == maxArchives:
		return nil, &Error{name, fmt.Errorf("it is in %d archives", maxArchives), "Unpack them first."}
	}
	z.RegisterDecompressor(zstd.ZipMethodWinZip, zstd.ZipDecompressor())
	z.RegisterDecompressor(methodBzip2, func(r io.Reader) io.ReadCloser { return io.NopCloser(bzip2.NewReader(r)) })
	z.RegisterDecompressor(methodXZ, unxz)
	return &file{
		path: name, name: f.name + "#" + e.name, part: part, size: int64(min(e.UncompressedSize64, 1<<62)), depth: f.depth + 1,
		bound: maxSpool + maxUnpacked*int64(min(e.CompressedSize64, 1<<50)),
		open: func() (io.ReadCloser, error) {
			in, err := e.Open()
			if errors.Is(err, zip.ErrAlgorithm) {
				return nil, &Error{
					name, fmt.Errorf("it is compressed by method %d of the ZIP format, which is not read", e.Method),
					"Unpack it first.",
				}
			}
			if err != nil {
				return nil, err
			}
			return struct {
				io.Reader
				io.Closer
			}{truncated{in, "ZIP"}, in}, nil
		},
	}, nil
}

// unxz reads through a compression.
func unxz(r io.Reader) io.ReadCloser {
	z, err := xz.NewReader(r)
	if err != nil {
		return io.NopCloser(failing{err})
	}
	return io.NopCloser(z)
}

// failing is a reader that can't read.
type failing struct{ err error }

// Read implements [io.Reader].
func (f failing) Read([]byte) (int, error) { return 0, f.err }

// partsOf returns the names of the parts of a file, or of a file in it that is named before another #; and what stands
// after that in the place of a part's name.
func partsOf(at, part string) (names []string, within string, err error) {
	if postgres.Is(at) {
		names, err := postgres.Tables(at)
		if err != nil {
			return nil, "", &Error{postgres.Shown(at), err, ""}
		}
		return names, part, nil
	}
	f, err := fileAt(at, part, &Options{})
	if err != nil {
		return nil, "", err
	}
	s := &Source{}
	defer s.Close()
	names, within, err = s.parts(f)
	if err != nil {
		return nil, "", explain(f.path, err)
	}
	return names, within, nil
}

func (s *Source) parts(f *file) (names []string, within string, err error) {
	if f.once {
		return nil, "", &Error{
			f.path + "#" + f.part, errors.New("the parts of what can be read once only are not listed"),
			"Keep it in a file first.",
		}
	}
	r, err := f.stream(&atomic.Int64{})
	if err != nil {
		return nil, "", err
	}
	s.onClose(r.Close)
	head, _ := r.Peek(headSize)
	c := containerOf(head, &Options{})
	if c == nil {
		o := &Options{}
		m, err := markupOf(head, o)
		if err != nil || m == nil || m.parts == nil {
			return nil, f.part, err
		}
		names, err = m.parts(m.decoded(func() (io.ReadCloser, error) { return f.stream(&atomic.Int64{}) }, o))
		return names, f.part, err
	}
	if c.parts == nil {
		return nil, f.part, nil
	}
	disk, err := s.onDisk(f, r)
	if err != nil {
		return nil, "", err
	}
	return c.parts(s, disk, f)
}

// partsOfArchive returns the names of the files of an archive, or the parts of one that is named.
func (s *Source) partsOfArchive(z *zip.Reader, f *file) (names []string, within string, err error) {
	all := entries(z)
	for _, e := range all {
		if rest, ok := strings.CutPrefix(f.part, e.name+"#"); ok {
			inner, err := f.entry(z, e, rest)
			if err != nil {
				return nil, "", err
			}
			return s.parts(inner)
		}
	}
	return namesOf(all), f.part, nil
}

func namesOf(all []entry) []string {
	names := make([]string, len(all))
	for i, e := range all {
		names[i] = e.name
	}
	return names
}
