package spread

import (
	"context"
	"errors"
	"fmt"
	"io"
	"os"
	"path"
	"path/filepath"
	"slices"
	"strings"

	"github.com/apache/beam/sdks/v2/go/pkg/beam/io/filesystem"
	_ "github.com/apache/beam/sdks/v2/go/pkg/beam/io/filesystem/gcs" // gs://
	_ "github.com/apache/beam/sdks/v2/go/pkg/beam/io/filesystem/s3"  // s3://

	"junvo/internal/table/input"
	"junvo/internal/table/postgres"
)

// Sources may stand in a file system of Beam's, such as gs://bucket/parts/*.csv. Formats are read at any place of a
// file, so each is copied to the worker that reads it, and is one part.

// remote reports whether a source stands in a file system of Beam's.
func remote(source string) bool {
	return strings.Contains(source, "://") && !postgres.Is(source)
}

// listed returns the files that sources stand for, in their order.
func listed(ctx context.Context, sources []string) (all []string, err error) {
	for _, source := range sources {
		if !remote(source) {
			paths, err := input.Paths([]string{source})
			if err != nil {
				return nil, err
			}
			all = append(all, paths...)
			continue
		}
		fs, err := filesystem.New(ctx, source)
		if err != nil {
			return nil, usage("%s: there is no such file system here", source)
		}
		found, err := fs.List(ctx, source)
		if err = errors.Join(err, fs.Close()); err != nil {
			return nil, &input.Error{Name: source, Err: err}
		}
		if len(found) == 0 {
			return nil, &input.Error{Name: source, Err: errors.New("there is no such file")}
		}
		slices.Sort(found)
		all = append(all, found...)
	}
	return all, nil
}

// fetched returns where a source can be read: where it is, or a copy that is to be removed by done. The part of a
// container that is named behind # stays behind it.
func fetched(ctx context.Context, source string) (file string, done func(), err error) {
	if !remote(source) {
		return source, func() {}, nil
	}
	at, part := input.Part(source)
	dir, err := os.MkdirTemp("", "junvo-fetched-*")
	if err != nil {
		return "", nil, err
	}
	done = func() { os.RemoveAll(dir) }
	file = filepath.Join(dir, path.Base(at))
	if err := fetch(ctx, at, file); err != nil {
		done()
		return "", nil, fmt.Errorf("it can't be fetched: %w", err)
	}
	if part != "" {
		file += "#" + part
	}
	return file, done, nil
}

func fetch(ctx context.Context, source, file string) error {
	fs, err := filesystem.New(ctx, source)
	if err != nil {
		return err
	}
	defer fs.Close()
	in, err := fs.OpenRead(ctx, source)
	if err != nil {
		return err
	}
	defer in.Close()
	out, err := os.Create(file)
	if err != nil {
		return err
	}
	_, err = io.Copy(out, in)
	return errors.Join(err, out.Close())
}
