// Package reading turns the text of a cell into what it can be: numbers, dates,
// times, booleans, codes, blanks. It works in three steps, kept apart so that
// each can be trusted:
//
//   - [Reader.Read] looks at one cell and says under which conventions it can be
//     read, as a small set of bits; it decides nothing.
//   - [Conclude] looks at the counts of these sets over a whole column and
//     decides the convention and the type, with the evidence for and against.
//   - [Convention.Judge] looks at one cell again under the convention decided:
//     its one reading, whether it fits the type, and [Convention.Append] writes
//     its value in canonical text, or [Explain] says why there is none.
//
// The cell "1.234" can be read with a decimal point and with a group point; a
// column in which "99,10" occurs too has decided which it is:
//
//	r := reading.NewReader(nil)
//	r.Read([]byte("1.234")).Set.Has(reading.NumPoint | reading.NumComma) // true
//	r.Read([]byte("99,10")).Set.Has(reading.NumPoint)                    // false
package reading
