package show

import (
	"slices"
	"strings"

	"github.com/jedib0t/go-pretty/v6/text"

	"junvo/internal/reading"
)

// stripColors are the colours of the readings' letters, which tell the same without.
var stripColors = [reading.NumReadings]text.Colors{
	{text.FgCyan},
	{text.FgBlue},
	{text.FgMagenta},
	{text.FgHiMagenta},
	{text.FgHiBlue},
	{text.FgGreen},
	{text.FgYellow},
	{},
	{text.Faint},
}

// strip returns the picture of a column: places letters, each for an equal share
// of the cells, in the order of the readings. Every reading that occurs has at
// least one place; the places that this costs are taken from the largest.
func strip(reads [reading.NumReadings]int64, places int, page Page) string {
	var out strings.Builder
	for r, n := range Shares(reads[:], places) {
		if n > 0 {
			letters := strings.Repeat(string(reading.Reading(r).Letter()), n)
			if page.Colour {
				letters = stripColors[r].Sprint(letters)
			}
			out.WriteString(letters)
		}
	}
	return out.String()
}

// Shares gives out places to counts by the largest remainder. Each that is not 0 has at least one.
func Shares(counts []int64, places int) []int {
	out := make([]int, len(counts))
	var total int64
	for _, n := range counts {
		total += n
	}
	if total == 0 {
		return out
	}
	given := 0
	rest := make([]int64, len(counts))
	for r, n := range counts {
		whole := n * int64(places) / total
		rest[r] = n*int64(places) - whole*total
		if n > 0 && whole == 0 {
			whole, rest[r] = 1, 0
		}
		out[r] = int(whole)
		given += out[r]
	}
	for ; given < places; given++ {
		best := slices.Index(rest, slices.Max(rest))
		out[best]++
		rest[best] = 0
	}
	for ; given > places; given-- {
		out[slices.Index(out, slices.Max(out))]--
	}
	return out
}
