package reading

// How those who count many cells at a time read them by their outlines: Outline and LookUp say whether that of a cell is
// known, ReadBy and Coef read it, and ReadUnknown reads the others.

// Outline returns the outline of a cell that is not empty, if it is that of the last cell of its length; else nil.
func (r *Reader) Outline(cell []byte) *Outline {
	o := r.outlines
	if o == nil || len(cell) > maxOutline {
		return nil
	}
	text := r.padded(cell)
	e := o.like(text, uint(len(cell)))
	if e == nil || e.zeroOnly && !e.isZero(text) {
		return nil
	}
	return e
}

// LookUp returns the outline of a cell that is not empty, if it is known; nil where it is not, and nothing has been
// learned.
func (r *Reader) LookUp(cell []byte) *Outline {
	o := r.outlines
	if o == nil || o.rest > 0 || o.all == nil || len(cell) > maxOutline {
		return nil
	}
	text := r.padded(cell)
	var want outlineKey
	e, _ := o.find(&want, text, len(cell))
	if e == nil || e.kind <= refused || e.zeroOnly && !e.isZero(text) {
		return nil
	}
	o.last[len(cell)][bit(e.lead)] = e
	return e
}

// ReadBy reads a cell by its outline. It is nil where the digits make no such value.
func (r *Reader) ReadBy(e *Outline, cell []byte) *Reads {
	if x := r.begin(); r.fill(e, r.padded(cell), cell, x) {
		return x
	}
	return nil
}

// Plain reads a cell that is not empty if it is plain and so short that this is quicker than to look at its outline;
// else it is nil.
func (r *Reader) Plain(cell []byte) *Reads {
	if len(cell) > plainFirst || !r.mayBePlain(cell) {
		return nil
	}
	if x := r.begin(); r.plain(cell, x) {
		return x
	}
	return nil
}

// Fixed reports whether all cells of the outline are read as the same set and form: texts, and numbers of at most 18
// digits, which Coef tells.
func (e *Outline) Fixed() bool {
	return e.kind == ofNumber && e.count <= maxDigits || e.kind == ofText && !e.alike
}

// Coef returns the digits of a number with that outline, which is fixed, as a whole number with its sign; 0 for a text.
func (r *Reader) Coef(e *Outline, cell []byte) int64 {
	if e.kind != ofNumber {
		return 0
	}
	coef := e.coef(r.padded(cell))
	if e.negative {
		return -coef
	}
	return coef
}

// Known returns the outline of the cell that was read last, nil where it is not known.
func (r *Reader) Known() *Outline { return r.known }
