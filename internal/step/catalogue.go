package step

// Entry describes one step in the catalogue of steps.
type Entry struct {
	Name     string
	Say      string
	Args     []string // the forms that the arguments take, with what they mean
	Examples []Example
	make     func(Args) (Step, error)
}

// Example is a step as a plan writes it, and what it makes of a text.
type Example struct{ Plan, In, Out string }

const orKeep = otherwiseSay + " (without it, keep)"

// Catalogue is the catalogue of steps.
var Catalogue []Entry

func init() { // an initialiser in place would refer to itself through New
	Catalogue = []Entry{
		{
			"trim", "Takes spaces of all kinds and invisible characters off both ends.", nil,
			[]Example{{"trim", "\u00a0 Marlies\u200b ", "Marlies"}},
			none(simple(trim)),
		},
		{
			"single-space", "Makes one plain space of every run of spaces of any kind.", nil,
			[]Example{{"single-space", "Alte\u00a0\u00a0 Liebe", "Alte Liebe"}},
			none(simple(singleSpace)),
		},
		{
			"drop", "Takes characters or words out, wherever they stand.",
			[]string{
				"CLASS or TEXT, or a list of them; a text that is like the name of a class stands in {text: …}",
				"or of: one of these, with ignore-case: true",
				"the classes: " + classList(),
			},
			[]Example{
				{`drop: [spaces, "kg"]`, "1 240 kg", "1240"},
				{"drop: digits", "lot88", "lot"},
				{"drop: {of: [spaces, kg], ignore-case: true}", "12 KG", "12"},
			},
			newDrop,
		},
		{
			"keep", "Keeps only the characters of some classes, or the characters of a text.",
			[]string{
				"CLASS or TEXT, or a list of them; a text that is like the name of a class stands in {text: …}",
				"the classes: " + classList(),
			},
			[]Example{
				{"keep: digits", "DE-12/34", "1234"},
				{"keep: [upper, spaces]", "Alte LIEBE II", "A LIEBE II"},
				{`keep: [digits, "-"]`, "No. 12-34", "12-34"},
			},
			newKeep,
		},
		{
			"replace", "Replaces a text, a pattern or the whole cell.",
			[]string{
				"text: what to replace, or pattern: a regular expression (RE2)",
				"with: what to put there; $1 or ${1} stands for a pattern's first group, ${name} for one with a name, $$ for " +
					"the sign $",
				"nth: which occurrence, from 1, or -1 for the last (default: all)",
				"whole: true if the text must be the whole cell", "ignore-case: true", orKeep,
			},
			[]Example{
				{`replace: {text: "Str.", with: "Strasse"}`, "Hafen Str. 4", "Hafen Strasse 4"},
				{`replace: {text: "-", with: "/", nth: 2}`, "4-3-21", "4-3/21"},
				{`replace: {pattern: "(\\d+) bis (\\d+)", with: "$1-$2"}`, "10 bis 12", "10-12"},
				{`replace: {pattern: '(\d+) ?kilo', with: "$1kg"}`, "12 kilo", "12kg"},
				{`replace: {text: "ja", with: "yes", whole: true, ignore-case: true}`, "JA", "yes"},
				{`replace: {pattern: '^(\d+) Uhr$', with: "$1:00", otherwise: blank}`, "early", ""},
			},
			newReplace,
		},
		{
			"overwrite", "Puts a text in place of some characters, counted from 1.",
			[]string{
				"from: the first character", "length: how many characters (default: as many as the text has)",
				"with: the text", orKeep,
			},
			[]Example{
				{`overwrite: {from: 1, length: 2, with: "XX"}`, "DE1234", "XX1234"},
				{`overwrite: {from: 5, with: "/", otherwise: blank}`, "DE", ""},
			},
			newOverwrite,
		},
		{
			"take", "Takes a part of the text. Where it is not there the cell fails with not-found, unless otherwise says " +
				"what it gives.",
			[]string{
				"before, after: a TEXT, or a CLASS or a list of them for a run of such characters; between: two of these; nth: " +
					"which occurrence, from 1, or -1 for the last",
				"word: N, digits: N, letters: N, number: N: the nth word, run of digits, run of letters, or number with its " +
					"sign, marks and exponent; -1 is the last",
				"first: N, last: N, or from: N with length: N (default: to the end): characters",
				"pattern: a regular expression (RE2), with group: N (default: 1 where it has groups) and nth: which match",
				"ignore-case: true, with before, after, between and pattern", otherwiseSay + " (without it, fail)",
			},
			[]Example{
				{`take: {before: "/"}`, "A7/pier 2", "A7"},
				{`take: {after: ", "}`, "Petersen, Anke", "Anke"},
				{`take: {after: "/", nth: -1}`, "a/b/c", "c"},
				{`take: {between: ["(", ")"]}`, "Marlies (HAR 12)", "HAR 12"},
				{"take: {word: 2}", "lot 88 crate 51", "88"},
				{"take: {digits: -1}", "lot 88 crate 51", "51"},
				{"take: {number: 2}", "84/96,5", "96,5"},
				{"take: {number: 1}", "about -1 234.5 °C", "-1 234.5"},
				{"take: {letters: 1}", "88 lot", "lot"},
				{"take: {first: 3}", "HAR-012", "HAR"},
				{"take: {last: 3}", "HAR-012", "012"},
				{"take: {from: 5, length: 2}", "HAR-012", "01"},
				{`take: {pattern: "crate (\\d+)"}`, "lot 88 crate 51", "51"},
				{`take: {pattern: '\d+', nth: -1}`, "lot 88 crate 51", "51"},
				{"take: {before: digits}", "lot88", "lot"},
				{`take: {after: "lot ", ignore-case: true}`, "LOT 88", "88"},
				{`take: {between: ["(", ")"], otherwise: blank}`, "Marlies", ""},
				{`take: {before: "/", otherwise: keep}`, "A7", "A7"},
			},
			newTake,
		},
		{
			"case", "Changes upper and lower case by the rules of Unicode.",
			[]string{
				"upper, lower, title (every word; letters behind a digit stay small) or sentence (the first letter)",
				"with exceptions, to: one of these, and except: a list of words that keep the form that they have there",
			},
			[]Example{
				{"case: title", "ALTE liebe", "Alte Liebe"},
				{"case: sentence", "FRESH Fish", "Fresh fish"},
				{"case: upper", "straße", "STRASSE"},
				{"case: title", "3RD PIER", "3rd Pier"},
				{"case: {to: title, except: [van, McCoy, II]}", "JAN VAN DYKEN II, MCCOY", "Jan van Dyken II, McCoy"},
			},
			newCase,
		},
		{
			"pad", "Fills a text up to a width.",
			[]string{
				"width: how many characters", `with: the character to fill with (default: a space)`,
				"side: left or right (default: left)",
				orKeep,
			},
			[]Example{
				{`pad: {width: 6, with: "0"}`, "417", "000417"},
				{`pad: {width: 5, with: ".", side: right}`, "ab", "ab..."},
				{`pad: {width: 3, with: "0", otherwise: blank}`, "2021", ""},
			},
			newPad,
		},
		{
			"insert", "Puts a text into the text, or at its end.",
			[]string{"text: the text", "at: before which character, from 1, or -1 for the last; or end", orKeep},
			[]Example{
				{`insert: {text: "-", at: 4}`, "HAR012", "HAR-012"},
				{`insert: {text: ":", at: -2}`, "1430", "14:30"},
				{`insert: {text: " kg", at: end}`, "12", "12 kg"},
				{`insert: {text: ":", at: -5, otherwise: "?"}`, "930", "?"},
			},
			newInsert,
		},
		{
			"substitute", "Puts other texts in place of those of a list.",
			[]string{
				"list: a map of whole texts and what stands in their place, or the name of one of the plan's lists", "ignore-case: true",
				orKeep,
			},
			[]Example{
				{"substitute: {list: {COD: cod, HER: herring}}", "HER", "herring"},
				{"substitute: {list: {cod: COD}, ignore-case: true, otherwise: fail}", "Cod", "COD"},
				{`substitute: {list: {"1": open, "2": shut}, otherwise: "unknown"}`, "7", "unknown"},
			},
			newSubstitute,
		},
		{
			"punctuate", "Lays the letters and digits of a text out in a pattern, each 9 standing for one. It looks " +
				"for as many.",
			[]string{"the pattern", "or pattern: the pattern", orKeep},
			[]Example{
				{`punctuate: "999-99-9999"`, "123456789", "123-45-6789"},
				{`punctuate: "(9999) 999 999"`, "0431123456", "(0431) 123 456"},
				{`punctuate: {pattern: "99.99", otherwise: blank}`, "123", ""},
			},
			newPunctuate,
		},
		{
			"mend", "Undoes damage: decoding (UTF-8 that was read as Windows-1252, and single bytes of Windows-1252 in " +
				"UTF-8), look-alikes (letters in place of digits, where all else is digits), markup (tags and character " +
				"references of web pages), compatibility (full-width and other variants of letters and digits).",
			[]string{"decoding, look-alikes, markup, compatibility, or a list of them"},
			[]Example{
				{"mend: decoding", "GrÃ¶ÃŸe", "Größe"},
				{"mend: look-alikes", "1O5,l2", "105,12"},
				{"mend: markup", "<b>12</b>&nbsp;kg", "12\u00a0kg"},
				{"mend: compatibility", "ＡＢ１２", "AB12"},
			},
			newMend,
		},
		{
			"day-number", "Makes dates of the day numbers of spreadsheets, to the second. It looks for plain numbers.",
			[]string{
				"the year in which they begin: 1900, or 1904 as in old workbooks of one system",
				"or from: the year", orKeep,
			},
			[]Example{
				{"day-number: 1900", "44260", "2021-03-05"},
				{"day-number: 1904", "42798.25", "2021-03-05T06:00:00"},
				{"day-number: 1900", "05.03.2021", "05.03.2021"},
				{"day-number: {from: 1900, otherwise: blank}", "05.03.2021", ""},
			},
			newDayNumber,
		},
		{
			"epoch", "Makes timestamps in UTC of seconds or parts of them counted from 1970. It looks for plain " +
				"numbers.",
			[]string{"what is counted: seconds, milliseconds or microseconds", "or of: what is counted", orKeep},
			[]Example{
				{"epoch: seconds", "1614902400", "2021-03-05T00:00:00Z"},
				{"epoch: milliseconds", "1614902400250", "2021-03-05T00:00:00.25Z"},
				{"epoch: {of: seconds, otherwise: blank}", "noon", ""},
			},
			newEpoch,
		},
		{
			"fill", "Gives a value to blank cells, and to those of which the steps behind it leave nothing. It must be the first step.",
			[]string{
				"the value, as it is to be: it takes no further steps", "or from: above, for the value of the nearest cell above that is not blank. Rows that are no data " +
					"are passed over; several files are one table, so that the end of one is passed over, too. Where that cell " +
					"has failed, or there is none, the cell stays blank",
			},
			[]Example{{`fill: "0"`, "", "0"}, {`fill: "0"`, "7", "7"}, {"fill: {from: above}", "7", "7"}},
			newFill,
		},
		{
			"label", "Gives the value of the first rule that matches.",
			[]string{
				"a list of rules: {is: TEXT}, {contains: TEXT}, {begins: TEXT}, {ends: TEXT} or {matches: PATTERN}, each with " +
					"then: TEXT, and with ignore-case: true perhaps",
				"at the end perhaps {otherwise: …}: blank, keep, fail, or a text; without it a text that no rule matches stays " +
					"as it is",
			},
			[]Example{
				{`label: [{contains: "iced", then: "ice"}, {otherwise: "none"}]`, "iced, fresh", "ice"},
				{`label: [{is: "A", then: "1"}, {otherwise: "0"}]`, "B", "0"},
				{`label: [{begins: "ICE", then: "ice", ignore-case: true}]`, "iced", "ice"},
			},
			newLabel,
		},
	}
}
