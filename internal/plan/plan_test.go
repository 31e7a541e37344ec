package plan

import (
	"fmt"
	"slices"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"junvo/internal/reason"
	"junvo/internal/rowkind"
	"junvo/internal/step"
	"junvo/internal/value"
)

const intake = `plan: 1
source: {encoding: windows-1252, delimiter: ";", header-row: 3}
blank-words: ["n. a.", see log book]
rows:
  set-aside: [blank-rows, total-rows]
columns:
  landing_no:
    # a person's comment
    from: "Landing No."
    to: code
  net_weight:
    from: Net weight
    steps:
      - trim
      - drop: [spaces, kg]
      - replace: {pattern: "(\\d+) t", with: "${1}000", ignore-case: true}
      - label: [{is: x, then: ""}, {otherwise: "no"}]
    to: decimal
    decimal-mark: ","
    group-marks: [".", " "]
    unit: kg
    blank-words: ["-", n/a]
    on-failure: keep-text
    must: {not-blank: true, between: [0, 30000.5], longest: 9}
  landed_on: {to: date, date-order: {".": dmy, "/": mdy}, must: {between: ["2020-01-01", null]}}
  booked_on: {to: timestamp, date-order: mdy, offsets: true, months: croatian}
  price: {to: decimal, decimal-mark: ".", currency: $, must: {one-of: ["1", "2.5"], matches: "^[0-9]"}}
  share: {to: decimal, sign: "%", on-failure: stop}
  day: {to: date, days-as-digits: true}
  inspected: {to: boolean, words: {true: [ja, "yes"], false: [nein, "no"]}}
  skipper:
    from: Skipper
    steps: [trim]
    split: {at: ", "}
    into:
      surname: {to: text, steps: [{case: upper}], private: true}
      first_name: {to: text, on-failure: set-aside-row}
  mass: {to: decimal, unit: kg, factors: {g: 0.001}}
  double: {compute: "net_weight * 2"}
  late: {compute: "landed_on > date(\"2021-06-30\") && blank(raw(\"Remarks\"))", to: boolean}
  quarter: {compute: "double / 8", to: decimal}
  tag: {join: [landing_no, surname], with: "-", blanks: keep}
  "odd: name": {from: "line\nbreak", to: text, undecided: true}
`

func TestWriteAndLoadGiveAnEqualPlan(t *testing.T) {
	p, err := Load([]byte(intake))
	require.NoError(t, err)
	text, err := p.Write()
	require.NoError(t, err)
	again, err := Load(text)
	require.NoError(t, err, string(text))
	second, err := again.Write()
	require.NoError(t, err)
	assert.Equal(t, string(text), string(second))
	require.Len(t, again.Columns, len(p.Columns))
	for i := range p.Columns {
		a, b := &p.Columns[i], &again.Columns[i]
		assert.Equal(t, [...]any{a.Name, a.Source, a.Convention, a.Terms, a.OnFailure, a.Undecided, a.Private, a.Join, a.Compute == nil, a.OwnSteps() == nil}, [...]any{b.Name, b.Source, b.Convention, b.Terms, b.OnFailure, b.Undecided, b.Private, b.Join, b.Compute == nil, b.OwnSteps() == nil})
		for s := range a.Steps {
			assert.Equal(t, a.Steps[s].Args, b.Steps[s].Args)
		}
	}
	assert.Equal(t, p.SetAside, again.SetAside)
	assert.Equal(t, "line\nbreak", again.Columns[15].Source)
}

func TestPlanSaysWhatItSays(t *testing.T) {
	p, err := Load([]byte(intake))
	require.NoError(t, err)
	assert.Equal(t, Source{Encoding: "windows-1252", Delimiter: ";", HeaderRow: 3}, p.Source)
	assert.True(t, p.SetAside[rowkind.Blank] && p.SetAside[rowkind.Total] && p.SetAside[rowkind.Long])
	assert.False(t, p.SetAside[rowkind.RepeatedHeading])
	w := &p.Columns[1]
	assert.Equal(t, `decimal mark ",", group mark "." and space, unit kg`, w.Terms.Say())
	out, _, _ := w.Steps.Apply(" 12 T")
	assert.Equal(t, "no", out)
	assert.Equal(t, reason.OutOfRange, w.Must.Check(value.Decimal, []byte("30000.51")))
	assert.Equal(t, reason.None, w.Must.Check(value.Decimal, []byte("30000.50")))
	assert.Equal(t, reason.OutOfRange, w.Must.Check(value.Decimal, []byte("-1")))
	assert.Equal(t, reason.TooLong, w.Must.Check(value.Decimal, []byte("1.00000000")))
	assert.Equal(t, reason.OutOfRange, p.Columns[2].Must.Check(value.Date, []byte("2019-12-31")))
	assert.Equal(t, reason.NotListed, p.Columns[4].Must.Check(value.Decimal, []byte("3")))
	assert.Equal(t, FailStop, p.Columns[5].OnFailure)
}

func TestBind(t *testing.T) {
	p, err := Load([]byte("plan: 1\ncolumns: {a: {from: Net weight}, b: {from: Boxes}}"))
	require.NoError(t, err)
	b, err := p.Bind([]string{"Boxes", "x", "Net weight"})
	require.NoError(t, err)
	assert.Equal(t, []int{2, 0}, []int{b.From(0), b.From(1)})
	_, err = p.Bind([]string{"Boxes", "Net wieght"})
	assert.EqualError(t, err, `the plan reads the column "Net weight", and the source has no such column; it has "Net wieght"`)
}

func TestAllMistakesAreReportedWithTheirPlaces(t *testing.T) {
	for _, tt := range []struct{ text, want string }{
		{"", "line 1, column 1: the plan is empty"},
		{"plan: 2\ncolumns: {a: {}}", "line 1, column 7: this is a plan of version 2; this program reads version 1"},
		{"columns: {a: {to: text}}", "line 1, column 1: the version is missing: a plan begins with plan: 1"},
		{"plan: 1", "line 1, column 1: the plan has no columns"},
		{"plan: 1\ncolums: {}\ncolumns: {a: {}}", `line 2, column 1: unknown key "colums"; did you mean "columns"?`},
		{"plan: 1\ncolumns: {a: {steps: [dorp]}}", `unknown step "dorp"; did you mean "drop"?`},
		{"plan: 1\ncolumns: {a: {steps: [{take: {befor: x}}]}}", `line 2, column 31: step take: unknown argument "befor"`},
		{"plan: 1\ncolumns: {a: {steps: trim}}", "steps is a list"},
		{"plan: 1\ncolumns: {a: {steps: [trim, {fill: x}]}}", "fill must be the first step"},
		{"plan: 1\ncolumns: {a: {to: number}}", `unknown type "number"; did you mean "decimal"?`},
		{"plan: 1\ncolumns: {a: {to: decimal, decimal-mark: x}}", "decimal-mark is . or , or ٫"},
		{"plan: 1\ncolumns: {a: {to: date, date-order: dym}}", "date-order is dmy, mdy or ymd"},
		{"plan: 1\ncolumns: {a: {to: decimal, currency: XYZ}}", "no currency that is known"},
		{"plan: 1\ncolumns: {a: {to: boolean, words: {true: [aye], false: [nay]}}}", `"aye" is no known word for true`},
		{"plan: 1\ncolumns: {a: {to: integer, date-order: dmy}}", "line 2, column 28: date-order goes with date and timestamp, and the column is integer"},
		{"plan: 1\ncolumns: {a: {decimal-mark: ','}}", "decimal-mark goes with integer and decimal, and the column is text"},
		{"plan: 1\ncolumns: {a: {to: decimal, words: {true: [ja], false: [nein]}}}", "words goes with boolean"},
		{"plan: 1\ncolumns: {a: {to: date, offsets: true}}", "offsets goes with timestamp"},
		{"plan: 1\ncolumns: {a: {to: decimal, unit: kg, currency: EUR}}", "unit and currency exclude each other"},
		{"plan: 1\ncolumns: {a: {to: decimal, decimal-mark: '.', group-marks: ['.']}}", `"." can't be both`},
		{"plan: 1\ncolumns: {a: {to: decimal, group-marks: ['.', ',']}}", "which one is the decimal mark?"},
		{"plan: 1\ncolumns: {a: {to: integer}, b: {compute: a, to: decimal, unit: kg}}", "a computed column has none"},
		{"plan: 1\ncolumns: {a: {to: integer}, b: {compute: a, on-failure: keep-text}}", "no text to keep"},
		{"plan: 1\ncolumns: {a: {steps: [{label: [{otherwise: x}, {is: y, then: z}]}]}}", "rule 2 stands after otherwise"},
		{"plan: 1\ncolumns: {a: {steps: [{keep: digit}]}}", "say digits for the class"},
		{"plan: 1\ncolumns: {a: {steps: [{replace: {pattern: 'x', with: '$1kg'}}]}}", "there is no group 1: the pattern has 0"},
		{"plan: 1\ncolumns: {a: {steps: [{replace: {pattern: '(x)', with: '\\1'}}]}}", "write $1 for group 1"},
		{"plan: 1\ncolumns: {a: {to: integer, must: {between: [1]}}}", "between is a list of two values"},
		{"plan: 1\ncolumns: {a: {to: integer, must: {between: [a, 2]}}}", `"a" is no number`},
		{"plan: 1\ncolumns: {a: {to: date, must: {between: ['01.01.2020', null]}}}", "column a: must"},
		{"plan: 1\ncolumns: {a: {must: {matches: '('}}}", "error parsing regexp"},
		{"plan: 1\ncolumns: {a: {on-failure: ignore}}", "unknown way to go on"},
		{"plan: 1\ncolumns: {a: {to: integer, undecided: true}}", "undecided goes with the type text only"},
		{"plan: 1\ncolumns: {a: {split: {at: x}}}", "a split needs both"},
		{"plan: 1\ncolumns: {a: {split: {at: ''}, into: {b: {}}}}", "at: an empty text"},
		{"plan: 1\ncolumns: {a: {split: {}, into: {b: {}}}}", "does not say where"},
		{"plan: 1\ncolumns: {a: {split: {at: x, pattern: y}, into: {b: {}}}}", "in one way"},
		{"plan: 1\ncolumns: {a: {split: {at: x, nth: 1}, into: {b: {}, c: {}, d: {}}}}", "makes two pieces, not 3"},
		{"plan: 1\ncolumns: {a: {split: {positions: [2, 1]}, into: {b: {}, c: {}, d: {}}}}", "each larger than the one before"},
		{"plan: 1\ncolumns: {a: {split: {positions: [2]}, into: {b: {}, c: {}, d: {}}}}", "make 2 pieces, not 3"},
		{"plan: 1\ncolumns: {a: {split: {pattern: '(x)'}, into: {b: {}, c: {}}}}", "has 1 groups, and there are 2 pieces"},
		{"plan: 1\ncolumns: {a: {split: {at: x}, into: {b: {from: z}}}}", "neither from nor join"},
		{"plan: 1\ncolumns: {a: {split: {at: x}, into: {b: {split: {at: x}, into: {c: {}}}}}}", "can't be split again"},
		{"plan: 1\ncolumns: {b: {}, a: {split: {at: x}, into: {b: {}}}}", `two columns of the output have the name "b"`},
		{"plan: 1\ncolumns: {a: {}, b: {compute: 'a > 2'}}", "line 2, column 34: > does not go with (text, number)"},
		{"plan: 1\ncolumns: {a: {to: decimal}, b: {compute: a + 'x'}}", "does not go with (number, text)"},
		{"plan: 1\ncolumns: {a: {to: decimal}, b: {compute: a, to: text}}", "the expression gives decimal, and the column is text: say to: decimal"},
		{"plan: 1\ncolumns: {a: {compute: b}, b: {compute: a}}", "is made of itself"},
		{"plan: 1\ncolumns: {a: {to: decimal, compute: b + 1}, b: {to: decimal, compute: a + 1}}", "is made of itself"},
		{"plan: 1\nrows: {keep: b}\ncolumns: {b: {}}", "a condition is true or false, and this is a text"},
		{"plan: 1\nrows: {drop: b > c}\ncolumns: {b: {to: date}}", `no column and no function "c"`},
		{"plan: 1\ncolumns: {a: {with: x}}", "go with join only"},
		{"plan: 1\ncolumns: {a: {join: [b]}, b: {join: [a]}}", "is made of itself"},
		{"plan: 1\ncolumns: {b: {}, a: {join: [b], from: x}}", "exclude each other"},
		{"plan: 1\ncolumns: {b: {}, a: {join: [b], blanks: skp}}", `did you mean "skip"?`},
		{"plan: 1\ncolumns: [a]", "columns is a map"},
		{"plan: 1\ncolumns: {a: 1}", "a column is a map with keys, not a value"},
		{"plan: 1\nrows: {set-aside: [totals]}\ncolumns: {a: {}}", `unknown kind of rows "totals"; there are blank-rows`},
		{"plan: 1\nsource: {header-row: 0}\ncolumns: {a: {}}", "a whole number from 1"},
		{"plan: 1\ncolumns: {a: *x}", "have no place in a plan"},
		{"plan: [1\n", "this is no YAML"},
		{"plan: 1\ncolumns: {a: {}, a: {}}", "is there twice, first in line 2"},
	} {
		_, err := Load([]byte(tt.text))
		if assert.Error(t, err, tt.text) {
			assert.Contains(t, err.Error(), tt.want, tt.text)
		}
	}
	_, err := Load([]byte("plan: 1\nsorce: {}\ncolumns:\n  a: {too: text}\n  b: {to: dat}\n"))
	assert.Len(t, err, 3)
}

// Every key of the catalogue is known to the loader, and an example of it loads.
func TestKeysAreKnown(t *testing.T) {
	for _, group := range Keys {
		for _, k := range group.Keys {
			text := ""
			switch group.Where {
			case "At the top:":
				if text = k.Example; k.Name != "plan" {
					text = "plan: 1\n" + text
				}
				if k.Name != "columns" {
					text += "\ncolumns: {a: {}, net_weight: {to: decimal}, landed_on: {to: date}}"
				}
			case "In seen:":
				text = "plan: 1\ncolumns: {a: {}}\nseen:\n  " + k.Example
			case "In must:":
				text = "plan: 1\ncolumns:\n  a:\n    to: integer\n    must: {" + k.Example + "}"
			default:
				for _, e := range strings.Split(k.Example, ", or ") {
					typ := "text"
					if types := termTypes[k.Name]; types != nil {
						typ = types[len(types)-1].String()
					}
					text = "plan: 1\ncolumns:\n  port: {}\n  landing_no: {}\n  net_weight: {to: decimal}\n  a:\n    " + e
					if with := map[string]string{"split": "into: {x: {}, y: {}}", "into": "split: {at: x}", "with": "join: [port]", "blanks": "join: [port]"}[k.Name]; with != "" {
						text += "\n    " + with
					}
					if k.Name == "split" || k.Name == "into" {
						_, err := Load([]byte(text))
						assert.NoError(t, err, text)
						continue
					}
					if k.Name != "to" && k.Name != "compute" {
						text += "\n    to: " + typ
					}
					_, err := Load([]byte(text))
					assert.NoError(t, err, text)
				}
				continue
			}
			_, err := LoadWith([]byte(text), func(string) ([]byte, error) { return []byte("code,name\nHER,herring\n"), nil })
			assert.NoError(t, err, text)
		}
	}
}

// The examples of the catalogue of steps come out as it says, through a plan.
func TestExamplesOfSteps(t *testing.T) {
	for _, s := range step.Catalogue {
		require.NotEmpty(t, s.Examples, s.Name)
		for _, e := range s.Examples {
			p, err := Load([]byte("plan: 1\ncolumns:\n  a:\n    steps:\n      - " + e.Plan))
			require.NoError(t, err, e.Plan)
			out, _, why := p.Columns[0].Steps.Apply(e.In)
			assert.Equal(t, reason.None, why, e.Plan)
			assert.Equal(t, e.Out, out, e.Plan)
		}
	}
}

func TestUsableName(t *testing.T) {
	for name, want := range map[string]string{
		"Net weight": "net_weight", "Landing No.": "landing_no", "  a--b ": "a_b", "2021": "_2021", "Größe (cm)": "größe_cm", "%": "column", "": "column",
	} {
		assert.Equal(t, want, UsableName(name), name)
	}
}

func FuzzLoad(f *testing.F) {
	f.Add(intake)
	f.Add("plan: 1\ncolumns: {a: {steps: [{pad: {width: 3}}]}}")
	f.Fuzz(func(t *testing.T, text string) {
		p, err := Load([]byte(text))
		if err != nil {
			return
		}
		out, err := p.Write()
		require.NoError(t, err)
		again, err := Load(out)
		require.NoError(t, err, string(out))
		second, err := again.Write()
		require.NoError(t, err)
		require.Equal(t, string(out), string(second))
		for _, c := range p.Columns {
			c.Steps.Apply("1.240,5\u00a0kg / lot 88")
		}
	})
}

// The keys of a plan may stand in any order.
func TestKeysInAnyOrder(t *testing.T) {
	parts := []string{
		"plan: 1\n", "source: {delimiter: tab}\n", "blank-words: [n. a.]\n", "seen: {rows: 4}\n",
		"rows:\n  keep: kg > 8\n  drop: twice == 20\n  order-by: [{kg: descending}]\n  set-aside: [notes]\n",
		"columns:\n  twice: {compute: kg * 2}\n  kg: {from: Weight, to: decimal, decimal-mark: \",\"}\n  both: {join: [kg, twice], with: /}\n",
	}
	want, err := Load([]byte(strings.Join(parts, "")))
	require.NoError(t, err)
	require.NotNil(t, want.Keep)
	require.NotNil(t, want.Drop)
	for i := range parts {
		for j := range parts {
			order := slices.Clone(parts)
			order[i], order[j] = order[j], order[i]
			order = append(order[i:], order[:i]...)
			text := strings.Join(order, "")
			got, err := Load([]byte(text))
			require.NoError(t, err, text)
			require.NotNil(t, got.Keep, text)
			require.NotNil(t, got.Drop, text)
			assert.Equal(t, want.Keep.Text+want.Drop.Text, got.Keep.Text+got.Drop.Text, text)
			assert.Equal(t, want.Keep.From, got.Keep.From, text)
			assert.Equal(t, want.OrderBy, got.OrderBy, text)
			assert.Equal(t, want.Order, got.Order, text)
			assert.Equal(t, want.SetAside, got.SetAside, text)
			assert.Equal(t, want.Source, got.Source, text)
			assert.Equal(t, want.BlankWords, got.BlankWords, text)
			assert.Equal(t, want.Columns[0].Compute.Text, got.Columns[0].Compute.Text, text)
			assert.Equal(t, want.Columns[2].Join, got.Columns[2].Join, text)
		}
	}
}

// Mistakes name their lines in plans of any length, of which the parser sees pieces.
func TestLinesOfMistakesInLongPlans(t *testing.T) {
	const columns = 1000
	for _, flow := range []bool{true, false} {
		for _, wrong := range []int{0, 1, 198, 199, 200, 201, 399, 400, 401, 600, columns - 1} {
			var b strings.Builder
			b.WriteString("# a wide one\nplan: 1\nrows:\n  set-aside: [notes]\ncolumns:\n")
			line := 0
			for i := range columns {
				typ := "integer"
				if i == wrong {
					typ = "whole"
				}
				if flow {
					fmt.Fprintf(&b, "  c%d: {to: %s}\n", i, typ)
				} else {
					fmt.Fprintf(&b, "  c%d:\n    # a column\n    to: %s\n", i, typ)
				}
				if i == wrong {
					line = strings.Count(b.String(), "\n")
				}
			}
			_, err := Load([]byte(b.String()))
			var mistakes Mistakes
			require.ErrorAs(t, err, &mistakes)
			require.Len(t, mistakes, 1)
			assert.Equal(t, line, mistakes[0].Line, "column %d", wrong)
			assert.Contains(t, mistakes[0].Say, `unknown type "whole"`)
		}
	}
}
