package delim

import (
	"bufio"
	"bytes"
	"errors"
	"fmt"
	"io"
	"strings"
	"unicode/utf8"

	"junvo/internal/table"
)

// Text in columns of fixed width is read as delimited text: each line is cut at the widths,
// and what is cut is handed on with a character between that no text has, without the
// spaces that fill a column up. Lines stay lines, so that they are counted as in the file.

// unitSeparator stands between cells that were cut (ISO/IEC 6429: information separator one).
const unitSeparator = 0x1f

// maxWidthLine is the longest line that is cut.
const maxWidthLine = table.MaxCell

// cutter cuts the lines of a text at widths.
type cutter struct {
	in      *bufio.Reader
	widths  []int
	oneByte bool // each byte is a character; else lines are UTF-8 where they can be
	line    []byte
	out     []byte // cut and not read yet
	space   []byte
	err     error
}

func newCutter(in io.Reader, widths []int, oneByte bool) *cutter {
	return &cutter{in: bufio.NewReaderSize(in, 64<<10), widths: widths, oneByte: oneByte}
}

// Read implements [io.Reader].
func (c *cutter) Read(p []byte) (int, error) {
	for len(c.out) == 0 {
		if c.err != nil {
			return 0, c.err
		}
		c.err = c.next()
	}
	n := copy(p, c.out)
	c.out = c.out[n:]
	return n, nil
}

// next cuts a line.
func (c *cutter) next() error {
	c.line = c.line[:0]
	for {
		part, err := c.in.ReadSlice('\n')
		c.line = append(c.line, part...)
		if len(c.line) > maxWidthLine {
			return fmt.Errorf("a line is longer than %d MB", maxWidthLine>>20)
		}
		if errors.Is(err, bufio.ErrBufferFull) {
			continue
		}
		if err != nil && len(c.line) == 0 {
			return err
		}
		c.cut()
		return err
	}
}

// cut cuts the line. Where it ends early, so do its cells; what stands behind the last
// width is one cell more.
func (c *cutter) cut() {
	text := bytes.TrimRight(c.line, "\r\n")
	end := c.line[len(text):]
	c.space = c.space[:0]
	for i, w := range c.widths {
		if len(text) == 0 && i > 0 {
			break
		}
		n := c.bytesOf(text, w)
		if i > 0 {
			c.space = append(c.space, unitSeparator)
		}
		c.space = appendCell(c.space, text[:n])
		text = text[n:]
	}
	if rest := bytes.Trim(text, " "); len(rest) > 0 {
		c.space = appendCell(append(c.space, unitSeparator), rest)
	}
	c.out = append(c.space, end...)
	c.space = c.out
}

// appendCell appends a cell without the spaces around it.
func appendCell(dst, cell []byte) []byte {
	cell = bytes.Trim(cell, " ")
	if bytes.IndexByte(cell, unitSeparator) < 0 && bytes.IndexByte(cell, '"') < 0 {
		return append(dst, cell...)
	}
	dst = append(dst, '"')
	dst = append(dst, bytes.ReplaceAll(cell, []byte{'"'}, []byte(`""`))...)
	return append(dst, '"')
}

// bytesOf returns how many bytes so many characters have.
func (c *cutter) bytesOf(text []byte, characters int) int {
	if c.oneByte || !utf8.Valid(text) {
		return min(characters, len(text))
	}
	n := 0
	for range characters {
		if n == len(text) {
			break
		}
		_, size := utf8.DecodeRune(text[n:])
		n += size
	}
	return n
}

// widthsText writes widths as the flag and the plan have them.
func widthsText(widths []int) string {
	return strings.Trim(strings.ReplaceAll(fmt.Sprint(widths), " ", ","), "[]")
}

// minAligned is how many lines it takes to believe in columns of fixed width.
const minAligned = 5

// aligned looks for columns of fixed width in lines of text: places where every line has
// spaces. It returns their widths, nil where there are none.
func aligned(sample []byte) []int {
	var blank []bool // whether every line has a space there, or has ended
	lines := 0
	for line := range bytes.Lines(sample) {
		runes := []rune(strings.TrimRight(string(line), "\r\n"))
		if len(strings.TrimSpace(string(runes))) == 0 {
			continue
		}
		if lines++; lines > sampleRows {
			break
		}
		for len(blank) < len(runes) {
			blank = append(blank, true)
		}
		for i, r := range runes {
			blank[i] = blank[i] && r == ' '
		}
	}
	var widths []int
	start, wide := 0, 0 // wide counts gaps of more than one space, which chance rarely makes
	for i := 1; i < len(blank); i++ {
		if blank[i-1] && !blank[i] {
			if i > 1 && blank[i-2] {
				wide++
			}
			widths = append(widths, i-start)
			start = i
		}
	}
	if lines < minAligned || len(widths) < 1 || wide == 0 {
		return nil
	}
	return append(widths, len(blank)-start)
}
