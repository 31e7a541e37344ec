package profile

import (
	"cmp"
	"fmt"
	"maps"
	"slices"
	"strings"
	"unicode"
	"unicode/utf8"

	"junvo/internal/table"
)

// places counts rows and keeps the first few as numbers in the file.
type places struct {
	count int64
	rows  []int64
}

// maxRows is how many rows a finding names.
const maxRows = 5

func (p *places) add(t table.Tally, before int64) {
	p.count += t.Count
	for _, r := range t.Rows {
		if len(p.rows) < maxRows {
			p.rows = append(p.rows, before+int64(r)+1)
		}
	}
}

// The sorts of structural damage that a source counts.
const (
	shortRows = iota
	longRows
	strayQuotes
	openQuotes
	nuls
	badBytes
	tooLong
	names
	numTroubles
)

func collectTrouble(all *[numTroubles]places, b *table.Block, before int64) {
	t := &b.Trouble
	for i, tally := range [numTroubles]table.Tally{
		t.Short, t.Long, t.StrayQuotes, t.OpenQuotes, t.NULs, t.BadBytes,
		t.TooLong, t.Names,
	} {
		all[i].add(tally, before)
	}
}

// mayBeNames reports whether a row may be the names of another table: it has two cells or more, all of words.
func mayBeNames(b *table.Block, row int) bool {
	n := 0
	for c := range b.Width {
		text := strings.TrimSpace(string(b.Cell(row, c)))
		if text == "" {
			continue
		}
		if first, _ := utf8.DecodeRuneInString(text); !unicode.IsLetter(first) || strings.ContainsAny(text, "0123456789") {
			return false
		}
		n++
	}
	return n > 1
}

// maxOddBytes is how many different bytes a finding names.
const maxOddBytes = 8

// sayOdd names bytes, each with how often it occurs, the most frequent first.
func sayOdd(odd map[byte]int64) string {
	bytes := slices.SortedFunc(maps.Keys(odd), func(a, b byte) int {
		return cmp.Or(cmp.Compare(odd[b], odd[a]), cmp.Compare(a, b))
	})
	var list []string
	for _, b := range bytes[:min(len(bytes), maxOddBytes)] {
		list = append(list, fmt.Sprintf("0x%02X %d", b, odd[b]))
	}
	if n := len(bytes) - len(list); n > 0 {
		list = append(list, fmt.Sprintf("and %d others", n))
	}
	return strings.Join(list, ", ")
}
