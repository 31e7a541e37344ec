package convert

import (
	"context"
	"encoding/csv"
	"errors"
	"fmt"
	"io"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"junvo/internal/nets"
	"junvo/internal/plan"
	"junvo/internal/reason"
	"junvo/internal/table"
	"junvo/internal/table/delim"
	"junvo/internal/value"
)

// memory is an output in memory.
type memory struct {
	strings.Builder
	broken error
}

func (m *memory) Write(p []byte) (int, error) {
	if m.broken != nil {
		return 0, m.broken
	}
	return m.Builder.Write(p)
}

func (*memory) Finish() error { return nil }
func (*memory) Commit() error { return nil }
func (*memory) Abort()        {}

// outcome of one conversion, all that came of it.
type made struct {
	ledger   *Ledger
	rows     [][]string
	failures []Failure
	aside    []AsideRow
}

func source(t *testing.T, text string) *delim.Source {
	t.Helper()
	s, err := delim.Open(strings.NewReader(text), "a.csv", int64(len(text)), delim.Options{})
	require.NoError(t, err)
	return s
}

// bound loads a plan for a source.
func bound(t *testing.T, planText string, src table.Source) *plan.Bound {
	t.Helper()
	p, err := plan.Load([]byte(planText))
	require.NoError(t, err)
	b, err := p.Bind(src.Info().Names)
	require.NoError(t, err)
	return b
}

func convertAll(t *testing.T, text, planText string, o Options) (*made, error) {
	t.Helper()
	src := source(t, text)
	p := bound(t, planText, src)
	out := &memory{}
	fields := p.Fields()
	if o.Origin {
		fields = append(fields, OriginFields...)
	}
	sink, err := delim.NewSink(out, ',', fields)
	require.NoError(t, err)
	m := &made{}
	o.Sink, o.Workers = sink, max(1, o.Workers)
	o.Failure = func(f Failure) error { m.failures = append(m.failures, f); return nil }
	o.Aside = func(a AsideRow) error { m.aside = append(m.aside, a); return nil }
	if p.AnyUnique() {
		for range 2 {
			o.Repeats, err = FindRepeats(context.Background(), source(t, text), p, Options{Workers: o.Workers, Fixes: o.Fixes, Repeats: o.Repeats}, t.TempDir(), 0)
			require.NoError(t, err)
			if o.Fixes == nil {
				break
			}
		}
	}
	if m.ledger, err = Run(context.Background(), src, p, o); err != nil {
		return m, err
	}
	m.rows, err = csv.NewReader(strings.NewReader(out.String())).ReadAll()
	require.NoError(t, err)
	return m, nil
}

// messy makes a table in which every fifth row or so is odd in some way.
func messy(rows int) string {
	var b strings.Builder
	b.WriteString("id;kg;day;ok\n")
	for i := range rows {
		kg := fmt.Sprintf("%d,%d kg", i%90, i%10)
		switch i % 17 {
		case 3:
			kg = "heavy"
		case 5:
			kg = ""
		case 7:
			kg = "n/a"
		case 9:
			kg = fmt.Sprint(i % 90)
		}
		day := fmt.Sprintf("%02d.%02d.2021", 1+i%28, 1+i%12)
		if i%23 == 4 {
			day = "31.02.2021"
		}
		switch {
		case i%41 == 7:
			b.WriteString("id;kg;day;ok\n")
		case i%53 == 9:
			b.WriteString(";;;\n")
		case i%59 == 11:
			b.WriteString("Quay 4;;;\n")
		default:
			fmt.Fprintf(&b, "%03d;%s;%s;%s\n", i, kg, day, []string{"ja", "nein"}[i%2])
		}
	}
	return b.String()
}

// The ledger balances for every combination of what a plan may say, and its numbers are
// those of a count that knows nothing of it: of the output, the failures, the rows set aside.
func TestLedgerIsTheCountOfWhatCameOut(t *testing.T) {
	text := messy(1000)
	in := strings.Count(text, "\n") - 1
	for _, setAside := range []string{"[]", "[blank-rows]", "[blank-rows, repeated-headings, section-headings]"} {
		for _, onFailure := range []string{"blank", "keep-text", "set-aside-row"} {
			for _, must := range []string{"{}", "{not-blank: true}", "{between: [0, 50], unique: true}"} {
				for _, steps := range []string{"[]", `[{drop: [spaces, "kg"]}]`, `[{fill: "0"}, {take: {number: 1}}]`, `[{fill: {from: above}}]`}[nets.Size(2, 0):] {
					for _, fixes := range []bool{false, true} {
						planText := fmt.Sprintf(`plan: 1
rows: {set-aside: %s}
columns:
  id: {to: code}
  kg: {to: decimal, decimal-mark: ",", unit: kg, blank-words: [n/a], on-failure: %s, must: %s, steps: %s}
  day: {to: date, date-order: dmy, on-failure: %s}
  ok: {to: boolean, words: {true: [ja], false: [nein]}}
  parts: {from: day, steps: [trim], split: {at: "."}, into: {d: {to: integer}, m: {to: integer, must: {between: [1, 11]}}, y: {to: text}}}
  tag: {join: [id, kg], with: "-", blanks: skip, to: text}
  all: {join: [id, d], with: "-", blanks: fail, to: text}
`, setAside, onFailure, must, steps, onFailure)
						o := Options{Workers: 2, Origin: true}
						if fixes {
							o.Fixes = NewFixes(func(s string) string { return s })
							addFix(t, o.Fixes, 0, "kg", "heavy", "12,5")
							addFix(t, o.Fixes, 0, "day", "31.02.2021", "28.02.2021")
						}
						m, err := convertAll(t, text, planText, o)
						require.NoError(t, err)
						m.balances(t, in, onFailure)
					}
				}
			}
		}
	}
}

func (m *made) balances(t *testing.T, in int, onFailure string) {
	t.Helper()
	require.NoError(t, m.ledger.Check())
	assert.EqualValues(t, in, m.ledger.RowsIn)
	assert.EqualValues(t, len(m.rows)-1, m.ledger.RowsOut)
	assert.EqualValues(t, len(m.aside), m.ledger.AsideTotal())
	assert.Equal(t, in, len(m.rows)-1+len(m.aside))
	gone := map[int64]bool{}
	for _, a := range m.aside {
		gone[a.Row] = a.Reason == "failed-row"
	}
	failed := map[string]int64{}
	lost := int64(0)
	for _, f := range m.failures {
		if gone[f.Row] {
			lost++
		} else {
			failed[f.Column]++
		}
		assert.NotEqual(t, reason.None, f.Reason)
	}
	assert.Equal(t, lost, m.ledger.FailedAside)
	assert.EqualValues(t, len(m.failures), m.ledger.Failed())
	assert.True(t, lost == 0 || onFailure == "set-aside-row")
	for c, a := range m.ledger.Columns {
		blanks := int64(0)
		for _, row := range m.rows[1:] {
			if row[c] == "" {
				blanks++
			}
		}
		assert.Equal(t, failed[a.Name], a.Failed, a.Name)
		if onFailure != "keep-text" {
			assert.Equal(t, blanks, a.Blank+a.Emptied+a.Failed, a.Name)
		} else {
			assert.GreaterOrEqual(t, a.Blank+a.Emptied+a.Failed, blanks, a.Name)
		}
	}
}

func TestNoNumberOfWorkersChangesAnything(t *testing.T) {
	text := messy(30_000)
	planText := "plan: 1\nrows: {set-aside: [blank-rows, repeated-headings]}\ncolumns:\n  kg: {to: decimal, decimal-mark: \",\", unit: kg, steps: [trim]}\n  day: {to: date, date-order: dmy}\n"
	one, err := convertAll(t, text, planText, Options{Workers: 1})
	require.NoError(t, err)
	for _, workers := range []int{2, 5} {
		many, err := convertAll(t, text, planText, Options{Workers: workers})
		require.NoError(t, err)
		assert.Equal(t, one, many)
	}
}

func TestFailuresHaveAnAddress(t *testing.T) {
	m, err := convertAll(t, "Landings\n\nid;kg\n1;2,5\n2;\"two\nlines\"\n3;x\n4;5\n5;5\n", "plan: 1\ncolumns: {weight: {from: kg, to: decimal, decimal-mark: \",\"}}", Options{})
	require.NoError(t, err)
	require.Len(t, m.failures, 2)
	assert.Equal(t, Failure{File: "a.csv", Row: 2, Line: 5, Column: "weight", Value: "two\nlines", Wanted: value.Decimal, Reason: reason.NotANumber, Detail: "no digit in it"}, m.failures[0])
	assert.Equal(t, [2]int64{3, 7}, [2]int64{m.failures[1].Row, m.failures[1].Line})
	assert.Equal(t, "above-header", m.aside[0].Reason)
}

func TestStopStops(t *testing.T) {
	_, err := convertAll(t, messy(100), "plan: 1\ncolumns: {kg: {to: integer, on-failure: stop}}", Options{Workers: 2})
	var stop *StopError
	require.ErrorAs(t, err, &stop)
	assert.EqualValues(t, 1, stop.Failure.Row)
	assert.Equal(t, "kg", stop.Failure.Column)
}

func TestMustIsHeldToTheValue(t *testing.T) {
	text := "n;t\n1;A\n10;BBB\n9;C\n10.5;D\n;\n"
	for must, want := range map[string]string{
		"n: {to: decimal, decimal-mark: \".\", must: {between: [null, 9.99]}}": "2 out-of-range 10, 4 out-of-range 10.5",
		"n: {to: decimal, decimal-mark: \".\", must: {between: [9, null]}}":    "1 out-of-range 1",
		"n: {to: decimal, decimal-mark: \".\", must: {not-blank: true}}":       "5 blank-not-allowed ",
		"t: {must: {one-of: [A, C, D]}}":                                       "2 not-listed BBB",
		"t: {must: {matches: \"^[A-C]+$\"}}":                                   "4 pattern-broken D",
		"t: {must: {longest: 2}}":                                              "2 too-long BBB",
	} {
		m, err := convertAll(t, text, "plan: 1\ncolumns:\n  "+must, Options{})
		require.NoError(t, err)
		var got []string
		for _, f := range m.failures {
			got = append(got, fmt.Sprintf("%d %s %s", f.Row, f.Reason, f.Detail))
		}
		assert.Equal(t, want, strings.Join(got, ", "), must)
	}
}

func TestStepsAreCounted(t *testing.T) {
	m, err := convertAll(t, "t\n a\nb\n c\n a\n\n", "plan: 1\ncolumns: {t: {steps: [trim, {case: upper}]}}", Options{Workers: 2})
	require.NoError(t, err)
	assert.Equal(t, []StepCount{{"trim", 3}, {"case", 4}}, m.ledger.Columns[0].Steps)
	assert.Equal(t, "A", m.rows[1][0])
}

func TestFixes(t *testing.T) {
	f := NewFixes(func(s string) string { return "«" + s + "»" })
	addFix(t, f, 0, "«kg»", "«heavy»", "12,5")
	addFix(t, f, 0, "«kg»", "«heavy»", "12,5")
	addFix(t, f, 4, "«kg»", "«heavy»", "14,0")
	addFix(t, f, 2, "«kg»", "«light»", "x")
	addFix(t, f, 1, "«day»", "«never»", "01.01.2021")
	_, err := f.Add(Place{}, "«kg»", "«heavy»", "13")
	assert.EqualError(t, err, `column "«kg»" has two answers for "«heavy»", which differ: keep one`)
	m, err := convertAll(t, "kg;day\nheavy;01.02.2021\nlight;02.02.2021\n1,5;03.02.2021\nheavy;25.02.2021\n",
		"plan: 1\ncolumns: {kg: {to: decimal, decimal-mark: \",\"}, day: {to: date, date-order: dmy}}", Options{Fixes: f})
	require.NoError(t, err)
	assert.Equal(t, []string{"12.5", "2021-02-01"}, m.rows[1])
	assert.Equal(t, []string{"14.0", "2021-02-25"}, m.rows[4], "the answer for the row comes before that for all")
	assert.EqualValues(t, 2, m.ledger.Columns[0].Fixed)
	require.Len(t, m.failures, 1)
	assert.Equal(t, "the fix x is no value of the column", m.failures[0].Detail)
	require.Len(t, f.Unused(), 1)
	assert.Equal(t, "«never»", f.Unused()[0].Value)
}

func TestErrorsOfTheOutputEndTheRun(t *testing.T) {
	src := source(t, messy(50_000))
	p := bound(t, "plan: 1\ncolumns: {id: {}}", src)
	out := &memory{}
	sink, err := delim.NewSink(out, ',', p.Fields())
	require.NoError(t, err)
	out.broken = errors.New("disk full")
	_, err = Run(context.Background(), src, p, Options{Workers: 2, Sink: sink})
	assert.ErrorIs(t, err, out.broken)
}

func TestTry(t *testing.T) {
	src := source(t, "id;kg\n1;2,5 kg\n;\n3;x\n4;7\n5;8\n")
	p := bound(t, "plan: 1\nrows: {set-aside: [blank-rows]}\ncolumns: {w: {from: kg, to: decimal, decimal-mark: \",\", unit: kg}, id: {}}", src)
	var got []string
	n, err := Try(src, p, TryOptions{Rows: 4}, func(c Tried) error {
		why := ""
		if c.Failure != nil {
			why = c.Failure.Reason.String()
		}
		got = append(got, fmt.Sprintf("%d/%d %d %q %q %s", c.Row, c.Line, c.Column, c.Raw, c.Out, why))
		return nil
	})
	require.NoError(t, err)
	assert.EqualValues(t, 4, n)
	assert.Equal(t, []string{
		`1/2 0 "2,5 kg" "2.5" `, `1/2 1 "1" "1" `, `3/4 0 "x" "" not-a-number`, `3/4 1 "3" "3" `, `4/5 0 "7" "7" `, `4/5 1 "4" "4" `,
	}, got)
	enough := errors.New("enough")
	src = source(t, messy(10))
	p = bound(t, `{plan: 1, columns: {id: {}}}`, src)
	_, err = Try(src, p, TryOptions{}, func(Tried) error { return enough })
	assert.ErrorIs(t, err, enough)
}

// stored is a source of one block with stored kinds.
type stored struct {
	info table.Info
	done bool
}

func (s *stored) Info() *table.Info { return &s.info }

func (s *stored) Next(b *table.Block) error {
	if s.done {
		return io.EOF
	}
	s.done = true
	b.Width = 2
	for i, row := range []struct {
		a, b  string
		ka, k value.Stored
	}{
		{"1.5", "2021-03-04", value.StoredNumber, value.StoredDate},
		{"1.240,5 kg", "04.03.2021", value.StoredText, value.StoredText},
		{"1.234", "", value.StoredNumber, value.StoredNull},
		{"1.5E-7", "2021-03-04T10:00:00", value.StoredNumber, value.StoredDate},
		{"#REF!", "", value.StoredError, value.StoredText},
	} {
		b.AddCell(row.a, row.ka)
		b.AddCell(row.b, row.k)
		b.EndRow(uint32(i))
	}
	b.Filled()
	return nil
}

func (*stored) Split(*table.Block) {}

// What is stored as a number is the number that it is, under a decimal comma too.
func TestStoredKinds(t *testing.T) {
	src := &stored{info: table.Info{Names: []string{"a", "b"}, Files: []table.File{{Name: "x", FirstLine: 1}}, Typed: true}}
	p := bound(t, "plan: 1\ncolumns: {a: {to: decimal, decimal-mark: \",\", unit: kg}, b: {to: date, date-order: dmy}}", src)
	out := &memory{}
	sink, err := delim.NewSink(out, ',', p.Fields())
	require.NoError(t, err)
	var reasons []string
	l, err := Run(context.Background(), src, p, Options{Workers: 1, Sink: sink, Failure: func(f Failure) error {
		reasons = append(reasons, f.Reason.String())
		return nil
	}})
	require.NoError(t, err)
	require.NoError(t, l.Check())
	assert.Equal(t, "a,b\n1.5,2021-03-04\n1240.5,2021-03-04\n1.234,\n0.00000015,\n,\n", out.String())
	assert.Equal(t, []string{"not-a-date", "error-value"}, reasons)
	assert.EqualValues(t, 2, l.Columns[1].Blank)
}

func addFix(t *testing.T, f *Fixes, row int64, column, value, fix string) {
	t.Helper()
	_, err := f.Add(Place{Row: row}, column, value, fix)
	require.NoError(t, err)
}

// BenchmarkConvert converts columns of different sorts, each of 100,000 cells.
func BenchmarkConvert(b *testing.B) {
	for _, c := range []struct{ name, cell, column string }{
		{"as it is", "1240.5", "to: decimal, decimal-mark: ."},
		{"amount", "€ 1.%03d,50", `to: decimal, decimal-mark: ",", currency: EUR`},
		{"day", "%02[2]d.03.2021", "to: date, date-order: dmy"},
		{"steps", "lot %d / crate", "to: code, steps: [keep: digits, pad: {width: 8, with: '0'}]"},
		{"text", "a note about lot %d", "to: text"},
	} {
		b.Run(c.name, func(b *testing.B) {
			var text strings.Builder
			text.WriteString("x;y\n")
			for i := range 100_000 {
				cell := c.cell
				if strings.Contains(cell, "%") {
					cell = fmt.Sprintf(cell+"%.0[3]s", i%1000, i%28+1, "")
				}
				text.WriteString(cell + ";\n")
			}
			b.SetBytes(int64(text.Len()))
			b.ReportAllocs()
			p, err := plan.Load([]byte("plan: 1\ncolumns: {x: {" + c.column + "}}"))
			require.NoError(b, err)
			for b.Loop() {
				src, err := delim.Open(strings.NewReader(text.String()), "a.csv", int64(text.Len()), delim.Options{})
				require.NoError(b, err)
				bound, err := p.Bind(src.Info().Names)
				require.NoError(b, err)
				l, err := Run(context.Background(), src, bound, Options{Workers: 1, Sink: table.Discard{}})
				require.NoError(b, err)
				require.Zero(b, l.Failed(), "%s", c.name)
			}
		})
	}
}
