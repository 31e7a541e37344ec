package spread_test

import (
	"bytes"
	"context"
	"path/filepath"
	"testing"

	"github.com/apache/beam/sdks/v2/go/pkg/beam"
	"github.com/apache/beam/sdks/v2/go/pkg/beam/io/filesystem/memfs"
	"github.com/stretchr/testify/require"

	"junvo/beam/spread"
)

// Sources in one of Beam's file systems give what they give as files; here it is the one in the memory of a process, so
// that the job runs in this one.
func TestFileSystems(t *testing.T) {
	beam.Init()
	f := newFolder(t)
	for _, name := range []string{"p-1.csv", "p-2.csv"} {
		text := landings(900)
		f.write(name, text)
		memfs.Write("memfs://"+name, []byte(text))
	}
	t.Setenv("TMPDIR", f.dir)
	job := func(args ...string) result {
		var out, said bytes.Buffer
		j := &spread.Job{Each: each, Staging: f.dir, Out: &out, Err: &said}
		code := j.Run(context.Background(), args)
		return result{out.String(), said.String(), code}
	}
	want := f.run(programs.whole, "profile", "p-1.csv", "p-2.csv", "--format", "json")
	got := job("profile", "memfs://p-*.csv", "--format", "json")
	require.Zero(t, got.code, got.err)
	require.Equal(t, want.out, got.out)

	require.Equal(t, 1, f.run(programs.whole, "convert", "p-1.csv", "p-2.csv", "-o", "whole.csv", "--origin").code)
	got = job("convert", "memfs://p-1.csv", "memfs://p-2.csv", "--origin", "-o", filepath.Join(f.dir, "out"))
	require.Equal(t, 1, got.code, got.err)
	require.Equal(t, f.rows("whole.csv"), f.rows("out/part-?????.csv"))
	require.Equal(t, f.rows("whole.failures.csv"), f.rows("out/part-*.failures.csv"))
	require.Empty(t, f.left())

	got = job("profile", "memfs://none-*.csv")
	require.Equal(t, 3, got.code)
	require.Contains(t, got.err, "there is no such file")
	got = job("profile", "nowhere://a.csv")
	require.Equal(t, 2, got.code)
	require.Contains(t, got.err, "there is no such file system here")
}
