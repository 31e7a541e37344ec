package input

import (
	"errors"
	"os"
	"path"
	"path/filepath"
	"strings"

	"junvo/internal/table"
	"junvo/internal/table/postgres"
)

// Part takes apart the path of a container and the name of a part of it. A # may also stand in the name of a
// file and in that of a part: the longest beginning that is a file counts, else what stands before the last #.
func Part(path string) (file, name string) {
	if postgres.Is(path) {
		return postgres.Part(path)
	}
	if _, err := os.Stat(path); err == nil {
		return path, ""
	}
	if name, ok := strings.CutPrefix(path, "-#"); ok {
		return "-", name
	}
	last := strings.LastIndexByte(path, '#')
	for i := last; i > 0; i = strings.LastIndexByte(path[:i], '#') {
		if _, err := os.Stat(path[:i]); err == nil {
			return path[:i], path[i+1:]
		}
	}
	if last <= 0 {
		return path, ""
	}
	return path[:last], path[last+1:]
}

// patternCharacters make a pattern of a name (see [path.Match]).
const patternCharacters = "*?["

// Paths replaces patterns by the files that match, and patterns after # by the parts of the file that do: book.xlsx#*
// stands for all sheets that have a cell. A path that exists stands for itself, and so does a part that has such a
// name.
func Paths(paths []string) ([]string, error) {
	var out []string
	for _, p := range paths {
		file, part := Part(p)
		_, err := os.Stat(file)
		switch {
		case file == "-" && strings.ContainsAny(part, patternCharacters):
			return nil, &Error{p, errors.New("the parts of standard input can't be listed"), "Keep it in a file first, or " +
				"name one part."}
		case (err == nil || postgres.Is(file)) && strings.ContainsAny(part, patternCharacters):
			parts, err := matching(file, part)
			if err != nil {
				return nil, err
			}
			out = append(out, parts...)
		case err == nil, file == "-", postgres.Is(file), !strings.ContainsAny(p, patternCharacters):
			out = append(out, p)
		default:
			found, err := filepath.Glob(p)
			if err != nil || len(found) == 0 {
				return nil, &Error{p, errors.New("no file matches the pattern"), "Check the folder and the pattern."}
			}
			out = append(out, found...)
		}
	}
	return out, nil
}

// matching returns the parts of a file whose names match a pattern, as paths.
func matching(file, pattern string) ([]string, error) {
	parts, within, err := partsOf(file, pattern)
	if err != nil {
		return nil, err
	}
	var out []string
	for _, name := range parts {
		if name == within {
			return []string{file + "#" + pattern}, nil
		}
		if matches(within, name) {
			out = append(out, file+"#"+strings.TrimSuffix(pattern, within)+name)
		}
	}
	if len(out) == 0 {
		do := "It has no parts."
		if len(parts) > 0 {
			do = "It holds " + table.Some(parts) + "."
		}
		return nil, &Error{file + "#" + pattern, errors.New("no part of it matches the pattern"), do}
	}
	return out, nil
}

// matches reports whether the name of a part matches a pattern; one without a slash is held against the last of the
// names between slashes, too.
func matches(pattern, name string) bool {
	if ok, _ := path.Match(pattern, name); ok {
		return true
	}
	ok, _ := path.Match(pattern, path.Base(name))
	return ok && !strings.Contains(pattern, "/")
}
