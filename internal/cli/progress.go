package cli

import (
	"fmt"
	"io"
	"strings"
	"time"
	"unicode/utf8"

	"junvo/internal/table/input"
)

// progress shows a line on standard error while work takes more than a second,
// where standard error is a terminal. The returned functions take the state of the
// work, and end the line.
func (a *app) progress(what string, src *input.Source) (report func(bytes, rows int64), end func()) {
	if terminalOf(a.err) == nil {
		return nil, func() {}
	}
	l := &progressLine{to: a.err, next: time.Now().Add(time.Second)}
	return func(_, rows int64) {
		if now := time.Now(); now.After(l.next) {
			l.next = now.Add(progressPause)
			l.show(progressText(what, rows, src.Read(), src.Size))
		}
	}, l.clear
}

// progressPause is how long a line stands at least.
const progressPause = 100 * time.Millisecond

// progressText says how far the work is: in rows, and of a source whose size is known in parts of it.
func progressText(what string, rows, read, size int64) string {
	text := what + ", row " + grouped(rows)
	if size > 0 {
		text += fmt.Sprintf(", %d %% of %s MB", min(100, 100*read/size), grouped(size/1e6))
	}
	return text
}

// progressLine is a line that is written over itself. It takes no more of a terminal than all of them can do.
type progressLine struct {
	to    io.Writer
	next  time.Time // when it may be written again
	shown int       // characters that stand there
}

func (l *progressLine) show(text string) {
	n := utf8.RuneCountInString(text)
	fmt.Fprint(l.to, "\r", text, strings.Repeat(" ", max(0, l.shown-n)))
	l.shown = n
}

func (l *progressLine) clear() {
	if l.shown > 0 {
		fmt.Fprint(l.to, "\r", strings.Repeat(" ", l.shown), "\r")
		l.shown = 0
	}
}

// grouped writes a number in groups of three, with narrow spaces.
func grouped(n int64) string {
	var out []byte
	for digits := 0; n > 0 || digits == 0; digits++ {
		if digits > 0 && digits%3 == 0 {
			out = append(out, ' ')
		}
		out = append(out, byte('0'+n%10))
		n /= 10
	}
	for i, j := 0, len(out)-1; i < j; i, j = i+1, j-1 {
		out[i], out[j] = out[j], out[i]
	}
	return string(out)
}
