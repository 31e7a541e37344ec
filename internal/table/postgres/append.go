package postgres

import (
	"bytes"
	"fmt"
	"regexp"
	"slices"
	"strconv"
	"strings"

	"junvo/internal/table"
	"junvo/internal/value"
)

// A table that is there may keep less of a value than it has, and say nothing: digits after the decimal mark, parts of seconds, spaces
// at the end of a text. So each column is held against its type before anything is written, and each value against what its
// column keeps.

// holdAgainst holds the columns against those of a table that is there.
func (s *Sink) holdAgainst(t *named, fields []table.Field, names []string) error {
	rows, err := texts(s.ctx, s.conn, `SELECT a.attname, format_type(coalesce(nullif(t.typbasetype, 0), t.oid), NULL), t.typcategory,
a.attnotnull AND NOT a.atthasdef AND a.attidentity = '', a.attgenerated,
CASE WHEN t.typbasetype = 0 THEN format_type(t.oid, a.atttypmod) ELSE format_type(t.typbasetype, t.typtypmod) END
FROM pg_attribute a JOIN pg_type t ON t.oid = a.atttypid
WHERE a.attrelid = to_regclass($1) AND a.attnum > 0 AND NOT a.attisdropped ORDER BY a.attnum`, t.quoted())
	if err != nil {
		return err
	}
	have := map[string][]string{}
	for _, r := range rows {
		have[r[0]] = r
	}
	keeps, types := make([]limit, len(fields)), make([]string, len(fields))
	for i, f := range fields {
		column, there := have[names[i]]
		switch {
		case !there:
			return fmt.Errorf("the table %s has no column %q", t, names[i])
		case column[4] != "":
			return fmt.Errorf("the column %q of the table %s is computed by the server", names[i], t)
		case !takes(column[1], column[2], &f), roundsWhole(column[5]):
			return fmt.Errorf("the column %q of the table %s is of the type %s, which does not take %s as it is",
				names[i], t, column[1], described(&f))
		}
		keeps[i] = limitOf(names[i], column[5])
		types[i] = column[1]
	}
	s.keeps, s.types = keeps, types
	for _, r := range rows {
		if r[3] == "t" && !slices.Contains(names, r[0]) {
			return fmt.Errorf("the column %q of the table %s must not be null, and the output has no such column", r[0], t)
		}
	}
	return nil
}

func described(f *table.Field) string {
	if f.Type == value.Timestamp && f.Offsets {
		return "a timestamp with an offset"
	}
	return "the type " + f.Type.String()
}

// takes reports whether a type of the server, which is of a category (PostgreSQL, pg_type.typcategory), takes every
// value of a column as it is, or refuses it.
func takes(typ, category string, f *table.Field) bool {
	switch f.Type {
	case value.Integer:
		return slices.Contains([]string{"smallint", "integer", "bigint", "numeric"}, typ)
	case value.Decimal:
		return typ == "numeric"
	case value.Boolean:
		return typ == "boolean"
	case value.Date:
		return typ == "date" || typ == "timestamp without time zone"
	case value.Time:
		return typ == "time without time zone"
	case value.Timestamp:
		return typ == "timestamp without time zone" && !f.Offsets || typ == zoned && f.Offsets
	}
	// Texts, enumerations, and what has a writing of its own, such as JSON and uuid.
	return strings.ContainsAny(category, "SEU") && typ != "bytea" && typ != "character" && !slices.Contains(rewriting, typ)
}

// roundsWhole reports whether a type rounds before the decimal mark, as numeric(5,-2) does.
func roundsWhole(typ string) bool {
	m := modified.FindStringSubmatch(typ)
	return m != nil && strings.HasPrefix(m[3], "-")
}

// limit is what a column keeps of a value where that may be less than the value has.
type limit struct {
	name, typ  string
	digits     int // after a decimal mark; -1 for as many as there are
	characters int // of a text; -1 for any number
}

// modified takes apart a type with bounds, such as numeric(9,2), timestamp(3) without time zone or character varying(20).
var modified = regexp.MustCompile(`^([a-z ]+)\((\d+)(?:,(-?\d+))?\)`)

// limitOf returns what a column of a type keeps.
func limitOf(name, typ string) limit {
	l := limit{name, typ, -1, -1}
	m := modified.FindStringSubmatch(typ)
	if m == nil {
		return l
	}
	first, _ := strconv.Atoi(m[2]) // digits
	switch kind := m[1]; {
	case kind == "numeric" && m[3] != "":
		l.digits, _ = strconv.Atoi(m[3])
		l.digits = max(l.digits, 0)
	case kind == "numeric":
		l.digits = 0
	case strings.HasPrefix(kind, "time"):
		l.digits = first
	case kind == "character varying":
		l.characters = first
	}
	return l
}

// check refuses all rows where a column would keep less of a value than it has. Several rows may be checked at once.
func (s *Sink) check(column int, cell []byte, f *table.Field) {
	l := &s.keeps[column]
	why := ""
	switch {
	case len(cell) == 0:
	case l.digits >= 0 && !f.Type.Textual():
		if at := bytes.IndexByte(cell, '.'); at >= 0 {
			fraction := cell[at+1:]
			if end := bytes.IndexAny(fraction, "Z+-"); end >= 0 {
				fraction = fraction[:end]
			}
			if len(bytes.TrimRight(fraction, "0")) > l.digits {
				why = "more digits after the decimal mark"
			}
		}
	case l.characters >= 0 && len(cell) > l.characters && cell[len(cell)-1] == ' ':
		why = "more spaces at its end"
	}
	if why != "" && s.o.Hides {
		cell = []byte("…")
	}
	if why != "" {
		err := fmt.Errorf("the column %q of the table is of the type %s, and the value %q has %s than that keeps: nothing was written; "+
			"let the plan make it what the table keeps", l.name, l.typ, cell, why)
		s.refuse.CompareAndSwap(nil, &err)
	}
}
