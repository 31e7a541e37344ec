package parquet

import (
	"encoding/binary"
	"fmt"
	"io"

	"github.com/parquet-go/parquet-go"
)

// The library skips fields that it does not know for as long as they say to be, also after the end of what
// there is: a length that lies makes it run for hours. So what is written in the compact protocol of Thrift,
// the footer and the headers of pages, is walked before it is read.

// walk goes through a structure at the start of b and returns its length, and the number in its field 3, -1 for none,
// which in the header of a page is the size of the page. The length is -1 where b ends before the structure does.
func walk(b []byte) (length int, three int64, err error) {
	w := walker{b: b}
	three = w.structure(0)
	switch {
	case w.short:
		return -1, 0, nil
	case w.wrong:
		return 0, 0, fmt.Errorf("%w: a header has a part of no known kind", ErrDamaged)
	}
	return w.at, three, nil
}

type walker struct {
	b            []byte
	at           int
	short, wrong bool
}

// maxThrift is how deep structures may stand in each other.
const maxThrift = 32

// The types of the compact protocol.
const (
	thriftTrue = 1 + iota
	thriftFalse
	thriftByte
	thriftI16
	thriftI32
	thriftI64
	thriftDouble
	thriftBinary
	thriftList
	thriftSet
	thriftMap
	thriftStruct
	thriftUUID
)

func (w *walker) ended() bool { return w.short || w.wrong }

// skip goes on by n bytes.
func (w *walker) skip(n uint64) {
	if n > uint64(len(w.b)-w.at) {
		w.short = true
		return
	}
	w.at += int(n)
}

func (w *walker) byte() byte {
	if w.at == len(w.b) {
		w.short = true
		return 0
	}
	w.at++
	return w.b[w.at-1]
}

func (w *walker) varint() uint64 {
	n, size := binary.Uvarint(w.b[w.at:])
	switch {
	case size == 0:
		w.short = true
	case size < 0:
		w.wrong = true
	default:
		w.at += size
	}
	return n
}

func (w *walker) structure(depth int) (three int64) {
	id := int64(0)
	three = -1
	for !w.ended() {
		head := w.byte()
		if head == 0 {
			return three
		}
		if delta := head >> 4; delta > 0 {
			id += int64(delta)
		} else {
			id = zigzag(w.varint())
		}
		kind := head & 0xf
		if id == 3 && depth == 0 && kind == thriftI32 {
			three = zigzag(w.varint())
			continue
		}
		switch kind {
		case thriftTrue, thriftFalse: // the value of a field is its type
		default:
			w.value(kind, depth)
		}
	}
	return three
}

func zigzag(n uint64) int64 { return int64(n>>1) ^ -int64(n&1) }

func (w *walker) value(kind byte, depth int) {
	if depth > maxThrift {
		w.wrong = true
	}
	if w.ended() {
		return
	}
	switch kind {
	case thriftTrue, thriftFalse, thriftByte:
		w.skip(1)
	case thriftI16, thriftI32, thriftI64:
		w.varint()
	case thriftDouble:
		w.skip(8)
	case thriftUUID:
		w.skip(16)
	case thriftBinary:
		w.skip(w.varint())
	case thriftList, thriftSet:
		head := w.byte()
		n := uint64(head >> 4)
		if n == 15 {
			n = w.varint()
		}
		w.items(n, depth, head&0xf)
	case thriftMap:
		if n := w.varint(); n > 0 {
			head := w.byte()
			w.items(n, depth, head>>4, head&0xf)
		}
	case thriftStruct:
		w.structure(depth + 1)
	default:
		w.wrong = true
	}
}

// items goes through n items of these kinds, each of which has a byte at least.
func (w *walker) items(n uint64, depth int, kinds ...byte) {
	for ; n > 0 && !w.ended(); n-- {
		for _, kind := range kinds {
			w.value(kind, depth+1)
		}
	}
}

// checkPages walks the headers of the pages of a group of rows.
func checkPages(r io.ReaderAt, f *parquet.File, group int) error {
	for _, column := range f.Metadata().RowGroups[group].Columns {
		m := &column.MetaData
		first := m.DataPageOffset
		if m.DictionaryPageOffset != 0 {
			first = m.DictionaryPageOffset
		}
		// The library goes to the pages of data by their own offset, where they need not follow the dictionary.
		end := first + m.TotalCompressedSize
		passed, err := checkColumn(r, first, end, m.DataPageOffset)
		if err == nil && !passed {
			_, err = checkColumn(r, m.DataPageOffset, end, m.DataPageOffset)
		}
		if err != nil {
			return err
		}
	}
	return nil
}

// checkColumn walks the headers of pages from one on up to the end of their column, and reports whether a page
// begins at another place.
func checkColumn(r io.ReaderAt, from, end, place int64) (passed bool, err error) {
	if from < 0 || end < 0 {
		return false, fmt.Errorf("%w: a column stands before the file", ErrDamaged)
	}
	for from < end {
		passed = passed || from == place
		length, page, err := walkAt(r, from, end-from)
		if err != nil {
			return false, err
		}
		if length < 0 || page < 0 || page > end-from {
			return false, fmt.Errorf("%w: a page is longer than its column", ErrDamaged)
		}
		from += int64(length) + page
	}
	return passed, nil
}

// walkAt walks a structure of at most that many bytes in a file.
func walkAt(r io.ReaderAt, at, most int64) (length int, three int64, err error) {
	for size := int64(512); ; size *= 8 {
		b := make([]byte, min(size, most))
		n, err := r.ReadAt(b, at)
		if n < len(b) {
			return 0, 0, fmt.Errorf("%w: a page is longer than the file: %w", ErrDamaged, err)
		}
		if length, three, err = walk(b); length >= 0 || err != nil || size >= most {
			return length, three, err
		}
	}
}
