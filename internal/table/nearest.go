package table

import "strings"

// Nearest returns the name that is most like the one given, so that a mistyped
// name can be answered with the one that was meant; "" where none is near.
func Nearest(name string, names []string) string {
	best, least := "", max(2, len([]rune(name))/2)
	for _, n := range names {
		if d := distance(fold(name), fold(n)); d < least {
			best, least = n, d
		}
	}
	return best
}

func fold(s string) []rune {
	return []rune(strings.ToLower(strings.NewReplacer("_", " ", ".", " ", "-", " ").Replace(s)))
}

// distance is the number of characters to insert, delete or replace to turn a
// into b (Levenshtein distance).
func distance(a, b []rune) int {
	row := make([]int, len(b)+1)
	for j := range row {
		row[j] = j
	}
	for i, x := range a {
		diagonal := row[0]
		row[0] = i + 1
		for j, y := range b {
			cost := diagonal
			if x != y {
				cost++
			}
			diagonal = row[j+1]
			row[j+1] = min(cost, row[j]+1, diagonal+1)
		}
	}
	return row[len(b)]
}
