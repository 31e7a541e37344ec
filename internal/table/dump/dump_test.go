package dump

import (
	"errors"
	"fmt"
	"io"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"junvo/internal/table"
	"junvo/internal/table/records"
	"junvo/internal/table/tabletest"
)

func from(text string) func() (io.ReadCloser, error) {
	return func() (io.ReadCloser, error) { return io.NopCloser(strings.NewReader(text)), nil }
}

func ExampleTables() {
	names, err := Tables(from("CREATE TABLE a (x int);\nINSERT INTO a VALUES (1);\nCOPY public.b (y) FROM stdin;\n2\n\\.\n"))
	fmt.Println(names, err)
	// Output: [a public.b] <nil>
}

// said writes all records of a table.
func said(t *testing.T, text, name string) (out []string, err error) {
	t.Helper()
	d, err := dialectOf(from(text))
	require.NoError(t, err)
	r := newReader(io.NopCloser(strings.NewReader(text)), d, name)
	for {
		rec, err := r.Read()
		if errors.Is(err, io.EOF) {
			return out, nil
		}
		if err != nil {
			return out, err
		}
		parts := []string{fmt.Sprint(rec.Line)}
		for i, n := range rec.Names {
			parts = append(parts, n+"→"+rec.Cells[i].Text+"·"+rec.Cells[i].Kind.String())
		}
		out = append(out, strings.Join(parts, " "))
	}
}

func TestValues(t *testing.T) {
	for v, want := range map[string]string{
		"'it''s'": "it's·text", "''": "·text", "NULL": "·null", "null": "·null", "DEFAULT": "·null", "12.50": "12.50·number", "-1e-3": "-1e-3·number",
		"+7": "7·number", ".5": ".5·number", "TRUE": "true·boolean", "false": "false·boolean", "X'00Ff'": "x'00ff'·text", "0x00ff": "x'00ff'·text",
		"'2021-03-04'::date": "2021-03-04·text", "CAST('x' AS text)": "CAST('x' AS text)·text", "now()": "now()·text", `E'a\tb\'c'`: "a\tb'c·text",
		"$$it's$$": "it's·text", "$b$a$$c$b$": "a$$c·text", "N'x'": "x·text", "_binary 'x'": "x·text", "'a' || 'b'": "'a'||'b'·text",
		`replace('a\nb','\n',char(10))`:                          "a\nb·text",
		`replace(replace('a\r\nb','\r',char(13)),'\n',char(10))`: "a\r\nb·text",
		`replace('a','b','c')`:                                   "replace('a','b','c')·text",
		"'-- no' -- yes\n":                                       "-- no·text",
		"/* , 'x' */ 1":                                          "1·number",
		"'a\nb;),('":                                             "a\nb;),(·text",
		`'back\slash'`:                                           `back\slash·text`,
		`"x"`:                                                    "x·text",
		`ARRAY[1,2]`:                                             "ARRAY[1,2]·text",
		`5 # 3`:                                                  "5#3·text",

		"01234567890123456789012345678901234567890": "01234567890123456789012345678901234567890·number",
	} {
		got, err := said(t, "INSERT INTO t (a, b) VALUES ("+v+", 'end');", "t")
		require.NoError(t, err, v)
		assert.Equal(t, []string{"1 a→" + want + " b→end·text"}, got, v)
	}
	got, err := said(t, "INSERT INTO `t` VALUES ('it\\'s\\n\\\\x\\0\\Z','a'),\n(\"say \"\"x\"\"\",1);", "t")
	require.NoError(t, err)
	assert.Equal(t, []string{"1 column 1→it's\n\\x\x00\x1a·text column 2→a·text", "2 column 1→say \"x\"·text column 2→1·number"}, got)
}

func TestStatements(t *testing.T) {
	dump := `-- made by a database
/*!40101 SET NAMES utf8 */;
\restrict abc
SET standard_conforming_strings = on;
CREATE TABLE IF NOT EXISTS public.t (
    "no" character varying(10) DEFAULT 'a,(b'::text NOT NULL,
    kg numeric(10,2),
    CONSTRAINT t_pkey PRIMARY KEY ("no", kg)
);
CREATE FUNCTION f() RETURNS void AS $body$ INSERT INTO t VALUES (9); $body$ LANGUAGE sql;
CREATE UNIQUE INDEX i ON t (kg);
INSERT INTO public.t VALUES ('1', 2), ('3', NULL)
ON CONFLICT DO NOTHING;
INSERT OR IGNORE INTO "public"."u" ("kg", x) VALUES (4, 5);
INSERT INTO public.u SELECT * FROM v;
COPY public.t (kg, "no") FROM stdin;
6	a\tb\nc
\N	\\N
\.
COPY public.v FROM stdin WITH (FORMAT text);

x	y
\.
REPLACE INTO u VALUES (7);
SELECT pg_catalog.setval('s', 1, false);
`
	names, err := Tables(from(dump))
	require.NoError(t, err)
	assert.Equal(t, []string{"public.t", "public.u", "public.v", "u"}, names)
	for name, want := range map[string][]string{
		"public.t": {"12 no→1·text kg→2·number", "12 no→3·text kg→·null", "17 kg→6·text no→a\tb\nc·text", "18 kg→·null no→\\N·text"},
		"public.u": {"14 kg→4·number x→5·number"},
		"public.v": {"21 column 1→·text", "22 column 1→x·text column 2→y·text"},
		"u":        {"24 column 1→7·number"},
	} {
		got, err := said(t, dump, name)
		require.NoError(t, err, name)
		assert.Equal(t, want, got, name)
	}
	for name, want := range map[string]string{
		"":  "it has 4 tables: name one after #, as in dump.sql#public.t, or all with #*; there are public.t, public.u, public.v, u",
		"w": "there is no table \"w\"", "public.tt": `Did you mean "public.t"?`,
	} {
		_, err := Open(from(dump), name, table.Info{Name: "d"})
		assert.ErrorContains(t, err, want, name)
	}
	src, err := Open(from(dump), "V", table.Info{Name: "d"})
	require.NoError(t, err)
	assert.Equal(t, "public.v", src.Info().Decisions[0].Value)
	_, err = Open(from("CREATE TABLE t (a int);"), "", table.Info{Name: "d"})
	assert.ErrorIs(t, err, ErrNoRows)
}

// What changes rows and is not carried out is named, for its own table; signs of one dialect mean nothing in another.
func TestStatementsThatAreNotCarriedOut(t *testing.T) {
	dump := "CREATE TABLE public.t (a int DEFAULT (5 # 3), b int[]);\nCREATE INDEX i ON t ((b #> '{a}'));\n" +
		"INSERT INTO public.t VALUES (1, ARRAY[1,2]);\nUPDATE ONLY t SET a = 2;\nDELETE FROM public.t WHERE a = 9;\nINSERT INTO t SELECT * FROM u;\n" +
		"COPY t FROM '/x';\nDELETE FROM u;\nTRUNCATE TABLE v;\nINSERT INTO public.t VALUES (3, '{}');\n"
	got, err := said(t, dump, "public.t")
	require.NoError(t, err)
	assert.Equal(t, []string{"3 a→1·number b→ARRAY[1,2]·text", "10 a→3·number b→{}·text"}, got)
	src, err := Open(from(dump), "", table.Info{Name: "d"})
	require.NoError(t, err)
	require.Len(t, src.Info().Notes, 1)
	assert.Equal(t, "4 statements change rows of the table and are not carried out: UPDATE, DELETE, INSERT … SELECT, COPY … FROM a file (the first in line 4)",
		src.Info().Notes[0].Say)
	got, err = said(t, "INSERT INTO [dbo].[t] ([a b], c) VALUES (1, 'x'); -- a comment; #\nINSERT INTO [dbo].[t] ([a b], c) VALUES (2, 'y');", "dbo.t")
	require.NoError(t, err)
	assert.Len(t, got, 2)
	got, err = said(t, "INSERT INTO `t` VALUES (1); # a comment; INSERT INTO `t` VALUES (2);\nINSERT INTO `t` VALUES (3);", "t")
	require.NoError(t, err)
	assert.Len(t, got, 2)
}

func TestLooks(t *testing.T) {
	for text, want := range map[string]bool{
		"-- x\nINSERT INTO t VALUES (1);": true, "\ufeff\nCREATE TABLE t (\n": true, "COPY a (b) FROM stdin;\n1\n": true, "insert ignore into `t` values (1)": true,
		"PRAGMA foreign_keys=OFF;\nINSERT INTO t VALUES (1);": true, "statement,n\nINSERT INTO t,1\n": false, "SET,x\n1,2\n": false,
		"copy,n\n1,2\n": false, "-- just a comment\na,b\n1,2\n": false, "": false,
	} {
		assert.Equal(t, want, Looks([]byte(text)), text)
	}
}

// What is cut off says so, wherever that is, or is what stands before.
func TestCutOff(t *testing.T) {
	dump := "CREATE TABLE t (a int, b text);\nINSERT INTO t VALUES (1, 'x'), (2, 'y');\nCOPY t FROM stdin;\n3\tz\n\\.\n"
	for cut := range dump {
		got, err := said(t, dump[:cut], "t")
		if err == nil {
			assert.LessOrEqual(t, len(got), 3)
			continue
		}
		assert.Regexp(t, `^line \d+: `, err.Error(), dump[:cut])
	}
	_, err := said(t, "INSERT INTO t VALUES ("+strings.Repeat("1,", maxColumns+2)+"1);", "t")
	assert.ErrorContains(t, err, "more than 10000 values")
	_, err = said(t, "INSERT INTO t VALUES ("+strings.Repeat("(", 10_001), "t")
	assert.ErrorContains(t, err, "too long a computation")
}

func TestSuite(t *testing.T) {
	var b strings.Builder
	var want [][]string
	b.WriteString("CREATE TABLE t (no int, text text);\n")
	for i := range 5_000 {
		fmt.Fprintf(&b, "INSERT INTO t VALUES (%d, 'it''s %d');\n", i, i%7)
		want = append(want, []string{fmt.Sprint(i), fmt.Sprintf("it's %d", i%7)})
	}
	tabletest.Sources(t, func() table.Source {
		src, err := Open(from(b.String()), "", table.Info{Name: "d.sql", Format: "database dump"})
		require.NoError(t, err)
		return src
	}, []string{"no", "text"}, want)
}

func FuzzDump(f *testing.F) {
	f.Add("CREATE TABLE t (a int);\nINSERT INTO t VALUES (1,'x''y'),(NULL,replace('a','b',char(10)));")
	f.Add("INSERT INTO `t` (`a`) VALUES ('\\'');\nCOPY t FROM stdin;\n\\N\ta\\tb\n\\.\n")
	f.Fuzz(func(t *testing.T, text string) {
		_, _ = Tables(from(text))
		_, _ = said(t, text, "t")
		Looks([]byte(text))
	})
}

var _ records.Reader = (*reader)(nil)
