package expression

import (
	"regexp"
	"slices"
	"strings"

	"cel.dev/cel-go/common/types"
	"cel.dev/cel-go/common/types/ref"
	"cel.dev/cel-go/interpreter"
	"github.com/rivo/uniseg"
	"golang.org/x/text/cases"
	"golang.org/x/text/language"

	"junvo/internal/character"
	"junvo/internal/pattern"
	"junvo/internal/reading"
)

// Positions and lengths count characters as people see them (grapheme clusters, UAX #29), from 1.
var textFunctions = []Function{
	{"length", "How many characters a text has.", `length("Größe")`, "5", []form{of(numberType, length, textType)}},
	{"upper", "The text in capital letters.", `upper("ab")`, "AB", []form{of(textType, texts(upper), textType)}},
	{"lower", "The text in small letters.", `lower("AB")`, "ab", []form{of(textType, texts(lower), textType)}},
	{
		"trim", "The text without spaces at its ends.", `trim(" ab ")`, "ab",
		[]form{of(textType, texts(strings.TrimSpace), textType)},
	},
	{
		"position", "Where a text stands in another, counted in characters from 1; 0 where it does not.",
		`position("lot 88", "88")`, "5",
		[]form{of(numberType, position, textType, textType)},
	},
	{
		"part", "Part of a text: from a character, counted from 1 or from the end with -1, so many characters or to the end. " +
			"What lies beyond either end is nothing.",
		`part("HAR-012", 5, 2)`, "01",
		[]form{of(textType, partOf, textType, numberType, numberType), of(textType, partOf, textType, numberType)},
	},
	{
		"piece", "The nth piece of a text between separators, from 1, or -1 for the last; blank where there is none.",
		`piece("a/b/c", "/", 2)`, "b",
		[]form{of(textType, piece, textType, textType, numberType)},
	},
	{
		"replace", "The text with another one in place of a text, wherever it stands.", `replace("1.240.5", ".", "")`, "12405",
		[]form{of(textType, replace, textType, textType, textType)},
	},
	{
		"found", "What a regular expression (RE2) finds in a text: its first group or the one of that number, 0 for all " +
			"of it; blank where it finds nothing.",
		`found("lot 88 crate 51", "crate ([0-9]+)")`, "51",
		[]form{of(textType, found, textType, textType), of(textType, found, textType, textType, numberType)},
	},
	{
		"count", "How often a text stands in another.", `count("a-b-c", "-")`, "2",
		[]form{of(numberType, count, textType, textType)},
	},
	{
		"countOf", "How many characters of a class a text has; the classes are those of the steps drop and keep.",
		`countOf("A-12", "digits")`, "2",
		[]form{of(numberType, countOf, textType, textType)},
	},
	{
		"contains", "Whether a text stands in another.", `contains("iced, fresh", "iced")`, "true",
		[]form{of(truthType, ofTexts(strings.Contains), textType, textType)},
	},
	{
		"starts", "Whether a text begins with another.", `starts("HAR-012", "HAR")`, "true",
		[]form{of(truthType, ofTexts(strings.HasPrefix), textType, textType)},
	},
	{
		"ends", "Whether a text ends with another.", `ends("HAR-012", "12")`, "true",
		[]form{of(truthType, ofTexts(strings.HasSuffix), textType, textType)},
	},
	{
		"matches", "Whether a regular expression (RE2) finds something in a text; ^ and $ hold it to the whole.",
		`matches("HAR-012", "^[A-Z]+-")`, "true", nil, // of the language itself
	},
	{
		"reading", "What a text can be read as: integer, decimal, date, time, timestamp, boolean, code, text or blank.",
		`reading("1.5 kg")`, "decimal",
		[]form{of(textType, texts(readingOf), textType)},
	},
}

func length(args []ref.Val) ref.Val { return ofInt(character.Count(string(args[0].(types.String)))) }

func texts(f func(string) string) func([]ref.Val) ref.Val {
	return func(args []ref.Val) ref.Val { return types.String(f(string(args[0].(types.String)))) }
}

// readingOf names what a text by itself reads as.
func readingOf(text string) string {
	x := reading.NewReader(nil).Read([]byte(text))
	done := reading.Conclude([]reading.Count{{Set: x.Set, Form: x.Form, Affix: x.Affix(), Cells: 1}}, reading.Ask{})
	r, _ := done.Convention.Judge(x.Set, x.Form)
	return r.String()
}

// upper writes a text in capital letters by the rules of Unicode, which make two of ß.
func lower(text string) string { return cases.Lower(language.Und).String(text) }
func upper(text string) string { return cases.Upper(language.Und).String(text) }

func textAt(args []ref.Val, i int) string { return string(args[i].(types.String)) }

// ofTexts makes a function of one that asks something of two texts.
func ofTexts(f func(a, b string) bool) func([]ref.Val) ref.Val {
	return func(args []ref.Val) ref.Val { return types.Bool(f(textAt(args, 0), textAt(args, 1))) }
}

func position(args []ref.Val) ref.Val {
	text, at := textAt(args, 0), strings.Index(textAt(args, 0), textAt(args, 1))
	if at < 0 {
		return ofInt(0)
	}
	return ofInt(character.Count(text[:at]) + 1)
}

func partOf(args []ref.Val) ref.Val {
	from, ok := whole(args[1])
	length, ok2 := 1<<30, true
	if len(args) == 3 {
		length, ok2 = whole(args[2])
	}
	if !ok || !ok2 || from == 0 || length < 0 {
		return types.NewErr("a part is from a whole number from 1, or from -1 for the last, and has 0 characters or more")
	}
	text := textAt(args, 0)
	if from < 0 {
		from += character.Count(text) + 1
	}
	if from < 1 { // what stands before the first character is nothing
		from, length = 1, max(0, length+from-1)
	}
	start, end, n := len(text), len(text), 0
	for g := uniseg.NewGraphemes(text); g.Next(); {
		n++
		at, _ := g.Positions()
		if n == from {
			start = at
		}
		if n == from+length {
			end = at
			break
		}
	}
	return textOrBlank(text[start:max(start, end)])
}

// textOrBlank makes a value of a text, blank of none.
func textOrBlank(text string) ref.Val {
	if text == "" {
		return types.NullValue
	}
	return types.String(text)
}

func piece(args []ref.Val) ref.Val {
	n, ok := whole(args[2])
	if sep := textAt(args, 1); !ok || n == 0 || sep == "" {
		return types.NewErr("a piece is that of a number from 1, or of -1 for the last, between separators that are not " +
			"blank")
	}
	pieces := strings.Split(textAt(args, 0), textAt(args, 1))
	if n < 0 {
		n += len(pieces) + 1
	}
	if n < 1 || n > len(pieces) {
		return types.NullValue
	}
	return textOrBlank(pieces[n-1])
}

// maxMade is how many bytes a text may have that replace makes: it may grow with the square of what it is given.
const maxMade = maxTexts

func replace(args []ref.Val) ref.Val {
	text, what, with := textAt(args, 0), textAt(args, 1), textAt(args, 2)
	if what == "" {
		return types.NewErr("replace needs a text to replace")
	}
	if grows := len(with) - len(what); grows > 0 && len(text)+grows*strings.Count(text, what) > maxMade {
		return types.NewErr("the text would be longer than %d MB", maxMade>>20)
	}
	return textOrBlank(strings.ReplaceAll(text, what, with))
}

// found finds with a pattern that is known only in the row.
func found(args []ref.Val) ref.Val {
	re, err := pattern.Compile(textAt(args, 1))
	if err != nil {
		return types.NewErr("%s", err)
	}
	return foundBy(re, args)
}

func foundBy(re *regexp.Regexp, args []ref.Val) ref.Val {
	group, ok := min(1, re.NumSubexp()), true
	if len(args) == 3 {
		if group, ok = whole(args[2]); !ok || group < 0 || group > re.NumSubexp() {
			return types.NewErr("the pattern has the groups 0 to %d", re.NumSubexp())
		}
	}
	m := re.FindStringSubmatch(textAt(args, 0))
	if m == nil {
		return types.NullValue
	}
	return textOrBlank(m[group])
}

// foundOnce compiles the pattern of a call of found once, where it is the same in all rows.
var foundOnce = &interpreter.RegexOptimization{
	Function: "found", RegexIndex: 1,
	Factory: func(call interpreter.InterpretableCall, text string) (interpreter.InterpretableCall, error) {
		re, err := pattern.Compile(text)
		if err != nil {
			return nil, err
		}
		by := of(textType, func(args []ref.Val) ref.Val { return foundBy(re, args) }, textType, textType, numberType)
		return interpreter.NewCall(call.ID(), call.Function(), call.OverloadID(), call.Args(), by.unlessBlank), nil
	},
}

func count(args []ref.Val) ref.Val {
	if textAt(args, 1) == "" {
		return types.NewErr("count needs a text to count")
	}
	return ofInt(strings.Count(textAt(args, 0), textAt(args, 1)))
}

func countOf(args []ref.Val) ref.Val {
	i := slices.Index(character.ClassNames(), textAt(args, 1))
	if i < 0 {
		return types.NewErr("the classes are %s, not %q", strings.Join(character.ClassNames(), ", "), textAt(args, 1))
	}
	in := character.Classes[i].In
	n := 0
	for _, r := range textAt(args, 0) {
		if in(r) {
			n++
		}
	}
	return ofInt(n)
}
