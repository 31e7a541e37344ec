// Package wholefile writes files that appear whole or not at all: to a temporary
// file beside the target, synced, and renamed at the end. An output that is a link is written
// where it points.
//
//	f, err := wholefile.Create("clean.csv")
//	defer f.Abort() // does nothing after Commit
//	f.Write(text)
//	err = f.Commit()
package wholefile

import (
	"errors"
	"os"
	"path/filepath"
)

// File is a file in the making. It buffers what is written.
type File struct {
	path  string
	place Place
	tmp   *os.File
	buf   []byte
	err   error

	written, ahead int64 // bytes that the system has, and of these the ones on their way to the disk
	finished       bool
}

const (
	bufferSize = 1 << 20
	aheadSize  = 8 << 20
)

// Create begins a file that will appear at path. The folder must exist.
func Create(path string) (*File, error) {
	place, err := PlaceOf(path)
	if err != nil {
		return nil, err
	}
	path = place.Path
	tmp, err := Temp(filepath.Dir(path), filepath.Base(path))
	if err != nil {
		return nil, err
	}
	return &File{path: path, place: place, tmp: tmp, buf: make([]byte, 0, bufferSize)}, nil
}

// Write adds p to the file.
func (f *File) Write(p []byte) (int, error) {
	if f.err != nil {
		return 0, f.err
	}
	if len(f.buf)+len(p) > bufferSize {
		f.flush()
		if len(p) >= bufferSize {
			f.send(p)
			return len(p), f.err
		}
	}
	f.buf = append(f.buf, p...)
	return len(p), f.err
}

func (f *File) flush() {
	if f.err == nil && len(f.buf) > 0 {
		f.send(f.buf)
	}
	f.buf = f.buf[:0]
}

// send gives bytes to the system, and lets it write them to the disk in good time.
func (f *File) send(p []byte) {
	var n int
	n, f.err = f.tmp.Write(p)
	if e := (*os.PathError)(nil); errors.As(f.err, &e) {
		e.Path = f.path // people know the file by this name
	}
	if f.written += int64(n); f.written-f.ahead >= aheadSize {
		ahead(f.tmp, f.ahead, f.written-f.ahead)
		f.ahead = f.written
	}
}

// Finish writes all that is left to the disk. Several files that belong together
// are all finished before the first is committed, so that a full disk spoils none.
func (f *File) Finish() error {
	if f.tmp == nil || f.finished {
		return f.err
	}
	f.flush()
	f.err = errors.Join(f.err, f.tmp.Sync(), f.tmp.Chmod(Mode(f.path)), f.tmp.Close())
	f.finished, f.buf = true, nil
	return f.err
}

// Commit makes the file appear at its path, with the permissions of the file that
// it replaces, or those of a new file.
func (f *File) Commit() error {
	if f.Finish() != nil || f.tmp == nil {
		return f.err
	}
	if f.err = f.place.Take(f.tmp.Name()); f.err == nil {
		Gone(f.tmp.Name())
		f.tmp = nil
	}
	return f.err
}

// Abort leaves nothing behind. After Commit it does nothing.
func (f *File) Abort() {
	if f.tmp == nil {
		return
	}
	if !f.finished {
		_ = f.tmp.Close()
	}
	_ = Remove(f.tmp.Name())
	f.tmp = nil
}
