package show

import (
	"fmt"
	"strings"
)

// Task is one thing that people do to a table, as one line to try and as a plan to keep. Both give the same bytes.
type Task struct {
	Name  string
	Table string   // a source, as CSV
	Flags []string // of convert, one line to try
	Plan  string   // what to keep, below plan: 1
	Gives string   // the output, as CSV
}

// Tasks is the catalogue of tasks.
var Tasks = []Task{
	{
		"the number after a word", "Note\nlot 88 / crate 51\nLot 7\nnone\n",
		[]string{"--step", `Note: [take: {after: "lot ", ignore-case: true, otherwise: blank}, take: {digits: 1}]`},
		"columns:\n  Note:\n    steps:\n      - take: {after: \"lot \", ignore-case: true, otherwise: blank}\n      - " +
			"take: {digits: 1}\n    to: integer\n",
		"Note\n88\n7\n\"\"\n",
	},
	{
		"first name and surname", "Name\n\"Okafor, Anke\"\n\"Lührs, Tomma\"\nCher\n",
		[]string{
			"--compute", `surname = piece(Name, ", ", 1)`, "--compute", `first = piece(Name, ", ", 2)`, "--only", "surname,first",
		},
		"columns:\n  Name:\n    split: {at: \", \", missing: blank}\n    into:\n      surname: {}\n      first: {}\n",
		"surname,first\nOkafor,Anke\nLührs,Tomma\nCher,\n",
	},
	{
		"a label by what a text contains", "Note\n\"iced, fresh\"\nFROZEN\n\nfresh\n",
		[]string{"--step", `Note: label: [{contains: iced, then: ice}, {contains: frozen, ignore-case: true, then: frozen}, {otherwise: plain}]`},
		"columns:\n  Note:\n    steps:\n      - label:\n          - {contains: iced, then: ice}\n          - {contains: " +
			"frozen, ignore-case: true, then: frozen}\n          - {otherwise: plain}\n",
		"Note\nice\nfrozen\n\"\"\nplain\n",
	},
	{
		"columns of months that become rows", "Vessel,Jan,Feb\nMarlies,12,30\nWiking,,7\n",
		[]string{"--turn", "Jan,Feb => month,boxes"},
		"rows: {turn: [Jan, Feb], into: [month, boxes]}\ncolumns:\n  Vessel: {}\n  month: {}\n  boxes: {to: integer}\n",
		"Vessel,month,boxes\nMarlies,Jan,12\nMarlies,Feb,30\nWiking,Jan,\nWiking,Feb,7\n",
	},
	{
		"a ratio of two numbers in one cell", "Sold\n84/96\n10/12\n\n",
		[]string{
			"--compute", `share = round(number(piece(Sold, "/", 1)) / number(piece(Sold, "/", 2)), 3)`, "--only",
			"share",
		},
		"columns:\n  Sold:\n    split: {at: /}\n    into:\n      sold: {to: integer, helper: true}\n      of: {to: " +
			"integer, helper: true}\n  share: {compute: \"round(sold / of, 3)\"}\n",
		"share\n0.875\n0.833\n\"\"\n",
	},
	{
		"some months later, at the end of the month", "Landed\n2021-01-31\n2021-03-04\n",
		[]string{"--compute", "review = monthEnd(plusMonths(Landed, 6))"},
		"columns:\n  Landed: {to: date}\n  review: {compute: \"monthEnd(plusMonths(Landed, 6))\"}\n",
		"Landed,review\n2021-01-31,2021-07-31\n2021-03-04,2021-09-30\n",
	},
	{
		"text or number?", "Fee\n12.5\nsee list\n7 kg\n",
		[]string{"--as", "Fee=text", "--compute", `is = reading(raw("Fee"))`},
		"columns:\n  Fee: {to: text}\n  is: {compute: 'reading(raw(\"Fee\"))'}\n",
		"Fee,is\n12.5,decimal\nsee list,text\n7 kg,integer\n",
	},
	{
		"zeros in front of a number", "Invoice\n417\n40021\n",
		[]string{"--step", `Invoice: pad: {width: 6, with: "0"}`, "--as", "Invoice=code"},
		"columns:\n  Invoice:\n    steps: [pad: {width: 6, with: \"0\"}]\n    to: code\n",
		"Invoice\n000417\n040021\n",
	},
	{
		"letters and digits of a code apart", "Berth\nA12\nQN7\n",
		[]string{
			"--compute", `pier = found(Berth, "^[A-Z]+")`, "--compute", `place = number(found(Berth, "[0-9]+$"))`,
			"--only", "pier,place",
		},
		"columns:\n  Berth:\n    split: {turn: [letters, digits]}\n    into:\n      pier: {}\n      place: {to: integer}\n",
		"pier,place\nA,12\nQN,7\n",
	},
	{
		"what stands in brackets", "Boat\nMarlies (HAR 12)\nAlte Liebe\n",
		[]string{"--step", `Boat: take: {between: ["(", ")"], otherwise: blank}`},
		"columns:\n  Boat:\n    steps: [take: {between: [\"(\", \")\"], otherwise: blank}]\n",
		"Boat\nHAR 12\n\"\"\n",
	},
	{
		"the last word", "Skipper\nAnke Okafor\nTomma van Lührs\n",
		[]string{"--step", "Skipper: take: {word: -1}"},
		"columns:\n  Skipper:\n    steps: [take: {word: -1}]\n",
		"Skipper\nOkafor\nLührs\n",
	},
	{
		"a unit and strange characters off a number", "Weight\n1 240 kg\n~80 KG\n",
		[]string{"--step", `Weight: drop: {of: [spaces, kg, "~"], ignore-case: true}`},
		"columns:\n  Weight:\n    steps: [drop: {of: [spaces, kg, \"~\"], ignore-case: true}]\n    to: integer\n",
		"Weight\n1240\n80\n",
	},
	{
		"other texts in place of some, from a list", "Species\nHER\nCOD\nXYZ\n",
		[]string{"--step", "Species: substitute: {list: {HER: herring, COD: cod}, otherwise: fail}"},
		"lists:\n  species: {HER: herring, COD: cod}\ncolumns:\n  Species:\n    steps: [substitute: {list: species, " +
			"otherwise: fail}]\n",
		"Species\nherring\ncod\n\"\"\n",
	},
	{
		"one column of several", "Port,No\nNH,7\nQN,12\n",
		[]string{"--compute", `tag = Port + "-" + padded(No, 3)`, "--only", "tag"},
		"columns:\n  tag: {compute: 'Port + \"-\" + padded(No, 3)'}\n  Port: {helper: true}\n  No: {to: integer, helper: " +
			"true}\n",
		"tag\nNH-007\nQN-012\n",
	},
	{
		"the month as text, for a heading or a group", "Landed\n04.03.2021\n25.03.2021\n",
		[]string{"--compute", `month = inPattern(Landed, "yyyy-MM")`, "--only", "month"},
		"columns:\n  Landed: {to: date, date-order: dmy, helper: true}\n  month: {compute: 'inPattern(Landed, " +
			"\"yyyy-MM\")'}\n",
		"month\n2021-03\n2021-03\n",
	},
	{
		"a sum of several columns that skips blanks", "Jan,Feb,Mar\n1,2,3\n4,,0.5\n",
		[]string{"--compute", "total = sum(Jan, Feb, Mar)", "--only", "total"},
		"columns:\n  Jan: {to: integer, helper: true}\n  Feb: {to: integer, helper: true}\n  Mar: {to: decimal, " +
			"decimal-mark: \".\", helper: true}\n  total: {compute: \"sum(Jan, Feb, Mar)\"}\n",
		"total\n6\n4.5\n",
	},
	{
		"the first of several that is not blank", "Mobile,Desk\n0431 1,0431 2\n,0431 3\n",
		[]string{"--compute", "phone = firstOf(Mobile, Desk)", "--only", "phone"},
		"columns:\n  Mobile: {helper: true}\n  Desk: {helper: true}\n  phone: {compute: \"firstOf(Mobile, Desk)\"}\n",
		"phone\n0431 1\n0431 3\n",
	},
	{
		"only some rows, in another order", "Boat,Kg\nAda,12\nBob,48\nCleo,41\n",
		[]string{"--keep-if", "Kg > 40", "--order-by=-Kg"},
		"rows:\n  keep: Kg > 40\n  order-by: [{Kg: descending}]\ncolumns:\n  Boat: {}\n  Kg: {to: integer}\n",
		"Boat,Kg\nBob,48\nCleo,41\n",
	},
	{
		"a mark where a cell has failed", "Boat,Kg\nAda,12\nBob,l2\nCleo,41\n",
		[]string{"--as", "Kg=integer", "--compute", `look = failed(Kg) ? "look here" : null`},
		"columns:\n  Boat: {}\n  Kg: {to: integer}\n  look: {compute: 'failed(Kg) ? \"look here\" : null'}\n",
		"Boat,Kg,look\nAda,12,\nBob,,look here\nCleo,41,\n",
	},
	{
		"hours between two times", "From,To\n06:00,14:30\n22:15,23:00\n",
		[]string{"--compute", "hours = hoursBetween(From, To)", "--only", "hours"},
		"columns:\n  From: {to: time, helper: true}\n  To: {to: time, helper: true}\n  hours: {compute: " +
			"\"hoursBetween(From, To)\"}\n",
		"hours\n8.5\n0.75\n",
	},
	{
		"what was used since the row before: the difference to the previous one", "Day,Meter\n1,200\n2,212.5\n3,240\n",
		[]string{"--compute", "used = Meter - previous(Meter)"},
		"columns:\n  Day: {to: integer}\n  Meter: {to: decimal, decimal-mark: \".\"}\n  used: {compute: Meter - " +
			"previous(Meter)}\n",
		"Day,Meter,used\n1,200,\n2,212.5,12.5\n3,240,27.5\n",
	},
	{
		"a running sum: what has come together up to each row", "Day,Boxes\n1,3\n2,\n3,4\n",
		[]string{"--compute", "landed = sumSoFar(Boxes)"},
		"columns:\n  Day: {to: integer}\n  Boxes: {to: integer}\n  landed: {compute: sumSoFar(Boxes)}\n",
		"Day,Boxes,landed\n1,3,3\n2,,3\n3,4,7\n",
	},
	{
		"blank cells filled from above", "Quay,Boat\nNorth,Ada\n,Bob\nSouth,Cleo\n",
		[]string{"--step", "Quay: fill: {from: above}"},
		"columns:\n  Quay:\n    steps: [fill: {from: above}]\n  Boat: {}\n",
		"Quay,Boat\nNorth,Ada\nNorth,Bob\nSouth,Cleo\n",
	},
	{
		"section headings as a column", "Boat,Kg,No\nNorth,,\nAda,12,1\nBob,48,2\nSouth,,\nCleo,41,3\n",
		[]string{"--section-heading-into", "quay"},
		"rows:\n  section-heading-into: quay\ncolumns:\n  quay: {}\n  Boat: {}\n  Kg: {to: integer}\n  No: {to: integer}\n",
		"quay,Boat,Kg,No\nNorth,Ada,12,1\nNorth,Bob,48,2\nSouth,Cleo,41,3\n",
	},
	{
		"names in upper and lower case", "Name\nJAN VAN DYKEN\nanke o'neill\n",
		[]string{"--step", "Name: case: {to: title, except: [van, O'Neill]}"},
		"columns:\n  Name:\n    steps: [case: {to: title, except: [van, O'Neill]}]\n",
		"Name\nJan van Dyken\nAnke O'Neill\n",
	},
	{
		"one column changed, all others as they are", "No,Kg,Note\n007,\"1,5\",fresh\n008,2,n/a\n",
		[]string{"--as", "No=text", "--as", "Note=text", "--decimal-mark", ","},
		"others: keep\ncolumns:\n  Kg: {to: decimal, decimal-mark: \",\"}\n",
		"No,Kg,Note\n007,1.5,fresh\n008,2,n/a\n",
	},
}

// TaskPage describes the tasks.
func TaskPage() string {
	var b strings.Builder
	b.WriteString("What people do to tables: a table, a line to try, the plan that does the same again, and what " +
		"comes out. `junvo help WORD` finds more.\n")
	for _, t := range Tasks {
		fmt.Fprintf(&b, "\n%s\n\n%s\n", t.Name, indented(t.Table))
		fmt.Fprintf(&b, "      junvo convert a.csv -o - %s\n\n", CommandLine(t.Flags))
		fmt.Fprintf(&b, "%s\n", indented("plan: 1\n"+t.Plan))
		fmt.Fprintf(&b, "%s", indented(t.Gives))
	}
	return b.String()
}

func indented(text string) string {
	var b strings.Builder
	for line := range strings.Lines(text) {
		b.WriteString(strings.TrimRight("    "+line, " \n") + "\n")
	}
	return b.String()
}

// CommandLine writes arguments as a shell reads them.
func CommandLine(args []string) string {
	out := make([]string, len(args))
	for i, a := range args {
		a = Visible(a)
		switch {
		case a != "" && !strings.ContainsAny(a, " \"'`${}[](){}<>|&;*?!#~\\"):
			out[i] = a
		case strings.Contains(a, "'"):
			out[i] = `"` + strings.NewReplacer(`\`, `\\`, `"`, `\"`, "`", "\\`", `$`, `\$`).Replace(a) + `"`
		default:
			out[i] = "'" + a + "'"
		}
	}
	return strings.Join(out, " ")
}
