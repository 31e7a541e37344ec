package report

import (
	"context"
	"errors"
	"io"
	"slices"
	"strconv"
	"strings"

	"junvo/internal/character"
	"junvo/internal/convert"
	"junvo/internal/show"
	"junvo/internal/table"
)

// maxAround is how many rows set aside are shown with those around them.
const maxAround = 60

// contextRows is how many rows stand above and below a row that was set aside.
const contextRows = 2

// Around collects the rows that were set aside, and then those around them.
type Around struct {
	rows  []convert.AsideRow
	left  int64 // more than are shown
	lines map[int64]string
}

// Add adds a row that was set aside. Rows come in order, after the lines above the header.
func (a *Around) Add(r convert.AsideRow) {
	if len(a.rows) >= maxAround {
		a.left++
		return
	}
	r.Cells = slices.Clone(r.Cells)
	a.rows = append(a.rows, r)
}

// Read reads the rows around those that were added; hides says of which columns the shapes are to be shown.
func (a *Around) Read(ctx context.Context, src table.Source, hides func(column string) bool) error {
	a.lines = map[int64]string{}
	last := int64(0)
	for _, r := range a.rows {
		if r.Row == 0 {
			continue
		}
		last = r.Row + contextRows
		for n := r.Row - contextRows; n <= last; n++ {
			a.lines[n] = ""
		}
	}
	var hidden []bool
	for _, name := range src.Info().Names {
		hidden = append(hidden, hides(name))
	}
	b := &table.Block{}
	for before, seq := int64(0), 0; before < last; seq++ {
		b.Reset()
		b.Seq = seq
		if err := src.Next(b); errors.Is(err, io.EOF) {
			break
		} else if err != nil {
			return err
		}
		if err := ctx.Err(); err != nil {
			return err
		}
		src.Split(b)
		for row := range b.Rows {
			n := before + int64(row) + 1
			if _, wanted := a.lines[n]; wanted {
				a.lines[n] = line(b.RowCells(row), hidden)
			}
		}
		before += int64(b.Rows)
	}
	return nil
}

// maxLine cuts what is shown of a row.
const maxLine = 300

// line shows the cells of a row.
func line(cells []string, hidden []bool) string {
	shown := make([]string, len(cells))
	any := slices.Contains(hidden, true)
	for i, c := range cells {
		if i < len(hidden) && hidden[i] || i >= len(hidden) && any { // a cell too many may be of any column
			c = character.Shape(c)
		}
		if shown[i] = show.Visible(c); c == "" {
			shown[i] = "·"
		}
	}
	return fit(strings.Join(shown, " │ "), maxLine)
}

// asideView is a row that was set aside, among its neighbours.
type asideView struct {
	Reason string
	At     string
	Lines  []lineView
}

type lineView struct {
	Row   int64
	Text  string
	Aside string // why it was set aside, "" for one that was not
}

// view shows the first rows that were set aside, and says how many are left.
func (a *Around) view(manyFiles bool, most int) (all []asideView, left int64) {
	rows := a.rows[:min(most, len(a.rows))]
	left = a.left + int64(len(a.rows)-len(rows))
	why := map[int64]string{}
	for _, r := range rows {
		why[r.Row] = r.Reason
	}
	done := map[int64]bool{}
	for _, r := range rows {
		v := asideView{Reason: r.Reason, At: "line " + strconv.FormatInt(r.Line, 10)}
		if manyFiles {
			v.At = show.Visible(r.File) + ", " + v.At
		}
		if r.Row == 0 {
			v.Lines = []lineView{{Text: line(r.Cells, nil), Aside: r.Reason}}
			all = append(all, v)
			continue
		}
		if done[r.Row] { // it stands below the one before
			continue
		}
		until := r.Row + contextRows
		for n := max(1, r.Row-contextRows); n <= until; n++ {
			text, known := a.lines[n]
			if !known || text == "" {
				continue
			}
			if done[n] = true; why[n] != "" {
				until = n + contextRows
			}
			v.Lines = append(v.Lines, lineView{n, text, why[n]})
		}
		all = append(all, v)
	}
	return all, left
}
