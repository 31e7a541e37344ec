package e2e

import (
	"encoding/json"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

func TestEachFileByItself(t *testing.T) {
	t.Parallel()
	f := newFolder(t)
	f.file("a.csv", "no;kg\n1;1,5\n2;2,5\n3;x\n")
	f.file("b.csv", "port,day\nHAR,2021-03-04\nHUL,\n")
	r := f.run("profile", "--each", "*.csv")
	require.Equal(t, 0, r.code, r.err)
	assert.Contains(t, r.out, "a.csv: 3 rows, 2 columns")
	assert.Contains(t, r.out, "b.csv: 2 rows, 2 columns")
	lines := strings.Split(strings.TrimSpace(r.out), "\n")
	assert.Regexp(t, `^a\.csv +3 +2 +1 +0 +0 +mixed 1`, lines[len(lines)-2])
	assert.Regexp(t, `^b\.csv +2 +2 +0 +1 +0`, lines[len(lines)-1])
	var doc struct{ Profiles []profileDoc }
	require.NoError(t, json.Unmarshal([]byte(f.run("profile", "--each", "a.csv", "b.csv", "--format", "json").out), &doc))
	require.Len(t, doc.Profiles, 2)
	assert.Equal(t, "day", doc.Profiles[1].Columns[1].Name)
	assert.Equal(t, 2, f.run("profile", "--each", "a.csv", "--save", "x").code)
}

func TestWhatHasChangedSince(t *testing.T) {
	t.Parallel()
	f := newFolder(t)
	f.file("old.csv", "no,kg,day,port,note\n1,1.5,2021-03-04,HAR,\n2,7.25,2021-03-05,HUL,7\n3,9.5,2021-03-06,HAR,8\n")
	f.file("new.csv", "no,day,kg,harbour,note\n1,04.03.2021,\"1,5\",HAR,\n2,25.03.2021,\"77,25\",HUL-1,n/a\n3,06.03.2021,\"0,5\",HAR,7\n")
	old := f.run("profile", "old.csv", "--format", "json")
	f.file("old.json", old.out)
	r := f.run("profile", "old.csv", "--against", "old.json")
	assert.Equal(t, "0 changes since old.json\n", r.out)
	var doc struct {
		Changes []struct{ Name, Column, Say string }
	}
	require.NoError(t, json.Unmarshal([]byte(f.run("profile", "new.csv", "--against", "old.json", "--format", "json").out), &doc))
	var got []string
	for _, c := range doc.Changes {
		got = append(got, c.Name+" "+c.Column+": "+c.Say)
	}
	assert.Equal(t, []string{
		"column-missing port: the source has no such column",
		"column-new harbour: it was not there before",
		"column-moved : the order is no, day, kg, note now",
		"convention-changed day: order of dates: none before, and dmy now",
		"shapes-new day: 99.99.9999",
		"range-widened day: up to 2021-03-06 before, and up to 2021-03-25 now",
		"convention-changed kg: decimal mark: . before, and , now",
		"shapes-new kg: 9,9, 99,99",
		"range-widened kg: from 1.5 before, and from 0.5 now",
		"range-widened kg: up to 9.5 before, and up to 77.25 now",
		"blank-words-new note: n/a",
		"shapes-new note: a/a",
		"blanks-moved note: blank: 33.3 % before, and 66.7 % now",
	}, got)
	table := f.run("profile", "new.csv", "--against", "old.json").out
	assert.Contains(t, table, "13 changes since old.json")
	f.file("bad.json", "{}")
	assert.Equal(t, 3, f.run("profile", "new.csv", "--against", "bad.json").code)
	assert.Equal(t, 3, f.run("profile", "new.csv", "--against", "none.json").code)
}
