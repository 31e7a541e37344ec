package input

import (
	"archive/zip"
	"errors"
	"fmt"
	"io"
	"os"
	"strings"

	"junvo/internal/table"
	"junvo/internal/table/parquet"
	"junvo/internal/table/sqlite"
	"junvo/internal/table/workbook"
)

// Formats are the names by which a source's format is told, where its content does not show it.
var Formats = []string{"text", "json", "html", "xml", "dump", "logfmt", "key-value", "workbook", "parquet", "sqlite"}

// zipMagic is how a ZIP archive begins, as workbooks are.
const zipMagic = "PK\x03\x04"

// container is a format that is no stream of text: it is read at any place, and may have parts.
type container struct {
	format string // one of Formats
	magic  string // how its files begin
	asks   bool   // it can be asked by a query
	open   func(s *Source, disk *os.File, f *file, o Options) error
	parts  func(s *Source, disk *os.File, f *file) (names []string, within string, err error)
}

// containers is the catalogue of them.
func containers() []*container {
	return []*container{
		{format: "workbook", magic: zipMagic, open: (*Source).openZIP, parts: (*Source).partsOfZIP},
		{format: "sqlite", magic: sqlite.Magic, asks: true, open: (*Source).openDatabase, parts: partsOfDatabase},
		{format: "parquet", magic: parquet.Magic, open: (*Source).openParquet},
	}
}

// containerOf returns the container that a file is by how it begins, or by what is told of it; nil for none.
func containerOf(head []byte, o *Options) *container {
	for _, c := range containers() {
		if o.Format == c.format {
			return c
		}
		if o.Format == "" && strings.HasPrefix(string(head), c.magic) && !textual(head[len(c.magic):min(len(head), 16)]) {
			return c
		}
	}
	return nil
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

// use takes a source that has been opened, and calls it as the file is called, and the part of it if one was named.
func (s *Source) use(src table.Source, f *file) {
	info := src.Info()
	if info.Name = f.name; f.part != "" {
		info.Name += "#" + f.part
	}
	info.Files[0].Name = info.Name
	s.Source = src
}

func sizeOf(disk *os.File) (int64, error) {
	info, err := disk.Stat()
	if err != nil {
		return 0, err
	}
	return info.Size(), nil
}

func (s *Source) openParquet(disk *os.File, f *file, _ Options) error {
	if f.part != "" {
		return &Error{f.path, fmt.Errorf("a Parquet file has no part %q", f.part), "Leave out what stands after #."}
	}
	size, err := sizeOf(disk)
	if err != nil {
		return err
	}
	src, err := parquet.Open(disk, size, f.name)
	if err != nil {
		return err
	}
	s.onClose(src.Close)
	s.use(src, f)
	return nil
}

func (s *Source) openDatabase(disk *os.File, f *file, o Options) error {
	if f.part != "" && o.Query != "" {
		return &Error{f.path, errors.New("a query takes the place of a table"), "Leave out what stands after #."}
	}
	size, err := sizeOf(disk)
	if err != nil {
		return err
	}
	src, err := sqlite.Open(disk.Name(), size, f.part, o.Query)
	if err != nil {
		return err
	}
	s.onClose(src.Close)
	s.use(src, f)
	return nil
}

func partsOfDatabase(_ *Source, disk *os.File, f *file) (names []string, within string, err error) {
	names, err = sqlite.Tables(disk.Name())
	return names, f.part, err
}

func (s *Source) openWorkbook(disk *os.File, f *file, o Options) error {
	return s.openSheet(workbook.Open, disk, f, o)
}

func (s *Source) openDocument(disk *os.File, f *file, o Options) error {
	return s.openSheet(workbook.OpenDocument, disk, f, o)
}

// openSheet opens a sheet of a workbook of some format.
func (s *Source) openSheet(open func(io.ReaderAt, int64, string, string, workbook.Options) (*workbook.Source, error),
	disk *os.File, f *file, o Options,
) error {
	size, err := sizeOf(disk)
	if err != nil {
		return err
	}
	src, err := open(disk, size, f.name, f.part, workbook.Options{HeaderRow: o.HeaderRow})
	if err != nil {
		return err
	}
	s.use(src, f)
	return nil
}

// openZIP opens a workbook, which is a ZIP archive, or a file in another archive.
func (s *Source) openZIP(disk *os.File, f *file, o Options) error {
	size, err := sizeOf(disk)
	if err != nil {
		return err
	}
	z, err := zip.NewReader(disk, size)
	if err != nil {
		return &Error{f.path, fmt.Errorf("it is no whole ZIP archive: %w", err), "Copy it once more from where it came."}
	}
	what := insideOf(z)
	switch {
	case what.open != nil:
		return what.open(s, disk, f, o)
	case what.say != "":
		return &Error{f.path, errors.New(what.say), what.do}
	case o.Format == "workbook":
		return &Error{f.path, workbook.ErrNoSheet, "It is an archive (ZIP): leave out --source-format."}
	}
	return s.openArchive(z, f, o)
}

// partsOfZIP returns the names of sheets, or of the files of an archive.
func (s *Source) partsOfZIP(disk *os.File, f *file) (names []string, within string, err error) {
	size, err := sizeOf(disk)
	if err != nil {
		return nil, "", err
	}
	z, err := zip.NewReader(disk, size)
	if err != nil {
		return nil, "", fmt.Errorf("it is no whole ZIP archive: %w", err)
	}
	what := insideOf(z)
	switch {
	case what.parts != nil:
		names, err = what.parts(disk, size)
		return names, f.part, err
	case what.say != "":
		return nil, "", &Error{f.path, errors.New(what.say), what.do}
	}
	return s.partsOfArchive(z, f)
}

// inside is what a ZIP archive is by the names of its files: something that is opened, or that is named and not read.
type inside struct {
	file  string // the name of a file in it, or how the names begin
	holds string // what that file has in it; "" for anything
	open  func(s *Source, disk *os.File, f *file, o Options) error
	parts func(r io.ReaderAt, size int64) ([]string, error)
	say   string
	do    string
}

// insides is the catalogue of them.
func insides() []inside {
	return []inside{
		{file: "xl/workbook.xml", open: (*Source).openWorkbook, parts: workbook.Sheets},
		{file: "xl/workbook.bin", say: "it is a binary workbook (XLSB)", do: "Save it as XLSX or CSV."},
		{file: "EncryptedPackage", say: "it is an encrypted workbook", do: "Open it with its password and save it " +
			"without one."},
		{
			file: "word/", say: "it is a text document or a presentation, and no workbook",
			do: "Put the table into a workbook, or save it as CSV.",
		},
		{
			file: "ppt/", say: "it is a text document or a presentation, and no workbook",
			do: "Put the table into a workbook, or save it as CSV.",
		},
		{file: "mimetype", holds: "opendocument.spreadsheet", open: (*Source).openDocument, parts: workbook.DocumentSheets},
		{
			file: "mimetype", holds: "opendocument", say: "it is a document of the OpenDocument family, and no workbook",
			do: "Put the table into a workbook, or save it as CSV.",
		},
	}
}

// startOf returns the first bytes of a file of an archive, "" where they can't be read.
func startOf(f *zip.File) string {
	in, err := f.Open()
	if err != nil {
		return ""
	}
	defer in.Close()
	b, _ := io.ReadAll(io.LimitReader(in, 200)) // as far as it can be read
	return string(b)
}

// insideOf returns what an archive is; the zero value for one of any files.
func insideOf(z *zip.Reader) inside {
	for _, what := range insides() {
		for _, f := range z.File {
			named := f.Name == what.file || strings.HasSuffix(what.file, "/") && strings.HasPrefix(f.Name, what.file)
			if named && (what.holds == "" || strings.Contains(startOf(f), what.holds)) {
				return what
			}
		}
	}
	return inside{}
}
