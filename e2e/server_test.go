//go:build unix

package e2e

import (
	"context"
	"fmt"
	"os"
	"os/exec"
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"junvo/internal/nets"
	"junvo/internal/table/postgres/pgtest"
)

// The demo goes into a server and comes back as it would have gone into a file, in place too.
func TestTablesOfAServer(t *testing.T) {
	server := pgtest.Start(t, 0)
	server.Do(t, "CREATE SCHEMA raw; CREATE SCHEMA clean")
	f := newFolder(t)
	require.Equal(t, 0, f.run("demo", ".", "--rows", "3000").code)
	require.Equal(t, 1, f.run("convert", "landings.csv", "-o", "file.csv", "--plan", "intake.plan.yaml").code)
	r := f.run("convert", "landings.csv", "-o", "postgres://#clean.landings", "--plan", "intake.plan.yaml", "--failures-table", "clean.failures",
		"--set-aside-table", "clean.aside", "--ledger", "l.json")
	require.Equal(t, 1, r.code, r.err)
	assert.Contains(t, r.out, "wrote: postgres://#clean.landings (3000 rows)")
	assert.Contains(t, f.read("l.json"), `"failures": "clean.failures"`)
	failures := f.records("file.failures.csv")[1:]
	assert.Equal(t, [][]string{{fmt.Sprint(len(failures))}}, server.Do(t, "SELECT count(*) FROM clean.failures"))
	assert.Equal(t, [][]string{{"3000", "date", "numeric", "boolean"}}, server.Do(t,
		`SELECT count(*), pg_typeof(min("Landed on")), pg_typeof(min("Net weight")), pg_typeof(bool_and("Inspected")) FROM clean.landings`))
	// What came in is what a file would hold: by COPY of the server, which knows nothing of us.
	out := server.Do(t, `SELECT sum("Net weight"), count("Net weight"), sum("Balance"), count(DISTINCT "Landing No.") FROM clean.landings`)
	totals := f.run("totals", "file.csv", "--sum", "Net weight", "--sum", "Balance", "--distinct", "Landing No.", "--as", "Landing No.=code", "-o", "t.csv")
	require.Equal(t, 0, totals.code, totals.err)
	sums := strings.Join(f.records("t.csv")[1], " ")
	assert.Contains(t, sums, out[0][0])
	assert.Contains(t, sums, out[0][2])
	require.Equal(t, 0, f.run("convert", "postgres://#clean.landings", "-o", "back.csv", "--raw").code&^3)
	assert.NotContains(t, f.names(), "clean.landings.failures.csv")

	// The rows set aside have their cells as a list.
	assert.Equal(t, [][]string{{"1", "above-header", `["Port of Nordhaven;landing records"]`}},
		server.Do(t, "SELECT line, reason, cells FROM clean.aside ORDER BY line::int LIMIT 1"))

	// In place: text in, types out, on one server.
	server.Do(t, `CREATE TABLE raw.landings (no text, kg text, at text);
INSERT INTO raw.landings SELECT lpad(g::text, 6, '0'), g || ',5 kg', '2' || (g % 9) || '.03.2021' FROM generate_series(1, 5000) g`)
	r = f.run("convert", "postgres://#raw.landings", "-o", "postgres://#clean.places")
	require.Equal(t, 0, r.code, r.err+r.out)
	assert.Equal(t, [][]string{{"12505000.0", "000001", "2021-03-28"}}, server.Do(t, "SELECT sum(kg), min(no), max(at) FROM clean.places"))
	again := f.run("convert", "postgres://#raw.landings", "-o", "postgres://#clean.places", "--plan", "clean.places.plan.yaml")
	assert.Equal(t, 2, again.code)
	assert.Contains(t, again.err, "the database has a table of that name already: clean.places; name another one after #, or say --append or --replace-table")
	for flag, rows := range map[string]string{"--append": "10000", "--replace-table": "5000"} {
		r = f.run("convert", "postgres://#raw.landings", "-o", "postgres://#clean.places", "--plan", "clean.places.plan.yaml", flag)
		require.Equal(t, 0, r.code, r.err)
		assert.Equal(t, [][]string{{rows}}, server.Do(t, "SELECT count(*) FROM clean.places"), flag)
		server.Do(t, "DELETE FROM clean.places WHERE kg > 0 AND ctid NOT IN (SELECT ctid FROM clean.places LIMIT 5000)")
	}
	// No table but a list of an earlier run gives way to a list, and no answers do.
	server.Do(t, "CREATE TABLE dear AS SELECT 1 AS a")
	for name, want := range map[string]string{
		"dear": "public.dear is there and is no list of an earlier run", "clean.places": "the database has a table of that name already as another of this run: clean.places",
	} {
		r = f.run("convert", "postgres://#raw.landings", "-o", "postgres://#clean.places", "--plan", "clean.places.plan.yaml", "--replace-table", "--failures-table", name)
		assert.Contains(t, r.err, want)
	}
	list := []string{"convert", "landings.csv", "-o", "postgres://#clean.landings", "--plan", "intake.plan.yaml", "--failures-table", "clean.failures", "--set-aside-table", "clean.aside", "--replace-table"}
	assert.Equal(t, 1, f.run(list...).code, "a list of an earlier run does")
	server.Do(t, "UPDATE clean.failures SET fix = '7' WHERE row = (SELECT min(row) FROM clean.failures)")
	assert.Contains(t, f.run(list...).err, "clean.failures has answers in its column fix")
	assert.Equal(t, [][]string{{"1", "1", "3000"}}, server.Do(t, "SELECT (SELECT count(*) FROM dear), (SELECT count(*) FROM clean.failures WHERE fix = '7'), (SELECT count(*) FROM clean.landings)"))
	r = f.run("convert", "postgres://#raw.landings", "-o", "postgres://#raw.landings", "--plan", "clean.places.plan.yaml", "--replace-table")
	assert.Equal(t, 2, r.code)
	assert.Contains(t, r.err, "so that it can't be the output too")
	for _, args := range [][]string{{"check", "--plan", "clean.places.plan.yaml", "postgres://#raw.landings"}, {"preview", "postgres://#raw.landings", "--plan", "clean.places.plan.yaml"}, {"profile", "postgres://#*.places", "--each"}, {"why", "postgres://#raw.landings", "--row", "3", "--column", "kg"}} {
		r := f.run(args...)
		assert.Equal(t, 0, r.code, "%v %s", args, r.err)
	}
}

// What a plan holds its values to, the new table is held to.
func TestServerTablesAreHeldToThePlan(t *testing.T) {
	server := pgtest.Start(t, 0)
	f := newFolder(t)
	f.file("a.csv", "no,n,x\n1,5,a\n2,,b\n3,7,\n")
	f.file("p.yaml", `plan: 1
columns:
  "no": {to: code, must: {unique: true, not-blank: true}, on-failure: set-aside-row}
  "n": {to: integer, must: {not-blank: true, between: [1, 99]}, on-failure: set-aside-row}
  "x": {to: text, must: {not-blank: true}}
`)
	r := f.run("convert", "a.csv", "-o", "postgres://#t", "--plan", "p.yaml")
	require.Equal(t, 1, r.code, r.err)
	assert.Equal(t, [][]string{{"1", "5", "a"}, {"3", "7", "∅"}}, server.Do(t, "SELECT * FROM t ORDER BY no"))
	assert.Equal(t, [][]string{{"no", "t"}, {"n", "t"}, {"x", "f"}}, server.Do(t, "SELECT attname, attnotnull FROM pg_attribute WHERE attrelid = 't'::regclass AND attnum > 0 ORDER BY attnum"))
	assert.Equal(t, [][]string{{"bigint", "text"}}, server.Do(t, "SELECT pg_typeof(n), pg_typeof(x) FROM t LIMIT 1"), "what is known to have 64 bits")
	assert.Equal(t, [][]string{{"UNIQUE (no)"}}, server.Do(t, "SELECT pg_get_constraintdef(oid) FROM pg_constraint WHERE conrelid = 't'::regclass"))
}

// After a fault of the server nothing is there that was not there before, and it is said what happened.
func TestServersThatFail(t *testing.T) {
	server := pgtest.Start(t, 0)
	server.Do(t, "CREATE TABLE big AS SELECT g AS a, repeat('x', 300) AS b FROM generate_series(1, 200000) g; CREATE TABLE old AS SELECT 1 AS a")
	f := newFolder(t)
	f.file("p.yaml", "plan: 1\ncolumns:\n  a: {to: integer}\n  b: {to: text}\n")
	slow := "SELECT a, b || pg_sleep(CASE WHEN a % 100 = 0 THEN 0.01 ELSE 0 END)::text AS b FROM big"

	locker := server.Session(t)
	_, err := locker.Exec(context.Background(), "BEGIN; LOCK TABLE old; LOCK TABLE big").ReadAll()
	require.NoError(t, err)
	t.Setenv("PGOPTIONS", "-c lock_timeout=200")
	for _, args := range [][]string{{"profile", "postgres://#big"}, {"convert", "postgres://", "--query", "SELECT 1 AS a, 'x' AS b", "-o", "postgres://#old", "--plan", "p.yaml", "--replace-table"}} {
		r := f.run(args...)
		assert.Contains(t, []int{3, 4}, r.code, args)
		assert.Contains(t, r.err, "another session holds a lock on the table", args)
	}
	_, err = locker.Exec(context.Background(), "ROLLBACK").ReadAll()
	require.NoError(t, err)

	// The process of the server that reads, and the one that writes, end while they work.
	for _, which := range []string{"COPY (%", "COPY \"public\"%"} {
		cmd := exec.Command(junvo, "convert", "postgres://", "--query", slow, "-o", "postgres://#new", "--plan", "p.yaml", "--failures", f.path("x.csv"), "--set-aside", f.path("y.csv"))
		var said strings.Builder
		cmd.Stderr, cmd.Dir = &said, f.dir
		require.NoError(t, cmd.Start())
		require.Eventually(t, func() bool {
			rows := server.Do(t, "SELECT pg_terminate_backend(pid) FROM pg_stat_activity WHERE query LIKE '"+which+"' AND state = 'active' AND pid <> pg_backend_pid()")
			return len(rows) > 0
		}, 20*time.Second, 20*time.Millisecond)
		require.Error(t, cmd.Wait())
		assert.Contains(t, []int{3, 4}, cmd.ProcessState.ExitCode(), which)
		assert.Contains(t, said.String(), "terminating connection due to administrator command", which)
		assert.Equal(t, [][]string{{"∅"}}, server.Do(t, "SELECT to_regclass('new')"), which)
	}

	// An interrupt leaves the older table as it was.
	cmd := exec.Command(junvo, "convert", "postgres://", "--query", slow, "-o", "postgres://#old", "--plan", "p.yaml", "--replace-table", "--failures", f.path("x.csv"), "--set-aside", f.path("y.csv"))
	cmd.Dir = f.dir
	require.NoError(t, cmd.Start())
	require.Eventually(t, func() bool {
		return len(server.Do(t, "SELECT 1 FROM pg_stat_activity WHERE query LIKE 'COPY \"public\"%' AND pid <> pg_backend_pid()")) > 0
	}, 20*time.Second, 20*time.Millisecond)
	require.NoError(t, cmd.Process.Signal(os.Interrupt))
	_ = cmd.Wait()
	assert.Equal(t, 130, cmd.ProcessState.ExitCode())
	assert.Eventually(t, func() bool {
		return len(server.Do(t, "SELECT 1 FROM pg_stat_activity WHERE application_name = '' AND state <> 'idle' AND pid <> pg_backend_pid() AND query LIKE 'COPY%'")) == 0
	}, 20*time.Second, 50*time.Millisecond, "the server has taken it back")
	assert.Equal(t, [][]string{{"1"}}, server.Do(t, "SELECT count(*) FROM old"))

	// The server is gone, as when its machine fails.
	cmd = exec.Command(junvo, "convert", "postgres://", "--query", slow, "-o", f.path("file.csv"), "--plan", f.path("p.yaml"), "--replace")
	var said strings.Builder
	cmd.Stderr = &said
	require.NoError(t, cmd.Start())
	require.Eventually(t, func() bool {
		return len(server.Do(t, "SELECT 1 FROM pg_stat_activity WHERE query LIKE 'COPY (%' AND state = 'active' AND pid <> pg_backend_pid()")) > 0
	}, 20*time.Second, 20*time.Millisecond)
	server.Kill()
	require.Error(t, cmd.Wait())
	assert.Equal(t, 3, cmd.ProcessState.ExitCode(), said.String())
	assert.Contains(t, said.String(), "the table could be read up to row ")
	assert.NoFileExists(t, f.path("file.csv"))
	r := f.run("profile", "postgres://#big")
	assert.Equal(t, 3, r.code)
	assert.Contains(t, r.err, "the server can't be reached: ")
}

// A server whose disk takes no more says so, and has nothing of the table.
func TestServerWithAFullDisk(t *testing.T) {
	server := pgtest.Start(t, 32<<10)
	f := newFolder(t)
	f.file("a.csv", "a,b\n"+strings.Repeat("1,"+strings.Repeat("x", 900)+"\n", 50_000))
	r := f.run("convert", "a.csv", "-o", "postgres://#t")
	assert.Equal(t, 4, r.code, r.err)
	assert.Contains(t, r.err, "can't write: could not ")
	assert.NotContains(t, r.err, "\n\n")
	assert.Equal(t, [][]string{{"∅"}}, server.Do(t, "SELECT to_regclass('t')"))
	assert.Equal(t, []string{"a.csv"}, visible(f.names()))
}

// A definition makes a table that takes what was written, blanks as null and names as they are kept, by the shells that
// people have.
func TestDefinitionsLoad(t *testing.T) {
	pgtest.Start(t, 0)
	f := newFolder(t)
	long := strings.Repeat("a very long name ", 5)
	f.file("a.csv", "\""+long+"1\",\""+long+"2\",it's,\"say \"\"x\"\"\"\n1,2021-03-04,\"a, \"\"b\"\"\nc\",true\n,,x,\n-0.5,2021-03-05,\\.,false\n")
	f.file("b.csv", "n\n7\n\"\"\n9\n")
	f.file("c.csv", "x\n\\.\n\"\"\nNULL and void\n")
	for name, want := range map[string]string{
		"a": "", "b": "3|2", "c": "3|2",
	} {
		for _, ending := range []string{".csv", ".tsv"} {
			for _, dialect := range []string{"postgresql", "sqlite"} {
				stem := name + "-" + dialect + ending[1:]
				require.Equal(t, 0, f.run("convert", name+".csv", "-o", stem+ending, "--ddl", dialect).code)
				script, remarks, _ := strings.Cut(f.read(stem+".sql"), "-- To load it")
				_, remarks, _ = strings.Cut(remarks, "\n")
				script += strings.ReplaceAll(remarks, "-- ", "")
				counts := []string{"count(*)"}
				for i := range len(strings.Split(want, "|")) - 1 {
					counts = append(counts, "count("+strings.Fields(strings.Split(script, "\n")[i+1])[0]+")")
				}
				if name == "a" {
					counts = []string{"*"}
				}
				script += "SELECT " + strings.Join(counts, ", ") + " FROM \"" + stem + "\";\n"
				cmd := exec.Command("psql", "-Atq", "-v", "ON_ERROR_STOP=1")
				if dialect == "sqlite" {
					cmd = exec.Command("sqlite3", "-bail")
				}
				nets.Program(t, cmd.Args[0])
				cmd.Dir, cmd.Stdin = f.dir, strings.NewReader(script)
				out, err := cmd.CombinedOutput()
				require.NoError(t, err, "%s\n%s", script, out)
				got := strings.ReplaceAll(strings.TrimSpace(string(out)), "\t", "|")
				if name == "a" && dialect == "postgresql" {
					want := "1|2021-03-04|a, \"b\"\nc|t\n||x|\n-0.5|2021-03-05|\\.|f"
					assert.Equal(t, want, got, script)
				} else if name == "a" {
					assert.Equal(t, "1|2021-03-04|a, \"b\"\nc|1\n||x|\n-0.5|2021-03-05|\\.|0", got, script)
				} else {
					assert.Equal(t, want, got, script)
				}
			}
		}
	}
}

// A password is in no output, plan, ledger or error.
func TestPasswordsAreNotTold(t *testing.T) {
	t.Parallel()
	f := newFolder(t)
	f.file("a.csv", "a\n1\n")
	for _, args := range [][]string{
		{"profile", "postgres://q:secret@h/db#t"},
		{"convert", "a.csv", "-o", "postgres://q:secret@h/db#t"},
		{"convert", "a.csv", "-opostgres://h/db?password=secret#t"},
		{"draft", "postgres://q:secret@h/db#t", "-o", "p.yaml"},
		{"nothing", "postgres://q:se#cret@h/db"},
	} {
		r := f.run(args...)
		assert.Equal(t, 2, r.code, args)
		assert.Contains(t, r.err, "a password does not belong into an address", args)
		assert.NotContains(t, r.err+r.out, "secret", args)
	}
	assert.Equal(t, []string{"a.csv"}, f.names())
	for _, args := range [][]string{
		{"convert", "a.csv", "-o", "postgres://h/db"},
		{"convert", "a.csv", "-o", "o.csv", "--append"},
		{"convert", "a.csv", "-o", "o.csv", "--failures-table", "t"},
		{"convert", "a.csv", "-o", "postgres://h/db#t", "--append", "--replace-table"},
		{"convert", "a.csv", "-o", "postgres://h/db#t", "--failures-table", "t", "--failures", "f.csv"},
		{"convert", "a.csv", "-o", "postgres://h/db#t", "--metadata"},
	} {
		assert.Equal(t, 2, f.run(args...).code, args)
	}
}
