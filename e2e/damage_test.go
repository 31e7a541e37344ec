package e2e

import (
	"bytes"
	"fmt"
	"math/rand/v2"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// The bytes that are not text in the encoding are named, each with how often it occurs.
func TestOddBytesAreNamed(t *testing.T) {
	t.Parallel()
	f := newFolder(t)
	f.file("in.csv", "id,name\n1,caf\u00e9\n2,caf\u00e9\n3,caf\u00e9\n4,na\x9dme\n5,b\xff\xff\n")
	p := profileOf(t, f, "in.csv")
	require.Len(t, p.Source.Findings, 1)
	assert.Equal(t, "bad-bytes", p.Source.Findings[0].Name)
	assert.Contains(t, f.run("profile", "in.csv", "--verbose").out, "2 rows have bytes that are not text in the encoding (0xFF 2, 0x9D 1);")

	require.Zero(t, f.run("profile", "in.csv", "--save", "a.profile").code)
	assert.Contains(t, f.run("combine", "a.profile", "a.profile", "--verbose").out, "4 rows have bytes that are not text in the encoding (0xFF 4, 0x9D 2);")

	// As many characters of UTF-8 as broken bytes are enough to tell it.
	f.file("few.csv", "id,name\n1,caf\u00e9\n2,bad\x9dbyte\n3,plain\n")
	assert.Contains(t, f.run("profile", "few.csv", "--verbose").out, "utf-8 (valid characters beyond ASCII: 1, and bytes that are in none: 1)")

	all := make([]byte, 0, 128)
	for b := 0x80; b < 0x100; b++ {
		all = append(all, byte(b), ' ')
	}
	f.file("all.csv", "id,name\n1,"+string(all)+"\n"+strings.Repeat("2,\u00e9t\u00e9\n", 200))
	assert.Contains(t, f.run("profile", "all.csv", "--encoding", "utf-8", "--verbose").out, "0x87 1, and 120 others)")
}

// Whatever is broken about a file, all that it holds is in the output or among the rows set
// aside: of each cell that was written, its own mark is found again, once.
func TestNothingIsLostOfDamagedFiles(t *testing.T) {
	t.Parallel()
	r := rand.New(rand.NewPCG(3, 14))
	for round := range 12 {
		f := newFolder(t)
		var b bytes.Buffer
		b.WriteString("one,two,three,four\n")
		var marks []string
		mark := func() string {
			marks = append(marks, fmt.Sprintf("m%05dk", len(marks)))
			return marks[len(marks)-1]
		}
		for range 300 {
			cells := 4
			if r.IntN(12) == 0 {
				cells = 1 + r.IntN(7)
			}
			for c := range cells {
				if c > 0 {
					b.WriteByte(',')
				}
				switch r.IntN(24) {
				case 0:
					fmt.Fprintf(&b, `"%s, ""said""`+"\n"+`%s"`, mark(), mark())
				case 1:
					fmt.Fprintf(&b, `%s" or "%s`, mark(), mark())
				case 2:
					fmt.Fprintf(&b, `"%s" %s`, mark(), mark())
				case 3:
					fmt.Fprintf(&b, "%s\x00%s", mark(), mark())
				case 4:
					fmt.Fprintf(&b, "%s\xfe\xed%s", mark(), mark())
				case 5:
					fmt.Fprintf(&b, ` "%s" `, mark())
				case 6:
					if round%2 == 1 {
						fmt.Fprintf(&b, `"%s`, mark())
						break
					}
					fallthrough
				default:
					b.WriteString(mark())
				}
			}
			b.WriteString([]string{"\n", "\r\n"}[r.IntN(2)])
		}
		f.file("in.csv", b.String())
		require.LessOrEqual(t, f.run("convert", "in.csv", "--encoding", "utf-8", "-o", "out.csv").code, 1)
		var found strings.Builder
		for _, name := range []string{"out.csv", "out.setaside.csv", "out.failures.csv"} {
			for _, row := range csvRows(t, f.read(name)) {
				found.WriteString(strings.Join(row, "\n") + "\n")
			}
		}
		for _, m := range marks {
			require.Equal(t, 1, strings.Count(found.String(), m), "round %d: %s", round, m)
		}
	}
}
