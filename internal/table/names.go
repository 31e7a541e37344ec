package table

import (
	"fmt"
	"strings"
	"unicode/utf8"

	"golang.org/x/text/unicode/norm"

	"junvo/internal/finding"
)

// UsableNames makes every column's name usable: none blank, none twice, none with spaces
// around it, which nobody sees. It notes what it had to change, where the source has names
// at all.
func UsableNames(cells []string, named bool) (names []string, notes []Note) {
	taken, next := map[string]bool{}, map[string]int{}
	var blank, twice, spaced, broken []string
	for i, cell := range cells {
		if !utf8.ValidString(cell) {
			cell = strings.ToValidUTF8(cell, "\ufffd")
			broken = append(broken, cell)
		}
		name := strings.TrimSpace(cell)
		switch {
		case name == "":
			name = fmt.Sprintf("column %d", i+1)
			blank = append(blank, name)
		case name != cell:
			spaced = append(spaced, name)
		}
		if taken[name] {
			twice = append(twice, name)
			name, next[name] = nextName(name, max(2, next[name]), taken)
		}
		taken[name] = true
		names = append(names, name)
	}
	if len(spaced) > 0 {
		notes = append(notes, Note{
			Kind: finding.SpacedNames, Count: int64(len(spaced)),
			Say: fmt.Sprintf("spaces around the names of %d columns are left out: %s", len(spaced), strings.Join(spaced, ", ")),
		})
	}
	if len(blank) > 0 && named {
		notes = append(notes, Note{
			Kind: finding.BlankNames, Count: int64(len(blank)),
			Say: fmt.Sprintf("%d columns have no name and are called %s", len(blank), strings.Join(blank, ", ")),
		})
	}
	if len(twice) > 0 {
		notes = append(notes, Note{
			Kind: finding.DuplicateNames, Count: int64(len(twice)),
			Say: fmt.Sprintf("%d columns have the name of another and got a number: %s", len(twice), strings.Join(twice, ", ")),
		})
	}
	if len(broken) > 0 {
		notes = append(notes, Note{
			Kind: finding.BrokenNames, Count: int64(len(broken)),
			Say: fmt.Sprintf("the names of %d columns have bytes that are not text in the encoding; \ufffd stands in their "+
				"place: %s", len(broken), strings.Join(broken, ", ")),
		})
	}
	return names, notes
}

// SameName returns a name as it is compared with others: without outer spaces, and with each accent in one character
// with its letter where there is one (Unicode normalization form C), since nobody sees whether it is.
func SameName(name string) string { return norm.NFC.String(strings.TrimSpace(name)) }

// nextName returns the name with the first number from n on that no other column has, and the number
// after it.
func nextName(name string, n int, taken map[string]bool) (string, int) {
	for ; ; n++ {
		if s := fmt.Sprintf("%s (%d)", name, n); !taken[s] {
			return s, n + 1
		}
	}
}

// Positions returns where each name stands first among the items.
func Positions[T any](items []T, name func(*T) string) map[string]int {
	at := make(map[string]int, len(items))
	for i := range items {
		if n := name(&items[i]); n != "" {
			if _, taken := at[n]; !taken {
				at[n] = i
			}
		}
	}
	return at
}
