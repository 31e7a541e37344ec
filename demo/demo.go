// Package demo makes the sample data: the landing records of a small fishing
// harbour, all made up, with every trouble that a table can have.
//
// The generator knows each value before it writes it in one of the ways that
// people do, so it can also write the truth: the table that a conversion must come
// to, and the cells that no one can read.
//
//	demo.Generate(demo.Options{Rows: 1200, Source: file, Truth: truth})
package demo

import (
	_ "embed"
)

// Rows is how many landings the committed sample has.
const Rows = 1200

// Name is the file name of the sample.
const Name = "landings.csv"

// The sample itself is committed for those who look at it; the program makes it anew.
//
//go:generate go run ./make

// Workbook is the committed workbook, written by another program's library so that it is
// none of ours.
//
//go:embed landings.xlsx
var Workbook []byte
