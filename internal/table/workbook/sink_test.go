package workbook

import (
	"bytes"
	"fmt"
	"os"
	"path/filepath"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"github.com/xuri/excelize/v2"

	"junvo/internal/nets"
	"junvo/internal/table"
	"junvo/internal/table/tabletest"
	"junvo/internal/table/wholefile"
	"junvo/internal/value"
)

func create(path string, fields []table.Field) (table.Sink, error) {
	f, err := wholefile.Create(path)
	if err != nil {
		return nil, err
	}
	return NewSink(f, fields)
}

func open(path, sheet string) (*Source, error) {
	text, err := os.ReadFile(path)
	if err != nil {
		return nil, err
	}
	return Open(bytes.NewReader(text), int64(len(text)), "a.xlsx", sheet, Options{})
}

func TestSink(t *testing.T) {
	tabletest.Sinks(t, tabletest.Format{
		Ending: ".xlsx", Create: create, Typed: true,
		Open: func(path string) (table.Source, error) { return open(path, "") },
		Same: func(typ value.Type, wrote, read string) bool {
			return (typ == value.Time || typ == value.Timestamp) && strings.TrimRight(wrote, "0") == strings.TrimRight(read, "0")
		},
	})
}

// A workbook marks what has failed, says why, lists it with links, and has the ledger. The
// library reads it back, which shares nothing with our reader.
func TestFailuresAndLedgerOfAWorkbook(t *testing.T) {
	path := filepath.Join(t.TempDir(), "a.xlsx")
	fields := []table.Field{{Name: "lot", Type: value.Code}, {Name: "kg", Type: value.Decimal}, {Name: "day", Type: value.Date}}
	sink, err := create(path, fields)
	require.NoError(t, err)
	s := sink.(*Sink)
	rows := &table.Rows{Fields: fields, Count: 3, Out: []bool{true, false, true}, Cells: make([]table.Values, 3)}
	for _, row := range [][]string{{"007", "1240.5", "2021-03-04"}, {"", "", ""}, {"=1+1", "", "2021-03-05"}} {
		for c, cell := range row {
			v := &rows.Cells[c]
			v.Text = append(v.Text, cell...)
			v.AddMade(len(v.Text) - len(cell))
		}
	}
	s.Fail(Failed{Row: 3, Line: 4, Column: 1, Name: "kg", Value: "heavy\x01", Wanted: "decimal", Reason: "not-a-number", Detail: "no digit in it", Hint: "Correct the cell."})
	require.NoError(t, s.Write(nil, rows))
	s.Ledger([][]string{{"column", "cells"}, {"kg", "2"}})
	require.NoError(t, s.Commit())

	f, err := excelize.OpenFile(path)
	require.NoError(t, err)
	defer f.Close()
	assert.Equal(t, []string{"rows", "failures", "ledger"}, f.GetSheetList())
	for cell, want := range map[string]excelize.CellType{"A2": excelize.CellTypeInlineString, "A3": excelize.CellTypeInlineString, "B2": excelize.CellTypeUnset, "C2": excelize.CellTypeUnset} {
		kind, err := f.GetCellType("rows", cell)
		require.NoError(t, err)
		assert.Equal(t, want, kind, cell)
	}
	for cell, want := range map[string]string{"A2": "007", "A3": "=1+1", "B2": "1240.5", "C2": "2021-03-04", "B3": ""} {
		got, err := f.GetCellValue("rows", cell)
		require.NoError(t, err)
		assert.Equal(t, want, got, cell)
	}
	formula, err := f.GetCellFormula("rows", "A3")
	require.NoError(t, err)
	assert.Empty(t, formula, "text that looks like a formula is text")
	notes, err := f.GetComments("rows")
	require.NoError(t, err)
	require.Len(t, notes, 1)
	assert.Equal(t, "B3", notes[0].Cell)
	assert.Contains(t, notes[0].Text, "not-a-number: no digit in it")
	style, err := f.GetCellStyle("rows", "B3")
	require.NoError(t, err)
	plain, err := f.GetCellStyle("rows", "B2")
	require.NoError(t, err)
	assert.NotEqual(t, plain, style, "the failed cell has a look of its own")
	linked, to, err := f.GetCellHyperLink("failures", "A2")
	require.NoError(t, err)
	assert.True(t, linked)
	assert.Equal(t, "rows!B3", to)
	got, err := f.GetRows("failures")
	require.NoError(t, err)
	assert.Equal(t, []string{"B3", "3", "4", "kg", "heavy⟨U+0001⟩", "decimal", "not-a-number", "no digit in it", "Correct the cell."}, got[1])
	got, err = f.GetRows("ledger")
	require.NoError(t, err)
	assert.Equal(t, [][]string{{"column", "cells"}, {"kg", "2"}}, got)
	panes, err := f.GetPanes("rows")
	require.NoError(t, err)
	assert.True(t, panes.Freeze, "the header stays in view")
}

// More failures than are listed are all marked, and their number is said.
func TestManyFailuresOfAWorkbook(t *testing.T) {
	path := filepath.Join(t.TempDir(), "a.xlsx")
	fields := []table.Field{{Name: "n", Type: value.Integer}}
	sink, err := create(path, fields)
	require.NoError(t, err)
	s := sink.(*Sink)
	rows := &table.Rows{Fields: fields, Count: maxNotes + 10, Cells: make([]table.Values, 1)}
	for i := range rows.Count {
		rows.Cells[0].AddBlank()
		s.Fail(Failed{Row: int64(i) + 1, Line: int64(i) + 2, Name: "n", Value: fmt.Sprint("x", i), Reason: "not-a-number"})
	}
	require.NoError(t, s.Write(nil, rows))
	require.NoError(t, s.Commit())
	assert.Empty(t, s.waiting)
	src, err := open(path, "failures")
	require.NoError(t, err)
	b := &table.Block{}
	require.NoError(t, src.Next(b))
	assert.Equal(t, maxNotes+10, b.Rows)
}

// Numbers that all have as many digits after the point are shown so; headings of numbers stand over them; the rows can be
// filtered, and each page that is printed has the headings.
func TestLooksOfAWorkbook(t *testing.T) {
	path := filepath.Join(t.TempDir(), "a.xlsx")
	fields := []table.Field{{Name: "boat", Type: value.Text}, {Name: "price", Type: value.Decimal}, {Name: "kg", Type: value.Decimal}, {Name: "boxes", Type: value.Integer}}
	sink, err := create(path, fields)
	require.NoError(t, err)
	rows := &table.Rows{Fields: fields, Count: 3, Cells: make([]table.Values, 4)}
	for _, row := range [][]string{{"Ada", "3.20", "1.5", "12"}, {"Bob", "", "", "7"}, {"Cleo", "10.00", "20.25", ""}} {
		for c, cell := range row {
			rows.Cells[c].AddText([]byte(cell))
		}
	}
	require.NoError(t, sink.Write(nil, rows))
	require.NoError(t, sink.Commit())
	f, err := excelize.OpenFile(path)
	require.NoError(t, err)
	defer f.Close()
	for cell, want := range map[string]string{"B2": "3.20", "B4": "10.00", "C2": "1.5", "C4": "20.25", "D2": "12", "B3": ""} {
		got, err := f.GetCellValue("rows", cell)
		require.NoError(t, err)
		assert.Equal(t, want, got, cell)
	}
	for cell, want := range map[string]string{"A1": "", "B1": "right", "C1": "right", "D1": "right"} {
		id, err := f.GetCellStyle("rows", cell)
		require.NoError(t, err)
		style, err := f.GetStyle(id)
		require.NoError(t, err)
		got := ""
		if style.Alignment != nil {
			got = style.Alignment.Horizontal
		}
		assert.Equal(t, want, got, cell)
	}
	assert.Equal(t, []excelize.DefinedName{
		{Name: "_xlnm._FilterDatabase", RefersTo: "rows!$A$1:$D$4", Scope: "rows"}, {Name: "_xlnm.Print_Titles", RefersTo: "rows!$1:$1", Scope: "rows"},
	}, f.GetDefinedName())
	layout, err := f.GetPageLayout("rows")
	require.NoError(t, err)
	assert.Equal(t, []any{"landscape", 1, 0}, []any{*layout.Orientation, *layout.FitToWidth, *layout.FitToHeight})
	props, err := f.GetSheetProps("rows")
	require.NoError(t, err)
	assert.True(t, *props.FitToPage)
}

// Each thousandth of a second of a day comes back as it was written, alone and with a day: one in 593 or 11.
func TestThousandthsThereAndBack(t *testing.T) {
	step := int64(nets.Size(593, 11))
	b := &book{}
	for millis := int64(0); millis < 86400e3; millis += step {
		clock := value.Clock{Nanos: millis * 1e6}
		for _, m := range []value.Moment{{Clock: clock}, {Day: mustDay(2021, 3, 4), Clock: clock}} {
			f, n := asTime, float64(millis)/86400e3
			if m.Day != 0 {
				f, n = asTimestamp, dayNumber(m)
			}
			text, ok := b.dayNumber(string(appendDayNumber(nil, n)), f)
			_, back, stamp := strings.Cut(text, "T")
			if !stamp {
				back = text
			}
			got, err := value.ParseMoment("2000-01-01T" + back)
			if !ok || err != nil || got.Clock.Nanos != clock.Nanos {
				require.Fail(t, "it is another", "%d: %s", millis, text)
			}
		}
	}
	for number, want := range map[string]string{"0.132785": "03:11:12.624", "0.999999": "23:59:59.914", "0.34028": "08:10:00", "0.5": "12:00:00", "0.99999999999": "23:59:59.999"} {
		got, ok := b.dayNumber(number, asTime)
		assert.True(t, ok)
		assert.Equal(t, want, got, number)
	}
	got, _ := b.dayNumber("43831.999999", asTimestamp)
	assert.Equal(t, "2020-01-01T23:59:59.914", got)
}

func mustDay(y, m, d int) value.Day {
	day, _ := value.NewDay(y, m, d)
	return day
}
