package spread

import (
	"bytes"
	"cmp"
	"context"
	"fmt"
	"os"
	"path/filepath"
	"slices"
	"strings"
	"sync"

	"github.com/apache/beam/sdks/v2/go/pkg/beam"
	"github.com/apache/beam/sdks/v2/go/pkg/beam/register"
	"github.com/klauspost/compress/zstd"

	"junvo/internal/cli"
	"junvo/internal/profile"
)

// collectFn collects what a part shows, by the command that is spread.
type collectFn struct {
	Command []string // with its flags, without its sources
}

// ProcessElement emits what was collected of a part.
func (f *collectFn) ProcessElement(ctx context.Context, p Part, emit func(segment)) error {
	var saved bytes.Buffer
	spread := cli.Spread{Range: p.Range, Collected: func(c *profile.Collected) error { return c.Save(&saved) }}
	file, done, err := fetched(ctx, p.Path)
	if err != nil {
		return failed(p.Path, err)
	}
	defer done()
	if err := run(ctx, append(slices.Clone(f.Command), file), spread); err != nil {
		return failed(p.Path, err)
	}
	emit(segment{p.Index, p.Index + 1, packed(saved.Bytes())})
	return nil
}

// What is moved between workers is packed: saved profiles become a fifth.
var (
	packer   = sync.OnceValue(func() *zstd.Encoder { return made(zstd.NewWriter(nil, zstd.WithEncoderConcurrency(1))) })
	unpacker = sync.OnceValue(func() *zstd.Decoder { return made(zstd.NewReader(nil, zstd.WithDecoderConcurrency(1))) })
)

// made returns what is made without a wish that may be wrong.
func made[T any](x T, err error) T {
	if err != nil {
		panic(err)
	}
	return x
}

func packed(saved []byte) []byte { return packer().EncodeAll(saved, nil) }

// load loads a saved profile that was packed.
func load(packed []byte) (*profile.Collected, error) {
	saved, err := unpacker().DecodeAll(packed, nil)
	if err != nil {
		return nil, err
	}
	return profile.Load(bytes.NewReader(saved))
}

// run runs a command on a part. What it says on standard error is the error.
func run(ctx context.Context, args []string, spread cli.Spread) error {
	var out, said bytes.Buffer
	if exit := cli.RunSpread(ctx, args, spread, &out, &said); exit > exitFailures {
		first, _, _ := strings.Cut(said.String(), "\n")
		return &Failed{exit, strings.TrimPrefix(first, "junvo: ")}
	}
	return nil
}

// segment is what was collected of the parts [From, To), as a saved profile that is packed.
type segment struct {
	From, To int
	Saved    []byte
}

// segments are what was collected of some parts: neighbours are joined to one, in the order of the table.
type segments struct{ List []segment }

// joinFn joins what was collected of the parts. It is associative, and the order in which the parts come does not
// matter: only neighbours are joined.
type joinFn struct{ Parts int }

func (*joinFn) CreateAccumulator() segments { return segments{} }

// mostApart is how many segments are kept apart until they are joined: each joining reads and writes them.
const mostApart = 8

func (f *joinFn) AddInput(all segments, s segment) (segments, error) {
	return f.MergeAccumulators(all, segments{[]segment{s}})
}

func (*joinFn) MergeAccumulators(a, b segments) (segments, error) {
	all := segments{slices.Concat(a.List, b.List)}
	slices.SortFunc(all.List, func(a, b segment) int { return cmp.Or(a.From-b.From, b.To-a.To) })
	kept := all.List[:0]
	for _, s := range all.List {
		// A part that was done again is there twice, and is the same.
		if n := len(kept); n == 0 || s.From >= kept[n-1].To {
			kept = append(kept, s)
		}
	}
	all.List = kept
	if len(all.List) < mostApart {
		return all, nil
	}
	return all.joined()
}

func (f *joinFn) ExtractOutput(all segments) ([]byte, error) {
	all, err := all.joined()
	if err != nil {
		return nil, err
	}
	if len(all.List) != 1 || all.List[0].From != 0 || all.List[0].To != f.Parts {
		return nil, fmt.Errorf("some of the %d parts are missing", f.Parts)
	}
	return all.List[0].Saved, nil
}

// joined joins neighbours.
func (all segments) joined() (segments, error) {
	var done segments
	for i := 0; i < len(all.List); {
		end := i + 1
		for end < len(all.List) && all.List[end].From == all.List[end-1].To {
			end++
		}
		s, err := join(all.List[i:end])
		if err != nil {
			return segments{}, err
		}
		done.List = append(done.List, s)
		i = end
	}
	return done, nil
}

func join(list []segment) (segment, error) {
	if len(list) == 1 {
		return list[0], nil
	}
	var all *profile.Collected
	for _, s := range list {
		c, err := load(s.Saved)
		switch {
		case err != nil:
			return segment{}, err
		case all == nil:
			all = c
		default:
			if err := all.Append(c); err != nil {
				return segment{}, &Failed{exitSource, err.Error()}
			}
		}
	}
	var saved bytes.Buffer
	err := all.Save(&saved)
	return segment{list[0].From, list[len(list)-1].To, packed(saved.Bytes())}, err
}

// keepFn writes what all parts show to a file.
type keepFn struct{ Path string }

// ProcessElement writes the saved profile.
func (f *keepFn) ProcessElement(saved []byte) error { return appear(f.Path, saved) }

// collect collects what all parts show, by a command that is spread.
func (j *Job) collect(ctx context.Context, command []string, parts []Part) (*profile.Collected, error) {
	path := filepath.Join(j.folder, "collected")
	p, s := beam.NewPipelineWithRoot()
	one := beam.ParDo(s, &collectFn{command}, beam.Reshuffle(s, beam.CreateList(s, parts)))
	beam.ParDo0(s, &keepFn{path}, beam.Combine(s, &joinFn{len(parts)}, one))
	if err := j.run(ctx, p); err != nil {
		return nil, err
	}
	text, err := os.ReadFile(path)
	if err != nil {
		return nil, err
	}
	return load(text)
}

func init() {
	register.DoFn3x1[context.Context, Part, func(segment), error](&collectFn{})
	register.Emitter1[segment]()
	register.Combiner3[segments, segment, []byte](&joinFn{})
	register.DoFn1x1[[]byte, error](&keepFn{})
}
