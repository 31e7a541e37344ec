package draft_test

import (
	"context"
	"fmt"

	"junvo/internal/draft"
	"junvo/internal/profile"
	"junvo/internal/table/tabletest"
)

func Example() {
	of := func(lines ...string) *profile.Profile {
		p, err := profile.Run(context.Background(), tabletest.NewLines(100, lines...), profile.Options{Workers: 1})
		if err != nil {
			panic(err)
		}
		return p
	}
	march := draft.Plan(of("lot|kg", "A-1|12,5", "A-2|7,25", "A-3|8,0"), nil, true)
	fmt.Println(march.Columns[1].Name, march.Columns[1].Convention.Type, march.Columns[1].Terms.DecimalMark)
	found := draft.Drift(of("lot|kg", "B-1|12.5", "B-2|7.25", "B-3|8.0"), march)
	for _, d := range found {
		fmt.Println(d.Kind, d.Column)
	}
	fmt.Println(draft.Fits(found, 3, 6, 0, false))
	// Output:
	// kg decimal ,
	// convention-changed kg
	// false
}
