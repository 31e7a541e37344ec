package step

import "fmt"

// newInsert makes a step that puts a text into another.
func newInsert(args Args) (Step, error) {
	f, err := fieldsOf(args)
	if err != nil {
		return nil, err
	}
	text := f.text("text", "")
	behind := f.args["at"] == "end"
	at := 0
	if behind {
		f.used["at"] = true
	} else {
		at = f.nth("at", 1)
	}
	hasAt, otherwise := f.has("at"), f.otherwise("keep")
	if err := f.done(); err != nil {
		return nil, err
	}
	if text == "" || !hasAt {
		return nil, fmt.Errorf("it takes text, and at: before which character, from 1, or -1 for the last, or end")
	}
	return finding{func(to string) (string, bool) {
		if behind {
			return to + text, true
		}
		i := index(at, length(to))
		if i < 0 {
			return "", false
		}
		i = offset(to, i)
		return to[:i] + text + to[i:], true
	}, otherwise}, nil
}
