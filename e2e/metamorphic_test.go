package e2e

import (
	"bytes"
	"encoding/csv"
	"encoding/json"
	"fmt"
	"math/rand/v2"
	"slices"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"junvo/internal/nets"
)

// messyColumn makes a column of one kind, with intruders.
type messyColumn struct {
	name string
	cell func(r *rand.Rand, row int) string
}

var intruders = []string{"", "", " ", "n/a", "-", "see list", "12 (4)", "x", "?", "\u00a0"}

// messyColumns are columns as people write them.
var messyColumns = []messyColumn{
	{"No.", func(_ *rand.Rand, row int) string { return fmt.Sprintf("%05d", row+17) }},
	{"Weight", func(r *rand.Rand, _ int) string {
		return fmt.Sprintf("%d.%03d,%d kg", r.IntN(9)+1, r.IntN(1000), r.IntN(10))
	}},
	{"Price", func(r *rand.Rand, _ int) string { return fmt.Sprintf("€ %d,%02d", r.IntN(90), r.IntN(100)) }},
	{"Landed", func(r *rand.Rand, _ int) string {
		return fmt.Sprintf("%02d.%02d.2021", r.IntN(28)+1, r.IntN(12)+1)
	}},
	{"US day", func(r *rand.Rand, _ int) string { return fmt.Sprintf("%d/%d/21", r.IntN(12)+1, r.IntN(28)+1) }},
	{"Stamp", func(r *rand.Rand, _ int) string {
		return fmt.Sprintf("2021-03-%02dT%02d:%02d:07Z", r.IntN(28)+1, r.IntN(24), r.IntN(60))
	}},
	{"Ok", func(r *rand.Rand, _ int) string { return []string{"ja", "nein", "JA"}[r.IntN(3)] }},
	{"Share", func(r *rand.Rand, _ int) string { return fmt.Sprintf("%d,%d %%", r.IntN(100), r.IntN(10)) }},
	{"Balance", func(r *rand.Rand, _ int) string {
		if r.IntN(3) == 0 {
			return fmt.Sprintf("(%d,%03d.5)", r.IntN(9)+1, r.IntN(1000))
		}
		return fmt.Sprintf("%d,%03d.%02d", r.IntN(9)+1, r.IntN(1000), r.IntN(100))
	}},
	{"Port", func(r *rand.Rand, _ int) string { return []string{"NH", "QN", "NA", "NO"}[r.IntN(4)] }},
	{"Note", func(r *rand.Rand, _ int) string {
		return []string{"fresh", "iced, 2 h", "a \"b\"", "two\nlines", "Größe", "lot 7; crate 9"}[r.IntN(6)]
	}},
	{"Time", func(r *rand.Rand, _ int) string { return fmt.Sprintf("%d:%02d pm", r.IntN(11)+1, r.IntN(60)) }},
}

// messyTable makes a table of some of the columns, the names first.
func messyTable(r *rand.Rand, rows int) [][]string {
	columns := slices.Clone(messyColumns)
	r.Shuffle(len(columns), func(i, j int) { columns[i], columns[j] = columns[j], columns[i] })
	columns = columns[:4+r.IntN(6)]
	table := [][]string{make([]string, len(columns))}
	for i, c := range columns {
		table[0][i] = c.name
	}
	share := 4 + r.IntN(60)
	for row := range rows {
		line := make([]string, len(columns))
		for i, c := range columns {
			if line[i] = c.cell(r, row); r.IntN(share) == 0 {
				line[i] = intruders[r.IntN(len(intruders))]
			}
		}
		table = append(table, line)
	}
	return table
}

func asCSV(t *testing.T, table [][]string, d rune) string {
	t.Helper()
	var b bytes.Buffer
	w := csv.NewWriter(&b)
	w.Comma = d
	require.NoError(t, w.WriteAll(table))
	return b.String()
}

// columnsOf turns a table that is CSV into its columns by name.
func byColumn(t *testing.T, text string) map[string][]string {
	t.Helper()
	records, err := csv.NewReader(strings.NewReader(text)).ReadAll()
	require.NoError(t, err)
	columns := map[string][]string{}
	for i, name := range records[0] {
		for _, r := range records[1:] {
			columns[name] = append(columns[name], r[i])
		}
	}
	return columns
}

// terms are what a plan says of columns in canonical form.
var terms = map[string]string{"decimal": `, decimal-mark: "."`, "timestamp": ", offsets: true"}

// What a table becomes does not depend on the order of its columns, on the delimiter, on how its rows are distributed among
// files, or on the format that its texts stand in; and what has been converted stays as it is.
func TestTheSameTableInOtherForms(t *testing.T) {
	t.Parallel()
	for seed := range uint64(nets.Size(4, 12)) {
		r := rand.New(rand.NewPCG(seed, 3))
		table := messyTable(r, 40+r.IntN(400))
		f := newFolder(t)
		f.file("a.csv", asCSV(t, table, ','))
		one := f.run("convert", "a.csv", "-o", "one.csv")
		require.LessOrEqual(t, one.code, 1, one.err)
		want := byColumn(t, f.read("one.csv"))

		turned := make([][]string, len(table))
		order := r.Perm(len(table[0]))
		for i, row := range table {
			for _, c := range order {
				turned[i] = append(turned[i], row[c])
			}
		}
		f.file("turned.csv", asCSV(t, turned, ';'))
		f.run("convert", "turned.csv", "-o", "turned-out.csv")
		assert.Equal(t, want, byColumn(t, f.read("turned-out.csv")), "seed %d: columns in another order", seed)

		cut := 1 + len(table)/3
		f.file("p1.csv", asCSV(t, table[:cut], ','))
		f.file("p2.csv", asCSV(t, append([][]string{table[0]}, table[cut:]...), ','))
		f.run("convert", "p1.csv", "p2.csv", "-o", "parts.csv")
		assert.Equal(t, f.read("one.csv"), f.read("parts.csv"), "seed %d: in two files", seed)

		var lines strings.Builder
		for _, row := range table[1:] {
			record := map[string]string{}
			for i, name := range table[0] {
				record[name] = row[i]
			}
			doc, err := json.Marshal(record)
			require.NoError(t, err)
			lines.Write(append(doc, '\n'))
		}
		f.file("a.jsonl", lines.String())
		f.run("convert", "a.jsonl", "-o", "records.csv")
		assert.Equal(t, want, byColumn(t, f.read("records.csv")), "seed %d: as JSON lines", seed)

		// With the types that it has now, all is right already.
		plan := "plan: 1\ncolumns:\n"
		for _, line := range strings.Split(one.out, "\n") {
			for _, name := range table[0] {
				if rest, ok := strings.CutPrefix(line, name+" "); ok && strings.Contains(rest, "  ") {
					plan += fmt.Sprintf("  %q: {to: %s%s}\n", name, strings.Fields(rest)[0], terms[strings.Fields(rest)[0]])
				}
			}
		}
		f.file("again.yaml", plan)
		again := f.run("convert", "one.csv", "-o", "again.csv", "--plan", "again.yaml")
		assert.Equal(t, 0, again.code, "seed %d: %s%s", seed, again.out, again.err)
		assert.Equal(t, f.read("one.csv"), f.read("again.csv"), "seed %d: once more", seed)
	}
}
