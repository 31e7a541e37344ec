package table

import (
	"fmt"
	"strings"
)

// UsableNames makes every column's name usable: none blank, none twice. It notes what
// it had to change, where the source has names at all.
func UsableNames(cells []string, named bool) (names []string, notes []Note) {
	seen := map[string]int{}
	var blank, twice []string
	for i, name := range cells {
		if strings.TrimSpace(name) == "" {
			name = fmt.Sprintf("column %d", i+1)
			blank = append(blank, name)
		}
		seen[name]++
		if n := seen[name]; n > 1 {
			twice = append(twice, name)
			name = fmt.Sprintf("%s (%d)", name, n)
			seen[name]++
		}
		names = append(names, name)
	}
	if len(blank) > 0 && named {
		notes = append(notes, Note{Name: "blank-names", Count: int64(len(blank)), Say: fmt.Sprintf("%d columns have no name and are called %s", len(blank), strings.Join(blank, ", "))})
	}
	if len(twice) > 0 {
		notes = append(notes, Note{Name: "duplicate-names", Count: int64(len(twice)), Say: fmt.Sprintf("%d columns have the name of another and got a number: %s", len(twice), strings.Join(twice, ", "))})
	}
	return names, notes
}
