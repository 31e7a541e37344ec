package spread

import (
	"bytes"
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"io"
	"os"
	"path/filepath"
	"slices"
	"syscall"

	"github.com/apache/beam/sdks/v2/go/pkg/beam"
	"github.com/apache/beam/sdks/v2/go/pkg/beam/register"

	"junvo/internal/cli"
)

// convertFn converts a part into a folder of its own, which appears when all is in it: a part that is done again, or
// by two workers at a time, changes nothing.
type convertFn struct {
	Command []string // with its flags, without sources and outputs
	Ending  string   // of the outputs
	Folder  string
	Files   int // of the table
}

// ProcessElement converts a part.
func (f *convertFn) ProcessElement(ctx context.Context, p Part) error {
	return failed(p.Path, f.convert(ctx, p))
}

func (f *convertFn) convert(ctx context.Context, p Part) error {
	done := partFolder(f.Folder, p.Index)
	if _, err := os.Stat(done); err == nil {
		return nil
	}
	work, err := os.MkdirTemp(f.Folder, ".part-*")
	if err != nil {
		return err
	}
	defer os.RemoveAll(work) // where it has not appeared
	in := func(name string) string { return filepath.Join(work, name) }
	file, fetchedAway, err := fetched(ctx, p.Path)
	if err != nil {
		return err
	}
	defer fetchedAway()
	args := append(slices.Clone(f.Command), file, "-o", in("part."+f.Ending), "--first-row", fmt.Sprint(p.FirstRow),
		"--ledger", in("ledger.json"), "--failures", in("failures.csv"), "--set-aside", in("setaside.csv"))
	err = run(ctx, args, cli.Spread{Range: p.Range, Files: f.Files})
	if err == nil {
		err = renamed(in("ledger.json"), in("part."+f.Ending), outputName(p.Index, f.Ending))
	}
	if err != nil {
		return err
	}
	if err := os.Rename(work, done); err != nil {
		if _, gone := os.Stat(done); gone == nil {
			return nil // another worker was first
		}
		return err
	}
	return nil
}

// renamed gives the output of a ledger its last name.
func renamed(ledger, from, to string) error {
	text, err := os.ReadFile(ledger)
	if err != nil {
		return err
	}
	was, err1 := json.Marshal(from)
	is, err2 := json.Marshal(to)
	if err = errors.Join(err1, err2); err != nil {
		return err
	}
	return os.WriteFile(ledger, bytes.Replace(text, was, is, 1), 0o666)
}

func outputName(index int, ending string) string { return fmt.Sprintf("part-%05d.%s", index, ending) }

func partFolder(folder string, index int) string {
	return filepath.Join(folder, fmt.Sprintf("part-%05d", index))
}

// convert converts all parts, and puts what they are into one folder.
func (j *Job) convert(ctx context.Context, command []string, ending string, parts []Part) (folder string, err error) {
	files := map[string]bool{}
	for _, part := range parts {
		files[part.Path] = true
	}
	p, s := beam.NewPipelineWithRoot()
	beam.ParDo0(s, &convertFn{command, ending, j.folder, len(files)}, beam.Reshuffle(s, beam.CreateList(s, parts)))
	if err := j.run(ctx, p); err != nil {
		return "", err
	}
	folder = filepath.Join(j.beside, "output")
	if err := os.Mkdir(folder, 0o777); err != nil {
		return "", err
	}
	for _, part := range parts {
		from := partFolder(j.folder, part.Index)
		entries, err := os.ReadDir(from)
		if err != nil {
			return "", err
		}
		for _, e := range entries {
			// part-00017.csv, part-00017.failures.csv, …
			name := fmt.Sprintf("part-%05d.%s", part.Index, e.Name())
			if e.Name() == "part."+ending {
				name = outputName(part.Index, ending)
			}
			if err := move(filepath.Join(from, e.Name()), filepath.Join(folder, name)); err != nil {
				return "", err
			}
		}
	}
	return folder, nil
}

// move gives a file another name; where that is on another device, it is copied.
func move(from, to string) error {
	err := os.Rename(from, to)
	if !errors.Is(err, syscall.EXDEV) {
		return err
	}
	in, err := os.Open(from)
	if err != nil {
		return err
	}
	defer in.Close()
	out, err := os.Create(to)
	if err != nil {
		return err
	}
	_, err = io.Copy(out, in)
	return errors.Join(err, out.Close())
}

// ledgers returns the ledgers of the parts in a folder, in their order.
func ledgers(folder string) ([]string, error) {
	all, err := filepath.Glob(filepath.Join(folder, "part-*.ledger.json"))
	if err == nil && len(all) == 0 {
		err = errors.New("there is no ledger of any part")
	}
	slices.Sort(all)
	return all, err
}

func init() {
	register.DoFn2x1[context.Context, Part, error](&convertFn{})
}
