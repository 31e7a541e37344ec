package profile

import (
	"bufio"
	"errors"
	"fmt"
	"io"
	"slices"

	"github.com/DataDog/sketches-go/ddsketch"
	"github.com/DataDog/sketches-go/ddsketch/store"
	"github.com/axiomhq/hyperloglog"
	"github.com/fxamacker/cbor/v2"
	"github.com/zeebo/xxh3"

	"junvo/internal/reading"
	"junvo/internal/rowkind"
	"junvo/internal/table"
	"junvo/internal/value"
)

// savedVersion is the version of the form in which profiles are saved, which
// docs/saved-profile.md describes. It grows with every change of the form, of the bits of
// [reading.Set], and of the catalogue of words.
const savedVersion = 6

// savedMark begins a saved profile, so that no other file is taken for one.
const savedMark = "junvo profile"

// ErrNotSaved says that a file is no saved profile.
var ErrNotSaved = errors.New("it is no saved profile, or a damaged one")

// A saved profile is one item of CBOR (RFC 8949): these structures as maps, their keys
// being the names of the fields. The profile itself is encoded by itself, so that its
// checksum (XXH3, 64 bits) tells damage.
type (
	savedFile struct {
		Mark     string
		Version  int
		Checksum uint64
		Profile  []byte
	}
	savedProfile struct {
		Info       *table.Info
		BlankWords []string
		Bytes      int64
		Rows       int64
		Blocks     []savedBlock
		Trouble    []savedPlaces
		OddBytes   map[byte]int64
		Columns    []savedColumn
		Aside      []savedAside
		Same       savedSame
	}
	savedBlock struct {
		Rows, Line int64
		File       int
	}
	savedPlaces struct {
		Count int64
		Rows  []int64
	}
	savedAside struct {
		Count   int64
		Summed  int64
		First   []savedSample
		Columns []savedColumn
		Copies  savedCopies
	}
	savedSample struct {
		Place Place
		Text  []byte
	}
	savedColumn struct {
		Cells    int64
		Stored   []int64
		Tallies  []savedTally
		Strays   []savedStray
		Distinct savedDistinct
		Words    map[uint64]uint64
		Lengths  []int64
		Longest  []savedLongest
		Crowded  bool
		Private  bool
		Detail   *savedDetail
	}
	savedTally struct {
		Set      uint64
		Form     uint64
		Affix    []byte
		Cells    int64
		First    []savedSample
		Numbers  []*savedNumbers
		Days     []savedDays
		Sketches [][]byte
	}
	savedNumbers struct {
		Scales []savedScale
		Rest   *savedRest
	}
	savedScale struct {
		Count         uint64
		High, Low     uint64 // of the sum
		Smallest, Top int64
	}
	savedRest struct{ Sum, Smallest, Top string }
	savedDays struct {
		Any         bool
		First, Last value.Moment
	}
	savedStray struct {
		Rune  rune
		Place string
		Cells int64
		First Place
	}
	savedDistinct struct {
		Few    []uint64
		Sketch []byte
		Count  *savedCount
	}
	savedCount struct {
		Texts int64
		Exact bool
	}
	savedLongest struct {
		Hash  uint64
		Shape uint64
		First Place
	}
	savedDetail struct {
		Limit             int
		Texts             []savedText
		ManyTexts         bool
		Shapes            []savedShape
		Coarse            bool
		Shortest, Longest int
	}
	savedText struct {
		Text  []byte
		Cells int64
	}
	savedShape struct {
		Shape []byte
		Cells int64
		First savedSample
	}
	savedSame struct {
		Rows    []savedRepeats
		Level   uint8
		Unknown bool
		Copies  savedCopies
	}
	savedCopies struct {
		Of   []int32
		Rows int64
	}
	savedRepeats struct {
		Hash        uint64
		Times       uint32
		First, Next Place
	}
)

// savedForm writes maps in the order of their keys, so that equal profiles are equal files.
var savedForm = func() cbor.EncMode {
	mode, err := cbor.CoreDetEncOptions().EncMode()
	if err != nil {
		panic(err) // the options are constant
	}
	return mode
}()

// savedLimits bound what reading a damaged file can cost.
var savedLimits = func() cbor.DecMode {
	mode, err := cbor.DecOptions{
		MaxArrayElements: 1 << 24, MaxMapPairs: 1 << 24, MaxNestedLevels: 16,
		TagsMd: cbor.TagsForbidden,
	}.DecMode()
	if err != nil {
		panic(err)
	}
	return mode
}()

// Save writes what was collected.
func (c *Collected) Save(w io.Writer) error {
	s := savedProfile{
		Info: c.info, BlankWords: c.blankWords, Bytes: c.bytes, Rows: c.rows,
		OddBytes: c.odd, Columns: saveColumns(c.part.columns), Same: c.part.same.save(),
	}
	if slices.ContainsFunc(c.part.columns, func(c *Column) bool { return c.private }) {
		// From the hash of a row whose other cells are known, a private one could be tried out.
		s.Same.Rows, s.Same.Unknown = nil, true
	}
	for _, b := range c.blocks {
		s.Blocks = append(s.Blocks, savedBlock{b.rows, b.line, b.file})
	}
	for _, t := range c.trouble {
		s.Trouble = append(s.Trouble, savedPlaces{t.count, t.rows})
	}
	for i := range c.part.aside {
		a := &c.part.aside[i]
		s.Aside = append(s.Aside, savedAside{a.count, a.summed, saveSamples(a.first), saveColumns(a.columns), a.copies.save()})
	}
	body, err := savedForm.Marshal(s)
	if err != nil {
		return err
	}
	return savedForm.NewEncoder(w).Encode(savedFile{savedMark, savedVersion, xxh3.Hash(body), body})
}

// Load reads what Save has written.
func Load(r io.Reader) (*Collected, error) {
	var f savedFile
	err := savedLimits.NewDecoder(bufio.NewReader(r)).Decode(&f)
	switch {
	case f.Mark != savedMark || err != nil:
		return nil, ErrNotSaved
	case f.Version != savedVersion:
		return nil, fmt.Errorf("it was saved in version %d of the form, and this program reads version %d: profile the "+
			"source again", f.Version, savedVersion)
	case xxh3.Hash(f.Profile) != f.Checksum:
		return nil, fmt.Errorf("the saved profile is damaged: %w", errDamaged)
	}
	return loadBody(f.Profile)
}

// loadBody loads the profile itself.
func loadBody(body []byte) (*Collected, error) {
	var s savedProfile
	if err := savedLimits.Unmarshal(body, &s); err != nil {
		return nil, fmt.Errorf("the saved profile is damaged: %w", err)
	}
	c, err := s.load()
	if err != nil {
		return nil, fmt.Errorf("the saved profile is damaged: %w", err)
	}
	return c, nil
}

var errDamaged = errors.New("its parts do not fit together")

func (s *savedProfile) load() (*Collected, error) {
	if s.Info == nil || len(s.Info.Files) == 0 || len(s.Columns) != len(s.Info.Names) || len(s.Trouble) != numTroubles ||
		len(s.Aside) != int(rowkind.NumKinds) {
		return nil, errDamaged
	}
	c := &Collected{
		info: s.Info, blankWords: s.BlankWords, bytes: s.Bytes, rows: s.Rows, fileRows: s.Rows,
		odd: s.OddBytes, part: &part{},
	}
	l := &savedLoader{reader: reading.NewReader(s.BlankWords), columns: len(s.Columns), blocks: uint32(len(s.Blocks))}
	for _, b := range s.Blocks {
		if b.File < 0 || b.File >= len(s.Info.Files) {
			return nil, errDamaged
		}
		c.blocks = append(c.blocks, blockStart{b.Rows, b.Line, b.File})
	}
	for i, t := range s.Trouble {
		c.trouble[i] = places{t.Count, t.Rows}
	}
	c.part.columns = l.loadColumns(s.Columns)
	for i, a := range s.Aside {
		to := &c.part.aside[i]
		to.count, to.summed, to.first, to.copies = a.Count, a.Summed, l.samples(a.First), l.loadCopies(a.Copies)
		if rowkind.Kind(i).Doubtful() && a.Count > 0 {
			if len(a.Columns) != len(s.Columns) {
				return nil, errDamaged
			}
			to.columns = l.loadColumns(a.Columns)
		}
	}
	c.part.same = l.loadSame(&s.Same)
	return c, l.err
}

func saveSamples(list []Sample) []savedSample {
	out := make([]savedSample, len(list))
	for i, s := range list {
		out[i] = savedSample{s.Place, []byte(s.Text)}
	}
	return out
}

func sketchOf(b []byte) (*sketch, error) {
	s := newSketch(1)
	s.base = &hyperloglog.Sketch{}
	if err := s.base.UnmarshalBinary(b); err != nil {
		return nil, err
	}
	return s, hyperloglog.NewNoSparse().Merge(s.base) // fails for another precision
}

func quantilesOf(b []byte) (*ddsketch.DDSketch, error) {
	return ddsketch.DecodeDDSketch(b, store.DefaultProvider, nil)
}
