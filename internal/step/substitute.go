package step

import (
	"fmt"
	"strings"
)

// List is a list of texts, each with what stands in its place.
type List = map[string]string

// newSubstitute makes a step that puts other texts in place of those of a list.
func newSubstitute(args Args) (Step, error) {
	f, err := fieldsOf(args)
	if err != nil {
		return nil, err
	}
	f.used["list"] = true
	fold, otherwise := f.flag("ignore-case"), f.otherwise("keep")
	if !f.has("list") {
		f.fail("it takes a list: a map of texts and what stands in their place, or the name of one of the plan's lists")
	}
	list, err := listOf(f.args["list"], fold)
	if err != nil {
		f.fail("%v", err)
	}
	if err := f.done(); err != nil {
		return nil, err
	}
	return finding{func(text string) (string, bool) {
		if fold {
			text = strings.ToLower(text)
		}
		out, ok := list[text]
		return out, ok
	}, otherwise}, nil
}

func listOf(args Args, fold bool) (List, error) {
	list := List{}
	add := func(from, to string) error {
		if fold {
			from = strings.ToLower(from)
		}
		if other, ok := list[from]; ok && other != to {
			return fmt.Errorf("the list has %q twice", from)
		}
		list[from] = to
		return nil
	}
	switch args := args.(type) {
	case List: // one of the plan's
		for from, to := range args {
			if err := add(from, to); err != nil {
				return nil, err
			}
		}
	case map[string]Args:
		for from, a := range args {
			to, err := texts(a)
			if a == nil {
				to, err = []string{""}, nil
			}
			if err != nil || len(to) != 1 {
				return nil, fmt.Errorf("in place of %q stands one text", from)
			}
			if err := add(from, to[0]); err != nil {
				return nil, err
			}
		}
	default:
		return nil, fmt.Errorf("there is no list %v in the plan", args)
	}
	if len(list) == 0 {
		return nil, fmt.Errorf("the list is empty")
	}
	return list, nil
}
