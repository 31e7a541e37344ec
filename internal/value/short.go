package value

// ShortDigits is how many digits a short number has at most.
const ShortDigits = 18

// Tens are the powers of ten up to that of the digits of a short number.
var Tens = func() (t [ShortDigits + 1]int64) {
	t[0] = 1
	for i := 1; i < len(t); i++ {
		t[i] = t[i-1] * 10
	}
	return t
}()

// ParseShort reads a number of at most 18 digits in canonical text, as a coefficient divided by ten to the power of
// scale, and tells how many digits it has. It is false of all else, and allocates nothing.
func ParseShort[T string | []byte](text T) (coef int64, scale int32, digits int, ok bool) {
	i, point := 0, -1
	negative := len(text) > 0 && text[0] == '-'
	if negative {
		i = 1
	}
	for ; i < len(text); i++ {
		switch b := text[i]; {
		case b == '.' && point < 0 && digits > 0:
			point = i
		case b < '0' || b > '9' || digits == ShortDigits:
			return 0, 0, 0, false
		default:
			coef = coef*10 + int64(b-'0')
			digits++
		}
	}
	if digits == 0 || point == len(text)-1 {
		return 0, 0, 0, false
	}
	if point >= 0 {
		scale = int32(len(text) - point - 1)
	}
	if negative {
		coef = -coef
	}
	return coef, scale, digits, true
}
