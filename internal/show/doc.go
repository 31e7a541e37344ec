// Package show makes everything that a person looks at: terminal tables, the
// strip of a column, sentences, and the JSON that programs read in their place.
// Text from cells passes through [Visible] before it is shown, so that nothing in a
// cell can act on the terminal or the spreadsheet of whoever looks.
package show
