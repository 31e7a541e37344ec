package demo

import (
	"bufio"
	"encoding/csv"
	"fmt"
	"io"
	"math/rand/v2"
	"strings"

	"golang.org/x/text/encoding/charmap"
	"golang.org/x/text/transform"
)

// Options say what to generate; nil writers and functions are left out.
type Options struct {
	Rows   int       // landings; headings, totals and blank lines come on top
	Source io.Writer // the messy file: semicolons, Windows-1252
	Truth  io.Writer // what it must become: RFC 4180, canonical values
	// Failed is called for every planted cell that no one can read. Rows count as
	// Junvo counts them: all lines below the first header.
	Failed func(row int, column, value, reason string)
	// Aside is called for every line below the header that is no landing.
	Aside func(row int, reason string)

	landing func(n int, cells []cell) error // called for every landing, from 1
}

// cell is a cell of the source, the value that it stands for, and the reason why
// it cannot be read.
type cell struct {
	raw, truth, reason string
}

// field is a column and how its cells are made.
type field struct {
	name string
	make func(g *generator) cell
}

var fields = []field{
	{"Landing No.", (*generator).landingNo},
	{"Vessel", (*generator).vessel},
	{"Landed on", (*generator).landedOn},
	{"Species", (*generator).species},
	{"Net weight", (*generator).netWeight},
	{"Price per kilo", (*generator).price},
	{"Boxes", (*generator).boxes},
	{"Hold temperature", (*generator).temperature},
	{"Ice share", (*generator).iceShare},
	{"Inspected", (*generator).inspected},
	{"Buyer No.", (*generator).buyerNo},
	{"Balance", (*generator).balance},
	{"Booked on", (*generator).bookedOn},
	{"Skipper", (*generator).skipper},
	{"Remarks", (*generator).remarks},
}

type generator struct {
	o       Options
	rand    *rand.Rand
	out     *bufio.Writer
	truth   *csv.Writer
	landing int // the number of the landing, from 1
	row     int // the number of the line below the header, from 1
	day     date
	weight  int // of the section so far, in tenths of a kilo
	boxSum  int
	err     error
}

const (
	// PerSection is how many landings stand under a section heading.
	PerSection = 200
	perPage    = 430 // lines between two headers
)

// Quays are the sections of the landings.
var Quays = []string{"Quay North", "Quay South", "Fish Market", "Old Slip", "Outer Mole", "Ice House Pier"}

// Generate writes the sample.
func Generate(o Options) error {
	g := &generator{o: o, rand: rand.New(rand.NewPCG(20210304, 88)), day: date{2021, 1, 4}}
	closeSource := func() error { return nil }
	if o.Source != nil {
		w := transform.NewWriter(o.Source, charmap.Windows1252.NewEncoder())
		closeSource = w.Close
		g.out = bufio.NewWriterSize(w, 1<<16)
	} else {
		g.out = bufio.NewWriter(io.Discard)
	}
	if o.Truth != nil {
		g.truth = csv.NewWriter(o.Truth)
	}
	g.all()
	if err := g.out.Flush(); err != nil {
		return err
	}
	if g.truth != nil {
		if g.truth.Flush(); g.truth.Error() != nil {
			return g.truth.Error()
		}
	}
	if g.err != nil {
		return g.err
	}
	return closeSource()
}

func (g *generator) all() {
	g.line("Port of Nordhaven;landing records")
	g.line("printed 02.05.2023, list 7b")
	g.line("")
	g.line(header())
	if g.truth != nil {
		g.err = g.truth.Write(Columns())
	}
	for g.landing = 1; g.landing <= g.o.Rows && g.err == nil; g.landing++ {
		if (g.landing-1)%PerSection == 0 {
			if g.landing > 1 {
				g.total()
			}
			g.aside(Quays[g.landing/PerSection%len(Quays)]+strings.Repeat(";", len(fields)-1), "section-heading")
		}
		if g.row%perPage == perPage-1 {
			g.aside(header(), "repeated-heading")
		}
		if g.rand.IntN(150) == 0 {
			g.aside("", "blank-row")
		}
		if g.rand.IntN(3) == 0 {
			g.day = g.day.next()
		}
		g.record()
	}
	if g.o.Rows > 0 {
		g.total()
	}
	g.aside("Note: weights are net of ice."+strings.Repeat(";", len(fields)-1), "note")
}

func (g *generator) line(text string) {
	g.out.WriteString(text)
	g.out.WriteString("\r\n")
}

// aside writes a line that is no landing.
func (g *generator) aside(text, reason string) {
	g.row++
	g.line(text)
	if g.o.Aside != nil {
		g.o.Aside(g.row, reason)
	}
}

// total writes the sums of the section.
func (g *generator) total() {
	cells := make([]string, len(fields))
	cells[0] = "Total"
	cells[4] = comma(g.weight, 1, ".") + " kg"
	cells[6] = fmt.Sprint(g.boxSum)
	g.weight, g.boxSum = 0, 0
	g.aside(strings.Join(cells, ";"), "total-row")
}

// record writes one landing to source and truth.
func (g *generator) record() {
	g.row++
	var truth []string
	if g.truth != nil {
		truth = make([]string, 0, len(fields))
	}
	short := 0
	if g.rand.IntN(120) == 0 {
		short = 1 + g.rand.IntN(2) // the row ends early
	}
	var cells []cell
	for i, f := range fields {
		c := f.make(g)
		cells = append(cells, c)
		if i >= len(fields)-short {
			c = cell{}
		} else {
			if i > 0 {
				g.out.WriteByte(';')
			}
			g.out.WriteString(c.raw)
		}
		if truth = append(truth, c.truth); c.reason != "" && g.o.Failed != nil {
			g.o.Failed(g.row, f.name, c.raw, c.reason)
		}
	}
	g.out.WriteString("\r\n")
	if g.truth != nil && g.err == nil {
		g.err = g.truth.Write(truth)
	}
	if g.o.landing != nil && g.err == nil {
		g.err = g.o.landing(g.landing, cells)
	}
}

// Columns returns the names of the columns.
func Columns() []string {
	names := make([]string, len(fields))
	for i, f := range fields {
		names[i] = f.name
	}
	return names
}

func header() string { return strings.Join(Columns(), ";") }
