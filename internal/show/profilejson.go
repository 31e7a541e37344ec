package show

import (
	"bytes"
	"encoding/json"
	"fmt"
	"unicode"
	"unicode/utf16"
	"unicode/utf8"

	"junvo/internal/profile"
	"junvo/internal/reading"
	"junvo/internal/table"
	"junvo/internal/value"
)

// The JSON of a profile. Its schema is docs/schemas/profile.schema.json.
type (
	profileJSON struct {
		Junvo   int          `json:"junvo"`
		Source  sourceJSON   `json:"source"`
		Columns []columnJSON `json:"columns"`
	}
	sourceJSON struct {
		Name      string            `json:"name"`
		Format    string            `json:"format"`
		Bytes     *int64            `json:"bytes"`
		Rows      int64             `json:"rows"`
		DataRows  int64             `json:"data_rows"`
		Encoding  string            `json:"encoding"`
		Delimiter string            `json:"delimiter"`
		Quote     string            `json:"quote"`
		HeaderRow *int64            `json:"header_row"`
		Decisions []table.Decision  `json:"decisions"`
		Findings  []profile.Finding `json:"findings"`
	}
	columnJSON struct {
		Name      string            `json:"name"`
		Position  int               `json:"position"`
		Cells     int64             `json:"cells"`
		Stored    map[string]int64  `json:"stored"`
		Reads     map[string]int64  `json:"reads"`
		Blanks    map[string]int64  `json:"blanks"`
		Suggest   suggestJSON       `json:"suggest"`
		Mixed     bool              `json:"mixed"`
		Strays    []strayJSON       `json:"strays"`
		Distinct  distinctJSON      `json:"distinct"`
		Private   bool              `json:"private"`
		Key       bool              `json:"key"`
		Constant  bool              `json:"constant"`
		CopyOf    *string           `json:"copy_of"`
		Smallest  *string           `json:"smallest"`
		Largest   *string           `json:"largest"`
		Sum       *string           `json:"sum"`
		Mean      *string           `json:"mean"`
		Quartiles []string          `json:"quartiles"`
		Estimated bool              `json:"quartiles_estimated"`
		Histogram []binJSON         `json:"histogram"`
		Lengths   lengthsJSON       `json:"lengths"`
		Shapes    []shapeJSON       `json:"shapes"`
		AllShapes bool              `json:"all_shapes"`
		Frequent  []frequentJSON    `json:"frequent"`
		Odd       []oddJSON         `json:"odd"`
		Findings  []profile.Finding `json:"findings"`
	}
	suggestJSON struct {
		Type        string             `json:"type"`
		Fits        int64              `json:"fits"`
		Fails       int64              `json:"fails"`
		DecimalMark *string            `json:"decimal_mark"`
		GroupMark   *string            `json:"group_mark"`
		DateOrder   *string            `json:"date_order"`
		Patterns    []string           `json:"patterns"`
		TimeWords   []string           `json:"time_words"` // their languages
		Unit        *string            `json:"unit"`
		Currency    *string            `json:"currency"`
		Percent     bool               `json:"percent"`
		BlankWords  []string           `json:"blank_words"`
		Evidence    []reading.Evidence `json:"evidence"`
		Why         string             `json:"why"`
	}
	strayJSON struct {
		Code  string `json:"code"`
		Name  string `json:"name"`
		Place string `json:"place"`
		Cells int64  `json:"cells"`
		Row   int64  `json:"row"`
	}
	lengthsJSON struct {
		Shortest int `json:"shortest"`
		Longest  int `json:"longest"`
	}
	binJSON struct {
		From  string `json:"from"`
		To    string `json:"to"`
		Cells int64  `json:"cells"`
	}
	shapeJSON struct {
		Shape   string `json:"shape"`
		Count   int64  `json:"count"`
		Row     int64  `json:"row"`
		Example string `json:"example"`
	}
	frequentJSON struct {
		Value string `json:"value"`
		Count int64  `json:"count"`
	}
	distinctJSON struct {
		Count int64   `json:"count"`
		Exact bool    `json:"exact"`
		Error float64 `json:"error"` // by which share the count may be off
	}
	oddJSON struct {
		File    string `json:"file,omitempty"` // where the source is several files
		Row     int64  `json:"row"`
		Line    int64  `json:"line"`
		Value   string `json:"value"`
		Reading string `json:"reading"`
	}
)

// ProfileJSON returns the profile of some columns for programs.
func ProfileJSON(p *profile.Profile, columns []*profile.ColumnProfile) ([]byte, error) {
	return encode(docOf(p, columns))
}

// ProfileInBrief returns the profile with no more of each list of a column than so many, and long texts cut.
func ProfileInBrief(p *profile.Profile, most, characters int) ([]byte, error) {
	brief := func(text string) string { return trim(text, characters) }
	doc := docOf(p, p.Columns)
	for i := range doc.Columns {
		c := &doc.Columns[i]
		c.AllShapes = c.AllShapes && len(c.Shapes) <= most
		c.Shapes, c.Odd = c.Shapes[:min(len(c.Shapes), most)], c.Odd[:min(len(c.Odd), most)]
		for k := range c.Shapes {
			c.Shapes[k].Shape, c.Shapes[k].Example = brief(c.Shapes[k].Shape), brief(c.Shapes[k].Example)
		}
		for k := range c.Odd {
			c.Odd[k].Value = brief(c.Odd[k].Value)
		}
		for k := range c.Frequent {
			c.Frequent[k].Value = brief(c.Frequent[k].Value)
		}
		c.Frequent, c.Strays = c.Frequent[:min(len(c.Frequent), most)], c.Strays[:min(len(c.Strays), most)]
	}
	return encode(doc)
}

func docOf(p *profile.Profile, columns []*profile.ColumnProfile) profileJSON {
	doc := profileJSON{Junvo: 1, Source: sourceOf(p), Columns: []columnJSON{}}
	for _, c := range columns {
		doc.Columns = append(doc.Columns, columnOf(p, c))
	}
	return doc
}

// encode writes JSON for people too, with one key a line. Characters that mean
// something in HTML are escaped.
func encode(doc any) ([]byte, error) {
	out, err := json.MarshalIndent(doc, "", "  ")
	return append(Printable(out), '\n'), err
}

// Printable writes the characters of a JSON text that do not print as escapes, which mean the same:
// a terminal would obey some of them, and a reader would not see others.
func Printable(doc []byte) []byte {
	odd := func(r rune) bool { return r >= 0x7f && !unicode.IsPrint(r) && !unicode.Is(unicode.Zs, r) }
	if bytes.IndexFunc(doc, odd) < 0 {
		return doc
	}
	out := make([]byte, 0, len(doc)+64)
	for len(doc) > 0 {
		r, n := utf8.DecodeRune(doc)
		switch {
		case !odd(r) || r == utf8.RuneError && n == 1:
			out = append(out, doc[:n]...)
		case r > 0xffff:
			a, b := utf16.EncodeRune(r)
			out = fmt.Appendf(out, "\\u%04x\\u%04x", a, b)
		default:
			out = fmt.Appendf(out, "\\u%04x", r)
		}
		doc = doc[n:]
	}
	return out
}

func sourceOf(p *profile.Profile) sourceJSON {
	i := p.Info
	s := sourceJSON{
		Name: i.Name, Format: i.Format, Rows: p.Rows, DataRows: p.Rows, Encoding: i.Encoding, Delimiter: i.Delimiter,
		Quote:     i.Quote,
		Decisions: list(i.Decisions), Findings: list(p.Findings),
	}
	for _, n := range p.Aside {
		s.DataRows -= n
	}
	if i.Bytes >= 0 {
		s.Bytes = &i.Bytes
	}
	if i.HeaderRow > 0 {
		s.HeaderRow = &i.HeaderRow
	}
	return s
}

// list makes an empty list of none, so that JSON has [] and not null.
func list[T any](s []T) []T {
	if s == nil {
		return []T{}
	}
	return s
}

func columnOf(p *profile.Profile, c *profile.ColumnProfile) columnJSON {
	done := c.Conclusion
	count, exact := c.Distinct()
	j := columnJSON{
		Name: c.Name, Position: c.Position, Cells: c.Column.Cells,
		Stored: map[string]int64{}, Reads: map[string]int64{}, Blanks: map[string]int64{},
		Suggest: suggestOf(c), Mixed: done.Mixed, Strays: []strayJSON{}, Distinct: distinctOf(count, exact),
		Private: c.Private(), Key: c.Key, Constant: c.Constant, CopyOf: optional(c.CopyOf),
		Smallest: optional(c.Range.Smallest), Largest: optional(c.Range.Largest), Sum: optional(c.Range.Sum),
		Odd: []oddJSON{}, Findings: list(c.Findings),
	}
	j.addDetails(p.Details(c))
	for s := range value.NumStored {
		j.Stored[s.String()] = c.Column.Stored[s]
	}
	for r := range reading.NumReadings {
		j.Reads[r.String()] = done.Reads[r]
	}
	for b := value.Missing; b < value.NumBlanks; b++ {
		j.Blanks[b.String()] = done.Blanks[b]
	}
	for _, s := range p.Strays(c) {
		j.Strays = append(j.Strays, strayJSON{"U+" + Hex(uint32(s.Rune), 4), s.Name, s.Place, s.Cells, s.Row})
	}
	for _, o := range p.Odd(c, maxOdd) {
		odd := oddJSON{Row: o.Where.Row, Line: o.Where.Line, Value: o.Text, Reading: o.Reading.String()}
		if len(p.Info.Files) > 1 {
			odd.File = o.Where.File
		}
		j.Odd = append(j.Odd, odd)
	}
	return j
}

func distinctOf(count int64, exact bool) distinctJSON {
	if exact {
		return distinctJSON{Count: count, Exact: true}
	}
	return distinctJSON{Count: count, Error: profile.DistinctError}
}

// addDetails adds what is known of a column that was opened.
func (j *columnJSON) addDetails(d *profile.Details) {
	j.Quartiles, j.Histogram, j.Shapes, j.Frequent = []string{}, []binJSON{}, []shapeJSON{}, []frequentJSON{}
	if d == nil {
		return
	}
	j.Mean, j.Quartiles, j.Estimated = optional(d.Mean), list(d.Quartiles), d.Estimated
	j.AllShapes = d.AllShapes
	j.Lengths = lengthsJSON{d.Shortest, d.Longest}
	for _, b := range d.Histogram {
		j.Histogram = append(j.Histogram, binJSON{b.From, b.To, b.Cells})
	}
	for _, s := range d.Shapes {
		j.Shapes = append(j.Shapes, shapeJSON{s.Shape, s.Cells, s.First.Row, s.Text})
	}
	for _, t := range d.Frequent {
		j.Frequent = append(j.Frequent, frequentJSON{t.Text, t.Cells})
	}
}

// maxOdd is how many odd cells of a column are listed.
const maxOdd = 20

func optional(s string) *string {
	if s == "" {
		return nil
	}
	return &s
}

func suggestOf(c *profile.ColumnProfile) suggestJSON {
	done, conv := c.Conclusion, &c.Conclusion.Convention
	s := suggestJSON{
		Type: conv.Type.String(), Fits: done.Fits, Fails: done.Fails, Patterns: list(c.Patterns()),
		BlankWords: list(c.BlankWords()), Evidence: list(done.Evidence), Why: done.Why,
	}
	if conv.Type.Numeric() {
		if conv.Known && reading.NeedsDecimalMark(c.Counts) {
			s.DecimalMark = optional(conv.Mark.String())
		}
		s.GroupMark = optional(conv.Group(c.Counts))
		switch {
		case conv.AffixKind.Any(reading.Currency):
			s.Currency = optional(conv.Affix)
		case conv.AffixKind.Any(reading.Percent | reading.PerMille):
			s.Percent = conv.AffixKind.Any(reading.Percent)
		default:
			s.Unit = optional(conv.Affix)
		}
	}
	if o, ok := conv.DateOrder(c.Counts); ok && (conv.Type == value.Date || conv.Type == value.Timestamp) {
		s.DateOrder = optional(o.String())
	}
	if s.TimeWords = conv.Terms(c.Counts).TimeWords; s.TimeWords == nil {
		s.TimeWords = []string{}
	}
	return s
}
