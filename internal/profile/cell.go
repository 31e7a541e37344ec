package profile

import (
	"context"
	"fmt"
	"io"

	"junvo/internal/character"
	"junvo/internal/rowkind"
	"junvo/internal/table"
	"junvo/internal/value"
)

// Address is a cell's row, or the line of its row where the row is 0, and its column.
type Address struct {
	Row, Line int64
	Column    int    // from 0
	From      string // the column of the file that the row was made of, where columns have become rows
}

// Cell is a cell that was looked up.
type Cell struct {
	Where   Where
	Address string // in a sheet, such as B4; "" elsewhere
	Text    string
	Span    table.Span // its flags tell a missing cell, and one in quotes
	Stored  value.Stored
	Kind    rowkind.Kind               // Data, or why its row is no data
	Alike   struct{ Raw, Shape int64 } // other cells of the column with the same text, and with the same shape
}

// NoCellError says that a source has no such row or line.
type NoCellError struct {
	Address Address
	Rows    int64
}

func (e *NoCellError) Error() string {
	if e.Address.Row > 0 {
		return fmt.Sprintf("there is no row %d: the source has %d", e.Address.Row, e.Rows)
	}
	return fmt.Sprintf("no row starts in line %d", e.Address.Line)
}

// Find reads a source up to the cell.
func Find(src table.Source, at Address) (*Cell, error) {
	info := src.Info()
	var lines table.Lines
	var rows int64
	b := &table.Block{}
	for {
		b.Reset()
		err := src.Next(b)
		if err == io.EOF {
			return nil, &NoCellError{at, rows}
		}
		if err != nil {
			return nil, err
		}
		src.Split(b)
		first := lines.Start(info, b)
		for r := range b.Rows {
			row, line := rows+b.RowOf(r)+1, first+b.Line(r)
			if at.Row > 0 && row != at.Row || at.Row == 0 && line != at.Line || at.From != "" && b.TurnedFrom(r) != at.From {
				continue
			}
			s := b.Spans[r*b.Width+at.Column]
			c := &Cell{Where: Where{row, line, info.Files[b.File].Name}, Text: string(b.At(s)), Span: s}
			if info.Sheet {
				c.Address = table.Address(at.Column+1, line)
			}
			if b.Kinds != nil {
				c.Stored = b.Kinds[r*b.Width+at.Column]
			}
			if info.Records {
				return c, nil
			}
			rowkind.Odd(b, rowkind.NewReader(info.Names, info.Above, nil), func(row int, k rowkind.Kind) {
				if row == r {
					c.Kind = k
				}
			})
			return c, nil
		}
		rows += b.RowsOfFile()
	}
}

// CountAlike counts the other cells of the column that have the cell's text, and
// those that have its shape.
func (c *Cell) CountAlike(ctx context.Context, src table.Source, column, workers int) error {
	shape := character.Shape(c.Text)
	raw, shapes := make([]int64, workers), make([]int64, workers)
	work := func(n int, b *table.Block) {
		for r := range b.Rows {
			switch text := b.Cell(r, column); {
			case string(text) == c.Text:
				raw[n]++
				shapes[n]++
			case character.Shape(string(text)) == shape:
				shapes[n]++
			}
		}
	}
	if err := table.Each(ctx, src, workers, work, nil); err != nil {
		return err
	}
	for n := range workers {
		c.Alike.Raw += raw[n]
		c.Alike.Shape += shapes[n]
	}
	c.Alike.Raw--
	c.Alike.Shape--
	return nil
}
