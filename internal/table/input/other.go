package input

import (
	"bytes"
	"strings"
	"unicode/utf16"
)

// other is a format that is not read, known by how its files begin: what it is, and what to do.
type other struct {
	begins   []string // any of these; in lower case where text is
	text     bool     // upper and lower case are the same, and spaces may stand before
	what, do string
}

// others are the formats that people take for tables and that are something else.
var others = []other{
	{
		[]string{"%PDF-"},
		false, "it is a PDF document, which has no cells",
		"Export the table from the program that made it, as CSV or a workbook.",
	},
	{[]string{`{\rtf`}, false, "it is a text document (RTF)", "Open it in a word processor, and save the table as " +
		"plain text or a workbook."},
	{
		[]string{"\xd0\xcf\x11\xe0\xa1\xb1\x1a\xe1"},
		false, "it is an old binary workbook or document",
		"Open it in a spreadsheet program and save it as XLSX or CSV.",
	},
	{[]string{"Rar!\x1a\x07"}, false, "it is an archive (RAR)", "Unpack it and name a file in it."},
	{[]string{"7z\xbc\xaf\x27\x1c"}, false, "it is an archive (7z)", "Unpack it and name a file in it."},
	{
		[]string{"\x89PNG\r\n", "\xff\xd8\xff", "GIF87a", "GIF89a"},
		false, "it is a picture",
		"Ask for the table as a file.",
	},
}

// encryptedPart is the name of the part of a binary container that holds an encrypted workbook.
var encryptedPart = func() (b []byte) {
	for _, u := range utf16.Encode([]rune("EncryptedPackage")) {
		b = append(b, byte(u), byte(u>>8))
	}
	return b
}()

// recognise returns what a file is that is no table, nil if nothing is known of it.
func recognise(path string, head []byte) error {
	text := strings.ToLower(string(bytes.TrimLeft(bytes.TrimPrefix(head, []byte("\ufeff")), " \t\r\n")))
	for _, o := range others {
		for _, b := range o.begins {
			switch {
			case o.text && strings.HasPrefix(text, b), !o.text && bytes.HasPrefix(head, []byte(b)):
			default:
				continue
			}
			if bytes.Contains(head, encryptedPart) {
				return &Error{path, errEncrypted, "Open it with its password and save it without one."}
			}
			return &Error{path, errorText(o.what), o.do}
		}
	}
	return nil
}

type errorText string

func (e errorText) Error() string { return string(e) }

const errEncrypted = errorText("it is an encrypted workbook")
