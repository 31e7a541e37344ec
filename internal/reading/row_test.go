package reading

import (
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"

	"junvo/internal/value"
)

func TestRowKinds(t *testing.T) {
	names := []string{"port", "kg", "n", "day"}
	r := NewRowReader(names, []string{"void"})
	for row, want := range map[string]RowKind{
		"A|1|2|2021-03-04":          Data,
		"A|||":                      SectionHeading,
		"|Quay North||":             SectionHeading,
		"Quay North:|||":            SectionHeading,
		"|||":                       BlankRow,
		" |\u00a0|\u200b|void":      BlankRow,
		"port|kg|n|day":             RepeatedHeading,
		" port |kg|n|day":           RepeatedHeading,
		"Port|kg|n|day":             Data,
		"Total|5|6|":                TotalRow,
		"TOTAL:|5|6|":               TotalRow,
		"Total Quay North|5||":      NamedTotal,
		"Total 2021|5|6|":           TotalRow,
		"Total Wine|15||":           NamedTotal,
		"Grand total|5|6|":          TotalRow,
		"Average|5|6|":              SummaryRow,
		"Max|5|6|7":                 SummaryRow,
		"Maximum speed|5|6|":        Data,
		"Max Meier|5|6|":            Data,
		"# made|by us||":            Footer,
		"#12|a|5|6":                 Data,
		"Source: harbour office|||": Footer,
		"60 rows|||":                Footer,
		"kg|port|n|day":             SwappedHeading,
		"kg|kg|n|day":               Data,
		"Summe|1.240,5 kg||":        TotalRow,
		"|Subtotal|5|":              TotalRow,
		"Total|5|6|2021-03-04":      Data,
		"Total|5|6|7":               FullTotal,
		"Totals Ltd.|5|x|":          Data,
		"Total|||":                  SectionHeading,
		"Note: net of ice|||":       NoteRow,
		"All weights are net.|||":   NoteRow,
		"(12 rows affected)|||":     Footer,
		"(2 rows)|||":               Footer,
		"(1 row)|||":                Footer,
		"(2 kg)|||":                 Data,
		"* estimated|||":            NoteRow,
		"-- end --|||":              NoteRow,
		"-----|---|---:|----":       RuleRow,
		":---:| === |---|":          RuleRow,
		"----+---+---|||":           RuleRow,
		"\u2500\u2500\u253c\u2500|\u2500\u2500\u2500||": RuleRow,
		"-----|---|5|":                       Data,
		"-- |--||":                           Data,
		"--|--|--|--":                        Data,
		"::::|||":                            SectionHeading,
		"5|||":                               Data,
		"2021-03-04|||":                      Data,
		"|||12:30":                           Data,
		"|A12||":                             Data,
		"n/a|||":                             Data,
		strings.Repeat("words ", 20) + "|||": NoteRow,
	} {
		cells := strings.Split(row, "|")
		cell := func(c int) []byte { return []byte(cells[c]) }
		got := r.Kind(cell, false)
		assert.Equal(t, want.String(), got.String(), row)
		if want != Data && !strings.ContainsAny(row, "\u00a0") {
			empty := 0
			for _, c := range cells {
				if c == "" {
					empty++
				}
			}
			assert.True(t, r.Suspect([]byte(cells[0]), empty) || empty == 0 && strings.HasPrefix(row, " "), "%q is not suspect", row)
		}
	}
}

func TestNarrowTablesHaveNoHeadings(t *testing.T) {
	one := NewRowReader([]string{"n"}, nil)
	assert.Equal(t, Data, one.Kind(func(int) []byte { return nil }, false))
	assert.Equal(t, Data, one.Kind(func(int) []byte { return []byte("words") }, false))
	assert.Equal(t, RepeatedHeading, one.Kind(func(int) []byte { return []byte("n") }, false))
	two := NewRowReader([]string{"a", "b"}, nil)
	for _, footer := range []string{"Source: harbour office", "60 rows", "(60 rows)", "# end"} {
		assert.Equal(t, Footer, two.Kind(func(c int) []byte { return []byte([]string{footer, ""}[c]) }, true), footer)
	}
	assert.Equal(t, Data, two.Kind(func(c int) []byte { return []byte([]string{"Source", ""}[c]) }, true))
	assert.Equal(t, BareTotal, two.Kind(func(c int) []byte { return []byte([]string{"", "5"}[c]) }, true))
	assert.Equal(t, Data, two.Kind(func(c int) []byte { return []byte([]string{"", "5"}[c]) }, false))
	assert.Equal(t, Data, two.Kind(func(c int) []byte { return []byte([]string{"words", ""}[c]) }, false))
}

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
		assert.Equal(t, want, Pattern(x.Set, x.Form, DMY), cell)
	}
	x := r.Read([]byte("03/04/2021"))
	assert.Equal(t, "MM/dd/yyyy", Pattern(x.Set, x.Form, MDY))
	x = r.Read([]byte("21-03-04"))
	assert.Equal(t, "yy-MM-dd", Pattern(x.Set, x.Form, YMD))
}

// Every form of a date survives being packed.
func TestFormsArePacked(t *testing.T) {
	for v := range uint32(1 << 14) {
		f := unpackDate(v)
		assert.Equal(t, v, f.pack()&(1<<14-1))
	}
	for v := range uint32(1 << 11) {
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
