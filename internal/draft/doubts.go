package draft

import (
	"fmt"
	"strings"

	"junvo/internal/finding"
	"junvo/internal/profile"
	"junvo/internal/reading"
	"junvo/internal/value"
)

// Doubt is something that changes what the values of a column mean, or which rows of the file are data.
type Doubt struct {
	Column string // "" for the file
	Name   string // of the finding
	Count  int64
	Say    string // with what would decide, where nothing has
}

// Doubts lists what of a profile's findings weighs, those of the file first.
func Doubts(p *profile.Profile) (all []Doubt) {
	for _, f := range p.Findings {
		if f.Kind.Weighs() {
			all = append(all, Doubt{Name: f.Kind.String(), Count: f.Count, Say: f.Say})
		}
	}
	for _, c := range p.Columns {
		for _, f := range c.Findings {
			if weighs(c, f.Kind) {
				all = append(all, Doubt{c.Name, f.Kind.String(), f.Count, sayWith(f.Say, deciding(c, f.Kind))})
			}
		}
	}
	return all
}

// weighs reports whether a finding changes what the values of a column mean: a code keeps its zeros.
func weighs(c *profile.ColumnProfile, k finding.Kind) bool {
	return k.Weighs() && (k != finding.LeadingZeros || c.Conclusion.Convention.Type.Numeric())
}

func sayWith(say, flags string) string {
	if flags == "" {
		return say
	}
	return say + ": " + flags
}

// deciding says which flags would decide what a finding leaves open in a column, and what they would make of its cells;
// "" where nothing is open.
func deciding(c *profile.ColumnProfile, k finding.Kind) string {
	var parts []string
	try := func(flag string, ask reading.Ask) {
		done := reading.Conclude(c.Counts, ask)
		if t := done.Convention.Type; t != value.Text && t != value.Code && done.Fits > 0 {
			parts = append(parts, fmt.Sprintf("%s makes %s", flag, profile.Counted(done.Fits, t.String(), t.String()+"s")))
		}
	}
	switch k {
	case finding.MarksUndecided, finding.TimesUndecided, finding.ListsUndecided:
		for _, m := range []reading.Mark{reading.Point, reading.Comma} {
			try("--decimal-mark "+m.String(), reading.Ask{Mark: &m})
		}
		if k == finding.TimesUndecided {
			t := value.Time
			try(fmt.Sprintf("--as %q", c.Name+"=time"), reading.Ask{Type: &t})
		}
	case finding.OrderUndecided:
		for _, o := range []reading.Order{reading.DMY, reading.MDY, reading.YMD} {
			try("--date-order "+o.String(), reading.Ask{Order: &o})
		}
	case finding.SidesUndecided:
		parts = append(parts, "factors in a plan decides, such as {CR: 1, DR: -1}")
	case finding.TruthUndecided:
		t := value.Boolean
		try(fmt.Sprintf("--as %q", c.Name+"=boolean"), reading.Ask{Type: &t})
	}
	return strings.Join(parts, ", ")
}
