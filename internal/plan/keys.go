package plan

// KeyEntry describes one key of a plan in the catalogue of keys.
type KeyEntry struct {
	Name    string
	Say     string
	Example string
}

// KeyGroup is the keys of one place in a plan.
type KeyGroup struct {
	Where string
	Keys  []KeyEntry
}

// Keys is the catalogue of keys; the help page and the reference are made from it, and
// a test holds it to what Load knows.
var Keys = []KeyGroup{
	{"At the top:", []KeyEntry{
		{"plan", "The version of the form, which comes first.", "plan: 1"},
		{"source", "How the source is read, where detection is not to decide: encoding, delimiter, quote, escape, " +
			"header-row, no-header, comment (what lines begin with that are comments, and set aside); or widths, for " +
			"columns of fixed width.", `source: {delimiter: ";", encoding: windows-1252, header-row: 3}`},
		{"blank-words", "Words that stand for blank in every column.", `blank-words: ["n. a.", "see log book"]`},
		{
			"rows", "set-aside: the kinds of rows that are no data. Rows with too many cells are set aside always.",
			"rows: {set-aside: [repeated-headings, blank-rows, total-rows]}",
		},
		{"rows", "turn and into: columns of the source that become rows, before anything else is done: each row makes " +
			"one for each of them. into has the names of the two columns that the others then stand beside, for the name of " +
			"the column and for its cell. Rows that are no data stay one.", "rows: {turn: [Jan, Feb, Mar], into: [month, " +
			"amount]}"},
		{"rows", "keep and drop: conditions on the typed columns of the output, as expressions (see compute); rows for " +
			"which keep is not true, or drop is, are set aside.", `rows: {keep: "net_weight > 0"}`},
		{"rows", "section-heading-into: the name of a column that has for each row the section heading above it; the " +
			"headings are set aside then.", "rows: {section-heading-into: quay}"},
		{"rows", "order-by: columns of the output that its rows are ordered by, the first one first; {NAME: descending} " +
			"from the largest down. Texts by the root collation of Unicode (UTS #10), codes by code point, blanks last; " +
			"equal ones stay in the order of the source. There may be more rows than fit in memory.", "rows: {order-by: " +
			"[landed_on, {net_weight: descending}]}"},
		{"others", "What becomes of columns of the source that the plan does not name: leave-out (without the key), or " +
			"keep. They are written as text then, as they are, and keep their place.", "others: keep"},
		{"lists", "Lists of texts and of what stands in their place, by names that the step substitute and the function " +
			"lookup know; or for each the name of a CSV file beside the plan, whose first column has the texts and whose " +
			"second what stands in their place, below a line of headings.", "lists: {ports: {NH: Nordhaven}, species: " +
			"species.csv}"},
		{
			"columns", "The columns of the output, in order: for each name what it is made of.",
			"columns: {net_weight: {from: Net weight, to: decimal}}",
		},
		{"seen", "What the source held when the plan was drafted, or last accepted with `junvo check --accept`: what the " +
			"next files are compared with. It changes nothing of a conversion.", "seen: {rows: 1204, columns: {Boxes: " +
			"{type: integer, smallest: 1, largest: 48}}}"},
	}},
	{"In seen:", []KeyEntry{
		{"rows", "How many rows of data there were.", "rows: 1204"},
		{"set-aside", "How many rows there were that were no data.", "set-aside: 20"},
		{"columns", "For each column of the source the type that it looked like, how many cells were blank and how many " +
			"did not fit (fails), the smallest and the largest value, and all shapes where there were few.", `columns: {Net weight: {type: decimal, blanks: 9, smallest: "0.5", largest: "18240.75", shapes: ["9,9 aa"]}}`},
	}},
	{"For a column:", []KeyEntry{
		{"from", "The column of the source, or one of the output that is made of others, by compute, join or split. " +
			"Without it, the column of the source of the same name.", "from: Net weight"},
		{"steps", "Changes of the text before it is read: see `junvo help steps`.", `steps: [trim, {drop: [spaces, "kg"]}]`},
		{
			"split", "How to make several columns of one. The value of the key is then no column itself; into has the columns.",
			`split: {at: ", "}`,
		},
		{
			"into", "The columns that a split makes, in the order of the pieces, with keys of their own.",
			"into: {surname: {to: text}, first_name: {to: text}}",
		},
		{"join", "Makes the column of the values of others of the output, in place of from; or of those of the source, " +
			"as they came, where the output has none of that name.", "join: [port, landing_no]"},
		{"with", "What stands between joined values.", `with: "-"`},
		{
			"blanks", "What a join does where a value is blank: skip (without the key), keep (the separator stays), or fail.",
			"blanks: keep",
		},
		{"compute", "Makes the column by an expression of the Common Expression Language (CEL) over other columns of the " +
			"output, with exact numbers. Blank in, blank out. Steps change the text of its value, which is read again then.", `compute: "net_weight * 2"`},
		{"to", "The type: see `junvo help types`. Without it, text.", "to: decimal"},
		{"decimal-mark", "The decimal mark. Without it, only numbers that need none are read.", `decimal-mark: ","`},
		{"group-marks", "The group marks that may stand in numbers. Without it, any. With a comma or a point among them, " +
			"the decimal mark is the other one.", `group-marks: [".", " "]`},
		{"date-order", "The order of day, month and year: dmy, mdy, ymd; or by separator. Without it, only dates that " +
			"show it are read.", `date-order: dmy, or date-order: {".": dmy, "/": mdy}`},
		{"unit", "The unit that numbers may carry.", "unit: kg"},
		{"factors", "What numbers are multiplied by that have one of these words behind: another unit than the column's, a word " +
			"such as million, a side of an account.", "factors: {g: 0.001, t: 1000}, or factors: {CR: 1, DR: -1}"},
		{"currency", "The currency that amounts may carry, as a code of ISO 4217 or a symbol.", "currency: EUR"},
		{"sign", "% or ‰, which every number carries; the value is the fraction.", `sign: "%"`},
		{"marks", "one if all numbers have one decimal mark; each if the column has numbers in two styles, such as 1,234.50 and " +
			"1.234,50, and each number shows its own. Default: one.", "marks: each"},
		{"zeros", "What becomes of a number that begins with zeros, such as 007: drop them, or fail, since it may be a code. " +
			"Default: fail.", "zeros: drop"},
		{"months", "The language of names of months that Croatian uses otherwise than Czech and Polish: croatian or " +
			"west-slavic.", "months: croatian"},
		{"time-words", "The languages of short names of months and parts of the day, which may be units or codes elsewhere. " +
			"Default: only names that are sure in every language, such as pm and Mar.", "time-words: [es]"},
		{
			"half-days", "Whether a time needs a part of the day such as am or pm, unless its hour is 0 or above 12. Default: false.",
			"half-days: true",
		},
		{"zone", "The offset from UTC of timestamps that carry none, in a column where others carry theirs; it says `offsets: " +
			"true`, too.", `zone: "+01:00"`},
		{"offsets", "Whether timestamps carry an offset from UTC. Without it, none does.", "offsets: true"},
		{
			"days-as-digits", "Whether eight digits are a day (yyyyMMdd), and 2021-063 a day of a year.",
			"days-as-digits: true",
		},
		{
			"words", "The words for true and false. Without it true and false, and the numbers 1 and 0.",
			"words: {true: [ja], false: [nein]}",
		},
		{
			"blank-words", "Words of this column that count as blank; known ones such as n/a and none only.",
			`blank-words: ["-", "n/a"]`,
		},
		{
			"on-failure", "What becomes of a cell that fails: blank (without the key), keep-text, set-aside-row, or stop.",
			"on-failure: keep-text",
		},
		{"must", "What the values have to be; a cell that breaks it fails.", "must: {not-blank: true, between: [0, 30000]}"},
		{"private", "true where the values are to appear in no report: failures, previews and rows set aside show their " +
			"shapes.", "private: true"},
		{"helper", "true for a column that is worked out for others and not written.", "helper: true"},
		{"emptied", "What becomes of a cell that held something and of which the steps leave nothing: blank (without the " +
			"key), or fail.", "emptied: fail"},
		{"examples", "Cells that somebody has shown, and what is to come out of them, `\"\"` for nothing. They change " +
			"nothing of a conversion; check holds the column to them. Where it is made of several columns, from has them by " +
			"their names.", `examples: [{from: "lot 88 / crate 51", gives: "8851"}]`},
		{"undecided", "true where the column stays text only because nothing else could be decided; the ledger counts " +
			"its cells as kept.", "undecided: true"},
	}},
	{"In must:", []KeyEntry{
		{"not-blank", "No cell may be blank.", "not-blank: true"},
		{
			"unique", "No value may stand in two rows; where it does, the later ones fail. Blank cells are no values.",
			"unique: true",
		},
		{"between", "The smallest and the largest value, null for no bound.", "between: [0, null]"},
		{"one-of", "The values that there are.", "one-of: [COD, HER, PLE]"},
		{
			"matches", "A regular expression (RE2) that some part of the value matches; ^ and $ hold it to the whole.",
			`matches: "^[A-Z]{3}$"`,
		},
		{"longest", "How many characters a value may have.", "longest: 40"},
	}},
}
