package expression

import (
	"errors"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"junvo/internal/value"
)

var columns = []Variable{
	{"name", value.Text},
	{"port", value.Code},
	{"boxes", value.Integer},
	{"kg", value.Decimal},
	{"landed", value.Date},
	{"due", value.Date},
	{"logged", value.Timestamp},
	{"at", value.Time},
	{"ok", value.Boolean},
}

var row = map[string]string{
	"name": "Größe", "port": "007", "boxes": "3", "kg": "12.50", "landed": "2021-03-04", "logged": "2021-03-04T06:05:07+02:00", "at": "06:05:00", "ok": "true",
}

func eval(t *testing.T, text string) (string, error) {
	t.Helper()
	e, err := Compile(text, columns)
	require.NoError(t, err, text)
	return e.Eval(func(i int) string { return row[e.Uses[i]] }, func(i int) string { return "raw of " + e.Raw[i] })
}

func TestExpressions(t *testing.T) {
	for text, want := range map[string]string{
		"kg * 2":                               "25",
		"kg + 0.1 + 0.2":                       "12.8",
		"1 / 3":                                "0.3333333333333333333333333333333333",
		"2 / 3 * 3":                            "2",
		"-kg":                                  "-12.5",
		"200 / 3 - 0":                          "66.66666666666666666666666666666667",
		"84 / 96":                              "0.875",
		"0.1 + 0.2 == 0.3":                     "true",
		"123456789012345678901234567890.5 + 1": "123456789012345678901234567891.5",
		"boxes > 2 && kg < 12.51":              "true",
		"40 == kg ? 'a' : 'b'":                 "b",
		"landed < date('2021-03-05')":          "true",
		"landed >= due":                        "", // due is blank
		"blank(due)":                           "true",
		"blank(due) ? landed : due":            "2021-03-04",
		"kg * number(port)":                    "87.5",
		"name + '-' + port":                    "Größe-007",
		"name + text(boxes)":                   "Größe3",
		"length(name) == 5":                    "true",
		"monthEnd(plusMonths(landed, 60))":     "2026-03-31",
		"date(logged) == landed":               "true",
		"at > at":                              "false",
		"logged == logged && ok":               "true",
		"raw('Net weight') + '!'":              "raw of Net weight!",
		"reading(raw('x'))":                    "text",
		"reading('1.240,5 kg')":                "decimal",
		"name.startsWith('Gr')":                "true",
		"port in ['007', '008']":               "true",
		"plusDays(due, 1)":                     "",
		"text(kg) + ' kg'":                     "12.50 kg",
		"kg":                                   "12.50",
		"text(kg + 0)":                         "12.5",
		"size(name) + 1":                       "6",
		"name.size() > 3":                      "true",
		"int('5') + 1":                         "6",
		"double('1.50') * 2":                   "3",
		"ok ? null : 1.5":                      "",
		"ok ? 1.5 : null":                      "1.5",
		"'a//b'":                               "a//b",
		`'it\'s // ' + "\"//"`:                 `it's // "//`,
	} {
		got, err := eval(t, text)
		require.NoError(t, err, text)
		assert.Equal(t, want, got, text)
	}
}

func TestExamplesOfFunctions(t *testing.T) {
	for _, f := range Functions {
		e, err := Compile(f.Example, columns)
		require.NoError(t, err, f.Example)
		if f.Name == "raw" {
			continue
		}
		got, err := e.Eval(nil, nil)
		require.NoError(t, err, f.Example)
		assert.Equal(t, f.Gives, got, f.Example)
	}
}

func TestNoValue(t *testing.T) {
	for _, text := range []string{"kg / 0", "kg / (boxes - 3)", "number(name)", "date(name)", "plusDays(landed, 0.5)", "plusDays(landed, 99999999)", "plusMonths(landed, -99999)", "round(kg, 1.5)"} {
		_, err := eval(t, text)
		assert.True(t, errors.Is(err, ErrNoValue), "%s: %v", text, err)
	}
}

func TestWrongExpressions(t *testing.T) {
	for _, tt := range []struct {
		text         string
		line, column int
		say          string
	}{
		{"kg > name", 1, 4, "> does not go with (number, text): convert the column to a number, or say text(x) of the number"},
		{"name > 40", 1, 6, "> does not go with (text, number)"},
		{"kg + name", 1, 4, "+ does not go with"},
		{"landed > '2021'", 1, 8, "> does not go with (date, text)"},
		{"kg +", 1, 5, "Syntax error"},
		{"kg * wight", 1, 6, `there is no column and no function "wight"`},
		{"kg *\n  wight", 2, 3, `there is no column`},
		{"kg // 2", 1, 4, "one / divides"},
		{"'a' +\n '//' // x", 2, 7, "one / divides"},
		{"[1, 2]", 1, 1, "the expression gives a list(number)"},
		{"{'a': 1}", 1, 1, "the expression gives a map(text, number)"},
		{"duration('3s')", 1, 1, "Duration"},
		{"timestamp('2021-01-01T00:00:00Z')", 1, 1, "Timestamp"},
		{"null", 1, 1, "the expression gives a null"},
		{"dyn(kg)", 1, 1, "a value of no one type"},
		{"text([1])", 1, 5, "text does not go with (list(number))"},
		{"raw(name)", 1, 4, "in quotes"},
		{"frobnicate(kg)", 1, 11, `"frobnicate"`},
		{"0x10 + kg", 1, 1, ""},
		{"ok + 1", 1, 4, "does not go with (true or false, number)"},
	} {
		_, err := Compile(tt.text, columns)
		var e *Error
		if tt.say == "" {
			continue
		}
		require.ErrorAs(t, err, &e, tt.text)
		assert.Contains(t, e.Say, tt.say, tt.text)
		assert.Equal(t, [2]int{tt.line, tt.column}, [2]int{e.Line, e.Column}, tt.text)
	}
}

func TestTypesOfResults(t *testing.T) {
	for text, want := range map[string]value.Type{
		"kg": value.Decimal, "boxes + 1": value.Decimal, "name": value.Text, "port": value.Text, "ok": value.Boolean, "landed": value.Date,
		"logged": value.Timestamp, "at": value.Time, "blank(kg)": value.Boolean, "blank(due) ? landed : due": value.Date,
	} {
		e, err := Compile(text, columns)
		require.NoError(t, err)
		assert.Equal(t, want, e.Type, text)
	}
}

// No text makes compiling or computing panic.
func FuzzCompile(f *testing.F) {
	for _, s := range []string{"kg * 2", "name + text(boxes)", "raw('x')", "blank(due) ? landed : due", "1.5 / 3", "[1, 2].size()", "{'a': 1}", "kg.foo", "-(-kg)"} {
		f.Add(s)
	}
	f.Fuzz(func(_ *testing.T, text string) {
		e, err := Compile(text, columns)
		if err != nil {
			return
		}
		_, _ = e.Eval(func(i int) string { return row[e.Uses[i]] }, func(int) string { return "x" })
	})
}
