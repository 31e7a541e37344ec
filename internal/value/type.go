// Package value holds what a cell can be once it has been read: the stored
// kinds and blank kinds that tell where it came from, the types a column can
// have, and exact decimal numbers, dates and times with their canonical text.
//
//	d, _ := value.ParseDate("2021-03-04")
//	string(d.Append(nil)) // 2021-03-04
//
// Nothing here knows how people write values; that is package reading.
package value

// Type is the type of a column of the output.
type Type uint8

// The types, in the order in which they are listed to people.
const (
	Text Type = iota
	Integer
	Decimal
	Date
	Time
	Timestamp
	Boolean
	Code
	NumTypes // how many there are
)

// TypeEntry describes one type in the catalogue of types.
type TypeEntry struct {
	Type    Type
	Name    string
	Say     string // what the type is, in one sentence
	Written string // how a value is written in the output
	Example string // from a raw cell to the value written
}

// Types is the catalogue of types; help pages and reference documents are made from it.
var Types = [NumTypes]TypeEntry{
	{
		Text, "text", "Any text, kept character for character.", "the text as it came",
		"Lot 88 / crate 51 stays Lot 88 / crate 51",
	},
	{Integer, "integer", "A whole number of any length.", "digits with an optional minus", "1.240 becomes 1240"},
	{
		Decimal, "decimal", "An exact decimal number of any length, never binary floating point.",
		"digits with a decimal point", "1.240,50 kg becomes 1240.50",
	},
	{Date, "date", "A day of the Gregorian calendar.", "yyyy-MM-dd (ISO 8601)", "4.3.2021 becomes 2021-03-04"},
	{Time, "time", "A time of day.", "HH:mm:ss (ISO 8601)", "6:05 pm becomes 18:05:00"},
	{
		Timestamp, "timestamp", "A day and a time of day, with an offset from UTC where the cells have one.",
		"yyyy-MM-ddTHH:mm:ss (ISO 8601)", "04.03.2021 06:05 becomes 2021-03-04T06:05:00",
	},
	{Boolean, "boolean", "True or false.", "true or false", "ja becomes true"},
	{
		Code, "code", "An identifier made of digits or digits and letters, kept as text character for character.",
		"the text as it came", "00417 stays 00417",
	},
}

// String returns the type's name.
func (t Type) String() string {
	if t < NumTypes {
		return Types[t].Name
	}
	return "unknown"
}

// Numeric reports whether values of the type are numbers.
func (t Type) Numeric() bool { return t == Integer || t == Decimal }

// Textual reports whether values of the type are text, kept as it is.
func (t Type) Textual() bool { return t == Text || t == Code }

// TypeNames returns the names of all types in the order of the catalogue.
func TypeNames() []string {
	names := make([]string, 0, NumTypes)
	for _, e := range Types {
		names = append(names, e.Name)
	}
	return names
}

// ParseType returns the type of that name.
func ParseType(name string) (Type, bool) {
	for _, e := range Types {
		if e.Name == name {
			return e.Type, true
		}
	}
	return Text, false
}

// Before reports whether a value comes before another, both in canonical text. What is no
// value of the type comes before nothing.
func Before(t Type, a, b string) bool {
	switch {
	case t.Numeric():
		x, err1 := ParseNumber(a)
		y, err2 := ParseNumber(b)
		return err1 == nil && err2 == nil && x.Compare(y) < 0
	case t == Timestamp:
		x, err1 := ParseMoment(a)
		y, err2 := ParseMoment(b)
		return err1 == nil && err2 == nil && x.Compare(y) < 0
	}
	return a < b
}
