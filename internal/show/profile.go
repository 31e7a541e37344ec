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
		if StoredOf(c) != value.StoredText.String() && c.Column.Cells > 0 {
			stored = column{name: "stored", min: 12, wrap: true} // worth its room where it differs
		}
	}
	g := &grid{columns: []column{
		{name: "column", min: 12},
		stored,
		{name: "type"},
		{name: "strip", drop: 1},
		{name: "fits", right: true, drop: spare},
		{name: "fails", right: true},
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
			Visible(c.Name), StoredOf(c), done.Convention.Type.String(), strip(done.Reads, places, page),
			Share(done.Fits, done.Fits+done.Fails), strconv.FormatInt(done.Fails, 10),
			strconv.FormatInt(done.Reads[reading.AsBlank], 10), DistinctText(c), FromTo(c), inShort(c),
		})
	}
	if quiet != nil {
		g.rows = append(g.rows, quiet.rows(places, page)...)
		return g.render(f, page) + quiet.note()
	}
	return g.render(f, page)
}

// StoredOf says how the source stores a column's cells, the most frequent way first.
func StoredOf(c *profile.ColumnProfile) string {
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

// Share returns n of all in percent, never rounded up to 100 nor down to 0.
func Share(n, all int64) string {
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

// DistinctText returns how many different values a column has, ~ before an estimate.
func DistinctText(c *profile.ColumnProfile) string {
	n, exact := c.Distinct()
	if exact {
		return strconv.FormatInt(n, 10)
	}
	return "~" + strconv.FormatInt(n, 10)
}

// FromTo returns the smallest and the largest value of a column, "" where it has none.
func FromTo(c *profile.ColumnProfile) string {
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

// inShort returns the findings of a column and its convention in a few words.
func inShort(c *profile.ColumnProfile) string {
	var parts []string
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
	if say := c.Conclusion.Convention.Say(c.Counts); say != "" {
		parts = append(parts, say)
	}
	return strings.Join(parts, ", ")
}

// Glance returns a profile so that its columns stand on the first screen of a small terminal: what the file is in a
// line, the columns, and a line for each thing that is to be known of rows.
func Glance(p *profile.Profile, columns []*profile.ColumnProfile, fold bool, page Page) string {
	var b strings.Builder
	b.WriteString(fileLine(p))
	var read []string
	doubt := ""
	for _, d := range p.Info.Decisions {
		switch say := Visible(d.Value); {
		case slices.Contains(usual[d.What], d.Value):
		case d.What == "encoding" || d.What == "format":
			read = append(read, say)
		case d.What == "alignment", d.What == "comments" && d.Value == "seen": // it says what else might be done
			doubt = page.entry(d.What, say+" ("+Visible(d.Why)+")")
		default:
			read = append(read, d.What+" "+say)
		}
	}
	if n := len(p.Info.Above); n > 0 {
		read = append(read, Plural(int64(n), "line")+" around it")
	}
	if len(read) > 0 {
		b.WriteString(page.line("read as", strings.Join(read, ", ")))
	}
	b.WriteString(doubt)
	b.WriteString("\n" + ProfileTable(columns, fold, Table, page) + "\n" + StripKey(page))
	b.WriteString(oneLineEach(standOut(p, Page{Width: 1 << 20}), page))
	for _, f := range p.Findings {
		what, why, _ := strings.Cut(Visible(f.Say), ": ")
		if why != "" {
			why = ": " + why
		}
		b.WriteString(page.line(f.Kind.String(), what+RowsNamed(f)+why))
	}
	b.WriteString("--verbose says how the file was read, and lists all findings\n")
	return b.String()
}

// usual are the decisions that need no mention.
var usual = map[string][]string{
	"encoding": {"utf-8"}, "quote": {`"`}, "delimiter": {","}, "line ends": {"LF", "CRLF"}, "header": {"line 1"},
}

// fileLine says what the file is.
func fileLine(p *profile.Profile) string {
	i := p.Info
	return fmt.Sprintf("%s: %s, %s, %s\n", Visible(i.Name), Plural(p.Rows, "row"), Plural(int64(len(i.Names)), "column"),
		bytesText(p.Bytes, i.Bytes))
}

// line returns a name and what is said of it in a line, which is cut where the page ends.
func (p Page) line(name, say string) string {
	return fmt.Sprintf("  %-*s%s\n", indent-2, name, trim(say, max(20, p.Width-indent)))
}

// oneLineEach cuts lines where the page ends.
func oneLineEach(lines string, page Page) string {
	var b strings.Builder
	for line := range strings.Lines(lines) {
		b.WriteString(trim(strings.TrimSuffix(line, "\n"), page.Width) + "\n")
	}
	return b.String()
}

// ProfileHead returns the facts about the file and how it was read.
func ProfileHead(p *profile.Profile, page Page) string {
	var b strings.Builder
	i := p.Info
	b.WriteString(fileLine(p))
	for _, d := range i.Decisions {
		b.WriteString(page.entry(d.What, fmt.Sprintf("%s (%s)", Visible(d.Value), Visible(d.Why))))
	}
	if n := len(i.Above); n > 0 {
		b.WriteString(page.entry("around it", Plural(int64(n), "line")+" that "+areIs(n)+" no data"))
	}
	b.WriteString(standOut(p, page))
	for _, f := range p.Findings {
		b.WriteString(page.entry(f.Kind.String(), Visible(f.Say)+RowsNamed(f)))
	}
	return b.String()
}

// standOut names the columns that may be keys, are constant or copies.
func standOut(p *profile.Profile, page Page) string {
	var keys, near, constant, copies []string
	for _, c := range p.Columns {
		name := Visible(c.Name)
		switch {
		case c.Key:
			keys = append(keys, name)
		case c.NearKey:
			near = append(near, name)
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
		{"nearly a key", "about as many values as rows, by an estimate; must: {unique: true} in a plan proves it", near},
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
		return Plural(read, "byte")
	}
	return Plural(size, "byte")
}

// Plural counts things, as in 1 row and 2 rows.
func Plural(n int64, what string) string {
	if n == 1 {
		return "1 " + what
	}
	return strconv.FormatInt(n, 10) + " " + what + "s"
}

// indent is where what is said of a name begins.
const indent = 21

// entry returns a name and what is said of it, which goes on below itself where it
// is longer than the page is wide.
func (p Page) entry(name, say string) string {
	lines := strings.Split(text.WrapSoft(say, max(20, p.Width-indent)), "\n")
	for i, l := range lines {
		lines[i] = strings.TrimRight(l, " ")
	}
	return fmt.Sprintf("  %-*s%s\n", indent-2, name, strings.Join(lines, "\n"+strings.Repeat(" ", indent)))
}

// RowsNamed names the first rows of a finding.
func RowsNamed(f profile.Finding) string {
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
	g := &grid{columns: []column{{name: "finding"}, {
		name: "in these columns, and in how many cells of them", min: 40,
		wrap: true,
	}}}
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
