package reading

import (
	"bytes"
	"strings"
	"unicode/utf8"

	"junvo/internal/value"
)

// RowKind is what a row of a table is: data, or something that is no data.
type RowKind uint8

// The kinds of rows. All but Data may be set aside.
const (
	Data RowKind = iota
	BlankRow
	RepeatedHeading
	SectionHeading
	TotalRow
	NoteRow
	RuleRow
	LongRow
	FailedRow
	LeftOutRow
	NumRowKinds
)

// RowEntry describes one kind of row in the catalogue.
type RowEntry struct {
	Kind    RowKind
	Name    string // as the reason in the file of rows set aside
	Plural  string // as findings and plans name it
	Say     string
	Finding bool // whether it is a finding of its own name
}

// RowKinds is the catalogue of rows that may be set aside.
var RowKinds = [NumRowKinds]RowEntry{
	{Data, "data", "data", "A row of data.", false},
	{BlankRow, "blank-row", "blank-rows", "Every cell of the row is blank.", true},
	{RepeatedHeading, "repeated-heading", "repeated-headings", "The row repeats the names of the columns.", true},
	{SectionHeading, "section-heading", "section-headings", "One cell of text stands alone in the row: it heads what follows.", true},
	{TotalRow, "total-row", "total-rows", "The row begins with a word such as total and holds numbers only: it adds up others.", true},
	{NoteRow, "note", "notes", "One sentence of text stands alone in the row.", true},
	{RuleRow, "rule-row", "rule-rows", "Every cell of the row is a line drawn with dashes, or blank: it separates the rows around it.", true},
	{LongRow, "long-row", "long-rows", "The row has more cells than the table has columns, so that its values may stand in the wrong ones.", true},
	{FailedRow, "failed-row", "failed-rows", "A cell of the row has failed, and the plan sets such rows aside.", false},
	{LeftOutRow, "left-out-row", "left-out-rows", "A condition of the plan, keep or drop, leaves the row out.", false},
}

func (k RowKind) String() string { return RowKinds[k].Name }

// totalWords begin rows that add up others.
var totalWords = strings.Fields(`total totals subtotal sub-total sum grand summe zwischensumme gesamt gesamtsumme insgesamt
somme sous-total totaal subtotaal totale subtotale totalt suma razem итого всего yhteensä celkem összesen toplam 合計 小計 总计 小计`)

// noteWords begin rows that explain.
var noteWords = strings.Fields("note notes source sources remark remarks quelle hinweis anmerkung legend end eof * ** -- // # †")

// RowReader tells rows of data from others. It serves one goroutine.
type RowReader struct {
	reader *Reader
	names  [][]byte
}

// NewRowReader returns a row reader for a table with columns of these names.
func NewRowReader(names []string, blankWords []string) *RowReader {
	r := &RowReader{reader: NewReader(blankWords)}
	for _, n := range names {
		r.names = append(r.names, []byte(n))
	}
	return r
}

// Suspect reports whether a row needs a closer look, given its first cell and how
// many of its cells are empty (0 will do where none of the first half is). It is
// quick, and true for every row that Kind does not call data.
func (r *RowReader) Suspect(first []byte, empty int) bool {
	width := len(r.names)
	if 2*empty >= width && empty > 0 || heads(first, r.names[0]) {
		return true
	}
	return len(first) > 2 && oddStarts[first[0]] && (total(first) || rule(first))
}

// Usual reports whether the first cell of a row, which is not empty, is unlike those of rows
// that are no data. It is quicker than Suspect, and false wherever that looks closer.
func (r *RowReader) Usual(first []byte) bool {
	name := r.names[0]
	return (len(first) < len(name) || first[0] != name[0] || first[len(name)-1] != name[len(name)-1]) && !oddStarts[first[0]]
}

// heads reports whether a cell of the heading may have given a column its name: it is the
// name, or the name has got a number because another column has it, or there was none.
func heads(cell, name []byte) bool {
	cell = bytes.TrimSpace(cell)
	rest, ok := bytes.CutPrefix(name, cell)
	if !ok || len(rest) == 0 {
		return ok
	}
	if len(cell) == 0 {
		rest, ok = bytes.CutPrefix(rest, []byte("column "))
	} else if ok = bytes.HasPrefix(rest, []byte(" (")) && bytes.HasSuffix(rest, []byte(")")); ok {
		rest = rest[2 : len(rest)-1]
	}
	return ok && len(bytes.Trim(rest, "0123456789")) == 0
}

// Kind tells what a row is. cell returns the text of its cells.
func (r *RowReader) Kind(cell func(column int) []byte) RowKind {
	filled, rules, only, numbersOnly := 0, 0, -1, true
	same := true
	var isTotal bool
	for c, name := range r.names {
		text := cell(c)
		same = same && heads(text, name)
		s := r.reader.Read(text).Set
		if s.Blank() != value.NotBlank {
			continue
		}
		if rule(text) {
			rules++
		}
		if filled++; filled == 1 {
			only, isTotal = c, total(text)
		} else if !s.Any(numbers) {
			numbersOnly = false
		}
	}
	width := len(r.names)
	switch {
	case filled == 0 && width > 1:
		return BlankRow
	case same:
		return RepeatedHeading
	case filled > 0 && rules == filled:
		return RuleRow
	case isTotal && filled > 1 && filled < width && numbersOnly:
		return TotalRow
	case filled == 1 && width > 2 && (rowCount(cell(only)) || !r.typed(cell(only))):
		return loneText(cell(only))
	}
	return Data
}

// typed reports whether a cell that stands alone is a value rather than a heading.
func (r *RowReader) typed(text []byte) bool {
	return r.reader.Read(text).Set.Any(numbers | dates | ClockOnly | CodeLike | BlankWord)
}

// rowCount reports whether text is the number of rows in parentheses, as in (1204 rows), which
// might be an amount with a unit.
func rowCount(text []byte) bool {
	text, open := bytes.CutPrefix(bytes.TrimSpace(text), []byte("("))
	text, closed := bytes.CutSuffix(text, []byte(")"))
	fields := bytes.Fields(text)
	return open && closed && len(fields) > 1 && inWords(rowWords, fields[1])
}

// rowWords are words for rows and records.
var rowWords = strings.Fields("row rows record records zeile zeilen ligne lignes fila filas registros linhas righe rijen rader")

func loneText(text []byte) RowKind {
	text = bytes.TrimSpace(text)
	if len(text) > 1 && text[0] == '(' && text[len(text)-1] == ')' {
		return NoteRow // such as (1204 rows affected)
	}
	word, _, _ := bytes.Cut(text, []byte(" "))
	if inWords(noteWords, word) || len(text) > 60 || bytes.HasSuffix(text, []byte(".")) {
		return NoteRow
	}
	return SectionHeading
}

// oddStarts are the first bytes of words for totals, in either case, of lines drawn with
// dashes, and of cells with spaces before either.
var oddStarts = func() (starts [256]bool) {
	for _, w := range totalWords {
		starts[w[0]], starts[strings.ToUpper(w)[0]] = true, true
	}
	for _, r := range " -=_~+:\u2500" {
		starts[string(r)[0]] = true
	}
	return starts
}()

// rule reports whether text is a line drawn with dashes, or with the lines and crossings of
// the Unicode block Box Drawing.
func rule(text []byte) bool {
	dashes, n := 0, 0
	for len(text) > 0 {
		r, size := utf8.DecodeRune(text)
		switch {
		case r == '-' || r == '=' || r == '_' || r == '~' || r >= 0x2500 && r <= 0x257f:
			dashes++
		case r != '+' && r != ':' && r != ' ':
			return false
		}
		n++
		text = text[size:]
	}
	return n > 2 && dashes > 1
}

// total reports whether text begins with a word for totals.
func total(text []byte) bool {
	text = bytes.TrimSpace(text)
	if i := bytes.IndexAny(text, " :\u00a0"); i >= 0 {
		text = text[:i]
	}
	return len(text) <= 32 && inWords(totalWords, text)
}

func inWords(words []string, word []byte) bool {
	word = bytes.TrimRight(word, ":.")
	for _, w := range words {
		if len(w) <= len(word)+2 && strings.EqualFold(w, string(word)) {
			return true
		}
	}
	return false
}
