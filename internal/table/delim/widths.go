package delim

import (
	"bytes"
	"fmt"
	"strings"
	"unicode/utf8"
)

// Text in columns of fixed width is read as delimited text: each line is cut at the widths,
// and what is cut is handed on with a character between that no text has, without the
// spaces that fill a column up. Lines stay lines, so that they are counted as in the file.

// cutter cuts the lines of a text at widths. It implements [maker].
type cutter struct {
	widths  []int
	oneByte bool // each byte is a character; else lines are UTF-8 where they can be
	// gaps are the places between columns where no cell stands, of a text with a rule of dashes: a line that has more than
	// a space there is no row of the table, and stays in one piece. Nil where that is not known.
	gaps   []int
	quoted bool // lines may be marked as comments, in quotes
	above  int  // how many of the next lines stand above the table, and stay in one piece
}

func (*cutter) goesOn([]byte) bool { return false }

// made cuts a line. Where it ends early, so do its cells; what stands after the last
// width is one cell more.
func (c *cutter) made(dst, text []byte) []byte {
	above := c.above > 0
	if above {
		c.above--
	}
	switch {
	case c.quoted && len(text) > 1 && text[1] == commentMark:
		return append(dst, text...) // as it is
	case above || c.isWhole(text):
		return appendCell(dst, text)
	}
	for i, w := range c.widths {
		if len(text) == 0 && i > 0 {
			break
		}
		n := c.bytesOf(text, w)
		if i > 0 {
			dst = append(dst, unitSeparator)
		}
		dst = appendCell(dst, text[:n])
		text = text[n:]
	}
	if rest := bytes.Trim(text, " "); len(rest) > 0 {
		dst = appendCell(append(dst, unitSeparator), rest)
	}
	return dst
}

// isWhole reports whether a line is no row of the table.
func (c *cutter) isWhole(text []byte) bool {
	for _, at := range c.gaps {
		if n := c.bytesOf(text, at); n < len(text) && text[n] != ' ' {
			return true
		}
	}
	return false
}

// titlesAbove counts the lines at the start of a text that widths cut in the middle of words, or into one cell, where
// nearly all others are cut beside spaces: titles of the table.
func titlesAbove(sample []byte, widths []int) (above int) {
	first, line, fits, crossed := -1, 0, 0, 0
	for text := range bytes.Lines(sample) {
		runes := []rune(strings.TrimRight(string(text), "\r\n "))
		at, filled, crosses := 0, 0, false
		for _, w := range widths {
			if at >= len(runes) {
				break
			}
			crosses = crosses || at > 0 && runes[at-1] != ' ' && runes[at] != ' '
			cell := runes[at:min(at+w, len(runes))]
			filled += bit(strings.TrimSpace(string(cell)) != "")
			at += w
		}
		switch {
		case strings.Trim(string(runes), "-=_~+ ") == "":
		case crosses || at < len(runes):
			crossed++
		case filled > 1 && first < 0:
			first = line
			fits++
		default:
			fits++
		}
		line++
	}
	if first < 1 || first > maxTitles || 10*(crossed-first) > fits {
		return 0
	}
	return first
}

// maxRuleLine is in which of the first lines a rule of dashes may stand.
const maxRuleLine = 20

// ruled looks for a rule of dashes below the names of columns of fixed width, with spaces between the dashes of two
// columns, and returns the widths, and the places between columns; nil where there is none.
func ruled(sample []byte) (widths, gaps []int) {
	line := 0
	var above []byte
	for text := range bytes.Lines(sample) {
		if line++; line > maxRuleLine {
			return nil, nil
		}
		text = bytes.TrimRight(text, "\r\n ")
		runs := dashes(text)
		if len(runs) < 2 || len(bytes.TrimSpace(above)) == 0 || bytes.ContainsAny(above, "\t;|") {
			above = bytes.Clone(text)
			continue
		}
		for i, r := range runs[1:] {
			widths = append(widths, r.from-runs[i].from)
			gaps = append(gaps, r.from-1)
		}
		widths[0] += runs[0].from
		last := runs[len(runs)-1]
		longest := last.to
		for text := range bytes.Lines(sample) {
			text = bytes.TrimRight(text, "\r\n ")
			longest = max(longest, utf8.RuneCount(text))
		}
		return append(widths, longest-last.from), gaps
	}
	return nil, nil
}

// dashes returns the runs of dashes of a line that has nothing else but spaces; nil for another.
func dashes(line []byte) (runs []filledRun) {
	for i, b := range line {
		switch {
		case b == ' ':
		case b != '-' && b != '=':
			return nil
		case i > 0 && line[i-1] == b:
			runs[len(runs)-1].to = i + 1
		default:
			runs = append(runs, filledRun{i, i + 1})
		}
	}
	for _, r := range runs {
		if r.to-r.from < 2 {
			return nil
		}
	}
	return runs
}

// appendCell appends a cell without the spaces around it.
func appendCell(dst, cell []byte) []byte { return appendQuoted(dst, bytes.Trim(cell, " ")) }

// appendQuoted appends a cell, in quotes where it needs them.
func appendQuoted(dst, cell []byte) []byte {
	if !bytes.ContainsAny(cell, "\x1f\"\n\r") {
		return append(dst, cell...)
	}
	dst = append(dst, '"')
	dst = append(dst, bytes.ReplaceAll(cell, []byte{'"'}, []byte(`""`))...)
	return append(dst, '"')
}

// uncut is a line that was cut, with a space for each cut.
func uncut(line string) string {
	var b strings.Builder
	for more := true; more; {
		cell := line
		if quoted, ok := strings.CutPrefix(line, `"`); ok {
			end := 0
			for end < len(quoted) && (quoted[end] != '"' || strings.HasPrefix(quoted[end+1:], `"`)) {
				if quoted[end] == '"' {
					end++
				}
				end++
			}
			cell, line = strings.ReplaceAll(quoted[:min(end, len(quoted))], `""`, `"`), quoted[min(end+1, len(quoted)):]
			line, more = strings.CutPrefix(line, string(rune(unitSeparator)))
		} else {
			cell, line, more = strings.Cut(line, string(rune(unitSeparator)))
		}
		b.WriteString(cell)
		if more {
			b.WriteByte(' ')
		}
	}
	return b.String()
}

// bytesOf returns how many bytes that many characters have.
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

// maxTitles is how many lines of titles above columns of fixed width are passed.
const maxTitles = 8

// aligned looks for columns of fixed width in lines of text: places where every line, but for some titles above and
// lines drawn, has spaces. It returns their widths, nil where there are none that take the lines apart well.
func aligned(sample []byte) []int {
	var lines [][]rune
	for line := range bytes.Lines(sample) {
		runes := []rune(strings.TrimRight(string(line), "\r\n "))
		if strings.Trim(string(runes), "-=_~+ ") == "" {
			continue
		}
		if lines = append(lines, runes); len(lines) > sampleRows {
			break
		}
	}
	for skip := 0; skip <= maxTitles && len(lines)-skip >= minAligned; skip++ {
		if widths := alignedLines(lines[skip:]); widths != nil && cutsWell(lines[skip:], widths) {
			return widths
		}
	}
	return nil
}

func alignedLines(lines [][]rune) (widths []int) {
	width := 0
	for _, line := range lines {
		width = max(width, len(line))
	}
	runs, wide := filledRuns(lines, width)
	if len(runs) < 2 || !wide {
		return nil
	}
	start := 0
	for k, next := range runs[1:] {
		end := next.from
		if next.onTheRight(lines) {
			// The gap before numbers that stand on the right is room for longer ones.
			end = runs[k].to
		}
		widths = append(widths, end-start)
		start = end
	}
	const room = 10 // the last column has some to spare, for longer lines below
	return append(widths, (width-start+room-1)/room*room)
}

// cutsWell reports whether widths leave no cells with a gap inside, as two columns in one have: one in ten at most.
func cutsWell(lines [][]rune, widths []int) bool {
	gaps, cells := 0, 0
	for _, line := range lines {
		for _, w := range widths {
			w = min(w, len(line))
			if cell := strings.TrimSpace(string(line[:w])); cell != "" {
				cells++
				gaps += bit(strings.Contains(cell, "  "))
			}
			line = line[w:]
		}
	}
	return 10*gaps <= cells
}

func bit(b bool) int {
	if b {
		return 1
	}
	return 0
}

// filledRun is a run of places, the last one excluded, in each of which some line has more than a space.
type filledRun struct{ from, to int }

// filledRuns returns the runs between the places where every line has a space or has ended, and
// whether a gap is wider than one space, which chance rarely makes.
func filledRuns(lines [][]rune, width int) (runs []filledRun, wide bool) {
	filled := make([]bool, width)
	for _, line := range lines {
		for i, r := range line {
			filled[i] = filled[i] || r != ' '
		}
	}
	for i, f := range filled {
		switch {
		case !f:
		case i > 0 && filled[i-1]:
			runs[len(runs)-1].to = i + 1
		default:
			if n := len(runs); n > 0 && i-runs[n-1].to > 1 {
				wide = true
			}
			runs = append(runs, filledRun{i, i + 1})
		}
	}
	return runs, wide
}

// onTheRight reports whether more lines reach the right edge of the run than begin at its left one.
func (f filledRun) onTheRight(lines [][]rune) bool {
	left, right := 0, 0
	for _, line := range lines {
		if f.from < len(line) && line[f.from] != ' ' {
			left++
		}
		if f.to <= len(line) && line[f.to-1] != ' ' {
			right++
		}
	}
	return right > left
}
