package cli

import (
	"bytes"
	"encoding/csv"
	"errors"
	"io"
	"io/fs"
	"os"
	"slices"

	"junvo/internal/table"
	"junvo/internal/table/input"
)

// What a run writes takes the place of a file only if an earlier run has written that: an output in the same format
// with the same columns, and all else by how it begins or is made. Every other file may be a person's, and goes only
// where that is said; answers in a list and an edited plan do not even then.

const replaceUse = "let outputs take the place of files that are no outputs of earlier runs with the same columns"

// claimed reports whether a file is there that has anything in it: devices and pipes have not.
func claimed(path string) bool {
	info, err := os.Stat(path)
	return err == nil && info.Mode().IsRegular() && info.Size() > 0
}

// permission is whether any file may go that an output takes the place of.
type permission uint8

const (
	asked  permission = iota // it may if --replace says so, and that is not said
	told                     // --replace is said
	unsaid                   // nobody has named the file: it stands beside an output
)

func permissionOf(named, replace bool) permission {
	switch {
	case !named:
		return unsaid
	case replace:
		return told
	}
	return asked
}

func notOurs(path, what string, p permission) error {
	do := "move it away, or name another output"
	if p == asked {
		do = "move it away, name another output, or say --replace"
	}
	return usage("%s is there and is no %s of an earlier run: %s", path, what, do)
}

// mayReplaceOutput returns an error where a file is there that is no earlier output with these columns. Between the
// first and the last of them there may be others if between says after how many: those that values have made.
func mayReplaceOutput(path string, fields []table.Field, between int, replace bool) error {
	f := formatOf(path)
	if replace || path == "" || path == "-" || f == nil || f.inPart || !claimed(path) {
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
		return notOurs(path, "output with the same columns", asked)
	}
	return nil
}

// maxHeadings is how many bytes of a file are read to know it: as many as the names of the columns may have.
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

// mayReplaceText returns an error where a file is there that has another text than those that are ours.
func mayReplaceText(path, what string, p permission, ours func([]byte) bool) error {
	if p == told || path == "" || path == "-" || !claimed(path) {
		return nil
	}
	if free, err := replaceable(path, ours); free || err != nil {
		return err
	}
	return notOurs(path, what, p)
}

// replaceable reports whether a file is not there, or has a text that is ours to replace.
func replaceable(path string, ours func([]byte) bool) (bool, error) {
	f, err := os.Open(path)
	if errors.Is(err, fs.ErrNotExist) {
		return true, nil
	}
	if err != nil {
		return false, outputError(err)
	}
	defer f.Close()
	have, err := io.ReadAll(io.LimitReader(f, maxHeadings))
	if err != nil {
		return false, outputError(err)
	}
	return ours(have), nil
}

// begins reports whether a text begins so.
func begins(how string) func([]byte) bool {
	return func(text []byte) bool { return bytes.HasPrefix(text, []byte(how)) }
}

// How ledgers and saved profiles begin: those as a map of four items in CBOR, of which the first is the mark.
const (
	ledgerBegins  = "{\n  \"junvo\": "
	profileBegins = "\xa4dMarkmjunvo profile"
)
