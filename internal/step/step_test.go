package step

import (
	"math/rand/v2"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"junvo/internal/reason"
)

type m = map[string]Args

func apply(t *testing.T, name string, args Args, text string) (string, reason.Reason) {
	t.Helper()
	s, err := New(name, args)
	require.NoError(t, err, "%s %v", name, args)
	return s.Apply(text)
}

func TestStepsOnHardTexts(t *testing.T) {
	for _, tt := range []struct {
		name     string
		args     Args
		in, want string
	}{
		{"trim", nil, "", ""},
		{"trim", nil, "\u2003\ufeffa b\u00ad\t", "a b"},
		{"single-space", nil, "a \u00a0\n b", "a b"},
		{"drop", "digits", "a1b٢c", "abc"},
		{"drop", []Args{"kgs", "kg"}, "1 kgs 2 kg", "1  2 "},
		{"drop", "invisible", "4\u00ad2\u200b", "42"},
		{"keep", []Args{"upper", "spaces"}, "MÖWE II, 4", "MÖWE II "},
		{"keep", "letters", "e\u0301a1", "e\u0301a"},
		{"replace", m{"text": ".", "with": ","}, "1.2.3", "1,2,3"},
		{"replace", m{"text": "$1", "with": "$2"}, "a$1", "a$2"},
		{"replace", m{"text": "a", "with": "b", "nth": -1}, "a-a-a", "a-a-b"},
		{"replace", m{"text": "a", "with": "b", "nth": 9}, "a", "a"},
		{"replace", m{"text": "ab", "with": "x", "whole": true}, "abc", "abc"},
		{"overwrite", m{"from": 2, "with": "X"}, "e\u0301e\u0301e\u0301", "e\u0301Xe\u0301"},
		{"overwrite", m{"from": 9, "with": "X"}, "abc", "abc"},
		{"overwrite", m{"from": 1, "length": 9, "with": ""}, "abc", ""},
		{"take", m{"first": 2}, "👩‍👧‍👦bc", "👩‍👧‍👦b"},
		{"take", m{"last": 9}, "abc", "abc"},
		{"take", m{"word": -1}, "  Alte \u00a0 Liebe ", "Liebe"},
		{"take", m{"before": "/", "nth": -1}, "a/b/c", "a/b"},
		{"take", m{"before": "aa", "nth": 2}, "1aa2aa3", "1aa2"},
		{"take", m{"between": []Args{"<", ">"}, "nth": 2}, "<a><b>", "b"},
		{"take", m{"between": []Args{"/", "/"}, "nth": -1}, "a/b/c/d/e", "d"},
		{"take", m{"between": []Args{"/", "/"}, "nth": -3}, "a/b/c/d/e", "b"},
		{"take", m{"between": []Args{"<", ">"}, "nth": -1}, "<a><b> <c", "b"},
		{"take", m{"number": 1}, "84/96", "84"},
		{"take", m{"number": -1}, "von 1.234,50 bis 2'000", "2'000"},
		{"take", m{"pattern": "[0-9]+"}, "lot 88", "88"},
		{"take", m{"pattern": "(a)(b)", "group": 2}, "ab", "b"},
		{"case", "title", "alte LIEBE ii", "Alte Liebe Ii"},
		{"day-number", 1900, "1", "1900-01-01"},
		{"day-number", 1900, "59", "1900-02-28"},
		{"day-number", 1900, "61", "1900-03-01"},
		{"day-number", 1900, "44260.999999", "2021-03-05T23:59:59.914"},
		{"day-number", 1904, "0", "1904-01-01"},
		{"day-number", 1900, "2958465", "9999-12-31"},
		{"epoch", "seconds", "0", "1970-01-01T00:00:00Z"},
		{"epoch", "seconds", "-0.5", "1969-12-31T23:59:59.5Z"},
		{"epoch", "milliseconds", "-62135596800000", "0001-01-01T00:00:00Z"},
		{"epoch", "seconds", "253402300799", "9999-12-31T23:59:59Z"},
		{"epoch", "microseconds", "1614902400000001", "2021-03-05T00:00:00.000001Z"},
		{"case", "lower", "İSKELE ΣΑΣ", "i̇skele σας"},
		{"case", "sentence", "  ßA", "  SSa"},
		{"pad", m{"width": 3, "with": "0"}, "1234", "1234"},
		{"pad", m{"width": 4, "with": "é", "side": "right"}, "ab", "abéé"},
		{"punctuate", "99-99", "1234", "12-34"},
		{"punctuate", "99-99", "12345", "12345"},
		{"mend", "decoding", "Größe", "Größe"},
		{"mend", []Args{"decoding", "markup"}, "&lt;b&gt; GrÃ¶ÃŸe", "<b> Größe"},
		{"mend", "markup", "a &amp; b <br/> 3 < 4", "a & b  3 < 4"},
		{"mend", "markup", "x&#39;[31m", "x'[31m"},
		{"mend", "markup", "x&#x1b;[31m", "x[31m"},
		{"mend", "look-alikes", "LOTS", "LOTS"},
		{"label", []Args{m{"matches": "^[A-C]", "then": "x"}, m{"ends": "z", "then": "y"}}, "dz", "y"},
		{"label", []Args{m{"begins": "a", "then": "x"}}, "b", "b"},
		{"label", []Args{m{"begins": "a", "then": "x"}, m{"otherwise": "blank"}}, "b", ""},
		{"label", []Args{m{"begins": "a", "then": "x"}, m{"otherwise": m{"text": "blank"}}}, "b", "blank"},
		{"label", []Args{m{"is": "GRÖẞE", "then": "x", "ignore-case": true}}, "größe", "x"},
		{"label", []Args{m{"ends": "A.", "then": "x", "ignore-case": true}, m{"is": "b\n", "then": "y", "ignore-case": true}}, "B\n", "y"},
		{"take", m{"before": "digits", "nth": -1}, "a12b34c", "a12b"},
		{"take", m{"after": []Args{"letters", "spaces"}}, "lot 88 x", "88 x"},
		{"take", m{"before": "X", "ignore-case": true, "nth": 2}, "axbxc", "axb"},
		{"take", m{"between": []Args{"letters", "letters"}}, "ab12cd", "12"},
		{"take", m{"between": []Args{"(", ")"}, "otherwise": "keep"}, "a(b", "a(b"},
		{"take", m{"pattern": "[a-z](\\d)", "nth": 2}, "a1b2c3", "2"},
		{"take", m{"pattern": "[a-z](\\d)", "nth": -1}, "a1b2c3", "3"},
		{"take", m{"pattern": "B(.)", "ignore-case": true}, "ab1", "1"},
		{"take", m{"digits": 1, "otherwise": "none"}, "x", "none"},
		{"take", m{"digits": 1, "otherwise": m{"text": "keep"}}, "x", "keep"},
		{"replace", m{"text": "a", "with": "b", "otherwise": "blank"}, "x", ""},
		{"replace", m{"text": "a", "with": "b", "nth": 2, "otherwise": "none"}, "xa", "none"},
		{"replace", m{"text": "a", "with": "a", "otherwise": "none"}, "a", "a"},
		{"drop", m{"of": []Args{"KG", "spaces"}, "ignore-case": true}, "12 kg Kg", "12"},
		{"insert", m{"text": "-", "at": 1}, "e\u0301b", "-e\u0301b"},
		{"insert", m{"text": "-", "at": 2}, "e\u0301b", "e\u0301-b"},
		{"insert", m{"text": "-", "at": -5}, "ab", "ab"},
		{"insert", m{"text": "-", "at": "end"}, "", "-"},
		{"substitute", m{"list": m{"a": "1", "b": nil}}, "b", ""},
		{"substitute", m{"list": m{"a": 1}, "otherwise": "blank"}, "A", ""},
		{"substitute", m{"list": m{"É": "e"}, "ignore-case": true}, "é", "e"},
		{"case", "title", "3RD 2ND o'neill", "3rd 2nd O'neill"},
		{"case", m{"to": "lower", "except": []Args{"DNA", "O'Neill"}}, "DNA O'NEILL X", "DNA O'Neill x"},
	} {
		got, why := apply(t, tt.name, tt.args, tt.in)
		assert.Equal(t, reason.None, why, "%s %v of %q", tt.name, tt.args, tt.in)
		assert.Equal(t, tt.want, got, "%s %v of %q", tt.name, tt.args, tt.in)
	}
}

func TestTakeSaysWhatIsNotThere(t *testing.T) {
	for _, args := range []m{
		{"before": "/"},
		{"after": "/", "nth": 2},
		{"between": []Args{"(", ")"}},
		{"word": 5},
		{"digits": 1},
		{"letters": -9},
		{"from": 20},
		{"pattern": "x(y)"},
	} {
		out, why := apply(t, "take", args, "ab c")
		assert.Equal(t, reason.NotFound, why, args)
		assert.Equal(t, "ab c", out, args)
	}
}

func TestArgumentsThatAreWrong(t *testing.T) {
	for _, tt := range []struct {
		name string
		args Args
		want string
	}{
		{"dorp", nil, "unknown step"},
		{"trim", "x", "takes no arguments"},
		{"drop", nil, "takes a text or a list"},
		{"drop", []Args{}, "the list is empty"},
		{"drop", []Args{m{}}, "list of texts"},
		{"drop", "", "stands for nothing"},
		{"replace", m{"text": "a"}, "and with"},
		{"replace", m{"with": "a"}, "text or pattern"},
		{"replace", m{"text": "a", "pattern": "b", "with": "c"}, "text or pattern"},
		{"replace", m{"pattern": "(", "with": "c"}, "pattern: error parsing"},
		{"replace", m{"text": "a", "with": "c", "nth": 0}, "nth is a number"},
		{"replace", m{"text": "a", "with": "c", "whole": "yes"}, "whole is true or false"},
		{"overwrite", m{"from": 0}, "from is a whole number"},
		{"take", m{}, "does not say what"},
		{"take", m{"first": 1, "last": 1}, "goes with none of the others"},
		{"take", m{"before": ""}, "before: an empty text"},
		{"take", m{"before": []Args{"digits", "x"}}, "one text, or classes"},
		{"take", m{"before": "digit"}, "say digits for the class"},
		{"take", m{"first": 2, "otherwise": []Args{"a", "b"}}, "otherwise is blank, keep, fail, or a text"},
		{"insert", m{"text": "-"}, "at: before which character"},
		{"insert", m{"at": 0, "text": "-"}, "at is a number from 1"},
		{"substitute", m{"otherwise": "keep"}, "it takes a list"},
		{"substitute", m{"list": "ports"}, "there is no list ports"},
		{"substitute", m{"list": m{}}, "the list is empty"},
		{"substitute", m{"list": m{"a": "1", "A": "2"}, "ignore-case": true}, "twice"},
		{"substitute", m{"list": m{"a": []Args{"1", "2"}}}, "stands one text"},
		{"case", m{"to": "title", "except": m{}}, "except is a list"},
		{"case", m{"except": []Args{"x"}}, "upper, lower, title"},
		{"label", []Args{m{"otherwise": "x"}, m{"is": "a", "then": "b"}}, "rule 2 stands after otherwise"},
		{"take", m{"between": []Args{"("}}, "between is two texts"},
		{"take", m{"pattern": "a", "group": 1}, "the pattern has 0 groups"},
		{"take", m{"befor": "x", "first": 1}, `unknown argument "befor"`},
		{"case", "camel", "upper, lower, title or sentence"},
		{"pad", m{"with": "0"}, "takes a width"},
		{"pad", m{"width": 3, "with": "ab"}, "one character"},
		{"pad", m{"width": 3, "side": "top"}, "left or right"},
		{"pad", m{"width": 1 << 30}, "at most"},
		{"punctuate", "---", "each 9"},
		{"mend", "everything", "no damage"},
		{"fill", "", "the value for blank cells"},
		{"label", "x", "list of rules"},
		{"label", []Args{m{"is": "a"}}, "rule 1: it takes one of"},
		{"label", []Args{m{"is": "a", "ends": "b", "then": "c"}}, "rule 1"},
		{"label", []Args{m{"matches": "(", "then": "c"}}, "rule 1: matches"},
	} {
		_, err := New(tt.name, tt.args)
		if assert.Error(t, err, "%s %v", tt.name, tt.args) {
			assert.Contains(t, err.Error(), tt.want, "%s %v", tt.name, tt.args)
		}
	}
}

func TestChain(t *testing.T) {
	var c Chain
	for _, s := range []struct {
		name string
		args Args
	}{{"fill", "0"}, {"trim", nil}, {"take", m{"before": "/"}}, {"drop", "x"}} {
		one, err := New(s.name, s.args)
		require.NoError(t, err)
		c = append(c, Named{s.name, s.args, one})
	}
	out, changed, why := c.Apply(" a/b")
	assert.Equal(t, []any{"a", uint64(0b0110), reason.None}, []any{out, changed, why})
	_, _, why = c.Apply("ab")
	assert.Equal(t, reason.NotFound, why)
	filling, at := c.Fill()
	assert.Equal(t, "0", filling.With)
	assert.Equal(t, 0, at)
	_, at = c[1:].Fill()
	assert.Equal(t, -1, at)
}

func TestSplit(t *testing.T) {
	for _, tt := range []struct {
		args map[string]Args
		n    int
		text string
		want []string
		why  reason.Reason
	}{
		{map[string]Args{"at": "/"}, 3, "a/b/", []string{"a", "b", ""}, reason.None},
		{map[string]Args{"at": "/"}, 3, "a/b", nil, reason.TooFewPieces},
		{map[string]Args{"at": "/"}, 3, "a/b/c/d", nil, reason.TooManyPieces},
		{map[string]Args{"at": ", ", "nth": -1}, 2, "a, b, c", []string{"a, b", "c"}, reason.None},
		{map[string]Args{"at": ", ", "nth": 2}, 2, "a, b, c", []string{"a, b", "c"}, reason.None},
		{map[string]Args{"at": ", ", "nth": 3}, 2, "a, b, c", nil, reason.TooFewPieces},
		{map[string]Args{"positions": []Args{2, 3}}, 3, "e\u0301bcde", []string{"e\u0301b", "c", "de"}, reason.None},
		{map[string]Args{"positions": []Args{2, 3}}, 3, "ab", nil, reason.TooFewPieces},
		{map[string]Args{"pattern": `(\d+)([a-z]*)`}, 2, "12", []string{"12", ""}, reason.None},
		{map[string]Args{"pattern": `(\d+)([a-z]*)`}, 2, "x12", nil, reason.TooFewPieces},
		{m{"pattern": `(\d+)`}, 1, "x", nil, reason.TooFewPieces},
		{m{"pattern": `(\d+)([a-z]*)`, "missing": "blank"}, 2, "x12", []string{"x12", ""}, reason.None},
		{m{"pattern": `(x)(\d+)`, "ignore-case": true}, 2, "X12", []string{"X", "12"}, reason.None},
		{m{"at": "/", "missing": "blank"}, 3, "a/b", []string{"a", "b", ""}, reason.None},
		{m{"at": "/", "missing": "blank", "otherwise": "fail"}, 3, "a", nil, reason.NotFound},
		{m{"at": "/", "otherwise": "keep"}, 3, "a", []string{"a", "", ""}, reason.None},
		{m{"at": "/", "otherwise": "blank"}, 2, "a", []string{"", ""}, reason.None},
		{m{"at": "/", "otherwise": "keep"}, 3, "a/b", nil, reason.TooFewPieces},
		{m{"at": "spaces", "rest": "keep"}, 2, "Anna  Maria\u00a0 Stein", []string{"Anna", "Maria\u00a0 Stein"}, reason.None},
		{m{"at": "spaces", "rest": "join"}, 2, "Anna  Maria\u00a0 Stein", []string{"Anna", "Maria Stein"}, reason.None},
		{m{"at": "spaces", "rest": "keep"}, 1, "a b", []string{"a b"}, reason.None},
		{m{"at": "x", "ignore-case": true}, 3, "1X2x3", []string{"1", "2", "3"}, reason.None},
		{m{"at": "digits"}, 3, "a12b3c", []string{"a", "b", "c"}, reason.None},
		{m{"turn": []Args{"letters", "digits"}}, 2, "lot88", []string{"lot", "88"}, reason.None},
		{m{"turn": []Args{"letters", "digits"}, "rest": "keep"}, 2, "a1b2", []string{"a", "1b2"}, reason.None},
		{m{"turn": []Args{"digits", "letters"}, "nth": -1}, 2, "1a2b", []string{"1a2", "b"}, reason.None},
		{m{"positions": []Args{2, 3}, "missing": "blank"}, 3, "abc", []string{"ab", "c", ""}, reason.None},
		{m{"at": "/", "nth": 1, "missing": "blank"}, 2, "a", []string{"a", ""}, reason.None},
	} {
		s, err := NewSplit(tt.args, tt.n)
		require.NoError(t, err, "%v", tt.args)
		got, why := s.Pieces(tt.text)
		assert.Equal(t, tt.want, got, tt.text)
		assert.Equal(t, tt.why, why, tt.text)
	}
}

func TestSplitsThatAreWrong(t *testing.T) {
	for _, tt := range []struct {
		args m
		n    int
		want string
	}{
		{m{}, 2, "where to split"},
		{m{"at": "/", "turn": []Args{"digits", "letters"}}, 2, "in one way"},
		{m{"at": "/", "rest": "drop"}, 2, "rest is fail, keep, join, not"},
		{m{"at": "/", "missing": "keep"}, 2, "missing is fail, blank, not"},
		{m{"at": "/", "otherwise": "none"}, 2, "otherwise is blank, keep or fail"},
		{m{"positions": []Args{2}, "rest": "keep"}, 2, "goes with at and turn"},
		{m{"turn": []Args{"digits"}}, 2, "turn is two classes"},
		{m{"turn": []Args{"digits", "x"}}, 2, "turn is two classes"},
		{m{"at": "/", "nth": 2}, 3, "makes two pieces, not 3"},
	} {
		_, err := NewSplit(tt.args, tt.n)
		assert.ErrorContains(t, err, tt.want, "%v", tt.args)
	}
}

// Where a step leaves nothing of a text, the steps behind it do not make something of that.
func TestStepsNeverSeeWhatIsBlank(t *testing.T) {
	var c Chain
	for _, s := range []struct {
		name string
		args Args
	}{{"drop", "digits"}, {"pad", m{"width": 3, "with": "0"}}} {
		one, err := New(s.name, s.args)
		require.NoError(t, err)
		c = append(c, Named{s.name, s.args, one})
	}
	out, changed, why := c.Apply("12")
	assert.Equal(t, []any{"", uint64(1), reason.None}, []any{out, changed, why})
	out, changed, why = c.Continue(0, "12", "", 0)
	assert.Equal(t, []any{"", uint64(1), reason.None}, []any{out, changed, why})
}

// Failing names the step at which a text fails, and what it saw.
func TestFailingStep(t *testing.T) {
	var c Chain
	for _, s := range []struct {
		name string
		args Args
	}{{"trim", nil}, {"take", m{"before": "/"}}, {"take", m{"digits": 1}}} {
		one, err := New(s.name, s.args)
		require.NoError(t, err)
		c = append(c, Named{s.name, s.args, one})
	}
	for text, want := range map[string]struct {
		step int
		saw  string
	}{" ab ": {1, "ab"}, " ab/1 ": {2, "ab"}, "a1/b": {-1, ""}, "/x": {-1, ""}} {
		i, saw := c.Failing(text)
		assert.Equal(t, want.step, i, text)
		assert.Equal(t, want.saw, saw, text)
	}
}

// Joining the pieces of a split gives the text back.
func TestSplitThenJoinIsTheText(t *testing.T) {
	r := rand.New(rand.NewPCG(3, 4))
	for range 3000 {
		var b strings.Builder
		for range r.IntN(12) {
			b.WriteString([]string{"a", "é", "/", "//", " ", "東", "e\u0301"}[r.IntN(7)])
		}
		text := b.String()
		n := strings.Count(text, "/") + 1
		s, err := NewSplit(map[string]Args{"at": "/"}, n)
		require.NoError(t, err)
		pieces, why := s.Pieces(text)
		require.Equal(t, reason.None, why)
		require.Equal(t, text, strings.Join(pieces, "/"))
	}
}

// No cell makes a step panic, and every step is deterministic.
func FuzzSteps(f *testing.F) {
	for _, s := range []string{"", "1.240,5 kg", "\xff\xfe", "👩‍👧‍👦", "<b>&nbsp;", "GrÃ¶ÃŸe", strings.Repeat("a/", 40)} {
		f.Add(s)
	}
	var all []Step
	for _, e := range []struct {
		name string
		args Args
	}{
		{"trim", nil},
		{"single-space", nil},
		{"drop", []Args{"digits", "kg"}},
		{"keep", "letters"},
		{"overwrite", m{"from": 2, "with": "xy"}},
		{"take", m{"last": 2}},
		{"take", m{"number": -1}},
		{"take", m{"between": []Args{"/", "/"}}},
		{"case", "title"},
		{"case", "sentence"},
		{"case", m{"to": "title", "except": []Args{"von", "II"}}},
		{"take", m{"before": "digits", "nth": -2, "otherwise": "keep"}},
		{"take", m{"after": "ß", "ignore-case": true}},
		{"insert", m{"text": "x", "at": -2}},
		{"pad", m{"width": 5}},
		{"punctuate", "9-9"},
		{"mend", []Args{"decoding", "look-alikes", "markup", "compatibility"}},
	} {
		s, err := New(e.name, e.args)
		if err != nil {
			f.Fatal(err)
		}
		all = append(all, s)
	}
	f.Fuzz(func(t *testing.T, text string) {
		for _, s := range all {
			a, why := s.Apply(text)
			b, again := s.Apply(text)
			if a != b || why != again {
				t.Fatalf("%q and %q of %q", a, b, text)
			}
		}
	})
}
