package reading

import (
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"

	"junvo/internal/value"
)

// What the user says holds, whatever the cells show.
func TestAsked(t *testing.T) {
	typ := func(x value.Type) *value.Type { return &x }
	comma, mdy := Comma, MDY
	for _, tt := range []struct {
		cells []string
		ask   Ask
		want  value.Type
		fails int64
	}{
		{[]string{"1,234", "5,678"}, Ask{Mark: &comma}, value.Decimal, 0},
		{[]string{"1,234", "5.5"}, Ask{Mark: &comma, Type: typ(value.Decimal)}, value.Decimal, 1},
		{[]string{"03/04/2021"}, Ask{Order: &mdy}, value.Date, 0},
		{[]string{"25/12/2021", "03/04/2021"}, Ask{Order: &mdy, Type: typ(value.Date)}, value.Date, 1},
		{[]string{"007", "12"}, Ask{Type: typ(value.Integer)}, value.Integer, 0},
		{[]string{"0", "1", "2"}, Ask{Type: typ(value.Boolean)}, value.Boolean, 1},
		{[]string{"yes", "yes"}, Ask{Type: typ(value.Boolean)}, value.Boolean, 0},
		{[]string{"1", "2", "x"}, Ask{Fit: 0.6}, value.Integer, 1},
		{[]string{"1", "2", "x"}, Ask{Fit: 0.7}, value.Text, 0},
		{[]string{"1", "2"}, Ask{Type: typ(value.Text)}, value.Text, 0},
		{[]string{"x"}, Ask{Type: typ(value.Timestamp)}, value.Timestamp, 1},
	} {
		done := Conclude(counts(tt.cells), tt.ask)
		assert.Equal(t, tt.want, done.Convention.Type, "%q", tt.cells)
		assert.Equal(t, tt.fails, done.Fails, "%q", tt.cells)
	}
}

func TestPatterns(t *testing.T) {
	r := NewReader(nil)
	for cell, want := range map[string]string{
		"2021-03-04": "yyyy-MM-dd", "04.03.2021": "dd.MM.yyyy", "4.3.2021": "d.M.yyyy", "4.3.21": "d.M.yy", "4 Mar 2021": "d MMM yyyy",
		"March 4, 2021": "MMMM d, yyyy", "Thu 4 Mar 2021": "EEE d MMM yyyy", "2021-03-04T06:05:07": "yyyy-MM-dd'T'HH:mm:ss",
		"4.3.2021 6:05 pm": "d.M.yyyy h:mm a", "2021-03-04 06:05:07.25Z": "yyyy-MM-dd HH:mm:ss.SSX", "06:05": "HH:mm", "6:05:07": "H:mm:ss",
		"2021-03-04T06:05+02:00": "yyyy-MM-dd'T'HH:mmxxx",
	} {
		x := r.Read([]byte(cell))
		assert.Equal(t, want, Pattern(x.Set, x.Form, DMY.slot()), cell)
	}
	for cell, want := range map[string]string{"20210304": "yyyyMMdd", "2021-063": "yyyy-DDD", "2021-W09-4": ""} {
		x := r.Read([]byte(cell))
		assert.Equal(t, want, Pattern(x.Set, x.Form, onlySlot), cell)
	}
	x := r.Read([]byte("03/04/2021"))
	assert.Equal(t, "MM/dd/yyyy", Pattern(x.Set, x.Form, MDY.slot()))
	x = r.Read([]byte("21-03-04"))
	assert.Equal(t, "yy-MM-dd", Pattern(x.Set, x.Form, YMD.slot()))
}

// Every form of a date survives being packed.
func TestFormsArePacked(t *testing.T) {
	for v := range uint64(1 << 14) {
		f := unpackDate(v)
		assert.Equal(t, v, f.pack()&(1<<14-1))
	}
	for v := range uint64(1 << 11) {
		assert.Equal(t, v, unpackClock(v).pack())
	}
}

// Reading a cell allocates nothing.
func TestReadAllocatesNothing(t *testing.T) {
	r := NewReader([]string{"void"})
	cells := [][]byte{}
	for _, s := range []string{"48211", "1.240,5 kg", "04.03.2021 6:05 pm", "Lot 88 / crate 51", "yes", "\u00a01\u202f240,5\u00a0€", "Möwe", "void", "#REF!", "AB-12", "12 fathoms", strings.Repeat("x", 300)} {
		cells = append(cells, []byte(s))
	}
	assert.Zero(t, testing.AllocsPerRun(100, func() {
		for _, c := range cells {
			r.Read(c)
		}
	}))
}

// A number is shortened as spreadsheets shorten a whole one, and in no other way: one digit before a point that follows, a
// large exponent with its sign, a capital E, and nothing around it. Each of these conditions counts.
func TestShortened(t *testing.T) {
	r := NewReader(nil)
	for cell, want := range map[string]bool{
		"4E+12": true, "4.00638E+12": true, "4E+11": true, "-4E+12": true,
		"4E+10": false, "40E+12": false, "4e+12": false, "4E12": false, "4E-12": false, "+4E+12": false, "4E+12 kg": false, "€ 4E+12": false,
		"40.0638E+12": false, "4.00638e+12": false, "4.00638E+03": false, "4.00638E12": false, "4.0063812345678901E+12": false, "4.00638E+12 kg": false,
	} {
		assert.Equal(t, want, r.Read([]byte(cell)).Set&Shortened != 0, cell)
	}
}

// What its source stores as an error is none of what its text may be read as, unless somebody has named the text.
func TestStoredErrors(t *testing.T) {
	for _, text := range []string{"NaN", "Infinity", "24h0m0s after midnight", "12", "n/a"} {
		x := NewReader(nil).ReadStored([]byte(text), value.StoredError)
		assert.True(t, x.Set.Any(ErrorValue) && !x.Set.Any(Numbers|BlankWord), text)
		assert.True(t, NewReader([]string{text}).ReadStored([]byte(text), value.StoredError).Set.Any(Told), text)
		assert.Zero(t, NewReader(nil).ReadStored([]byte(text), value.StoredSeveral).Set, text)
	}
}
