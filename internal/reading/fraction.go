package reading

// mostFractionDigits is how many digits each part of 12 3/16 has at most; one that is longer is a year beside a date,
// or a code.
const mostFractionDigits = 3

// fraction reads a whole number and a fraction of one, 1 1/4, whose stroke is at slash of the body: a number if it has
// so many digits that it comes out.
func (n *numeral) fraction(r *Reader, whole, slash int) (Set, bool) {
	above, below := n.body[whole+1:slash], n.body[slash+1:]
	if whole == 0 || max(whole, len(above), len(below)) > mostFractionDigits || len(above) == 0 || len(below) == 0 ||
		classesOf(below) != cDigit || above[0] == '0' || below[0] == '0' || whole > 1 && n.body[0] == '0' {
		return 0, false
	}
	part, of := number(above), number(below)
	if part >= of {
		return 0, false
	}
	digits := append(r.digits[:0], n.body[:whole]...)
	scale := int32(0)
	for ; part != 0 && scale < maxFractionScale; scale++ {
		part *= 10
		digits = append(digits, '0'+byte(part/of))
		part %= of
	}
	r.digits = digits
	for m := range r.scales {
		r.scales[m] = scale
	}
	return numbers, part == 0
}

// maxFractionScale is the most digits that a fraction of three digits that comes out has: of 512 it has nine.
const maxFractionScale = 9
