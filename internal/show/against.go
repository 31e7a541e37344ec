package show

import (
	"encoding/json"
	"errors"
	"fmt"

	"junvo/internal/draft"
	"junvo/internal/finding"
	"junvo/internal/profile"
)

// SeenIn returns what was seen by a profile that was printed as JSON.
func SeenIn(doc []byte) ([]draft.Seen, error) {
	var d profileJSON
	if err := json.Unmarshal(doc, &d); err != nil {
		return nil, fmt.Errorf("it is no profile in JSON: %w", err)
	}
	if d.Junvo != 1 || len(d.Columns) == 0 {
		return nil, errors.New("it is no profile in JSON, as `junvo profile --format json` prints it")
	}
	return seenIn(&d), nil
}

// Seen returns what was seen by a profile whose columns were all opened.
func Seen(p *profile.Profile) []draft.Seen {
	d := docOf(p, p.Columns)
	return seenIn(&d)
}

func seenIn(d *profileJSON) []draft.Seen {
	var all []draft.Seen
	for i := range d.Columns {
		c := &d.Columns[i]
		percent := ""
		if c.Suggest.Percent {
			percent = "%"
		}
		s := draft.Seen{
			Name: c.Name, Type: c.Suggest.Type, BlankWords: c.Suggest.BlankWords, Smallest: given(c.Smallest),
			Largest: given(c.Largest),
			Cells:   c.Cells, Blanks: c.Reads["blank"], Fails: c.Suggest.Fails,
			Convention: [][2]string{
				{"decimal mark", given(c.Suggest.DecimalMark)},
				{"order of dates", given(c.Suggest.DateOrder)},
				{"unit", given(c.Suggest.Unit)},
				{"currency", given(c.Suggest.Currency)},
				{"sign", percent},
			},
		}
		if c.AllShapes {
			s.Shapes = []string{}
			for _, shape := range c.Shapes {
				s.Shapes = append(s.Shapes, shape.Shape)
			}
		}
		all = append(all, s)
	}
	return all
}

func given(s *string) string {
	if s == nil {
		return ""
	}
	return *s
}

// Changes returns what has changed for a person, or for programs.
func Changes(changes []draft.Difference, earlier string, f Format, page Page) (string, error) {
	if f == JSON {
		doc, err := encode(struct {
			Junvo   int                `json:"junvo"`
			Against string             `json:"against"`
			Changes []draft.Difference `json:"changes"`
		}{1, earlier, list(changes)})
		return string(doc), err
	}
	g := &grid{columns: []column{
		{name: "what"},
		{name: "column", min: 12, wrap: true},
		{name: "how", min: 30, wrap: true},
	}}
	for _, c := range changes {
		g.rows = append(g.rows, []string{c.Kind.String(), Visible(c.Column), Visible(c.Say)})
	}
	if f != Table {
		return g.render(f, page), nil
	}
	head := Plural(int64(len(changes)), "change") + " since " + Visible(earlier) + "\n"
	if len(changes) == 0 {
		return head, nil
	}
	return head + "\n" + g.render(f, page), nil
}

// EachTable returns one line for each of several files that were profiled one by one.
func EachTable(profiles []*profile.Profile, f Format, page Page) string {
	g := &grid{columns: []column{
		{name: "file", min: 16},
		{name: "rows", right: true},
		{name: "columns", right: true},
		{name: "mixed", right: true},
		{name: "blank", right: true},
		{name: "fail", right: true},
		{name: "findings", min: 20, wrap: true},
	}}
	for _, p := range profiles {
		var mixed, blank, fail int64
		found := map[finding.Kind]int64{}
		for _, c := range p.Columns {
			done := c.Conclusion
			if done.Mixed {
				mixed++
			}
			fail += done.Fails
			blank += c.Column.Cells - done.Fits - done.Fails
			for _, one := range c.Findings {
				found[one.Kind] += one.Count
			}
		}
		for _, one := range p.Findings {
			found[one.Kind] += one.Count
		}
		g.rows = append(g.rows, []string{
			Visible(p.Info.Name), fmt.Sprint(p.Rows), fmt.Sprint(len(p.Columns)), fmt.Sprint(mixed), fmt.Sprint(blank),
			fmt.Sprint(fail), inOrder(found),
		})
	}
	return g.render(f, page)
}

// inOrder lists findings with their counts, the more important first.
func inOrder(found map[finding.Kind]int64) string {
	text := ""
	for _, e := range finding.Catalogue[1:] {
		if n := found[e.Kind]; n > 0 {
			if text != "" {
				text += ", "
			}
			text += fmt.Sprintf("%s %d", e.Name, n)
		}
	}
	return text
}

// EachJSON returns the profiles of several files for programs.
func EachJSON(profiles []*profile.Profile) ([]byte, error) {
	docs := []profileJSON{}
	for _, p := range profiles {
		docs = append(docs, docOf(p, p.Columns))
	}
	return encode(struct {
		Junvo    int           `json:"junvo"`
		Profiles []profileJSON `json:"profiles"`
	}{1, docs})
}
