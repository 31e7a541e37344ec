package value

import (
	"math"
	"math/big"
	"math/rand/v2"
	"strings"
	"testing"

	"github.com/stretchr/testify/require"
)

// text returns a number in canonical text of up to that many digits.
func numberText(r *rand.Rand, digits int) string {
	var b strings.Builder
	if r.IntN(2) == 0 {
		b.WriteByte('-')
	}
	n, point := 1+r.IntN(digits), r.IntN(12)
	for i := range n {
		if i > 0 && i == point {
			b.WriteByte('.')
		}
		b.WriteByte("0000999123456789"[r.IntN(16)])
	}
	return b.String()
}

// Wide numbers are what arithmetic of any length says, up to the largest that there are.
func TestWide(t *testing.T) {
	r := rand.New(rand.NewPCG(36, 128))
	nines := strings.Repeat("9", WideDigits)
	texts := []string{nines, "-" + nines, "0", "-0", "18446744073709551616", "-18446744073709551615.5", "9223372036854775808"}
	for range 20_000 {
		texts = append(texts, numberText(r, WideDigits))
	}
	before, _ := ParseNumber("0")
	var sums [WideDigits]Int192
	want, wide, got := new(big.Rat), new(big.Rat), Sum{}
	for i, text := range texts {
		number, err := ParseNumber(text)
		require.NoError(t, err)
		coef, scale, ok := parseWide([]byte(text))
		require.True(t, ok, text)
		require.Zero(t, coef.Number(scale).Compare(number), text)
		require.Equal(t, number.String(), coef.Number(scale).String(), text)
		beforeCoef, beforeScale, _ := parseWide([]byte(before.String()))
		if beforeScale == scale {
			require.Equal(t, number.Compare(before), coef.Compare(beforeCoef), "%s %s", text, before)
		}
		before = number
		times := uint64(1 + i%3)
		if i < 2 {
			times = 1<<63 + 1 // the most cells, of the largest number
		}
		sums[scale].Add(coef, times)
		one := number.Rat()
		want.Add(want, one.Mul(one, new(big.Rat).SetInt(new(big.Int).SetUint64(times))))
	}
	for scale, sum := range sums {
		got.AddInt192(sum, int32(scale))
	}
	require.Zero(t, want.Cmp(wide.Add(wide, got.Number().Rat())))
	for _, text := range []string{"", "-", ".", "1.", ".5", "1..2", "1e5", " 1", "9" + nines} {
		_, _, ok := parseWide([]byte(text))
		require.False(t, ok, text)
	}
}

// An Adder comes to the same whatever the numbers' digits, and however they are parted.
func TestAdderIsExact(t *testing.T) {
	r := rand.New(rand.NewPCG(7, 8))
	var whole Adder
	parts := make([]Adder, 3)
	want := new(big.Rat)
	for range 5000 {
		text := numberText(r, 1+r.IntN(45))
		number, err := ParseNumber(text)
		require.NoError(t, err)
		want.Add(want, number.Rat())
		require.True(t, whole.Add([]byte(text)))
		require.True(t, parts[r.IntN(len(parts))].Add([]byte(text)))
	}
	for i := range parts[1:] {
		parts[0].Merge(&parts[1+i])
	}
	require.Equal(t, whole.Text(), parts[0].Text())
	sum, err := ParseNumber(whole.Text())
	require.NoError(t, err)
	require.Zero(t, want.Cmp(sum.Rat()))
	require.Zero(t, testing.AllocsPerRun(100, func() { whole.Add([]byte("12345678901234567890.123456")) }))
}

// What stands for a number in estimates is right to 15 digits.
func TestNear(t *testing.T) {
	r := rand.New(rand.NewPCG(7, 16))
	for range 20_000 {
		digits := make([]byte, 1+r.IntN(WideDigits))
		for i := range digits {
			digits[i] = byte('0' + r.IntN(10))
		}
		negative, scale := r.IntN(2) == 0, int32(r.IntN(120)-60)
		want := NewNumber(negative, digits, scale).Float()
		got := Int128OfDigits(negative, digits).Near(scale)
		require.LessOrEqual(t, math.Abs(got-want), math.Abs(want)*1e-15*4, "%s %d", digits, scale)
	}
	require.True(t, math.IsNaN(Int128From(7).Near(400)))
}
