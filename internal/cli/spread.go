package cli

import (
	"context"
	"errors"
	"io"
	"strings"

	"junvo/internal/plan"
	"junvo/internal/profile"
	"junvo/internal/show"
	"junvo/internal/table/input"
)

// Spread is what a program gives that spreads a command over the parts of a table, on one machine or many: each part is
// worked on by the command itself, with all its flags, and what the parts have collected is joined. The zero Spread
// changes nothing.
type Spread struct {
	// Range of the source, which is one file; nil for all of it.
	Range *input.Range
	// Opens gets the sources and how they would be read, in place of reading them. The command ends then.
	Opens func(paths []string, o input.Options) error
	// Collected gets what was collected of the source. The command ends then.
	Collected func(*profile.Collected) error
	// Have is what was collected of the source already, so that it is not read for that; nil where it is read.
	Have *profile.Collected
	// Files is how many files the table has of which this is a part: lists name the file where there are several.
	Files int
	// Once says that the source can't be read again for what is told besides.
	Once bool
}

// errSpread ends a command of which no more is wanted.
var errSpread = &exitError{exitDone, errors.New("")}

// RunSpread runs a command as [Main] does, without a hold on signals. It returns the exit code.
func RunSpread(ctx context.Context, args []string, s Spread, out, errOut io.Writer) int {
	a := &app{format: "table", in: strings.NewReader(""), out: &errTrackingWriter{w: out}, err: errOut, spread: s}
	a.source.Range = s.Range
	return a.run(ctx, args)
}

// LoadPlan reads a plan as the commands do, and says what is wrong with it on errOut.
func LoadPlan(path string, errOut io.Writer) (p *plan.Plan, code int) {
	a := &app{in: strings.NewReader(""), err: errOut}
	p, _, err := a.loadPlan(path)
	if code = exitCode(context.Background(), err); code != exitDone {
		for line := range strings.Lines(err.Error()) {
			_, _ = io.WriteString(errOut, "junvo: "+show.Visible(strings.TrimRight(line, "\n"))+"\n")
		}
	}
	return p, code
}

// stopped runs what is to be done in place of the rest of a command.
func stopped(err error) error {
	if err != nil {
		return err
	}
	return errSpread
}
