package value

// Adder adds up numbers in canonical text, exactly: those of up to 18 digits as whole numbers at one scale, those of up
// to 36 digits by their scales, all others by arithmetic of any length. The zero Adder is empty and ready for use.
type Adder struct {
	coef  Int128 // of those at the scale
	scale int32
	wide  []wideSum
	rest  Sum
	any   bool
}

// wideSum is the sum of wide numbers of one scale.
type wideSum struct {
	scale int32
	sum   Int192
}

// addWide adds a sum of wide numbers of one scale.
func (a *Adder) addWide(sum Int192, scale int32) {
	for i := range a.wide {
		if a.wide[i].scale == scale {
			a.wide[i].sum.Merge(sum)
			return
		}
	}
	a.wide = append(a.wide, wideSum{scale, sum})
}

// Add adds the number that a text is, and reports whether it is one. It allocates nothing for numbers of up to 36
// digits, nor for texts that are none.
func (a *Adder) Add(text []byte) bool {
	coef, scale, digits, ok := ParseShort(text)
	if ok {
		a.raise(scale)
		if by := a.scale - scale; digits+int(by) <= ShortDigits {
			a.coef.Add(coef*Tens[by], 1)
			a.any = true
			return true
		}
	} else if len(text) <= ShortDigits {
		return false // as a number it would be short
	}
	if coef, scale, ok := parseWide(text); ok {
		var one Int192
		one.Add(coef, 1)
		a.addWide(one, scale)
		a.any = true
		return true
	}
	if !IsNumber(text) {
		return false
	}
	n, _ := ParseNumber(string(text))
	a.rest.Add(n, 1)
	a.any = true
	return true
}

// AddShort adds a whole number divided by ten to the power of scale.
func (a *Adder) AddShort(coef int64, scale int32) {
	a.any = true
	if a.raise(scale); scale != a.scale {
		a.rest.AddInt128(Int128From(coef), scale)
		return
	}
	a.coef.Add(coef, 1)
}

// raise makes the scale of the whole numbers no smaller than that.
func (a *Adder) raise(scale int32) {
	if scale <= a.scale {
		return
	}
	if a.coef != (Int128{}) {
		a.rest.AddInt128(a.coef, a.scale)
	}
	a.coef, a.scale = Int128{}, scale
}

// Merge adds what another has added up.
func (a *Adder) Merge(b *Adder) {
	if !b.any {
		return
	}
	a.any = true
	a.rest.Merge(&b.rest)
	for _, w := range b.wide {
		a.addWide(w.sum, w.scale)
	}
	if a.raise(b.scale); b.scale == a.scale {
		a.coef.Merge(b.coef)
	} else {
		a.rest.AddInt128(b.coef, b.scale)
	}
}

// Text returns the sum in canonical text, "" where no number has been added. Its scale is the largest that was added.
func (a *Adder) Text() string {
	if !a.any {
		return ""
	}
	sum := a.rest
	if sum.coef != nil {
		sum = Sum{}
		sum.Merge(&a.rest)
	}
	for _, w := range a.wide {
		sum.AddInt192(w.sum, w.scale)
	}
	sum.AddInt128(a.coef, a.scale)
	return sum.Number().String()
}
