// Package workbook reads workbooks in the Office Open XML format (ECMA-376), XLSX for
// short: a zip archive with a part for each sheet. Cells come as the workbook stores
// them: numbers in the decimal text of the file, dates by the number format of the cell,
// text, truth values, error values, and nothing. The sheet is read as a stream, so that
// memory does not grow with its rows; the texts that cells share are kept.
//
//	src, err := workbook.Open(file, size, "book.xlsx", "Sheet2", workbook.Options{})
package workbook

import (
	"archive/zip"
	"bufio"
	"bytes"
	"encoding/xml"
	"errors"
	"fmt"
	"io"
	"path"
	"regexp"
	"strings"

	"github.com/klauspost/compress/flate"
	"golang.org/x/net/html/charset"
	"golang.org/x/text/encoding/unicode"
	"golang.org/x/text/transform"

	"junvo/internal/table"
)

// The bounds that keep a hostile file from taking all memory or time.
const (
	maxPart    = 4 << 30  // bytes of a part, unpacked
	maxColumns = 16384    // of a sheet, by the format
	maxRatio   = 700      // of a large part's size to its packed size
	largePart  = 64 << 20 // bytes of a part that is large
	maxToken   = 65 << 20 // bytes of one text or tag
)

// maxStrings is how many bytes of shared texts are kept; a test makes it less.
var maxStrings = 256 << 20

// Errors of workbooks that can't be read.
var (
	ErrNoSheet   = errors.New("the workbook has no sheet")
	ErrProtected = errors.New("the workbook is protected by a password")
	ErrTooLarge  = errors.New("the workbook unpacks to more than a workbook may have")
)

// Sheet is a sheet of a workbook.
type Sheet struct {
	Name   string
	Hidden bool
	part   string // the name of its part
}

// book is an open workbook.
type book struct {
	zip     *zip.Reader
	list    []Sheet
	base    int // 1900 or 1904, where day numbers begin
	shared  []string
	formats []format // of the cell styles
}

// openBook reads all but the sheets.
func openBook(r io.ReaderAt, size int64) (*book, error) {
	z, err := zip.NewReader(r, size)
	if err != nil {
		return nil, fmt.Errorf("it is no whole zip archive: %w", err)
	}
	z.RegisterDecompressor(zip.Deflate, flate.NewReader) // the same, and faster
	b := &book{zip: z, base: 1900}
	for _, f := range z.File {
		if f.Name == "EncryptedPackage" {
			return nil, ErrProtected
		}
	}
	targets, err := b.relations("xl/_rels/workbook.xml.rels", "xl")
	if err != nil {
		return nil, err
	}
	if err := b.readSheets(targets); err != nil {
		return nil, err
	}
	for _, target := range targets {
		switch {
		case strings.HasSuffix(target.kind, "/sharedStrings"):
			err = b.readShared(target.part)
		case strings.HasSuffix(target.kind, "/styles"):
			err = b.readStyles(target.part)
		}
		if err != nil {
			return nil, err
		}
	}
	return b, nil
}

// maxParts is how many sheets, relations, styles and formats a workbook may have.
const maxParts = 65_536

// relation is where another part stands, and what it is.
type relation struct{ kind, part string }

func (b *book) relations(part, folder string) (map[string]relation, error) {
	found := map[string]relation{}
	err := b.tokens(part, func(d *decoder) error {
		for {
			start, err := d.start()
			if start == nil {
				return err
			}
			if start.Name.Local != "Relationship" {
				continue
			}
			target := attr(start, "Target")
			if strings.HasPrefix(target, "/") {
				target = target[1:]
			} else {
				target = path.Join(folder, target)
			}
			if len(found) == maxParts {
				return ErrTooLarge
			}
			found[attr(start, "Id")] = relation{attr(start, "Type"), target}
		}
	})
	return found, err
}

func (b *book) readSheets(targets map[string]relation) error {
	err := b.tokens("xl/workbook.xml", func(d *decoder) error {
		for {
			start, err := d.start()
			if start == nil {
				return err
			}
			switch start.Name.Local {
			case "workbookPr":
				if v := attr(start, "date1904"); v == "1" || v == "true" {
					b.base = 1904
				}
			case "sheet":
				if len(b.list) == maxParts {
					return ErrTooLarge
				}
				if t := targets[attr(start, "id")]; strings.HasSuffix(t.kind, "/worksheet") {
					b.list = append(b.list, Sheet{attr(start, "name"), attr(start, "state") != "" &&
						attr(start, "state") != "visible", t.part})
				}
			}
		}
	})
	if err == nil && len(b.list) == 0 {
		err = ErrNoSheet
	}
	return err
}

func (b *book) all() []Sheet { return b.list }

func (b *book) decisions() []table.Decision {
	return []table.Decision{{What: "dates", Value: fmt.Sprint(b.base), Why: "the year in which the workbook's day " +
		"numbers begin"}}
}

// choose finds a sheet by its name; the first that is not hidden for "".
func choose(all []Sheet, name string) (*Sheet, error) {
	parts := table.Parts{What: "sheet", Names: make([]string, len(all))}
	for i := range all {
		parts.Names[i] = all[i].Name
		if name == "" && !all[i].Hidden {
			return &all[i], nil
		}
	}
	if name == "" {
		return &all[0], nil
	}
	i, _, err := parts.Choose(name)
	return &all[i], err
}

// decoder reads the XML of a part.
type decoder struct {
	*xml.Decoder
	in *bounded
}

// RawToken returns the next token, within bounds.
func (d *decoder) RawToken() (xml.Token, error) {
	d.in.token = 0
	return d.Decoder.RawToken()
}

// within returns the next token of an element that has begun, whose end comes before that of the part.
func (d *decoder) within() (xml.Token, error) {
	t, err := d.RawToken()
	if errors.Is(err, io.EOF) {
		err = io.ErrUnexpectedEOF
	}
	return t, err
}

// start returns the next start tag, nil at the end of the part.
func (d *decoder) start() (*xml.StartElement, error) {
	for {
		t, err := d.RawToken()
		if errors.Is(err, io.EOF) {
			return nil, nil
		}
		if err != nil {
			return nil, err
		}
		if s, ok := t.(xml.StartElement); ok {
			return &s, nil
		}
	}
}

func attr(s *xml.StartElement, name string) string {
	for _, a := range s.Attr {
		if a.Name.Local == name {
			return a.Value
		}
	}
	return ""
}

// tokens hands the XML of a part to read. A part that is not there is empty.
func (b *book) tokens(part string, read func(*decoder) error) error {
	f, err := b.open(part)
	if err != nil || f == nil {
		return err
	}
	defer f.Close()
	if err := read(newDecoder(f)); err != nil {
		return fmt.Errorf("%s in the workbook is damaged: %w", part, err)
	}
	return nil
}

func newDecoder(r *bounded) *decoder {
	d := &decoder{xml.NewDecoder(r), r}
	d.Strict = false
	d.CharsetReader = decodedAlready
	// No entities beyond those of XML itself: nothing is defined, nothing is fetched.
	return d
}

// open opens a part within bounds; nil where it is not there.
func (b *book) open(part string) (*bounded, error) {
	for _, f := range b.zip.File {
		if f.Name != part && strings.ReplaceAll(f.Name, `\`, "/") != part {
			continue
		}
		if f.UncompressedSize64 > maxPart || f.UncompressedSize64 > largePart &&
			f.UncompressedSize64/max(1, f.CompressedSize64) > maxRatio {
			return nil, ErrTooLarge
		}
		r, err := f.Open()
		if err != nil {
			return nil, err
		}
		in, grows, err := inUTF8(r)
		if err != nil {
			return nil, errors.Join(err, r.Close())
		}
		return &bounded{ReadCloser: struct {
			io.Reader
			io.Closer
		}{in, r}, left: int64(f.UncompressedSize64) * grows}, nil
	}
	return nil, nil
}

// declared is how XML says in what encoding it is.
var declared = regexp.MustCompile(`^\s*<\?xml[^>]*\sencoding\s*=\s*["']([^"']+)["']`)

// inUTF8 returns a part in UTF-8, and how many times as long it may get.
func inUTF8(r io.Reader) (io.Reader, int64, error) {
	const head, longest = 256, 3 // bytes of a character of UTF-8 for one of two bytes or less
	in := bufio.NewReaderSize(r, 64<<10)
	start, _ := in.Peek(head) // what can't be read here can't be read later either
	wide := unicode.UTF16(unicode.LittleEndian, unicode.UseBOM)
	switch {
	case bytes.HasPrefix(start, []byte("\xff\xfe")), bytes.HasPrefix(start, []byte("\xfe\xff")),
		bytes.HasPrefix(start, []byte("<\x00")):
		return transform.NewReader(in, wide.NewDecoder()), longest, nil
	case bytes.HasPrefix(start, []byte("\x00<")):
		return transform.NewReader(in, unicode.UTF16(unicode.BigEndian, unicode.IgnoreBOM).NewDecoder()), longest, nil
	}
	name := declared.FindSubmatch(bytes.TrimPrefix(start, []byte("\ufeff")))
	if name == nil || strings.EqualFold(string(name[1]), "utf-8") {
		return in, 1, nil
	}
	out, err := charset.NewReaderLabel(string(name[1]), in)
	return out, longest, err
}

// unboundedToken is where the count of the bytes of a token begins that nobody bounds here.
const unboundedToken = -1 << 62

// bounded reads no more than the archive said there is, and no token beyond bounds.
type bounded struct {
	io.ReadCloser
	left  int64
	token int64 // bytes since the last token
}

func (b *bounded) Read(p []byte) (int, error) {
	n, err := b.ReadCloser.Read(p)
	b.left -= int64(n)
	b.token += int64(n)
	if b.left < 0 || b.token > maxToken {
		return n, ErrTooLarge
	}
	return n, err
}

// decodedAlready reads XML of a part in the encoding that it declares: parts are opened in UTF-8.
func decodedAlready(_ string, in io.Reader) (io.Reader, error) { return in, nil }
