// Package report writes the page that a colleague opens: what a table holds and what became of it, in one HTML file
// that needs nothing else.
//
//	page := &report.Page{Sources: []*report.Source{{Profile: p, Ledger: ledger}}}
//	err := page.Write(w)
//
// The page has no script, font or style from elsewhere, and a policy in it that allows none; what its own small
// script adds (filter, search, sort) can be done without. It is the same, byte for byte, for the same sources.
package report

import (
	"bytes"
	"crypto/sha256"
	_ "embed" // for the files of the page
	"encoding/base64"
	"encoding/json"
	"html/template"
	"io"
	"strings"
	"sync"

	"junvo/internal/convert"
	"junvo/internal/draft"
	"junvo/internal/plan"
	"junvo/internal/profile"
	"junvo/internal/show"
)

// Page is what a report is made of.
type Page struct {
	Title   string    // the names of the sources
	Sources []*Source // one, or several that were looked at each by itself
	Again   []string  // the commands that make it again
}

// Source is what is told of one source.
type Source struct {
	Profile *profile.Profile // with all columns opened
	Plan    *plan.Bound      // nil where none has been run
	Text    []byte           // of the plan
	Ledger  *convert.Ledger  // nil where no plan has been run
	Written show.Written
	Drift   []draft.Difference
	Checked bool // whether the source was held against the plan
	Fits    bool // and whether it fits
	// Failures are the cells that failed, Around the rows set aside, with those around them; nil for none.
	Failures *Failures
	Around   *Around
}

// Failed adds a cell that failed.
func (s *Source) Failed(f convert.Failure) error {
	s.Failures.Add(&f)
	return nil
}

// SetAside adds a row that was set aside.
func (s *Source) SetAside(r convert.AsideRow) error {
	s.Around.Add(r)
	return nil
}

var (
	//go:embed page.html
	pageHTML string
	//go:embed colours.css
	coloursCSS string // and how pictures look
	//go:embed page.css
	pageCSS string
	//go:embed page.js
	pageJS string
)

// style and script are as they stand in the page: without what only their editors need.
var (
	style  = sync.OnceValue(func() string { return lean(coloursCSS + pageCSS) })
	script = sync.OnceValue(func() string { return lean(pageJS) })
)

// lean leaves out the space before the lines, and lines of comments.
func lean(text string) string {
	var b strings.Builder
	for line := range strings.Lines(text) {
		if line = strings.TrimLeft(line, " "); line != "\n" && !strings.HasPrefix(line, "// ") {
			b.WriteString(line)
		}
	}
	return b.String()
}

// pageTemplate is read when it is first used, since most runs of the program do without.
var pageTemplate = sync.OnceValue(func() *template.Template {
	return template.Must(template.New("page").Parse(pageHTML))
})

// view is what the template shows.
type view struct {
	Title   string
	Policy  string
	Style   template.CSS
	Script  template.JS
	Data    template.JS
	Again   []string
	Several bool
	Sources []*sourceView
}

// limits is how much of what there is of a column the page shows, and has as JSON.
type limits struct {
	lists int // how many of each list
	text  int // how many bytes a text takes at most
}

// rooms are those that are tried, one after the other, until the page is no longer than it may be.
var rooms = []limits{{8, 96}, {6, 72}, {4, 48}, {2, 36}, {1, 24}}

// mostBytes is how long a page may be beside its failures: 400,000 bytes up to 50 columns, and 8,000 for each column
// beyond.
func (p *Page) mostBytes() int {
	most := 0
	for _, s := range p.Sources {
		most += 8000 * max(50, len(s.Profile.Columns))
		if s.Failures != nil {
			most += 200 * len(s.Failures.all)
		}
	}
	return most
}

// Write writes the page. The error is that of w.
func (p *Page) Write(w io.Writer) error {
	var b bytes.Buffer
	for _, r := range rooms {
		b.Reset()
		if err := p.write(&b, r); err != nil {
			return err
		}
		if b.Len() <= p.mostBytes() {
			break
		}
	}
	_, err := w.Write(b.Bytes())
	return err
}

func (p *Page) write(w io.Writer, r limits) error {
	v := &view{
		Title: show.Visible(p.Title), Again: p.Again, Several: len(p.Sources) > 1,
		Style: template.CSS(style()), Script: template.JS(script()),
		// Of scripts and styles, the policy lets only these two run.
		Policy: "default-src 'none'; style-src '" + digest(style()) + "'; script-src '" + digest(script()) +
			"'; base-uri 'none'; form-action 'none'",
	}
	data, err := p.data(r)
	if err != nil {
		return err
	}
	v.Data = template.JS(data)
	for i, s := range p.Sources {
		v.Sources = append(v.Sources, (&viewer{s, r}).view(i))
	}
	return pageTemplate().Execute(w, v)
}

// digest is how a policy names a script or a style (Content Security Policy Level 3, 2.3.1).
func digest(text string) string {
	sum := sha256.Sum256([]byte(text))
	return "sha256-" + base64.StdEncoding.EncodeToString(sum[:])
}

// data returns what other programs read in the page: the profiles and the ledgers, in the forms that the commands
// print.
func (p *Page) data(r limits) (string, error) {
	type one struct {
		Profile json.RawMessage    `json:"profile"`
		Ledger  json.RawMessage    `json:"ledger"`
		Drift   []draft.Difference `json:"drift"`
	}
	var doc struct {
		Junvo   int   `json:"junvo"`
		Sources []one `json:"sources"`
	}
	doc.Junvo = 1
	for _, s := range p.Sources {
		o := one{Drift: s.Drift, Ledger: json.RawMessage("null")}
		var err error
		if o.Profile, err = show.ProfileInBrief(s.Profile, r.lists, r.text/2); err != nil {
			return "", err
		}
		if s.Ledger != nil {
			if o.Ledger, err = show.LedgerJSON(s.Ledger, s.Written); err != nil {
				return "", err
			}
		}
		doc.Sources = append(doc.Sources, o)
	}
	text, err := json.Marshal(doc) // which escapes < and >, so that nothing in it ends the element
	return string(show.Printable(text)), err
}

// IsReport reports whether a text is a page that this package has written.
func IsReport(text []byte) bool {
	return bytes.HasPrefix(text, []byte("<!doctype html>\n")) &&
		bytes.Contains(text[:min(len(text), 4000)], []byte(" – Junvo</title>"))
}
