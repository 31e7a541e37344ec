package show

import (
	"fmt"
	"strings"
)

// Place is a thing that can be said of a table, and how it is said in each place: in a plan, as flags of a command, and in an
// expression. What can be said as flags of convert can be said to draft, report, preview and totals, too, unless there is a reason;
// and what a plan has, holds for a rule that teach puts into it.
type Place struct {
	Name               string
	Plan               string   // below plan: 1
	Flags              []string // of convert; nil where Reason says why there are none
	Expression         string   // "" where ReasonInExpression says why there is none
	Reason             string
	ReasonInExpression string
	NotInTotals        string // the reason
}

// PlacesTable is the table on which the lines of Places are tried.
const PlacesTable = "Tag,Keeper,place,Jan,Feb,day\nlot-12a,Anke Petersen,Hul,\"1,5\",3,03.04.2021\nlot-7b,Ute Moll,,2,n. a.,04.04.2021\nlot-9,Jan Quay,Nord,\"3,5\",4,05.04.2021\n"

const (
	ofRows     = "it is of rows, and an expression gives a value of one"
	ofColumns  = "it is of columns, and an expression gives a value"
	groupOrder = "--order-by there orders the groups"
	keptInPlan = "a rule to hold a column to is kept in a plan; `junvo check` holds next month's file to it"
)

// Places is the catalogue of what can be said where.
var Places = []Place{
	{Name: "a step", Plan: "columns:\n  Tag: {steps: [keep: digits]}\n", Flags: []string{"--step", "Tag: keep: digits"}, Expression: `steps(Tag, "keep: digits")`},
	{
		Name: "what a step does with other texts", Plan: "columns:\n  Tag: {steps: [take: {after: a, otherwise: keep}]}\n",
		Flags: []string{"--step", "Tag: take: {after: a, otherwise: keep}"}, Expression: `steps(Tag, "take: {after: a, otherwise: keep}")`,
	},
	{
		Name: "a column made by steps", Plan: "columns:\n  Tag: {}\n  lot: {from: Tag, steps: [keep: digits], to: integer}\n",
		Flags: []string{"--step", "lot from Tag: keep: digits"}, Expression: `number(steps(Tag, "keep: digits"))`,
	},
	{
		Name: "a split", Plan: "columns:\n  Keeper: {split: {at: \" \"}, into: {first: {}, last: {}}}\n",
		Flags: []string{"--split", `Keeper: {at: " "} => first, last`}, Expression: `piece(Keeper, " ", 1)`,
	},
	{
		Name: "a join", Plan: "columns:\n  Tag: {}\n  place: {}\n  both: {join: [Tag, place], with: \", \"}\n", Flags: []string{"--join", `both = ", ": Tag, place`},
		Expression: `joined(", ", Tag, place)`,
	},
	{Name: "a computed column", Plan: "columns:\n  Tag: {}\n  n: {compute: length(Tag)}\n", Flags: []string{"--compute", "n = length(Tag)"}, Expression: "length(Tag)"},
	{
		Name: "a value in place of blank", Plan: "columns:\n  place: {steps: [fill: none]}\n", Flags: []string{"--step", "place: fill: none"},
		Expression: `firstOf(place, "none")`,
	},
	{
		Name: "blank cells filled from above", Plan: "columns:\n  place: {steps: [fill: {from: above}]}\n", Flags: []string{"--step", "place: fill: {from: above}"},
		ReasonInExpression: "previous(x) has the row before, and firstOf(x, previous(x)) fills from that one only",
	},
	{
		Name: "a label", Plan: "columns:\n  Tag: {steps: [label: [{contains: a, then: A}, {otherwise: other}]]}\n",
		Flags: []string{"--step", "Tag: label: [{contains: a, then: A}, {otherwise: other}]"}, Expression: `contains(Tag, "a") ? "A" : "other"`,
	},
	{
		Name: "another text from a list", Plan: "lists:\n  ports: {Hul: HUL}\ncolumns:\n  place: {steps: [substitute: {list: ports, otherwise: keep}]}\n",
		Flags: []string{"--step", "place: substitute: {list: {Hul: HUL}, otherwise: keep}"}, Expression: `steps(place, "substitute: {list: {Hul: HUL}, otherwise: keep}")`,
	},
	{
		Name: "columns that become rows", Plan: "rows: {turn: [Jan, Feb], into: [month, boxes]}\ncolumns:\n  Tag: {}\n  month: {}\n  boxes: {}\n",
		Flags: []string{"--turn", "Jan,Feb => month,boxes"}, ReasonInExpression: ofRows,
	},
	{
		Name: "a condition on rows", Plan: "rows: {keep: Tag != \"lot-9\"}\ncolumns:\n  Tag: {}\n", Flags: []string{"--keep-if", `Tag != "lot-9"`}, Expression: `Tag != "lot-9"`,
	},
	{
		Name: "a condition on the number of the row", Plan: "rows: {drop: row() == 1}\ncolumns:\n  Tag: {}\n", Flags: []string{"--drop-if", "row() == 1"}, Expression: "row() == 1",
	},
	{
		Name: "the row before, and sums up to a row", Plan: "columns:\n  Jan: {to: decimal, decimal-mark: \",\"}\n  so far: {compute: sumSoFar(Jan)}\n",
		Flags: []string{"--compute", "so far = sumSoFar(Jan)"}, Expression: "sumSoFar(Jan)",
	},
	{
		Name: "a section heading as a column", Plan: "rows: {section-heading-into: section}\ncolumns:\n  section: {}\n  Tag: {}\n",
		Flags: []string{"--section-heading-into", "section"}, ReasonInExpression: ofRows,
	},
	{Name: "a type", Plan: "columns:\n  Jan: {to: decimal, decimal-mark: \",\"}\n", Flags: []string{"--as", "Jan=decimal"}, Expression: `number(raw("Jan"), ",")`},
	{
		Name: "a decimal mark", Plan: "columns:\n  Jan: {to: decimal, decimal-mark: \",\"}\n", Flags: []string{"--decimal-mark", ","}, Expression: `number(raw("Jan"), ",")`,
	},
	{Name: "an order of dates", Plan: "columns:\n  day: {to: date, date-order: dmy}\n", Flags: []string{"--date-order", "dmy"}, Expression: `date(raw("day"), "dmy")`},
	{
		Name: "a word that is blank", Plan: "blank-words: [n. a.]\ncolumns:\n  Feb: {to: integer}\n", Flags: []string{"--blank-word", "n. a."},
		Expression: `raw("Feb") == "n. a." ? null : Feb`,
	},
	{Name: "another name", Plan: "columns:\n  lot: {from: Tag}\n", Flags: []string{"--rename", "Tag=lot"}, ReasonInExpression: ofColumns, NotInTotals: "--by 'lot = Tag' gives a heading"},
	{
		Name: "columns that are written", Plan: "columns:\n  Tag: {}\n  place: {helper: true}\n", Flags: []string{"--only", "Tag"}, ReasonInExpression: ofColumns,
		NotInTotals: "--by, --sum and the others name the columns",
	},
	{
		Name: "columns that are not written", Plan: "columns:\n  Tag: {}\n  n: {compute: length(place)}\n  place: {helper: true}\n",
		Flags: []string{"--compute", "n = length(place)", "--leave-out", "place"}, ReasonInExpression: ofColumns, NotInTotals: "--by, --sum and the others name the columns",
	},
	{
		Name: "an order of rows", Plan: "rows: {order-by: {Tag: descending}}\ncolumns:\n  Tag: {}\n", Flags: []string{"--order-by=-Tag"}, ReasonInExpression: ofRows,
		NotInTotals: groupOrder,
	},
	{Name: "a private column", Plan: "columns:\n  Tag: {private: true}\n", Flags: []string{"--private", "Tag"}, ReasonInExpression: ofColumns},
	{
		Name: "a rule that values must meet", Plan: "columns:\n  Tag: {must: {not-blank: true}}\n", Reason: keptInPlan,
		Expression: "!blank(Tag)",
	},
	{
		Name: "what becomes of a cell that fails", Plan: "columns:\n  Feb: {to: integer, on-failure: keep-text}\n", Reason: keptInPlan,
		Expression: `failed(Feb) ? raw("Feb") : text(Feb)`,
	},
}

// PlacePage says what can be said where.
func PlacePage() string {
	var b strings.Builder
	b.WriteString("The same things can be said in a plan, as flags of a line, and in an expression. The flags are those of convert, draft and report, and of preview and " +
		"totals unless there is a reason. What a plan has, holds for a rule that teach puts into it.\n")
	for _, p := range Places {
		b.WriteString("\n" + p.Name + "\n")
		fmt.Fprintf(&b, "  plan        %s\n", strings.ReplaceAll(strings.TrimSuffix(p.Plan, "\n"), "\n", "\n              "))
		line := func(place, say, reason string) {
			if say == "" {
				say = "not there: " + reason
			}
			fmt.Fprintf(&b, "  %-11s %s\n", place, say)
		}
		line("flags", CommandLine(p.Flags), p.Reason)
		line("expression", p.Expression, p.ReasonInExpression)
		if p.NotInTotals != "" {
			line("totals", "", p.NotInTotals)
		}
	}
	return b.String()
}
