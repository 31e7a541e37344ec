package expression

import (
	"errors"
	"strings"
	"testing"

	"junvo/internal/step"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"junvo/internal/value"
)

var columns = []Variable{
	{Name: "name", Type: value.Text},
	{Name: "port", Type: value.Code},
	{Name: "boxes", Type: value.Integer},
	{Name: "kg", Type: value.Decimal},
	{Name: "landed", Type: value.Date},
	{Name: "due", Type: value.Date},
	{Name: "logged", Type: value.Timestamp},
	{Name: "at", Type: value.Time},
	{Name: "ok", Type: value.Boolean},
	{Name: "größe", Type: value.Decimal},
	{Name: "数量", Type: value.Integer},
	{Name: "in", Type: value.Integer},
	{Name: "return", Type: value.Integer},
	{Name: "Net weight (kg)", Type: value.Decimal},
	{Name: "odd`name", Type: value.Text},
}

var lists = map[string]map[string]string{"ports": {"007": "Nordhaven"}}

var row = map[string]string{
	"name": "Größe", "port": "007", "boxes": "3", "kg": "12.50", "landed": "2021-03-04", "logged": "2021-03-04T06:05:07+02:00", "at": "06:05:00", "ok": "true",
	"größe": "1.5", "数量": "7", "in": "2", "return": "3", "Net weight (kg)": "12.5", "odd`name": "x",
}

func eval(t *testing.T, text string) (string, error) {
	t.Helper()
	e, err := Compile(text, columns, Means{lists, parseSteps})
	require.NoError(t, err, text)
	return e.Eval(testRow{e, func(i int) string { return row[e.Uses[i]] }})
}

// testRow is row 17, of whose cells that of due has failed.
type testRow struct {
	e    *Expression
	cell func(i int) string
}

func (r testRow) Cell(i int) string   { return r.cell(i) }
func (r testRow) Failed(i int) bool   { return r.e.Uses[i] == "due" }
func (r testRow) Raw(i int) string    { return "raw of " + r.e.Raw[i] }
func (r testRow) Stored(i int) string { return "number" }
func (r testRow) Number() int64       { return 17 }

// Earlier gives the value before, and of sums only that of numbers.
func (r testRow) Earlier(i int) (text, why string) {
	a := r.e.Earlier[i]
	switch name := r.e.Uses[a.Use]; {
	case name == "boxes" && a.Sum:
		return "", "boxes has failed in row 4"
	case a.Sum:
		return "40.5", ""
	default:
		return map[string]string{"kg": "11", "name": "before", "landed": "2021-03-01"}[name], ""
	}
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
		"kg - before(kg)":                      "1.5",
		"kg.before() + before(kg) + kg":        "34.5", // asked twice, and of itself
		"before(name) + name":                  "beforeGröße",
		"daysBetween(before(landed), landed)":  "3",
		"blank(before(due))":                   "true",
		"before(due)":                          "",
		"sumSoFar(kg) / 2 + before(kg)":        "31.25",
		"before(name) == 'x' || failed(due)":   "true",
		"landed >= due":                        "", // due is blank
		"kg - previous(kg)":                    "1.5",
		"steps('lot 0051 ', '[keep: digits]')": "0051",
		"name.steps('keep: digits')":           "", // nothing is left
		"steps(name, 'trim') + steps(port, 'keep: digits')": "Größe007",
		"blank(steps(text(due), 'trim'))":                   "true",
		"joined('; ', name, due, kg, landed, ok)":           "Größe; 12.50; 2021-03-04; true",
		"joined('', due)":                                   "",
		"joined(', ', kg + 1, kg * null)":                   "13.5",
		"number('1.240,5', ',')":                            "1240.5",
		"number(kg) + 1":                                    "13.5",
		"number(text(due), ',')":                            "",
		"date('3.4.2021', 'dmy') == date('2021-04-03')":     "true",
		"date('04/03/2021', 'mdy')":                         "2021-04-03",
		"date(landed)":                                      "2021-03-04",
		"blanks(due, name, '', kg)":                         "2",
		"anyBlank(name, kg)":                                "false",
		"anyBlank() && blanks() > 0":                        "true",
		"blank(due)":                                        "true",
		"blank(due) ? landed : due":                         "2021-03-04",
		"kg * number(port)":                                 "87.5",
		"name + '-' + port":                                 "Größe-007",
		"name + text(boxes)":                                "Größe3",
		"length(name) == 5":                                 "true",
		"monthEnd(plusMonths(landed, 60))":                  "2026-03-31",
		"date(logged) == landed":                            "true",
		"at > at":                                           "false",
		"logged == logged && ok":                            "true",
		"raw('Net weight') + '!'":                           "raw of Net weight!",
		"reading(raw('x'))":                                 "text",
		"reading('1.240,5 kg')":                             "decimal",
		"name.startsWith('Gr')":                             "true",
		"port in ['007', '008']":                            "true",
		"plusDays(due, 1)":                                  "",
		"text(kg) + ' kg'":                                  "12.50 kg",
		"kg":                                                "12.50",
		"text(kg + 0)":                                      "12.5",
		"size(name) + 1":                                    "6",
		"name.size() > 3":                                   "true",
		"int('5') + 1":                                      "6",
		"double('1.50') * 2":                                "3",
		"ok ? null : 1.5":                                   "",
		"ok ? null : name":                                  "",
		"ok ? name : null":                                  "Größe",
		"!ok ? name : null":                                 "",
		"ok ? null : (ok ? null : landed)":                  "",
		"!ok ? null : (ok ? landed : null)":                 "2021-03-04",
		"firstOf(ok ? null : name, 'x')":                    "x",
		"blank(!ok ? at : null) ? 1 : null":                 "1",
		"ok ? 1.5 : null":                                   "1.5",
		"'a//b'":                                            "a//b",
		`'it\'s // ' + "\"//"`:                              `it's // "//`,
		// Names of all kinds.
		"größe * 2":                 "3",
		"数量 + 1":                    "8",
		"`in` + return":             "5",
		"`in` in [1, 2]":            "true",
		"`Net weight (kg)` * größe": "18.75",
		"`odd``name` + '`in`'":      "x`in`",
		`name + "größe \" größe" + 'it\'s 数'`: `Größegröße " größeit's 数`,
		`r'\d\' + name`:      `\d\Größe`,
		`"""a"b=c""" + name`: `a"b=cGröße`,
		// What is asked of the row.
		"failed(due) && !failed(kg) && !kg.failed()": "true",
		"row() * 2":              "34",
		"stored('Net weight')":   "number",
		"stored('x') + raw('x')": "numberraw of x",
		"lookup('ports', port)":  "Nordhaven", "lookup('ports', name)": "", "firstOf(lookup('ports', name), 'x')": "x",
		// Blanks.
		"firstOf(due, landed)":                       "2021-03-04",
		"firstOf(due, due)":                          "",
		"piece(name, '/', 2)":                        "",
		"piece(name, '/', 2) + 'x'":                  "",
		"blank(piece(name, '/', 2)) ? 'n' : 'y'":     "n",
		"sum(kg, boxes, number(piece('', '/', 2)))":  "15.5",
		"firstOf(kg + number(piece('', '/', 2)), 7)": "7", "blank(due) && blank(piece('', '/', 2) + 'x')": "true", "sum(plusDays(due, 1).year(), 4)": "4",
		"blank(number(piece('', '/', 2)) > 3)": "true", "sum([kg, boxes])": "15.5", "1 / 3000000000000000000000000000000000000": "0.0000000000000000000000000000000000003333333333333333333333333333333333",
		"1 / 7000": "0.0001428571428571428571428571428571429", "9223372036854775808 + 1": "9223372036854775809", "99999999999999999999.5 - 99999999999999999999": "0.5",
		"lower('ΟΔΟΣ')": "οδος", "0.12345678901234567890 * 1": "0.1234567890123456789", "sum([number(piece('', '/', 2)), boxes])": "3", "mean([number(piece('', '/', 2)), boxes, 5])": "4",
		"mean(1, 2, number(part('1', 5)))": "1.5",
		"min(landed, due)":                 "2021-03-04",
		"max(kg, boxes, 40)":               "40",
		// Numbers.
		"7 % 3": "1", "-7 % 3": "2", "remainder(7, -3)": "-2", "roundHalfUp(2.5, 0)": "3", "roundHalfUp(-2.5, 0)": "-3",
		"round(2.5, 0)": "2", "roundHalfUp(2.344, 2)": "2.34", "floor(kg)": "12", "ceiling(kg)": "13", "floor(-0.5)": "-1",
		"ceiling(-0.5)": "0", "absolute(-kg)": "12.5", "fixed(1.005, 2)": "1.00", "fixed(-0.004, 2)": "0.00", "fixed(3, 0)": "3",
		"fixed(3.14159, 0)": "3", "percent(1 / 3, 2)": "33.33 %", "percent(2, 0)": "200 %", "padded(-7, 3)": "-007", "padded(1234, 2)": "1234",
		// Texts.
		"position(name, 'ß')": "4", "position(name, 'x')": "0", "part(name, 2)": "röße", "part(name, -2)": "ße", "part(name, 9)": "",
		"part(name, 4, 0)": "", "part(name, -9, 1)": "", "part(name, -6, 3)": "Gr", "piece('a/b/', '/', 3)": "", "piece('a/b', '/', -1)": "b", "replace(name, 'ö', 'oe')": "Groeße",
		"name.replace('ö', 'oe').upper()": "GROESSE", "found('a12b34', '[0-9]+')": "12", "found('a12b34', '([a-z])([0-9]+)', 2)": "12",
		"found('a12', '(x)?a')": "", "count(name, 'ö')": "1", "countOf('A-1 b2', 'letters')": "2", "name.starts('Gr') && ends(name, 'e')": "true",
		"contains(name, 'öß') && name.contains('G')": "true", "matches(name, '^G')": "true",
		// Moments.
		"quarter(landed)": "1", "weekday(landed)": "4", "week(date('2021-01-03')) + weekYear(date('2021-01-03'))": "2073",
		"hoursBetween(logged, moment('2021-03-04T06:05:07Z'))": "2", "minutesBetween(at, time('06:04:30'))": "-0.5",
		`inPattern(logged, "yy/M/dd HH:mm:ss.SS a 'o''clock'")`: "21/3/04 06:05:07.00 AM o'clock",
		`inPattern(at, "h:mm a")`:                               "6:05 AM", `inPattern(landed, "EEEE, D, 'Q'Q yyyy")`: "Thursday, 63, Q1 2021", "landed.year() + landed.month()": "2024",
		"logged < moment('2021-03-04T06:05:07Z')": "true",
	} {
		got, err := eval(t, text)
		require.NoError(t, err, text)
		assert.Equal(t, want, got, text)
	}
}

func TestExamplesOfFunctions(t *testing.T) {
	for _, f := range Functions {
		e, err := Compile(f.Example, columns, Means{lists, parseSteps})
		require.NoError(t, err, f.Example)
		if len(f.forms) == 0 { // it asks the row
			continue
		}
		got, err := e.Eval(nil)
		require.NoError(t, err, f.Example)
		assert.Equal(t, f.Gives, got, f.Example)
	}
}

func TestNoValue(t *testing.T) {
	for _, text := range []string{
		"kg / 0", "kg / (boxes - 3)", "number(name)", "date(name)", "plusDays(landed, 0.5)", "plusDays(landed, 99999999)", "plusMonths(landed, -99999)", "round(kg, 1.5)", "fixed(kg, -1)", "padded(kg, 5)", "padded(boxes, 5000)", "part(name, 0)", "piece(name, '', 1)", "piece(name, '/', 0)",
		"found(name, name + '(')", "firstOf(1 / (boxes - 3), 2)", "year({'a': 1, 'b': 'x'}['a'])", "found(name, 'a', 1)", "count(name, '')", "countOf(name, 'vowels')", "inPattern(at, 'yyyy')", "inPattern(landed, 'HH')",
		"inPattern(landed, 'xx')", `inPattern(landed, "'open")`, "kg % 0", "hoursBetween(logged, moment('2021-03-04T06:05:07'))", "replace(name, '', 'x')",
	} {
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
		{"landed > date('04.03.2021')", 1, 14, `this has no value: "04.03.2021" is no day`},
		{"ok ? kg : 1 / (2 - 2)", 1, 13, "this has no value: division by zero"},
		{"time('25:00:00')", 1, 5, "this has no value"},
		{"moment('2021')", 1, 7, "this has no value"},
		{"sum([kg, name])", 1, 10, "sum does not go with (a list with a text)"},
		{"mean([landed, kg])", 1, 7, "mean does not go with (a list with a date)"},
		{"99999999999999999999 > name", 1, 22, "> does not go with (number, text)"},
		{"failed(nope)", 1, 7, `there is no column and no function "nope"`},
		{"before(nope) > 1", 1, 7, `there is no column and no function "nope"`},
		{"kg > name", 1, 4, "> does not go with (number, text): convert the column to a number, or say text(x) of the number"},
		{"name > 40", 1, 6, "> does not go with (text, number)"},
		{"kg + name", 1, 4, "+ does not go with"},
		{"landed > '2021'", 1, 8, `> does not go with (date, text): convert the column to a date, or write a day as date("2021-03-04")`},
		{"kg +", 1, 5, "the expression ends before it is complete"},
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
		{"Net weight (kg) * 2", 1, 5, `"weight" can't stand here: a name with spaces or signs stands in backquotes, as in ` + "`Net weight (kg)`"},
		{"kg boxes", 1, 4, `"boxes" can't stand here: an operator`},
		{"größe größe", 1, 7, `"größe" can't stand here: an operator`},
		{"round(kg, 1", 1, 12, "a closing ) is missing"},
		{"name == 'x", 1, 9, "the quote that ends a text is missing"},
		{"kg ? 1 : 2", 1, 4, "what stands before ? is true or false, as in x > 40 ? 1 : 2, and this is a number"},
		{"ok ? 'a' : 1", 1, 4, "the two values of ? : are of one type, and these are not: (text, number)"},
		{"kg = 5", 1, 4, "write == to compare"},
		{"größe = 5", 1, 7, "write == to compare"},
		{"kg <> 5", 1, 4, "write != for is not"},
		{"kg > 5 and ok", 1, 8, "write && for and"},
		{"ok OR ok", 1, 4, "write || for or"},
		{"not ok", 1, 1, "write ! for not"},
		{"not(ok)", 1, 1, "write ! for not"},
		{"if(ok, 1, 2)", 1, 1, "write CONDITION ? VALUE : OTHERWISE"},
		{"if ok then 1 else 2", 1, 1, "write CONDITION ? VALUE : OTHERWISE"},
		{"ok ? 1", 1, 7, "the : is missing"},
		{"kg == null", 1, 4, "write blank(kg)"},
		{"null != größe", 1, 6, "write !blank(größe)"},
		{"name == ''", 1, 6, "write blank(name)"},
		{`"" != ` + "`in`", 1, 4, "write !blank(`in`)"},
		{"round(kg)", 1, 6, "round does not go with (number): it is used as in round(2 / 3, 2)"},
		{"Kg * 2", 1, 1, `there is no column and no function "Kg"; did you mean the column kg?`},
		{"`net weight (kg` * 2", 1, 1, "did you mean the column `Net weight (kg)`?"},
		{"größe * grösse", 1, 9, "did you mean the column größe?"},
		{"数量 * 数 * 2 + wight", 1, 6, `there is no column and no function "数"`},
		{"数量 *\n größe + grösse", 2, 10, "did you mean the column größe?"},
		{`matches(name, "\d+")`, 1, 15, `write r"\d+"`},
		{`matches(name, "(?<=x)y")`, 1, 1, "RE2 does not look behind"},
		{`found(name, "(?!x)y")`, 1, 1, "RE2 does not look ahead: put what may follow into the pattern, and a group around what is wanted"},
		{"landed - due", 1, 8, "daysBetween"},
		{"logged - logged", 1, 8, "hoursBetween"},
		{"landed + 3", 1, 8, "plusDays(x, 3)"},
		{"`kg", 1, 1, "backquote that ends"},
		{"``", 1, 1, "no name between"},
		{"failed(kg + 1)", 1, 7, "failed takes the name"},
		{"before(kg + 1)", 1, 7, "before takes the name of a column of the output without quotes, as in before(net_weight)"},
		{"kg - before('kg')", 1, 12, "before takes the name"},
		{"before(kg, 2)", 1, 7, "before takes the name"},
		{"number('1.240,5', '.')", 1, 7, `this has no value: "1.240,5" is not a number with the decimal mark .`},
		{"number(name, ';')", 1, 14, `the decimal mark is "." or ",", not ";"`},
		{"date(name, 'd.m.y')", 1, 12, `the order of a date is "dmy", "mdy" or "ymd", not "d.m.y"`},
		{"steps(name, port)", 1, 6, "steps takes a text, and steps in quotes as plans have them"},
		{"steps(name, 'kep: digits')", 1, 13, `unknown step "kep"`},
		{"steps(name, 'fill: x')", 1, 13, "fill is for the cells of a column"},
		{"steps(kg, 'trim')", 1, 6, "steps takes a text: say text(x)"},
		{"sumSoFar(name)", 1, 9, "sumSoFar adds up numbers, and name is text"},
		{"failed('kg')", 1, 7, "failed takes the name"},
		{"row(1)", 1, 4, "takes nothing"},
		{"stored(name)", 1, 7, "in quotes"},
		{"lookup('prots', port)", 1, 7, `lookup takes the name of a list in quotes, and a text, as in lookup("ports", x)`},
		{"frobn(kg)", 1, 6, `"frobn"`},
		{"rond(kg, 1)", 1, 5, "did you mean the function round?"},
	} {
		_, err := Compile(tt.text, columns, Means{lists, parseSteps})
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
		e, err := Compile(text, columns, Means{lists, parseSteps})
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
		e, err := Compile(text, columns, Means{lists, parseSteps})
		if err != nil {
			return
		}
		_, _ = e.Eval(testRow{e, func(i int) string { return row[e.Uses[i]] }})
	})
}

// What a blank gives in each place is as the table of docs/functions.md says. Due is blank.
func TestWhatABlankGives(t *testing.T) {
	for text, want := range map[string]string{
		"plusDays(due, 1) < landed": "", "number(part(name, 99)) + 1": "", "number(part(name, 99)) % 2": "",
		"due == landed": "false", "due != landed": "true", "part(name, 99) == 'x'": "false",
		"due < landed || ok": "true", "ok || due < landed": "true", "due < landed && !ok": "false", "due < landed && ok": "",
		"due < landed || !ok": "", "!(due < landed)": "", "due < landed ? 1 : 2": "",
		"blank(due)": "true", "failed(kg)": "false", "firstOf(due, landed)": "2021-03-04", "min(due, due)": "",
		"year(due)": "", "due.year()": "", "upper(part(name, 99))": "", "part(name, 99) + 'x'": "", "text(due)": "",
		"found(name, 'x')": "", "piece(name, '/', 2)": "", "lookup('ports', name)": "",
	} {
		got, err := eval(t, text)
		require.NoError(t, err, text)
		assert.Equal(t, want, got, text)
	}
}

// parseSteps reads steps such as [trim, keep: digits], of which none has more than one word.
func parseSteps(text string) (chain step.Chain, err error) {
	for one := range strings.SplitSeq(strings.Trim(text, "[]"), ", ") {
		name, arg, _ := strings.Cut(one, ": ")
		var args step.Args
		if arg != "" {
			args = arg
		}
		s, err := step.New(name, args)
		if err != nil {
			return nil, err
		}
		chain = append(chain, step.Named{Name: name, Args: args, Step: s})
	}
	return chain, nil
}
