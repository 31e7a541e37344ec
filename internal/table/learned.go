package table

import (
	"fmt"
	"slices"

	"junvo/internal/finding"
)

// Learned is what a source finds out about itself after it was opened. A block carries what
// was found while it was read, so that the Info of a source never changes: whoever reads the
// blocks in order keeps an Info of their own that learns from each.
type Learned struct {
	Encoding Decision // empty where none was decided
	Blobs    int64    // cells that hold bytes which are not text
	Notes    []Note
}

// Any reports whether anything was found.
func (l *Learned) Any() bool { return l.Encoding != Decision{} || l.Blobs > 0 || len(l.Notes) > 0 }

// Clone returns an Info that may learn without a change to this one.
func (i *Info) Clone() *Info {
	c := *i
	c.Decisions, c.Notes = slices.Clone(i.Decisions), slices.Clone(i.Notes)
	return &c
}

// Learn adds what was found while a block was read.
func (i *Info) Learn(b *Block) {
	l := &b.Learned
	if !l.Any() {
		return
	}
	if l.Encoding != (Decision{}) {
		i.Decided(b.File, l.Encoding)
	}
	if l.Blobs > 0 {
		i.addBlobs(l.Blobs)
	}
	for _, n := range l.Notes {
		if len(i.Files) > 1 {
			n.Say = i.Files[b.File].Name + ": " + n.Say
		}
		i.Notes = append(i.Notes, n)
	}
}

// Decided takes a late decision about the encoding of a file. The table has that of its first.
func (i *Info) Decided(file int, d Decision) {
	if file > 0 {
		if d.Value != i.Encoding {
			i.Decisions = append(i.Decisions, otherEncoding(i.Files[file].Name, d.Value, d.Why))
		}
		return
	}
	i.Encoding = d.Value
	for k := range i.Decisions {
		if i.Decisions[k].What == d.What {
			i.Decisions[k] = d
		}
	}
}

// otherEncoding says that a file is in another encoding than the first.
func otherEncoding(name, encoding, why string) Decision {
	return Decision{What: "encoding of " + name, Value: encoding, Why: why}
}

// addBlobs adds to the note of cells that hold bytes which are not text.
func (i *Info) addBlobs(cells int64) {
	at := slices.IndexFunc(i.Notes, func(n Note) bool { return n.Kind == finding.Blobs })
	if at < 0 {
		at = len(i.Notes)
		i.Notes = append(i.Notes, Note{Kind: finding.Blobs})
	}
	n := &i.Notes[at]
	n.Count += cells
	n.Say = fmt.Sprintf("%d cells hold bytes that are not text. They are shown in hexadecimal", n.Count)
}
