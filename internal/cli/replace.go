package cli

import (
	"bytes"
	"encoding/csv"
	"io"
	"os"
	"slices"

	"junvo/internal/table"
	"junvo/internal/table/input"
)

// What a run writes takes the place of a file only if an earlier run has written that: an output in the same format
// with the same columns, a ledger, a saved profile. Every other file may be a person's, and goes only where that is
// said.

const replaceUse = "let outputs take the place of files that are no outputs of earlier runs with the same columns"

// claimed reports whether a file is there that has anything in it: devices and pipes have not.
func claimed(path string) bool {
	info, err := os.Stat(path)
	return err == nil && info.Mode().IsRegular() && info.Size() > 0
}

func notOurs(path, what string) error {
	return usage("%s is there and is no %s of an earlier run: move it away, name another output, or say --replace", path, what)
}

// mayReplaceOutput returns an error where a file is there that is no earlier output with these columns. Between the
// first and the last of them there may be others if between says after how many: those that values have made.
func mayReplaceOutput(path string, fields []table.Field, between int, told bool) error {
	f := formatOf(path)
	if told || path == "" || path == "-" || f == nil || f.inPart || !claimed(path) {
		return nil // tables of a database are looked at by the database
	}
	same := func(have string, field table.Field) bool {
		return have == field.Name || have == "'"+field.Name // as formulas are guarded
	}
	have, ok := headingsOf(path, f)
	if last := len(fields) - 1; between > 0 && ok && len(have) > between {
		have = append(slices.Clone(have[:between]), have[len(have)-1])
		fields = append(slices.Clone(fields[:between]), fields[last])
	}
	if !ok || !slices.EqualFunc(have, fields, same) {
		return notOurs(path, "output with the same columns")
	}
	return nil
}

// maxHeadings is how long the names of the columns of an output may be, in bytes.
const maxHeadings = 16 << 20

// headingsOf returns the names of the columns of a file, false if it can't be read as one of the format.
func headingsOf(path string, f *outputFormat) ([]string, bool) {
	if f.delimiter != 0 {
		file, err := os.Open(path)
		if err != nil {
			return nil, false
		}
		defer file.Close()
		r := csv.NewReader(io.LimitReader(file, maxHeadings)) // a quote may open and never close
		r.Comma = rune(f.delimiter)
		r.FieldsPerRecord = -1
		names, err := r.Read()
		return names, err == nil
	}
	src, err := input.Open(path+f.sheet, input.Options{})
	if err != nil {
		return nil, false
	}
	defer src.Close()
	return src.Info().Names, true
}

// mayReplaceKnown returns an error where a file is there that is not what, which is known by how it begins.
func mayReplaceKnown(path, what, begins string, told bool) error {
	if told || path == "" || path == "-" || !claimed(path) {
		return nil
	}
	f, err := os.Open(path)
	if err != nil {
		return outputError(err)
	}
	defer f.Close()
	const head = 256
	start := make([]byte, head)
	n, err := io.ReadFull(f, start)
	if err != nil && n == 0 {
		return outputError(err)
	}
	if bytes.HasPrefix(start[:n], []byte(begins)) {
		return nil
	}
	return notOurs(path, what)
}

// How ledgers and saved profiles begin: those as a map of four items in CBOR, of which the first is the mark.
const (
	ledgerBegins  = "{\n  \"junvo\": "
	profileBegins = "\xa4dMarkmjunvo profile"
)
