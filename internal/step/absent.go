package step

import (
	"fmt"

	"junvo/internal/reason"
)

// absent says what becomes of a text in which a step does not find what it looks for.
type absent struct {
	way  string // one of ways, or "" for a text
	text string
}

var ways = []string{"blank", "keep", "fail"}

// otherwiseSay is what the argument otherwise takes.
const otherwiseSay = "otherwise: what a text gives in which that is not found: blank, keep, fail, or a text; a " +
	"text that is like one of these stands in {text: …}"

// otherwise reads the argument of this name, whose value without it is a way.
func (f *fields) otherwise(way string) absent {
	if !f.has("otherwise") {
		return absent{way: way}
	}
	f.used["otherwise"] = true
	a, err := absentOf(f.args["otherwise"])
	if err != nil {
		f.fail("%v", err)
	}
	return a
}

func absentOf(args Args) (absent, error) {
	if m, err := fieldsOf(args); err == nil {
		a := absent{text: m.text("text", "")}
		return a, m.done()
	}
	one, err := texts(args)
	if err != nil || len(one) != 1 {
		return absent{}, fmt.Errorf("otherwise is blank, keep, fail, or a text")
	}
	for _, way := range ways {
		if one[0] == way {
			return absent{way: way}, nil
		}
	}
	return absent{text: one[0]}, nil
}

// give returns what becomes of the text.
func (a absent) give(text string) (string, reason.Reason) {
	switch a.way {
	case "keep":
		return text, reason.None
	case "fail":
		return text, reason.NotFound
	}
	return a.text, reason.None // no text is blank
}

// finding is a step that looks for something in the text: find returns what it makes of it.
type finding struct {
	find      func(text string) (string, bool)
	otherwise absent
}

func (s finding) Apply(text string) (string, reason.Reason) {
	if out, ok := s.find(text); ok {
		return out, reason.None
	}
	return s.otherwise.give(text)
}
