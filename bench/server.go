package main

import (
	"fmt"
	"os"
	"os/exec"
	"strings"
)

// The server that -server measures is the one that psql reaches by itself.

// onServer returns the contestants that bring a file into a table of types: the usual way, which loads it as text and
// casts it with one query, and the program. Definition is the statement that makes the table.
func onServer(program, source, plan, script, definition string) ([]*contestant, error) {
	text, err := os.ReadFile(definition)
	if err != nil {
		return nil, err
	}
	_, columns, _ := strings.Cut(string(text), "(\n")
	columns, _, _ = strings.Cut(columns, "\n);")
	var texts, casts []string
	for line := range strings.Lines(columns) {
		name, typ, _ := strings.Cut(strings.TrimRight(strings.TrimSpace(line), ","), `" `)
		name += `"`
		texts = append(texts, name+" text")
		casts = append(casts, fmt.Sprintf("CAST(nullif(%s, '') AS %s) AS %s", name, typ, name))
	}
	statements := "DROP TABLE IF EXISTS bench_text, bench_cast;\nCREATE TABLE bench_text (" + strings.Join(texts, ", ") +
		");\n" +
		`\copy bench_text FROM '` + source + "' WITH (FORMAT csv, HEADER)\n" +
		"CREATE TABLE bench_cast AS SELECT " + strings.Join(casts, ", ") + " FROM bench_text;\n"
	if err := os.WriteFile(script, []byte(statements), 0o666); err != nil {
		return nil, err
	}
	return []*contestant{
		{name: "COPY as text and a cast query", args: []string{"psql", "-q", "-v", "ON_ERROR_STOP=1", "-f", script}},
		{
			name: "junvo convert --plan, into PostgreSQL", baseline: "COPY as text and a cast query",
			args: []string{
				program, "convert", source, "--plan", plan, "-o", "postgres://#bench_junvo", "--replace-table",
				"--failures", script + ".failures",
			},
		},
	}, exec.Command("psql", "-qc", "DROP TABLE IF EXISTS bench_junvo").Run()
}
