// Package totals counts and adds up the values of a table by groups, exactly:
//
//	sink := totals.New(totals.Options{Fields: fields, By: []int{0}, Figures: []totals.Figure{{totals.Sum, 3}}, Folder: dir})
//	ledger, err := convert.Run(ctx, source, plan, convert.Options{Sink: sink, …})
//	err = sink.Each(ctx, func(g *totals.Group) error { … })
//
// It is a sink of a conversion. Each block is counted by the worker that has converted it; what the blocks have counted
// is added up in their order. Where there are more groups than are held in memory, those so far go to a sorter on the
// disk, which brings the parts of each group together again in the end, in the order of the groups. Sums are exact and
// the smallest and largest values are what they are, so that nothing depends on the number of workers.
package totals

import (
	"math/big"
	"strings"

	"junvo/internal/table"
	"junvo/internal/value"
)

// Kind is a kind of figure.
type Kind uint8

// The kinds of figures.
const (
	Sum Kind = iota
	Mean
	Smallest
	Largest
	Median
	Distinct
	numKinds
)

// Entry describes one kind in the catalogue of figures.
type Entry struct {
	Kind    Kind
	Name    string
	Say     string
	Numbers bool // of numbers only
}

// Catalogue is the catalogue of figures.
var Catalogue = [numKinds]Entry{
	{Sum, "sum", "The exact sum of the numbers.", true},
	{Mean, "mean", "The sum divided by how many numbers there are, with at most six digits more than the sum has.", true},
	{Smallest, "smallest", "The smallest value, or the earliest.", false},
	{Largest, "largest", "The largest value, or the latest.", false},
	{Median, "median", "The value in the middle; the mean of the two in the middle of an even number of numbers, the " +
		"first of two others.", false},
	{Distinct, "distinct", "How many different values there are.", false},
}

func (k Kind) String() string { return Catalogue[k].Name }

// Figure is something to find out about the values of a column of the output.
type Figure struct {
	Kind   Kind
	Column int
}

// Options say what to count.
type Options struct {
	Fields  []table.Field // of the output
	By      []int         // the columns whose values make a group; none for one group of all
	Figures []Figure
	Folder  string // for what does not fit in memory
	Groups  int    // how many groups are held in memory; 0 for as many as is sensible
}

// Key is the value of a column that makes a group: a text, a blank, or why its cells have failed.
type Key struct {
	Text   string
	Blank  bool
	Failed string
}

// Group is what has been counted of a group, or of all rows.
type Group struct {
	Keys    []Key // none for all rows
	Rows    int64
	Columns []Column // those of the figures, each once, in the order in which they are asked for
}

// Column is what has been counted of a column in a group. Used, Failed and Blank add up to the rows.
type Column struct {
	Used, Failed, Blank       int64
	Sum, Mean                 string // "" without a number
	Smallest, Largest, Median string // "" without a value
	Distinct                  int64
}

// Figure returns a figure of the column as text, "" for none.
func (c *Column) Figure(k Kind) string {
	return [...]string{c.Sum, c.Mean, c.Smallest, c.Largest, c.Median, big.NewInt(c.Distinct).String()}[k]
}

// MeasuredOf returns the columns of figures, each once.
func MeasuredOf(figures []Figure) (columns []int) {
	seen := map[int]bool{}
	for _, f := range figures {
		if !seen[f.Column] {
			seen[f.Column] = true
			columns = append(columns, f.Column)
		}
	}
	return columns
}

// meanDigits is how many digits a mean has beyond those of the sum.
const meanDigits = 6

// meanOf divides a sum by how many numbers it has.
func meanOf(sum string, used int64) string {
	n, err := value.ParseNumber(sum)
	if err != nil || used == 0 {
		return ""
	}
	_, fraction, _ := strings.Cut(sum, ".")
	r := new(big.Rat).Quo(n.Rat(), new(big.Rat).SetInt64(used))
	return plain(value.RoundHalfEven(r, len(fraction)+meanDigits))
}

// plain leaves the zeros at the end of a fraction out, so that equal numbers are equal texts.
func plain(number string) string { return string(trimmed([]byte(number))) }
