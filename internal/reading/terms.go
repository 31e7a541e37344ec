package reading

import (
	"cmp"
	"fmt"
	"maps"
	"slices"
	"strings"

	"junvo/internal/value"
)

// Terms are a convention in words, as a plan writes them. A term that is empty is not
// needed for the column's cells, and text that would need it fails.
type Terms struct {
	DecimalMark  string
	GroupMarks   []string          // those that may stand; none for any
	DateOrder    map[string]string // by separator; "" for all separators
	Unit         string
	Factors      map[string]string // what numbers with other words after them are multiplied by
	Currency     string
	Sign         string   // % or ‰
	Zone         string   // the offset from UTC of timestamps that carry none
	Offsets      bool     // timestamps carry an offset from UTC
	True, False  []string // the truth words
	BlankWords   []string
	DaysAsDigits bool     // yyyyMMdd
	Months       string   // croatian or west-slavic
	TimeWords    []string // the languages of the names of months and parts of the day
	EachMark     bool     // each number shows its own decimal mark
	Zeros        bool     // numbers may begin with zeros, which they lose
	HalfDays     bool     // a time needs a part of the day
}

// The names of the languages whose months differ.
const (
	monthsCroatian   = "croatian"
	monthsWestSlavic = "west-slavic"
)

// Terms returns the convention in words, as far as the counted cells need it.
func (c *Convention) Terms(counts []Count) Terms {
	t := Terms{BlankWords: c.BlankWords}
	switch c.Type {
	case value.Date, value.Timestamp, value.Time:
		t.TimeWords, t.HalfDays = c.timeWordTerms(counts), c.HalfDays && c.Type != value.Date
	}
	switch c.Type {
	case value.Integer, value.Decimal:
		if c.Known && NeedsDecimalMark(counts) {
			t.DecimalMark = c.Mark.String()
		}
		t.Zeros, t.EachMark = c.Zeros, c.EachMark
		for _, g := range c.Group(counts) {
			t.GroupMarks = append(t.GroupMarks, string(g))
		}
		for _, f := range c.Factors {
			if t.Factors == nil {
				t.Factors = map[string]string{}
			}
			t.Factors[f.Word] = f.By.String()
		}
		switch {
		case c.AffixKind.Any(Currency):
			t.Currency = c.Affix
		case c.AffixKind.Any(Percent | PerMille):
			t.Sign = c.Affix
		default:
			t.Unit = c.Affix
		}
	case value.Date, value.Timestamp:
		t.DateOrder = c.orderTerms(counts)
		t.Offsets, t.DaysAsDigits = c.Offsets && c.Type == value.Timestamp, c.Compact
		if c.MonthsKnown {
			t.Months = monthsWestSlavic
			if c.Croatian {
				t.Months = monthsCroatian
			}
		}
	case value.Boolean:
		if t.True, t.False = c.pairTerms(); c.Ticks {
			t.True, t.False = c.truthWords(counts)
		}
	}
	return t
}

func (c *Convention) orderTerms(counts []Count) map[string]string {
	if o, one := c.DateOrder(counts); one {
		return map[string]string{"": o.String()}
	}
	orderOf := map[string]string{}
	for _, k := range counts {
		if o := c.Orders[dateSepOf(k.Form)]; k.Set.Any(orders) && o != Undecided {
			orderOf[string(dateSeps[dateSepOf(k.Form)])] = o.String()
		}
	}
	return orderOf
}

func (c *Convention) pairTerms() (yes, no []string) {
	for _, w := range wordList {
		if !w.yes.and(c.Pairs).empty() {
			yes = append(yes, w.text)
		}
		if !w.no.and(c.Pairs).empty() {
			no = append(no, w.text)
		}
	}
	slices.Sort(yes)
	slices.Sort(no)
	return yes, no
}

// Convention makes the convention of a type that the terms describe. The error says
// which term is wrong.
func (t *Terms) Convention(typ value.Type) (Convention, error) {
	c := Convention{Type: typ, Offsets: t.Offsets, Compact: t.DaysAsDigits, Ordinals: t.DaysAsDigits}
	if t.DecimalMark != "" {
		var ok bool
		if c.Mark, ok = ParseMark(t.DecimalMark); !ok {
			return c, fmt.Errorf("decimal-mark is . or , or ٫, not %q", t.DecimalMark)
		}
		c.Known = true
	}
	for _, g := range t.GroupMarks {
		i := slices.IndexFunc(groupTexts[:], func(e groupText) bool { return e.text == g })
		if i < 0 {
			return c, fmt.Errorf("group-marks are . , ' _ ٬ or a space, not %q", g)
		}
		c.Groups |= groupTexts[i].bit
	}
	if err := c.setMarks(); err != nil {
		return c, err
	}
	if err := c.setOrders(t.DateOrder); err != nil {
		return c, err
	}
	for _, w := range t.BlankWords {
		word, ok := words[strings.ToLower(w)]
		if !ok || !word.blank {
			return c, fmt.Errorf("%q is no word that can count as blank by itself; name it in blank-words at the top of the "+
				"plan", w)
		}
		c.blankIs(word.id)
	}
	switch t.Months {
	case "":
	case monthsCroatian, monthsWestSlavic:
		c.MonthsKnown, c.Croatian = true, t.Months == monthsCroatian
	default:
		return c, fmt.Errorf("months is %s or %s, not %q", monthsCroatian, monthsWestSlavic, t.Months)
	}
	for _, code := range t.TimeWords {
		l, ok := languageNamed(code)
		if !ok {
			return c, fmt.Errorf("time-words are codes of languages such as en or es, not %q", code)
		}
		c.Languages = c.Languages.or(l)
	}
	c.HalfDays, c.Zeros, c.EachMark = t.HalfDays, t.Zeros, t.EachMark
	if t.Zone != "" {
		m, err := value.ParseMoment("2000-01-01T00:00:00" + t.Zone)
		if err != nil || !m.HasOffset {
			return c, fmt.Errorf("zone is an offset from UTC such as +01:00, or Z, not %q", t.Zone)
		}
		c.Offsets, c.zoned, c.zone = true, true, m.Offset
	}
	if t.EachMark && t.DecimalMark != "" {
		return c, fmt.Errorf("marks: each and decimal-mark can't be used together")
	}
	if err := c.setAffix(t); err != nil {
		return c, err
	}
	if err := c.setFactors(t); err != nil {
		return c, err
	}
	if typ == value.Boolean && len(t.True)+len(t.False) == 0 { // the canonical words need no term
		return c, c.setPairs([]string{"true"}, []string{"false"})
	}
	return c, c.setPairs(t.True, t.False)
}

// setMarks holds the decimal mark and the group marks against each other. Where a comma or a point
// is a group mark and no decimal mark is named, it is the other one.
func (c *Convention) setMarks() error {
	switch both := c.Groups & (MarkPoint | MarkComma); {
	case c.Known && c.Groups.Any(decimalMarks[c.Mark]):
		return fmt.Errorf("%q can't be both the decimal mark and a group mark", c.Mark.String())
	case c.Known || both == 0:
	case both == MarkPoint|MarkComma:
		return fmt.Errorf("both . and , are group marks: which one is the decimal mark?")
	default:
		c.Known = true
		if c.Mark = Point; both == MarkPoint {
			c.Mark = Comma
		}
	}
	return nil
}

func (c *Convention) setFactors(t *Terms) error {
	for _, unit := range slices.Sorted(maps.Keys(t.Factors)) {
		text := t.Factors[unit]
		f, err := value.ParseNumber(text)
		switch {
		case err != nil || f.Compare(value.Number{}) == 0:
			return fmt.Errorf("the factor of %s is a number other than 0 such as 0.001 or -1, not %q", unit, text)
		case unit == t.Unit:
			return fmt.Errorf("%s is the column's own unit and needs no factor", unit)
		case c.Type == value.Integer && f.Scale > 0:
			return fmt.Errorf("the factor of %s makes fractions of whole numbers; make the column decimal", unit)
		}
		if a, ok := theAffixes.get().all[unit]; ok && a.kind == Unit {
			unit = a.name
		} else if ok || !unitWord([]byte(unit)) {
			return fmt.Errorf("a unit is one word of letters, not %q", unit)
		}
		c.Factors = append(c.Factors, Factor{unit, f, affixForm(unit)})
	}
	return nil
}

func (c *Convention) setOrders(orderOf map[string]string) error {
	for i, sep := range dateSeps {
		c.Orders[i] = Undecided
		name := cmp.Or(orderOf[string(sep)], orderOf[""])
		if name == "" {
			continue
		}
		o, ok := ParseOrder(name)
		if !ok {
			return fmt.Errorf("date-order is dmy, mdy or ymd, not %q", name)
		}
		c.Orders[i] = o
	}
	return nil
}

func (c *Convention) setAffix(t *Terms) error {
	switch {
	case t.Currency != "":
		a, ok := theAffixes.get().all[t.Currency]
		if !ok || a.kind != Currency {
			return fmt.Errorf("%q is no currency that is known: use a code of ISO 4217 or a symbol", t.Currency)
		}
		c.affixIs(a.name, Currency)
	case t.Sign != "":
		a, ok := theAffixes.get().all[t.Sign]
		if !ok || !a.kind.Any(Percent|PerMille) {
			return fmt.Errorf("sign is %% or ‰, not %q", t.Sign)
		}
		c.affixIs(a.name, a.kind)
	case t.Unit != "":
		if a, ok := theAffixes.get().all[t.Unit]; ok && a.kind == Unit {
			c.affixIs(a.name, Unit)
			return nil
		}
		if !unitWord([]byte(t.Unit)) {
			return fmt.Errorf("unit is one word of letters, not %q", t.Unit)
		}
		if _, other := multiplying[t.Unit]; other {
			return fmt.Errorf("%s makes another number of those before it, and is no unit: factors says which", t.Unit)
		}
		c.affixIs(t.Unit, UnitWord)
	}
	return nil
}

// setPairs takes the pairs of which both words are listed.
func (c *Convention) setPairs(yes, no []string) error {
	if len(no) == 0 && len(yes) > 0 {
		for _, s := range yes {
			if w := words[strings.ToLower(s)]; w == nil || !w.tick {
				return fmt.Errorf("%q is no known word for true that needs none for false, as x does", s)
			}
		}
		c.Ticks = true
		return nil
	}
	var y, n pairSet
	for _, s := range yes {
		w := words[strings.ToLower(s)]
		if w == nil || w.yes.empty() {
			return fmt.Errorf("%q is no known word for true; make it one with the step label", s)
		}
		y = y.or(w.yes)
	}
	for _, s := range no {
		w := words[strings.ToLower(s)]
		if w == nil || w.no.empty() {
			return fmt.Errorf("%q is no known word for false; make it one with the step label", s)
		}
		n = n.or(w.no)
	}
	c.Pairs = y.and(n)
	return nil
}

// Say returns the terms in a few words, for the ledger.
func (t *Terms) Say() string {
	var parts []string
	if t.DecimalMark != "" {
		parts = append(parts, fmt.Sprintf("decimal mark %q", t.DecimalMark))
	}
	if len(t.GroupMarks) > 0 {
		parts = append(parts, "group mark "+visibleMarks(strings.Join(t.GroupMarks, "")))
	}
	for _, a := range []struct{ what, name string }{{"unit", t.Unit}, {"currency", t.Currency}, {"sign", t.Sign}} {
		if a.name != "" {
			parts = append(parts, a.what+" "+a.name)
		}
	}
	for _, word := range slices.Sorted(maps.Keys(t.Factors)) {
		parts = append(parts, word+" × "+t.Factors[word])
	}
	if t.EachMark {
		parts = append(parts, "marks: each")
	}
	if t.Zeros {
		parts = append(parts, "zeros dropped")
	}
	if words := sayTruth(t.True, t.False); words != "" {
		parts = append(parts, words)
	}
	if t.HalfDays {
		parts = append(parts, "half-days")
	}
	if o, ok := ParseOrder(t.DateOrder[""]); ok {
		parts = append(parts, o.say())
	}
	if len(t.TimeWords) > 0 {
		parts = append(parts, "time words: "+strings.Join(t.TimeWords, " "))
	}
	return strings.Join(parts, ", ")
}

// sayTruth says which words are true and which are false, "" for the canonical ones.
func sayTruth(yes, no []string) string {
	if len(yes)+len(no) == 0 || slices.Equal(yes, []string{"true"}) && slices.Equal(no, []string{"false"}) {
		return ""
	}
	text := "true: " + strings.Join(yes, " ")
	if len(no) > 0 {
		text += ", false: " + strings.Join(no, " ")
	}
	return text
}
