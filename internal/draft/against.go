package draft

import (
	"fmt"
	"slices"
	"strings"

	"junvo/internal/table"
	"junvo/internal/value"
)

// Seen is what was seen in a column, as far as another profile of it is compared with.
type Seen struct {
	Name, Type           string
	Convention           [][2]string // what, and how; none where it was not needed
	Shapes               []string    // all there were; nil where that is not known
	BlankWords           []string
	Smallest, Largest    string // in canonical text, "" where not known
	Cells, Blanks, Fails int64
}

// Shares of blank and of failing cells have moved where they differ by more than this.
const movedShare = 0.05

// Changes lists in what a table is other than it was, column by column.
func Changes(before, now []Seen) []Difference {
	d := &drifter{}
	names := namesOf(before)
	d.names(names, names, names, namesOf(now))
	at := table.Positions(before, func(s *Seen) string { return s.Name })
	for _, is := range now {
		if i, ok := at[is.Name]; ok {
			d.column(&before[i], &is)
		}
	}
	return d.found
}

func namesOf(seen []Seen) []string {
	names := make([]string, len(seen))
	for i, s := range seen {
		names[i] = s.Name
	}
	return names
}

// names finds columns that are missing, new or moved: of those that there were, needed are the ones that must be there
// still, and ordered the ones of which the order is known.
func (d *drifter) names(were, needed, ordered, now []string) {
	name := func(n *string) string { return *n }
	had, has := table.Positions(were, name), table.Positions(now, name)
	lacks := func(names map[string]int, n string) bool { _, there := names[n]; return !there }
	rest := slices.DeleteFunc(slices.Clone(now), func(n string) bool { return !lacks(had, n) })
	for _, n := range needed {
		if !lacks(has, n) {
			continue
		}
		if near := table.Nearest(n, rest); near != "" {
			d.add(ColumnMissing, n, "the source has no such column; %q may be its new name", near)
		} else {
			d.add(ColumnMissing, n, "the source has no such column")
		}
	}
	for _, n := range now {
		if lacks(had, n) {
			d.add(ColumnNew, n, "it was not there before")
		}
	}
	place := table.Positions(ordered, name)
	a := slices.DeleteFunc(slices.Clone(ordered), func(n string) bool { return lacks(has, n) })
	b := slices.DeleteFunc(slices.Clone(now), func(n string) bool { return lacks(place, n) })
	if !slices.Equal(a, b) {
		d.add(ColumnMoved, "", "the order is %s now", strings.Join(b, ", "))
	}
}

// column finds what a column holds now and did not before.
func (d *drifter) column(was, is *Seen) {
	if was.Type != is.Type && was.Blanks < was.Cells && is.Blanks < is.Cells {
		d.add(TypeChanged, is.Name, "%s before, and %s now", was.Type, is.Type)
	}
	for _, t := range is.Convention {
		i := slices.IndexFunc(was.Convention, func(w [2]string) bool { return w[0] == t[0] })
		if i >= 0 && t[1] != "" && was.Convention[i][1] != t[1] {
			before := was.Convention[i][1]
			if before == "" {
				before = "none"
			}
			d.add(ConventionChanged, is.Name, "%s: %s before, and %s now", t[0], before, t[1])
		}
	}
	d.news(BlankWordsNew, is.Name, was.BlankWords, is.BlankWords)
	if was.Shapes != nil && is.Shapes != nil {
		d.news(ShapesNew, is.Name, was.Shapes, is.Shapes)
	}
	d.share(BlanksMoved, is.Name, "blank", was.Blanks, was.Cells, is.Blanks, is.Cells)
	d.share(OddMoved, is.Name, "cells that fail", was.Fails, was.Cells, is.Fails, is.Cells)
	if was.Type == is.Type && was.Smallest != "" && is.Smallest != "" {
		if before(is.Type, is.Smallest, was.Smallest) {
			d.add(RangeWidened, is.Name, "from %s before, and from %s now", was.Smallest, is.Smallest)
		}
		if before(is.Type, was.Largest, is.Largest) {
			d.add(RangeWidened, is.Name, "up to %s before, and up to %s now", was.Largest, is.Largest)
		}
	}
}

// before compares values in canonical text.
func before(typ, a, b string) bool {
	t, ok := value.ParseType(typ)
	return ok && value.Before(t, a, b)
}

// maxNews is how many new words or shapes are named.
const maxNews = 8

// news finds texts that were not there before.
func (d *drifter) news(kind Kind, column string, was, is []string) {
	list := slices.DeleteFunc(slices.Clone(is), func(s string) bool { return slices.Contains(was, s) })
	if n := len(list); n > maxNews {
		list = append(list[:maxNews], fmt.Sprintf("and %d more", n-maxNews))
	}
	if len(list) > 0 {
		d.add(kind, column, "%s", strings.Join(list, ", "))
	}
}

func (d *drifter) share(kind Kind, column, what string, n, of, m, now int64) {
	if of == 0 || now == 0 {
		return
	}
	a, b := float64(n)/float64(of), float64(m)/float64(now)
	if a-b > movedShare || b-a > movedShare {
		d.add(kind, column, "%s: %.1f %% before, and %.1f %% now", what, 100*a, 100*b)
	}
}
