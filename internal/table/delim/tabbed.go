package delim

import (
	"bytes"

	"junvo/internal/table/copytext"
)

// Databases write tables as text with tabs between the cells, a backslash before what would be taken for something
// else, and \N for no value. Such lines are handed on with a character between the cells that no text has, and in
// quotes where that is needed.

// tabbed takes such lines apart. It implements [maker].
type tabbed struct{}

// goesOn reports whether a line ends with a backslash that has none before it.
func (tabbed) goesOn(line []byte) bool {
	n := len(line) - len(bytes.TrimRight(line, `\`))
	return n%2 == 1
}

func (tabbed) made(dst, line []byte) []byte {
	for first, more := true, true; more; first = false {
		var cell []byte
		cell, line, more = copytext.Cut(line)
		if !first {
			dst = append(dst, unitSeparator)
		}
		if string(cell) == copytext.Null {
			continue
		}
		if bytes.IndexByte(cell, '\\') >= 0 {
			cell = copytext.Unescape(nil, cell)
		}
		dst = appendQuoted(dst, cell)
	}
	return dst
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
