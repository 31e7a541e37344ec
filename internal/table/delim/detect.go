package delim

import (
	"bytes"
	"fmt"
	"regexp"
	"slices"
	"strings"

	"junvo/internal/table"
)

// Options are what the user says about a file; zero values leave it to detection.
type Options struct {
	Encoding  string
	Delimiter string
	Quote     string // "none" for no quotes
	Escape    string // "backslash"
	HeaderRow int    // the line of the header; 0 to detect, -1 for none
	Comment   string // what lines begin with that are comments; "" for none
	Widths    []int  // of columns of fixed width, in characters; nil where cells are delimited
}

// sampleSize is how much of a file's start is looked at to decide about it.
const sampleSize = 256 << 10

// sampleRows is how many rows of it are taken apart for every candidate delimiter.
const sampleRows = 400

// layout is what has been decided about a file.
type layout struct {
	dialect   Dialect
	names     []string
	above     []table.Line
	headerRow int64
	body      int // where the first row starts in the sample
	bodyLine  int64
	decisions []table.Decision
	notes     []table.Note
	one       candidate // the best delimiter that is one inside the texts of one column
}

// decide notes a decision, in place of one about the same before.
func (l *layout) decide(what, value, format string, args ...any) {
	l.decisions = slices.DeleteFunc(l.decisions, func(d table.Decision) bool { return d.What == what })
	l.decisions = append(l.decisions, table.Decision{What: what, Value: value, Why: fmt.Sprintf(format, args...)})
}

// detect decides dialect and header from the start of a file, in UTF-8.
func detect(sample []byte, whole bool, o Options) (*layout, error) {
	l := &layout{dialect: Dialect{Quote: '"', Escape: '"', EOL: '\n'}}
	l.eol(sample)
	if err := l.quote(sample, o); err != nil {
		return nil, err
	}
	if !whole {
		// The last line is cut off; where there is no other, it is all there is.
		if end := bytes.LastIndexByte(sample, l.dialect.EOL) + 1; end > 0 {
			sample = sample[:end]
		}
	}
	if err := l.delimiter(sample, o); err != nil {
		return nil, err
	}
	if widths := aligned(sample); widths != nil && o.Widths == nil && o.Delimiter == "" &&
		l.dialect.Delimiter == noDelimiter {
		l.decide("alignment", "columns", "the lines look like columns of fixed width: --widths %s reads them so",
			widthsText(widths))
	}
	l.plainQuotes(sample, o)
	rows := l.dialect.sample(sample, sampleRows)
	if n := commentsSeen(rows); n > 0 && o.Comment == "" {
		l.decide("comments", "seen", "%s with # and a space: --comment # takes them for comments", beginSo(n))
	}
	l.lineEnds(sample, rows)
	if err := l.header(sample, rows, o); err != nil {
		return nil, err
	}
	comments := commentsAbove(sample[:l.body], l.dialect.EOL)
	if l.headerRow == 0 && o.HeaderRow >= 0 {
		comments = l.namesInComment(comments, o, usualWidth(rows))
	}
	if o.HeaderRow > 0 && l.headerRow == 0 {
		return nil, optionError("no row starts in line %d, where the header was said to be", o.HeaderRow)
	}
	l.above = append(comments, l.above...)
	slices.SortStableFunc(l.above, func(a, b table.Line) int { return int(a.Number - b.Number) })
	return l, nil
}

// eol decides on the carriage return where it ends most lines, and no line feed
// comes with it.
func (l *layout) eol(sample []byte) {
	feeds := bytes.Count(sample, []byte{'\n'})
	if returns := bytes.Count(sample, []byte{'\r'}) - bytes.Count(sample, []byte("\r\n")); returns > 4*feeds {
		l.dialect.EOL = '\r'
	}
}

// lineEnds says which line ends the rows of the sample have.
func (l *layout) lineEnds(sample []byte, rows []sampleRow) {
	crlf, other := 0, 0
	for _, r := range rows {
		switch end := sample[:r.end]; {
		case bytes.HasSuffix(end, []byte("\r\n")):
			crlf++
		case bytes.HasSuffix(end, []byte{l.dialect.EOL}):
			other++
		}
	}
	name := map[byte]string{'\n': "LF", '\r': "CR"}[l.dialect.EOL]
	switch {
	case crlf > 0 && other > 0:
		l.decide("line ends", "mixed", "%d of the first %d rows end with CRLF, %d with LF", crlf, len(rows), other)
	case crlf > 0:
		l.decide("line ends", "CRLF", "%s", endSo(crlf))
	case other > 0:
		l.decide("line ends", name, "%s", endSo(other))
	}
}

// Whole cells in quotes, whatever the delimiter will be.
var (
	singleQuoted = regexp.MustCompile(`(?m)(?:^|[,;\t|])'(?:[^'\r\n]|'')*'(?:[,;\t|]|\r?$)`)
	doubleQuoted = regexp.MustCompile(`(?m)(?:^|[,;\t|])"(?:[^"\r\n]|"")*"(?:[,;\t|]|\r?$)`)
)

// quoteSample is how many bytes are looked at for quotes.
const quoteSample = 8 << 10

// minQuoted is how many cells in single quotes it takes to believe in them.
const minQuoted = 3

func beginSo(lines int) string {
	if lines == 1 {
		return "1 line begins"
	}
	return fmt.Sprintf("%d lines begin", lines)
}

func endSo(rows int) string {
	if rows == 1 {
		return "the first row ends so"
	}
	return fmt.Sprintf("the first %d rows end so", rows)
}

func (l *layout) quote(sample []byte, o Options) error {
	d := &l.dialect
	switch {
	case o.Quote == "none":
		d.Quote, d.Escape = 0, 0
	case len(o.Quote) == 1:
		d.Quote, d.Escape = o.Quote[0], o.Quote[0]
	case o.Quote != "":
		return optionError("the quote must be one ASCII character or the word none, not %q", o.Quote)
	default:
		part := sample[:min(len(sample), quoteSample)]
		single, double := len(singleQuoted.FindAll(part, -1)), len(doubleQuoted.FindAll(part, -1))
		if single >= minQuoted && double == 0 {
			d.Quote, d.Escape = '\'', '\''
			l.decide("quote", "'", "%d cells of the first lines stand in it, and none in \"", single)
		} else if double > 0 {
			l.decide("quote", "\"", "%d cells of the first lines stand in it", double)
		}
	}
	if o.Quote != "" {
		l.decide("quote", o.Quote, "as told")
	}
	switch o.Escape {
	case "":
		doubled := bytes.Count(sample, []byte{d.Quote, d.Quote}) - emptyQuoted(sample, d.Quote)
		backslash := escapedQuotes(sample, d.Quote)
		if d.Quote != 0 && backslash > 0 && backslash > doubled {
			d.Escape = '\\'
			l.decide("quote escape", "backslash", "%d quotes follow a backslash, %d are doubled", backslash, doubled)
		}
	case "double":
		d.Escape = d.Quote
	case "backslash":
		d.Escape = '\\'
	default:
		return optionError("the escape must be double or backslash, not %q", o.Escape)
	}
	return nil
}

// emptyQuoted counts the cells that have nothing between their quotes.
func emptyQuoted(sample []byte, quote byte) (n int) {
	edge := func(at int) bool {
		return at < 0 || at >= len(sample) || bytes.IndexByte([]byte(usualDelimiters+"\r\n"), sample[at]) >= 0
	}
	for i := 0; i+1 < len(sample); i++ {
		if sample[i] == quote && sample[i+1] == quote && edge(i-1) && edge(i+2) {
			n++
		}
	}
	return n
}

// escapedQuotes counts the quotes after a backslash that do not end a cell: "C:\\temp\\" has none.
func escapedQuotes(sample []byte, quote byte) (n int) {
	for {
		i := bytes.Index(sample, []byte{'\\', quote})
		if i < 0 {
			return n
		}
		if sample = sample[i+2:]; len(sample) > 0 && !bytes.ContainsRune([]byte(usualDelimiters+"\r\n"), rune(sample[0])) {
			n++
		}
	}
}

// noDelimiter is the delimiter of files with one column: a byte that no text in
// UTF-8 has.
const noDelimiter = 0xff

var delimiterNames = map[byte]string{
	noDelimiter: "none", '\t': "tab", ' ': "space", 0x1f: "unit separator",
	0x01: "U+0001",
}

func delimiterName(b byte) string {
	if n, ok := delimiterNames[b]; ok {
		return n
	}
	return string(b)
}

// parseDelimiter reads a delimiter as a user writes it.
func parseDelimiter(s string) (byte, error) {
	for b, n := range delimiterNames {
		if n == s {
			return b, nil
		}
	}
	if s == `\t` {
		return '\t', nil
	}
	if len(s) != 1 || s[0] >= 0x80 || s[0] == '\n' || s[0] == '\r' || s[0] == '"' {
		return 0, optionError("the delimiter must be one ASCII character, the word tab or the word spaces, not %q", s)
	}
	return s[0], nil
}

// The candidates: what most files use, and what is tried only where none of those fits.
const (
	usualDelimiters = ",;\t|"
	otherDelimiters = "\x1f\x01~^:!# "
)

func (l *layout) delimiter(sample []byte, o Options) error {
	if o.Delimiter != "" {
		b, err := parseDelimiter(o.Delimiter)
		if err != nil {
			return err
		}
		l.dialect.Delimiter = b
		l.decide("delimiter", delimiterName(b), "as told")
		return nil
	}
	if d, ok := declared(sample); ok {
		l.dialect.Delimiter = d
		l.decide("delimiter", delimiterName(d), "the first line declares it")
		return nil
	}
	l.one = candidate{}
	best, found := l.bestOf(usualDelimiters, sample)
	if !found || best.share < 0.6 {
		if other, ok := l.bestOf(otherDelimiters, sample); ok && other.share > 0.9 && other.rows > 2 &&
			other.score > best.score {
			best, found = other, true
		}
	}
	if !found {
		l.dialect.Delimiter = noDelimiter
		l.decide("delimiter", "none", "no character separates the lines into equal rows: one column")
		if l.one.fit > 0 {
			l.doubtColumns(l.one, true)
		}
		return nil
	}
	if best.untitled {
		l.doubtColumns(best, false)
	}
	l.dialect.Delimiter = best.delimiter
	l.decide("delimiter", delimiterName(best.delimiter), "%d of the first %d rows have %d cells with it", best.fit,
		best.rows, best.width)
	return nil
}

// declared reads a first line such as sep=; which spreadsheets understand.
func declared(sample []byte) (byte, bool) {
	line, _, _ := bytes.Cut(sample, []byte{'\n'})
	line = bytes.Trim(line, "\r\"")
	if len(line) == 5 && strings.EqualFold(string(line[:4]), "sep=") {
		return line[4], true
	}
	return 0, false
}

type candidate struct {
	delimiter        byte
	width, fit, rows int
	share, score     float64
	untitled         bool // the first line has no delimiter
}

func (l *layout) bestOf(delimiters string, sample []byte) (candidate, bool) {
	var best candidate
	for i := range len(delimiters) {
		c, ok := l.try(delimiters[i], sample)
		if ok && c.score > best.score {
			best = c
		}
	}
	return best, best.score > 0
}

// try takes the sample apart with a delimiter and says how even the rows are.
func (l *layout) try(delimiter byte, sample []byte) (candidate, bool) {
	d := l.dialect
	d.Delimiter = delimiter
	rows := d.sample(sample, sampleRows)
	c := candidate{delimiter: delimiter}
	widths := map[int]int{}
	for _, r := range rows {
		if !r.blank() {
			widths[len(r.cells)]++
			c.rows++
		}
	}
	for w, n := range widths {
		if w > 1 && (n > c.fit || n == c.fit && w > c.width) {
			c.width, c.fit = w, n
		}
	}
	if c.width < 2 {
		return c, false
	}
	if delimiter == ' ' && (c.width < 3 || len(rows[0].cells) != c.width) {
		return c, false // spaces in names, or before a unit
	}
	if (delimiter == ',' || delimiter == ':') && betweenDigits(rows, c.width) {
		return c, false
	}
	c.share = float64(c.fit) / float64(c.rows)
	if c.width == 2 && c.share < 0.6 || c.share < 0.25 {
		return c, false // now and then a character of the text
	}
	c.score = c.share * (1 - 1/float64(c.width))
	if oneColumn(rows, c) {
		if c.score > l.one.score {
			l.one = c
		}
		return c, false
	}
	c.untitled = len(rows[0].cells) == 1 && !rows[0].blank()
	return c, true
}

// betweenDigits reports whether a comma is a decimal comma, or a colon stands in
// times: the first row has none, and elsewhere it stands between digits.
func betweenDigits(rows []sampleRow, width int) bool {
	if width > 4 || len(rows) < 2 || len(rows[0].cells) > 1 {
		return false
	}
	joints, digits := 0, 0
	for _, r := range rows {
		for i := 1; i < len(r.cells); i++ {
			a, b := r.cells[i-1], r.cells[i]
			joints++
			if a != "" && b != "" && isDigit(a[len(a)-1]) && isDigit(b[0]) {
				digits++
			}
		}
	}
	return joints > 0 && 10*digits >= 9*joints
}

func isDigit(b byte) bool { return b >= '0' && b <= '9' }

// plainQuotes decides that quotes in text between tabs are characters like any other, where no cell
// stands in them and the rows are more even so: inches, and what people are called.
func (l *layout) plainQuotes(sample []byte, o Options) {
	d := &l.dialect
	if d.Delimiter != '\t' || o.Quote != "" || d.Quote != '"' || bytes.IndexByte(sample, '"') < 0 ||
		doubleQuoted.Match(sample) {
		return
	}
	plain := *d
	plain.Quote, plain.Escape = 0, 0
	if with, without := d.even(sample), plain.even(sample); without >= with {
		*d = plain
		l.decide("quote", "none", "no cell of the first lines stands in quotes: they are characters like any other")
	}
}

// even counts the rows of the sample that have the usual width.
func (d *Dialect) even(sample []byte) (n int) {
	rows := d.sample(sample, sampleRows)
	width := usualWidth(rows)
	for _, r := range rows {
		if len(r.cells) == width {
			n++
		}
	}
	return n
}

// sampleRow is a row of the sample, taken apart.
type sampleRow struct {
	cells []string
	line  int64 // counted from 1
	start int   // where its text starts
	end   int   // and where the next row's does
}

func (r sampleRow) blank() bool { return r.filled() == 0 }

func (r sampleRow) filled() (n int) {
	for _, c := range r.cells {
		if strings.TrimSpace(c) != "" {
			n++
		}
	}
	return n
}

// sample takes up to max rows of text apart. The last row's end may be the text's.
func (d *Dialect) sample(text []byte, max int) []sampleRow {
	text = text[:nthLine(text, d.EOL, 4*max)]
	b := &table.Block{Text: text}
	d.Split(b) // with a width of 0, all cells are extra
	rows := make([]sampleRow, len(b.Extra))
	for i, e := range b.Extra {
		r := &rows[i]
		r.line, r.end = b.Line(e.Row)+1, len(text)
		if i > 0 {
			r.start = int(e.Spans[0].Start)
			if e.Spans[0].N&table.Quoted != 0 {
				r.start = bytes.LastIndexByte(text[:r.start-1], d.EOL) + 1
			}
			rows[i-1].end = r.start
		}
		for _, s := range e.Spans {
			r.cells = append(r.cells, string(b.At(s)))
		}
	}
	rows = rows[:min(max, len(rows))]
	return slices.DeleteFunc(rows, func(r sampleRow) bool { return len(r.cells) > 0 && isComment([]byte(r.cells[0])) })
}

// nthLine returns where the nth line ends.
func nthLine(text []byte, eol byte, n int) int {
	at := 0
	for range n {
		i := bytes.IndexByte(text[at:], eol)
		if i < 0 {
			return len(text)
		}
		at += i + 1
	}
	return at
}
