package show

import (
	"cmp"
	"fmt"
	"slices"
	"strconv"
	"strings"

	"github.com/jedib0t/go-pretty/v6/text"

	"junvo/internal/finding"
	"junvo/internal/profile"
	"junvo/internal/reading"
	"junvo/internal/value"
)

// ProfileTable returns one line for each of some columns. Where fold is set and the
// columns are many, those that there is nothing to tell of share a line by their type.
func ProfileTable(columns []*profile.ColumnProfile, fold bool, f Format, page Page) string {
	stored := column{name: "stored", drop: spare}
	for _, c := range columns {
		if storedOf(c) != value.StoredText.String() && c.Column.Cells > 0 {
			stored = column{name: "stored", min: 12, wrap: true} // worth its room where it differs
		}
	}
	g := &grid{columns: []column{
		{name: "column", min: 12},
		stored,
		{name: "type"},
		{name: "strip", drop: 1},
		{name: "fits", right: true},
		{name: "blank", right: true},
		{name: "distinct", right: true, drop: 2},
		{name: "from … to", min: 10, drop: 3},
		{name: "findings", min: 16},
	}}
	page.Colour = page.Colour && f == Table // programs read the others
	places := 20
	if page.Width < 130 {
		places = 12
	}
	var quiet *folded
	if fold && f == Table && len(columns) > maxUnfolded {
		quiet = &folded{}
		columns = quiet.fold(columns)
	}
	for _, c := range columns {
		done := c.Conclusion
		g.rows = append(g.rows, []string{
			Visible(c.Name), storedOf(c), done.Convention.Type.String(), Strip(done.Reads, places, page),
			share(done.Fits, done.Fits+done.Fails),
			strconv.FormatInt(done.Reads[reading.AsBlank], 10), distinctText(c), fromTo(c), inShort(c),
		})
	}
	if quiet != nil {
		g.rows = append(g.rows, quiet.rows(places, page)...)
		return g.render(f, page) + quiet.note()
	}
	return g.render(f, page)
}

// storedOf says how the source stores a column's cells, the most frequent way first.
func storedOf(c *profile.ColumnProfile) string {
	type part struct {
		name  string
		cells int64
	}
	var parts []part
	for k, n := range c.Column.Stored {
		if n > 0 {
			parts = append(parts, part{value.Stored(k).String(), n})
		}
	}
	slices.SortStableFunc(parts, func(a, b part) int { return cmp.Compare(b.cells, a.cells) })
	if len(parts) == 1 {
		return parts[0].name
	}
	words := make([]string, len(parts))
	for i, p := range parts {
		words[i] = fmt.Sprintf("%s %d", p.name, p.cells)
	}
	return strings.Join(words, ", ")
}

// share returns n of all in percent, never rounded up to 100 nor down to 0.
func share(n, all int64) string {
	if all == 0 {
		return "–"
	}
	tenths := (n*2000 + all) / (2 * all)
	switch {
	case n == all:
		return "100 %"
	case tenths == 1000:
		tenths = 999
	case tenths == 0 && n > 0:
		tenths = 1
	}
	return fmt.Sprintf("%d.%d %%", tenths/10, tenths%10)
}

func distinctText(c *profile.ColumnProfile) string {
	n, exact := c.Distinct()
	if exact {
		return strconv.FormatInt(n, 10)
	}
	return "~" + strconv.FormatInt(n, 10)
}

func fromTo(c *profile.ColumnProfile) string {
	switch {
	case c.Private():
		return "(private)"
	case c.Range.Smallest == "":
		return ""
	}
	if c.Range.Smallest == c.Range.Largest {
		return c.Range.Smallest
	}
	return c.Range.Smallest + " … " + c.Range.Largest
}

// inShort returns the convention and the findings of a column in a few words.
func inShort(c *profile.ColumnProfile) string {
	var parts []string
	if say := c.Conclusion.Convention.Say(c.Counts); say != "" {
		parts = append(parts, say)
	}
	if n := c.Conclusion.Fails; n > 0 {
		parts = append(parts, fmt.Sprintf("%d fail", n))
	}
	for _, f := range c.Findings {
		switch f.Kind {
		case finding.Units, finding.Currencies, finding.Percent, finding.TextAmongNumbers, finding.NumbersAsText, finding.DatesAsText,
			finding.BooleansAsText:
			continue // the convention and the failures say it
		case finding.Mixed:
			if c.Conclusion.Fails > 0 {
				continue
			}
		}
		parts = append(parts, fmt.Sprintf("%s %d", f.Kind, f.Count))
	}
	return strings.Join(parts, ", ")
}

// ProfileHead returns the facts about the file and how it was read.
func ProfileHead(p *profile.Profile, page Page) string {
	var b strings.Builder
	i := p.Info
	fmt.Fprintf(&b, "%s: %s, %s, %s\n", Visible(i.Name), plural(p.Rows, "row"), plural(int64(len(i.Names)), "column"),
		bytesText(p.Bytes, i.Bytes))
	for _, d := range i.Decisions {
		b.WriteString(page.entry(d.What, fmt.Sprintf("%s (%s)", Visible(d.Value), Visible(d.Why))))
	}
	if n := len(i.Above); n > 0 {
		b.WriteString(page.entry("around it", plural(int64(n), "line")+" that "+areIs(n)+" no data"))
	}
	b.WriteString(standOut(p, page))
	for _, f := range p.Findings {
		b.WriteString(page.entry(f.Kind.String(), Visible(f.Say)+rowList(f)))
	}
	return b.String()
}

// standOut names the columns that may be keys, are constant or copies.
func standOut(p *profile.Profile, page Page) string {
	var keys, constant, copies []string
	for _, c := range p.Columns {
		name := Visible(c.Name)
		switch _, exact := c.Distinct(); {
		case c.Key && exact:
			keys = append(keys, name)
		case c.Key:
			keys = append(keys, name+" (by an estimate)")
		case c.Constant:
			constant = append(constant, name)
		}
		if c.CopyOf != "" {
			copies = append(copies, name+" of "+Visible(c.CopyOf))
		}
	}
	var b strings.Builder
	for _, e := range []struct {
		name, say string
		columns   []string
	}{
		{"may be a key", "a value of its own in every row", keys},
		{"constant", "the same in every row", constant},
		{"copies", "the same in all rows", copies},
	} {
		if n := len(e.columns); n > 0 {
			if n > maxNamed {
				e.columns = append(e.columns[:maxNamed], fmt.Sprintf("and %d more", n-maxNamed))
			}
			b.WriteString(page.entry(e.name, strings.Join(e.columns, ", ")+": "+e.say))
		}
	}
	return b.String()
}

func areIs(n int) string {
	if n == 1 {
		return "is"
	}
	return "are"
}

// bytesText says how large the file is; size is that of the file, -1 where unknown.
func bytesText(read, size int64) string {
	if size < 0 || size == read {
		return plural(read, "byte")
	}
	return plural(size, "byte")
}

func plural(n int64, what string) string {
	if n == 1 {
		return "1 " + what
	}
	return strconv.FormatInt(n, 10) + " " + what + "s"
}

// entry returns a name and what is said of it, which goes on below itself where it
// is longer than the page is wide.
func (p Page) entry(name, say string) string {
	const indent = 21
	lines := strings.Split(text.WrapSoft(say, max(20, p.Width-indent)), "\n")
	for i, l := range lines {
		lines[i] = strings.TrimRight(l, " ")
	}
	return fmt.Sprintf("  %-*s%s\n", indent-2, name, strings.Join(lines, "\n"+strings.Repeat(" ", indent)))
}

func rowList(f profile.Finding) string {
	if len(f.Rows) == 0 {
		return ""
	}
	var rows []string
	for _, r := range f.Rows {
		rows = append(rows, strconv.FormatInt(r, 10))
	}
	more := ""
	if f.Count > int64(len(rows)) {
		more = ", …"
	}
	return " (" + rowWord(len(rows)) + strings.Join(rows, ", ") + more + ")"
}

func rowWord(n int) string {
	if n == 1 {
		return "row "
	}
	return "rows "
}

// ColumnFindings returns the findings of the columns, one line for each sort, the
// more important first, with the columns and how many of their cells it is about.
func ColumnFindings(p *profile.Profile, page Page) string {
	g := &grid{columns: []column{{name: "finding"}, {name: "in these columns, and in how many cells of them", min: 40, wrap: true}}}
	for _, e := range finding.Catalogue[1:] {
		var in []string
		for _, c := range p.Columns {
			for _, found := range c.Findings {
				if found.Kind == e.Kind {
					in = append(in, fmt.Sprintf("%s %d", Visible(c.Name), found.Count))
				}
			}
		}
		if n := len(in); n > maxNamed {
			in = append(in[:maxNamed], fmt.Sprintf("and %d more columns", n-maxNamed))
		}
		if len(in) > 0 {
			g.rows = append(g.rows, []string{e.Name, strings.Join(in, ", ")})
		}
	}
	if len(g.rows) == 0 {
		return ""
	}
	return g.render(Table, page) + "`junvo help findings` explains them; --format json has their rows\n"
}

// maxNamed is how many columns are named for a finding.
const maxNamed = 20

// StripKey explains the letters of the strip.
func StripKey(page Page) string {
	var parts []string
	for r := range reading.NumReadings {
		parts = append(parts, fmt.Sprintf("%c %s", r.Letter(), r))
	}
	return text.WrapSoft("strip: "+strings.Join(parts, ", "), page.Width) + "\n"
}
