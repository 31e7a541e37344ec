package show

import (
	"fmt"
	"slices"
	"strings"
	"unicode"
	"unicode/utf8"

	"junvo/internal/character"
	"junvo/internal/draft"
	"junvo/internal/expression"
	"junvo/internal/finding"
	"junvo/internal/plan"
	"junvo/internal/reason"
	"junvo/internal/rowkind"
	"junvo/internal/step"
	"junvo/internal/table"
	"junvo/internal/value"
)

// known is an entry of a catalogue, as help finds it.
type known struct {
	kind  string // what it is, as in step
	name  string
	text  string // what the page of its catalogue says
	topic string // that page
}

// allKnown lists the entries of all catalogues.
func allKnown() (all []known) {
	for _, e := range step.Catalogue {
		all = append(all, known{"step", e.Name, stepPage(&e), "steps"})
	}
	for _, f := range expression.Functions {
		all = append(all, known{"function", f.Name, functionText(&f), "functions"})
	}
	for _, g := range plan.Keys {
		where := "key of a plan, " + strings.ToLower(g.Where[:1]) + strings.TrimSuffix(g.Where[1:], ":")
		for _, k := range g.Keys {
			all = append(all, known{where, k.Name, planKeyText(&k), "plan"})
		}
	}
	for _, t := range value.Types {
		all = append(all, known{"type", t.Name, typeText(&t), "types"})
	}
	for _, r := range reason.Catalogue[1:] {
		all = append(all, known{"reason", r.Name, reasonText(&r), "reasons"})
	}
	for _, f := range finding.Catalogue[1:] {
		all = append(all, known{"finding", f.Name, findingText(&f), "findings"})
	}
	for _, k := range rowkind.Catalogue[1:] {
		all = append(all, known{"kind of row", k.Name, entryText(k.Name, k.Say), "reasons"})
	}
	for _, d := range draft.Catalogue[1:] {
		all = append(all, known{"drift", d.Name, entryText(d.Name, d.Say), "plan"})
	}
	for _, c := range character.Classes {
		all = append(all, known{"class of characters", c.Name, entryText(c.Name, c.Say), "steps"})
	}
	for _, w := range Words {
		all = append(all, known{"word", w.Name, entryText(w.Name, w.Say), "words"})
	}
	return all
}

// KnownWords returns the names of all that the catalogues have.
func KnownWords() (names []string) {
	for _, k := range allKnown() {
		if !slices.Contains(names, k.name) {
			names = append(names, k.name)
		}
	}
	return names
}

// Lookup finds a word in all catalogues and in the tasks, and says what is known of it; "" where it is nowhere, with
// the names that are like it.
func Lookup(word string) (text string, near string) {
	want := strings.ToLower(strings.TrimSpace(word))
	var b strings.Builder
	var names []string
	for _, k := range allKnown() {
		names = append(names, k.name)
		if plain := strings.ToLower(k.name); plain == want || strings.TrimSuffix(plain, "s") == strings.TrimSuffix(want,
			"s") {
			fmt.Fprintf(&b, "%s (`junvo help %s` lists all):\n\n%s\n", k.kind, k.topic, k.text)
		}
	}
	tasks := tasksOf(want)
	if len(tasks) > 0 {
		b.WriteString("tasks (`junvo help tasks` shows all, with what comes out):\n")
		for _, t := range tasks {
			fmt.Fprintf(&b, "\n  %s\n      junvo convert a.csv -o - %s\n", t.Name, CommandLine(t.Flags))
		}
	}
	if b.Len() == 0 {
		b.WriteString(mentioned(want))
	}
	if b.Len() == 0 {
		return "", table.Nearest(word, names)
	}
	return b.String(), ""
}

// mentioned returns the entries of the catalogues that have a word in what they say, "" for none.
func mentioned(want string) string {
	var b strings.Builder
	for _, k := range allKnown() {
		if HasWord(k.text, want) {
			fmt.Fprintf(&b, "%s (`junvo help %s` lists all):\n\n%s\n", k.kind, k.topic, k.text)
		}
	}
	return b.String()
}

// HasWord reports whether a text has a word in it, in capitals or not, with an ending or without.
func HasWord(text, want string) bool {
	if len(want) < 3 {
		return false
	}
	text = strings.ToLower(text)
	for at := 0; ; {
		i := strings.Index(text[at:], want)
		if i < 0 {
			return false
		}
		at += i
		before, _ := utf8.DecodeLastRuneInString(text[:at])
		after, _ := utf8.DecodeRuneInString(text[at+len(want):])
		if !unicode.IsLetter(before) && (!unicode.IsLetter(after) || after == 's') {
			return true
		}
		at += len(want)
	}
}

// small are words that say nothing of a task.
var small = []string{
	"a", "an", "the", "of", "in", "to", "for", "and", "or", "that", "is", "by", "with", "from", "on",
	"at",
}

// tasksOf returns the tasks that have all the words asked for in their names, their commands or their plans.
func tasksOf(want string) (found []Task) {
	words := slices.DeleteFunc(strings.FieldsFunc(want, func(r rune) bool {
		return r == ' ' || r == '-' || r == '?' ||
			r == ','
	}),
		func(w string) bool { return slices.Contains(small, w) })
	if len(words) == 0 {
		return nil
	}
	for _, t := range Tasks {
		text := strings.ToLower(t.Name + " " + strings.Join(t.Flags, " ") + " " + t.Plan)
		if !slices.ContainsFunc(words, func(w string) bool { return !strings.Contains(text, strings.TrimSuffix(w, "s")) }) {
			found = append(found, t)
		}
	}
	return found
}

// Word is a word that the documents use.
type Word struct{ Name, Say string }

// Words are the words that the documents use, and what they mean.
var Words = []Word{
	{"blank", "A cell without a value: missing, empty, quoted-empty, spaces, invisible, a word for blank such as n/a, " +
		"or a null. It is never zero, and never equal to anything."},
	{"character", "What people see as one: é is one, however it is stored (a grapheme cluster, UAX #29). Positions " +
		"and lengths count these, from 1."},
	{"code", "An identifier of digits, or of digits and letters, kept as it is: leading zeros survive."},
	{"convention", "How a column writes its values: decimal mark, group marks, order of dates, unit, currency, words " +
		"for true and false."},
	{"digit", "A decimal digit of any script; the class is digits."},
	{"emptied", "Of a cell: it held something, and the steps have left nothing."},
	{"evidence", "The cells that can be read under one convention only, for and against it."},
	{"failure", "A cell that could not become its column's type, with a reason. It is blank in the output unless the " +
		"plan says otherwise."},
	{"helper", "A column of a plan that is worked out and not written."},
	{"ledger", "The balance of a conversion: what became of every row and every cell."},
	{"letter", "A letter of any script, with the marks that belong to it; the class is letters."},
	{"line", "A line of the file, counted from 1, the header included. A row may have several."},
	{"pattern", "A regular expression of RE2. It matches anywhere in the text unless ^ and $ hold it to the whole. In " +
		"a plan it stands in single quotes, in which a backslash is one: '\\d+'. A group is $1 or ${1}."},
	{"reading", "What a text can be read as: integer, decimal, date, time, timestamp, boolean, code, text or blank."},
	{"row", "A record below the header, counted from 1."},
	{"shape", "A cell with each digit as 9, each capital as A and each small letter as a."},
	{"stray", "A character that keeps a cell from being read."},
	{"strip", "A picture of a column: twenty places, each for an equal share of the cells."},
	{"word", "In a text: what stands between spaces, signs included."},
}

// WordPage describes the words.
func WordPage() string {
	var b strings.Builder
	b.WriteString("The words that Junvo uses, and what they mean:\n")
	for _, w := range Words {
		b.WriteString("\n" + entryText(w.Name, w.Say))
	}
	return b.String()
}

func entryText(name, say string) string { return fmt.Sprintf("  %s\n      %s\n", name, say) }
