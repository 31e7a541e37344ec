package expression

import (
	"fmt"
	"regexp"
	"strings"
)

// People write what other languages have. What to write in its place is said here, in tables.

// otherNames are names of functions that there are not, with what to write.
var otherNames = map[string]string{
	"len": "length(x)", "size": "length(x)", "concat": `joined(", ", x, y), or x + y`, "concatenate": `joined(", ", x, y), or x + y`,
	"join": `joined(", ", x, y)`, "substring": "part(x, 1, 2)", "substr": "part(x, 1, 2)", "left": "part(x, 1, 2)", "right": "part(x, -2)",
	"middle": "part(x, 1, 2)", "mid": "part(x, 1, 2)", "split": `piece(x, "-", 1), or --split for columns`, "average": "mean(x, y)", "avg": "mean(x, y)",
	"total": "sum(x, y), or `junvo totals` for a column", "coalesce": "firstOf(x, y)", "ifnull": "firstOf(x, y)", "isblank": "blank(x)",
	"isnull": "blank(x)", "isempty": "blank(x)", "empty": "blank(x)", "exists": "!blank(x)", "notblank": "!blank(x)",
	"proper": `steps(x, "case: title")`, "title": `steps(x, "case: title")`, "capitalize": `steps(x, "case: title")`,
	"initcap": `steps(x, "case: title")`, "capitalise": `steps(x, "case: title")`, "uppercase": "upper(x)", "lowercase": "lower(x)", "toupper": "upper(x)",
	"tolower": "lower(x)", "regex": `matches(x, "PATTERN") or found(x, "PATTERN")`, "regexp": `matches(x, "PATTERN") or found(x, "PATTERN")`,
	"match": `matches(x, "PATTERN")`, "extract": `found(x, "PATTERN")`, "search": `position(x, "TEXT")`, "find": `position(x, "TEXT")`,
	"indexof": `position(x, "TEXT")`, "index": `position(x, "TEXT")`, "substitute": `replace(x, "OLD", "NEW")`, "strip": "trim(x)",
	"str": "text(x)", "string": "text(x)", "totext": "text(x)", "cast": "text(x), number(x) or date(x)", "convert": "text(x), number(x) or date(x)",
	"tonumber": "number(x)", "value": "number(x)", "float": "number(x)", "decimal": "number(x)", "integer": "number(x)", "todate": `date(x, "dmy")`,
	"abs": "absolute(x)", "mod": "remainder(x, y)", "power": "x * x", "pow": "x * x", "sqrt": "a column that has the root: there is no such function",
	"trunc": "floor(x)", "truncate": "floor(x)", "ceil": "ceiling(x)", "int": "floor(x)", "iff": "CONDITION ? VALUE : OTHERWISE",
	"when": "CONDITION ? VALUE : OTHERWISE", "switch": "CONDITION ? VALUE : OTHERWISE", "choose": "CONDITION ? VALUE : OTHERWISE",
	"today": `a day: date("2021-03-04"); what comes out must not depend on when it is run`,
	"now":   `a timestamp: moment("2021-03-04T06:05:00"); what comes out must not depend on when it is run`,
	"days":  "daysBetween(x, y)", "dateadd": "plusDays(x, 3) or plusMonths(x, 1)", "adddays": "plusDays(x, 3)", "addmonths": "plusMonths(x, 1)",
	"datediff": "daysBetween(x, y)", "age": "yearsBetween(x, y)", "format": `inPattern(x, "d MMM yyyy") or fixed(x, 2)`,
	"lag": "previous(x)", "shift": "previous(x)", "cumsum": "sumSoFar(x)", "runningsum": "sumSoFar(x)", "rownumber": "row()", "rownum": "row()",
	"startswith": `starts(x, "TEXT")`, "endswith": `ends(x, "TEXT")`, "like": `starts(x, "TEXT"), contains(x, "TEXT") or matches(x, "PATTERN")`,
	"between": "x >= 1 && x <= 2", "isnumber": `reading(x) == "decimal"`, "isdate": `reading(x) == "date"`, "typeof": "reading(x)", "type": "reading(x)",
	"smallest": "min(x, y)", "largest": "max(x, y)", "minimum": "min(x, y)", "maximum": "max(x, y)", "pad": `padded(x, 6), or steps(x, "pad: {width: 6}")`,
	"null": "null, in small letters", "none": "null", "nil": "null", "keep": `steps(x, "keep: digits")`, "drop": `steps(x, "drop: digits")`,
}

// otherWords are words between two values, with what to write.
var otherWords = map[string]string{
	"is":       "write blank(x) or !blank(x) to ask for blanks, and == for equal",
	"isnt":     "write != for is not, and !blank(x) for not blank",
	"between":  "write x >= 1 && x <= 2",
	"like":     `write starts(x, "TEXT"), ends(x, "TEXT"), contains(x, "TEXT") or matches(x, "PATTERN")`,
	"contains": `write contains(x, "TEXT")`, "matches": `write matches(x, "PATTERN")`, "starts": `write starts(x, "TEXT")`,
	"ends": `write ends(x, "TEXT")`, "as": "write text(x), number(x) or date(x)", "mod": "write x % y", "xor": "write x != y",
	"equals": "write ==",
}

// otherSigns are signs that the language does not have, with what to write.
var otherSigns = []struct{ sign, say string }{
	{";", "arguments and items are separated by commas, not by ;"},
	{"&", `write && for and between conditions, and + or joined("", x, y) to put texts together, in place of &`},
	{"|", "write || for or between conditions, in place of |"},
	{"^", "there is no ^: write x * x"},
	{"~", `write matches(x, "PATTERN") in place of ~`},
	{"$", "a column stands by its name alone, without $"},
	{"#", "there is no # in expressions"},
	{"@", "there is no @ in expressions"},
}

var (
	decimalComma = regexp.MustCompile(`[0-9],[0-9]`)
	quotedNumber = regexp.MustCompile(`["'](-?[0-9]+(?:\.[0-9]+)?)["']`)
	notASign     = regexp.MustCompile(`token recognition error at: '(.)`)
)

// insteadOf says what to write in place of a word that is no column and no function, "" for what is not known.
func insteadOf(word string) string {
	key := strings.ToLower(strings.ReplaceAll(word, "_", ""))
	if say := otherNames[key]; say != "" {
		return "; write " + say
	}
	return ""
}

// misread says what is wrong where the language can't read on, for what people write in other languages; "" for anything else. At is
// what stands there.
func (m *mistakes) misread(say, at string) string {
	if found := notASign.FindStringSubmatch(say); found != nil {
		for _, s := range otherSigns {
			if s.sign == found[1] {
				return s.say
			}
		}
	}
	if advice := otherWords[strings.ToLower(at)]; advice != "" {
		return fmt.Sprintf("%q is no operator: %s", at, advice)
	}
	switch {
	case at == "," && strings.Contains(m.text, " in ("):
		return "a list stands in square brackets: x in [1, 2]"
	case at == "," && decimalComma.MatchString(m.text):
		return "a decimal number is written with a point, as in 100.5"
	case at == "*" && strings.Contains(m.text, "**"):
		return "there is no **: write x * x"
	case strings.Contains(say, "'<EOF>'") && strings.HasSuffix(strings.TrimSpace(m.text), "%"):
		return "% is the remainder of a division: write 0.05 for 5 %"
	}
	return ""
}

// quotedNumberIn says of a comparison of a text and a number that the number stands in quotes, where one does.
func (m *mistakes) quotedNumberIn() string {
	if found := quotedNumber.FindStringSubmatch(m.text); found != nil {
		return ": a number stands without quotes, as in " + found[1]
	}
	return ""
}
