package cli

import (
	"bytes"
	"errors"
	"fmt"
	"io"
	"io/fs"
	"os"
	"path/filepath"
	"slices"
	"strings"

	"junvo/internal/plan"
	"junvo/internal/table/input"
	"junvo/internal/table/postgres"
	"junvo/internal/table/wholefile"
)

// No file that a person made is ever overwritten or deleted. Before anything is read, the whole
// set of files that a run reads and writes is looked at; and what a run writes beside its output
// takes the place of an older file only where that was written by an earlier run: lists of
// failures and of rows set aside are known by their headings and by having no answers in them,
// drafted plans by their checksums, and all of them by their names, which are made of the output's.

// sourcesOf adds the files of the sources.
func sourcesOf(files *wholefile.Files, paths []string) error {
	all, err := input.Paths(paths)
	if err != nil {
		return err
	}
	for _, p := range all {
		file, _ := input.Part(p)
		if postgres.Is(file) {
			file = p // one table of a database may be made of another
		}
		files.Reads(file, "the source")
	}
	return nil
}

// checkFiles returns a usage error where a run would write what it reads, or a file twice.
func checkFiles(files *wholefile.Files) error {
	if err := files.Check(); err != nil {
		return usage("%w", err)
	}
	return nil
}

// files is the set of files that a conversion reads and writes.
func (c *conversion) files(paths []string) (*wholefile.Files, error) {
	files := &wholefile.Files{}
	if err := sourcesOf(files, paths); err != nil {
		return nil, err
	}
	files.Reads(c.plan, "the plan")
	files.Writes(c.ledger, "the ledger")
	files.Writes(c.report.path, "the report")
	if isFolder(c.output) {
		all, err := input.Paths(paths)
		if err != nil {
			return nil, err
		}
		for _, file := range all {
			one := *c
			one.output = filepath.Join(c.output, c.outputName(file))
			one.outputs(files)
		}
	} else {
		c.outputs(files)
	}
	if c.keepsAnswers() {
		return files, nil // the list of failures keeps the answers that are read from it
	}
	files.Reads(c.fixes, "the file of answers")
	return files, nil
}

// outputs adds the output and what may be written beside it.
func (c *conversion) outputs(files *wholefile.Files) {
	path, _ := c.target()
	stem := c.stem()
	if postgres.Is(c.output) {
		path = c.output
	}
	files.Writes(path, "the output")
	files.Writes(c.failuresPath(), "the list of failures")
	files.Writes(c.asidePath(), "the list of rows set aside")
	if c.plan == "" {
		files.Writes(c.planPath(), "the drafted plan")
	}
	if c.metadata {
		files.Writes(path+metadataEnding, "the description of the output")
	}
	if c.ddl != "" {
		files.Writes(stem+ddlEnding, "the definition of the table")
	}
}

// The endings of the names of what is written beside an output.
const (
	failuresEnding = ".failures.csv"
	asideEnding    = ".setaside.csv"
	planEnding     = ".plan.yaml"
	ddlEnding      = ".sql"
	metadataEnding = "-metadata.json"
)

// failuresPath, asidePath and planPath are where the lists and the drafted plan go: the files that are named, or those
// beside the output; "" where they are not written.
func (c *conversion) failuresPath() string {
	if c.failuresTable != "" {
		return ""
	}
	return c.beside(c.failures, failuresEnding)
}

func (c *conversion) asidePath() string {
	if c.asideTable != "" {
		return ""
	}
	return c.beside(c.aside, asideEnding)
}

func (c *conversion) planPath() string { return c.beside(c.keepPlan, planEnding) }

func (c *conversion) beside(named, ending string) string {
	switch {
	case named != "":
		return named
	case c.streamed:
		return ""
	}
	return c.stem() + ending
}

// stem is what the names of the files beside the output begin with: the name of the output without
// its ending. Where there is an output of that name in another format, which may have such files, it
// is the whole name: clean.xlsx.failures.csv beside clean.csv.
func (c *conversion) stem() string {
	path, part := c.target()
	if postgres.Is(path) {
		return strings.Map(fileCharacter, part) // in the folder where the program runs
	}
	short := strings.TrimSuffix(path, filepath.Ext(path))
	if part != "" && part != filepath.Base(short) {
		return short + "." + strings.Map(fileCharacter, part)
	}
	var others []string
	for _, f := range outputFormats {
		for _, ending := range f.endings {
			if other := short + ending; other != path && isThere(other) && !same(other, path) {
				others = append(others, other)
			}
		}
	}
	switch {
	case len(others) == 0:
		return short
	case !isThere(path) || hasLists(path):
		return path
	}
	if slices.ContainsFunc(others, hasLists) {
		return short // it was there first
	}
	return path
}

// hasLists reports whether there are files whose names begin with the whole name of an output.
func hasLists(path string) bool {
	for _, ending := range []string{failuresEnding, asideEnding, planEnding, ddlEnding} {
		if isThere(path + ending) {
			return true
		}
	}
	return false
}

func isThere(path string) bool {
	_, err := os.Lstat(path)
	return err == nil
}

// fileCharacter keeps the characters of a table's name that may stand in the name of any file.
func fileCharacter(r rune) rune {
	if r < ' ' || strings.ContainsRune(`/\:*?"<>|`, r) {
		return '_'
	}
	return r
}

// keepsAnswers reports whether the answers are read from the list of failures that the run writes.
func (c *conversion) keepsAnswers() bool {
	return c.fixes != "" && !isFolder(c.output) && same(c.fixes, c.failuresPath())
}

// mayReplace returns an error unless a list that a run may write or delete is not there, or was
// written by an earlier run: its heading is one of these, and no answer stands in it. Told so, another file may go.
func mayReplace(path, what string, p permission, answered bool, headings ...[]string) error {
	if path == "" || !claimed(path) {
		return nil
	}
	other := notOurs(path, what, p)
	if p == told {
		other = nil
	}
	list, err := openList(path)
	if errors.Is(err, fs.ErrPermission) {
		return outputError(err)
	}
	if err != nil {
		return other
	}
	defer list.Close()
	if !slices.ContainsFunc(headings, func(h []string) bool { return slices.Equal(h, list.header) }) {
		return other
	}
	fix := slices.Index(list.header, "fix")
	if fix < 0 || answered {
		return nil
	}
	for {
		record, err := list.next()
		if err != nil {
			return nil // whatever is wrong with it, there are no more answers
		}
		if fix < len(record) && record[fix] != "" {
			return usage("%s has answers in its column fix; give them back with --fixes %s, or move the file away", path, path)
		}
	}
}

// mayReplacePlan returns an error where a plan is there that is another than the drafted one, and
// that a person may have edited.
func mayReplacePlan(path string, drafted []byte, told bool, flag string) error {
	if path == "" {
		return nil
	}
	free, err := replaceable(path, func(have []byte) bool {
		return told || bytes.Equal(have, drafted) || plan.Untouched(have)
	})
	if free || err != nil {
		return err
	}
	return usage("%s is there, is not what would be drafted now, and may have been edited; use it with --plan %s, "+
		"move it away, or say %s", path, path, flag)
}

// maxRead is how long a plan, a list or a control may be, in bytes.
const maxRead = 256 << 20

// readText reads a file that a person or a run has made beside the source: a regular file, or a pipe, of no endless length.
func readText(path string) ([]byte, error) {
	info, err := os.Stat(path)
	if err == nil && info.Mode()&os.ModeDevice != 0 {
		err = &os.PathError{Op: "read", Path: path, Err: errors.New("is a device")}
	}
	if err != nil {
		return nil, err
	}
	f, err := os.Open(path)
	if err != nil {
		return nil, err
	}
	defer f.Close()
	text, err := io.ReadAll(io.LimitReader(f, maxRead+1))
	if err == nil && len(text) > maxRead {
		err = &os.PathError{Op: "read", Path: path, Err: fmt.Errorf("is longer than %d MB", maxRead>>20)}
	}
	return text, err
}
