package cli

import (
	"strconv"

	"junvo/internal/plan"
	"junvo/internal/table/postgres"
	"junvo/internal/value"
)

// serverTable says what is to be made of a table of a server.
func (c *conversion) serverTable(name string, lists ...*list) postgres.SinkOptions {
	o := postgres.SinkOptions{Table: name, Replace: c.replaceTable, Append: c.appendTo}
	for _, l := range lists {
		if l != nil && l.table != "" {
			o.Lists = append(o.Lists, postgres.List{Table: l.table, Names: l.header})
		}
	}
	for i, col := range c.columns {
		o.Hides = o.Hides || col.Hidden()
		// A cell that fails would be null, where its row is not left out.
		if left := col.OnFailure == plan.FailAside || col.OnFailure == plan.FailStop; col.Must.NotBlank && left {
			o.NotNull = append(o.NotNull, i)
		}
		if col.Must.Unique {
			o.Unique = append(o.Unique, i)
		}
		_, err1 := strconv.ParseInt(col.Must.Between[0], 10, 64)
		_, err2 := strconv.ParseInt(col.Must.Between[1], 10, 64)
		if col.Convention.Type == value.Integer && err1 == nil && err2 == nil {
			o.Bigint = append(o.Bigint, i)
		}
	}
	return o
}
