package value

// Stored is how the source itself stores a cell. In delimited text every cell is StoredText.
type Stored uint8

// The stored kinds.
const (
	StoredText Stored = iota
	StoredNumber
	StoredDate
	StoredBoolean
	StoredNull
	StoredError
	StoredSeveral // a record has several values for the cell; its text is all of them
	NumStored
)

var storedNames = [NumStored]string{"text", "number", "date", "boolean", "null", "error", "several"}

func (s Stored) String() string { return storedNames[s] }

// Blank is why a cell counts as blank.
type Blank uint8

// The blank kinds; NotBlank is the kind of every other cell.
const (
	NotBlank    Blank = iota
	Missing           // the row is too short
	Empty             // nothing between two delimiters
	QuotedEmpty       // ""
	Spaces            // white space only
	Invisible         // only characters that do not print
	Word              // a word that stands for blank, such as n/a
	Null              // a real null of a typed source
	NumBlanks
)

var blankNames = [NumBlanks]string{"", "missing", "empty", "quoted-empty", "spaces", "invisible", "word", "null"}

func (b Blank) String() string { return blankNames[b] }
