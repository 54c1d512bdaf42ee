// Package allocation lays what is known of a whole over its parts, to the last unit: a monthly budget over the days of the month.
package allocation

import (
	"math/big"
	"slices"

	"roundyear/facts/decimal"
)

// Apportion divides a total by weights, in units of so many decimals. The parts add up to the total exactly: each has the units that it has a
// whole claim to, and those that are left go one by one to the parts with the largest remainders, of equal ones to the first. It is false
// where no weight is above zero, or the total has more decimals; weights below zero count as zero.
func Apportion(total decimal.Decimal, weights []decimal.Decimal, decimals int) (parts []decimal.Decimal, ok bool) {
	if total.Scale() > decimals {
		return nil, false
	}
	whole, scale := new(big.Int), 0
	for _, weight := range weights {
		scale = max(scale, weight.Scale())
	}
	claims := make([]*big.Int, len(weights))
	for i, weight := range weights {
		if claims[i] = weight.BigUnits(scale); claims[i].Sign() < 0 {
			claims[i] = new(big.Int)
		}
		whole.Add(whole, claims[i])
	}
	if whole.Sign() == 0 {
		return nil, false
	}
	units := total.BigUnits(decimals)
	isNegative := units.Sign() < 0
	left := new(big.Int).Abs(units)
	each, rests, order := make([]*big.Int, len(weights)), make([]*big.Int, len(weights)), make([]int, len(weights))
	units = new(big.Int).Set(left)
	for i, claim := range claims {
		each[i], rests[i] = new(big.Int).QuoRem(new(big.Int).Mul(units, claim), whole, new(big.Int))
		left.Sub(left, each[i])
		order[i] = i
	}
	slices.SortStableFunc(order, func(a, b int) int { return rests[b].Cmp(rests[a]) })
	one := big.NewInt(1)
	// Less is left than there are parts with a remainder.
	for _, i := range order[:left.Int64()] {
		each[i].Add(each[i], one)
	}
	for _, part := range each {
		if isNegative {
			part.Neg(part)
		}
		parts = append(parts, decimal.OfBig(part, decimals))
	}
	return parts, true
}
