package profile

import (
	"bytes"
	"context"
	"fmt"
	"math/rand/v2"
	"os"
	"reflect"
	"testing"

	"github.com/axiomhq/hyperloglog"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"junvo/internal/table"
	"junvo/internal/table/tabletest"
)

func everyColumn(string) bool { return true }

// collectRows collects rows below these names, all columns opened.
func collectRows(t testing.TB, names []string, rows [][]string, workers int) *Collected {
	src := tabletest.NewRows(70, append([][]string{names}, rows...)...)
	c, err := Collect(context.Background(), src, Options{Workers: workers, Open: everyColumn})
	require.NoError(t, err)
	return c
}

func reload(t testing.TB, c *Collected) *Collected {
	var b, again bytes.Buffer
	require.NoError(t, c.Save(&b))
	first := bytes.Clone(b.Bytes())
	back, err := Load(&b)
	require.NoError(t, err)
	require.NoError(t, back.Save(&again))
	require.Equal(t, first, again.Bytes(), "what was loaded is saved as it was")
	return back
}

// Parts that are saved, loaded and joined tell the same as the whole.
func TestSavedPartsAreTheWhole(t *testing.T) {
	all := mixture(9000)
	names, rows := all[0], all[1:]
	rows = append(rows, rows[10], rows[4000])
	for _, cuts := range [][]int{{0, len(rows)}, {0, 4000, len(rows)}, {0, 70, 71, 5000, len(rows)}} {
		var joined *Collected
		for i := 1; i < len(cuts); i++ {
			part := reload(t, collectRows(t, names, rows[cuts[i-1]:cuts[i]], 1+i%2))
			if joined == nil {
				joined = part
				continue
			}
			require.NoError(t, joined.Append(part))
		}
		whole := collectRows(t, names, rows, 2)
		got, want := joined.Conclude(Options{}), whole.Conclude(Options{})
		for i, c := range want.Columns {
			a, b := *want.Details(c), *got.Details(got.Columns[i])
			for k := range a.Shapes { // lines start again in each part
				a.Shapes[k].First.Line, b.Shapes[k].First.Line = 0, 0
			}
			a.Shapes, b.Shapes = nil, nil
			assert.Equal(t, fmt.Sprintf("%+v", a), fmt.Sprintf("%+v", b), c.Name)
			assert.Equal(t, []any{c.Key, c.Constant, c.Range, c.Conclusion.Reads}, []any{got.Columns[i].Key, got.Columns[i].Constant, got.Columns[i].Range, got.Columns[i].Conclusion.Reads})
		}
		assert.Equal(t, want.Rows, got.Rows)
		assert.Equal(t, want.Findings, got.Findings, cuts)
	}
}

func TestPartsThatDoNotFit(t *testing.T) {
	all := mixture(10)
	a := collectRows(t, all[0], all[1:], 1)
	other := collectRows(t, []string{"kg", "day", "text", "id", "length"}, all[1:], 1)
	assert.ErrorContains(t, a.Append(other), `lacks "unit" and has "length" more`)
	turned := collectRows(t, []string{"day", "kg", "text", "id", "unit"}, all[1:], 1)
	assert.ErrorContains(t, a.Append(turned), "in another order")
	src := tabletest.NewRows(70, all...)
	closed, err := Collect(context.Background(), src, Options{Workers: 1})
	require.NoError(t, err)
	assert.ErrorContains(t, a.Append(closed), `the column "kg" was opened`)
}

// The page about saved profiles names every key.
func TestSavedKeysAreDescribed(t *testing.T) {
	page, err := os.ReadFile("../../docs/saved-profile.md")
	require.NoError(t, err)
	seen := map[reflect.Type]bool{}
	var check func(reflect.Type)
	check = func(typ reflect.Type) {
		for typ.Kind() == reflect.Slice || typ.Kind() == reflect.Pointer {
			typ = typ.Elem()
		}
		if typ.Kind() != reflect.Struct || seen[typ] || typ == reflect.TypeFor[table.Info]() {
			return
		}
		seen[typ] = true
		for i := range typ.NumField() {
			assert.Contains(t, string(page), "`"+typ.Field(i).Name+"`", typ)
			check(typ.Field(i).Type)
		}
	}
	check(reflect.TypeFor[savedFile]())
	check(reflect.TypeFor[savedProfile]())
	assert.Greater(t, len(seen), 15)
}

// savedBody returns a saved profile without its checksum.
func savedBody(t testing.TB) []byte {
	var b bytes.Buffer
	require.NoError(t, collectRows(t, []string{"kg", "day"}, [][]string{{"1.5 kg", "04.03.2021"}, {"ja", "n/a"}, {"\u00a0", ""}}, 1).Save(&b))
	var f savedFile
	require.NoError(t, savedLimits.Unmarshal(b.Bytes(), &f))
	return f.Profile
}

// useSaved loads a profile from any bytes, joins it with itself, and concludes all of it.
func useSaved(body []byte) error {
	c, err := loadBody(body)
	if err != nil {
		return err
	}
	if again, err := loadBody(body); err == nil {
		_ = c.Append(again)
	}
	p := c.Conclude(Options{})
	for _, column := range p.Columns {
		p.Details(column)
		p.Odd(column, 20)
		p.Strays(column)
		column.Patterns()
		column.BlankWords()
	}
	return nil
}

// No bytes make loading, joining or concluding panic.
func FuzzLoad(f *testing.F) {
	body := savedBody(f)
	f.Add(body)
	f.Add(body[:len(body)/2])
	f.Fuzz(func(_ *testing.T, body []byte) { _ = useSaved(body) })
}

func TestDamagedSavedProfiles(t *testing.T) {
	body := savedBody(t)
	r := rand.New(rand.NewPCG(1, 2))
	loaded := 0
	for range 3000 {
		damaged := bytes.Clone(body)
		for range 1 + r.IntN(3) {
			damaged[r.IntN(len(damaged))] = byte(r.IntN(256))
		}
		if useSaved(damaged) == nil {
			loaded++
		}
	}
	assert.Positive(t, loaded)
	var b bytes.Buffer
	require.NoError(t, collectRows(t, []string{"kg", "day"}, [][]string{{"1", "2"}}, 1).Save(&b))
	damaged := b.Bytes()
	damaged[len(damaged)-40] ^= 1
	_, err := Load(&b)
	assert.ErrorContains(t, err, "damaged")
	_, err = Load(bytes.NewReader([]byte("a,b\n")))
	assert.ErrorIs(t, err, ErrNotSaved)
}

// The library's sketch that is made of what the registers hold is the one that all hashes were added to.
func TestSketchIsTheLibrarys(t *testing.T) {
	r := rand.New(rand.NewPCG(14, 14))
	s, one, two, want := newSketch(1), newSketch(1), newSketch(1), hyperloglog.NewNoSparse()
	for i := range 60_000 {
		h := r.Uint64() >> (r.IntN(3) * 20) << 14 >> 14 & r.Uint64()
		if i%3 == 0 {
			h = r.Uint64()
		}
		if i%1000 == 0 {
			h &^= 1<<50 - 1 // nothing but zeros after the register
		}
		s.add(h)
		want.InsertHash(h)
		if i%2 == 0 {
			one.add(h)
		} else {
			two.add(h)
		}
	}
	text, err := want.MarshalBinary()
	require.NoError(t, err)
	got, err := s.log().MarshalBinary()
	require.NoError(t, err)
	require.Equal(t, text, got)
	one.merge(two)
	got, err = one.log().MarshalBinary()
	require.NoError(t, err)
	require.Equal(t, text, got)
	require.EqualValues(t, want.Estimate(), s.count())
	loaded, err := sketchOf(text)
	require.NoError(t, err)
	loaded.merge(newSketch(1))
	require.EqualValues(t, want.Estimate(), loaded.count())
	half := newSketch(1)
	half.merge(loaded)
	require.EqualValues(t, want.Estimate(), half.count())
}
