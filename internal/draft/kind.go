package draft

// Kind is a way in which a source can be other than it was. The zero Kind is none.
type Kind uint8

// The kinds of drift.
const (
	noKind Kind = iota
	ColumnMissing
	ColumnNew
	ColumnMoved
	TypeChanged
	ConventionChanged
	ExampleBroken
	BlankWordsNew
	RowsMoved
	ShapesNew
	OddMoved
	BlanksMoved
	RangeWidened
	numKinds
)

// Entry describes one kind of drift in the catalogue.
type Entry struct {
	Kind  Kind
	Name  string
	Say   string
	Unfit bool // whether a source in which it is found does not fit the plan
}

// Catalogue is the catalogue of drift, the more important kinds first.
var Catalogue = [numKinds]Entry{
	{},
	{ColumnMissing, "column-missing", "The plan reads a column that the source does not have.", true},
	{ColumnNew, "column-new", "The source has a column that the plan does not read.", false},
	{ColumnMoved, "column-moved", "The columns stand in another order than the plan has them.", false},
	{TypeChanged, "type-changed", "What the column holds now would be another type.", true},
	{ConventionChanged, "convention-changed", "The column is written under another convention: decimal mark, order of " +
		"dates, unit, currency.", true},
	{ExampleBroken, "example-broken", "The cells of an example that the plan has give another value than it shows.", true},
	{BlankWordsNew, "blank-words-new", "Words stand for blank that did not before.", true},
	{RowsMoved, "rows-moved", "The share of rows that are no data, and are set aside, has moved by more than five " +
		"points of a hundred.", true},
	{ShapesNew, "shapes-new", "Cells have shapes that there were not before.", false},
	{OddMoved, "odd-moved", "The share of cells that do not fit has moved by more than five points of a hundred.", false},
	{BlanksMoved, "blanks-moved", "The share of blank cells has moved by more than five points of a hundred.", false},
	{RangeWidened, "range-widened", "Values are smaller or larger than all were before.", false},
}

func (k Kind) String() string { return Catalogue[k].Name }

// MarshalText implements [encoding.TextMarshaler].
func (k Kind) MarshalText() ([]byte, error) { return []byte(k.String()), nil }

// Difference is something in which a source is other than a plan expects, or than it was before.
type Difference struct {
	Kind   Kind   `json:"name"`
	Column string `json:"column"`
	Say    string `json:"say"`
}

// Fits decides whether a source fits a plan: no drift that matters, or none at all where strict says so, and no
// more failures among the cells that are not blank than the share allows.
func Fits(found []Difference, failed, cells int64, allowed float64, strict bool) bool {
	for _, d := range found {
		if strict || Catalogue[d.Kind].Unfit {
			return false
		}
	}
	return float64(failed) <= allowed*float64(cells)
}
