package cli

import (
	"cmp"
	"strings"

	"junvo/internal/plan"
	"junvo/internal/show"
	"junvo/internal/table"
	"junvo/internal/table/input"
	"junvo/internal/turn"
)

// open opens a source, one path, or several that are read as one table, in the way that the flags say and, where
// they say nothing, the plan; nil for none.
func (a *app) open(paths []string, p *plan.Plan) (*input.Source, error) {
	o := a.source
	if p != nil {
		o = readAs(o, &p.Source)
	}
	o.Stdin = a.in
	if a.spread.Opens != nil {
		return nil, stopped(a.spread.Opens(paths, o))
	}
	src, err := input.OpenAll(paths, o)
	if err == nil {
		if err = a.meaningless(src.Info()); err != nil {
			src.Close()
			return nil, err
		}
	}
	if err != nil || p == nil || p.Turn == nil {
		return src, err
	}
	return turned(src, turn.Turn{Columns: p.Turn, Into: p.TurnInto, Aside: p.SetAside, BlankWords: p.BlankWords})
}

// meaningless returns an error where a flag says how a source is read that has nothing of the kind. What a plan says is
// passed over, as it may have been drafted from a file of another format.
func (a *app) meaningless(info *table.Info) error {
	o := &a.source
	text := strings.HasSuffix(info.Format, "text")
	for _, f := range []struct {
		name             string
		told, meaningful bool
	}{
		{"encoding", o.Encoding != "", info.Encoding != ""},
		{"delimiter", o.Delimiter != "", text},
		{"quote", o.Quote != "", text},
		{"escape", o.Escape != "", text},
		{"comment", o.Comment != "", text},
		{"widths", o.Widths != nil, text},
		{"header-row", o.HeaderRow > 0, !info.Records},
		{"no-header", a.noHeader, !info.Records},
	} {
		if f.told && !f.meaningful {
			return usage("--%s means nothing for %s, which is read as %s: leave it out", f.name, show.Visible(info.Name),
				info.Format)
		}
	}
	return nil
}

// turned makes rows of some columns of a source.
func turned(src *input.Source, t turn.Turn) (*input.Source, error) {
	made, err := turn.New(src.Source, t)
	if err != nil {
		src.Close()
		return nil, usage("%w", err)
	}
	src.Source = made
	return src, nil
}

// readAs returns the way to read a source with what is not said of it filled in from a plan.
func readAs(o input.Options, s *plan.Source) input.Options {
	o.Encoding = cmp.Or(o.Encoding, s.Encoding)
	o.Delimiter = cmp.Or(o.Delimiter, s.Delimiter)
	o.Quote = cmp.Or(o.Quote, s.Quote)
	o.Escape = cmp.Or(o.Escape, s.Escape)
	o.Comment = cmp.Or(o.Comment, s.Comment)
	if o.Widths == nil {
		o.Widths = s.Widths
	}
	if o.HeaderRow == 0 {
		if o.HeaderRow = s.HeaderRow; s.NoHeader {
			o.HeaderRow = -1
		}
	}
	return o
}
