package rowkind

import (
	"bytes"
	"slices"
	"strings"
	"unicode"

	"junvo/internal/table"
)

// A table that was printed in pages has its titles above each page again, with the number of another page perhaps.

// titles are what stands above a table.
type titles struct {
	starts []string        // what the first filled cell of each begins with, up to a digit
	rows   map[string]bool // their cells, with 0 for each number
	exact  map[string]bool
}

// minTitle is how many letters a title has at least.
const minTitle = 3

// startSize is how many bytes of a title are compared first.
const startSize = 4

func titlesOf(above []table.Line) titles {
	t := titles{rows: map[string]bool{}, exact: map[string]bool{}}
	for _, line := range above {
		if countLetters(line.Text) < minTitle {
			continue
		}
		cell := func(c int) []byte { return []byte(line.Cells[c]) }
		t.rows[string(titleKey(cell, len(line.Cells), true))] = true
		t.exact[string(titleKey(cell, len(line.Cells), false))] = true
		for _, c := range line.Cells {
			if c = strings.TrimSpace(c); c != "" {
				end := strings.IndexAny(c, "0123456789")
				if end < 0 {
					end = len(c)
				}
				t.starts = append(t.starts, c[:min(end, startSize)])
				break
			}
		}
	}
	return t
}

func countLetters(text string) (n int) {
	for _, r := range text {
		n += int(bit(unicode.IsLetter(r)))
	}
	return n
}

// firstBytes are those of the first cells of rows that may be titles.
func (t *titles) firstBytes() (list []byte) {
	for _, start := range t.starts {
		if start == "" {
			list = append(list, "0123456789"...)
		} else {
			list = append(list, start[0])
		}
	}
	return list
}

// mayBegin reports whether the first cell of a row may begin a title. It is true for all that do.
func (t *titles) mayBegin(cell []byte) bool {
	cell = bytes.TrimSpace(cell)
	return slices.ContainsFunc(t.starts, func(start string) bool {
		return bytes.HasPrefix(cell, []byte(start)) && (start != "" || cell[0]-'0' <= 9)
	})
}

// has reports whether the cells of a row are a title again: with other numbers only if not all of them are filled.
func (t *titles) has(cell func(column int) []byte, width int, full bool) bool {
	if full {
		return t.exact[string(titleKey(cell, width, false))]
	}
	return t.rows[string(titleKey(cell, width, true))]
}

// titleKey joins cells, with 0 for each number if numbers do not count.
func titleKey(cell func(column int) []byte, width int, anyNumber bool) (key []byte) {
	for c := range width {
		for _, b := range bytes.TrimSpace(cell(c)) {
			if anyNumber && b-'0' <= 9 {
				if b = '0'; len(key) > 0 && key[len(key)-1] == b {
					continue
				}
			}
			key = append(key, b)
		}
		key = append(key, 0)
	}
	return bytes.TrimRight(key, "\x00")
}
