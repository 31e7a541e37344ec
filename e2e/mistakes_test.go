package e2e

import (
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
)

// What people get wrong in expressions is answered with what to write.
func TestMistakesInExpressions(t *testing.T) {
	t.Parallel()
	f := newFolder(t)
	f.file("a.csv", keepers)
	for expression, want := range map[string]string{
		`kg = 2`: "write == to compare, in place of =", `kg <> 2`: "write != for is not", `kg === 2`: "write == to compare",
		`kg => 2`: "write == to compare", `kg and 2`: "write && for and", `kg or 2`: "write || for or", `not blank(kg)`: "write ! for not",
		`kg is null`: "write blank(x) or !blank(x)", `kg isnt 2`: "write != for is not", `kg between 1 and 2`: "write x >= 1 && x <= 2",
		`Tag like "a%"`: `contains(x, "TEXT") or matches(x, "PATTERN")`, `Tag contains "a"`: `write contains(x, "TEXT")`,
		`Tag matches "a"`: `write matches(x, "PATTERN")`, `Tag starts "a"`: `write starts(x, "TEXT")`, `Tag ~ "a"`: "in place of ~",
		`sum(kg; 1)`: "separated by commas, not by ;", `Tag & place`: `joined("", x, y) to put texts together`, `kg > 1 | kg < 0`: "write || for or",
		`kg ^ 2`: "write x * x", `kg ** 2`: "write x * x", `$kg + 1`: "without $", `5%`: "0.05 for 5 %", `kg%`: "0.05 for 5 %",
		`100,5 + 1`: "a decimal number is written with a point", `kg in (1,2)`: "x in [1, 2]", `"100" > kg`: "a number stands without quotes, as in 100",
		`kg > '12.5'`: "a number stands without quotes, as in 12.5", `Tag == Hul`: `a text stands in quotes, as in "Hul"`,
		`Tag || place`: "are for conditions, and this is a text", `kg == NULL`: "write null, in small letters", `kg != null`: "write !blank(kg)",
		`Tag == ""`: "write blank(Tag)", `if(kg > 2, 1, 2)`: "write CONDITION ? VALUE : OTHERWISE", `case when kg > 1 then 2 end`: "in place of case",
		`kg > 2 ? 1`: "the : is missing that goes with ?", `(kg + 1`: "a closing ) is missing", `kg +`: "ends before it is complete", `"a`: "the quote that ends a text is missing",
		`len(Tag)`: "write length(x)", `LENGTH_(Tag)`: "did you mean the function length?", `concat(Tag, place)`: `write joined(", ", x, y)`, `substring(Tag, 1, 2)`: "write part(x, 1, 2)",
		`left(Tag, 2)`: "write part(x, 1, 2)", `right(Tag, 2)`: "write part(x, -2)", `split(Tag, "-")`: `write piece(x, "-", 1)`, `average(kg, 2)`: "write mean(x, y)",
		`coalesce(Tag, place)`: "write firstOf(x, y)", `isblank(Tag)`: "write blank(x)", `is_null(Tag)`: "write blank(x)", `proper(Tag)`: `write steps(x, "case: title")`,
		`regex(Tag, "a")`: `found(x, "PATTERN")`, `strip(Tag)`: "write trim(x)", `to_text(kg)`: "write text(x)", `to_number(Tag)`: "write number(x)",
		`to_date(Tag)`: `write date(x, "dmy")`, `abs(kg)`: "write absolute(x)", `today()`: "must not depend on when it is run", `now()`: "must not depend on when it is run",
		`datediff(day, day)`: "write daysBetween(x, y)", `substitute(Tag, "a", "b")`: `write replace(x, "OLD", "NEW")`, `keep(Tag, "digits")`: `write steps(x, "keep: digits")`,
		`max(kg)`: "over all rows, `junvo totals` has it", `sum(kg)`: "over all rows, `junvo totals` has it", `Tag + kg`: "say text(x) of the number",
		`year(Tag)`: "it is used as in year(date(", `wurst(Tag)`: "`junvo help functions` lists the functions", `plce`: "did you mean the column place?",
		`steps(Tag, "kep: digits")`: `unknown step "kep"; did you mean "keep"?`, `steps(kg, "trim")`: "say text(x) of another value", `date(Tag, "d/m/y")`: `"dmy", "mdy" or "ymd"`,
		`number(Tag, ";")`: `the decimal mark is "." or ","`, `lookup("ports", Tag)`: "the plan has no lists", `raw(Tag)`: "the name of a column of the source in quotes",
		`previous("Tag")`: "without quotes", `blank()`: "blank", `Tag.nope()`: "nope", `{1: 2}`: "a column holds numbers, texts", `[1, 2]`: "a column holds numbers, texts",
	} {
		r := f.run("convert", "a.csv", "-o", "o.csv", "--as", "kg=decimal", "--compute", "x = "+expression)
		assert.Equal(t, 2, r.code, "%s: %s", expression, r.err)
		assert.Contains(t, r.err, want, expression)
		assert.NotRegexp(t, `Syntax error|overload|token recognition|mismatched input|decimal_literal|steps_of`, r.err, expression)
		assert.Equal(t, []string{"a.csv"}, f.names(), expression)
	}
}

// Flags that there are not are answered with the one that is meant, or with the command that has it.
func TestMistakesInFlags(t *testing.T) {
	t.Parallel()
	f := newFolder(t)
	f.file("a.csv", keepers)
	for line, want := range map[string]string{
		"totals a.csv --group-by Tag": "Did you mean --by?", "convert a.csv --group-by Tag": "--by belongs to `junvo totals`", "convert a.csv --out o.csv": "Did you mean --output?",
		"convert a.csv --filter x": "Did you mean --keep-if?", "convert a.csv --where x": "Did you mean --keep-if?", "convert a.csv --select Tag": "Did you mean --only?",
		"convert a.csv --exclude Tag": "Did you mean --leave-out?", "convert a.csv --sort Tag": "Did you mean --order-by?", "convert a.csv --sort_by Tag": "Did you mean --order-by?",
		"profile a.csv --sep ;": "Did you mean --delimiter?", "profile a.csv --delimeter ;": "Did you mean --delimiter?", "profile a.csv --charset utf-8": "Did you mean --encoding?",
		"profile a.csv --type kg=decimal": "Did you mean --as?", "profile a.csv --na x": "Did you mean --blank-word?", "profile a.csv --threads 2": "Did you mean --workers?",
		"convert a.csv --force": "Did you mean --replace?", "profile a.csv --sheet 2": `Name it after #, as in "book.xlsx#Sheet"`, "convert a.csv --unpivot a": "Did you mean --turn?",
		"convert a.csv --errors e.csv": "Did you mean --failures?", "profile a.csv --decimal-comma": "Did you mean --decimal-mark?", "profile a.csv --date-format dmy": "Did you mean --date-order?",
		"profile a.csv --order-by kg": "--order-by belongs to `junvo draft`", "profile a.csv --nothinglikeit": "`junvo profile --help` lists the flags",
		"profile a.csv --header-row x": "--header-row must be a whole number such as 17", "profile a.csv --workers=many": "--workers must be a whole number",
		"profile a.csv --widths a,b": "as in 6,20,10", "profile a.csv --no-header=maybe": "--no-header takes no value", "profile a.csv --encoding": "--encoding needs a value",
		"convert a.csv --plan": "--plan needs a value", "convert a.csv -x": "-x; `junvo convert --help` lists the flags", "why a.csv --row x --column kg": "--row must be a whole number",
	} {
		r := f.run(strings.Fields(line)...)
		assert.Equal(t, 2, r.code, line)
		assert.Contains(t, r.err, want, line)
		assert.NotContains(t, r.err, "strconv", line)
		assert.Equal(t, 1, strings.Count(r.err, "\n"), line)
	}
	r := f.run("convert", "a.csv", "-o", "-", "--as", "Tag=text,kg=decimal", "--only", "kg")
	assert.Equal(t, "kg\n1240.5\n12.5\n\"\"\n7.5\n", r.out, r.err)
}

// What is wrong in a plan is said once, with its place.
func TestMistakesInPlans(t *testing.T) {
	t.Parallel()
	f := newFolder(t)
	f.file("a.csv", keepers)
	for plan, want := range map[string]string{
		"columns:\n  kg:\n    to:decimal\n":          "line 4, column 5: a space is missing after the colon: write to: decimal",
		"columns:\n  Tag:\n    steps: [drop: \"x]\n": "line 4, column 19: the quote that begins here is not closed", "columns:\n  Tag: {to: \"text}\n  kg: {}\n": "line 3, column 13: the quote that begins here is not closed",
		"columns:\n  kg: {to: decimal\n  Tag: {}\n": "a comma or a closing } or ] is missing", "columns:\n  - Tag\n": "columns is a map", "columns:\n\tTag: {}\n": "this line has a tab",
		"columns:\n  kg: {to: number}\n": `unknown type "number"; did you mean "decimal"?`, "columns:\n  kg: {type: decimal}\n": `unknown key "type"; did you mean "to"?`,
		"columns:\n  kg: {to: decimal, decimal-mark: ,}\n": "a text is wanted here", "columns:\n  kg: {steps: keep}\n": "steps is a list", "columns:\n  nokg: {}\n": `reads the column "nokg"`,
		"column:\n  kg: {}\n": `unknown key "column"; did you mean "columns"?`, "columns:\n  kg: {}\n  kg: {}\n": `the key "kg" is there twice, first in line 3`,
		"rows: {keep: kg = 2}\ncolumns:\n  kg: {}\n": "line 2, column 17: write == to compare", "columns:\n  d: {from: day, to: date, date-order: d/m/y}\n": "date-order is dmy, mdy or ymd",
		"columns:\n  a: {from: Tag, split: {at: \"-\"}}\n": "a split needs both", "columns:\n  a: {compute: kg + }\n": "ends before it is complete",
		"columns:\n  kg: {steps: [kep: digits]}\n": `unknown step "kep"; did you mean "keep"?`, "columns:\n  kg: {steps: [take: {befor: x}]}\n": `did you mean "before"?`,
		"columns:\n  kg: {to: decimal, on-failure: skip}\n": `did you mean "set-aside-row"?`, "rows: {sort: kg}\ncolumns:\n  kg: {}\n": `did you mean "order-by"?`,
		"columns:\n  x: {compute: \"steps(Tag, 'kep: digits')\"}\n  Tag: {}\n": `unknown step "kep"`, "columns:\n  a: {compute: b}\n  b: {compute: a}\n": "is made of itself",
	} {
		f.file("p.yaml", "plan: 1\n"+plan)
		r := f.run("convert", "a.csv", "-o", "o.csv", "--plan", "p.yaml")
		assert.Equal(t, 2, r.code, plan)
		assert.Contains(t, r.err, want, plan)
		assert.Equal(t, 1, strings.Count(r.err, "\n"), "one message for %s: %s", plan, r.err)
	}
	f.file("p.yaml", "\ufeffplan: 1\ncolumns:\n  Tag: {}\n")
	assert.Zero(t, f.run("convert", "a.csv", "-o", "o.csv", "--plan", "p.yaml").code, "the mark of an editor")
	f.file("p.yaml", "junk\n")
	assert.Equal(t, "junvo: p.yaml, line 1, column 1: a plan is a map with keys, not a value\n", f.run("convert", "a.csv", "-o", "o.csv", "--plan", "p.yaml").err)
}
