package wholefile

import (
	"errors"
	"io"
	"os"
)

// An Output is something that appears whole or not at all: a file, a table of a database, a set of them.
type Output interface {
	// Finish writes all that is left to the disk, so that Commit can hardly fail. Called again, it does nothing.
	Finish() error
	// Commit finishes the output and makes it appear.
	Commit() error
	// Abort leaves nothing behind. After Commit it does nothing.
	Abort()
}

// Set is outputs that belong together: none appears before all of them are on the disk, so that a full disk
// or an interrupt leaves things as they were. They appear in the order in which they were added.
//
//	var set wholefile.Set
//	defer set.Abort()
//	set.Add(table)
//	err := set.Write("clean.plan.yaml", text)
//	...
//	err = wholefile.Committing(set.Commit)
type Set struct{ outputs []Output }

// Add adds an output.
func (s *Set) Add(o Output) { s.outputs = append(s.outputs, o) }

// Write adds a file with this text, finished.
func (s *Set) Write(path string, text []byte) error {
	f, err := Create(path)
	if err != nil {
		return err
	}
	s.Add(f)
	if _, err := f.Write(text); err != nil {
		return err
	}
	return f.Finish()
}

// Finish finishes all outputs.
func (s *Set) Finish() error {
	var all error
	for _, o := range s.outputs {
		all = errors.Join(all, o.Finish())
	}
	return all
}

// Commit makes all outputs appear, if all could be finished. Should one not appear all the same, those after
// it do not either.
func (s *Set) Commit() error {
	if err := s.Finish(); err != nil {
		return err
	}
	for _, o := range s.outputs {
		if err := o.Commit(); err != nil {
			return err
		}
	}
	return nil
}

// Abort leaves nothing of what has not appeared.
func (s *Set) Abort() {
	for _, o := range s.outputs {
		o.Abort()
	}
}

// Optional is a file that appears only if something was written to it. If nothing was, Commit removes an
// older one, which an earlier run had something to write to.
type Optional struct {
	path string
	file *File
}

// NewOptional returns a file that may appear at path.
func NewOptional(path string) *Optional { return &Optional{path: path} }

var _ io.Writer = (*Optional)(nil)

// Write adds p to the file.
func (o *Optional) Write(p []byte) (int, error) {
	if o.file == nil {
		f, err := Create(o.path)
		if err != nil {
			return 0, err
		}
		o.file = f
	}
	return o.file.Write(p)
}

// Open opens what was written for reading, once it is finished; nil where nothing was written.
func (o *Optional) Open() (*os.File, error) {
	if o.file == nil {
		return nil, nil
	}
	return os.Open(o.file.tmp.Name())
}

// Path returns where the file appears, "" while nothing was written to it.
func (o *Optional) Path() string {
	if o.file == nil {
		return ""
	}
	return o.path
}

// Finish writes all that is left to the disk.
func (o *Optional) Finish() error {
	if o.file == nil {
		return nil
	}
	return o.file.Finish()
}

// Commit makes the file appear, or removes an older one.
func (o *Optional) Commit() error {
	if o.file != nil {
		return o.file.Commit()
	}
	if err := os.Remove(o.path); err != nil && !errors.Is(err, os.ErrNotExist) {
		return err
	}
	return nil
}

// Abort leaves nothing behind, and an older file as it is.
func (o *Optional) Abort() {
	if o.file != nil {
		o.file.Abort()
	}
}
