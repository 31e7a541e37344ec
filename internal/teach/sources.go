package teach

import (
	"context"
	"fmt"
	"maps"
	"strings"

	"junvo/internal/convert"
	"junvo/internal/expression"
	"junvo/internal/plan"
	"junvo/internal/reading"
	"junvo/internal/step"
	"junvo/internal/table"
	"junvo/internal/value"
)

// SourcesOf returns what rules may use of a column: its cells as they came, and as they are read. Where nothing could
// be decided of the column, the examples may: it is read in each way then that fits half its cells.
func SourcesOf(column string, counts []reading.Count, decided *reading.Conclusion) []Source {
	list := []Source{{Column: column}}
	add := func(c *reading.Conclusion) {
		t := c.Convention.Type
		if t.Textual() || t == value.Boolean || c.Fits <= c.Fails {
			return
		}
		read := &plan.Column{Source: column, Convention: c.Convention, Terms: c.Convention.Terms(counts)}
		list = append(list, Source{Column: column, Read: read})
		if t.Numeric() {
			for _, digits := range []int{1, 3} {
				list = append(list, Source{Column: column, Read: read, Digits: digits},
					Source{Column: column, Read: read, Digits: digits, Up: true})
			}
		}
	}
	if !decided.Convention.Type.Textual() {
		add(decided)
		return list
	}
	if decided.Convention.Type == value.Code {
		return list
	}
	date, decimal := value.Date, value.Decimal
	for _, order := range []string{"dmy", "mdy", "ymd"} {
		if o, ok := reading.ParseOrder(order); ok {
			add(reading.Conclude(counts, reading.Ask{Type: &date, Order: &o}))
		}
	}
	for _, mark := range []reading.Mark{reading.Point, reading.Comma} {
		add(reading.Conclude(counts, reading.Ask{Type: &decimal, Mark: &mark}))
	}
	return list
}

// Collecting returns a plan whose columns are the sources, in their order. Everything else is that of another plan: how
// the file is read, and which of its rows are data.
func Collecting(sources []Source, as *plan.Plan) (*plan.Plan, error) {
	p := &plan.Plan{Source: as.Source, SetAside: as.SetAside, BlankWords: as.BlankWords}
	for i, s := range sources {
		c := plan.Column{Name: fmt.Sprintf("source%d", i), Source: s.Column}
		switch {
		case s.Digits > 0:
			c.Compute = &plan.Expression{Expression: &expression.Expression{Text: s.fixed(readBefore(sources, i))}}
			c.Untyped = true
		case s.Read != nil:
			c.Convention, c.Terms = s.Read.Convention, s.Read.Terms
		}
		p.Columns = append(p.Columns, c)
	}
	text, err := p.Write()
	if err != nil {
		return nil, err
	}
	return plan.Load(text)
}

// readBefore returns the name of the collected column that has the number which a source lays out.
func readBefore(sources []Source, i int) string {
	for j := range i {
		if sources[j].Read == sources[i].Read {
			return fmt.Sprintf("source%d", j)
		}
	}
	return ""
}

// fixed returns an expression for the number of a column with so many digits after the point.
func (s *Source) fixed(column string) string {
	number := expression.InWriting(column)
	if s.Up {
		number = fmt.Sprintf("roundHalfUp(%s, %d)", number, s.Digits-1)
	}
	return fmt.Sprintf("fixed(%s, %d)", number, s.Digits-1)
}

// Texts returns the texts of the sources in rows that are given by the cells of the columns, each named once.
func Texts(
	ctx context.Context, sources []Source, columns []string, as *plan.Plan, rows [][]string,
) ([][]string, error) {
	p, err := Collecting(sources, &plan.Plan{BlankWords: as.BlankWords})
	if err != nil {
		return nil, err
	}
	bound, err := p.Bind(columns)
	if err != nil {
		return nil, err
	}
	taken := &taken{sources: len(sources)}
	_, err = convert.Run(ctx, table.NewListed(columns, rows), bound, convert.Options{Workers: 1, Sink: taken})
	return taken.texts, err
}

// taken is a sink that keeps all texts.
type taken struct {
	table.Discard
	sources int
	texts   [][]string
}

func (t *taken) Write(_ []byte, rows *table.Rows) error {
	each(rows, t.sources, func(_ int, texts []string) { t.texts = append(t.texts, ownTexts(texts)) })
	return nil
}

// readOnly reports whether a rule only reads a column, so that its result has that type.
func (r *Rule) readOnly(sources []Source) (*plan.Column, bool) {
	if len(r.Pieces) != 1 || r.Pieces[0].Text != "" || len(r.Pieces[0].Chain) > 0 {
		return nil, false
	}
	s := &sources[r.Pieces[0].Source]
	return s.Read, s.Read != nil && s.Digits == 0
}

// Reads reports whether a rule only reads a column, whose type its results have.
func (r *Rule) Reads(sources []Source) bool {
	_, ok := r.readOnly(sources)
	return ok
}

// Columns returns the columns of a plan that do what the rule does, for a column of the output of this name; helpers,
// with names that are not taken, stand before it.
func (r *Rule) Columns(name string, sources []Source, taken map[string]bool) []plan.Column {
	taken = maps.Clone(taken)
	if taken == nil {
		taken = map[string]bool{}
	}
	taken[name] = true
	free := func(want string) string {
		want = plan.UniqueName(want, taken)
		taken[want] = true
		return want
	}
	if read, ok := r.readOnly(sources); ok {
		c := *read
		c.Name = name
		return []plan.Column{c}
	}
	b := &builder{sources: sources, read: map[*plan.Column]string{}, free: free, name: name, without: r.Without}
	pieces := r.pieces()
	if len(pieces) == 1 {
		last := b.column(pieces[0])
		last.Name = name
		return append(b.helpers, last)
	}
	var names []string
	for _, p := range pieces {
		c := b.column(p)
		c.Name, c.Helper = free(fmt.Sprintf("%s_%d", name, len(names)+1)), true
		b.helpers = append(b.helpers, c)
		names = append(names, c.Name)
	}
	last := plan.Column{Name: name}
	with, separated := r.separator()
	if r.expressed() {
		last.Compute = &plan.Expression{Expression: &expression.Expression{Text: r.sum(names)}}
		return append(b.helpers, last)
	}
	last.Join = &plan.Join{Columns: names, Blanks: plan.FailBlanks}
	if separated {
		last.Join.With = with
	}
	if r.Blanks {
		last.Join.Blanks = plan.SkipBlanks
	}
	return append(b.helpers, last)
}

// sum returns an expression for the pieces, which have these names, and the constants, one after the other: it is blank
// where a piece is.
func (r *Rule) sum(names []string) string {
	var parts []string
	for _, p := range r.Pieces {
		if p.Text != "" {
			parts = append(parts, quotedText(p.Text))
			continue
		}
		parts = append(parts, expression.InWriting(names[0]))
		names = names[1:]
	}
	return strings.Join(parts, " + ")
}

// quotedText is a text in an expression.
func quotedText(text string) string {
	return `"` + strings.NewReplacer(`\`, `\\`, `"`, `\"`, "\n", `\n`, "\t", `\t`, "\r", `\r`).Replace(text) + `"`
}

// shapedPiece is a piece that is not constant, with the constants beside it.
type shapedPiece struct {
	*Piece
	before, after string
}

// pieces returns the pieces that are not constant. Constants that stand between all of them are the separator, and
// those of an expression stand in it; others belong to the piece before them, or to the first one.
func (r *Rule) pieces() (list []shapedPiece) {
	_, separated := r.separator()
	separated = separated || r.expressed() && len(r.variable()) > 1
	before := ""
	for _, p := range r.Pieces {
		switch {
		case p.Text == "":
			list = append(list, shapedPiece{p, before, ""})
			before = ""
		case separated:
		case len(list) == 0:
			before += p.Text
		default:
			list[len(list)-1].after += p.Text
		}
	}
	return list
}

// builder makes columns of pieces.
type builder struct {
	sources []Source
	helpers []plan.Column
	read    map[*plan.Column]string // the helpers that read a column
	free    func(string) string
	name    string
	without bool
}

// column makes the column of a piece, and the helpers that it needs.
func (b *builder) column(p shapedPiece) plan.Column {
	s := &b.sources[p.Source]
	c := plan.Column{Source: s.Column, Steps: b.steps(p)}
	if s.Read == nil {
		return c
	}
	name, ok := b.read[s.Read]
	if !ok {
		read := *s.Read
		name = b.free(b.name + "_read")
		read.Name, read.Helper = name, true
		b.read[s.Read] = name
		b.helpers = append(b.helpers, read)
	}
	if c.Source = ""; s.Digits > 0 {
		c.Compute = &plan.Expression{Expression: &expression.Expression{Text: s.fixed(name)}}
		return c
	}
	c.Join = &plan.Join{Columns: []string{name}}
	return c
}

// steps returns the steps of a piece, with the constants that belong to it.
func (b *builder) steps(p shapedPiece) (chain step.Chain) {
	for _, s := range p.Chain {
		m, _ := s.Args.(args)
		if fails := m["otherwise"] == "fail" || s.Name == "take" && m["otherwise"] == nil; m != nil && b.without && fails {
			blank := maps.Clone(m)
			blank["otherwise"] = "blank"
			s.Args = blank
		}
		chain = append(chain, s)
	}
	if p.before != "" {
		chain = append(chain, step.Named{Name: "insert", Args: args{"text": p.before, "at": 1}})
	}
	if p.after != "" {
		chain = append(chain, step.Named{Name: "insert", Args: args{"text": p.after, "at": "end"}})
	}
	return chain
}
