package decimal

import (
	"math"
	"math/big"
	"math/bits"
)

// Mul returns the exact product, with the decimals of both.
func (d Decimal) Mul(other Decimal) Decimal {
	scale := d.scale + other.scale
	if d.big == nil && other.big == nil && d.small != math.MinInt64 && other.small != math.MinInt64 {
		if high, low := bits.Mul64(uint64(abs(d.small)), uint64(abs(other.small))); high == 0 && low <= math.MaxInt64 {
			return Decimal{small: d.small * other.small, scale: scale}
		}
	}
	return Decimal{big: new(big.Int).Mul(d.unscaled(), other.unscaled()), scale: scale}
}

// Quo returns the quotient, rounded half to even at a scale. It is false for a division by zero.
func (d Decimal) Quo(other Decimal, scale int) (quotient Decimal, ok bool) {
	divisor := other.unscaled()
	if divisor.Sign() == 0 {
		return Decimal{}, false
	}
	numerator := d.unscaled()
	if divisor.Sign() < 0 {
		numerator, divisor = new(big.Int).Neg(numerator), new(big.Int).Neg(divisor)
	}
	if other.scale > 0 {
		numerator = new(big.Int).Mul(numerator, powerOfTen(other.scale))
	}
	return ratio(numerator, divisor, d.scale, scale), true
}

// Round returns the number rounded half to even at a scale; one with fewer decimals as it is.
func (d Decimal) Round(scale int) Decimal {
	if d.scale <= scale {
		return d
	}
	return ratio(d.unscaled(), big.NewInt(1), d.scale, scale)
}

// Neg returns the number with the other sign.
func (d Decimal) Neg() Decimal {
	if d.big == nil && d.small == math.MinInt64 {
		return Decimal{big: new(big.Int).Neg(d.unscaled()), scale: d.scale}
	}
	return d.negated()
}

// Sign returns -1, 0 or 1.
func (d Decimal) Sign() int { return d.unscaled().Sign() }
