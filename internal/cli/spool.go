package cli

import (
	"context"
	"errors"
	"fmt"
	"io"
	"os"
	"path/filepath"
	"slices"

	"junvo/internal/table/input"
	"junvo/internal/table/wholefile"
)

// spooled puts a file in the place of what can be read once only: standard input, a pipe with a name.
// The file goes when end is called.
func (a *app) spooled(ctx context.Context, paths []string, plan string) (list []string, end func(), err error) {
	if plan == "-" && slices.Contains(paths, "-") {
		return nil, nil, usage("standard input is one thing: the source or the plan, not both")
	}
	list = slices.Clone(paths)
	var files []string
	end = func() {
		for _, f := range files {
			_ = wholefile.Remove(f)
		}
	}
	for i, p := range paths {
		file, part := input.Part(p)
		in, shown := a.in, "standard input"
		if !readOnce(file) {
			continue
		}
		if file != "-" {
			f, err := os.Open(file)
			if err != nil {
				return nil, nil, err
			}
			defer f.Close()
			in, shown = f, filepath.Base(file)
		}
		kept, err := spool(ctx, in)
		if err != nil {
			end()
			return nil, nil, err
		}
		files = append(files, kept)
		if list[i] = kept; part != "" {
			list[i] += "#" + part
		}
		if a.source.Shown == nil {
			a.source.Shown = map[string]string{}
		}
		a.source.Shown[kept] = shown
	}
	return list, end, nil
}

// readOnce reports whether a source can be read once only: standard input, a pipe with a name.
func readOnce(path string) bool {
	if path == "-" {
		return true
	}
	info, err := os.Stat(path)
	return err == nil && info.Mode()&(os.ModeNamedPipe|os.ModeSocket|os.ModeCharDevice) != 0
}

// spool copies an input to a temporary file, since it is read twice.
func spool(ctx context.Context, in io.Reader) (string, error) {
	f, err := wholefile.Temp(os.TempDir(), "junvo-input")
	if err != nil {
		return "", outputError(err)
	}
	copied := make(chan error, 1)
	go func() {
		_, err := io.Copy(f, in)
		copied <- err
	}()
	select {
	case err = <-copied:
	case <-ctx.Done():
		err = ctx.Err()
	}
	if err = errors.Join(err, f.Close()); err != nil {
		_ = wholefile.Remove(f.Name())
		return "", outputError(fmt.Errorf("can't keep standard input for the second reading: %w", err))
	}
	return f.Name(), nil
}
