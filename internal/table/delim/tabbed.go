package delim

import (
	"bufio"
	"bytes"
	"errors"
	"fmt"
	"io"

	"junvo/internal/table/copytext"
)

// Databases write tables as text with tabs between the cells, a backslash before what would be taken for something
// else, and \N for no value. Such lines are handed on with a character between the cells that no text has, and in
// quotes where that is needed.

// tabbed takes such lines apart. It implements [io.Reader].
type tabbed struct {
	in    *bufio.Reader
	line  []byte
	space []byte
	out   []byte // that has not been read yet
	err   error
}

func newTabbed(in io.Reader) *tabbed { return &tabbed{in: bufio.NewReaderSize(in, 64<<10)} }

// Read implements [io.Reader].
func (t *tabbed) Read(p []byte) (int, error) {
	for len(t.out) == 0 {
		if t.err != nil {
			return 0, t.err
		}
		t.err = t.next()
	}
	n := copy(p, t.out)
	t.out = t.out[n:]
	return n, nil
}

// next takes a line; one that ends with a backslash goes on in the next.
func (t *tabbed) next() error {
	t.line = t.line[:0]
	for {
		part, err := t.in.ReadSlice('\n')
		t.line = append(t.line, part...)
		if len(t.line) > maxBlock {
			return fmt.Errorf("a line is longer than %d MB", maxBlock>>20)
		}
		text := bytes.TrimSuffix(t.line, []byte{'\n'})
		if errors.Is(err, bufio.ErrBufferFull) || err == nil && goesOn(text) {
			continue
		}
		if len(t.line) > 0 {
			t.take(bytes.TrimSuffix(text, []byte{'\r'}), t.line[len(text):])
		}
		return err
	}
}

// goesOn reports whether a line ends with a backslash that has none before it.
func goesOn(line []byte) bool {
	n := len(line) - len(bytes.TrimRight(line, `\`))
	return n%2 == 1
}

func (t *tabbed) take(line, end []byte) {
	out := t.space[:0]
	for first, more := true, true; more; first = false {
		var cell []byte
		cell, line, more = copytext.Cut(line)
		if !first {
			out = append(out, unitSeparator)
		}
		if string(cell) == copytext.Null {
			continue
		}
		if bytes.IndexByte(cell, '\\') >= 0 {
			cell = copytext.Unescape(nil, cell)
		}
		if !bytes.ContainsAny(cell, "\x1f\"\n\r") {
			out = append(out, cell...)
			continue
		}
		out = append(out, '"')
		out = append(out, bytes.ReplaceAll(cell, []byte{'"'}, []byte(`""`))...)
		out = append(out, '"')
	}
	t.out = append(out, end...)
	t.space = t.out
}

// isTabbed reports whether a text is such a table: there are cells \N between tabs, and nearly every line has a tab.
func isTabbed(sample []byte) bool {
	nulls, tabs, lines := 0, 0, 0
	for line := range bytes.Lines(sample) {
		if line = bytes.TrimRight(line, "\r\n"); len(line) == 0 {
			continue
		}
		lines++
		if bytes.IndexByte(line, '\t') >= 0 {
			tabs++
		}
		for more := true; more; {
			var cell []byte
			if cell, line, more = copytext.Cut(line); string(cell) == copytext.Null {
				nulls++
			}
		}
	}
	return nulls > 0 && 10*tabs >= 9*lines
}

// backslash is how it is told that cells have backslashes before characters.
const backslash = "backslash"

// tabbed reports whether the text is such a table: it shows so, or it is told.
func (o *Options) tabbed(raw []byte) bool {
	if o.Widths != nil || o.Delimiter != "" && o.Delimiter != "tab" && o.Delimiter != "\t" {
		return false
	}
	return o.Escape == backslash && o.Quote == "none" && o.Delimiter != "" ||
		o.Escape == "" && o.Quote == "" && isTabbed(raw)
}
