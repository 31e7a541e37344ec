// Package order brings rows into an order when there are more of them than fit in memory:
// records are sorted in runs, the runs are written to temporary files, and merged.
//
//	s := order.NewSorter(folder, order.Memory)
//	defer s.Close()
//	s.Add(records)                  // any number of times
//	s.Each(ctx, func(key, data []byte) error { ... }) // by key; equal keys in the order in which they came
//
// [Keys] makes keys of typed values whose bytes are in the order of the values, and
// [Sink] is a sink that writes its rows in such an order.
package order

import (
	"bufio"
	"bytes"
	"cmp"
	"container/heap"
	"context"
	"encoding/binary"
	"errors"
	"io"
	"os"
	"slices"

	"junvo/internal/table/wholefile"
)

// Memory is how many bytes of records are sorted at once.
const Memory = 32 << 20

// maxRuns is how many runs are merged at once.
const maxRuns = 64

// Sorter sorts records. It serves one goroutine.
//
// It is an external merge sort. Records are held until they fill the memory that there is; then they are sorted and
// written to a file, a run. At the end all runs are read side by side, and a heap of their first records says which is
// next. Where there are more runs than should be open at once, the oldest are merged into one first. Equal keys stay in
// the order in which they came: within a run by where they stood, among runs by their age.
//
// Most time goes into comparing, so that a record that is held has the first eight bytes of its key beside it as a
// number, which tells nearly all keys apart.
type Sorter struct {
	folder string
	memory int
	held   []byte // records that are in no run yet
	starts []start
	runs   []*os.File
}

// NewSorter returns a sorter whose temporary files stand in a folder, and which keeps
// about as many bytes of records in memory as said.
func NewSorter(folder string, memory int) *Sorter {
	return &Sorter{folder: folder, memory: memory}
}

// AppendRecord appends a record to dst in the form that Add takes.
func AppendRecord(dst, key, data []byte) []byte {
	dst = binary.AppendUvarint(dst, uint64(len(key)))
	dst = binary.AppendUvarint(dst, uint64(len(data)))
	return append(append(dst, key...), data...)
}

// cutRecord cuts the first record off.
func cutRecord(records []byte) (one record, rest []byte) {
	k, n := binary.Uvarint(records)
	d, m := binary.Uvarint(records[n:])
	start := n + m
	end := start + int(k)
	return record{records[start:end], records[end : end+int(d)]}, records[end+int(d):]
}

type record struct{ key, data []byte }

// EachRecord calls f for records that AppendRecord has made, one after the other.
func EachRecord(records []byte, f func(key, data []byte)) {
	for len(records) > 0 {
		var one record
		one, records = cutRecord(records)
		f(one.key, one.data)
	}
}

// Add adds records that AppendRecord has made, one after the other.
func (s *Sorter) Add(records []byte) error {
	if len(s.held) > 0 && len(s.held)+len(records)+startBytes*len(s.starts) > s.memory {
		if err := s.spill(); err != nil {
			return err
		}
	}
	at := len(s.held)
	s.held = append(s.held, records...)
	for at < len(s.held) {
		one, rest := cutRecord(s.held[at:])
		s.starts = append(s.starts, start{first(one.key), uint32(at)})
		at = len(s.held) - len(rest)
	}
	return nil
}

// startBytes is what a record takes beside its own bytes: where it starts, as the slice
// grows and as it is sorted.
const startBytes = 48

// sort orders the held records.
func (s *Sorter) sort() {
	slices.SortFunc(s.starts, func(a, b start) int {
		if a.first != b.first {
			return cmp.Compare(a.first, b.first)
		}
		x, _ := cutRecord(s.held[a.at:])
		y, _ := cutRecord(s.held[b.at:])
		return cmp.Or(bytes.Compare(x.key, y.key), cmp.Compare(a.at, b.at))
	})
}

// start is where a record starts, with the first bytes of its key, which tell the order of
// most records.
type start struct {
	first uint64
	at    uint32
}

// first returns the first eight bytes of a key as a number that has their order.
func first(key []byte) uint64 {
	var b [8]byte
	copy(b[:], key)
	return binary.BigEndian.Uint64(b[:])
}

// spill writes the held records to a run.
func (s *Sorter) spill() error {
	s.sort()
	run, err := s.write(func(w io.Writer) error {
		for _, r := range s.starts {
			_, rest := cutRecord(s.held[r.at:])
			if _, err := w.Write(s.held[r.at : len(s.held)-len(rest)]); err != nil {
				return err
			}
		}
		return nil
	})
	s.runs = append(s.runs, run)
	s.held, s.starts = s.held[:0], s.starts[:0]
	return err
}

// write makes a temporary file.
func (s *Sorter) write(fill func(io.Writer) error) (*os.File, error) {
	f, err := wholefile.Temp(s.folder, "junvo-run")
	if err != nil {
		return nil, err
	}
	w := bufio.NewWriterSize(f, 1<<20)
	err = errors.Join(fill(w), w.Flush())
	if _, seekErr := f.Seek(0, io.SeekStart); err == nil {
		err = seekErr
	}
	return f, err
}

// Each calls f for all records in order. It is called once, when all have been added.
func (s *Sorter) Each(ctx context.Context, f func(key, data []byte) error) error {
	for len(s.runs) > maxRuns {
		if err := s.mergeFirst(ctx); err != nil {
			return err
		}
	}
	s.sort()
	starts := s.starts
	next := func() (record, error) {
		if len(starts) == 0 {
			return record{}, io.EOF
		}
		one, _ := cutRecord(s.held[starts[0].at:])
		starts = starts[1:]
		return one, nil
	}
	return merge(ctx, append(readers(s.runs), next), f)
}

// mergeFirst makes one run of the first ones, so that few files are read at once. It
// becomes the first, which keeps equal keys in the order in which they came.
func (s *Sorter) mergeFirst(ctx context.Context) error {
	first := s.runs[:maxRuns]
	run, err := s.write(func(w io.Writer) error {
		var b []byte
		return merge(ctx, readers(first), func(key, data []byte) error {
			b = AppendRecord(b[:0], key, data)
			_, err := w.Write(b)
			return err
		})
	})
	for _, r := range first {
		discard(r)
	}
	s.runs = append([]*os.File{run}, s.runs[maxRuns:]...)
	return err
}

// Close removes the temporary files.
func (s *Sorter) Close() {
	for _, r := range s.runs {
		discard(r)
	}
	s.runs, s.held, s.starts = nil, nil, nil
}

func discard(f *os.File) {
	if f != nil {
		_ = f.Close()
		_ = wholefile.Remove(f.Name())
	}
}

// readers read the records of runs.
func readers(runs []*os.File) (list []func() (record, error)) {
	for _, f := range runs {
		r := bufio.NewReaderSize(f, 1<<18)
		var b []byte
		list = append(list, func() (record, error) {
			k, err := binary.ReadUvarint(r)
			if err != nil {
				return record{}, err
			}
			d, err := binary.ReadUvarint(r)
			if err != nil {
				return record{}, err
			}
			b = slices.Grow(b[:0], int(k+d))[:k+d]
			_, err = io.ReadFull(r, b)
			return record{b[:k], b[k:]}, err
		})
	}
	return list
}

// merge calls f for the records of sorted runs, in order. Of equal keys, those of an
// earlier run come first.
func merge(ctx context.Context, runs []func() (record, error), f func(key, data []byte) error) error {
	h := &heads{}
	for i, next := range runs {
		one, err := next()
		if err == io.EOF {
			continue
		}
		if err != nil {
			return err
		}
		h.list = append(h.list, head{one, i})
	}
	heap.Init(h)
	for n := 0; len(h.list) > 0; n++ {
		if n%4096 == 0 && ctx.Err() != nil {
			return ctx.Err()
		}
		first := &h.list[0]
		if err := f(first.key, first.data); err != nil {
			return err
		}
		one, err := runs[first.run]()
		switch {
		case err == io.EOF:
			heap.Pop(h)
		case err != nil:
			return err
		default:
			first.record = one
			heap.Fix(h, 0)
		}
	}
	return nil
}

// heads are the first records of runs, as a heap.
type heads struct{ list []head }

type head struct {
	record
	run int
}

func (h *heads) Len() int { return len(h.list) }
func (h *heads) Less(i, j int) bool {
	c := bytes.Compare(h.list[i].key, h.list[j].key)
	return c < 0 || c == 0 && h.list[i].run < h.list[j].run
}
func (h *heads) Swap(i, j int) { h.list[i], h.list[j] = h.list[j], h.list[i] }
func (h *heads) Push(x any)    { h.list = append(h.list, x.(head)) }
func (h *heads) Pop() any {
	last := h.list[len(h.list)-1]
	h.list = h.list[:len(h.list)-1]
	return last
}
