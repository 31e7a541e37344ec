package demo

import (
	"fmt"
	"strconv"
	"strings"
)

// Every column is made by one function, which picks a value and then a way to
// write it. Few in a hundred cells are blank, each in one of the ways to be blank,
// and few in a thousand cannot be read.

const nbsp = "\u00a0"

// chance reports true in one of n cases.
func (g *generator) chance(n int) bool { return g.rand.IntN(n) == 0 }

func (g *generator) pick(s ...string) string { return s[g.rand.IntN(len(s))] }

func plain(s string) cell { return cell{raw: s, truth: s} }

// blank is a cell that looks blank in one of several ways, or says so.
func (g *generator) blank() cell {
	return cell{raw: g.pick("", "", "", `""`, "   ", nbsp, "\u00ad", "n/a", "-", "k.A.")}
}

func (g *generator) fail(reason string, raw ...string) cell {
	return cell{raw: g.pick(raw...), reason: reason}
}

func (g *generator) landingNo() cell { return plain(fmt.Sprintf("%06d", 417+7*g.landing)) }

func (g *generator) vessel() cell {
	return plain(g.pick("Marlies", "Seestern", "Alte Liebe", "Nordlicht", "Möwe II", "Grete K.", "Frühlingswind",
		"Ørsted 4", "None"))
}

// species is a column of codes in which NA is one of them.
func (g *generator) species() cell {
	return plain(g.pick("COD", "HER", "PLE", "SOL", "MAC", "TUR", "NA"))
}

func (g *generator) landedOn() cell {
	d := g.day
	switch {
	case g.chance(60):
		return g.blank()
	case g.chance(250):
		return g.fail("no-such-day", "31.02.2021", "30.02.2022", "31.04.2022")
	case g.chance(400):
		return g.fail("not-a-date", "early May", "see log book")
	}
	c := cell{truth: d.iso()}
	switch g.rand.IntN(10) {
	case 0:
		c.raw = fmt.Sprintf("%d.%d.%02d", d.day, d.month, d.year%100)
	case 1:
		c.raw = d.iso()
	case 2:
		c.raw = fmt.Sprintf("%d %s %d", d.day, monthNames[d.month-1][:3], d.year)
	case 3:
		c.raw = fmt.Sprintf("%02d/%02d/%d", d.day, d.month, d.year)
	case 4:
		c.raw = fmt.Sprintf(" %02d.%02d.%d", d.day, d.month, d.year)
	default:
		c.raw = fmt.Sprintf("%02d.%02d.%d", d.day, d.month, d.year)
	}
	return c
}

// bookedOn is written month first.
func (g *generator) bookedOn() cell {
	d := g.day.next().next()
	switch {
	case g.chance(50):
		return g.blank()
	case g.chance(400):
		return g.fail("order-conflict", "28/02/2022", "15/11/2021")
	case g.chance(400):
		return g.fail("no-such-day", "02/30/2022", "13/13/2021")
	}
	return cell{raw: fmt.Sprintf("%02d/%02d/%d", d.month, d.day, d.year), truth: d.iso()}
}

func (g *generator) netWeight() cell {
	tenths := 5 + g.rand.IntN(30000)
	switch {
	case g.chance(70):
		return g.blank()
	case g.chance(300):
		return g.fail("not-a-number", "ca. 80 kg", "<5 kg", "two tons")
	case g.chance(300):
		return g.fail("several-numbers", "12 (4)", "84/96", "310-320 kg")
	case g.chance(400):
		return g.fail("group-misplaced", "1.24,5.0 kg", "12.40.000 kg")
	case g.chance(400):
		return g.fail("unit-unexpected", "1,2 t")
	case g.chance(500):
		return g.fail("error-value", "#REF!", "#VALUE!")
	}
	g.weight += tenths
	c := cell{truth: point(tenths, 1)}
	switch g.rand.IntN(8) {
	case 0:
		c.raw = comma(tenths, 1, "")
	case 1:
		c.raw = comma(tenths, 1, nbsp) + nbsp + "kg"
	case 2:
		c.raw = comma(tenths, 1, ".") + "kg"
	case 3:
		c.raw = nbsp + comma(tenths, 1, ".") + " kg"
	default:
		c.raw = comma(tenths, 1, ".") + " kg"
	}
	return c
}

func (g *generator) price() cell {
	cents := 80 + g.rand.IntN(1900)
	switch {
	case g.chance(80):
		return g.blank()
	case g.chance(500):
		return g.fail("currency-mixed", "$ 3,20", "9,90 CHF")
	case g.chance(500):
		return g.fail("mark-conflict", "€ 3.20", "12.5")
	}
	s := comma(cents, 2, ".")
	return cell{raw: g.pick("€ "+s, "€ "+s, "€ "+s, s+" €", "EUR "+s, "€"+nbsp+s, s), truth: point(cents, 2)}
}

func (g *generator) boxes() cell {
	n := 1 + g.rand.IntN(120)
	switch {
	case g.chance(60):
		return g.blank()
	case g.chance(400):
		return g.fail("several-numbers", "3-4", "12/2")
	case g.chance(400):
		return g.fail("not-a-number", "many", "l2")
	}
	g.boxSum += n
	return cell{raw: g.pick(strconv.Itoa(n), strconv.Itoa(n), strconv.Itoa(n)+" "), truth: strconv.Itoa(n)}
}

// temperature has the minus in front, as a hyphen or a dash, or after.
func (g *generator) temperature() cell {
	tenths := 5 + g.rand.IntN(50)
	if g.chance(60) {
		return g.blank()
	}
	s := comma(tenths, 1, ".")
	switch g.rand.IntN(6) {
	case 0:
		return cell{raw: s + " °C", truth: point(tenths, 1)}
	case 1:
		return cell{raw: s + "- °C", truth: "-" + point(tenths, 1)}
	case 2:
		return cell{raw: "-" + s + " °C", truth: "-" + point(tenths, 1)}
	}
	return cell{raw: "–" + s + " °C", truth: "-" + point(tenths, 1)}
}

func (g *generator) iceShare() cell {
	tenths := g.rand.IntN(1001)
	switch {
	case g.chance(50):
		return g.blank()
	case g.chance(500):
		return g.fail("unit-unexpected", "12,5", "30")
	}
	return cell{raw: g.pick(comma(tenths, 1, "")+" %", comma(tenths, 1, "")+"%"), truth: point(tenths, 3)}
}

func (g *generator) inspected() cell {
	if g.chance(40) {
		return g.blank()
	}
	if g.chance(3) {
		return cell{raw: g.pick("nein", "no", "Nein", "NO"), truth: "false"}
	}
	return cell{raw: g.pick("ja", "yes", "Ja", "YES"), truth: "true"}
}

func (g *generator) buyerNo() cell {
	if g.chance(30) {
		return g.blank()
	}
	return plain(fmt.Sprintf("%05d", g.rand.IntN(60000)))
}

// balance is written with a decimal point and accounting parentheses.
func (g *generator) balance() cell {
	cents := g.rand.IntN(900000)
	s := digits(cents, 2, ",", ".")
	if g.chance(90) {
		return g.blank()
	}
	if g.chance(4) && cents > 0 {
		return cell{raw: "(" + s + ")", truth: "-" + point(cents, 2)}
	}
	return cell{raw: s, truth: point(cents, 2)}
}

func (g *generator) skipper() cell {
	return plain(`"` + g.pick("Petersen", "Hansen", "Jensen", "Lührs", "Okafor", "Null") + ", " + g.pick("Anke", "Jörg",
		"Ole", "Silke", "Tomma") + `"`).unquoted()
}

func (g *generator) remarks() cell {
	switch g.rand.IntN(9) {
	case 0:
		return plain(fmt.Sprintf("LOT %d / crate %d", 10+g.rand.IntN(90), 1+g.rand.IntN(99)))
	case 1:
		return cell{raw: `"said ""fresh""; wet boxes"`, truth: `said "fresh"; wet boxes`}
	case 2:
		return cell{raw: "\"two\nlines\"", truth: "two\nlines"}
	case 3:
		return plain("=HYPERLINK(x)")
	case 4:
		return plain("gut gekühlt")
	}
	return g.blank()
}

// unquoted is for a cell that stands in quotes in the source.
func (c cell) unquoted() cell {
	c.truth = strings.Trim(c.truth, `"`)
	return c
}

// point writes n units of 10^-scale with a decimal point.
func point(n, scale int) string { return digits(n, scale, "", ".") }

// comma writes n units of 10^-scale with a decimal comma and a group mark.
func comma(n, scale int, group string) string { return digits(n, scale, group, ",") }

func digits(n, scale int, group, mark string) string {
	s := fmt.Sprintf("%0*d", scale+1, n)
	whole, rest := s[:len(s)-scale], s[len(s)-scale:]
	for i := len(whole) - 3; i > 0; i -= 3 {
		whole = whole[:i] + group + whole[i:]
	}
	return whole + mark + rest
}

// date is a day of a calendar of its own, so that the truth owes nothing to the
// code that reads dates.
type date struct{ year, month, day int }

var monthNames = [...]string{
	"January", "February", "March", "April", "May", "June", "July", "August", "September", "October", "November",
	"December",
}

func (d date) iso() string { return fmt.Sprintf("%04d-%02d-%02d", d.year, d.month, d.day) }

func (d date) next() date {
	last := []int{31, 28, 31, 30, 31, 30, 31, 31, 30, 31, 30, 31}[d.month-1]
	if d.month == 2 && d.year%4 == 0 {
		last = 29
	}
	switch {
	case d.day < last:
		d.day++
	case d.month < 12:
		d.month, d.day = d.month+1, 1
	default:
		d = date{d.year + 1, 1, 1}
		if d.year == 2040 { // large samples go round
			d.year = 2021
		}
	}
	return d
}
