package convert_test

import (
	"context"
	"fmt"
	"os"
	"strings"

	"junvo/internal/convert"
	"junvo/internal/plan"
	"junvo/internal/table"
	"junvo/internal/table/delim"
)

// standardOutput is an output that appears at once.
type standardOutput struct{ *os.File }

func (standardOutput) Finish() error { return nil }
func (standardOutput) Commit() error { return nil }
func (standardOutput) Abort()        {}

func Example() {
	const landings = "kg,day\n\"1.240,5\",4.3.2021\n?,31.2.2021\n"
	src, err := delim.Open(strings.NewReader(landings), "landings.csv", -1, delim.Options{})
	if err != nil {
		panic(err)
	}
	p, err := plan.Load([]byte(`
plan: 1
columns:
  kg: {to: decimal, decimal-mark: ",", blank-words: ["?"]}
  day: {to: date, date-order: dmy}
`))
	if err != nil {
		panic(err)
	}
	bound, err := p.Bind(src.Info().Names)
	if err != nil {
		panic(err)
	}
	var sink table.Sink
	if sink, err = delim.NewSink(standardOutput{os.Stdout}, ',', bound.Fields()); err != nil {
		panic(err)
	}
	var failed []string
	ledger, err := convert.Run(context.Background(), src, bound, convert.Options{Workers: 2, Sink: sink, Failure: func(f convert.Failure) error {
		failed = append(failed, fmt.Sprintf("row %d, %s: %s is %s", f.Row, f.Column, f.Value, f.Reason))
		return nil
	}})
	if err == nil {
		err = ledger.Check()
	}
	fmt.Println(failed, err)
	// Output:
	// kg,day
	// 1240.5,2021-03-04
	// ,
	// [row 2, day: 31.2.2021 is no-such-day] <nil>
}
