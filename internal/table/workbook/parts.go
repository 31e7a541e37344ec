package workbook

import (
	"encoding/xml"
	"strconv"
	"strings"
	"unicode/utf16"
	"unicode/utf8"
)

// readShared reads the texts that cells share. A text may have runs of its own look,
// which are one text here, and phonetic runs, which do not belong to it.
func (b *book) readShared(part string) error {
	size := 0
	return b.tokens(part, func(d *decoder) error {
		for {
			start, err := d.start()
			if start == nil {
				return err
			}
			if start.Name.Local != "si" {
				continue
			}
			text, err := d.richText("si")
			if err != nil {
				return err
			}
			if size += len(text) + 16; size > maxStrings {
				return ErrTooLarge
			}
			b.shared = append(b.shared, text)
		}
	})
}

// richText returns the text up to the end of an element: all of its t elements, except for
// those in phonetic runs.
func (d *decoder) richText(end string) (string, error) {
	var text strings.Builder
	inText, phonetic := false, 0
	for {
		t, err := d.RawToken()
		if err != nil {
			return "", err
		}
		switch t := t.(type) {
		case xml.StartElement:
			inText = t.Name.Local == "t"
			if t.Name.Local == "rPh" {
				phonetic++
			}
		case xml.EndElement:
			inText = false
			switch t.Name.Local {
			case end:
				return unescape(text.String()), nil
			case "rPh":
				phonetic--
			}
		case xml.CharData:
			if inText && phonetic == 0 {
				text.Write(t)
			}
		}
	}
}

// unescape reads _x000D_ and the like, by which the format writes characters that XML
// can't have.
func unescape(s string) string {
	at := strings.Index(s, "_x")
	if at < 0 {
		return s
	}
	var b strings.Builder
	for ; at >= 0; at = strings.Index(s, "_x") {
		b.WriteString(s[:at])
		if len(s) >= at+7 && s[at+6] == '_' {
			if c, err := strconv.ParseUint(s[at+2:at+6], 16, 16); err == nil {
				r := rune(c)
				s = s[at+7:]
				if low, ok := codeAt(s); ok && utf16.IsSurrogate(r) { // the other half of a character
					if both := utf16.DecodeRune(r, low); both != utf8.RuneError {
						r, s = both, s[7:]
					}
				}
				b.WriteRune(r)
				continue
			}
		}
		b.WriteString("_x")
		s = s[at+2:]
	}
	b.WriteString(s)
	return b.String()
}

// codeAt returns the code that a text begins with.
func codeAt(s string) (rune, bool) {
	if len(s) < 7 || !isCode([]byte(s[:7])) {
		return 0, false
	}
	c, err := strconv.ParseUint(s[2:6], 16, 16)
	return rune(c), err == nil
}

// format is what a number format makes of a number.
type format uint8

const (
	plainNumber format = iota
	asDate
	asTime
	asTimestamp
	asDateOrTime // what the language of the program decides: a time where it is less than a day
	asDuration
	// asDigits and those after it show whole numbers with at least that many digits: 00417.
	asDigits
)

// builtIn are the number formats that have no code in the file.
var builtIn = map[int]format{
	14: asDate, 15: asDate, 16: asDate, 17: asDate, 18: asTime, 19: asTime, 20: asTime, 21: asTime, 22: asTimestamp,
	45: asTime, 46: asDuration, 47: asTime,
	// Those of Chinese, Japanese and Korean (ECMA-376-1, 18.8.30).
	27: asDate, 28: asDate, 29: asDate, 30: asDate, 31: asDate, 32: asTime, 33: asTime, 34: asDateOrTime,
	35: asDateOrTime, 36: asDate, 50: asDate, 51: asDate, 52: asDate, 53: asDate, 54: asDate, 55: asDateOrTime,
	56: asDateOrTime, 57: asDate, 58: asDate,
}

// readStyles finds out which cell styles show dates.
func (b *book) readStyles(part string) error {
	custom := map[int]format{}
	inCells := false
	return b.tokens(part, func(d *decoder) error {
		for {
			t, err := d.RawToken()
			if t == nil || err != nil {
				if t == nil {
					return nil
				}
				return err
			}
			switch t := t.(type) {
			case xml.StartElement:
				switch {
				case t.Name.Local == "numFmt":
					if len(custom) == maxParts {
						return ErrTooLarge
					}
					if id, err := strconv.Atoi(attr(&t, "numFmtId")); err == nil {
						custom[id] = formatOf(attr(&t, "formatCode"))
					}
				case t.Name.Local == "cellXfs":
					inCells = true
				case t.Name.Local == "xf" && inCells:
					if len(b.formats) == maxParts {
						return ErrTooLarge
					}
					id, _ := strconv.Atoi(attr(&t, "numFmtId")) // without one it is 0, General
					f, ok := custom[id]
					if !ok {
						f = builtIn[id]
					}
					b.formats = append(b.formats, f)
				}
			case xml.EndElement:
				inCells = inCells && t.Name.Local != "cellXfs"
			}
		}
	})
}

// maxZeros is the longest format of zeros that is one of identifiers.
const maxZeros = 40

// formatOf says what the code of a number format shows: a date has the letters d or y, a
// time h or s, outside quotes, brackets and escapes; m is a month beside the one and a
// minute beside the other.
func formatOf(code string) format {
	code, _, _ = strings.Cut(code, ";")
	if n := len(code); n > 1 && n <= maxZeros && strings.Trim(code, "0") == "" {
		return asDigits + format(n)
	}
	date, clock, elapsed := false, false, false
	for i := 0; i < len(code); i++ {
		switch c := code[i] | 0x20; {
		case code[i] == '"':
			if j := strings.IndexByte(code[i+1:], '"'); j >= 0 {
				i += j + 1
			}
		case code[i] == '\\' || code[i] == '_' || code[i] == '*':
			i++
		case code[i] == '[':
			j := strings.IndexByte(code[i:], ']')
			if j < 0 {
				return plainNumber
			}
			switch strings.ToLower(code[i+1 : i+j]) { // elapsed time
			case "h", "hh", "m", "mm", "s", "ss":
				clock, elapsed = true, true
			}
			i += j
		case c == 'd' || c == 'y':
			date = true
		case c == 'h' || c == 's':
			clock = true
		case c == 'g' && strings.HasPrefix(strings.ToLower(code[i:]), "general"):
			return plainNumber
		case c == 'm' && !clock && !date && strings.Trim(strings.ToLower(code), "m") == "":
			date = true
		}
	}
	switch {
	case date && clock:
		return asTimestamp
	case date:
		return asDate
	case elapsed:
		return asDuration
	case clock:
		return asTime
	}
	return plainNumber
}
