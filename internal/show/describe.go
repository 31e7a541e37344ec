package show

import (
	"cmp"
	"encoding/json"
	"fmt"
	"path/filepath"
	"strings"

	"junvo/internal/plan"
	"junvo/internal/table/postgres"
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

// IsDefinition reports whether a text looks like what Definition returns for a table: one statement, and remarks.
func IsDefinition(text []byte, table string) bool {
	statement := string(text)
	for strings.HasSuffix(statement, "\n") {
		last := strings.LastIndexByte(statement[:len(statement)-1], '\n') + 1
		if !strings.HasPrefix(statement[last:], remark) {
			break
		}
		statement = statement[:last]
	}
	return strings.HasPrefix(statement, "CREATE TABLE "+sqlName(table)+" (\n") && strings.Count(statement, ";") == 1 &&
		strings.HasSuffix(statement, ");\n")
}

// remark begins a remark of SQL.
const remark = "-- "

// Dialects are the dialects of SQL for which a table can be defined.
var Dialects = []string{"sqlite", "postgresql"}

// Definition returns the SQL statement that makes a table for the output, and, where that is delimited text, how the
// shell of the database loads it. Integers can be of any length, so that PostgreSQL has them as numeric.
func Definition(p *plan.Plan, table, dialect, output string, delimiter byte) string {
	var b strings.Builder
	fmt.Fprintf(&b, "CREATE TABLE %s (\n", sqlName(table))
	columns := p.Outputs()
	names := definedNames(columns, dialect)
	for i, c := range columns {
		typ := sqlite.Types[c.Convention.Type]
		if dialect == "postgresql" {
			typ = postgres.TypeOf(c.Convention.Type, c.Convention.Offsets)
		}
		end := ","
		if i == len(columns)-1 {
			end = ""
		}
		fmt.Fprintf(&b, "  %s %s%s\n", quoted(names[i]), typ, end)
	}
	b.WriteString(");\n")
	if delimiter != 0 {
		b.WriteString(loading(table, dialect, output, delimiter, columns, names))
	}
	return b.String()
}

// definedNames are the names of columns in a definition: none twice, and none that a server would cut.
func definedNames(columns []*plan.Column, dialect string) []string {
	names := make([]string, len(columns))
	taken := map[string]bool{}
	for i, c := range columns {
		name := cmp.Or(printing(c.Name), "column")
		if key := strings.ToLower(name); taken[key] && name != c.Name {
			name = plan.UniqueName(name, taken)
		}
		taken[strings.ToLower(name)] = true
		names[i] = name
	}
	if dialect == "postgresql" {
		return postgres.Kept(names)
	}
	return names
}

// loading says how the shell of a database loads delimited text, as remarks: other programs would not understand it.
func loading(table, dialect, output string, delimiter byte, columns []*plan.Column, names []string) string {
	file := "'" + strings.ReplaceAll(printing(output), "'", "''") + "'"
	if dialect == "postgresql" {
		options := "FORMAT csv, HEADER, ENCODING 'UTF8'"
		if delimiter == '\t' {
			options += `, DELIMITER E'\t'`
		}
		if len(names) == 1 {
			// A blank cell is written "", since an empty line would be no row.
			options += ", FORCE_NULL (" + quoted(names[0]) + ")"
		}
		return remark + "To load it with psql:\n" + remark + `\copy ` + sqlName(table) + " FROM " + file + " WITH (" +
			options + ")\n"
	}
	how := ".import --csv --skip 1 "
	if delimiter == '\t' {
		how = `.separator "\t"` + "\n" + remark + ".import --skip 1 "
	}
	set := make([]string, len(names))
	for i, n := range names {
		set[i] = quoted(n) + " = nullif(" + quoted(n) + ", '')"
		if columns[i].Convention.Type == value.Boolean {
			set[i] = quoted(n) + " = CASE " + quoted(n) + " WHEN 'true' THEN 1 WHEN 'false' THEN 0 END"
		}
	}
	return remark + "To load it with the shell of SQLite, for which an empty cell is an empty text, and true a text, " +
		"too:\n" + remark + how + file + " " + sqlName(table) + "\n" +
		remark + "UPDATE " + sqlName(table) + " SET " + strings.Join(set, ", ") + ";\n"
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
