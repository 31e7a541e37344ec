package report

import (
	"cmp"
	"html/template"
	"slices"
	"strconv"

	"junvo/internal/convert"
	"junvo/internal/show"
)

// DefaultFailures is how many failures a page lists unless it is told otherwise.
const DefaultFailures = 10_000

// Failures collects the cells that failed, up to a bound.
type Failures struct {
	max       int
	manyFiles bool
	left      int64 // beyond the bound
	all       []failure
}

// NewFailures begins a list of at most max failures; manyFiles says that each is to name its file.
func NewFailures(max int, manyFiles bool) *Failures { return &Failures{max: max, manyFiles: manyFiles} }

// failure is a line of the list. Value and detail are cut, so that a line of the page has at most 200 bytes.
type failure struct {
	column        int
	name          string
	Row, At       string
	Value, Detail string
	Reason        string
}

// The room of the parts of a line, in bytes of the page.
const (
	valueRoom  = 72
	detailRoom = 60
	placeRoom  = 24 // of the name of a file, which the detail has to make room for
)

// Add adds a failure. Failures come in the order of rows.
func (f *Failures) Add(x *convert.Failure) {
	if len(f.all) >= f.max {
		f.left++
		return
	}
	at, detail := cmp.Or(x.Address, strconv.FormatInt(x.Line, 10)), detailRoom
	if f.manyFiles {
		at, detail = fit(show.Visible(x.File), placeRoom)+":"+at, detailRoom-placeRoom
	}
	f.all = append(f.all, failure{
		column: x.Position(), name: show.Visible(x.Column), Row: strconv.FormatInt(x.Row, 10), At: at,
		Value: fit(show.Visible(x.Value), valueRoom), Detail: fit(show.Visible(x.Detail), detail), Reason: x.Reason.String(),
	})
}

// fit cuts a text that would take more than so many bytes of the page.
func fit(text string, room int) string {
	if len(text) <= room/6 { // whatever is escaped in it
		return text
	}
	used, end := 0, 0
	for i, r := range text {
		n := len(template.HTMLEscapeString(string(r)))
		if r == '+' { // the template escapes it, too
			n = 5
		}
		if used += n; used > room {
			return text[:end] + "…"
		}
		if used <= room-len("…") {
			end = i + len(string(r))
		}
	}
	return text
}

// failed is the failures of a column.
type failed struct {
	Column string
	Rows   []failure
}

// byColumn returns the failures column by column, in the order of rows in each.
func (f *Failures) byColumn() (all []failed) {
	at := map[int]int{}
	var order []int
	for _, x := range f.all {
		i, ok := at[x.column]
		if !ok {
			i = len(all)
			at[x.column] = i
			all = append(all, failed{Column: x.name})
			order = append(order, x.column)
		}
		all[i].Rows = append(all[i].Rows, x)
	}
	sorted := make([]failed, 0, len(all))
	slices.Sort(order)
	for _, column := range order {
		sorted = append(sorted, all[at[column]])
	}
	return sorted
}
