package plan

import (
	"errors"
	"maps"
	"slices"
	"strings"

	"junvo/internal/reading"
	"junvo/internal/rowkind"
	"junvo/internal/step"
	"junvo/internal/value"
)

func keysOf[V any](m map[string]V) []string { return slices.Sorted(maps.Keys(m)) }

// Load reads a plan that names no other files. The error is Mistakes, all that there are.
func Load(text []byte) (*Plan, error) { return LoadWith(text, nil) }

// LoadWith reads a plan, and the files that it names by a function. The error is Mistakes, all that there are.
func LoadWith(text []byte, read func(name string) ([]byte, error)) (*Plan, error) {
	root, err := parse(text)
	if err != nil {
		return nil, err
	}
	l := &loader{read: read}
	p := &Plan{}
	if root.kind == empty {
		l.fail(root, "the plan is empty")
		return nil, l.mistakes
	}
	p.SetAside[rowkind.Long] = true
	seen := map[string]bool{}
	see := func(key string, f func(*node)) func(*node) {
		return func(n *node) { seen[key] = true; f(n) }
	}
	p.Lists = l.readLists(root)
	l.each(root, "a plan", map[string]func(*node){
		"plan": see("plan", func(n *node) {
			if n.text != "1" {
				l.fail(n, "this is a plan of version %s; this program reads version %d", n.text, Version)
			}
		}),
		"source":      func(n *node) { l.source(n, &p.Source) },
		"blank-words": func(n *node) { p.BlankWords = l.texts(n) },
		"rows":        func(n *node) { l.rows(n, p) },
		"others":      func(n *node) { p.Others = l.others(n) },
		"lists":       func(*node) {}, // which columns use: they have been read before
		"seen":        func(n *node) { p.Seen = l.record(n) },
		"columns":     see("columns", func(n *node) { l.columns(n, p) }),
	})
	l.complete(p) // whatever the order in which they stand, all keys have been read by now
	switch {
	case len(l.mistakes) > 0: // which may be why
	case !seen["plan"]:
		l.fail(root, "the version is missing: a plan begins with plan: %d", Version)
	case !seen["columns"]:
		l.fail(root, "the plan has no columns")
	}
	l.orderColumns(p)
	if len(l.mistakes) > 0 {
		slices.SortStableFunc(l.mistakes, func(a, b Mistake) int {
			if a.Line != b.Line {
				return a.Line - b.Line
			}
			return a.Column - b.Column
		})
		return nil, l.mistakes
	}
	return p, nil
}

func (l *loader) source(n *node, s *Source) {
	set := func(to *string) func(*node) { return func(n *node) { *to = l.text(n) } }
	l.each(n, "source", map[string]func(*node){
		"encoding": set(&s.Encoding), "delimiter": set(&s.Delimiter), "quote": set(&s.Quote), "escape": set(&s.Escape), "comment": set(&s.Comment),
		"header-row": func(n *node) { s.HeaderRow = l.number(n) },
		"no-header":  func(n *node) { s.NoHeader = l.flag(n) },
		"widths": func(n *node) {
			if n.kind != list || len(n.items) == 0 {
				l.fail(n, "widths is a list of numbers of characters, as in [6, 20, 10]")
			}
			for _, w := range n.items {
				s.Widths = append(s.Widths, l.number(w))
			}
		},
	})
	if s.Widths != nil && (s.Delimiter != "" || s.Quote != "" || s.Escape != "") {
		l.fail(n, "widths exclude delimiter, quote and escape")
	}
	if s.NoHeader && s.HeaderRow > 0 {
		l.fail(n, "header-row and no-header exclude each other")
	}
}

func (l *loader) columns(n *node, p *Plan) {
	if n.kind != mapping || len(n.keys) == 0 {
		l.fail(n, "columns is a map from the names of the output to what they are made of")
		return
	}
	for i, k := range n.keys {
		if isSplit(n.items[i]) {
			p.Columns = append(p.Columns, l.split(k.text, n.items[i])...)
			continue
		}
		p.Columns = append(p.Columns, l.column(k.text, n.items[i]))
	}
	l.all = n
}

// complete does what needs the whole plan: it compiles the expressions of columns and rows, and finds the columns that
// others are made of.
func (l *loader) complete(p *Plan) {
	if len(l.mistakes) > 0 || l.all == nil {
		return
	}
	l.headings(p)
	for i := range p.Columns {
		c := &p.Columns[i]
		if filling, _ := c.Steps.Fill(); filling.Above && p.Turn != nil && c.Source == p.TurnInto[1] {
			l.fail(l.all, "column %s can't be filled from above: above a cell of columns that are turned stands another of "+
				"its row", c.Name)
		}
	}
	p.resolve(l.uses(p))
	l.compile(p)
	if len(l.mistakes) > 0 {
		return
	}
	if err := p.link(); err != nil {
		l.fail(l.all, "%v", err)
		return
	}
	if err := p.nameExamples(); err != nil {
		l.fail(l.all, "%v", err)
	}
}

func isSplit(n *node) bool {
	return slices.ContainsFunc(n.keys, func(k *node) bool { return k.text == "split" || k.text == "into" })
}

// split reads a column of the source that becomes several of the output.
func (l *loader) split(name string, n *node) (columns []Column) {
	s := &Split{Name: name}
	source := name
	var into, how *node
	l.each(n, "a split", map[string]func(*node){
		"from":  func(n *node) { source = l.text(n) },
		"steps": func(n *node) { s.Steps = l.steps(n) },
		"split": func(n *node) { how = n },
		"into":  func(n *node) { into = n },
	})
	if how == nil || into == nil || into.kind != mapping {
		l.fail(n, "a split needs both: split, which says where, and into, a map of the columns that it makes")
		return nil
	}
	s.Args = how.args()
	made, err := step.NewSplit(s.Args, len(into.keys))
	if err != nil {
		l.fail(how, "split: %v", err)
		return nil
	}
	for i, k := range into.keys {
		if isSplit(into.items[i]) {
			l.fail(k, "a piece can't be split again; split a column of the source once more")
			continue
		}
		c := l.column(k.text, into.items[i])
		if c.Made() || c.Source != k.text {
			l.fail(k, "a piece has neither from nor join")
		}
		c.Source, c.Split = source, s
		c.Steps = slices.Concat(s.Steps, step.Chain{{Name: "split", Args: s.Args, Step: made.Piece(i)}}, c.Steps)
		columns = append(columns, c)
	}
	return columns
}

func (l *loader) column(name string, n *node) Column {
	c := Column{Name: name, Source: name}
	typ, typeNode := value.Text, n
	typed := false
	t := &c.Terms
	set := func(to *string) func(*node) { return func(n *node) { *to = l.text(n) } }
	var with, blanks *node
	l.each(n, "a column", map[string]func(*node){
		"from": set(&c.Source),
		"compute": func(n *node) {
			l.text(n)
			l.computed = append(l.computed, toCompute{name, n, false})
			c.Compute = &Expression{}
		},
		"join":   func(n *node) { c.Join = &Join{Columns: l.texts(n)} },
		"with":   func(n *node) { with = n },
		"blanks": func(n *node) { blanks = n },
		"steps":  func(n *node) { c.Steps = l.steps(n) },
		"to": func(n *node) {
			typ = l.typeName(n)
			typeNode, typed = n, true
		},
		"decimal-mark":   set(&t.DecimalMark),
		"group-marks":    func(n *node) { t.GroupMarks = l.texts(n) },
		"date-order":     func(n *node) { t.DateOrder = l.dateOrder(n) },
		"unit":           set(&t.Unit),
		"factors":        func(n *node) { t.Factors = l.factors(n) },
		"currency":       set(&t.Currency),
		"sign":           set(&t.Sign),
		"zone":           set(&t.Zone),
		"offsets":        func(n *node) { t.Offsets = l.flag(n) },
		"words":          func(n *node) { l.words(n, t) },
		"blank-words":    func(n *node) { t.BlankWords = l.texts(n) },
		"days-as-digits": func(n *node) { t.DaysAsDigits = l.flag(n) },
		"months":         set(&t.Months),
		"time-words":     func(n *node) { t.TimeWords = l.texts(n) },
		"marks":          func(n *node) { t.EachMark = l.oneOf(n, "way to read marks", []string{"one", "each"}) == 1 },
		"zeros":          func(n *node) { t.Zeros = l.oneOf(n, "way to go on with zeros", []string{"fail", "drop"}) == 1 },
		"half-days":      func(n *node) { t.HalfDays = l.flag(n) },
		"on-failure":     func(n *node) { c.OnFailure = l.onFailure(n) },
		"must":           func(n *node) { l.must(n, &c.Must) },
		"private":        func(n *node) { c.Private = l.flag(n) },
		"undecided":      func(n *node) { c.Undecided = l.flag(n) },
		"helper":         func(n *node) { c.Helper = l.flag(n) },
		"emptied":        func(n *node) { c.Emptied = l.emptied(n) },
		"examples":       func(n *node) { c.Examples = l.examples(n) },
	})
	conv, err := t.Convention(typ)
	if err != nil {
		l.fail(n, "column %s: %v", name, err)
	}
	c.Convention = conv
	l.terms(&c, n)
	l.join(&c, n, with, blanks)
	if c.Compute != nil {
		if c.Join != nil || c.Source != c.Name {
			l.fail(n, "column %s: compute goes with neither from nor join", name)
		}
		c.Source = ""
		l.computed[len(l.computed)-1].typed = typed || len(c.Steps) > 0 // the steps make a text of any value
	}
	if filling, _ := c.Steps.Fill(); filling.Above && c.Made() {
		l.fail(n, "column %s: only a column of the source can be filled from above", name)
	}
	if c.Helper && c.Must.Unique {
		l.fail(n, "column %s: a helper is not written, and nothing asks for its values to be unique", name)
	}
	if c.Undecided && typ != value.Text {
		l.fail(typeNode, "undecided goes with the type text only")
	}
	if err := c.Must.prepare(typ); err != nil {
		l.fail(n, "column %s: must: %v", name, err)
	}
	return c
}

func (l *loader) typeName(n *node) value.Type {
	t, ok := value.ParseType(l.text(n))
	if !ok {
		l.unknown(n, "type", n.text, value.TypeNames())
	}
	return t
}

// join completes a join, or finds what belongs to one where there is none.
func (l *loader) join(c *Column, n, with, blanks *node) {
	for _, key := range []*node{with, blanks} {
		if key != nil && c.Join == nil {
			l.fail(key, "with and blanks go with join only")
			return
		}
	}
	if c.Join == nil {
		return
	}
	if c.Source != c.Name {
		l.fail(n, "column %s: from and join exclude each other", c.Name)
	}
	if len(c.Join.Columns) == 0 {
		l.fail(n, "column %s: join is a list of columns of the output", c.Name)
	}
	c.Source = ""
	if with != nil {
		c.Join.With = l.text(with)
	}
	if blanks != nil {
		i := slices.Index(joinBlankNames, l.text(blanks))
		if i < 0 {
			l.unknown(blanks, "way to join blanks", blanks.text, joinBlankNames)
			return
		}
		c.Join.Blanks = JoinBlanks(i)
	}
}

func (l *loader) factors(n *node) map[string]string {
	if n.kind != mapping {
		l.fail(n, "factors is a map from units to what their numbers are multiplied by, as in {g: 0.001}")
	}
	out := map[string]string{}
	for i, k := range n.keys {
		out[k.text] = l.text(n.items[i])
	}
	return out
}

func (l *loader) dateOrder(n *node) map[string]string {
	if n.kind == scalar {
		return map[string]string{"": n.text}
	}
	out := map[string]string{}
	for i, k := range n.keys {
		if k.text != "." && k.text != "/" && k.text != "-" && k.text != " " {
			l.fail(k, "a date-order is given for the separators . / - and space, not %q", k.text)
		}
		out[k.text] = l.text(n.items[i])
	}
	if len(out) == 0 {
		l.fail(n, "date-order is dmy, mdy or ymd, or a map of these by separator")
	}
	return out
}

func (l *loader) words(n *node, t *reading.Terms) {
	l.each(n, "words", map[string]func(*node){
		"true":  func(n *node) { t.True = l.texts(n) },
		"false": func(n *node) { t.False = l.texts(n) },
	})
}

func (l *loader) onFailure(n *node) OnFailure {
	return OnFailure(l.oneOf(n, "way to go on after a failure", failureNames))
}

// others reads what becomes of the columns that the plan does not name.
func (l *loader) others(n *node) bool {
	ways := []string{"keep", "leave-out"}
	if text := l.text(n); text != ways[0] && text != ways[1] {
		l.unknown(n, "way to go on with the other columns", text, ways)
	}
	return n.text == ways[0]
}

func (l *loader) emptied(n *node) Emptied {
	return Emptied(l.oneOf(n, "way to go on with an emptied cell", emptiedNames))
}

// oneOf reads a text that is one of a list, and returns its place there: 0 for one that is none of it, which is a
// mistake.
func (l *loader) oneOf(n *node, what string, list []string) int {
	i := slices.Index(list, l.text(n))
	if i < 0 {
		l.unknown(n, what, n.text, list)
	}
	return max(i, 0)
}

func (l *loader) must(n *node, m *Must) {
	l.each(n, "must", map[string]func(*node){
		"not-blank": func(n *node) { m.NotBlank = l.flag(n) },
		"unique":    func(n *node) { m.Unique = l.flag(n) },
		"between": func(n *node) {
			if n.kind != list || len(n.items) != 2 {
				l.fail(n, "between is a list of two values, the first and the last")
				return
			}
			for i, v := range n.items {
				if v.kind != empty {
					m.Between[i] = l.text(v)
				}
			}
		},
		"one-of":  func(n *node) { m.OneOf = l.texts(n) },
		"matches": func(n *node) { m.Matches = l.text(n) },
		"longest": func(n *node) { m.Longest = l.number(n) },
	})
}

// steps reads a list of steps: names, or maps of one name and its arguments.
func (l *loader) steps(n *node) (chain step.Chain) {
	if n.kind != list {
		l.fail(n, "steps is a list, a line each that begins with a dash")
		return nil
	}
	for i, s := range n.items {
		name, args := s, &node{}
		if s.kind == mapping && len(s.keys) == 1 {
			name, args = s.keys[0], s.items[0]
		} else if s.kind != scalar {
			l.stepForm(s)
			continue
		}
		made, err := step.New(name.text, l.withList(name.text, args.args()))
		if err != nil {
			l.stepError(name, args, err)
			continue
		}
		if name.text == "fill" && i > 0 {
			l.fail(name, "fill must be the first step: the others do not see blank cells")
		}
		chain = append(chain, step.Named{Name: name.text, Args: args.args(), Step: made})
	}
	return chain
}

// stepForm says how a step is written.
func (l *loader) stepForm(s *node) {
	if s.kind == mapping && len(s.keys) > 1 && s.items[0].kind == empty {
		l.fail(s.keys[1], "the arguments of %s stand indented further than its name, or in braces: %[1]s: {%s: …}",
			s.keys[0].text, s.keys[1].text)
		return
	}
	if s.kind == mapping && len(s.keys) > 1 {
		l.fail(s.keys[1], "each step stands behind a dash of its own: %s and %s are two", s.keys[0].text, s.keys[1].text)
		return
	}
	l.fail(s, "a step is a name, or a name with its arguments")
}

func (l *loader) stepError(name, args *node, err error) {
	var unknown *step.UnknownError
	var arg *step.UnknownArgError
	switch {
	case errors.As(err, &unknown):
		l.unknown(name, "step", name.text, step.Names())
	case errors.As(err, &arg):
		at := args
		for _, k := range args.keys {
			if k.text == arg.Key {
				at = k
			}
		}
		l.fail(at, "step %s: %v", name.text, err)
	case args.line > 0:
		l.fail(args, "step %s: %v", name.text, err)
	default:
		l.fail(name, "step %s: %v", name.text, err)
	}
}

// ParseSplit reads how a text is split into n pieces, as a plan has it. The error says what is wrong, without a place.
func ParseSplit(text string, n int) (*Split, *step.Split, error) {
	root, err := parse([]byte("split: " + text + "\n"))
	if err != nil || root.kind != mapping || len(root.items) != 1 || root.items[0].kind != mapping {
		return nil, nil, errors.New(`it says where to split in braces, as in {at: " "}`)
	}
	s := &Split{Args: root.items[0].args()}
	made, err := step.NewSplit(s.Args, n)
	return s, made, err
}

// ParseSteps reads a step, or a list of steps, as a plan has them. The error says what is wrong, without a place.
func ParseSteps(text string) (step.Chain, error) {
	if text == "" {
		return nil, errors.New("which step? As in keep: digits")
	}
	if !strings.HasPrefix(text, "[") {
		text = "[" + text + "]"
	}
	root, err := parse([]byte("steps: " + text + "\n"))
	l := &loader{}
	var chain step.Chain
	if err == nil {
		l.each(root, "a step", map[string]func(*node){"steps": func(n *node) { chain = l.steps(n) }})
		if len(l.mistakes) == 0 {
			return chain, nil
		}
		err = l.mistakes
	}
	var mistakes Mistakes
	if errors.As(err, &mistakes) {
		return nil, errors.New(mistakes[0].Say)
	}
	return nil, err
}
