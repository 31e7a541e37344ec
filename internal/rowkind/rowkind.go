// Package rowkind tells rows of data from rows that are no data: blank ones, headings that are repeated, totals, notes,
// lines drawn with dashes, footers. Profiles and conversions ask it alike, so that a row which the one sets aside
// is set aside by the other.
//
//	r := rowkind.NewReader(names, nil, nil)
//	rowkind.Odd(block, r, func(row int, k rowkind.Kind) { … })
package rowkind

import (
	"bytes"
	"strings"
	"unicode/utf8"

	"junvo/internal/finding"
	"junvo/internal/reading"
	"junvo/internal/table"
	"junvo/internal/value"
)

// Kind is what a row of a table is: data, or something that is no data.
type Kind uint8

// The kinds of rows. All but Data may be set aside.
const (
	Data Kind = iota
	Blank
	RepeatedHeading
	SectionHeading
	Total
	Note
	Rule
	Long
	NamedTotal
	FullTotal
	BareTotal
	Summary
	SwappedHeading
	Footer
	Failed
	LeftOut
	Unclear
	NumKinds
)

// Entry describes one kind of row in the catalogue.
type Entry struct {
	Kind    Kind
	Name    string // as the reason in the file of rows set aside
	Plural  string // as findings and plans name it
	Say     string
	Finding finding.Kind // of such rows; None where they are none
}

// Catalogue is the catalogue of rows that may be set aside.
var Catalogue = [NumKinds]Entry{
	{Data, "data", "data", "A row of data.", finding.None},
	{Blank, "blank-row", "blank-rows", "Every cell of the row is blank.", finding.BlankRows},
	{
		RepeatedHeading, "repeated-heading", "repeated-headings", "The row repeats the names of the columns.",
		finding.RepeatedHeadings,
	},
	{SectionHeading, "section-heading", "section-headings", "One cell of text stands alone in the row: it heads what " +
		"follows.", finding.SectionHeadings},
	{Total, "total-row", "total-rows", "A word such as total stands at the start of the row, and numbers alone after " +
		"it: the row adds up others.", finding.TotalRows},
	{Note, "note", "notes", "One sentence of text stands alone in the row.", finding.Notes},
	{Rule, "rule-row", "rule-rows", "Every cell of the row is a line drawn with dashes, or blank: it separates the " +
		"rows around it.", finding.RuleRows},
	{Long, "long-row", "long-rows", "The row has more cells than the table has columns, so that its values may stand " +
		"in the wrong ones.", finding.LongRows},
	{NamedTotal, "named-total", "named-totals", "The row begins with a word such as total and has further words, and its " +
		"numbers are what the rows of the table add up to.", finding.NamedTotals},
	{FullTotal, "full-total", "full-totals", "The row begins with a word such as total, no cell is blank, and its " +
		"numbers are what the rows of the table add up to.", finding.FullTotals},
	{BareTotal, "bare-total", "bare-totals", "The last row, or one above a gap or a heading, has no word for totals, and its numbers " +
		"are what the rows of the table, or of the section, add up to.", finding.BareTotals},
	{Summary, "summary-row", "summary-rows", "The row begins with a word such as average, minimum or maximum, and its " +
		"numbers are those of the table.", finding.SummaryRows},
	{SwappedHeading, "swapped-heading", "swapped-headings", "The row has the names of the columns in another order: " +
		"below it the values stand in other columns.", finding.SwappedHeadings},
	{
		Footer, "footer", "footers", "The row is a comment, or says how many rows there are or where they are from.",
		finding.Footers,
	},
	{
		Failed, "failed-row", "failed-rows", "A cell of the row has failed, and the plan sets such rows aside.",
		finding.None,
	},
	{LeftOut, "left-out-row", "left-out-rows", "A condition of the plan, keep or drop, leaves the row out.", finding.None},
	{Unclear, "unclear-row", "unclear-rows", "A condition of the plan can't be worked out for the row.", finding.None},
}

// Doubtful reports whether rows of a kind may be data after all: where a table has many of
// them, or they do not add up, they are.
func (k Kind) Doubtful() bool {
	return k == SectionHeading || k == Note || k == Total || k.Adds()
}

// Adds reports whether rows of a kind are no data only where their numbers show it.
func (k Kind) Adds() bool {
	return k == NamedTotal || k == FullTotal || k == BareTotal || k == Summary
}

func (k Kind) String() string { return Catalogue[k].Name }

// IsTotal reports whether such a row adds up others.
func (k Kind) IsTotal() bool {
	return k == Total || k == NamedTotal || k == FullTotal || k == BareTotal
}

// totalWords begin rows that add up others.
var totalWords = strings.Fields(`total totals subtotal sub-total sum grand summe zwischensumme gesamt gesamtsumme insgesamt
somme sous-total totaal subtotaal totale subtotale totalt suma razem итого всего yhteensä celkem összesen toplam 合計 小計 总计 小计
gesamtergebnis summa samtals ukupno skupaj spolu ogółem łącznie kokku kopā σύνολο общо усього разом
jumlah المجموع إجمالي סה״כ कुल รวม 합계 총계 총합계 ทั้งหมด`)

// maybeTotalWords begin rows that may add up others: their numbers have to show it.
var maybeTotalWords = strings.Fields("sub overall σ ∑ ges zusammen ialt all alle tous todos")

// carriedWords begin rows that carry the sum of an earlier page on.
var carriedWords = strings.Fields("übertrag carried brought reporté riporto arrastre transport přenos")

// Carried reports whether a row with this text at its start carries a sum on.
func Carried(text []byte) bool {
	word, _, _ := bytes.Cut(bytes.TrimSpace(text), []byte(" "))
	return inWords(carriedWords, word)
}

// summaryWords begin rows that summarise others, each by itself.
var summaryWords = strings.Fields(`average avg mean median minimum maximum min max durchschnitt mittelwert mittel schnitt moyenne médiane media mediana
promedio gemiddelde medelvärde gennemsnit gjennomsnitt średnia среднее 平均`)

// originWords begin rows that say where a table is from, before a colon.
var originWords = strings.Fields("source sources updated generated exported created quelle stand fuente fonte " +
	"källa kilde bron")

// sumWords has what each word says of its row.
var sumWords = func() map[string]totalLabel {
	labels := map[string]totalLabel{}
	for _, list := range []struct {
		words []string
		label totalLabel
	}{{summaryWords, summary}, {carriedWords, withMore}, {maybeTotalWords, withMore}, {totalWords, onlyTotal}} {
		for _, w := range list.words {
			labels[w] = list.label
		}
	}
	return labels
}()

// noteWords begin rows that explain.
var noteWords = strings.Fields("note notes source sources remark remarks updated generated exported quelle hinweis " +
	"anmerkung legend end eof * ** -- // # †")

// Reader tells rows of data from others. It serves one goroutine.
type Reader struct {
	reader *reading.Reader
	names  [][]byte        // of the columns
	named  map[string]bool // the names
	starts [256]bool       // the first bytes of cells that need a closer look
	blanks [256]blankStart // whether a cell that begins with a byte may be blank
	titles titles
}

// NewReader returns a row reader for a table with columns of these names, below these lines. Words that stand for blank
// are added to the usual ones.
func NewReader(names []string, above []table.Line, blankWords []string) *Reader {
	r := &Reader{titles: titlesOf(above), reader: reading.NewReader(blankWords), named: map[string]bool{}, starts: oddStarts}
	for _, n := range names {
		r.names = append(r.names, []byte(n))
		r.named[n] = true
		r.starts[n[0]] = true
	}
	for _, b := range r.titles.firstBytes() {
		r.starts[b] = true
	}
	if len(names) == 1 {
		r.starts['('] = true // (60 rows) is no row of data even where no cell is blank
	}
	r.blanks = blankStarts
	for _, w := range blankWords {
		if w != "" {
			r.blanks[w[0]] = mayStand
		}
	}
	return r
}

// special reports whether a cell may say something of its row: it is the name of a column, a line, or begins as
// comments, totals and summaries do. It is true for every such cell that begins with a character that is seen.
func (r *Reader) special(column int, text []byte) bool {
	first := text[0]
	if !r.starts[first] {
		return false
	}
	return oddStarts[first] && (first == '#' || first == '-' || rule(text) || total(text) != noTotal) || first == '(' &&
		len(r.names) == 1 ||
		heads(text, r.names[column]) || r.titles.mayBegin(text) || r.named[string(bytes.TrimSpace(text))]
}

// blankStart is what the first byte of a cell tells of whether the cell is blank.
type blankStart uint8

const (
	isShown   blankStart = iota // it is not
	mayStand                    // it may be
	shownRune                   // it is not where the first character shows
)

// blankStarts are those of tables where no words stand for blank.
var blankStarts = func() (starts [256]blankStart) {
	for b := range starts {
		switch {
		case b <= ' ' || b == 0x7f:
			starts[b] = mayStand
		case b >= utf8.RuneSelf:
			starts[b] = shownRune
		}
	}
	return starts
}()

// mayBeBlank reports whether a cell may be blank. It is false for none that is.
func (r *Reader) mayBeBlank(cell []byte) bool {
	if len(cell) == 0 {
		return true
	}
	switch r.blanks[cell[0]] {
	case isShown:
		return false
	case shownRune:
		c, _ := utf8.DecodeRune(cell)
		return !reading.Shown(c)
	}
	return true
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

// Kind tells what a row is, by itself. cell returns the text of its cells; last says that no row
// follows it. Whether rows that may add others up do so is for the whole table to say.
func (r *Reader) Kind(cell func(column int) []byte, last bool) Kind {
	filled, rules, dashes, named, only, numbersOnly := 0, 0, 0, 0, -1, true
	same, firstIsNumber, longRule, anyNumber := true, false, false, 0
	var label totalLabel
	for c, name := range r.names {
		text := cell(c)
		same = same && heads(text, name)
		s := r.reader.Read(text).Set
		if s.Blank() != value.NotBlank {
			continue
		}
		switch {
		case rule(text):
			rules++
			longRule = longRule || len(bytes.TrimSpace(text)) > 2
		case string(bytes.TrimSpace(text)) == "--":
			dashes++
		}
		if r.named[string(bytes.TrimSpace(text))] {
			named++
		}
		number := s.Any(reading.Numbers)
		anyNumber += int(bit(number))
		if filled++; filled == 1 {
			only, label, firstIsNumber = c, total(text), number
		} else if !number {
			numbersOnly = false
		}
	}
	width := len(r.names)
	switch {
	case filled == 0 && width > 1:
		return Blank
	case same, len(r.titles.starts) > 0 && r.titles.has(cell, width, filled == width):
		return RepeatedHeading
	case filled == width && width > 1 && named == width && r.allNamed(cell):
		return SwappedHeading
	case rules > 0 && (rules == filled || longRule && rules+dashes == filled): // a column of two characters has two dashes
		return Rule
	case label != noTotal && filled > 1 && numbersOnly:
		return label.kind(filled == width)
	case label != noTotal && label != summary && anyNumber > 0:
		return NamedTotal // with words in other cells, too
	case comment(cell(0)) && 2*filled <= width && width > 1:
		return Footer
	case filled == 1 && width > 1 && footer(cell(only)):
		return Footer
	case filled == 1 && width == 1 && rowCount(cell(0)) && bracketed(cell(0)):
		return Footer
	case filled == 1 && width > 2 && !r.typed(cell(only)):
		return loneText(cell(only))
	case last && width > 1 && filled > 0 && filled < width && only > 0 && firstIsNumber && numbersOnly,
		last && width > 2 && filled > 2 && !firstIsNumber && numbersOnly:
		return BareTotal
	}
	return Data
}

func bit(b bool) uint8 {
	if b {
		return 1
	}
	return 0
}

// allNamed reports whether each name stands in the row once.
func (r *Reader) allNamed(cell func(column int) []byte) bool {
	seen := map[string]bool{}
	for c := range r.names {
		seen[string(bytes.TrimSpace(cell(c)))] = true
	}
	return len(seen) == len(r.names)
}

// comment reports whether text begins as comments do.
func comment(text []byte) bool {
	return len(text) > 1 && text[0] == '#' && (text[1] == ' ' || text[1] == '#')
}

// footer reports whether the only text of a row says something of the table: 60 rows, Source: ….
func footer(text []byte) bool {
	text = bytes.TrimSpace(text)
	word, _, _ := bytes.Cut(text, []byte(" "))
	return rowCount(text) || comment(text) || bytes.HasSuffix(word, []byte(":")) && inWords(originWords, word)
}

func bracketed(text []byte) bool {
	text = bytes.TrimSpace(text)
	return len(text) > 1 && text[0] == '(' && text[len(text)-1] == ')'
}

// typed reports whether a cell that stands alone is a value, or one that is damaged, rather than a heading.
func (r *Reader) typed(text []byte) bool {
	return r.reader.Read(text).Set.Any(reading.Numbers | reading.Dates | reading.ClockOnly | reading.CodeLike |
		reading.BlankWord | reading.DateNever | reading.DateOther | reading.ErrorValue)
}

// rowCount reports whether text is the number of rows, as in 1204 rows or (1204 rows affected),
// which might be an amount with a unit.
func rowCount(text []byte) bool {
	text = bytes.TrimSpace(text)
	if bracketed(text) {
		text = text[1 : len(text)-1]
	}
	fields := bytes.Fields(text)
	return len(fields) > 1 && len(fields) < 5 && len(bytes.Trim(fields[0], "0123456789.,'")) == 0 &&
		inWords(rowWords, fields[1])
}

// rowWords are words for rows and records.
var rowWords = strings.Fields("row rows record records zeile zeilen ligne lignes fila filas registros linhas righe " +
	"rijen rader")

func loneText(text []byte) Kind {
	text = bytes.TrimSpace(text)
	if bracketed(text) {
		return Note
	}
	word, _, _ := bytes.Cut(text, []byte(" "))
	if inWords(noteWords, word) || len(text) > 60 || bytes.HasSuffix(text, []byte(".")) {
		return Note
	}
	return SectionHeading
}

// oddStarts are the first bytes of words for totals and summaries, in either case, of lines drawn
// with dashes, of comments, and of cells with spaces before any.
var oddStarts = func() (starts [256]bool) {
	for _, words := range [][]string{totalWords, maybeTotalWords, carriedWords, summaryWords} {
		for _, w := range words {
			starts[w[0]], starts[strings.ToUpper(w)[0]] = true, true
		}
	}
	for _, r := range " -=_~+:#\u2500" {
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

// totalLabel is what a text says of its row, if that may add up or summarise others.
type totalLabel uint8

const (
	noTotal   totalLabel = iota
	onlyTotal            // Total, Grand total:, Summe 2021
	withMore             // Total Quay North
	summary              // Average, Maximum
)

// kind returns the kind of a row with the label and nothing but numbers after it.
func (l totalLabel) kind(full bool) Kind {
	switch {
	case l == summary:
		return Summary
	case l == withMore:
		return NamedTotal
	case full:
		return FullTotal
	}
	return Total
}

// total tells whether text begins with a word for totals or summaries.
func total(text []byte) totalLabel {
	text = bytes.TrimSpace(text)
	word := text
	for i, b := range text {
		if b == ' ' || b == ':' || b == 0xc2 && bytes.HasPrefix(text[i:], []byte("\u00a0")) {
			word = text[:i]
			break
		}
	}
	label := labelOf(word)
	switch label {
	case onlyTotal:
		for _, more := range bytes.FieldsFunc(text[len(word):], func(r rune) bool {
			return r == ' ' || r == ':' ||
				r == '\u00a0'
		}) {
			if labelOf(more) != onlyTotal && len(bytes.Trim(more, "0123456789")) > 0 {
				return withMore
			}
		}
	case summary:
		if len(bytes.TrimRight(text, ":. ")) != len(bytes.TrimRight(word, ":.")) {
			return noTotal
		}
	}
	return label
}

// labelOf returns what a word says of its row, without regard to case.
func labelOf(word []byte) totalLabel {
	word = bytes.TrimRight(word, ":.")
	var lower [32]byte
	if len(word) > len(lower) {
		return noTotal
	}
	for i, b := range word {
		switch {
		case b >= utf8.RuneSelf:
			return sumWords[strings.ToLower(string(word))]
		case b >= 'A' && b <= 'Z':
			b |= 0x20
		}
		lower[i] = b
	}
	return sumWords[string(lower[:len(word)])]
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
