package step

import (
	"fmt"
	"strings"
	"sync"
	"unicode"

	"golang.org/x/text/cases"
	"golang.org/x/text/language"
)

func newCase(args Args) (Step, error) {
	name, _ := args.(string)
	var except []string
	if f, err := fieldsOf(args); err == nil {
		name = f.text("to", "")
		if f.has("except") {
			f.used["except"] = true
			if except, err = texts(f.args["except"]); err != nil {
				f.fail("except is a list of words")
			}
		}
		if err := f.done(); err != nil {
			return nil, err
		}
	}
	var change simple
	switch name {
	case "upper":
		change = caser(upperCase)
	case "lower":
		change = caser(lowerCase)
	case "title":
		change = title(caser(titleCase))
	case "sentence":
		change = sentence(caser(lowerCase), caser(upperCase))
	default:
		return nil, fmt.Errorf("it is upper, lower, title or sentence; with exceptions, {to: title, except: [von, II]}")
	}
	if except == nil {
		return change, nil
	}
	forms := map[string]string{}
	for _, word := range except {
		forms[strings.ToLower(word)] = word
	}
	return simple(func(text string) string { return excepting(change(text), forms) }), nil
}

// excepting writes the words of a text that have a form of their own in that form.
func excepting(text string, forms map[string]string) string {
	var b strings.Builder
	for text != "" {
		at := strings.IndexFunc(text, inWord)
		if at < 0 {
			break
		}
		end := strings.IndexFunc(text[at:], func(r rune) bool { return !inWord(r) })
		if end < 0 {
			end = len(text) - at
		}
		word := text[at : at+end]
		if form, ok := forms[strings.ToLower(word)]; ok {
			word = form
		}
		b.WriteString(text[:at])
		b.WriteString(word)
		text = text[at+end:]
	}
	return b.String() + text
}

// inWord reports whether a character belongs to a word: letters, their marks, digits and apostrophes do.
func inWord(r rune) bool {
	return unicode.IsLetter(r) || unicode.IsMark(r) || unicode.IsDigit(r) || r == '\'' || r == '’'
}

// title changes a text to title case, in which a letter behind a digit stays small, as in 3rd.
func title(change simple) simple {
	return func(text string) string {
		var before rune
		return strings.Map(func(r rune) rune {
			if unicode.IsDigit(before) && unicode.IsUpper(r) {
				r = unicode.ToLower(r)
			}
			before = r
			return r
		}, change(text))
	}
}

func sentence(lower, upper simple) simple {
	return func(text string) string {
		text = lower(text)
		i := strings.IndexFunc(text, unicode.IsLetter)
		if i < 0 {
			return text
		}
		first := text[i : i+offset(text[i:], 1)]
		return text[:i] + upper(first) + text[i+len(first):]
	}
}

// caser makes a step of casers, which keep state while they work: each call has one to itself.
func caser(options func() cases.Caser) simple {
	idle := sync.Pool{New: func() any { c := options(); return &c }}
	return func(text string) string {
		c := idle.Get().(*cases.Caser)
		defer idle.Put(c)
		return c.String(text)
	}
}

func upperCase() cases.Caser { return cases.Upper(language.Und) }
func lowerCase() cases.Caser { return cases.Lower(language.Und) }
func titleCase() cases.Caser { return cases.Title(language.Und) }
