package plan

import "strings"

// The parser of YAML takes time that grows with the square of the entries of one map, and the plan of a
// wide table has an entry for each of its columns. So a long plan is parsed in pieces: it is cut before
// some entries that stand in lines of their own, and each piece has the keys again in which they stand.

// piece is a part of a plan that is YAML by itself.
type piece struct {
	text   string
	shift  int // what is added to its lines to have those of the plan
	within int // so many keys, each in the other, go on from the piece before it
}

// maxEntries is how many entries of one map a piece has.
const maxEntries = 200

// opened is a key whose entries stand in the lines below it.
type opened struct {
	indent, entries int
	line            string
}

// pieces cuts a plan at entries of its maps. A text that is no plan, or has a text in quotes over several
// lines, may be cut where it must not be: then a piece is no YAML.
func pieces(text string) []piece {
	var out []piece
	keys := []opened{{indent: -1}}
	now, start, at, number := piece{}, 0, 0, 0
	for line := range strings.Lines(text) {
		number++
		indent := len(line) - len(strings.TrimLeft(line, " "))
		body := strings.TrimSpace(line)
		if body != "" && body[0] != '#' && body[0] != '-' {
			for keys[len(keys)-1].indent >= indent {
				keys = keys[:len(keys)-1]
			}
			in := &keys[len(keys)-1]
			if in.entries++; in.entries > maxEntries {
				in.entries = 1
				now.text += text[start:at]
				out = append(out, now)
				now, start = piece{shift: number - len(keys), within: len(keys) - 1}, at
				for _, k := range keys[1:] {
					now.text += k.line
				}
			}
			key, _, _ := strings.Cut(line, ": ")
			keys = append(keys, opened{indent: indent, line: strings.TrimRight(key, ":\r\n") + ":\n"})
		}
		at += len(line)
	}
	now.text += text[start:]
	return append(out, now)
}

// joined returns the plan of all pieces. Where anything is wrong with one of them it reports so: the
// plan is read as a whole then, for mistakes that name the right place.
func joined(all []piece) (*node, bool) {
	root := &node{kind: mapping, line: 1, column: 1}
	for _, p := range all {
		n, err := parsePiece(p)
		if err != nil || !root.addAll(n, p.within) {
			return nil, false
		}
	}
	return root, true
}

// addAll adds the entries of another map, of which the first goes on with the last one of this map, and
// the first of that with the last of this, as deep as is told. It reports whether that could be done, and
// no key is there twice.
func (n *node) addAll(of *node, within int) bool {
	if n.kind != mapping || of.kind != mapping {
		return false
	}
	for i, k := range of.keys {
		switch {
		case i == 0 && within > 0:
			last := len(n.keys) - 1
			if last < 0 || n.keys[last].text != k.text || !n.items[last].addAll(of.items[0], within-1) {
				return false
			}
		case !n.add(k, of.items[i]):
			return false
		}
	}
	return true
}
