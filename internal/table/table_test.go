package table

import (
	"bytes"
	"context"
	"errors"
	"fmt"
	"io"
	"strings"
	"sync/atomic"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"junvo/internal/finding"
)

// numbered is a source of blocks that hold their own number as one cell.
type numbered struct {
	info  Info
	next  int
	end   int
	fail  error
	block chan struct{} // if set, Next waits for it at the end
}

func (n *numbered) Info() *Info { return &n.info }

func (n *numbered) Next(b *Block) error {
	if n.next == n.end {
		if n.block != nil {
			<-n.block
		}
		if n.fail != nil {
			return n.fail
		}
		return io.EOF
	}
	b.Raw = fmt.Appendf(b.Raw[:0], "%d", n.next)
	n.next++
	return nil
}

func (n *numbered) Split(b *Block) {
	b.Text, b.Width, b.Rows = b.Raw, 1, 1
	b.Spans = append(b.Spans[:0], Span{0, uint32(len(b.Text))})
	b.LineCount = 2
	b.Pad()
}

func TestEachKeepsTheOrder(t *testing.T) {
	for _, workers := range []int{1, 2, 5} {
		var worked atomic.Int64
		var got []string
		err := Each(context.Background(), &numbered{end: 500}, workers, func(worker int, b *Block) {
			assert.Less(t, worker, workers)
			if b.Seq%7 == 0 {
				time.Sleep(time.Microsecond)
			}
			worked.Add(1)
		}, func(b *Block) error {
			got = append(got, string(b.Cell(0, 0)))
			return nil
		})
		require.NoError(t, err)
		require.Len(t, got, 500)
		for i, s := range got {
			require.Equal(t, fmt.Sprint(i), s)
		}
		assert.EqualValues(t, 500, worked.Load())
	}
}

func TestEachEndsWithTheFirstError(t *testing.T) {
	nothing := func(int, *Block) {}
	broken := errors.New("broken")
	assert.ErrorIs(t, Each(context.Background(), &numbered{end: 20, fail: broken}, 2, nothing, nil), broken)
	seen := 0
	err := Each(context.Background(), &numbered{end: 1000}, 2, nothing, func(*Block) error {
		if seen++; seen == 10 {
			return broken
		}
		return nil
	})
	assert.ErrorIs(t, err, broken)
	assert.Equal(t, 10, seen)
}

// A source that waits without end does not keep a cancelled run.
func TestEachCanBeCancelled(t *testing.T) {
	ctx, cancel := context.WithCancel(context.Background())
	n := &numbered{end: 3, block: make(chan struct{})}
	defer close(n.block)
	done := make(chan error)
	go func() { done <- Each(ctx, n, 2, func(int, *Block) {}, nil) }()
	time.Sleep(10 * time.Millisecond)
	cancel()
	select {
	case err := <-done:
		assert.ErrorIs(t, err, context.Canceled)
	case <-time.After(10 * time.Second):
		t.Fatal("it waits for a source that never answers")
	}
}

func TestKeysAreEqualWhereTextsAre(t *testing.T) {
	texts := []string{"", "a", "b", "ab", "a\x00", "\x00", "12345678", "123456789", "123456789012345", "123456789012346", "x", "2345678"}
	var keys []Key
	for _, s := range texts {
		for _, tail := range []string{"", "tail that is long enough for a whole key"} {
			b := &Block{Text: []byte(s + tail)}
			b.Pad()
			k := b.Padded().Key(Span{0, uint32(len(s))})
			assert.Equal(t, s, string(k.Append(nil)))
			keys = append(keys, k)
			i, j := k.slotPair(64)
			assert.Less(t, max(i, j), uint64(64))
		}
	}
	for i, k := range keys {
		for j, l := range keys {
			assert.Equal(t, texts[i/2] == texts[j/2], k == l, "%q %q", texts[i/2], texts[j/2])
		}
	}
}

func TestSlotsStayWithinTheirBounds(t *testing.T) {
	for _, columns := range []int{1, 12, 200, 2000, 100_000} {
		n := NewRecent[uint64](columns).slots
		assert.Zero(t, n&(n-1), "a power of two")
		assert.True(t, n == minSlots || n*uint64(columns)*24 <= recentBytes, "%d columns have %d slots", columns, n)
	}
}

func TestRecentFindsWhatItWasGiven(t *testing.T) {
	r := NewRecent[int](1)
	r.Open()
	var keys []Key
	for i := range 500 {
		b := &Block{Text: fmt.Appendf(nil, "text %d", i)}
		b.Pad()
		k := b.Padded().Key(Span{0, uint32(len(b.Text))})
		keys = append(keys, k)
		assert.Nil(t, r.Find(k))
		e, other := r.Pair(k)
		if e.Key != (Key{}) {
			e = other
		}
		e.Key, e.Known = k, i
	}
	found := 0
	for i, k := range keys {
		if e := r.Find(k); e != nil {
			assert.Equal(t, i, e.Known)
			found++
		}
	}
	assert.Greater(t, found, 450, "of 500 texts in 4096 slots, nearly all find one of two")
	r.Close()
	assert.Nil(t, r.Texts)
}

// A column rests from remembering where most of its texts are new, and each time for longer.
func TestRecentRestsWhereTextsAreNew(t *testing.T) {
	r := NewRecent[int](1)
	miss := func(cells *int64, texts int, each int64) (rests bool) {
		for i := range texts {
			*cells += each
			rests = r.Miss(*cells)
			assert.True(t, i == texts-1 || !rests, "only where it asks")
		}
		return rests
	}
	var cells int64
	assert.False(t, miss(&cells, firstCheck, 3), "two of three texts are known")
	assert.False(t, r.Resting())
	rest := 16 * 2 * firstCheck
	for check := 2 * firstCheck; ; check = min(2*check, lastCheck) {
		assert.True(t, miss(&cells, check, 1))
		r.Rested(rest - 1)
		assert.True(t, r.Resting(), "%d", check)
		r.Rested(100)
		assert.False(t, r.Resting(), "%d", check)
		cells += int64(rest)
		if rest == 1<<22 {
			break
		}
		rest *= 2
	}
	assert.True(t, miss(&cells, lastCheck, 1))
	r.Rested(1<<22 - 1)
	assert.True(t, r.Resting(), "for no longer than that")
}

// A column of some thousand texts that repeat knows them soon, though they are all new at first.
func TestRecentLearnsTextsThatRepeat(t *testing.T) {
	r := NewRecent[int](1)
	r.Open()
	known, cells := 0, 0
	for ; cells < 200_000; cells++ {
		if r.Resting() {
			r.Rested(1)
			continue
		}
		k := Key{uint64(cells*7919%2000) + 1, 0}
		if r.Find(k) != nil {
			known++
			continue
		}
		r.Miss(int64(cells))
		a, _ := r.Pair(k)
		a.Key = k
	}
	assert.Greater(t, known, cells*3/4)
}

func TestNearest(t *testing.T) {
	names := []string{"Net weight", "Landing No.", "Buyer No.", "Ice share"}
	for typed, want := range map[string]string{
		"net_weight": "Net weight", "Net wieght": "Net weight", "landing no": "Landing No.", "iceshare": "Ice share", "tonnage": "", "": "",
	} {
		assert.Equal(t, want, Nearest(typed, names), typed)
	}
}

func chainOf(names ...[]string) (*Chain, error) {
	var parts []*Info
	for i, n := range names {
		file := fmt.Sprintf("file %d", i)
		parts = append(parts, &Info{Name: file, Names: n, Files: []File{{file, int64(10 * (i + 1))}}, Above: []Line{{Number: 1, Text: "title"}}})
	}
	return NewChain(parts, func(part int) (Source, error) { return &numbered{info: *parts[part], end: 2}, nil })
}

func TestChainReadsOneAfterTheOther(t *testing.T) {
	c, err := chainOf([]string{"a"}, []string{"a"})
	require.NoError(t, err)
	assert.Len(t, c.Info().Above, 2)
	assert.Equal(t, 1, c.Info().Above[1].File)
	var got []string
	var lines Lines
	for b := (&Block{}); ; b.Seq++ {
		b.Reset()
		if err := c.Next(b); err == io.EOF {
			break
		}
		c.Split(b)
		got = append(got, fmt.Sprint(b.File, string(b.Cell(0, 0)), lines.Start(c.Info(), b)))
	}
	assert.Equal(t, []string{"0010", "0112", "1020", "1122"}, got)
}

func TestChainMatchesNames(t *testing.T) {
	_, err := chainOf([]string{"a", "b"}, []string{"b", "a"})
	assert.NoError(t, err)
	_, err = chainOf([]string{"a", "b"}, []string{"a", "c"})
	var h *HeaderError
	require.ErrorAs(t, err, &h)
	assert.Equal(t, []string{"b"}, h.Missing)
	assert.Equal(t, []string{"c"}, h.Extra)
}

func TestUnescape(t *testing.T) {
	for _, tt := range []struct {
		escape    byte
		raw, want string
	}{
		{'"', `a ""b"" c`, `a "b" c`},
		{'"', `""`, `"`},
		{'"', `""""`, `""`},
		{'\\', `a \"b\" c`, `a "b" c`},
		{'\\', `a\\b`, `a\b`},
		{'\\', `a\nb`, `a\nb`},
		{'\\', `end\`, `end\`},
	} {
		b := &Block{Text: []byte(tt.raw), Quote: '"', Escape: tt.escape}
		assert.Equal(t, tt.want, string(b.At(Span{0, uint32(len(tt.raw)) | Escaped})), tt.raw)
	}
}

// What is found late changes the Info of whoever reads, and never that of the source.
func TestWhatIsFoundLate(t *testing.T) {
	was := Info{
		Encoding: "utf-8", Files: []File{{Name: "a"}, {Name: "b"}},
		Decisions: []Decision{{"encoding", "utf-8", "it is all ASCII"}},
		Notes:     []Note{{finding.HiddenRows, 1, "one"}},
	}
	i := was.Clone()
	i.Learn(&Block{Learned: Learned{Blobs: 1}})
	i.Learn(&Block{File: 1, Learned: Learned{Blobs: 69, Encoding: Decision{"encoding", "koi8-r", "its letters"}}})
	require.Len(t, i.Notes, 2)
	assert.Equal(t, "utf-8", i.Encoding, "the first file's stays")
	assert.Equal(t, Decision{"encoding of b", "koi8-r", "its letters"}, i.Decisions[1])
	i.Learn(&Block{Learned: Learned{Encoding: Decision{"encoding", "windows-1252", "its words"}, Notes: []Note{{finding.MergedCells, 2, "two"}}}})
	assert.Equal(t, "windows-1252", i.Encoding)
	assert.Equal(t, "windows-1252", i.Decisions[0].Value)
	assert.Equal(t, "a: two", i.Notes[2].Say)
	assert.Equal(t, "utf-8", was.Decisions[0].Value)
	assert.Len(t, was.Notes, 1)
	assert.Equal(t, "one", i.Notes[0].Say)
	assert.EqualValues(t, 70, i.Notes[1].Count)
	assert.Contains(t, i.Notes[1].Say, "70 cells hold bytes that are not text")
	for _, n := range []int{0, 1, 63, 64, 65, 1000, 1_000_000} {
		text, ok := BlobText(bytes.Repeat([]byte{0xab}, n))
		assert.True(t, ok)
		assert.Equal(t, "x'"+strings.Repeat("ab", n)+"'", text)
	}
	_, ok := BlobText(make([]byte, MaxCell/2))
	assert.False(t, ok)
}
