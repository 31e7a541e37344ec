package cli

import (
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
)

// The line is written over itself, and leaves nothing of a longer one behind.
func TestProgressLine(t *testing.T) {
	var out strings.Builder
	l := &progressLine{to: &out}
	l.show(progressText("reading", 1_234_567, 30, 90))
	l.show(progressText("reading", 1, 0, -1))
	l.clear()
	l.clear()
	long, short := "reading, row 1 234 567, 33 % of 0 MB", "reading, row 1"
	assert.Equal(t, "\r"+long+"\r"+short+strings.Repeat(" ", len([]rune(long))-len(short))+"\r"+strings.Repeat(" ", len(short))+"\r",
		strings.NewReplacer("\u202f", " ").Replace(out.String()))
	assert.Contains(t, progressText("reading", 7, 2e9, 1e9), "100 % of 1 000 MB", "more may be read than the file had")
}
