// Package decimal adds and compares decimal numbers exactly, so that money
// summed over any number of rows is right to the last cent.
package decimal

import (
	"cmp"
	"errors"
	"math"
	"math/big"
	"math/bits"
	"strconv"
	"strings"
)

// Decimal is a whole number of 10 to the power of minus scale. The zero
// Decimal is 0. Numbers that fit 64 bits are kept in small; large ones in big.
type Decimal struct {
	small int64
	big   *big.Int
	scale int
}

// MaxScale is the most decimals a number can be read with.
const MaxScale = 100

// Errors of Parse.
var (
	ErrNotANumber = errors.New("is not a decimal number; write it as 1234.56, with a point and without thousands separators or currency")
	ErrTooLong    = errors.New("has more than 100 decimals or digits")
)

// Parse reads a number such as 1234.56, -7 or 1.2e-5. It is one of the errors
// of this package if the text is anything else.
func Parse(text []byte) (Decimal, error) {
	if number, ok := parsePlain(text); ok {
		return number, nil
	}
	return parseAny(text)
}

// parsePlain reads what amounts mostly are: up to 18 digits with a point among them, or
// without.
func parsePlain(text []byte) (Decimal, bool) {
	if len(text) == 0 || len(text) > 18 {
		return Decimal{}, false
	}
	negative := text[0] == '-'
	if negative {
		text = text[1:]
	}
	units, point := int64(0), -1
	for i, c := range text {
		if digit := c - '0'; digit <= 9 {
			units = units*10 + int64(digit)
			continue
		}
		if c != '.' || point >= 0 {
			return Decimal{}, false
		}
		point = i
	}
	digits, scale := len(text), 0
	if point >= 0 {
		digits, scale = len(text)-1, len(text)-1-point
	}
	if digits == 0 {
		return Decimal{}, false
	}
	if negative {
		units = -units
	}
	return Decimal{small: units, scale: scale}, true
}

func parseAny(text []byte) (Decimal, error) {
	rest, negative := text, false
	if len(rest) > 0 && (rest[0] == '-' || rest[0] == '+') {
		negative = rest[0] == '-'
		rest = rest[1:]
	}
	var number Decimal
	var mantissa uint64
	digits, fits, afterPoint := 0, true, false
	end := 0
	for ; end < len(rest); end++ {
		c := rest[end]
		if c == '.' && !afterPoint {
			afterPoint = true
			continue
		}
		if c < '0' || c > '9' {
			break
		}
		digits++
		if afterPoint {
			number.scale++
		}
		if mantissa > (math.MaxInt64-9)/10 {
			fits = false
		}
		mantissa = mantissa*10 + uint64(c-'0')
	}
	if digits == 0 {
		return Decimal{}, ErrNotANumber
	}
	if digits > 2*MaxScale || number.scale > MaxScale {
		return Decimal{}, ErrTooLong
	}
	exponent, err := parseExponent(rest[end:])
	if err != nil {
		return Decimal{}, err
	}
	if fits {
		number.small = int64(mantissa)
	} else {
		plain := strings.ReplaceAll(string(rest[:end]), ".", "")
		number.big, _ = new(big.Int).SetString(plain, 10)
	}
	if negative {
		number = number.negated()
	}
	return number.shifted(exponent)
}

func parseExponent(text []byte) (int, error) {
	if len(text) == 0 {
		return 0, nil
	}
	if text[0] != 'e' && text[0] != 'E' {
		return 0, ErrNotANumber
	}
	text = text[1:]
	sign := 1
	if len(text) > 0 && (text[0] == '-' || text[0] == '+') {
		if text[0] == '-' {
			sign = -1
		}
		text = text[1:]
	}
	if len(text) == 0 {
		return 0, ErrNotANumber
	}
	exponent := 0
	for _, c := range text {
		if c < '0' || c > '9' {
			return 0, ErrNotANumber
		}
		if exponent = exponent*10 + int(c-'0'); exponent > MaxScale {
			return 0, ErrTooLong
		}
	}
	return sign * exponent, nil
}

// OfInt returns a whole number.
func OfInt(number int) Decimal { return Decimal{small: int64(number)} }

// OfUnits returns units divided by 10 to the power of scale.
func OfUnits(units int64, scale int) Decimal { return Decimal{small: units, scale: scale} }

// OfBig is OfUnits for numbers of any size. The units are not to be changed afterwards.
func OfBig(units *big.Int, scale int) Decimal { return Decimal{big: units, scale: scale} }

// Units returns the number times 10 to the power of a scale, which is not less than its
// own; it is false if that does not fit 64 bits.
func (d Decimal) Units(scale int) (int64, bool) {
	if scale == d.scale && d.big == nil {
		return d.small, true
	}
	d = d.scaledUp(scale)
	if d.big == nil {
		return d.small, true
	}
	// The least of all numbers is left out, so that a sign can always be turned.
	if d.big.IsInt64() && d.big.Int64() != math.MinInt64 {
		return d.big.Int64(), true
	}
	return 0, false
}

// UnitsOf is Units without any work: it is false as well if the scale is another one.
func (d Decimal) UnitsOf(scale int) (int64, bool) { return d.small, d.scale == scale && d.big == nil }

// BigUnits is Units for numbers of any size.
func (d Decimal) BigUnits(scale int) *big.Int {
	return new(big.Int).Set(d.scaledUp(scale).unscaled())
}

// Scale returns the number of decimals.
func (d Decimal) Scale() int { return d.scale }

// Add returns the exact sum, with the larger of the two scales.
func (d Decimal) Add(other Decimal) Decimal {
	d, other = aligned(d, other)
	if d.big == nil && other.big == nil {
		sum := d.small + other.small
		if (sum > d.small) == (other.small > 0) {
			return Decimal{small: sum, scale: d.scale}
		}
	}
	return Decimal{big: new(big.Int).Add(d.unscaled(), other.unscaled()), scale: d.scale}
}

// Cmp is negative when d is less than the other, positive when it is more.
func (d Decimal) Cmp(other Decimal) int {
	d, other = aligned(d, other)
	if d.big == nil && other.big == nil {
		return cmp.Compare(d.small, other.small)
	}
	return d.unscaled().Cmp(other.unscaled())
}

// Over returns d divided by a positive whole number, rounded half to even at a
// scale.
func (d Decimal) Over(divisor, scale int) Decimal {
	if shift := scale - d.scale; d.big == nil && d.small != math.MinInt64 && shift >= 0 && shift < len(smallPowers) && divisor <= math.MaxInt64/2 {
		if high, low := bits.Mul64(uint64(abs(d.small)), smallPowers[shift]); high == 0 && low <= math.MaxInt64 {
			return Decimal{small: halfToEven(d.small*int64(smallPowers[shift]), int64(divisor)), scale: scale}
		}
	}
	return ratio(d.unscaled(), big.NewInt(int64(divisor)), d.scale, scale)
}

// halfToEven divides by a positive number and rounds to the nearest whole number, of two to the even one.
func halfToEven(number, divisor int64) int64 {
	quotient, rest := number/divisor, abs(number%divisor)
	if twice := 2 * rest; twice > divisor || twice == divisor && quotient%2 != 0 {
		if number < 0 {
			return quotient - 1
		}
		return quotient + 1
	}
	return quotient
}

// Between returns the point at step of steps on the straight line from d to
// the other, rounded half to even at a scale.
func (d Decimal) Between(other Decimal, step, steps, scale int) Decimal {
	d, other = aligned(d, other)
	from, to := d.unscaled(), other.unscaled()
	weighted := new(big.Int).Mul(from, big.NewInt(int64(steps-step)))
	weighted.Add(weighted, new(big.Int).Mul(to, big.NewInt(int64(step))))
	return ratio(weighted, big.NewInt(int64(steps)), d.scale, scale)
}

// Trimmed leaves out zeros at the end of the decimals, down to so many decimals.
func (d Decimal) Trimmed(scale int) Decimal {
	text := d.Text(0)
	for d.scale > scale && strings.HasSuffix(text, "0") {
		text = strings.TrimSuffix(text, "0")
		d.scale--
	}
	trimmed, err := Parse([]byte(strings.TrimSuffix(text, ".")))
	if err != nil {
		return d // more digits than are read
	}
	return trimmed
}

// Text returns the digits with at least as many decimals as asked for.
func (d Decimal) Text(scale int) string {
	var buffer [32]byte
	return string(d.AppendText(buffer[:0], scale))
}

// AppendText appends Text.
func (d Decimal) AppendText(text []byte, scale int) []byte {
	d = d.scaledUp(max(scale, d.scale))
	if d.big != nil || d.scale >= len(smallPowers) || d.small == math.MinInt64 {
		return append(text, d.bigText()...)
	}
	if d.small < 0 {
		text = append(text, '-')
	}
	power := smallPowers[d.scale]
	whole, decimals := uint64(abs(d.small))/power, uint64(abs(d.small))%power
	text = strconv.AppendUint(text, whole, 10)
	if d.scale == 0 {
		return text
	}
	text = append(text, '.')
	for power /= 10; power > 1 && decimals < power; power /= 10 {
		text = append(text, '0')
	}
	return strconv.AppendUint(text, decimals, 10)
}

func (d Decimal) bigText() string {
	digits := d.unscaled().String()
	sign := ""
	if digits[0] == '-' {
		sign, digits = "-", digits[1:]
	}
	if d.scale == 0 {
		return sign + digits
	}
	if missing := d.scale + 1 - len(digits); missing > 0 {
		digits = strings.Repeat("0", missing) + digits
	}
	point := len(digits) - d.scale
	return sign + digits[:point] + "." + digits[point:]
}

// String returns the digits with the number's own decimals.
func (d Decimal) String() string { return d.Text(0) }

// ratio divides numerator/10^scale by divisor and rounds at the wanted scale.
func ratio(numerator, divisor *big.Int, scale, wanted int) Decimal {
	numerator, divisor = new(big.Int).Set(numerator), new(big.Int).Set(divisor)
	if wanted >= scale {
		numerator.Mul(numerator, powerOfTen(wanted-scale))
	} else {
		divisor.Mul(divisor, powerOfTen(scale-wanted))
	}
	quotient, rest := new(big.Int).QuoRem(numerator, divisor, new(big.Int))
	twice := rest.Abs(rest).Lsh(rest, 1)
	if half := twice.Cmp(divisor); half > 0 || half == 0 && quotient.Bit(0) == 1 {
		quotient.Add(quotient, big.NewInt(int64(numerator.Sign())))
	}
	return Decimal{big: quotient, scale: wanted}
}

func aligned(a, b Decimal) (Decimal, Decimal) {
	return a.scaledUp(b.scale), b.scaledUp(a.scale)
}

func (d Decimal) scaledUp(scale int) Decimal {
	if scale <= d.scale {
		return d
	}
	if shift := scale - d.scale; d.big == nil && shift < len(smallPowers) {
		high, low := bits.Mul64(uint64(abs(d.small)), smallPowers[shift])
		if high == 0 && low <= math.MaxInt64 {
			return Decimal{small: d.small * int64(smallPowers[shift]), scale: scale}
		}
	}
	return Decimal{big: new(big.Int).Mul(d.unscaled(), powerOfTen(scale-d.scale)), scale: scale}
}

func (d Decimal) shifted(exponent int) (Decimal, error) {
	switch {
	case exponent == 0:
		return d, nil
	case d.scale-exponent > MaxScale:
		return Decimal{}, ErrTooLong
	case exponent <= d.scale:
		d.scale -= exponent
		return d, nil
	}
	whole := new(big.Int).Mul(d.unscaled(), powerOfTen(exponent-d.scale))
	return Decimal{big: whole}, nil
}

func (d Decimal) negated() Decimal {
	if d.big != nil {
		return Decimal{big: new(big.Int).Neg(d.big), scale: d.scale}
	}
	return Decimal{small: -d.small, scale: d.scale}
}

func (d Decimal) unscaled() *big.Int {
	if d.big != nil {
		return d.big
	}
	return big.NewInt(d.small)
}

var smallPowers = func() (powers [19]uint64) {
	power := uint64(1)
	for i := range powers {
		powers[i] = power
		power *= 10
	}
	return powers
}()

func powerOfTen(exponent int) *big.Int {
	return new(big.Int).Exp(big.NewInt(10), big.NewInt(int64(exponent)), nil)
}

func abs(number int64) int64 {
	if number < 0 {
		return -number
	}
	return number
}
