package show

import (
	"fmt"
	"math/big"
	"slices"
	"strings"

	"junvo/internal/table"
	"junvo/internal/totals"
	"junvo/internal/value"
)

// Compared is what differs between totals and the figures that somebody gave.
type Compared struct {
	Agree int // groups in which all figures agree
	Lines []Differing
}

// Differing is a figure of a group that is another than was given, or a group that is on one side only.
type Differing struct {
	Group, Figure, Expected, Is, Difference string
}

// Differs reports whether anything differs.
func (c *Compared) Differs() bool { return len(c.Lines) > 0 }

// Compare compares the groups with records of the same headings, the headings first. Columns of the groups must be
// there, and at least one figure or the rows; a record that has "all" in place of the first key is that of all rows.
func (t *Totals) Compare(control [][]string) (*Compared, error) {
	headings := t.Headings() // what a group lacks says which of its keys has failed, and is no figure
	lacking := t.end()
	var at []int // where the columns of the control stand among the headings
	for _, name := range control[0] {
		i := slices.IndexFunc(headings, func(h string) bool { return strings.EqualFold(h, strings.TrimSpace(name)) })
		if i < 0 {
			return nil, table.Unknown("figure", name, headings[:lacking])
		}
		at = append(at, i)
	}
	for i := range t.By {
		if !slices.Contains(at, i) {
			return nil, fmt.Errorf("it lacks the column %q, which makes the groups", headings[i])
		}
	}
	given := map[string][]string{}
	var order []string
	for n, record := range control[1:] {
		full := make([]string, len(headings))
		for i, text := range record[:min(len(record), len(at))] {
			full[at[i]] = strings.TrimSpace(text)
		}
		key := strings.Join(full[:len(t.By)], "\x00") + failedKeys(full[lacking])
		if full[lacking+1] == allRows {
			key = t.allKey()
		}
		if given[key] != nil {
			return nil, fmt.Errorf("the group of line %d stands there twice", n+2)
		}
		given[key] = full
		order = append(order, key)
	}
	return t.compare(headings, at, given, order), nil
}

// failedKeys returns what a group lacks, as far as that is keys that have failed: such groups have no other name.
func failedKeys(lacking string) (failed string) {
	for part := range strings.SplitSeq(lacking, "; ") {
		if strings.Contains(part, " failed: ") {
			failed += "\x00" + part
		}
	}
	return failed
}

// allKey is what the line of all rows is known by, where the control says that it is that: no group has such a key.
func (t *Totals) allKey() string { return strings.Repeat("\x00", len(t.By)) + allRows }

func (t *Totals) compare(headings []string, at []int, given map[string][]string, order []string) *Compared {
	c := &Compared{}
	met := map[string]bool{}
	lacking := t.end()
	for _, g := range append(slices.Clip(t.Groups), t.All) {
		is := t.Record(g)
		key := strings.Join(is[:len(t.By)], "\x00") + failedKeys(is[lacking])
		if g == t.All && len(t.By) > 0 {
			if key = t.allKey(); given[key] == nil {
				key = allRows + strings.Repeat("\x00", len(t.By)-1)
			}
			if met[key] {
				continue // a group has that name, and has been compared
			}
		}
		name := groupName(g)
		expected := given[key]
		if expected == nil {
			if g != t.All {
				c.Lines = append(c.Lines, Differing{Group: name, Figure: "rows", Expected: "no such group", Is: fmt.Sprint(g.Rows)})
			}
			continue
		}
		met[key] = true
		agrees := true
		for _, i := range at {
			if i >= len(t.By) && i < lacking && expected[i] != "" && !equalFigures(expected[i], is[i]) {
				c.Lines = append(c.Lines, Differing{name, headings[i], expected[i], is[i], difference(expected[i], is[i])})
				agrees = false
			}
		}
		if agrees {
			c.Agree++
		}
	}
	for _, key := range order {
		if !met[key] {
			c.Lines = append(c.Lines, Differing{
				Group: strings.ReplaceAll(key, "\x00", ", "), Figure: "rows",
				Is: "no such group",
			})
		}
	}
	return c
}

// Since returns the figures of all groups before and now, each with its change. A group that there was or is not has no
// figures there.
func (t *Totals) Since(before *Totals) (lines []Differing) {
	headings := t.Headings()
	headings = headings[len(t.By):t.end()]
	then := map[string]*totals.Group{}
	for _, g := range append(slices.Clip(before.Groups), before.All) {
		then[fmt.Sprint(g.Keys)] = g
	}
	add := func(name string, old, now *totals.Group) {
		for i, heading := range headings {
			d := Differing{Group: name, Figure: heading}
			if old != nil {
				d.Expected = before.Record(old)[len(t.By)+i]
			}
			if now != nil {
				d.Is = t.Record(now)[len(t.By)+i]
			}
			d.Difference = difference(d.Expected, d.Is)
			lines = append(lines, d)
		}
	}
	for _, g := range t.Groups {
		key := fmt.Sprint(g.Keys)
		add(groupName(g), then[key], g)
		delete(then, key)
	}
	for _, g := range before.Groups {
		if key := fmt.Sprint(g.Keys); then[key] != nil {
			add(groupName(g), g, nil)
		}
	}
	add("all", before.All, t.All)
	return lines
}

// ChangesText returns figures before and now.
func ChangesText(lines []Differing, f Format, page Page) string {
	return differing(lines, "before", "now", "change").render(f, page)
}

func differing(lines []Differing, expected, is, difference string) *grid {
	g := &grid{columns: []column{
		{name: "group", min: 12},
		{name: "figure"},
		{name: expected, right: true},
		{name: is, right: true},
		{name: difference, right: true},
	}}
	for _, l := range lines {
		g.rows = append(g.rows, []string{
			Visible(l.Group), Visible(l.Figure), Visible(l.Expected), Visible(l.Is),
			l.Difference,
		})
	}
	return g
}

func groupName(g *totals.Group) string {
	if len(g.Keys) == 0 {
		return "all"
	}
	names := make([]string, len(g.Keys))
	for i, k := range g.Keys {
		names[i] = keyText(k)
	}
	return strings.Join(names, ", ")
}

func equalFigures(a, b string) bool {
	x, err1 := value.ParseNumber(a)
	y, err2 := value.ParseNumber(b)
	if err1 != nil || err2 != nil {
		return a == b
	}
	return x.Compare(y) == 0
}

// difference returns how much more there is than was expected, "" where these are no numbers.
func difference(expected, is string) string {
	x, err1 := value.ParseNumber(expected)
	y, err2 := value.ParseNumber(is)
	if err1 != nil || err2 != nil {
		return ""
	}
	d := new(big.Rat).Sub(y.Rat(), x.Rat())
	digits, _ := d.FloatPrec()
	text := d.FloatString(digits)
	if d.Sign() > 0 {
		text = "+" + text
	}
	return text
}

// Text returns what agrees and what differs.
func (c *Compared) Text(f Format, page Page) string {
	if len(c.Lines) == 0 {
		if f == CSV {
			return ""
		}
		return Plural(int64(c.Agree), "group") + " as expected\n"
	}
	g := differing(c.Lines, "expected", "is", "difference")
	if f == CSV {
		return g.render(f, page)
	}
	return fmt.Sprintf("%s as expected, %s not:\n", Plural(int64(c.Agree), "group"),
		Plural(int64(len(c.Lines)), "figure")) + g.render(f, page)
}
