package cli

import (
	"errors"
	"strings"

	"github.com/spf13/pflag"
)

// A flag that is given twice must not lose one of its values in silence: what can't be repeated is refused, and
// conditions are joined.

// once is the value of a flag that can't be repeated.
type once struct {
	pflag.Value
	given bool
}

var errTwice = errors.New("it is given twice, and can't be repeated")

func (o *once) Set(text string) error {
	if o.given {
		return errTwice
	}
	o.given = true
	return o.Value.Set(text)
}

func (o *once) Type() string { return valueName(o.Value) }

// condition is the value of a flag with a condition on rows. Each time that it is given it adds one.
type condition struct {
	text *string
	with string // that joins it with those before
}

// conditionVar adds a flag with a condition: rows have to meet all that are given, or any where they are left out by
// it.
func conditionVar(f *pflag.FlagSet, to *string, name string, any bool, use string) {
	c := &condition{to, " && "}
	if any {
		c.with = " || "
	}
	f.Var(c, name, use)
}

func (c *condition) String() string { return *c.text }
func (*condition) Type() string     { return "string" }

func (c *condition) Set(text string) error {
	if strings.TrimSpace(text) == "" {
		return nil // it asks for nothing, and takes nothing back
	}
	if *c.text != "" {
		text = "(" + *c.text + ")" + c.with + "(" + text + ")"
	}
	*c.text = text
	return nil
}
