package dump

import (
	"fmt"
	"strings"

	"junvo/internal/table/records"
	"junvo/internal/value"
)

// constant returns what stands for a value: a constant, one that is cast to a type, or a text whose line breaks are put
// in by the function replace.
func constant(parts []token) records.Cell {
	for len(parts) > 1 && parts[0].kind == word && strings.HasPrefix(parts[0].text, "_") && parts[1].kind == text {
		parts = parts[1:] // the character set of a text, or that it is binary
	}
	if len(parts) == 0 {
		return records.Cell{Kind: value.StoredNull}
	}
	if cast := len(parts) > 2 && parts[1].is(":") && parts[2].is(":"); len(parts) > 1 && !cast {
		if s, ok := replaced(parts); ok {
			return records.Cell{Text: s}
		}
		return records.Cell{Text: written(parts)}
	}
	switch t := parts[0]; {
	case t.kind == text || t.kind == quoted:
		return records.Cell{Text: t.text}
	case t.kind == number:
		return records.Cell{Text: strings.TrimPrefix(t.text, "+"), Kind: value.StoredNumber}
	case t.kind == bytes:
		return records.Cell{Text: "x'" + strings.ToLower(t.text) + "'"}
	case t.is("null"), t.is("default"):
		return records.Cell{Kind: value.StoredNull}
	case t.is("true"), t.is("false"):
		return records.Cell{Text: strings.ToLower(t.text), Kind: value.StoredBoolean}
	}
	return records.Cell{Text: written(parts)}
}

// replaced computes replace('a\nb','\n',char(10)), by which some dumps write line breaks.
func replaced(parts []token) (string, bool) {
	// replace ( X , 'from' , char ( N ) ), X being a text or the same again
	n := len(parts)
	if n < 11 || !parts[0].is("replace") || !parts[1].is("(") {
		return "", false
	}
	tail := parts[n-8:]
	if !tail[0].is(",") || tail[1].kind != text || !tail[2].is(",") || !tail[3].is("char") || !tail[4].is("(") ||
		tail[5].kind != number ||
		!tail[6].is(")") || !tail[7].is(")") {
		return "", false
	}
	inner := ""
	if x := parts[2 : n-8]; len(x) == 1 && x[0].kind == text {
		inner = x[0].text
	} else if s, ok := replaced(x); ok {
		inner = s
	} else {
		return "", false
	}
	code := 0
	if _, err := fmt.Sscan(tail[5].text, &code); err != nil || tail[1].text == "" {
		return "", false
	}
	return strings.ReplaceAll(inner, tail[1].text, string(rune(code))), true
}

// written returns tokens as they might be written.
func written(parts []token) string {
	var b strings.Builder
	for i, t := range parts {
		if i > 0 && t.kind != sign && parts[i-1].kind != sign {
			b.WriteByte(' ')
		}
		switch t.kind {
		case text:
			b.WriteString("'" + strings.ReplaceAll(t.text, "'", "''") + "'")
		case quoted:
			b.WriteString(`"` + t.text + `"`)
		default:
			b.WriteString(t.text)
		}
	}
	return b.String()
}
