package postgres

import (
	"cmp"
	"context"
	"errors"
	"fmt"
	"strings"

	"github.com/jackc/pgx/v5/pgconn"

	"junvo/internal/table"
)

// named is a table, a view or the like.
type named struct {
	schema, name string
	visible      bool // without its schema
	part         bool // of a table in several parts, which has its rows, too
}

func (n *named) String() string { return n.schema + "." + n.name }

// quoted returns the name for a statement.
func (n *named) quoted() string { return quote(n.schema) + "." + quote(n.name) }

// ErrNoTable is a database without a table that may be read.
var ErrNoTable = errors.New("the database has no table that may be read")

// tables returns the tables, views and the like that may be read.
func tables(ctx context.Context, c *pgconn.PgConn) (all []named, err error) {
	rows, err := texts(ctx, c, `SELECT n.nspname, c.relname, pg_table_is_visible(c.oid), c.relispartition
FROM pg_class c JOIN pg_namespace n ON n.oid = c.relnamespace
WHERE c.relkind IN ('r', 'p', 'v', 'm', 'f') AND n.nspname <> 'information_schema' AND n.nspname !~ '^pg_'
AND has_schema_privilege(n.oid, 'USAGE') AND has_table_privilege(c.oid, 'SELECT')
ORDER BY n.nspname, c.relname`)
	for _, r := range rows {
		all = append(all, named{r[0], r[1], r[2] == "t", r[3] == "t"})
	}
	return all, err
}

// Tables returns the names of the tables, views and the like that may be read, with their schemas.
func Tables(address string) ([]string, error) {
	ctx := context.Background()
	c, err := connect(ctx, address, beginRead)
	if err != nil {
		return nil, err
	}
	defer closeNow(c)
	all, err := tables(ctx, c)
	var names []string
	for i := range all {
		if !all[i].part {
			names = append(names, all[i].String())
		}
	}
	return names, err
}

// maxNamed is how many tables are named where one must be chosen.
const maxNamed = 12

// choose picks a table by its name, with its schema or without, or the only one.
func choose(all []named, name string) (chosen *named, why string, err error) {
	var names, bare []string
	var alike, whole []*named
	for i := range all {
		n := &all[i]
		if n.String() == name || n.name == name && n.visible {
			return n, "as told", nil
		}
		if strings.EqualFold(n.String(), name) || strings.EqualFold(n.name, name) {
			alike = append(alike, n)
		}
		if !n.part {
			whole = append(whole, n)
			names, bare = append(names, n.String()), append(bare, n.name)
		}
	}
	some := strings.Join(names[:min(len(names), maxNamed)], ", ")
	if len(names) > maxNamed {
		some += fmt.Sprintf(" and %d more", len(names)-maxNamed)
	}
	switch {
	case len(all) == 0:
		return nil, "", ErrNoTable
	case name == "" && len(whole) == 1:
		return whole[0], "the only one", nil
	case name == "":
		return nil, "", fmt.Errorf("it has %d tables: name one after #, as in postgres://host/database#%s; there are %s",
			len(all), names[0], some)
	case len(alike) == 1:
		return alike[0], "as told", nil
	case len(alike) > 1:
		return nil, "", fmt.Errorf("the name %q is that of %d tables: name one with its schema, as in %s", name, len(alike),
			alike[0])
	}
	if near := cmp.Or(table.Nearest(name, names), table.Nearest(name, bare)); near != "" {
		return nil, "", fmt.Errorf("there is no table %q that may be read. Is %q meant?", name, near)
	}
	return nil, "", fmt.Errorf("there is no table %q that may be read; the tables are %s", name, some)
}
