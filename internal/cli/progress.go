package cli

import (
	"time"

	"github.com/schollz/progressbar/v3"

	"junvo/internal/table/input"
)

// progress shows a line on standard error while work takes more than a second,
// where standard error is a terminal. The returned functions take the state of the
// work, and end the line.
func (a *app) progress(what string, src *input.Source) (report func(bytes, rows int64), end func()) {
	if terminalOf(a.err) == nil {
		return nil, func() {}
	}
	start := time.Now()
	var bar *progressbar.ProgressBar
	report = func(_, rows int64) {
		if time.Since(start) < time.Second {
			return
		}
		if bar == nil {
			bar = progressbar.NewOptions64(src.Size,
				progressbar.OptionSetWriter(a.err), progressbar.OptionSetDescription(what), progressbar.OptionShowBytes(true),
				progressbar.OptionShowCount(), progressbar.OptionThrottle(100*time.Millisecond), progressbar.OptionClearOnFinish(),
				progressbar.OptionSetWidth(20))
		}
		bar.Describe(what + ", row " + grouped(rows))
		_ = bar.Set64(src.Read())
	}
	return report, func() {
		if bar != nil {
			_ = bar.Clear()
		}
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
