package cli

import (
	"slices"
	"strconv"
	"strings"

	"junvo/internal/table"
	"junvo/internal/value"
)

// parseTypes reads NAME=TYPE wishes for columns of these names.
func parseTypes(as, names []string) (map[string]value.Type, error) {
	types := map[string]value.Type{}
	for _, s := range severalTypes(as, names) {
		i := strings.LastIndexByte(s, '=')
		if i <= 0 {
			return nil, usage("--as takes NAME=TYPE, as in --as \"Net weight\"=decimal, not %q", s)
		}
		name, typeName := s[:i], s[i+1:]
		t, ok := value.ParseType(typeName)
		if !ok {
			return nil, usage("there is no type %q; the types are %s", typeName, strings.Join(value.TypeNames(), ", "))
		}
		column, ok := findName(name, names)
		if !ok {
			return nil, unknownColumn(name, names)
		}
		types[column] = t
	}
	return types, nil
}

// severalTypes takes A=decimal,B=date apart, unless a column has such a name.
func severalTypes(as, names []string) (all []string) {
	for _, s := range as {
		_, whole := findName(s[:max(0, strings.LastIndexByte(s, '='))], names)
		parts := strings.Split(s, ",")
		if whole || slices.ContainsFunc(parts, func(p string) bool { return !strings.Contains(p, "=") }) {
			parts = []string{s}
		}
		all = append(all, parts...)
	}
	return all
}

// findName finds a column: by its exact name, or by its name without regard to
// case, outer spaces and how its letters are composed where that is one column only.
func findName(name string, names []string) (string, bool) {
	found := ""
	for _, n := range names {
		if n == name {
			return n, true
		}
		if strings.EqualFold(table.SameName(n), table.SameName(name)) {
			if found != "" {
				return "", false
			}
			found = n
		}
	}
	return found, found != ""
}

func unknownColumn(name string, names []string) error {
	return usage("%w", table.Unknown("column", name, names))
}

// parseShare reads a share such as 95% or 0.95.
func parseShare(flag, s string) (float64, error) {
	number, percent := strings.CutSuffix(strings.TrimSpace(s), "%")
	f, err := strconv.ParseFloat(strings.TrimSpace(number), 64)
	if percent {
		f /= 100
	}
	if err != nil || f <= 0 || f > 1 {
		return 0, usage("--%s is a share such as 95%%, not %q", flag, s)
	}
	return f, nil
}
