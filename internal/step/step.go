// Package step has the changes of a cell's text that a plan may ask for, one after
// the other, before the cell is read:
//
//	steps:
//	  - drop: [spaces, "kg"]
//	  - take: {before: "/"}
//	  - pad: {width: 6, with: "0"}
//
// A step that does not find what it looks for leaves the cell alone, unless otherwise says what it gives; only a take
// that finds nothing fails, since what it should take is not there. Positions count characters as people see them
// (grapheme clusters, UAX #29). Steps never see blank cells, except for fill, and where one leaves nothing of a text
// the others are passed over.
//
// [Catalogue] lists the steps with an example each, which tests run; help pages and
// reference documents are made from it.
package step

import (
	"fmt"
	"maps"
	"slices"
	"strings"

	"junvo/internal/reason"
	"junvo/internal/table"
)

// A Step changes text. It may be used on many goroutines at once.
type Step interface {
	// Apply returns the changed text, or the text itself. The reason is None
	// unless the step failed.
	Apply(text string) (string, reason.Reason)
}

// MaxText is how many bytes a text may have that steps, joins or expressions have made longer.
const MaxText = 1 << 20

// Chain is the steps of a column, in order.
type Chain []Named

// Named is a step with what the plan calls it.
type Named struct {
	Name string
	Args Args // as they were given, for writing the plan
	Step Step
}

// MakesCode reports whether the steps make digits of a fixed place or width, which are those of a code whatever they
// look like in one file.
func (c Chain) MakesCode() bool {
	return slices.ContainsFunc(c, func(s Named) bool {
		fields, _ := s.Args.(map[string]Args)
		_, digits := fields["digits"]
		return s.Name == "pad" || s.Name == "take" && digits
	})
}

// Apply applies the steps in order until one fails, and tells which of them changed
// the text by setting their bits in changed.
func (c Chain) Apply(text string) (out string, changed uint64, why reason.Reason) {
	return c.from(0, text, 0)
}

// Continue goes on after step i, which has made next of text, where changed tells of the steps up to it.
func (c Chain) Continue(i int, text, next string, changed uint64) (string, uint64, reason.Reason) {
	if next != text {
		changed |= 1 << min(i, 63)
	}
	if Nothing(next) {
		return "", changed, reason.None
	}
	return c.from(i+1, next, changed)
}

func (c Chain) from(first int, text string, changed uint64) (out string, _ uint64, why reason.Reason) {
	for i := first; i < len(c); i++ {
		next, why := c[i].Step.Apply(text)
		if why == reason.None && len(next) > MaxText && len(next) > len(text) {
			why = reason.TooLong
		}
		if why != reason.None {
			return text, changed, why
		}
		if next != text {
			changed |= 1 << min(i, 63)
		}
		if text = next; Nothing(text) {
			return "", changed, reason.None // steps never see what is blank
		}
	}
	return text, changed, reason.None
}

// Nothing reports whether a step has left nothing of a text: nothing at all, or spaces and what does not print.
func Nothing(text string) bool { return trim(text) == "" }

// Failing returns which step fails of those of a text, and the text that it saw; -1 for none.
func (c Chain) Failing(text string) (int, string) {
	for i, s := range c {
		next, why := s.Step.Apply(text)
		if why != reason.None || len(next) > MaxText && len(next) > len(text) {
			return i, text
		}
		if text = next; Nothing(text) {
			break
		}
	}
	return -1, ""
}

// Fill returns what blank cells are given, and the number of the step that says so;
// -1 where none does.
func (c Chain) Fill() (Filling, int) {
	for i, s := range c {
		if f, ok := s.Step.(fill); ok {
			return f.Filling, i
		}
	}
	return Filling{}, -1
}

// Args are the arguments of a step as they stand in a plan: a text, a number, a list
// of Args or a map of them. Nil stands for none.
type Args any

// New makes a step of its name and arguments. Errors say which argument is wrong.
func New(name string, args Args) (Step, error) {
	for _, e := range Catalogue {
		if e.Name == name {
			return e.make(args)
		}
	}
	return nil, &UnknownError{name}
}

// UnknownError says that there is no step of that name.
type UnknownError struct{ Name string }

func (e *UnknownError) Error() string { return fmt.Sprintf("unknown step %q", e.Name) }

// Names returns the names of all steps.
func Names() []string {
	names := make([]string, len(Catalogue))
	for i, e := range Catalogue {
		names[i] = e.Name
	}
	return names
}

// fields reads the arguments of a step that takes a map.
type fields struct {
	args  map[string]Args
	used  map[string]bool // those that were read
	known map[string]bool // and those that there might be
	err   error
}

func fieldsOf(args Args) (*fields, error) {
	m, ok := args.(map[string]Args)
	if !ok {
		return nil, fmt.Errorf("it takes arguments with names, as in {key: value}")
	}
	return &fields{args: m, used: map[string]bool{}, known: map[string]bool{}}, nil
}

// oneOr reads the arguments of a step that takes one value, or a map in which that has a name.
func oneOr(args Args, key string) *fields {
	f, err := fieldsOf(args)
	if err != nil {
		f, _ = fieldsOf(map[string]Args{key: args})
	}
	return f
}

func (f *fields) fail(format string, args ...any) {
	if f.err == nil {
		f.err = fmt.Errorf(format, args...)
	}
}

func (f *fields) has(key string) bool {
	f.known[key] = true
	_, ok := f.args[key]
	return ok
}

// text returns a text, or the fallback where the key is not given.
func (f *fields) text(key, fallback string) string {
	v, ok := f.args[key]
	f.used[key] = true
	if !ok {
		return fallback
	}
	switch v := v.(type) {
	case string:
		return v
	case int:
		return fmt.Sprint(v)
	}
	f.fail("%s is a text", key)
	return ""
}

// number returns a number from 1.
func (f *fields) number(key string, fallback int) int {
	v, ok := f.args[key]
	f.used[key] = true
	if !ok {
		return fallback
	}
	n, ok := v.(int)
	if !ok || n < 1 {
		f.fail("%s is a whole number from 1", key)
	}
	return n
}

// nth returns a number from 1, or negative from the end; "last" is -1, "all" is 0.
func (f *fields) nth(key string, fallback int) int {
	v, ok := f.args[key]
	f.used[key] = true
	switch v := v.(type) {
	case int:
		if v != 0 {
			return v
		}
	case string:
		switch v {
		case "first":
			return 1
		case "last":
			return -1
		case "all":
			if fallback == 0 {
				return 0
			}
		}
	}
	if ok {
		f.fail("%s is a number from 1, or -1 for the last", key)
	}
	return fallback
}

func (f *fields) flag(key string) bool {
	v, ok := f.args[key]
	f.used[key] = true
	b, isBool := v.(bool)
	if ok && !isBool {
		f.fail("%s is true or false", key)
	}
	return b
}

// done returns the first error, an argument that nobody asked for included.
func (f *fields) done() error {
	if f.err != nil {
		return f.err
	}
	for key := range f.args {
		if !f.used[key] {
			maps.Copy(f.known, f.used)
			return &UnknownArgError{Key: key, Known: slices.Sorted(maps.Keys(f.known))}
		}
	}
	return nil
}

// UnknownArgError says that a step has no such argument.
type UnknownArgError struct {
	Key   string
	Known []string // the arguments that there are
}

func (e *UnknownArgError) Error() string {
	if near := table.Nearest(e.Key, e.Known); near != "" {
		return fmt.Sprintf("unknown argument %q; did you mean %q?", e.Key, near)
	}
	return fmt.Sprintf("unknown argument %q; there are %s", e.Key, strings.Join(e.Known, ", "))
}

// texts reads a list of texts, or one text.
func texts(args Args) ([]string, error) {
	switch v := args.(type) {
	case string:
		return []string{v}, nil
	case int:
		return []string{fmt.Sprint(v)}, nil
	case []Args:
		var out []string
		for _, a := range v {
			one, err := texts(a)
			if err != nil || len(one) != 1 {
				return nil, fmt.Errorf("it takes a list of texts")
			}
			out = append(out, one[0])
		}
		if len(out) == 0 {
			return nil, fmt.Errorf("the list is empty")
		}
		return out, nil
	}
	return nil, fmt.Errorf("it takes a text or a list of texts")
}

// none is for steps without arguments.
func none(s Step) func(Args) (Step, error) {
	return func(args Args) (Step, error) {
		if args != nil {
			return nil, fmt.Errorf("it takes no arguments")
		}
		return s, nil
	}
}

// simple makes a step of a function that cannot fail.
type simple func(string) string

func (s simple) Apply(text string) (string, reason.Reason) { return s(text), reason.None }
