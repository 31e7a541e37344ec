package show

import (
	"bytes"
	"cmp"
	"encoding/json"
	"fmt"
	"path/filepath"
	"strings"

	"junvo/internal/plan"
	"junvo/internal/table/sqlite"
	"junvo/internal/value"
)

// csvTypes are the datatypes of CSV on the Web, which are those of XML Schema.
var csvTypes = [value.NumTypes]string{
	value.Text: "string", value.Code: "string", value.Integer: "integer", value.Decimal: "decimal", value.Date: "date",
	value.Time:      "time",
	value.Timestamp: "dateTime", value.Boolean: "boolean",
}

// Metadata describes a CSV output as "CSV on the Web" has it (W3C Recommendation, Metadata
// Vocabulary for Tabular Data).
func Metadata(p *plan.Plan, output string, delimiter byte) ([]byte, error) {
	type column struct {
		Name     string `json:"name"`
		Titles   string `json:"titles"`
		Datatype string `json:"datatype"`
	}
	type dialect struct {
		Delimiter string `json:"delimiter"`
		Encoding  string `json:"encoding"`
	}
	doc := struct {
		Context string  `json:"@context"`
		URL     string  `json:"url"`
		Dialect dialect `json:"dialect"`
		Schema  struct {
			Columns []column `json:"columns"`
		} `json:"tableSchema"`
	}{Context: csvw, URL: filepath.Base(output), Dialect: dialect{string(delimiter), "utf-8"}}
	taken := map[string]bool{}
	for _, c := range p.Outputs() {
		name := plan.UniqueName(plan.UsableName(c.Name), taken)
		taken[name] = true
		doc.Schema.Columns = append(doc.Schema.Columns, column{
			strings.TrimPrefix(name, "_"), c.Name,
			csvTypes[c.Convention.Type],
		})
	}
	return encode(doc)
}

// IsMetadata reports whether a text looks like what Metadata returns.
func IsMetadata(text []byte) bool {
	var doc struct {
		Context string `json:"@context"`
	}
	return json.Unmarshal(text, &doc) == nil && doc.Context == csvw
}

const csvw = "http://www.w3.org/ns/csvw"

// IsDefinition reports whether a text looks like what Definition returns for a table: one statement.
func IsDefinition(text []byte, table string) bool {
	return bytes.HasPrefix(text, []byte("CREATE TABLE "+sqlName(table)+" (\n")) && bytes.Count(text, []byte(";")) == 1 &&
		bytes.HasSuffix(text, []byte(");\n"))
}

// Dialects are the dialects of SQL for which a table can be defined.
var Dialects = []string{"sqlite", "postgresql"}

// sqlTypes are the types of columns by dialect.
var sqlTypes = map[string][value.NumTypes]string{
	"sqlite": sqlite.Types,
	"postgresql": {
		value.Text: "text", value.Code: "text", value.Integer: "numeric", value.Decimal: "numeric", value.Date: "date",
		value.Time:      "time",
		value.Timestamp: "timestamp", value.Boolean: "boolean",
	},
}

// Definition returns the SQL statement that makes a table for the output. Integers can be
// of any length, so that PostgreSQL has them as numeric.
func Definition(p *plan.Plan, table, dialect string) string {
	var b strings.Builder
	fmt.Fprintf(&b, "CREATE TABLE %s (\n", sqlName(table))
	taken := map[string]bool{}
	columns := p.Outputs()
	for i, c := range columns {
		name := cmp.Or(printing(c.Name), "column")
		if key := strings.ToLower(name); taken[key] && name != c.Name {
			name = plan.UniqueName(name, taken)
		}
		taken[strings.ToLower(name)] = true
		typ := sqlTypes[dialect][c.Convention.Type]
		if dialect == "postgresql" && c.Convention.Type == value.Timestamp && c.Convention.Offsets {
			typ = "timestamp with time zone"
		}
		end := ","
		if i == len(columns)-1 {
			end = ""
		}
		fmt.Fprintf(&b, "  %s %s%s\n", quoted(name), typ, end)
	}
	return b.String() + ");\n"
}

// sqlName quotes a name. What does not print in it is left out: the statement goes to terminals.
func sqlName(name string) string { return quoted(printing(name)) }

// printing leaves out of a name what does not print.
func printing(name string) string {
	return strings.Map(func(r rune) rune {
		if hidden(r) {
			return -1
		}
		return r
	}, name)
}

func quoted(name string) string {
	return `"` + strings.ReplaceAll(name, `"`, `""`) + `"`
}
