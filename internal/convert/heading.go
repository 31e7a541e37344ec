package convert

import (
	"strings"

	"junvo/internal/rowkind"
	"junvo/internal/table"
)

// A section heading is one lone cell above the rows that it heads. Where the plan makes a column of them, each row has
// the nearest heading above it in its file; a block hands its last one on to the next, as it does with cells that fill
// others.

// heading is the last section heading of a file so far.
type heading struct {
	file int
	text string
}

// headings are those of a block: for each row the one above it.
type headings struct {
	of    []int // the number in texts; 0 for the one that is carried in
	texts []string
}

func (h *headings) above(row int) string { return h.texts[h.of[row]] }

// lookHeadings finds the section headings above the rows of a block, where the plan makes a column of them.
func (w *worker) lookHeadings(b *table.Block, res *result) {
	if w.plan.HeadingInto == "" {
		return
	}
	h := &w.sectionHeadings
	h.of, h.texts = h.of[:0], append(h.texts[:0], "")
	aside := res.aside
	for row := range b.Rows {
		for len(aside) > 0 && aside[0].row <= row {
			if aside[0].row == row && aside[0].kind == rowkind.SectionHeading {
				h.texts = append(h.texts, lone(b.RowCells(row)))
			}
			aside = aside[1:]
		}
		h.of = append(h.of, len(h.texts)-1)
	}
	if n := len(h.texts); n > 1 { // the next block need not wait for what this one waits for
		w.lastHeading.hand(b.Seq, heading{b.File, h.texts[n-1]})
	}
	before := w.lastHeading.take(b.Seq - 1)
	if before.file == b.File {
		h.texts[0] = before.text
	}
	if len(h.texts) == 1 {
		w.lastHeading.hand(b.Seq, heading{b.File, h.texts[0]})
	}
}

// lone returns the one cell of a row that holds something.
func lone(cells []string) string {
	for _, cell := range cells {
		if text := strings.TrimSpace(cell); text != "" {
			return text
		}
	}
	return ""
}
