package value

import (
	"math/big"
	"math/rand/v2"
	"regexp"
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

func TestDigits(t *testing.T) {
	for text, want := range map[string][3]int{
		"0": {1, 0, 0}, "7": {1, 0, 1}, "-40": {2, 0, 1}, "1240.50": {4, 2, 5}, "0.000120": {1, 6, 2}, "-0.1": {1, 1, 1},
		"100000000000000000000000": {24, 0, 1}, "123456789012345.6": {15, 1, 16}, "0.00": {1, 2, 0},
	} {
		whole, fraction, significant := Digits([]byte(text))
		assert.Equal(t, want, [3]int{whole, fraction, significant}, text)
	}
}

// A number of so many digits comes back from binary floating point as it was: what sinks
// rely on that store numbers so.
func TestFloatDigitsAreKept(t *testing.T) {
	r := rand.New(rand.NewPCG(7, 8))
	for range 20_000 {
		n := Number{Coef: r.Int64N(1e15), Scale: int32(r.IntN(12))}
		f := n.Float()
		back := new(big.Float).SetFloat64(f).Text('g', FloatDigits)
		want, _, err := big.ParseFloat(n.String(), 10, 200, big.ToNearestEven)
		require.NoError(t, err)
		assert.Equal(t, want.Text('g', FloatDigits), back, n.String())
	}
}

func TestUnscaled(t *testing.T) {
	for _, tt := range []struct {
		number string
		scale  int32
		want   string
	}{
		{"1240.5", 2, "124050"},
		{"-0.05", 2, "-5"},
		{"7", 3, "7000"},
		{"7.00", 0, "7"},
		{"0", 4, "0"},
		{"123456789012345678901234567890.5", 1, "1234567890123456789012345678905"},
	} {
		n, err := ParseNumber(tt.number)
		require.NoError(t, err)
		assert.Equal(t, tt.want, n.Unscaled(tt.scale).String(), tt.number)
	}
}

func TestBefore(t *testing.T) {
	for typ, pairs := range map[Type][][2]string{
		Integer:   {{"9", "10"}, {"-10", "-9"}},
		Decimal:   {{"9.5", "10.25"}, {"1.4", "1.50"}},
		Date:      {{"2021-03-04", "2021-03-05"}},
		Timestamp: {{"2021-03-04T10:00:00+02:00", "2021-03-04T09:00:00Z"}, {"2021-03-04T10:00:00", "2021-03-04T10:00:00.5"}},
		Text:      {{"10", "9"}},
	} {
		for _, p := range pairs {
			assert.True(t, Before(typ, p[0], p[1]), "%s %v", typ, p)
			assert.False(t, Before(typ, p[1], p[0]), "%s %v", typ, p)
			assert.False(t, Before(typ, p[0], p[0]))
		}
	}
	assert.False(t, Before(Decimal, "none", "1"))
	assert.False(t, Before(Timestamp, "1", "tomorrow"))
	assert.False(t, Before(Decimal, "1.50", "1.5"), "they are the same number")
}

// Day numbers count as the standard calendar does, to the second or to its thousandth.
func TestDayNumbersCountDays(t *testing.T) {
	r := rand.New(rand.NewPCG(9, 10))
	for range 5000 {
		days := 61 + r.IntN(lastDayNumber-61)
		want := time.Date(1899, 12, 30, 0, 0, 0, 0, time.UTC).AddDate(0, 0, days)
		m, ok := OfDayNumber(float64(days), false, false)
		require.True(t, ok)
		assert.Equal(t, want.Format(time.DateOnly), string(m.Day.Append(nil)))
		assert.Zero(t, m.Clock.Nanos)
	}
	for n, want := range map[float64][2]string{
		44260.25:         {"2021-03-05T06:00:00", "2021-03-05T06:00:00"},
		44260.2534722222: {"2021-03-05T06:05:00", "2021-03-05T06:05:00"},
		44260.5000028935: {"2021-03-05T12:00:00", "2021-03-05T12:00:00.25"},
		44260.9999999999: {"2021-03-06T00:00:00", "2021-03-06T00:00:00"},
	} {
		for i, thousandths := range []bool{false, true} {
			m, ok := OfDayNumber(n, false, thousandths)
			require.True(t, ok)
			assert.Equal(t, want[i], string(m.Append(nil)), "%v", n)
		}
	}
	for _, none := range []float64{0, 60, -1, lastDayNumber + 1} {
		_, ok := OfDayNumber(none, false, true)
		assert.False(t, ok, "%v", none)
	}
	assert.True(t, Text.Textual() && Code.Textual())
	assert.False(t, strings.Contains(strings.Join(TypeNames(), " "), "unknown"))
}

// A number in canonical text is what this pattern says, and nothing else is.
func TestIsNumber(t *testing.T) {
	pattern := regexp.MustCompile(`^-?[0-9]+(\.[0-9]+)?$`)
	r := rand.New(rand.NewPCG(8, 8))
	numbers := 0
	for range 300_000 {
		text := make([]byte, r.IntN(7))
		for i := range text {
			text[i] = "0123456789009.-+e ,/:"[r.IntN(21)]
		}
		want := pattern.Match(text)
		require.Equal(t, want, IsNumber(text), "%q", text)
		require.Equal(t, want, IsNumber(string(text)), "%q", text)
		_, err := ParseNumber(string(text))
		require.Equal(t, want, err == nil, "%q", text)
		if want {
			numbers++
		}
	}
	require.Greater(t, numbers, 10_000)
}

// A moment has an offset behind its time, or none.
func TestParseMoment(t *testing.T) {
	for text, offset := range map[string]int16{
		"2021-03-04T05:06:07": 0, "2021-03-04T05:06:07.25": 0, "2021-03-04T05:06:07Z": 0, "2021-03-04T05:06:07-05:30": -330,
		"2021-03-04T05:06:07.125+01:00": 60,
	} {
		m, err := ParseMoment(text)
		require.NoError(t, err, text)
		assert.Equal(t, offset, m.Offset, text)
		assert.Equal(t, len(text) > 22 || strings.HasSuffix(text, "Z"), m.HasOffset, text)
	}
	for _, text := range []string{"2021-03-04T05:06", "2021-03-04 05:06:07", "2021-03-04T05:06:07z", "2021-03-04T05:06:07+1", "2021-02-30T05:06:07"} {
		_, err := ParseMoment(text)
		assert.Error(t, err, text)
	}
}
