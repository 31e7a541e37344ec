package reading

import (
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"junvo/internal/character"
	"junvo/internal/value"
)

// columns are columns of all sorts, a cell each between bars.
var columns = []string{
	"1.240,5 kg|99,1|12 kg|7 kg|8 kg",
	"€ 3,20|€ 1.234,50|€ 7",
	"12 %|7,5 %|100 %",
	"1,234.5|7|n/a|12|13|14|15|16|17|18|19",
	"04.03.2021|25.03.2021|2021-03-04|-",
	"03/25/2021|03/04/2021|04.03.2021|25.03.2021",
	"4 listopada 2021|4 prosinca 2021|5 srpnja 2021",
	"4 listopada 2021|4 marca 2021|5 czerwca 2021",
	"20210304|20210305",
	"2021-03-04T06:05:07+02:00|2021-03-04T06:05:07Z",
	"04.03.2021 18:05|25.03.2021 06:05",
	"6:05 pm|18:05|00:30",
	"ja|nein|JA|yes|no",
	"00417|00418|12",
	"1234567890123456|2",
	"A12|B34|C56",
	"some|text|here",
	"||",
	"1 234|5 678|12",
	"-1.240,50|(12,00)|7,00-",
}

// What a column decides can be put into words and back, and reads the same.
func TestTermsSayAllThatAColumnDecides(t *testing.T) {
	for _, list := range columns {
		cells := strings.Split(list, "|")
		var all []Count
		r := NewReader(nil)
		for _, c := range cells {
			x := r.Read([]byte(c))
			all = append(all, Count{Set: x.Set, Form: x.Form, Affix: x.Affix(), Cells: 1})
		}
		con := Conclude(all, Ask{})
		terms := con.Convention.Terms(all)
		again, err := terms.Convention(con.Convention.Type)
		require.NoError(t, err, list)
		for _, c := range cells {
			x := r.Read([]byte(c))
			r1, f1 := con.Convention.Judge(x.Set, x.Form)
			r2, f2 := again.Judge(x.Set, x.Form)
			require.Equal(t, [...]any{r1, f1}, [...]any{r2, f2}, "%q in %q", c, list)
			if f1 && r1 != AsBlank {
				a := string(con.Convention.Append(nil, []byte(c), x))
				b := string(again.Append(nil, []byte(c), r.Read([]byte(c))))
				assert.Equal(t, a, b, "%q in %q", c, list)
			}
		}
	}
}

func TestTermsNeedNoMoreThanTheCells(t *testing.T) {
	con, _ := column([]string{"7", "8"}, Ask{})
	r := NewReader(nil)
	x := r.Read([]byte("7"))
	terms := con.Convention.Terms([]Count{{Set: x.Set, Form: x.Form, Cells: 2}})
	c, err := terms.Convention(value.Decimal)
	require.NoError(t, err)
	// The terms name no decimal mark, so a number that needs one fails.
	assert.Equal(t, "!mark-ambiguous", what(r, &c, "1,234"))
	assert.Equal(t, "9", what(r, &c, "9"))
}

func TestGroupMarksThatAreNotNamedFail(t *testing.T) {
	terms := Terms{DecimalMark: ",", GroupMarks: []string{"."}}
	c, err := terms.Convention(value.Decimal)
	require.NoError(t, err)
	r := NewReader(nil)
	assert.Equal(t, "1234.5", what(r, &c, "1.234,5"))
	assert.True(t, strings.HasPrefix(what(r, &c, "1 234,5"), "!"))
	assert.True(t, strings.HasPrefix(what(r, &c, "1'234,5"), "!"))
}

func TestTermsThatMakeNoSense(t *testing.T) {
	for want, terms := range map[string]Terms{
		"decimal-mark":        {DecimalMark: ";"},
		"group-marks":         {GroupMarks: []string{"x"}},
		"date-order":          {DateOrder: map[string]string{"": "ddd"}},
		"no word":             {BlankWords: []string{"Marlies"}},
		"months":              {Months: "polish"},
		"no currency":         {Currency: "kg"},
		"sign":                {Sign: "kg"},
		"unit":                {Unit: "k g"},
		"known word for true": {True: []string{"nein"}},
	} {
		_, err := terms.Convention(value.Text)
		if assert.Error(t, err, want) {
			assert.Contains(t, err.Error(), want)
		}
	}
}

func TestPossible(t *testing.T) {
	r := NewReader(nil)
	for cell, want := range map[string][]string{
		"1.234":            {`decimal 1.234 decimal mark "."`, `integer 1234 decimal mark ","`},
		"7":                {"integer 7 "},
		"€ 3,20":           {`decimal 3.20 decimal mark ",", currency EUR`},
		"03/04/2021":       {"date 2021-04-03 day first", "date 2021-03-04 month first"},
		"2021-03-04":       {"date 2021-03-04 "},
		"4 listopada 2021": {"date 2021-10-04 names of months in Croatian", "date 2021-11-04 names of months in Czech or Polish"},
		"20210304":         {"integer 20210304 ", "date 2021-03-04 a column of days written as digits"},
		"6:05 pm":          {"time 18:05:00 "},
		"04.03.2021 6:05":  {"timestamp 2021-03-04T06:05:00 day first", "timestamp 2021-04-03T06:05:00 month first"},
		"nein":             {"boolean false both words of its pair in the column, and nothing else"},
		"Marlies":          nil,
		"":                 nil,
	} {
		var got []string
		for _, p := range r.Read([]byte(cell)).Possible([]byte(cell)) {
			got = append(got, p.Reading.String()+" "+p.Value+" "+p.Needs)
		}
		assert.Equal(t, want, got, cell)
	}
}

func TestShape(t *testing.T) {
	for in, want := range map[string]string{
		"1.240,5 kg": "9.999,9 aa", "HAR-012": "AAA-999", "Möwe II": "Aaaa AA", "": "", "٤٢": "99",
		"123456789012": "9{12}", "abcdefghijk1": "aaaaaaaa…9", "e\u0301a": "aa",
	} {
		assert.Equal(t, want, character.Shape(in), in)
	}
}

func TestDamageIsFound(t *testing.T) {
	r := NewReader(nil)
	for cell, want := range map[string]Set{
		"1O5": LookAlike, "l2,5": LookAlike, "1З5": LookAlike, "GrÃ¶ÃŸe": WrongDecoding, "cafÃ©": WrongDecoding,
		"12&nbsp;kg": Markup, "<b>x</b>": Markup, "a &#228; b": Markup,
	} {
		assert.True(t, r.Read([]byte(cell)).Set.Any(want), cell)
	}
	for _, cell := range []string{"A12", "LOT", "12", "Größe", "Ã", "Â 5", "AT&T; x", "3 < 4 > 2", "a & b", "R2D2", "São João"} {
		assert.Empty(t, r.Read([]byte(cell)).Set.Damage(), cell)
	}
	assert.Equal(t, "105", MendLookAlikes("1O5"))
	assert.Equal(t, "LOT", MendLookAlikes("LOT"))
}

// Adding rows without evidence never changes a convention, and a failing cell never
// changes another cell's value.
func TestOtherCellsDoNotChangeAValue(t *testing.T) {
	for _, list := range columns {
		cells := strings.Split(list, "|")
		con, before := column(cells, Ask{})
		if con.Convention.Type == value.Text || con.Convention.Type == value.Code || con.Convention.Type == value.Boolean {
			continue
		}
		for _, more := range []string{"x y z", "", "?!", "\u00a0"} {
			many := cells
			for range 10 {
				many = append(many[:len(many):len(many)], cells...)
			}
			got, after := column(append(many, more), Ask{})
			require.Equal(t, con.Convention.Type, got.Convention.Type, "%q with %q", list, more)
			assert.Equal(t, before, after[:len(before)], "%q with %q", list, more)
		}
	}
}
