package postgres

import (
	"context"
	"errors"

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

// choose picks a table by its name, with its schema or without, or the only one.
func choose(all []named, name string) (chosen *named, why string, err error) {
	bare := map[string]string{}
	parts := table.Parts{What: "table", Example: "postgres://host/database", Short: func(whole string) string { return bare[whole] }}
	var at []int
	for i := range all {
		if all[i].name == name && all[i].visible {
			return &all[i], "as told", nil
		}
		if !all[i].part || name != "" {
			parts.Names, at = append(parts.Names, all[i].String()), append(at, i)
			bare[all[i].String()] = all[i].name
		}
	}
	if len(at) == 0 {
		return nil, "", ErrNoTable
	}
	i, why, err := parts.Choose(name)
	return &all[at[i]], why, err
}
