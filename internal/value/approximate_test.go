package value

import (
	"math/rand/v2"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

func TestParseNumber(t *testing.T) {
	for _, s := range []string{"0", "7", "-7", "0.5", "-12.50", "123456789012345678901234567890.125"} {
		n, err := ParseNumber(s)
		require.NoError(t, err, s)
		assert.Equal(t, s, n.String())
	}
	for _, s := range []string{"", "-", ".5", "5.", "1,5", "1e5", "--1", "1.2.3", "x", " 1"} {
		_, err := ParseNumber(s)
		assert.Error(t, err, s)
	}
}

func TestOver(t *testing.T) {
	for _, tt := range []struct {
		n    string
		by   int64
		want string
	}{
		{"10", 4, "2.5"},
		{"1", 3, "0.333333"},
		{"2", 3, "0.666667"},
		{"-2", 3, "-0.666667"},
		{"0.0000005", 1, "0.0000005"},
		{"0", 7, "0"},
		{"1729503.3", 1164, "1485.8275773"},
		{"1", 2000000, "0"},        // half, to even
		{"3", 2000000, "0.000002"}, // half, to even
		{"123456789012345678901234567890", 2, "61728394506172839450617283945"},
	} {
		n, err := ParseNumber(tt.n)
		require.NoError(t, err)
		assert.Equal(t, tt.want, n.Over(tt.by), "%s / %d", tt.n, tt.by)
	}
	assert.Equal(t, "150", Number{Coef: 3, Scale: -2}.Over(2))
}

func TestFormatFloat(t *testing.T) {
	for _, tt := range []struct {
		v, resolution float64
		want          string
	}{{1234.5678, 100, "1235"}, {1234.5678, 1, "1234.6"}, {0.12345, 0.001, "0.1235"}, {5, 0, "5"}, {0.5, 1e-30, "0.5"}} {
		assert.Equal(t, tt.want, FormatFloat(tt.v, tt.resolution))
	}
}

func TestDaysCountFromTheEpoch(t *testing.T) {
	for s, want := range map[string]int{"1970-01-01": 0, "1969-12-31": -1, "2000-03-01": 11017, "0001-01-01": -719162, "9999-12-31": 2932896} {
		d, err := ParseDate(s)
		require.NoError(t, err)
		assert.Equal(t, want, d.Days(), s)
		assert.Equal(t, d, DayOf(want), s)
	}
}

func TestFloat(t *testing.T) {
	n, err := ParseNumber("-1234.5")
	require.NoError(t, err)
	assert.InDelta(t, -1234.5, n.Float(), 1e-9)
	assert.InDelta(t, 300.0, Number{Coef: 3, Scale: -2}.Float(), 1e-9)
}

// Numbers of few digits take a short way to binary floating point, which is the number that is nearest, too.
func TestFloatIsTheNearest(t *testing.T) {
	r := rand.New(rand.NewPCG(4, 4))
	for range 200_000 {
		n := Number{Coef: r.Int64() >> r.IntN(60), Scale: int32(r.IntN(30))}
		if r.IntN(2) == 0 {
			n.Coef = -n.Coef
		}
		want, _ := n.Rat().Float64()
		require.Equal(t, want, n.Float(), "%v", n)
	}
}
