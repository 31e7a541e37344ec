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
	Group string   // the part of the job that it belongs to
	Unfit Unfit    // another table, on which the line must not lose a text in silence
}

// Unfit is a table that a task was not made for, and what the run says of it: a reason, or what comes out where all texts stay.
type Unfit struct{ Table, Tells string }

// The groups of tasks, in their order.
const (
	groupClean   = "Clean a value"
	groupPart    = "Take a part"
	groupColumn  = "Make a column"
	groupFill    = "Fill and mark"
	groupRows    = "Rows"
	groupSums    = "Add up"
	groupTypes   = "Types and marks"
	groupCompare = "Compare"
)

var taskGroups = []string{groupClean, groupPart, groupColumn, groupFill, groupRows, groupSums, groupTypes, groupCompare}

// Tasks is the catalogue of tasks.
var Tasks = []Task{
	{
		"the number after a word", "Note\nlot 88 / crate 51\nLot 7\nnone\n",
		[]string{"--step", `Note: [take: {after: "lot ", ignore-case: true, otherwise: blank}, take: {digits: 1}]`},
		"columns:\n  Note:\n    steps:\n      - take: {after: \"lot \", ignore-case: true, otherwise: blank}\n      - " +
			"take: {digits: 1}\n    to: integer\n",
		"Note\n88\n7\n\"\"\n",
		groupPart,
		Unfit{"Note\nLot 7 or lot 8\nnone\n", "7"},
	},
	{
		"first name and surname", "Name\n\"Okafor, Anke\"\n\"Lührs, Tomma\"\nCher\n",
		[]string{"--split", `Name: {at: ", ", missing: blank} => surname,first`, "--only", "surname,first"},
		"columns:\n  Name:\n    split: {at: \", \", missing: blank}\n    into:\n      surname: {}\n      first: {}\n",
		"surname,first\nOkafor,Anke\nLührs,Tomma\nCher,\n",
		groupPart,
		Unfit{"Name\n\"Okafor, Anke, Dr\"\n", "too-many-pieces"},
	},
	{
		"a label by what a text contains", "Note\n\"iced, fresh\"\nFROZEN\n\nfresh\n",
		[]string{"--step", `Note: label: [{contains: iced, then: ice}, {contains: frozen, ignore-case: true, then: frozen}, {otherwise: plain}]`},
		"columns:\n  Note:\n    steps:\n      - label:\n          - {contains: iced, then: ice}\n          - {contains: " +
			"frozen, ignore-case: true, then: frozen}\n          - {otherwise: plain}\n",
		"Note\nice\nfrozen\n\"\"\nplain\n",
		groupFill,
		Unfit{"Note\nthawed\n", "plain"},
	},
	{
		"columns of months that become rows", "Vessel,Jan,Feb\nMarlies,12,30\nWiking,,7\n",
		[]string{"--turn", "Jan,Feb => month,boxes"},
		"rows: {turn: [Jan, Feb], into: [month, boxes]}\ncolumns:\n  Vessel: {}\n  month: {}\n  boxes: {to: integer}\n",
		"Vessel,month,boxes\nMarlies,Jan,12\nMarlies,Feb,30\nWiking,Jan,\nWiking,Feb,7\n",
		groupRows,
		Unfit{"Vessel,Jan,Feb\nMarlies,much,30\n", "much"},
	},
	{
		"a ratio of two numbers in one cell", "Sold\n84/96\n10/12\n\n",
		[]string{"--split", "Sold: {at: /} => sold,of", "--as", "sold=integer,of=integer", "--compute", "share = round(sold / of, 3)", "--only", "share"},
		"columns:\n  Sold:\n    split: {at: /}\n    into:\n      sold: {to: integer, helper: true}\n      of: {to: " +
			"integer, helper: true}\n  share: {compute: \"round(sold / of, 3)\"}\n",
		"share\n0.875\n0.833\n\"\"\n",
		groupPart,
		Unfit{"Sold\n84 of 96\n5/6\n7/8\n9/10\n5/6\n7/8\n9/10\n5/6\n7/8\n9/10\n5/6\n7/8\n9/10\n", "84 of 96"},
	},
	{
		"some months later, at the end of the month", "Landed\n2021-01-31\n2021-03-04\n",
		[]string{"--compute", "review = monthEnd(plusMonths(Landed, 6))"},
		"columns:\n  Landed: {to: date}\n  review: {compute: \"monthEnd(plusMonths(Landed, 6))\"}\n",
		"Landed,review\n2021-01-31,2021-07-31\n2021-03-04,2021-09-30\n",
		groupColumn,
		Unfit{"Landed\n31.04.2021\n2021-03-04\n2021-03-05\n2021-03-06\n2021-03-07\n2021-03-08\n2021-03-09\n2021-03-10\n2021-03-11\n2021-03-12\n", "no-such-day"},
	},
	{
		"text or number?", "Fee\n12.5\nsee list\n7 kg\n",
		[]string{"--as", "Fee=text", "--compute", `is = reading(raw("Fee"))`},
		"columns:\n  Fee: {to: text}\n  is: {compute: 'reading(raw(\"Fee\"))'}\n",
		"Fee,is\n12.5,decimal\nsee list,text\n7 kg,integer\n",
		groupCompare,
		Unfit{"Fee\nfree\n", "text"},
	},
	{
		"zeros in front of a number", "Invoice\n417\n40021\n",
		[]string{"--step", `Invoice: pad: {width: 6, with: "0"}`, "--as", "Invoice=code"},
		"columns:\n  Invoice:\n    steps: [pad: {width: 6, with: \"0\"}]\n    to: code\n",
		"Invoice\n000417\n040021\n",
		groupClean,
		Unfit{"Invoice\n1234567\n", "1234567"},
	},
	{
		"letters and digits of a code apart", "Berth\nA12\nQN7\n",
		[]string{"--split", "Berth: {turn: [letters, digits]} => pier,place", "--only", "pier,place"},
		"columns:\n  Berth:\n    split: {turn: [letters, digits]}\n    into:\n      pier: {}\n      place: {to: integer}\n",
		"pier,place\nA,12\nQN,7\n",
		groupPart,
		Unfit{"Berth\nA12\n12A\nno berth\n", "too-"},
	},
	{
		"what stands in brackets", "Boat\nMarlies (HAR 12)\nAlte Liebe\n",
		[]string{"--step", `Boat: take: {between: ["(", ")"], otherwise: blank}`},
		"columns:\n  Boat:\n    steps: [take: {between: [\"(\", \")\"], otherwise: blank}]\n",
		"Boat\nHAR 12\n\"\"\n",
		groupPart,
		Unfit{"Boat\n(HAR 12\n", "Boat"},
	},
	{
		"the last word", "Skipper\nAnke Okafor\nTomma van Lührs\n",
		[]string{"--step", "Skipper: take: {word: -1}"},
		"columns:\n  Skipper:\n    steps: [take: {word: -1}]\n",
		"Skipper\nOkafor\nLührs\n",
		groupPart,
		Unfit{"Skipper\nCher\n", "Cher"},
	},
	{
		"a unit and strange characters off a number", "Weight\n1 240 kg\n~80 KG\n",
		[]string{"--step", `Weight: drop: {of: [spaces, kg, "~"], ignore-case: true}`},
		"columns:\n  Weight:\n    steps: [drop: {of: [spaces, kg, \"~\"], ignore-case: true}]\n    to: integer\n",
		"Weight\n1240\n80\n",
		groupClean,
		Unfit{"Weight\n1 240 lb\n3\n4\n5\n6\n7\n8\n9\n10\n11\n12\n", "unit"},
	},
	{
		"other texts in place of some, from a list", "Species\nHER\nCOD\nXYZ\n",
		[]string{"--step", "Species: substitute: {list: {HER: herring, COD: cod}, otherwise: fail}"},
		"lists:\n  species: {HER: herring, COD: cod}\ncolumns:\n  Species:\n    steps: [substitute: {list: species, " +
			"otherwise: fail}]\n",
		"Species\nherring\ncod\n\"\"\n",
		groupClean,
		Unfit{"Species\nPLE\n", "not-found"},
	},
	{
		"one column of several", "Port,No\nNH,7\nQN,12\n",
		[]string{"--compute", `tag = Port + "-" + padded(No, 3)`, "--only", "tag"},
		"columns:\n  tag: {compute: 'Port + \"-\" + padded(No, 3)'}\n  Port: {helper: true}\n  No: {to: integer, helper: " +
			"true}\n",
		"tag\nNH-007\nQN-012\n",
		groupColumn,
		Unfit{"Port,No\n,7\nNH,x\nNH,1\nNH,2\nNH,3\nNH,4\nNH,5\nNH,6\nNH,7\nNH,8\nNH,9\n", "not-a-number"},
	},
	{
		"the month as text, for a heading or a group", "Landed\n04.03.2021\n25.03.2021\n",
		[]string{"--compute", `month = inPattern(Landed, "yyyy-MM")`, "--only", "month"},
		"columns:\n  Landed: {to: date, date-order: dmy, helper: true}\n  month: {compute: 'inPattern(Landed, " +
			"\"yyyy-MM\")'}\n",
		"month\n2021-03\n2021-03\n",
		groupColumn,
		Unfit{"Landed\n04.03.2021\n25.03.2021\nsoon\n26.03.2021\n27.03.2021\n28.03.2021\n29.03.2021\n30.03.2021\n31.03.2021\n01.04.2021\n02.04.2021\n", "not-a-date"},
	},
	{
		"a sum of several columns that skips blanks", "Jan,Feb,Mar\n1,2,3\n4,,0.5\n",
		[]string{"--compute", "total = sum(Jan, Feb, Mar)", "--only", "total"},
		"columns:\n  Jan: {to: integer, helper: true}\n  Feb: {to: integer, helper: true}\n  Mar: {to: decimal, " +
			"decimal-mark: \".\", helper: true}\n  total: {compute: \"sum(Jan, Feb, Mar)\"}\n",
		"total\n6\n4.5\n",
		groupSums,
		Unfit{"Jan,Feb,Mar\n1,2,3\n4,x,5\n4,6,5\n4,6,5\n4,6,5\n4,6,5\n4,6,5\n4,6,5\n4,6,5\n4,6,5\n4,6,5\n", "not-a-number"},
	},
	{
		"the first of several that is not blank", "Mobile,Desk\n0431 1,0431 2\n,0431 3\n",
		[]string{"--compute", "phone = firstOf(Mobile, Desk)", "--only", "phone"},
		"columns:\n  Mobile: {helper: true}\n  Desk: {helper: true}\n  phone: {compute: \"firstOf(Mobile, Desk)\"}\n",
		"phone\n0431 1\n0431 3\n",
		groupFill,
		Unfit{"Mobile,Desk\n,\n", "blank"},
	},
	{
		"only some rows, in another order", "Boat,Kg\nAda,12\nBob,48\nCleo,41\n",
		[]string{"--keep-if", "Kg > 40", "--order-by=-Kg"},
		"rows:\n  keep: Kg > 40\n  order-by: [{Kg: descending}]\ncolumns:\n  Boat: {}\n  Kg: {to: integer}\n",
		"Boat,Kg\nBob,48\nCleo,41\n",
		groupRows,
		Unfit{"Boat,Kg\nAda,x\nBob,48\nBob,49\nBob,50\nBob,51\nBob,52\nBob,53\nBob,54\nBob,55\nBob,56\nBob,57\n", "not-a-number"},
	},
	{
		"a mark where a cell has failed", "Boat,Kg\nAda,12\nBob,l2\nCleo,41\n",
		[]string{"--as", "Kg=integer", "--compute", `look = failed(Kg) ? "look here" : null`},
		"columns:\n  Boat: {}\n  Kg: {to: integer}\n  look: {compute: 'failed(Kg) ? \"look here\" : null'}\n",
		"Boat,Kg,look\nAda,12,\nBob,,look here\nCleo,41,\n",
		groupFill,
		Unfit{"Boat,Kg\nAda,12\n", "Ada"},
	},
	{
		"hours between two times", "From,To\n06:00,14:30\n22:15,23:00\n",
		[]string{"--compute", "hours = hoursBetween(From, To)", "--only", "hours"},
		"columns:\n  From: {to: time, helper: true}\n  To: {to: time, helper: true}\n  hours: {compute: " +
			"\"hoursBetween(From, To)\"}\n",
		"hours\n8.5\n0.75\n",
		groupColumn,
		Unfit{"From,To\n06:00,25:30\n06:00,08:00\n06:00,08:00\n06:00,08:00\n06:00,08:00\n06:00,08:00\n06:00,08:00\n06:00,08:00\n06:00,08:00\n06:00,08:00\n06:00,08:00\n", "not-a-time"},
	},
	{
		"what was used since the row before: the difference to the previous one", "Day,Meter\n1,200\n2,212.5\n3,240\n",
		[]string{"--compute", "used = Meter - previous(Meter)"},
		"columns:\n  Day: {to: integer}\n  Meter: {to: decimal, decimal-mark: \".\"}\n  used: {compute: Meter - " +
			"previous(Meter)}\n",
		"Day,Meter,used\n1,200,\n2,212.5,12.5\n3,240,27.5\n",
		groupSums,
		Unfit{"Day,Meter\n1,200\n2,x\n3,240\n4,250\n5,260\n6,270\n7,280\n8,290\n9,300\n10,310\n11,320\n", "not-a-number"},
	},
	{
		"a running sum: what has come together up to each row", "Day,Boxes\n1,3\n2,\n3,4\n",
		[]string{"--compute", "landed = sumSoFar(Boxes)"},
		"columns:\n  Day: {to: integer}\n  Boxes: {to: integer}\n  landed: {compute: sumSoFar(Boxes)}\n",
		"Day,Boxes,landed\n1,3,3\n2,,3\n3,4,7\n",
		groupSums,
		Unfit{"Day,Boxes\n1,3\n2,x\n3,4\n4,4\n5,4\n6,4\n7,4\n8,4\n9,4\n10,4\n11,4\n", "not-a-number"},
	},
	{
		"blank cells filled from above", "Quay,Boat\nNorth,Ada\n,Bob\nSouth,Cleo\n",
		[]string{"--step", "Quay: fill: {from: above}"},
		"columns:\n  Quay:\n    steps: [fill: {from: above}]\n  Boat: {}\n",
		"Quay,Boat\nNorth,Ada\nNorth,Bob\nSouth,Cleo\n",
		groupFill,
		Unfit{"Quay,Boat\n,Ada\nSouth,Bob\n", "Ada"},
	},
	{
		"section headings as a column", "Boat,Kg,No\nNorth,,\nAda,12,1\nBob,48,2\nSouth,,\nCleo,41,3\n",
		[]string{"--section-heading-into", "quay"},
		"rows:\n  section-heading-into: quay\ncolumns:\n  quay: {}\n  Boat: {}\n  Kg: {to: integer}\n  No: {to: integer}\n",
		"quay,Boat,Kg,No\nNorth,Ada,12,1\nNorth,Bob,48,2\nSouth,Cleo,41,3\n",
		groupRows,
		Unfit{"Boat,Kg,No\nAda,12,1\nBob,48,2\n", "Ada"},
	},
	{
		"names in upper and lower case", "Name\nJAN VAN DYKEN\nanke o'neill\n",
		[]string{"--step", "Name: case: {to: title, except: [van, O'Neill]}"},
		"columns:\n  Name:\n    steps: [case: {to: title, except: [van, O'Neill]}]\n",
		"Name\nJan van Dyken\nAnke O'Neill\n",
		groupClean,
		Unfit{"Name\nMACDONALD\n", "Macdonald"},
	},
	{
		"one column changed, all others as they are", "No,Kg,Note\n007,\"1,5\",fresh\n008,2,n/a\n",
		[]string{"--as", "No=text", "--as", "Note=text", "--decimal-mark", ","},
		"others: keep\ncolumns:\n  Kg: {to: decimal, decimal-mark: \",\"}\n",
		"No,Kg,Note\n007,1.5,fresh\n008,2,n/a\n",
		groupTypes,
		Unfit{"No,Kg,Note\n007,x,fresh\n008,2,n/a\n009,3,\n010,4,\n011,5,\n012,6,\n013,7,\n014,8,\n015,9,\n016,1,\n017,2,\n", "not-a-number"},
	},
	{
		"a column of the digits of another", "Tag\nlot-12a\nlot-7\n",
		[]string{"--step", "number from Tag: keep: digits"},
		"columns:\n  Tag: {}\n  number:\n    from: Tag\n    steps: [keep: digits]\n    to: integer\n",
		"Tag,number\nlot-12a,12\nlot-7,7\n",
		groupPart,
		Unfit{"Tag\nlot a\n", "lot a"},
	},
	{
		"a cell taken apart at every comma", "Species\n\"cod, plaice\"\nherring\n",
		[]string{"--split", `Species: {at: ", ", missing: blank} => first,second`, "--only", "first,second"},
		"columns:\n  Species:\n    split: {at: \", \", missing: blank}\n    into:\n      first: {}\n      second: {}\n",
		"first,second\ncod,plaice\nherring,\n",
		groupPart,
		Unfit{"Species\n\"cod, plaice, sole\"\n", "too-many-pieces"},
	},
	{
		"an address of its parts, without those that are blank", "Street,Place,Country\nQuay 4,Nordhaven,\n,Hul,NL\n",
		[]string{"--join", `address = ", ": Street, Place, Country`, "--only", "address"},
		"columns:\n  Street: {helper: true}\n  Place: {helper: true}\n  Country: {helper: true}\n  address: {join: [Street, Place, Country], with: \", \"}\n",
		"address\n\"Quay 4, Nordhaven\"\n\"Hul, NL\"\n",
		groupColumn,
		Unfit{"Street,Place,Country\n,,\nQuay 4,,\n", "Quay 4"},
	},
	{
		"steps within an expression", "Tag,Berth\nlot-12a,A\nlot-7,B\n",
		[]string{"--compute", `key = Berth + steps(Tag, "keep: digits")`, "--only", "key"},
		"columns:\n  Tag: {helper: true}\n  Berth: {helper: true}\n  key: {compute: 'Berth + steps(Tag, \"keep: digits\")'}\n",
		"key\nA12\nB7\n",
		groupColumn,
		Unfit{"Tag,Berth\nlot,A\nlot-1,B\n", "B1"},
	},
	{
		"spaces that do not show, off both ends and within", "Boat\n\u00a0Marlies \u200b\nAlte\u00a0\u00a0Liebe\n",
		[]string{"--step", "Boat: [trim, single-space]"},
		"columns:\n  Boat:\n    steps: [trim, single-space]\n",
		"Boat\nMarlies\nAlte Liebe\n",
		groupClean,
		Unfit{"Boat\nA-B\n", "A-B"},
	},
	{
		"one spelling in place of several", "Port\nHAR\nharbour\nHar.\n",
		[]string{"--step", "Port: substitute: {list: {HAR: HAR, harbour: HAR, Har.: HAR}, otherwise: fail}"},
		"columns:\n  Port:\n    steps: [substitute: {list: {HAR: HAR, harbour: HAR, Har.: HAR}, otherwise: fail}]\n",
		"Port\nHAR\nHAR\nHAR\n",
		groupClean,
		Unfit{"Port\nHUL\n", "not-found"},
	},
	{
		"a column computed in its own place", "Boat,Unit\nAda,kg\nBob,\n",
		[]string{"--rename", "Unit=unit before", "--compute", "Unit = firstOf(`unit before`, \"kg\")", "--leave-out", "unit before"},
		"columns:\n  Boat: {}\n  unit before: {from: Unit, helper: true}\n  Unit: {compute: 'firstOf(`unit before`, \"kg\")'}\n",
		"Boat,Unit\nAda,kg\nBob,kg\n",
		groupFill,
		Unfit{"Boat,Unit\nAda,t\n", "t"},
	},
	{
		"rows in which nothing is blank", "Boat,Kg,Port\nAda,12,HAR\nBob,,HUL\nCleo,41,\n",
		[]string{"--drop-if", "anyBlank()"},
		"rows: {drop: anyBlank()}\ncolumns:\n  Boat: {}\n  Kg: {to: integer}\n  Port: {}\n",
		"Boat,Kg,Port\nAda,12,HAR\n",
		groupRows,
		Unfit{"Boat,Kg,Port\nAda,,HAR\nBob,2,HUL\n", "left-out-row"},
	},
	{
		"rows from a day on", "Landed,Kg\n2021-03-04,12\n2021-03-05,48\n",
		[]string{"--keep-if", `Landed >= date("2021-03-05")`},
		"rows: {keep: 'Landed >= date(\"2021-03-05\")'}\ncolumns:\n  Landed: {to: date}\n  Kg: {to: integer}\n",
		"Landed,Kg\n2021-03-05,48\n",
		groupRows,
		Unfit{"Landed,Kg\n2021-03-06,12\n2021-03-05,48\n2021-03-05,48\n2021-03-05,48\n2021-03-05,48\n2021-03-05,48\n2021-03-05,48\n2021-03-05,48\n2021-03-05,48\n2021-03-05,48\nsoon,1\n", "not-a-date"},
	},
	{
		"columns of some names only", "No,Jan,Feb,Mar,Note\n1,2,3,4,x\n",
		[]string{"--only", "No,Jan..Mar"},
		"columns:\n  No: {to: integer}\n  Jan: {to: integer}\n  Feb: {to: integer}\n  Mar: {to: integer}\n",
		"No,Jan,Feb,Mar\n1,2,3,4\n",
		groupRows,
		Unfit{"No,Jan,Feb,Mar,Apr\n1,2,3,4,5\n", "1,2,3,4"},
	},
	{
		"a number with a decimal comma in one column only", "No,Fee\n1.5,\"1.240,5\"\n2.5,\"12,5\"\n",
		[]string{"--as", "Fee=text", "--compute", `fee = number(Fee, ",")`, "--only", "No,fee"},
		"columns:\n  No: {to: decimal, decimal-mark: \".\"}\n  Fee: {helper: true}\n  fee: {compute: 'number(Fee, \",\")'}\n",
		"No,fee\n1.5,1240.5\n2.5,12.5\n",
		groupTypes,
		Unfit{"No,Fee\n1.5,free\n2.5,\"1,5\"\n", "not-computed"},
	},
	{
		"a date in an order of its own", "No,Day\n1,03/04/2021\n2,05/06/2021\n",
		[]string{"--as", "Day=text", "--compute", `day = date(Day, "mdy")`, "--only", "day"},
		"columns:\n  Day: {helper: true}\n  day: {compute: 'date(Day, \"mdy\")'}\n",
		"day\n2021-03-04\n2021-05-06\n",
		groupTypes,
		Unfit{"No,Day\n1,13/04/2021\n2,05/06/2021\n", "not-computed"},
	},
	{
		"two columns that should be equal", "Weighed,Billed\n12,12\n48,47.5\n",
		[]string{"--compute", "apart = Weighed - Billed", "--keep-if", "Weighed != Billed"},
		"rows: {keep: Weighed != Billed}\ncolumns:\n  Weighed: {to: integer}\n  Billed: {to: decimal, decimal-mark: \".\"}\n  apart: {compute: Weighed - Billed}\n",
		"Weighed,Billed,apart\n48,47.5,0.5\n",
		groupCompare,
		Unfit{"Weighed,Billed\n12,x\n48,47.5\n1,1\n1,1\n1,1\n1,1\n1,1\n1,1\n1,1\n1,1\n1,1\n", "not-a-number"},
	},
	{
		"how many cells of a row are blank", "A,B,C\n1,,3\n,,3\n",
		[]string{"--compute", "gaps = blanks(A, B, C)", "--only", "gaps"},
		"columns:\n  A: {to: integer, helper: true}\n  B: {helper: true}\n  C: {to: integer, helper: true}\n  gaps: {compute: \"blanks(A, B, C)\"}\n",
		"gaps\n1\n2\n",
		groupCompare,
		Unfit{"A,B,C\n1,n/a,3\n", "1"},
	},
}

// TaskPage describes the tasks.
func TaskPage() string {
	var b strings.Builder
	b.WriteString("What people do to tables: a table, a line to try, the plan that does the same again, and what " +
		"comes out. `junvo help WORD` finds more.\n")
	for _, group := range taskGroups {
		b.WriteString("\n" + group + "\n")
		for _, t := range Tasks {
			if t.Group != group {
				continue
			}
			fmt.Fprintf(&b, "\n%s\n\n%s\n", t.Name, indented(t.Table))
			fmt.Fprintf(&b, "      junvo convert a.csv -o - %s\n\n", CommandLine(t.Flags))
			fmt.Fprintf(&b, "%s\n", indented("plan: 1\n"+t.Plan))
			fmt.Fprintf(&b, "%s", indented(t.Gives))
		}
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
