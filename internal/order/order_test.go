package order

import (
	"bytes"
	"context"
	"fmt"
	"math/rand/v2"
	"os"
	"slices"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"junvo/internal/value"
)

// However little memory there is, records come out by key, and equal keys as they came.
func TestSorterSortsMoreThanItHolds(t *testing.T) {
	for _, memory := range []int{1, 200, 5000, 1 << 20} {
		r := rand.New(rand.NewPCG(1, 2))
		folder := t.TempDir()
		s := NewSorter(folder, memory)
		type pair struct{ key, data string }
		var want []pair
		for i := range 700 {
			p := pair{fmt.Sprint(r.IntN(200)), fmt.Sprint("row ", i)}
			want = append(want, p)
			require.NoError(t, s.Add(AppendRecord(nil, []byte(p.key), []byte(p.data))))
		}
		slices.SortStableFunc(want, func(a, b pair) int { return strings.Compare(a.key, b.key) })
		var got []pair
		require.NoError(t, s.Each(context.Background(), func(key, data []byte) error {
			got = append(got, pair{string(key), string(data)})
			return nil
		}))
		assert.Equal(t, want, got, "memory %d", memory)
		s.Close()
		left, err := os.ReadDir(folder)
		require.NoError(t, err)
		assert.Empty(t, left, "temporary files are removed")
	}
}

func TestSorterReportsWhereItCannotWrite(t *testing.T) {
	s := NewSorter(t.TempDir()+"/gone", 1)
	defer s.Close()
	one := AppendRecord(nil, []byte("k"), nil)
	require.NoError(t, s.Add(one))
	assert.ErrorContains(t, s.Add(one), "gone")
}

func TestSorterHearsAnInterrupt(t *testing.T) {
	s := NewSorter(t.TempDir(), 100)
	defer s.Close()
	require.NoError(t, s.Add(AppendRecord(nil, []byte("k"), nil)))
	ctx, cancel := context.WithCancel(context.Background())
	cancel()
	assert.ErrorIs(t, s.Each(ctx, func(_, _ []byte) error { return nil }), context.Canceled)
}

// Each list is in order; "" is a blank, and what is no value of the type stands before it.
var ordered = map[value.Type][]string{
	value.Integer:   {"-100000000000000000000000000000", "-99", "-10", "-9", "0", "1", "9", "10", "19", "100", "99999999999999999999999999999999999", "none", ""},
	value.Decimal:   {"-12.5", "-12.05", "-12", "-0.5", "-0.05", "0", "0.001", "0.01", "0.1", "0.11", "1", "1.0001", "9.99", "10", "abc", ""},
	value.Date:      {"0999-01-01", "2021-03-04", "2021-03-05", "2021-12-01", ""},
	value.Time:      {"00:00:00", "09:05:00", "09:05:00.25", "09:05:00.3", "18:05:00", ""},
	value.Timestamp: {"2021-03-04T10:00:00+02:00", "2021-03-04T08:30:00Z", "2021-03-04T08:30:00.5Z", "2021-03-04T08:30:00-01:00", "tomorrow", ""},
	value.Boolean:   {"false", "true", ""},
	value.Code:      {"00", "0012", "01", "A1", "B", "a1", ""},
	value.Text:      {"aal", "Aal", "Äsche", "Barsch", "Straße", "zander", "Zander", ""},
}

func TestKeysAreInTheOrderOfTheValues(t *testing.T) {
	for typ, list := range ordered {
		for _, descending := range []bool{false, true} {
			keys := NewKeys([]Key{{Type: typ, Descending: descending}})
			key := func(s string) []byte { return keys.Append(nil, func(int) []byte { return []byte(s) }) }
			for i, a := range list {
				for _, b := range list[i+1:] {
					values := b != "" && b != "none" && b != "abc" && b != "tomorrow"
					want := -1
					if descending && values {
						want = 1
					}
					assert.Equal(t, want, bytes.Compare(key(a), key(b)), "%s %q and %q, descending %v", typ, a, b, descending)
				}
			}
		}
	}
}

// Numbers are equal however many zeros they are written with, and the next column decides.
func TestEqualNumbersLeaveItToTheNextColumn(t *testing.T) {
	keys := NewKeys([]Key{{Column: 0, Type: value.Decimal}, {Column: 1, Type: value.Text}})
	key := func(cells ...string) []byte { return keys.Append(nil, func(c int) []byte { return []byte(cells[c]) }) }
	assert.Equal(t, key("1.50", "a"), key("1.5", "a"))
	assert.Equal(t, -1, bytes.Compare(key("1.50", "a"), key("1.5", "b")))
	assert.Equal(t, -1, bytes.Compare(key("1.5", "z"), key("1.51", "a")))
}

// A text with zero bytes, or one that continues another, is never taken for another.
func TestTextKeysAreNotMixedUp(t *testing.T) {
	keys := NewKeys([]Key{{Column: 0, Type: value.Code}, {Column: 1, Type: value.Code}})
	key := func(cells ...string) string {
		return string(keys.Append(nil, func(c int) []byte { return []byte(cells[c]) }))
	}
	seen := map[string]bool{}
	for _, a := range []string{"", "\x00", "\x00\x00", "a", "a\x00", "a\x00b", "ab", "\xff", "\x00\xff"} {
		for _, b := range []string{"", "\x00", "a", "b", "\x00b"} {
			k := key(a, b)
			assert.False(t, seen[k], "%q %q", a, b)
			seen[k] = true
		}
	}
}

// The keys of random numbers compare as the numbers do, and those of random texts are the
// same for the same text only.
func TestKeysOfRandomValues(t *testing.T) {
	r := rand.New(rand.NewPCG(3, 4))
	digits := func(n int) string {
		b := make([]byte, n)
		for i := range b {
			b[i] = "0123456789"[r.IntN(10)]
		}
		return string(b)
	}
	random := func() string {
		s := digits(1 + r.IntN(25))
		if s = strings.TrimLeft(s, "0"); s == "" {
			s = "0"
		}
		if r.IntN(2) == 0 {
			s += "." + digits(1+r.IntN(12))
		}
		if r.IntN(2) == 0 && strings.Trim(s, "0.") != "" {
			s = "-" + s
		}
		return s
	}
	keys := NewKeys([]Key{{Type: value.Decimal}})
	key := func(s string) []byte { return keys.Append(nil, func(int) []byte { return []byte(s) }) }
	for range 5000 {
		a, b := random(), random()
		if r.IntN(4) == 0 {
			b = a + "0"
			if !strings.Contains(a, ".") {
				b = a + ".0"
			}
		}
		x, err := value.ParseNumber(a)
		require.NoError(t, err)
		y, err := value.ParseNumber(b)
		require.NoError(t, err)
		assert.Equal(t, x.Compare(y), bytes.Compare(key(a), key(b)), "%s and %s", a, b)
	}
}

func FuzzTextKeys(f *testing.F) {
	f.Add("a", "b", "a", "c")
	f.Add("\x00", "", "", "\x00")
	f.Fuzz(func(t *testing.T, a, b, c, d string) {
		for _, typ := range []value.Type{value.Text, value.Code} {
			keys := NewKeys([]Key{{Column: 0, Type: typ}, {Column: 1, Type: typ, Descending: true}})
			key := func(cells ...string) string {
				return string(keys.Append(nil, func(i int) []byte { return []byte(cells[i]) }))
			}
			assert.Equal(t, a == c && b == d, key(a, b) == key(c, d), "%q %q and %q %q", a, b, c, d)
			if typ == value.Code && a != "" && c != "" && a != c {
				assert.Equal(t, a < c, key(a, b) < key(c, d))
			}
		}
	})
}
