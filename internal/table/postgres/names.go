package postgres

import (
	"strconv"
	"strings"
	"unicode/utf8"

	"junvo/internal/table"
)

// maxName is how many bytes of a name the server keeps; it cuts longer ones without an error.
const maxName = 63

// Names returns the names of columns as the server keeps them: none too long, none twice, none without a character.
func Names(fields []table.Field) []string {
	names := make([]string, len(fields))
	for i, f := range fields {
		names[i] = f.Name
	}
	return Kept(names)
}

// Kept returns names as the server keeps them.
func Kept(names []string) []string {
	out := make([]string, len(names))
	taken := map[string]bool{}
	for i, n := range names {
		if n = strings.ReplaceAll(n, "\x00", ""); n == "" {
			n = "column"
		}
		name := cut(n, "")
		for k := 2; taken[name]; k++ {
			name = cut(n, " "+strconv.Itoa(k))
		}
		taken[name] = true
		out[i] = name
	}
	return out
}

// cut returns a name cut to what the server keeps of it, with what stands at its end.
func cut(name, end string) string {
	n := 0
	for n < len(name) {
		_, size := utf8.DecodeRuneInString(name[n:])
		if n+size+len(end) > maxName {
			break
		}
		n += size
	}
	return name[:n] + end
}
