package expression

import (
	"fmt"
	"math/rand/v2"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"junvo/internal/value"
)

// shortColumns are the columns of random expressions.
var shortColumns = []Variable{{Name: "a", Type: value.Decimal}, {Name: "b", Type: value.Integer}, {Name: "c", Type: value.Decimal}}

// randomNumber makes an expression that gives a number.
func randomNumber(r *rand.Rand, depth int) string {
	literals := []string{"0", "1", "2", "0.5", "1.25", "100", "0.01", "999999999", "123456789012345678", "3.14159265358979"}
	if depth == 0 || r.IntN(4) == 0 {
		if r.IntN(3) == 0 {
			return literals[r.IntN(len(literals))]
		}
		return shortColumns[r.IntN(3)].Name
	}
	x, y := randomNumber(r, depth-1), randomNumber(r, depth-1)
	switch r.IntN(9) {
	case 0:
		return "-(" + x + ")"
	case 1:
		return fmt.Sprintf("round(%s, %d)", x, r.IntN(5))
	case 2:
		return fmt.Sprintf("round(%s, %s)", x, y)
	case 8:
		return fmt.Sprintf("round(%s / %s, %d)", x, y, r.IntN(7))
	case 3, 4:
		return "(" + x + " * " + y + ")"
	case 5:
		return "(" + x + " - " + y + ")"
	}
	return "(" + x + " + " + y + ")"
}

// randomTruth makes an expression that gives true or false.
func randomTruth(r *rand.Rand, depth int) string {
	if depth > 0 {
		switch r.IntN(4) {
		case 0:
			return "!(" + randomTruth(r, depth-1) + ")"
		case 1:
			return "(" + randomTruth(r, depth-1) + " && " + randomTruth(r, depth-1) + ")"
		case 2:
			return "(" + randomTruth(r, depth-1) + " || " + randomTruth(r, depth-1) + ")"
		}
	}
	op := []string{"<", "<=", ">", ">=", "==", "!="}[r.IntN(6)]
	return randomNumber(r, 1) + " " + op + " " + randomNumber(r, 1)
}

// What the short way computes is what the library computes.
func TestShortWayIsExact(t *testing.T) {
	cells := []string{
		"", "0", "1", "-1", "2", "5", "12.5", "-12.5", "0.05", "-0.05", "0.15", "2.50", "100", "48.00", "0.001", "-7", "1.005", "2.675",
		"123456789012345678", "-999999999999999999", "1234567890123456789012", "0.000000000000000001", "99999999.99", "heavy", "1e5", "-", ".5", "5.",
	}
	r := rand.New(rand.NewPCG(6, 28))
	quick := 0
	for i := range 3000 {
		text := randomNumber(r, 3)
		if i%2 == 0 {
			text = randomTruth(r, 2)
		}
		e, err := Compile(text, shortColumns, Means{lists, parseSteps})
		if err != nil && strings.Contains(err.Error(), "this has no value") {
			continue
		}
		require.NoError(t, err, text)
		if e.short == nil {
			assert.Empty(t, e.Uses, "%s has no short way", text)
			continue
		}
		library := *e
		library.short = nil
		for range 12 {
			row := []string{cells[r.IntN(len(cells))], cells[r.IntN(len(cells))], cells[r.IntN(len(cells))]}
			cell := func(i int) string { return row[[]byte(e.Uses[i])[0]-'a'] }
			want, wrong := library.Eval(testRow{&library, cell})
			got, err := e.Eval(testRow{e, cell})
			assert.Equal(t, wrong, err, "%s of %q", text, row)
			assert.Equal(t, want, got, "%s of %q", text, row)
			if out, ok := e.short.eval(len(e.vars), testRow{e, cell}); ok && out != "" {
				quick++
			}
		}
	}
	assert.Greater(t, quick, 6000, "most rows take the short way")
}

// Only what is nothing but numbers has a short way.
func TestWhatHasAShortWay(t *testing.T) {
	columns := append([]Variable{{Name: "name", Type: value.Text}, {Name: "day", Type: value.Date}}, shortColumns...)
	for text, want := range map[string]bool{
		"a * b": true, "round(a * b, 2)": true, "a > 40 && b <= 3": true, "-a": true, "a": true, "!(a == b)": true,
		"a / b": false, "text(a)": false, "name": false, "name == 'x'": false, "year(day)": false, `raw("x") == "y"`: false, "1 + 2": false,
		"blank(a)": false, "a > 1 ? a : b": false, "round(a / b, 2)": true, "round((a + b) / c, 4) * 2": true, "round(a, 2) / b": false, "a * b > 3 || blank(c)": false, "length(name) + a": false,
	} {
		e, err := Compile(text, columns, Means{lists, parseSteps})
		require.NoError(t, err, text)
		assert.Equal(t, want, e.short != nil, text)
	}
}

func BenchmarkEval(b *testing.B) {
	row := []string{"1240.5", "12", "3.75"}
	for _, text := range []string{"a * c", "round(a * c, 2)", "a > 40 && b < 3", "round(a / b, 2)"} {
		e, err := Compile(text, shortColumns, Means{lists, parseSteps})
		require.NoError(b, err)
		b.Run(text, func(b *testing.B) {
			b.ReportAllocs()
			for b.Loop() {
				_, err := e.Eval(testRow{e, func(i int) string { return row[i] }})
				if err != nil {
					b.Fatal(err)
				}
			}
		})
	}
}
