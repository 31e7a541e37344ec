package convert

import (
	"fmt"
	"strings"
	"testing"

	"github.com/stretchr/testify/require"
)

// Nothing that the workers of a conversion share has state: run with the race detector, this fails
// where a step, a type or a made column keeps any. What comes out is the same for one worker.
func TestWorkersShareNothing(t *testing.T) {
	planText := `plan: 1
rows: {drop: "n == 77"}
columns:
  n: {to: integer, must: {between: [0, 9000], unique: true}}
  amount: {to: decimal, decimal-mark: ","}
  day: {to: date, date-order: dmy, must: {matches: "^2"}}
  ok: {to: boolean, words: {true: [ja], false: [nein]}}
  title: {from: words, steps: [trim, single-space, {case: title}]}
  upper: {from: words, steps: [{case: upper}, {case: lower}, {case: sentence}, {pad: {width: 20}}]}
  cut: {from: words, steps: [{drop: [digits, "a"]}, {keep: letters}, {replace: {pattern: "(b)(a)?", with: "$1$2x"}}, {overwrite: {from: 1, with: "X"}}]}
  taken: {from: words, steps: [{take: {word: 1}}, {mend: [decoding, look-alikes, markup, compatibility]}, {label: [{matches: "^[a-c]", then: "x"}]}]}
  number: {from: amount, steps: [{take: {number: 1}}], to: decimal, decimal-mark: ","}
  dated: {from: n, steps: [{day-number: 1900}], to: date, date-order: ymd}
  at: {from: n, steps: [{epoch: seconds}], to: timestamp, offsets: true}
  quay: {steps: [{fill: {from: above}}]}
  words: {split: {at: " ", nth: 1}, into: {first: {}, rest: {}}}
  tag: {join: [n, title], with: "-", blanks: keep}
  twice: {compute: "n * 2 + size(title) + (blank(quay) ? 0 : 1)"}
  read: {compute: "reading(raw('amount'))"}
  stepped: {compute: "steps(raw('words'), '[case: title, mend: [markup, look-alikes], keep: letters]') + joined('-', n, day) + text(blanks())"}
  amounted: {compute: "number(raw('amount'), ',') + (anyBlank(n, quay) ? 1 : 0)"}
  dayed: {compute: "date(raw('day'), 'dmy')"}
  more: {from: words, steps: [{substitute: {list: {ruby: RUBY}}}, {case: {to: title, except: [über]}}, {insert: {text: "-", at: 2}}, {take: {before: spaces, ignore-case: true, otherwise: keep}}]}
  turned: {from: amount, split: {turn: [punctuation, digits], rest: join, missing: blank}, into: {open: {}, digits: {}}}
  since: {compute: "n - before(n) + sumSoFar(twice)"}
  said: {compute: "upper(title) + inPattern(day, 'EEE d') + found(read, '[a-z]+') + padded(row(), 4) + (failed(number) ? 'x' : 'y')"}
`
	var b strings.Builder
	b.WriteString("n;amount;day;ok;words;quay\n")
	for i := range 9000 {
		quay := ""
		if i%500 == 3 {
			quay = fmt.Sprint("Quay ", i)
		}
		fmt.Fprintf(&b, "%d;(%d,%02d);%02d.%02d.2021;%s;%s über %s;%s\n", i%8990, i, i%100, 1+i%28, 1+i%12, []string{"ja", "nein"}[i%2], []string{"ruby", "BALL"}[i%2], strings.Repeat("cabbage", 1+i%3), quay)
	}
	var want *made
	for _, workers := range []int{1, 4} {
		m, err := convertAll(t, b.String(), planText, Options{Workers: workers})
		require.NoError(t, err)
		require.NoError(t, m.ledger.Check())
		if want == nil {
			want = m
		}
		require.Equal(t, want.rows, m.rows)
		require.Equal(t, want.failures, m.failures)
	}
}
