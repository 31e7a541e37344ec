package cli

import (
	"cmp"
	"slices"
	"strings"

	"junvo/internal/profile"
	"junvo/internal/value"
)

// The names of --only and --sort, with what they mean.
var (
	onlyNames = []string{"findings", "mixed", "text"}
	sortNames = []string{"position", "name", "fails", "blank", "findings"}
)

func (s *selection) check() error {
	if s.only != "" && !slices.Contains(onlyNames, s.only) {
		return usage("--only is %s, not %q", strings.Join(onlyNames, ", "), s.only)
	}
	if !slices.Contains(sortNames, s.sort) {
		return usage("--sort is %s, not %q", strings.Join(sortNames, ", "), s.sort)
	}
	return nil
}

// opens says which columns are opened: those named, or all for JSON.
func (s *selection) opens(all bool) func(string) bool {
	if len(s.columns) == 0 {
		if !all {
			return nil
		}
		return func(string) bool { return true }
	}
	return func(name string) bool {
		return slices.ContainsFunc(s.columns, func(want string) bool {
			return strings.EqualFold(strings.TrimSpace(want),
				strings.TrimSpace(name))
		})
	}
}

// of returns the columns that are shown, in order.
func (s *selection) of(p *profile.Profile) ([]*profile.ColumnProfile, error) {
	columns := slices.Clone(p.Columns)
	if len(s.columns) > 0 {
		columns = nil
		for _, want := range s.columns {
			name, ok := findName(want, p.Info.Names)
			if !ok {
				return nil, unknownColumn(want, p.Info.Names)
			}
			columns = append(columns, p.Columns[slices.Index(p.Info.Names, name)])
		}
	}
	columns = slices.DeleteFunc(columns, func(c *profile.ColumnProfile) bool {
		switch s.only {
		case "findings":
			return len(c.Findings) == 0
		case "mixed":
			return !c.Conclusion.Mixed
		case "text":
			return c.Conclusion.Convention.Type != value.Text
		}
		return false
	})
	slices.SortStableFunc(columns, s.compare)
	return columns, nil
}

func (s *selection) compare(a, b *profile.ColumnProfile) int {
	x, y := a.Conclusion, b.Conclusion
	switch s.sort {
	case "name":
		return strings.Compare(a.Name, b.Name)
	case "fails":
		return cmp.Compare(y.Fails, x.Fails)
	case "blank":
		return cmp.Compare(b.Column.Cells-y.Fits-y.Fails, a.Column.Cells-x.Fits-x.Fails)
	case "findings":
		return cmp.Compare(len(b.Findings), len(a.Findings))
	}
	return 0
}
