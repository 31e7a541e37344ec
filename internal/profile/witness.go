package profile

import (
	"fmt"
	"strings"

	"junvo/internal/reading"
)

// One program has written a file, so that its columns are written alike: where a column leaves open whether 2.000 is
// two or two thousand, and another has 22361.000, that is a witness. A witness is weaker than the column's own cells:
// it is heard only where these show nothing, and only where all witnesses agree.

// hearWitnesses concludes again what columns leave open that others show.
func (p *Profile) hearWitnesses() {
	var marks, orders []*ColumnProfile
	w := reading.Witness{}
	agree := [2]bool{true, true}
	for _, c := range p.Columns {
		shown := &c.Unasked.Shown
		if m := shown.Mark; m != nil && !shown.MayBeTimes && c.Unasked.Convention.Type.Numeric() {
			agree[0] = agree[0] && (w.Mark == nil || *w.Mark == *m)
			w.Mark, marks = m, append(marks, c)
		}
		if o := shown.Order; o != nil && c.Unasked.Convention.Dated() {
			agree[1] = agree[1] && (w.Order == nil || *w.Order == *o)
			w.Order, orders = o, append(orders, c)
		}
		w.OtherCalendar = w.OtherCalendar || shown.OtherCalendar
	}
	if !agree[0] {
		w.Mark = nil
	}
	if !agree[1] {
		w.Order = nil
	}
	w.Marks, w.Orders = columnNames(marks), columnNames(orders)
	if w.Mark == nil && w.Order == nil && !w.OtherCalendar {
		return
	}
	for _, c := range p.Columns {
		if u := c.Unasked; u.MarksUndecided+u.OrderUndecided > 0 || u.Shown.MayBeTimes && w.Mark != nil || w.OtherCalendar && u.Convention.Dated() {
			c.ask.Witness = w
			c.conclude()
		}
	}
}

// maxWitnesses is how many columns are named as witnesses.
const maxWitnesses = 3

// columnNames names columns in a sentence.
func columnNames(columns []*ColumnProfile) string {
	var names []string
	for i, c := range columns {
		if i == maxWitnesses {
			names = append(names, "others")
			break
		}
		names = append(names, fmt.Sprintf("%q", c.Name))
	}
	return strings.Join(names, ", ")
}
