package input

import (
	"archive/zip"
	"bufio"
	"errors"
	"fmt"
	"io"
	"os"
	"path/filepath"
	"strings"

	"golang.org/x/text/transform"

	"junvo/internal/table"
	"junvo/internal/table/jsonlines"
	"junvo/internal/table/parquet"
	"junvo/internal/table/sqlite"
	"junvo/internal/table/wholefile"
	"junvo/internal/table/workbook"
)

// Part takes apart the path of a container and the name of a part of it. A # may also stand in the name of a
// file and in that of a part: the longest beginning that is a file counts, else what stands before the last #.
func Part(path string) (file, name string) {
	if _, err := os.Stat(path); err == nil {
		return path, ""
	}
	last := strings.LastIndexByte(path, '#')
	for i := last; i > 0; i = strings.LastIndexByte(path[:i], '#') {
		if _, err := os.Stat(path[:i]); err == nil {
			return path[:i], path[i+1:]
		}
	}
	if last <= 0 {
		return path, ""
	}
	return path[:last], path[last+1:]
}

// zipMagic is how a zip archive begins, as workbooks are.
const zipMagic = "PK\x03\x04"

// Formats are the names by which a source's format is told, where its content does not show it.
var Formats = []string{"text", "json", "workbook", "parquet", "sqlite"}

// magics are how the files of these formats begin; text and JSON begin anyhow.
var magics = map[string]string{"workbook": zipMagic, "parquet": parquet.Magic, "sqlite": sqlite.Magic}

// containers are the formats that are no stream of text, by how their files begin.
var containers = map[string]func(s *Source, f *os.File, path, part string, o Options) (*Source, error){
	zipMagic:      (*Source).openWorkbook,
	sqlite.Magic:  (*Source).openDatabase,
	parquet.Magic: (*Source).openParquet,
}

// container returns how a file begins if that makes it a container, or "".
func container(f *os.File, o *Options) string {
	if o.Format != "" {
		return magics[o.Format]
	}
	var head [16]byte
	n, _ := f.ReadAt(head[:], 0) // what can't be read here can't be read later either
	for magic := range containers {
		if strings.HasPrefix(string(head[:n]), magic) && !textual(head[len(magic):n]) {
			return magic
		}
	}
	return ""
}

// textual reports whether bytes are plain text: then a file that begins as a container does
// is a table whose first column has such a name.
func textual(head []byte) bool {
	for _, b := range head {
		if b < ' ' && b != '\n' && b != '\r' && b != '\t' {
			return false
		}
	}
	return len(head) > 0
}

// noQuery says that a format is no database.
func noQuery(f *os.File, path string, o Options) error {
	if o.Query == "" {
		return nil
	}
	f.Close()
	return &Error{path, errors.New("it is no database, and a query asks one"), "Leave out --query."}
}

func (s *Source) openParquet(f *os.File, path, part string, o Options) (*Source, error) {
	if err := noQuery(f, path, o); err != nil {
		return nil, err
	}
	if part != "" {
		f.Close()
		return nil, &Error{path, fmt.Errorf("a Parquet file has no part %q", part), "Leave out what stands after #."}
	}
	src, err := parquet.Open(f, s.Size, filepath.Base(path))
	if err != nil {
		f.Close()
		return nil, &Error{path, err, ""}
	}
	s.Source = src
	s.close = func() error { return errors.Join(src.Close(), f.Close()) }
	return s, nil
}

func (s *Source) openDatabase(f *os.File, path, name string, o Options) (*Source, error) {
	f.Close()
	if name != "" && o.Query != "" {
		return nil, &Error{path, errors.New("a query takes the place of a table"), "Leave out what stands after #."}
	}
	src, err := sqlite.Open(path, s.Size, name, o.Query)
	if err != nil {
		return nil, &Error{path, err, ""}
	}
	s.Source, s.close = src, src.Close
	return s, nil
}

func (s *Source) openWorkbook(f *os.File, path, sheet string, o Options) (*Source, error) {
	if err := noQuery(f, path, o); err != nil {
		return nil, err
	}
	src, err := workbook.Open(f, s.Size, filepath.Base(path), sheet, workbook.Options{HeaderRow: o.HeaderRow})
	if err != nil {
		f.Close()
		if errors.Is(err, workbook.ErrNoSheet) {
			return nil, noWorkbook(f, s.Size, path, err)
		}
		return nil, &Error{path, err, ""}
	}
	s.Source = src
	return s, nil
}

// noWorkbook says what an archive is that is no workbook.
func noWorkbook(f io.ReaderAt, size int64, path string, err error) error {
	do := "If it is another archive, unpack it and name a file in it."
	z, zipErr := zip.NewReader(f, size)
	if zipErr != nil {
		return &Error{path, err, do}
	}
	for _, part := range z.File {
		switch {
		case part.Name == "mimetype":
			return &Error{
				path, errorText("it is a document of the OpenDocument family (ODS and the like)"),
				"Save it as XLSX or CSV.",
			}
		case strings.HasPrefix(part.Name, "word/"), strings.HasPrefix(part.Name, "ppt/"):
			return &Error{
				path, errorText("it is a text document or a presentation, and no workbook"),
				"Put the table into a workbook, or save it as CSV.",
			}
		case part.Name == "xl/workbook.bin":
			return &Error{path, errorText("it is a binary workbook (XLSB)"), "Save it as XLSX or CSV."}
		}
	}
	return &Error{path, errorText("it is an archive (ZIP), and no workbook"), "Unpack it and name a file in it."}
}

// openRecords opens JSON, which is read twice: for its columns, and for its rows. What can
// be read once only is kept in a file meanwhile.
func (s *Source) openRecords(r io.Reader, name string, o Options) (table.Source, error) {
	path := o.path
	if path == "-" {
		f, err := wholefile.Temp(os.TempDir(), "junvo-input")
		if err != nil {
			return nil, err
		}
		path = f.Name()
		before := s.close
		s.close = func() error { return errors.Join(before(), wholefile.Remove(path)) }
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
		if o.decoder != nil {
			in = transform.NewReader(in, o.decoder())
		}
		return struct {
			io.Reader
			io.Closer
		}{in, f}, nil
	}, name, o.part, s.Size)
	if err != nil {
		return nil, err
	}
	before := s.close
	s.close = func() error { return errors.Join(src.Close(), before()) }
	return src, nil
}
