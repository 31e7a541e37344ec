//go:build unix

package postgres_test

import (
	"fmt"
	"hash/fnv"
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"junvo/internal/nets"
	"junvo/internal/table"
	"junvo/internal/table/postgres"
	"junvo/internal/table/postgres/pgtest"
	"junvo/internal/table/tabletest"
	"junvo/internal/value"
)

// Every type comes back from the database as it went in.
func TestSuite(t *testing.T) {
	server := pgtest.Start(t, 0)
	named := func(path string) string {
		h := fnv.New32()
		_, _ = h.Write([]byte(path))
		return fmt.Sprintf("public.t%d", h.Sum32())
	}
	tabletest.Sinks(t, tabletest.Format{
		Create: func(path string, fields []table.Field) (table.Sink, error) {
			if strings.Contains(path, "no/such") {
				return postgres.NewSink("postgres://", fields, postgres.SinkOptions{Table: "such.t"})
			}
			return postgres.NewSink("postgres://", fields, postgres.SinkOptions{Table: named(path)})
		},
		Open: func(path string) (table.Source, error) { return postgres.Open("postgres://", named(path), "") },
		There: func(path string) bool {
			rows := server.Do(t, "SELECT to_regclass('"+named(path)+"')")
			return rows[0][0] != "∅"
		},
		Typed: true,
		Same: func(typ value.Type, wrote, read string) bool {
			a, err1 := time.Parse(time.RFC3339Nano, wrote)
			b, err2 := time.Parse(time.RFC3339Nano, read)
			return typ == value.Timestamp && err1 == nil && err2 == nil && a.Equal(b) // the server keeps the moment
		},
	})
}

// cells reads all cells of a table, each with how it is stored.
func cells(t *testing.T, src table.Source) (out [][]string) {
	t.Helper()
	for {
		b := &table.Block{}
		if err := src.Next(b); err != nil {
			return out
		}
		src.Split(b)
		for r := range b.Rows {
			var row []string
			for c := range b.Width {
				row = append(row, string(b.Cell(r, c))+" "+b.Kinds[r*b.Width+c].String())
			}
			out = append(out, row)
		}
	}
}

// The nastiest values of every type of the server.
func TestStoredKinds(t *testing.T) {
	server := pgtest.Start(t, 0)
	server.Do(t, `CREATE TYPE colour AS ENUM ('red', 'blue'); CREATE DOMAIN weight AS numeric(10, 3)`)
	for _, tt := range []struct{ of, value, want string }{
		{"smallint", "(-32768)", "-32768 number"},
		{"bigint", "9223372036854775807", "9223372036854775807 number"},
		{"oid", "4294967295", "4294967295 number"},
		{"numeric", "'-0.000001'", "-0.000001 number"},
		{"numeric", "1e40", "1" + strings.Repeat("0", 40) + " number"},
		{"numeric(12,2)", "1.5", "1.50 number"},
		{"numeric", "'NaN'", "NaN error"},
		{"numeric", "'-Infinity'", "-Infinity error"},
		{"real", "0.1", "0.1 number"},
		{"real", "1e-30", "0." + strings.Repeat("0", 29) + "1 number"},
		{"double precision", "1.5e20", "150000000000000000000 number"},
		{"double precision", "'Infinity'", "Infinity error"},
		{"double precision", "'NaN'", "NaN error"},
		{"boolean", "true", "true boolean"},
		{"boolean", "false", "false boolean"},
		{"boolean", "null", " null"},
		{"date", "'2024-02-29'", "2024-02-29 date"},
		{"date", "'infinity'", "infinity text"},
		{"date", "'0044-03-15 BC'", "0044-03-15 BC text"},
		{"date", "'10000-01-01'", "10000-01-01 text"},
		{"time", "'06:05:00.25'", "06:05:00.25 date"},
		{"timetz", "'06:05+02'", "06:05:00+02 text"},
		{"timestamp", "'2021-03-04 06:05:00.123456'", "2021-03-04T06:05:00.123456 date"},
		{"timestamp", "'-infinity'", "-infinity text"},
		{"timestamp", "'0044-03-15 06:05 BC'", "0044-03-15 06:05:00 BC text"},
		{"timestamptz", "'2021-03-04 06:05+02'", "2021-03-04T04:05:00Z date"},
		{"timestamptz", "'2021-03-04 06:05:00.5-07:30'", "2021-03-04T13:35:00.5Z date"},
		{"timestamptz", "'0044-03-15 06:05+00 BC'", "0044-03-15 06:05:00+00 BC text"},
		{"text", "''", " text"},
		{"text", "null", " null"},
		{"text", `'\N'`, `\N text`},
		{"text", `E'a\tb\nc\\d\re\x0bf\bg\fh\x7f'`, "a\tb\nc\\d\re\vf\bg\fh\x7f text"},
		{"text", `U&'\FEFF\00A0\+01F41F'`, "\ufeff\u00a0\U0001f41f text"},
		{"char(5)", "'ab'", "ab    text"},
		{"uuid", "'00000000-0000-0000-0000-00000000abcd'", "00000000-0000-0000-0000-00000000abcd text"},
		{"text[]", `ARRAY['a b', NULL, '\']`, `{"a b",NULL,"\\"} text`},
		{"json", `'{"a": "x\n"}'`, `{"a": "x\n"} text`},
		{"bytea", `'\x00ff0a'`, "x'00ff0a' text"},
		{"bytea", `''`, "x'' text"},
		{"interval", "'1 day 2 hours'", "P1DT2H text"},
		{"money", "'1234.5'", "$1,234.50 text"},
		{"colour", "'red'", "red text"},
		{"weight", "1.5", "1.500 number"},
		{"inet", "'10.0.0.1/8'", "10.0.0.1/8 text"},
	} {
		query := fmt.Sprintf("SELECT x, 'end' FROM (SELECT %s::%s AS x) s", tt.value, tt.of)
		src, err := postgres.Open("postgres://", "", query)
		if !assert.NoError(t, err, query) {
			continue
		}
		assert.Equal(t, [][]string{{tt.want, "end text"}}, cells(t, src), query)
		require.NoError(t, src.Close())
	}
}

// Names are names, whatever stands in them; and one statement is one.
func TestNamesAndQueries(t *testing.T) {
	server := pgtest.Start(t, 0)
	evil := `x"; DROP TABLE public.dear; --`
	server.Do(t, `CREATE TABLE dear (a int); INSERT INTO dear VALUES (1); CREATE SCHEMA "s.t"; CREATE TABLE "s.t"."Q" (a int)`)
	fields := []table.Field{
		{Name: `a"; DROP TABLE dear; --`, Type: value.Text},
		{Name: strings.Repeat("ü", 40), Type: value.Text},
		{Name: strings.Repeat("ü", 41), Type: value.Text},
	}
	s, err := postgres.NewSink("postgres://", fields, postgres.SinkOptions{Table: "public." + evil})
	require.NoError(t, err)
	rows := tabletest.OneRow(fields, `\.`, "it's", "")
	require.NoError(t, s.Write(s.Encode(nil, rows), rows))
	require.NoError(t, s.Commit())
	src, err := postgres.Open("postgres://", evil, "")
	require.NoError(t, err)
	assert.Equal(t, []string{fields[0].Name, strings.Repeat("ü", 31), strings.Repeat("ü", 30) + " 2"}, src.Info().Names)
	assert.Equal(t, [][]string{{`\. text`, "it's text", " null"}}, cells(t, src))
	require.NoError(t, src.Close())
	assert.Equal(t, [][]string{{strings.Repeat("ü", 41)}}, server.Do(t,
		`SELECT description FROM pg_description JOIN pg_class c ON c.oid = objoid WHERE relname LIKE 'x"%' AND objsubid = 3`))

	for name, want := range map[string]string{
		"":      "it has 3 tables: name one after #, as in postgres://host/database#public.dear, or all with #*; there are public.dear, ",
		"deer":  `there is no table "deer". Did you mean "public.dear"?`,
		"DEAR":  "",
		"s.t.q": "",
		"q":     "",
	} {
		src, err := postgres.Open("postgres://", name, "")
		if want == "" {
			require.NoError(t, err, name)
			require.NoError(t, src.Close())
			continue
		}
		assert.ErrorContains(t, err, want, name)
	}
	for query, want := range map[string]string{
		"SELECT 1; DROP TABLE dear":                      "cannot insert multiple commands",
		"SELECT 1) TO STDOUT; DROP TABLE dear; --":       "syntax error",
		"DROP TABLE dear":                                postgres.ErrQuery.Error(),
		"DELETE FROM dear RETURNING a":                   "changes nothing",
		"SELECT a FROM dear WHERE a = $1":                postgres.ErrQuery.Error(),
		"SELECT nothing FROM dear":                       `column "nothing" does not exist`,
		"SELECT a AS \"x\ny\" FROM dear -- a remark":     "",
		"SELECT 1/(a-1) FROM dear":                       "division by zero",
		"WITH x AS (SELECT a FROM dear) SELECT * FROM x": "",
		"VALUES (1), (2);":                               "",
		"SELECT set_config('transaction_read_only', 'off', true), nextval('none')": "does not exist",
	} {
		src, err := postgres.Open("postgres://", "", query)
		if err == nil {
			for err == nil {
				err = src.Next(&table.Block{})
			}
			require.NoError(t, src.Close())
		}
		if want == "" {
			want = "EOF"
		}
		assert.ErrorContains(t, err, want, query)
	}
	assert.Equal(t, [][]string{{"1"}}, server.Do(t, "SELECT count(*) FROM dear"))
}

// A table that is there takes rows only where every value stays what it is.
func TestAppendHoldsTypes(t *testing.T) {
	server := pgtest.Start(t, 0)
	server.Do(t, `CREATE TABLE t (i bigint, n numeric(9,2), r real, d date, s timestamp, z timestamptz, b boolean, x text, c char(3), v varchar(3),
		k int GENERATED ALWAYS AS IDENTITY, g int GENERATED ALWAYS AS (1) STORED, must text NOT NULL, has text NOT NULL DEFAULT 'x', j jsonb)`)
	for _, tt := range []struct {
		name    string
		typ     value.Type
		offsets bool
		want    string
	}{
		{"i", value.Integer, false, ""},
		{"i", value.Decimal, false, "of the type bigint, which does not take the type decimal as it is"},
		{"n", value.Decimal, false, ""},
		{"r", value.Decimal, false, "of the type real"},
		{"r", value.Integer, false, "of the type real"},
		{"d", value.Date, false, ""},
		{"d", value.Timestamp, false, "of the type date"},
		{"s", value.Date, false, ""},
		{"s", value.Timestamp, false, ""},
		{"s", value.Timestamp, true, "which does not take a timestamp with an offset as it is"},
		{"z", value.Timestamp, true, ""},
		{"z", value.Timestamp, false, "of the type timestamp with time zone"},
		{"b", value.Boolean, false, ""},
		{"b", value.Text, false, "of the type boolean"},
		{"x", value.Code, false, ""},
		{"x", value.Integer, false, "of the type text"},
		{"v", value.Text, false, ""},
		{"c", value.Text, false, "of the type character"},
		{"j", value.Text, false, "of the type jsonb"},
		{"g", value.Integer, false, `the column "g" of the table public.t is computed by the server`},
		{"none", value.Text, false, `the table public.t has no column "none"`},
	} {
		fields := []table.Field{{Name: tt.name, Type: tt.typ, Offsets: tt.offsets}, {Name: "must", Type: value.Text}}
		s, err := postgres.NewSink("postgres://", fields, postgres.SinkOptions{Table: "t", Append: true})
		if tt.want == "" {
			if assert.NoError(t, err, tt.name) {
				s.Abort()
			}
			continue
		}
		assert.ErrorContains(t, err, tt.want, tt.name)
	}
	_, err := postgres.NewSink("postgres://", []table.Field{{Name: "i", Type: value.Integer}}, postgres.SinkOptions{Table: "t", Append: true})
	assert.ErrorContains(t, err, `the column "must" of the table public.t must not be null, and the output has no such column`)
	_, err = postgres.NewSink("postgres://", nil, postgres.SinkOptions{Table: "u", Append: true})
	assert.ErrorIs(t, err, postgres.ErrMissing)
	_, err = postgres.NewSink("postgres://", nil, postgres.SinkOptions{Table: "t"})
	assert.ErrorIs(t, err, postgres.ErrTable)
	server.Do(t, "CREATE VIEW w AS SELECT 1 AS a")
	_, err = postgres.NewSink("postgres://", nil, postgres.SinkOptions{Table: "w", Replace: true})
	assert.ErrorContains(t, err, "public.w is there and is no table")
}

// A value of which a table that is there would keep less stops all, and nothing is rounded or cut without a word.
func TestAppendKeepsAll(t *testing.T) {
	server := pgtest.Start(t, 0)
	server.Do(t, `CREATE DOMAIN small AS numeric(5,1);
CREATE TABLE t (n numeric(9,2), w numeric(5), d small, s timestamp(0), z timestamptz(3), c time(1), v varchar(3), x text)`)
	for _, tt := range []struct {
		name    string
		typ     value.Type
		offsets bool
		value   string
		refused string
	}{
		{"n", value.Decimal, false, "1.50", ""},
		{"n", value.Decimal, false, "-1.500", ""},
		{"n", value.Decimal, false, "1.005", "numeric(9,2)"},
		{"n", value.Decimal, false, "12345678901", "numeric field overflow"},
		{"w", value.Decimal, false, "1.5", "numeric(5,0)"},
		{"w", value.Integer, false, "15", ""},
		{"d", value.Decimal, false, "1.25", "numeric(5,1)"},
		{"s", value.Timestamp, false, "2021-03-04T06:05:00.000", ""},
		{"s", value.Timestamp, false, "2021-03-04T06:05:00.5", "timestamp(0) without time zone"},
		{"z", value.Timestamp, true, "2021-03-04T06:05:00.1234+01:00", "timestamp(3) with time zone"},
		{"z", value.Timestamp, true, "2021-03-04T06:05:00.123-01:00", ""},
		{"c", value.Time, false, "06:05:00.25", "time(1) without time zone"},
		{"v", value.Text, false, "äöü", ""},
		{"v", value.Text, false, "ab   ", "character varying(3)"},
		{"v", value.Text, false, "abcd", "value too long"},
		{"x", value.Text, false, "ab   1.005", ""},
	} {
		fields := []table.Field{{Name: tt.name, Type: tt.typ, Offsets: tt.offsets}}
		s, err := postgres.NewSink("postgres://", fields, postgres.SinkOptions{Table: "t", Append: true})
		require.NoError(t, err, tt.name)
		rows := tabletest.OneRow(fields, tt.value)
		if err = s.Write(s.Encode(nil, rows), rows); err == nil {
			err = s.Finish()
		}
		if tt.refused == "" {
			assert.NoError(t, err, tt.value)
		} else {
			assert.ErrorContains(t, err, tt.refused, tt.value)
		}
		s.Abort()
	}
	assert.Equal(t, [][]string{{"0"}}, server.Do(t, "SELECT count(*) FROM t"))

	// A table in several parts is one; a part is read where it is named.
	server.Do(t, "CREATE TABLE p (y int) PARTITION BY LIST (y); CREATE TABLE p1 PARTITION OF p FOR VALUES IN (1); CREATE TABLE p2 PARTITION OF p FOR VALUES IN (2); INSERT INTO p VALUES (1), (2)")
	names, err := postgres.Tables("postgres://")
	require.NoError(t, err)
	assert.Equal(t, []string{"public.p", "public.t"}, names)
	for name, want := range map[string]int{"p": 2, "public.p2": 1} {
		src, err := postgres.Open("postgres://", name, "")
		require.NoError(t, err)
		assert.Len(t, cells(t, src), want, name)
		require.NoError(t, src.Close())
	}
}

// What a trigger leaves out, adds or changes is found before anything is kept, and what it leaves alone is taken.
func TestAppendComparesWhatIsThere(t *testing.T) {
	server := pgtest.Start(t, 0)
	fields := []table.Field{
		{Name: "n", Type: value.Decimal},
		{Name: "x", Type: value.Text},
		{Name: "d", Type: value.Date},
		{Name: "c", Type: value.Time},
		{Name: "s", Type: value.Timestamp},
		{Name: "z", Type: value.Timestamp, Offsets: true},
		{Name: "b", Type: value.Boolean},
		{Name: "i", Type: value.Integer},
	}
	for body, want := range map[string]string{
		"BEFORE INSERT|RETURN NEW;":                                                         "",
		"BEFORE INSERT|IF NEW.i = 2 THEN RETURN NULL; END IF; RETURN NEW;":                  "of 3 rows the table has taken 2",
		"BEFORE INSERT|NEW.x := upper(NEW.x); RETURN NEW;":                                  `the column "x" of the table has other values`,
		"BEFORE INSERT|NEW.n := round(NEW.n); RETURN NEW;":                                  `the column "n" of the table has other values`,
		"BEFORE INSERT|NEW.s := NEW.s + interval '1 s'; RETURN NEW;":                        `the column "s" of the table has other values`,
		"BEFORE INSERT|NEW.b := NULL; RETURN NEW;":                                          `the column "b" of the table has other values`,
		"AFTER INSERT|DELETE FROM t WHERE i = NEW.i AND i = 3; RETURN NULL;":                "of 3 rows that were sent the table has 2",
		"AFTER INSERT|UPDATE t SET d = d + 1 WHERE i = NEW.i AND i = 1; RETURN NULL;":       `the column "d" of the table has other values`,
		"AFTER INSERT|IF NEW.i = 1 THEN INSERT INTO t (i) VALUES (9); END IF; RETURN NULL;": "of 3 rows that were sent the table has 4",
	} {
		when, does, _ := strings.Cut(body, "|")
		server.Do(t, `DROP TABLE IF EXISTS t; CREATE TABLE t (i numeric, n numeric, x text, d date, c time, s timestamp, z timestamptz, b boolean); INSERT INTO t (i) VALUES (0);
CREATE OR REPLACE FUNCTION f() RETURNS trigger LANGUAGE plpgsql AS $$ BEGIN `+does+` END $$; CREATE TRIGGER r `+when+` ON t FOR EACH ROW EXECUTE FUNCTION f()`)
		s, err := postgres.NewSink("postgres://", fields, postgres.SinkOptions{Table: "t", Append: true})
		require.NoError(t, err)
		for i := range 3 {
			rows := tabletest.OneRow(fields, "1.50", "größe", "2021-03-04", "06:05:00.250", "2021-03-04T06:05:00.120", "2021-03-04T06:05:00+01:00", "true", fmt.Sprint(i+1))
			require.NoError(t, s.Write(s.Encode(nil, rows), rows))
		}
		if err = s.Commit(); want == "" {
			assert.NoError(t, err, body)
			assert.Equal(t, [][]string{{"4"}}, server.Do(t, "SELECT count(*) FROM t"))
			continue
		}
		s.Abort()
		assert.ErrorContains(t, err, want, body)
		assert.Equal(t, [][]string{{"1"}}, server.Do(t, "SELECT count(*) FROM t"), body)
	}
}

// What a server says of private values is not shown.
func TestPrivateValuesInErrors(t *testing.T) {
	server := pgtest.Start(t, 0)
	server.Do(t, "CREATE TABLE t (x text UNIQUE, n numeric(5,1), CONSTRAINT short CHECK (length(x) < 9)); INSERT INTO t VALUES ('secret')")
	fields := []table.Field{{Name: "x", Type: value.Text}, {Name: "n", Type: value.Decimal}}
	for _, hides := range []bool{false, true} {
		for _, cells := range [][]string{{"secret", "1"}, {"secret and long", "1"}, {"a", "77777.25"}, {"a", "777777"}} {
			s, err := postgres.NewSink("postgres://", fields, postgres.SinkOptions{Table: "t", Append: true, Hides: hides})
			require.NoError(t, err)
			rows := tabletest.OneRow(fields, cells...)
			if err = s.Write(s.Encode(nil, rows), rows); err == nil {
				err = s.Commit()
			}
			s.Abort()
			require.Error(t, err)
			told := strings.Contains(err.Error(), "secret") || strings.Contains(err.Error(), "77777")
			assert.Equal(t, !hides, told, "%v: %v", cells, err)
		}
	}
}

// Every type of the server as target: it takes a text as it is, or nothing is written.
func TestAppendToEveryType(t *testing.T) {
	server := pgtest.Start(t, 0)
	server.Do(t, "CREATE TYPE colour AS ENUM ('red', 'blue')")
	types := server.Do(t, `SELECT format_type(oid, NULL) FROM pg_type WHERE typtype IN ('b', 'r', 'm', 'e') AND typnamespace <> 'information_schema'::regnamespace
AND typrelid = 0 AND format_type(oid, NULL) !~ 'cstring|aclitem|^pg_|record' ORDER BY 1`)
	types = append(types, []string{"numeric(5,-2)"}, []string{"numeric(9,2)"}, []string{"varchar(4)"}, []string{"char(4)"}, []string{"bit(3)"}, []string{"timestamp(0)"}, []string{"time(0)"})
	taken := 0
	values := map[value.Type][]string{
		value.Text: {
			"red", " a  b ", "A0EEBC99-9C0B-4EF8-BB6D-6BB9BD380A11", `{"b": 1, "a": 2, "b": 3}`, "b a a", "10.0.0.001", "1.50", "(1,2)", "101", "2021-3-4", strings.Repeat("x", 70),
		},
		value.Integer: {"1", "12345", "99999999999"}, value.Decimal: {"1.50", "1.005", "12345.678"}, value.Date: {"2021-03-04"}, value.Time: {"06:05:00.25"},
		value.Timestamp: {"2021-03-04T06:05:00.25"}, value.Boolean: {"true"},
	}
	for i, typ := range types {
		if i%nets.Size(4, 1) != 0 {
			continue
		}
		server.Do(t, "DROP TABLE IF EXISTS t")
		server.Do(t, "CREATE TABLE t (x "+typ[0]+")")
		for of, texts := range values {
			fields := []table.Field{{Name: "x", Type: of}}
			for _, v := range texts {
				s, err := postgres.NewSink("postgres://", fields, postgres.SinkOptions{Table: "t", Append: true})
				if err != nil {
					break
				}
				rows := tabletest.OneRow(fields, v)
				if err = s.Write(s.Encode(nil, rows), rows); err == nil {
					err = s.Commit()
				}
				if s.Abort(); err != nil {
					continue
				}
				taken++
				want := "x::text = '" + v + "'"
				switch of {
				case value.Integer, value.Decimal:
					want = "x = " + v + "::numeric"
				case value.Date:
					want = "x::date = '" + v + "'"
				case value.Timestamp:
					want = "x = '" + v + "'::timestamp"
				}
				assert.Equal(t, [][]string{{"t", "1"}}, server.Do(t, "SELECT bool_and("+want+"), count(*) FROM t"), "%s keeps %q in its own way", typ[0], v)
				server.Do(t, "TRUNCATE t")
			}
		}
	}
	assert.Greater(t, taken, nets.Size(8, 30))
}

func TestAddresses(t *testing.T) {
	for address, tells := range map[string]bool{
		"postgres://q:secret@h/db": true, "POSTGRESQL://q:@h": true, "postgres://h/db?sslpassword=x": true, "postgres://h/db?pass%77ord=x": true, "postgres://h/db?%zz": true, "postgres://h/db?sslmode=disable": false, "-opostgres://q:p@h": true,
		"postgres://q:p#w@h/db": true, "postgres://q:p/w@h/db": true,
		"postgres://q@h:5432/db#a:b@c": false, "postgres://": false, "postgres://h:5432/db": false, "landings.csv": false,
	} {
		assert.Equal(t, tells, postgres.TellsPassword(address), address)
		if tells && !strings.HasPrefix(address, "-") {
			assert.ErrorIs(t, postgres.Check(address), postgres.ErrPassword, address)
		}
	}
	assert.Equal(t, "postgres://q@h/db", postgres.Shown("postgres://q:secret@h/db?x=y"))
	assert.ErrorIs(t, postgres.Check("postgres://%zz@/"), postgres.ErrAddress)
	err := postgres.Check("postgres://h/db?sslmode=perhaps")
	assert.ErrorContains(t, err, "the address can't be used: ")
	_, err = postgres.Open("postgres:///db?host="+t.TempDir(), "t", "")
	assert.ErrorContains(t, err, "the server can't be reached: ")
}

// An offset that the server does not keep is a failure of its cell.
func TestOffsetsBeyondTheServer(t *testing.T) {
	s := &postgres.Sink{}
	for text, kept := range map[string]bool{
		"2021-03-04T06:05:00+15:59": true, "2021-03-04T06:05:00-16:00": false, "2021-03-04T06:05:00+18:00": false, "2021-03-04T06:05:00.5Z": true, "2021-03-04T06:05": true,
	} {
		assert.Equal(t, kept, s.Holds(value.Timestamp, []byte(text)) == "", text)
	}
}

// Of two that make one table at once the second is told so.
func TestTwoMakersOfOneTable(t *testing.T) {
	pgtest.Start(t, 0)
	fields := []table.Field{{Name: "x", Type: value.Text}}
	first, err := postgres.NewSink("postgres://", fields, postgres.SinkOptions{Table: "t"})
	require.NoError(t, err)
	other := make(chan error)
	go func() {
		s, err := postgres.NewSink("postgres://", fields, postgres.SinkOptions{Table: "t"})
		if err == nil {
			err = s.Commit()
			s.Abort()
		}
		other <- err
	}()
	time.Sleep(500 * time.Millisecond)
	require.NoError(t, first.Commit())
	assert.ErrorContains(t, <-other, "another program has made a table of that name meanwhile")
}

// A table that is closed before it has been read, at any moment, leaves its connection to one user at a time.
func TestClosedAtAnyMomentShareNothing(t *testing.T) {
	pgtest.Start(t, 0)
	for i := range 40 {
		src, err := postgres.Open("postgres://", "", "SELECT g, repeat('x', 100) FROM generate_series(1, 200000) g")
		require.NoError(t, err)
		for range i % 4 {
			require.NoError(t, src.Next(&table.Block{}))
		}
		time.Sleep(time.Duration(i%7) * 100 * time.Microsecond)
		require.NoError(t, src.Close())
	}
}
