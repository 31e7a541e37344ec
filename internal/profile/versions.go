package profile

import (
	"fmt"

	"junvo/internal/reading"
	"junvo/internal/value"
)

// Versions and sections look like decimals, 1.9 and 1.10, and are none: as numbers 1.10 is 1.1. What tells them apart is
// which texts occur in the column, so that the set of them is asked, which is exact for columns of few different texts.

// mostVersions is up to which whole part versions are looked for.
const mostVersions = 200

// versions returns two texts of the column that are one number and two versions, "" where there are none, and whether the
// fractions count up beyond nine: 1.8, 1.9, 1.10, and no 1.01, with which amounts would begin.
func (c *ColumnProfile) versions() (same string, countUp bool) {
	d := &c.Column.distinct
	if d.many != nil || d.told != nil || !c.plainDecimals() {
		return "", false
	}
	has := func(whole int, fraction string) bool {
		return d.few.has(hashText(fmt.Appendf(make([]byte, 0, 16), "%d.%s", whole, fraction)))
	}
	for w := range mostVersions {
		for f := 1; f <= 9; f++ {
			if has(w, fmt.Sprintf("0%d", f)) {
				return "", false // 1.05 is an amount
			}
			if same == "" && has(w, fmt.Sprint(f)) && has(w, fmt.Sprintf("%d0", f)) {
				same = fmt.Sprintf("%d.%d and %[1]d.%[2]d0", w, f)
			}
		}
		countUp = countUp || has(w, "8") && has(w, "9") && has(w, "10")
	}
	return same, countUp
}

// plainDecimals reports whether the column's numbers have a point and one digit after it, or two, and nothing around them.
func (c *ColumnProfile) plainDecimals() bool {
	if c.Conclusion.Convention.Type != value.Decimal {
		return false
	}
	var scales [maxScale + 1]bool
	for i := range c.Column.Tallies {
		t := &c.Column.Tallies[i]
		switch n := t.Numbers[reading.Point]; {
		case !t.Set.IsNumber():
		case n == nil || !t.Set.Any(reading.Plain) || n.rest != nil || len(n.wide) > 0:
			return false
		default:
			for scale := range n.small {
				scales[scale] = scales[scale] || n.small[scale].count > 0
			}
		}
	}
	return scales[1] && scales[2] && !scales[3] && !scales[4] && !scales[5] && !scales[6]
}
