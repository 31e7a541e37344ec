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

// distance is the number of characters to insert, delete, replace or exchange with
// the next one to turn a into b (optimal string alignment distance).
func distance(a, b []rune) int {
	var older []int
	row := make([]int, len(b)+1)
	for j := range row {
		row[j] = j
	}
	for i, x := range a {
		next := make([]int, len(b)+1)
		next[0] = i + 1
		for j, y := range b {
			cost := row[j]
			if x != y {
				cost++
			}
			if i > 0 && j > 0 && x == b[j-1] && a[i-1] == y {
				cost = min(cost, older[j-1]+1)
			}
			next[j+1] = min(cost, next[j]+1, row[j+1]+1)
		}
		older, row = row, next
	}
	return row[len(b)]
}

// Typo returns the name that the one given is a slip of: at most two characters off for long
// names and one for short ones; "" where there is none.
func Typo(name string, names []string) string {
	for _, n := range names {
		if distance(fold(name), fold(n)) <= 1+len(n)/8 {
			return n
		}
	}
	return ""
}
