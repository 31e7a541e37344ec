package delim

import (
	"bufio"
	"bytes"
	"errors"
	"fmt"
	"io"
)

// Some texts are made others, line by line, before they are read as delimited text: columns of fixed width, lines that are told
// to be comments, and tables with tabs and backslashes. Lines stay lines, so that they are counted as in the file.

// unitSeparator stands between cells that were cut (ISO/IEC 6429: information separator one).
const unitSeparator = 0x1f

// maker makes other lines.
type maker interface {
	// goesOn reports whether what follows the end of a line belongs to it, too.
	goesOn(line []byte) bool
	// made appends what stands for a line. Both are without the end of the line.
	made(dst, line []byte) []byte
}

// relined is a text of which the lines are made others. It implements [io.Reader].
type relined struct {
	in    *bufio.Reader
	maker maker
	line  []byte
	space []byte // for what is made
	out   []byte // that has not been read yet
	err   error
}

func newRelined(in io.Reader, m maker) *relined {
	return &relined{in: bufio.NewReaderSize(in, 64<<10), maker: m}
}

// Read implements [io.Reader].
func (r *relined) Read(p []byte) (int, error) {
	for len(r.out) == 0 {
		if r.err != nil {
			return 0, r.err
		}
		r.err = r.next()
	}
	n := copy(p, r.out)
	r.out = r.out[n:]
	return n, nil
}

// next takes a line.
func (r *relined) next() error {
	r.line = r.line[:0]
	for {
		part, err := r.in.ReadSlice('\n')
		if r.line = append(r.line, part...); len(r.line) > maxBlock {
			return fmt.Errorf("a line is longer than %d MB", maxBlock>>20)
		}
		text := bytes.TrimRight(r.line, "\r\n")
		if errors.Is(err, bufio.ErrBufferFull) || err == nil && r.maker.goesOn(text) {
			continue
		}
		if len(r.line) > 0 {
			r.out = append(r.maker.made(r.space[:0], text), r.line[len(text):]...)
			r.space = r.out
		}
		return err
	}
}
