package character

import "unicode"

// Class is a class of characters that plans and expressions know by its name.
type Class struct {
	Name string
	Say  string // which characters it has
	In   func(rune) bool
}

// Space reports whether a character is a space of any kind, a tab or a line break.
func Space(r rune) bool { return unicode.IsSpace(r) || unicode.Is(unicode.Zs, r) }

// Classes are the classes of characters that there are, by the categories of Unicode.
var Classes = []Class{
	{"digits", "decimal digits of all scripts (Nd)", unicode.IsDigit},
	{
		"letters", "letters and the marks that belong to them (L, M)",
		func(r rune) bool { return unicode.IsLetter(r) || unicode.IsMark(r) },
	},
	{"upper", "upper-case letters (Lu)", unicode.IsUpper},
	{"lower", "lower-case letters (Ll)", unicode.IsLower},
	{"spaces", "spaces of all kinds, tabs and line breaks (Z, U+0009 to U+000D, U+0085)", Space},
	{"invisible", "what does not print and is no space: controls, format characters, variation selectors (Cc, Cf)", Invisible},
	{"punctuation", "punctuation (P): . , ; : ! ? ' \" ( ) [ ] { } / \\ - – _ @ # % & * and others", unicode.IsPunct},
	{
		"signs", "signs (S): + < = > ^ ` | ~ $ € ° − and others, and the hyphen - where people write it for a minus",
		func(r rune) bool {
			return unicode.IsSymbol(r) || r == '-'
		},
	},
}

// ClassNames lists the names of the classes.
func ClassNames() []string {
	names := make([]string, len(Classes))
	for i, c := range Classes {
		names[i] = c.Name
	}
	return names
}
