package step_test

import (
	"io"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"junvo/internal/step"
	"junvo/internal/table"
	"junvo/internal/table/delim"
)

func TestSource(t *testing.T) {
	const text = "a;b;c\n one ;x!;3\n;\"q \"\"y\"\"!\";4\n\"\";fail;5\n"
	src, err := delim.Open(strings.NewReader(text), "a.csv", int64(len(text)), delim.Options{})
	require.NoError(t, err)
	drop, err := step.New("drop", "!")
	require.NoError(t, err)
	upper, err := step.New("case", "upper")
	require.NoError(t, err)
	take, err := step.New("take", map[string]step.Args{"number": 1})
	require.NoError(t, err)
	stepped := step.NewSource(src, map[int]step.Chain{
		0: {{Name: "case", Step: upper}}, 1: {{Name: "drop", Step: drop}, {Name: "case", Step: upper}}, 2: {{Name: "take", Step: take}},
	}, []step.Made{{Name: "d", From: 1, Steps: step.Chain{{Name: "drop", Step: drop}}}, {Name: "e", From: 2}})
	assert.Equal(t, []string{"a", "b", "c", "d", "e"}, stepped.Info().Names)
	assert.False(t, stepped.Info().Contiguous)
	assert.True(t, src.Info().Contiguous, "the source itself is as it was")
	var got [][]string
	var b table.Block
	for err = stepped.Next(&b); err != io.EOF; err = stepped.Next(&b) {
		require.NoError(t, err)
		raw := string(b.Raw)
		stepped.Split(&b)
		assert.Equal(t, raw, string(b.Raw), "what came stays as it is")
		for row := range b.Rows {
			got = append(got, b.RowCells(row))
		}
		b.Reset()
	}
	assert.Equal(t, [][]string{{" ONE ", "X", "3", "x", "3"}, {"", `Q "Y"`, "4", `q "y"`, "4"}, {"", "FAIL", "5", "fail", "5"}}, got)
}
