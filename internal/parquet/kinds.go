package parquet

import (
	"encoding/binary"
	"fmt"
	"math"
	"math/big"

	"roundyear/facts/decimal"
	"roundyear/rows"
)

// kind is how values of a physical type are stored.
type kind[T int64 | string] struct {
	append func(to []byte, value T) []byte
	// deltas appends values as differences, where they are stored so.
	deltas func(to []byte, values []T) []byte
	hash   func(T) uint64
	size   func(T) int
	// bounds returns the smallest and the largest of values, as statistics have them; nothing if there are none.
	bounds func(values []T) (least, most []byte)
}

var (
	int32Kind = kind[int64]{append: appendInt32, hash: hashOfInt, size: func(int64) int { return 4 }, bounds: func(values []int64) (least, most []byte) {
		return boundsOf(values, func(value int64) int64 { return value }, appendInt32)
	}}
	int64Kind = kind[int64]{append: appendInt64, deltas: appendDeltas, hash: hashOfInt, size: func(int64) int { return 8 }, bounds: func(values []int64) (least, most []byte) {
		return boundsOf(values, func(value int64) int64 { return value }, appendInt64)
	}}
	// Numbers with a floating point have no order that all readers agree on.
	doubleKind = kind[int64]{append: appendInt64, hash: hashOfInt, size: func(int64) int { return 8 }, bounds: func([]int64) (least, most []byte) { return nil, nil }}
	textKind   = kind[string]{append: appendText, hash: hashOfText, size: func(text string) int { return 4 + len(text) }, bounds: textBounds}
	wideKind   = kind[string]{append: appendWide, hash: hashOfText, size: func(string) int { return wideSize }, bounds: func(values []string) (least, most []byte) {
		// The sign is the first bit: turned over, the bytes are in the order of the numbers.
		return boundsOf(values, func(value string) string { return string(value[0]^0x80) + value[1:] }, appendWide)
	}}
)

func appendInt32(to []byte, value int64) []byte {
	return binary.LittleEndian.AppendUint32(to, uint32(int32(value)))
}

func appendInt64(to []byte, value int64) []byte {
	return binary.LittleEndian.AppendUint64(to, uint64(value))
}

func appendText(to []byte, value string) []byte {
	return append(binary.LittleEndian.AppendUint32(to, uint32(len(value))), value...)
}

func appendWide(to []byte, value string) []byte { return append(to, value...) }

func boundsOf[T, K int64 | string](values []T, key func(T) K, write func([]byte, T) []byte) (least, most []byte) {
	if len(values) == 0 {
		return nil, nil
	}
	low, high := values[0], values[0]
	for _, value := range values[1:] {
		if key(value) < key(low) {
			low = value
		}
		if key(value) > key(high) {
			high = value
		}
	}
	return write(nil, low), write(nil, high)
}

// maxBound is how long a text may be that statistics have.
const maxBound = 256

func textBounds(values []string) (least, most []byte) {
	if len(values) == 0 {
		return nil, nil
	}
	low, high := values[0], values[0]
	for _, value := range values[1:] {
		low, high = min(low, value), max(high, value)
	}
	if len(low) > maxBound || len(high) > maxBound {
		return nil, nil
	}
	return []byte(low), []byte(high)
}

// texts returns the texts that are there.
func (e *encoder) texts() []string {
	all := string(e.v.Bytes)
	values := make([]string, 0, e.count)
	for i := range e.count {
		if e.v.IsValid(i) {
			values = append(values, all[e.v.Offsets[i]:e.v.Offsets[i+1]])
		}
	}
	return values
}

// ints returns the numbers that are there, as they are stored.
func (e *encoder) ints() ([]int64, error) {
	factor := int64(1)
	switch e.column.Type {
	case rows.Moment, rows.Instant, rows.Clock:
		factor = unitsPer(e.column.Scale)
	}
	values := make([]int64, 0, e.count)
	for i := range e.count {
		switch {
		case !e.v.IsValid(i):
		case e.v.Type == rows.Text:
			return nil, &badValue{i, fmt.Sprintf("%s does not fit into 64 bits", e.v.Text(i))}
		case e.column.Type.IsDate() && (e.v.Int[i] == rows.Infinite || e.v.Int[i] == -rows.Infinite-1):
			return nil, &badValue{i, "is infinite, which Parquet has no date for"}
		case e.column.Type == rows.Day && int64(int32(e.v.Int[i])) != e.v.Int[i]:
			return nil, &badValue{i, "is too far from 1970 for a date in Parquet"}
		case factor > 1 && (e.v.Int[i] > math.MaxInt64/factor || e.v.Int[i] < math.MinInt64/factor):
			return nil, &badValue{i, "is too far from 1970 for its unit of time"}
		default:
			values = append(values, e.v.Int[i]*factor)
		}
	}
	return values, nil
}

// wide returns the decimal numbers that are there, in so many bytes each. One with more decimals than its column
// is rounded half to even.
func (e *encoder) wide() ([]string, error) {
	scale := int(e.column.Scale)
	values := make([]string, 0, e.count)
	for i := range e.count {
		if !e.v.IsValid(i) {
			continue
		}
		var number decimal.Decimal
		if e.v.Type == rows.Text {
			var err error
			if number, err = decimal.Parse(e.v.Text(i)); err != nil {
				return nil, &badValue{i, fmt.Sprintf("%q %s", e.v.Text(i), err)}
			}
		} else {
			number = decimal.OfUnits(e.v.Int[i], int(e.v.Scale))
		}
		if number.Scale() > scale {
			number = number.Over(1, scale)
		}
		units := number.BigUnits(scale)
		if units.CmpAbs(beyondWide) >= 0 {
			return nil, &badValue{i, fmt.Sprintf("%s has more than the %d digits of a decimal number in Parquet", number, wideDigits)}
		}
		values = append(values, twosComplement(units))
	}
	return values, nil
}

// beyondWide is the smallest number that has too many digits.
var beyondWide = new(big.Int).Exp(big.NewInt(10), big.NewInt(wideDigits), nil)

func twosComplement(number *big.Int) string {
	var bytes [wideSize]byte
	if number.Sign() >= 0 {
		number.FillBytes(bytes[:])
		return string(bytes[:])
	}
	// The bits of what is one less, turned over.
	new(big.Int).Not(number).FillBytes(bytes[:])
	for i := range bytes {
		bytes[i] = ^bytes[i]
	}
	return string(bytes[:])
}
