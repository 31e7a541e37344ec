package profile

import (
	"bytes"
	"maps"
	"slices"

	"junvo/internal/character"
)

// outlines are the shapes of a column, for the plan to remember: only which there are, and
// only while they are few, so that they cost little.
type outlines struct {
	seen  map[string]bool
	many  bool // there were more than a plan remembers
	last  []byte
	space []byte
}

func newOutlines() *outlines { return &outlines{seen: map[string]bool{}} }

// open reports whether shapes are still looked at; none never are.
func (o *outlines) open() bool { return o != nil && !o.many }

func (o *outlines) add(cell []byte) {
	o.space = character.AppendShape(o.space[:0], cell[:min(len(cell), maxSampleText)])
	if bytes.Equal(o.space, o.last) {
		return
	}
	o.last = append(o.last[:0], o.space...)
	if !o.seen[string(o.space)] {
		o.seen[string(o.space)] = true
		o.bound()
	}
}

// bound gives up where there are more shapes than a plan remembers of any type.
func (o *outlines) bound() {
	if o.many || len(o.seen) > character.MostShapes {
		o.many, o.seen = true, nil
	}
}

func (o *outlines) merge(p *outlines) {
	if o.many = o.many || p.many; !o.many {
		maps.Copy(o.seen, p.seen)
	}
	o.bound()
}

// list returns the shapes in order, nil where there were too many to be remembered.
func (o *outlines) list(most int) []string {
	if !o.open() || len(o.seen) > most {
		return nil
	}
	return append([]string{}, slices.Sorted(maps.Keys(o.seen))...)
}
