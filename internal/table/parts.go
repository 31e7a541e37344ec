package table

import (
	"fmt"
	"strings"
)

// Parts are the parts of a source that have names: tables, sheets, files of an archive.
type Parts struct {
	What    string   // one of them, such as "table"
	Example string   // how a source of the kind is called, such as "store.db"
	Names   []string // all of them
	// Short returns a shorter name by which a part can be called, too; nil for none.
	Short func(string) string
}

// Choose returns which part has a name: the very name, or one that differs by case, or a short name, where that is one
// part's only. Without a name it is the only part that there is.
func (p *Parts) Choose(name string) (i int, why string, err error) {
	if name == "" {
		if len(p.Names) == 1 {
			return 0, "the only one", nil
		}
		return 0, "", fmt.Errorf("it has %d %ss: name one after #, as in %s#%s, or all with #*; there are %s", len(p.Names), p.What, p.Example,
			p.Names[0], Some(p.Names))
	}
	var alike []int
	for i, n := range p.Names {
		if n == name {
			return i, "as told", nil
		}
		if strings.EqualFold(n, name) || p.Short != nil && strings.EqualFold(p.Short(n), name) {
			alike = append(alike, i)
		}
	}
	switch len(alike) {
	case 0:
		return 0, "", p.unknown(name)
	case 1:
		return alike[0], "as told", nil
	}
	return 0, "", fmt.Errorf("the name %q is that of %d %ss: name one in full, as in %s", name, len(alike), p.What, p.Names[alike[0]])
}

func (p *Parts) unknown(name string) error {
	names := p.Names
	if p.Short != nil && Nearest(name, names) == "" { // a slip in the short name of one
		for _, n := range p.Names {
			if Nearest(name, []string{p.Short(n)}) != "" {
				return fmt.Errorf("there is no %s %q. Did you mean %q?", p.What, name, n)
			}
		}
	}
	return Unknown(p.What, name, names)
}

// Unknown is the error of a name that is none of some: it has the nearest of them, else the first of all.
func Unknown(what, name string, names []string) error {
	if near := Nearest(name, names); near != "" {
		return fmt.Errorf("there is no %s %q. Did you mean %q?", what, name, near)
	}
	return fmt.Errorf("there is no %s %q; there are %s", what, name, Some(names))
}

// Some lists the first of many names.
func Some(names []string) string {
	const most = 12
	if len(names) > most {
		return strings.Join(names[:most], ", ") + fmt.Sprintf(" and %d more", len(names)-most)
	}
	return strings.Join(names, ", ")
}
