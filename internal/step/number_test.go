package step

import (
	"testing"

	"github.com/stretchr/testify/assert"

	"junvo/internal/reason"
)

// What take gives for a number is what the reading of cells sees there.
func TestTakeNumber(t *testing.T) {
	for text, want := range map[string][]string{
		"-5 °C":               {"-5"},
		"\u22125 °C":          {"\u22125"},
		"(12.50)":             {"-12.50"},
		"EUR (12.50)":         {"-12.50"},
		"12,50-":              {"-12,50"},
		"Marlies (12)":        {"12"},
		".5":                  {".5"},
		"0 to .5":             {"0", ".5"},
		"-.5":                 {"-.5"},
		"1 234.5":             {"1 234.5"},
		"1\u202f234\u202f567": {"1\u202f234\u202f567"},
		"88 12 345":           {"88", "12 345"},
		"lot 88 crate 51":     {"88", "51"},
		"1.5e3 m":             {"1.5e3"},
		"2E-3":                {"2E-3"},
		"5E10x":               {"5", "10"},
		"10-12":               {"10", "12"},
		"10 -12":              {"10", "-12"},
		"lot-5":               {"5"},
		"x=+7":                {"+7"},
		"84/96,5":             {"84", "96,5"},
		"1'000.5":             {"1'000.5"},
		"٤٢":                  {"٤٢"},
		"4 March":             {"4"},
		"1.234,50-":           {"-1.234,50"},
	} {
		for i, w := range want {
			got, why := apply(t, "take", m{"number": i + 1}, text)
			assert.Equal(t, reason.None, why, text)
			assert.Equal(t, w, got, "number %d of %q", i+1, text)
		}
		_, why := apply(t, "take", m{"number": len(want) + 1}, text)
		assert.Equal(t, reason.NotFound, why, "%q has %d numbers", text, len(want))
	}
}

func TestGroupsInReplacements(t *testing.T) {
	for _, tt := range []struct{ pattern, with, in, want string }{
		{`(\d+)`, "$1kg", "12", "12kg"},
		{`(\d+)`, "${1}0", "12", "120"},
		{`(\d)(\d)`, "$2$1", "12", "21"},
		{`(?P<lot>\d+)`, "${lot}!", "7", "7!"},
		{`(\d+)`, "$$1", "12", "$1"},
		{`\d+`, "$0$0", "12", "1212"},
	} {
		got, _ := apply(t, "replace", m{"pattern": tt.pattern, "with": tt.with}, tt.in)
		assert.Equal(t, tt.want, got, tt.with)
	}
	for with, want := range map[string]string{
		"$2":      "there is no group 2: the pattern has 1",
		`\1`:      "write $1 for group 1",
		"$x":      "$$ for the sign $ itself",
		"${lot}":  `no group named "lot"`,
		"price $": "$$ for the sign $ itself",
	} {
		_, err := New("replace", m{"pattern": `(\d+)`, "with": with})
		assert.ErrorContains(t, err, want, with)
	}
}

// A misspelt class is a mistake, and a text that is meant can be said.
func TestClassesThatAreMisspelt(t *testing.T) {
	for text, want := range map[string]string{
		"digit": "say digits", "letters ": "say letters", "numbers": "say digits", "symbols": "say signs", "0-9": "say digits", "a-z": "say lower",
		"A-Za-z0-9": "say [digits, lower, upper]", "[0-9]": "say digits", `\d`: "say digits", "leters": "say letters", "punctation": "say punctuation",
		"Digits": "say digits", "alphanumeric": "say [digits, letters]", "uppercase": "say upper", "whitespace": "say spaces",
	} {
		for _, name := range []string{"keep", "drop"} {
			_, err := New(name, text)
			assert.ErrorContains(t, err, want, text)
			_, err = New(name, []Args{"digits", m{"text": text}})
			assert.NoError(t, err, text)
		}
	}
	for _, text := range []string{"kg", "-", ".", "No.", "lot", "EUR", "Str.", "n/a", "1-2-3", "9", "a"} {
		_, err := New("drop", text)
		assert.NoError(t, err, text)
	}
	got, _ := apply(t, "drop", m{"text": "digit"}, "a digit")
	assert.Equal(t, "a ", got)
	got, _ = apply(t, "keep", []Args{"digits", "signs"}, "-1,000")
	assert.Equal(t, "-1000", got)
	got, _ = apply(t, "keep", []Args{"digits", "signs"}, "\u22121,000")
	assert.Equal(t, "\u22121000", got)
	_, err := New("label", []Args{m{"otherwise": "x"}, m{"is": "a", "then": "b"}})
	assert.ErrorContains(t, err, "rule 2 stands after otherwise")
}
