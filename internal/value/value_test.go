package value

import (
	"math/big"
	"math/rand/v2"
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// number makes a random number and the same as a fraction, by another way.
func number(r *rand.Rand) (Number, *big.Rat) {
	digits := make([]byte, 1+r.IntN(1+r.IntN(40)))
	for i := range digits {
		digits[i] = byte('0' + r.IntN(10))
	}
	scale := int32(r.IntN(12) - 2)
	negative := r.IntN(2) == 0
	coef, _ := new(big.Int).SetString(string(digits), 10)
	if negative {
		coef.Neg(coef)
	}
	rat := new(big.Rat).SetInt(coef)
	ten := new(big.Rat).SetInt(bigTen(max(scale, -scale)))
	if scale < 0 {
		rat.Mul(rat, ten)
	} else {
		rat.Quo(rat, ten)
	}
	return NewNumber(negative, digits, scale), rat
}

func TestNumbersCompareAndAddExactly(t *testing.T) {
	r := rand.New(rand.NewPCG(1, 2))
	var sum, left, right Sum
	var small Int128
	total, smallTotal := new(big.Rat), new(big.Int)
	for i := range 5000 {
		a, x := number(r)
		b, y := number(r)
		require.Equal(t, x.Cmp(y), a.Compare(b), "%s and %s", a, b)
		require.Equal(t, 0, a.Compare(a))

		back, ok := new(big.Rat).SetString(a.String())
		require.True(t, ok, a.String())
		require.Zero(t, x.Cmp(back), "%s is written %s", x, a)

		times := uint64(1 + r.IntN(3))
		sum.Add(a, times)
		if i%2 == 0 {
			left.Add(a, times)
		} else {
			right.Add(a, times)
		}
		total.Add(total, new(big.Rat).Mul(x, new(big.Rat).SetInt64(int64(times))))
		v := int64(r.Uint64())
		small.Add(v, times)
		smallTotal.Add(smallTotal, new(big.Int).Mul(big.NewInt(v), big.NewInt(int64(times))))
	}
	for _, s := range []*Sum{&sum, func() *Sum { left.Merge(&right); return &left }()} {
		got, ok := new(big.Rat).SetString(s.Number().String())
		require.True(t, ok)
		assert.Zero(t, total.Cmp(got))
	}
	assert.Zero(t, smallTotal.Cmp(small.big()))
}

func TestSmallSumsDoNotOverflow(t *testing.T) {
	var a Int128
	for range 1000 {
		a.Add(1<<63-1, 1<<40)
		a.Add(-1<<63, 1<<40)
	}
	assert.Equal(t, new(big.Int).Mul(big.NewInt(-1000), big.NewInt(1<<40)), a.big())
}

func TestNumberText(t *testing.T) {
	for _, tt := range []struct {
		negative bool
		digits   string
		scale    int32
		want     string
	}{
		{false, "0", 0, "0"},
		{false, "5", 1, "0.5"},
		{true, "5", 3, "-0.005"},
		{false, "124050", 2, "1240.50"},
		{false, "12", -3, "12000"},
		{false, "0", -3, "0"},
		{true, strings.Repeat("9", 40), 20, "-" + strings.Repeat("9", 20) + "." + strings.Repeat("9", 20)},
	} {
		assert.Equal(t, tt.want, NewNumber(tt.negative, []byte(tt.digits), tt.scale).String())
	}
	var empty Sum
	assert.Equal(t, "0", empty.Number().String())
}

// The calendar is held against that of the standard library, day by day.
func TestCalendar(t *testing.T) {
	day := time.Date(1580, 1, 1, 0, 0, 0, 0, time.UTC)
	var before Day
	for day.Year() < 2110 {
		d, ok := NewDay(day.Year(), int(day.Month()), day.Day())
		require.True(t, ok, day)
		require.Equal(t, day.Format("2006-01-02"), string(d.Append(nil)))
		require.Less(t, before, d)
		if before != 0 {
			require.Equal(t, before.number()+1, d.number(), day)
		}
		parsed, err := ParseDate(string(d.Append(nil)))
		require.NoError(t, err)
		require.Equal(t, d, parsed)
		before, day = d, day.AddDate(0, 0, 1)
	}
	for _, bad := range [][3]int{{2021, 2, 29}, {2021, 4, 31}, {0, 1, 1}, {2021, 13, 1}, {2021, 0, 1}, {2021, 1, 0}, {10000, 1, 1}} {
		_, ok := NewDay(bad[0], bad[1], bad[2])
		assert.False(t, ok, bad)
	}
	for _, bad := range []string{"", "2021-02-29", "2021-2-3", "21-02-03", "2021/02/03", "2021-02-0x", "-021-02-03"} {
		_, err := ParseDate(bad)
		assert.Error(t, err, bad)
	}
}

func TestMomentsCompareInTime(t *testing.T) {
	r := rand.New(rand.NewPCG(3, 4))
	type pair struct {
		m Moment
		t time.Time
	}
	var all []pair
	for range 300 {
		y, mo, d, h, mi, s := 2020+r.IntN(3), 1+r.IntN(12), 1+r.IntN(28), r.IntN(24), r.IntN(60), r.IntN(60)
		offset := 15 * (r.IntN(97) - 48)
		day, _ := NewDay(y, mo, d)
		clock, ok := NewClock(h, mi, s, 0, 0)
		require.True(t, ok)
		all = append(all, pair{
			Moment{day, clock, int16(offset), true},
			time.Date(y, time.Month(mo), d, h, mi, s, 0, time.FixedZone("", offset*60)),
		})
	}
	for _, a := range all {
		require.Equal(t, a.t.Format("2006-01-02T15:04:05Z07:00"), string(a.m.Append(nil)))
		for _, b := range all {
			require.Equal(t, a.t.Compare(b.t), a.m.Compare(b.m), "%s %s", a.t, b.t)
		}
	}
}

func TestClockKeepsItsDigits(t *testing.T) {
	c, ok := NewClock(6, 5, 7, 250_000_000, 2)
	require.True(t, ok)
	assert.Equal(t, "06:05:07.25", string(c.Append(nil)))
	c, _ = NewClock(23, 59, 59, 999_999_999, 9)
	assert.Equal(t, "23:59:59.999999999", string(c.Append(nil)))
	for _, bad := range [][3]int{{24, 0, 0}, {0, 60, 0}, {0, 0, 60}, {-1, 0, 0}} {
		_, ok := NewClock(bad[0], bad[1], bad[2], 0, 0)
		assert.False(t, ok, bad)
	}
}

func TestTypesHaveTheirNames(t *testing.T) {
	for i, e := range Types {
		assert.EqualValues(t, i, e.Type)
		back, ok := ParseType(e.Name)
		assert.True(t, ok)
		assert.Equal(t, e.Type, back)
		assert.NotEmpty(t, e.Say)
		assert.NotEmpty(t, e.Written)
		assert.NotEmpty(t, e.Example)
	}
	_, ok := ParseType("varchar")
	assert.False(t, ok)
	assert.True(t, Decimal.Numeric())
	assert.False(t, Code.Numeric())
}
