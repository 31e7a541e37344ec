package table

import (
	"fmt"
	"io"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// Rows in memory come block by block, in order, with the cells that are missing, and bytes that are no text told.
func TestListed(t *testing.T) {
	var rows [][]string
	for i := range 2*listedRows + 7 {
		rows = append(rows, []string{fmt.Sprint(i), "x"}[:1+i%2])
	}
	rows = append(rows, []string{"\xff", ""})
	src := NewListed([]string{"a", "b"}, rows)
	assert.Equal(t, []string{"a", "b"}, src.Info().Names)
	n, blocks := 0, 0
	b := &Block{}
	for ; ; blocks++ {
		b.Reset()
		err := src.Next(b)
		if err == io.EOF {
			break
		}
		require.NoError(t, err)
		src.Split(b)
		assert.Equal(t, n+b.Rows == len(rows), b.Last)
		assert.Equal(t, b.Last, b.Broken)
		for r := range b.Rows {
			assert.Equal(t, rows[n][0], string(b.Cell(r, 0)))
			assert.Equal(t, len(rows[n]) == 1, b.Row(r)[1].N&Missing != 0)
			n++
		}
	}
	assert.Equal(t, len(rows), n)
	assert.Equal(t, 3, blocks)
}
