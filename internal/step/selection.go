package step

import (
	"fmt"
	"regexp"
	"slices"
	"strings"
	"unicode/utf8"

	"junvo/internal/character"
	"junvo/internal/table"
)

// classList names the classes, each with what it has.
func classList() string {
	list := make([]string, len(character.Classes))
	for i, c := range character.Classes {
		list[i] = c.Name + " (" + c.Say + ")"
	}
	return strings.Join(list, "; ")
}

// selection is classes and texts.
type selection struct {
	in    []func(rune) bool
	ascii inASCII // whether one of them has it
	texts []string
}

func newSelection(args Args) (*selection, error) {
	list, ok := args.([]Args)
	if !ok {
		list = []Args{args}
	}
	if len(list) == 0 {
		return nil, fmt.Errorf("the list is empty")
	}
	s := &selection{}
	for _, a := range list {
		if err := s.add(a); err != nil {
			return nil, err
		}
	}
	s.ascii = asciiOf(s.any)
	// The longest text first, so that kgs goes before kg.
	slices.SortStableFunc(s.texts, func(a, b string) int { return len(b) - len(a) })
	return s, nil
}

// add adds a class by its name, or a text: one that is like the name of a class has to be
// given as {text: …}, since a misspelt class would destroy cells.
func (s *selection) add(a Args) error {
	if f, err := fieldsOf(a); err == nil {
		text := f.text("text", "")
		if text == "" {
			f.fail("it takes a text or a list of texts and classes; a text may stand in {text: …}")
		}
		s.texts = append(s.texts, text)
		return f.done()
	}
	one, err := texts(a)
	if err != nil || len(one) != 1 {
		return fmt.Errorf("it takes a text or a list of texts and classes")
	}
	text := one[0]
	if text == "" {
		return fmt.Errorf("an empty text stands for nothing")
	}
	for _, c := range character.Classes {
		if c.Name == text {
			s.in = append(s.in, c.In)
			return nil
		}
	}
	if class := meantClass(text); class != "" {
		return fmt.Errorf("%q is no class of characters: say %s for the class, or {text: %q} for the text itself", text,
			class, text)
	}
	s.texts = append(s.texts, text)
	return nil
}

// otherNames are names that people give to the classes, and how they write them in patterns.
var otherNames = map[string]string{
	"number": "digits", "numeral": "digits", "numeric": "digits", "num": "digits", "int": "digits", `\d`: "digits", "nd": "digits", "ascii digit": "digits",
	"alpha": "letters", "alphabetic": "letters", "char": "letters", "character": "letters", "alphanumeric": "[digits, letters]", "alnum": "[digits, letters]",
	`\w`: "[digits, letters]", "uppercase": "upper", "upper case": "upper", "upper-case": "upper", "capital": "upper", "lowercase": "lower",
	"lower case": "lower", "lower-case": "lower", "whitespace": "spaces", "white space": "spaces", "blank": "spaces", `\s`: "spaces", "space": "spaces",
	"symbol": "signs", "special": "signs", "special character": "signs", "punct": "punctuation", "punctuation mark": "punctuation",
	"control": "invisible", "non-printing": "invisible", "unprintable": "invisible", "zero-width": "invisible",
}

// ranges is how a class is written in a pattern, as in a-z or [A-Z0-9].
var ranges = regexp.MustCompile(`^\[?\^?(?:[0-9A-Za-z]-[0-9A-Za-z])+\]?[+*]?$`)

// meantClass returns the class that a text is likely meant for, "" for none.
func meantClass(text string) string {
	key := strings.TrimRight(strings.Trim(strings.ToLower(strings.TrimSpace(text)), "[:]+*"), "s")
	for _, c := range character.Classes {
		if strings.TrimRight(c.Name, "s") == key {
			return c.Name
		}
	}
	if class := otherNames[strings.TrimRight(key, "s")]; class != "" {
		return class
	}
	if class := otherNames[strings.ToLower(strings.TrimSpace(text))]; class != "" {
		return class
	}
	if ranges.MatchString(text) {
		return rangeClass(text)
	}
	if word := strings.ToLower(strings.TrimSpace(text)); utf8.RuneCountInString(word) >= 4 {
		return table.Typo(word, character.ClassNames())
	}
	return ""
}

// rangeClass returns the classes that the ranges of a pattern have.
func rangeClass(text string) string {
	var classes []string
	for _, r := range []struct{ has, class string }{
		{"0123456789", "digits"},
		{"abcdefghijklmnopqrstuvwxyz", "lower"},
		{"ABCDEFGHIJKLMNOPQRSTUVWXYZ", "upper"},
	} {
		if strings.ContainsAny(text, r.has) {
			classes = append(classes, r.class)
		}
	}
	if len(classes) == 1 {
		return classes[0]
	}
	return "[" + strings.Join(classes, ", ") + "]"
}

func (s *selection) has(r rune) bool {
	if r < utf8.RuneSelf {
		return s.ascii[r]
	}
	return s.any(r)
}

func (s *selection) any(r rune) bool {
	return slices.ContainsFunc(s.in, func(in func(rune) bool) bool { return in(r) })
}
