package delim

import "bytes"

// Programs print lists with as many spaces between the cells as they like, and some at the ends of lines. Such lines
// are handed on with a character between the cells that no text has.

// spacesName is the delimiter of such lists, as it is told.
const spacesName = "spaces"

// bySpaces takes lines apart at runs of spaces, but for those inside quotes. It implements [maker].
type bySpaces struct{}

func (bySpaces) goesOn([]byte) bool { return false }

func (bySpaces) made(dst, line []byte) []byte {
	for first := true; ; first = false {
		line = bytes.TrimLeft(line, " ")
		if len(line) == 0 {
			return dst
		}
		if !first {
			dst = append(dst, unitSeparator)
		}
		end := cellEnd(line)
		dst = append(dst, line[:end]...)
		line = line[end:]
	}
}

// cellEnd returns where the cell ends that a line begins with: at a space, or behind its quotes.
func cellEnd(line []byte) int {
	if line[0] == '"' {
		for i := 1; i < len(line); i++ {
			if line[i] == '"' && (i+1 == len(line) || line[i+1] == ' ') {
				return i + 1
			}
		}
	}
	if end := bytes.IndexByte(line, ' '); end >= 0 {
		return end
	}
	return len(line)
}

// How many lines of how many cells it takes to believe in runs of spaces.
const minSpacedLines, minSpacedCells = 4, 3

// bySpaces reports whether the text is such a list: it is told, or all lines have the same number of cells, none has
// another delimiter, and some have more spaces than one or end with them.
func (o *Options) bySpaces(raw []byte, whole bool) bool {
	if o.Delimiter != "" || o.Widths != nil || o.Quote != "" || o.Escape != "" {
		return o.Delimiter == spacesName
	}
	if end := bytes.LastIndexByte(raw, '\n') + 1; !whole {
		raw = raw[:end]
	}
	lines, width, runs := 0, 0, false
	for line := range bytes.Lines(raw) {
		line = bytes.TrimRight(line, "\r\n")
		if len(bytes.Trim(line, " ")) == 0 {
			continue
		}
		n := bytes.Count(bySpaces{}.made(nil, line), []byte{unitSeparator}) + 1
		if lines++; lines > sampleRows {
			break
		}
		if width > 0 && n != width || n < minSpacedCells || bytes.ContainsAny(line, ";\t|") || commasInText(line) {
			return false
		}
		width = n
		runs = runs || line[len(line)-1] == ' ' || bytes.Contains(bytes.TrimLeft(line, " "), []byte("  "))
	}
	return runs && lines >= minSpacedLines
}

// commasInText reports whether a comma stands beside something else than a digit.
func commasInText(line []byte) bool {
	for i, b := range line {
		if b == ',' && (i == 0 || i+1 == len(line) || !isDigit(line[i-1]) || !isDigit(line[i+1])) {
			return true
		}
	}
	return false
}
