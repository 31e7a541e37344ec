package e2e

import (
	"encoding/json"
	"fmt"
	"maps"
	"math/rand/v2"
	"os"
	"regexp"
	"slices"
	"strconv"
	"strings"
	"testing"

	"github.com/stretchr/testify/require"

	"junvo/internal/nets"
)

// The oracle: random tables and plans, whose meaning a second implementation of the documented steps and functions works
// out, one cell at a time, in strings and fractions. What the program writes has to be the same, cell by cell, failure by
// failure, row by row.

// oracleRow is a row of the table: the texts of its cells, and what is known of them.
type oracleRow struct {
	above  *oracleRow        // the row before, nil for none
	texts  map[string]string // of columns of text
	wrote  map[string]string // numbers and days as they stand in the file
	values map[string]value  // and what they are
}

// pieces are what texts are made of: words, marks, spaces of all kinds, what does not print, other scripts.
var pieces = []string{
	"Marlies", "alte", "LIEBE", "lot", "kg", "Kg", "ii", "é", "e\u0301", "ß", "Ω", "数", "٣", "7", "12", "0", "08", "451", "1.5", "/", "/", "-", "–", ",", ", ", "(", ")",
	" ", " ", "  ", "\u00a0", "\u2009", "\u200b", "\t", "\n", "\"", ";", "$", ".", "_", "'", "|", "\\", "№",
}

func oracleText(r *rand.Rand) string {
	if r.IntN(12) == 0 {
		return []string{"", " ", "\u00a0 "}[r.IntN(3)]
	}
	var b strings.Builder
	for range 1 + r.IntN(7) {
		b.WriteString(pieces[r.IntN(len(pieces))])
	}
	return b.String()
}

// oracleNumber writes a number with a decimal comma and groups, and its value; some cells are none.
func oracleNumber(r *rand.Rand) (string, value) {
	switch r.IntN(9) {
	case 0:
		return "", value{}
	case 1:
		return []string{"acht", "1,2,3", "--", "7 bis 9"}[r.IntN(4)], value{failed: true}
	}
	whole, fraction := strconv.Itoa(r.IntN([]int{10, 1000, 2000000}[r.IntN(3)])), ""
	if r.IntN(2) == 0 {
		fraction = fmt.Sprintf("%0*d", 1+r.IntN(4), r.IntN(10))
	}
	if r.IntN(6) == 0 {
		whole = "-" + whole
	}
	text, wrote := whole, whole
	if n := len(strings.TrimPrefix(whole, "-")); n > 3 && r.IntN(2) == 0 {
		wrote = ""
		for i, c := range whole {
			if left := len(whole) - i; i > 0 && whole[i-1] != '-' && left%3 == 0 {
				wrote += "."
			}
			wrote += string(c)
		}
	}
	if fraction != "" {
		text, wrote = text+"."+fraction, wrote+","+fraction
	}
	return wrote, numbered(text)
}

// oracleDay writes a day as people do, and what it is.
func oracleDay(r *rand.Rand) (string, value) {
	switch r.IntN(10) {
	case 0:
		return " ", value{}
	case 1:
		return []string{"31.02.2021", "morgen", "1.13.2020"}[r.IntN(3)], value{failed: true}
	}
	y, m, d := 1990+r.IntN(50), 1+r.IntN(12), 1+r.IntN(28)
	return fmt.Sprintf("%02d.%02d.%d", d, m, y), day(y, m, d)
}

// oracleColumn is a column of the output with what it is to hold.
type oracleColumn struct {
	name, plan string
	of         func(row *oracleRow) value
	keeps      string // the column of the file whose text stays where a cell fails; "" for none
	aside      bool   // a cell that fails sets its row aside
	unique     bool   // later equal values fail
}

// filled is a step that gives blank cells a value, and what a cell gives with it and the steps after it.
func filled(r *rand.Rand, from string, chain []oracleStep) (string, func(row *oracleRow) value) {
	if r.IntN(2) == 0 {
		with := pick(r, "filled", "7", "lot 12/a")
		return "{fill: " + quoted(with) + "}", func(row *oracleRow) value {
			v := applied(chain, row.texts[from])
			if v.kind == 0 && !v.failed {
				return texted(with) // it is the value, and takes no more steps
			}
			return v
		}
	}
	return "{fill: {from: above}}", func(row *oracleRow) value {
		if v := applied(chain, row.texts[from]); v.kind != 0 || v.failed {
			return v
		}
		for above := row.above; above != nil; above = above.above {
			switch v := applied(chain, above.texts[from]); {
			case v.failed:
				return value{}
			case v.kind != 0: // else it is blank, or the steps leave it so
				return v
			}
		}
		return value{}
	}
}

// oraclePlan makes the columns of a plan: typed ones, texts that take steps, and computed ones; and the condition that a
// row has to meet, if there is one.
func oraclePlan(r *rand.Rand) (columns []oracleColumn, rows *expr) {
	known := func(name string) func(*oracleRow) value {
		return func(row *oracleRow) value { return row.values[name] }
	}
	n := oracleColumn{name: "n", of: known("N")}
	more := ""
	switch r.IntN(4) {
	case 0:
		n.keeps, more = "N", ", on-failure: keep-text"
	case 1:
		n.aside, more = true, ", on-failure: set-aside-row"
	}
	n.plan = `{from: N, to: decimal, decimal-mark: ",", group-marks: ["."]` + more + "}"
	columns = []oracleColumn{
		n,
		{name: "m", plan: `{from: M, to: decimal, decimal-mark: ",", group-marks: ["."]}`, of: known("M")},
		{name: "d", plan: `{from: D, to: date, date-order: dmy}`, of: known("D")},
		{name: "k", plan: `{from: K, to: code, must: {unique: true}}`, of: known("K"), unique: true},
	}
	types := map[string]byte{"n": 'n', "m": 'n', "d": 'd'}
	for i := range 3 {
		name, from := fmt.Sprintf("t%d", i), fmt.Sprintf("T%d", r.IntN(2))
		var chain []oracleStep
		for range r.IntN(4) {
			chain = append(chain, oracleSteps[r.IntN(len(oracleSteps))](r))
		}
		of := func(row *oracleRow) value { return applied(chain, row.texts[from]) }
		var written []string
		if r.IntN(4) == 0 {
			var fill string
			fill, of = filled(r, from, chain)
			written = append(written, fill)
		}
		for _, s := range chain {
			written = append(written, s.plan)
		}
		columns = append(columns, oracleColumn{name: name, plan: fmt.Sprintf("{from: %s, steps: [%s], to: text}", from, strings.Join(written, ", ")), of: of})
		types[name] = 't'
	}
	for i := range 3 {
		e := expression(r, types, []byte{'n', 't', 'b'}[r.IntN(3)], 3)
		inputs := slices.Clone(columns)
		of := func(row *oracleRow) value { return computed(e, inputs, row) }
		name := fmt.Sprintf("x%d", i)
		columns = append(columns, oracleColumn{name: name, plan: fmt.Sprintf("{compute: %s}", quoted(e.text)), of: of})
		types[name] = e.kind
	}
	switch r.IntN(3) {
	case 0:
		rows = expression(r, types, 'b', 2)
		rows.text = "keep: " + quoted(rows.text)
	case 1:
		drop := expression(r, types, 'b', 2)
		rows = &expr{"drop: " + quoted(drop.text), 'b', func(cells map[string]value) value {
			v := drop.of(cells)
			return verdict(!v.failed && !v.true) // a row stays where the condition is blank; one that is unclear goes
		}}
	}
	return columns, rows
}

// quoted writes a text for a plan.
func quoted(text string) string {
	out, _ := json.Marshal(text)
	return string(out)
}

// applied takes a cell through a chain: blank cells take no steps, and where one leaves nothing the others are passed over.
func applied(chain []oracleStep, text string) value {
	for _, s := range chain {
		if isBlank(text) {
			break
		}
		out, ok := s.of(text)
		if !ok {
			return value{failed: true}
		}
		text = out
	}
	if isBlank(text) {
		return value{}
	}
	return value{kind: 't', text: text}
}

// computed works an expression out over the columns before.
func computed(e *expr, inputs []oracleColumn, row *oracleRow) value {
	cells := map[string]value{}
	for _, c := range inputs {
		cells[c.name] = c.of(row)
	}
	v := e.of(cells)
	if v.kind == 'n' { // later columns see it as it is written
		v = numbered(v.written())
	}
	return v
}

func TestTheOracleAgrees(t *testing.T) {
	t.Parallel()
	told := func(name string, fallback uint64) uint64 {
		if os.Getenv(name) == "" {
			return fallback
		}
		n, err := strconv.ParseUint(os.Getenv(name), 10, 64)
		require.NoError(t, err)
		return n
	}
	seed := told("ORACLE_SEED", rand.Uint64())
	t.Logf("ORACLE_SEED=%d", seed)
	r := rand.New(rand.NewPCG(seed, 1))
	f := newFolder(t)
	for n := range told("ORACLE_PLANS", uint64(nets.Size(60, 200))) {
		if !oracleTry(t, f, r) {
			t.Fatalf("plan %d of ORACLE_SEED=%d", n, seed)
		}
	}
}

// oracleTry makes a table and a plan, runs it, and reports whether all came out as it has to.
func oracleTry(t *testing.T, f *folder, r *rand.Rand) bool {
	t.Helper()
	rows := make([]*oracleRow, 6+r.IntN(12))
	table := [][]string{{"T0", "T1", "N", "M", "D", "K"}}
	for i := range rows {
		row := &oracleRow{texts: map[string]string{}, wrote: map[string]string{}, values: map[string]value{}}
		if i > 0 {
			row.above = rows[i-1]
		}
		row.texts["T0"], row.texts["T1"] = oracleText(r)+"a", oracleText(r)
		if row.wrote["N"], row.values["N"] = oracleNumber(r); i == 0 { // words in all of a row right below the names are headings
			row.wrote["N"], row.values["N"] = "12", numbered("12")
		}
		row.wrote["M"], row.values["M"] = oracleNumber(r)
		row.wrote["D"], row.values["D"] = oracleDay(r)
		row.wrote["K"] = pick(r, "", "A1", "A2", "B07", "007", "7", "C", "D", "E")
		row.values["K"] = texted(row.wrote["K"])
		rows[i] = row
		table = append(table, []string{row.texts["T0"], row.texts["T1"], row.wrote["N"], row.wrote["M"], row.wrote["D"], row.wrote["K"]})
	}
	columns, keep := oraclePlan(r)
	var plan strings.Builder
	plan.WriteString("plan: 1\nsource: {encoding: utf-8, delimiter: \",\", header-row: 1}\n")
	order := pick(r, "", "", "order-by: [{n: descending}, d]")
	if columns[0].keeps != "" {
		order = "" // texts among numbers have no order of their own
	}
	if terms := strings.Trim(order+", "+condition(keep), ", "); terms != "" {
		fmt.Fprintf(&plan, "rows: {%s}\n", terms)
	}
	plan.WriteString("columns:\n")
	for _, c := range columns {
		fmt.Fprintf(&plan, "  %s: %s\n", c.name, c.plan)
	}
	f.file("a.csv", asCSV(t, table, ','))
	f.file("p.yaml", plan.String())
	_ = os.Remove(f.path("o.failures.csv"))
	res := f.run("convert", "a.csv", "--plan", "p.yaml", "-o", "o.csv")
	want, failures := oracleOutput(rows, columns, keep, order != "")
	say := func(what string, args ...any) bool {
		t.Errorf(what+"\nplan:\n%s\ntable:\n%s\n%s%s", append(args, plan.String(), f.read("a.csv"), res.out, res.err)...)
		return false
	}
	if res.code > 1 {
		return say("exit code %d", res.code)
	}
	got := f.records("o.csv")[1:]
	if len(got) != len(want) {
		return say("%d rows came out, and not %d", len(got), len(want))
	}
	for i := range want {
		for j := range columns {
			if got[i][j] != want[i][j] {
				return say("row %d of the output, column %s: %q, and not %q; all:\n%q\nand not\n%q", i+1, columns[j].name, got[i][j], want[i][j], got, want)
			}
		}
	}
	told := map[string]bool{}
	if _, err := os.Stat(f.path("o.failures.csv")); err == nil {
		for _, line := range f.records("o.failures.csv")[1:] {
			told[line[0]+" "+line[2]] = true
		}
	}
	if !maps.Equal(told, failures) {
		return say("failures %v, and not %v", slices.Sorted(maps.Keys(told)), slices.Sorted(maps.Keys(failures)))
	}
	return true
}

// decides reports whether a condition uses a column, if only by way of others: its failures are told even where the row
// is left out, since they may be why.
func decides(keep *expr, name string, columns []oracleColumn) bool {
	if keep == nil {
		return false
	}
	uses := func(text string) bool { return regexp.MustCompile(`\b` + name + `\b`).MatchString(text) }
	if uses(keep.text) {
		return true
	}
	for _, c := range columns {
		if text, computed := strings.CutPrefix(c.plan, "{compute:"); computed && uses(text) && decides(keep, c.name, columns) {
			return true
		}
	}
	return false
}

// condition is the text of an expression, "" for none.
func condition(e *expr) string {
	if e == nil {
		return ""
	}
	return e.text
}

// oracleOutput works out the rows of the output, and which cells fail, as row and column.
func oracleOutput(rows []*oracleRow, columns []oracleColumn, keep *expr, ordered bool) (want [][]string, failures map[string]bool) {
	failures = map[string]bool{}
	seen := map[string]bool{}
	var keys []map[string]value
	for i, row := range rows {
		cells, line := map[string]value{}, make([]string, len(columns))
		aside := false
		for j, c := range columns {
			v := c.of(row)
			cells[c.name], line[j] = v, v.written()
			if v.failed && c.keeps != "" {
				line[j] = row.wrote[c.keeps]
			}
			aside = aside || v.failed && c.aside
		}
		out := !aside && (keep == nil || keep.of(cells).true)
		for j, c := range columns {
			if out && c.unique && line[j] != "" {
				if seen[line[j]] {
					cells[c.name], line[j] = value{failed: true}, ""
				}
				seen[c.of(row).written()] = true
			}
		}
		if out {
			want, keys = append(want, line), append(keys, cells)
		}
		for _, c := range columns {
			if cells[c.name].failed && (out || aside || decides(keep, c.name, columns)) {
				failures[fmt.Sprint(i+1, " ", c.name)] = true
			}
		}
	}
	if ordered {
		want = orderedRows(want, keys)
	}
	return want, failures
}

// orderedRows orders rows by n from the largest down and then by d, blanks last, equal ones as they came.
func orderedRows(rows [][]string, keys []map[string]value) (out [][]string) {
	at := make([]int, len(rows))
	for i := range at {
		at[i] = i
	}
	slices.SortStableFunc(at, func(a, b int) int {
		x, y := keys[a]["n"], keys[b]["n"]
		none := func(v value) bool { return v.failed || v.kind == 0 }
		switch {
		case none(x) != none(y):
			if none(x) {
				return 1
			}
			return -1
		case !none(x) && y.number.Cmp(x.number) != 0:
			return y.number.Cmp(x.number)
		}
		x, y = keys[a]["d"], keys[b]["d"]
		if none(x) != none(y) {
			if none(x) {
				return 1
			}
			return -1
		}
		return strings.Compare(x.written(), y.written())
	})
	for _, i := range at {
		out = append(out, rows[i])
	}
	return out
}
