package parquet

import (
	"bytes"
	"errors"
	"fmt"
	"io"
	"math"
	"math/big"
	"slices"
	"strconv"
	"unicode/utf8"

	"github.com/parquet-go/parquet-go/deprecated"
	"github.com/parquet-go/parquet-go/encoding"

	"roundyear/fault"
	"roundyear/rows"
)

// read appends the next values of a chunk to a vector.
func (c *column) read(chunk *chunk, count int, v *rows.Vector) error {
	out := values{column: c, v: v, count: count}
	if c.stored != texts && cap(v.Int) < count {
		v.Int = make([]int64, 0, count)
	}
	for out.row < count {
		if chunk.page == nil {
			page, err := chunk.pages.next()
			if errors.Is(err, io.EOF) {
				return fmt.Errorf("%s ends %d rows early", c.Name, count-out.row)
			}
			if err != nil {
				return err
			}
			chunk.page, chunk.row, chunk.value = page, 0, 0
		}
		out.take(chunk)
		if chunk.row == chunk.page.rows {
			chunk.page = nil
		}
	}
	return out.end()
}

// values are the values of a vector as they come from pages.
type values struct {
	*column
	v          *rows.Vector
	row, count int
	// at are the places of the values of rows in the page at work; -1 for one that is missing.
	at []int32
	// isWhole tells that none of them is missing, and they stand in the page one after the other.
	isWhole bool
	// areChecked tells that the texts of the dictionary are UTF-8.
	areChecked bool
	// wide are the numbers of all rows once one of them does not fit into 64 bits.
	wide []*big.Int
}

// take takes as many rows of a page as it has, and as are wanted.
func (o *values) take(chunk *chunk) {
	n := min(o.count-o.row, chunk.page.rows-chunk.row)
	o.locate(chunk, n)
	page, entries := chunk.page.values, chunk.page.entries
	if entries != nil && o.stored == texts {
		o.takeCodes(chunk, entries, chunk.page.codes)
		o.row += n
		chunk.row += n
		return
	}
	if entries != nil {
		o.isWhole = false
		for i, at := range o.at {
			if at >= 0 {
				o.at[i] = chunk.page.codes[at]
			}
		}
		page = entries.values
	}
	o.append(page)
	o.row += n
	chunk.row += n
}

// codes are the texts of a dictionary.
type codes struct {
	of      *entries
	offsets []uint32
	bytes   []byte
	areText bool
}

// takeCodes takes texts by their places in a dictionary.
func (o *values) takeCodes(chunk *chunk, dictionary *entries, places []int32) {
	if chunk.codes == nil || chunk.codes.of != dictionary {
		all, offsets := dictionary.values.ByteArray()
		chunk.codes = &codes{of: dictionary, offsets: slices.Clone(offsets), bytes: slices.Clone(all)}
		chunk.codes.areText = isText(&rows.Vector{Offsets: chunk.codes.offsets, Bytes: chunk.codes.bytes})
	}
	o.areChecked = chunk.codes.areText
	if o.row > 0 && o.v.Codes == nil {
		o.texts(func(at int32) []byte {
			entry := places[at]
			return chunk.codes.bytes[chunk.codes.offsets[entry]:chunk.codes.offsets[entry+1]]
		})
		return
	}
	if o.v.Codes == nil {
		o.v.Codes, o.v.Offsets, o.v.Bytes = make([]uint32, 0, o.count), chunk.codes.offsets, chunk.codes.bytes
	}
	for _, at := range o.at {
		code := uint32(0)
		if at >= 0 {
			code = uint32(places[at])
		}
		if at >= 0 && int64(code) >= int64(dictionary.count) {
			panic("a value is beyond the dictionary")
		}
		o.v.Codes = append(o.v.Codes, code)
	}
}

// locate finds which values of a page belong to the next rows.
func (o *values) locate(chunk *chunk, n int) {
	if cap(o.at) < n {
		o.at = make([]int32, 0, n)
	}
	levels := chunk.page.levels
	if len(levels) == 0 || o.present == 1 && bytes.IndexByte(levels[chunk.row:chunk.row+n], 0) < 0 {
		o.at = o.at[:n]
		for i := range o.at {
			o.at[i] = int32(chunk.value + i)
		}
		chunk.value += n
		o.isWhole = true
		return
	}
	o.at, o.isWhole = o.at[:0], false
	for i, level := range levels[chunk.row : chunk.row+n] {
		if level != o.present {
			o.at = append(o.at, -1)
			o.v.Invalidate(o.row + i)
			continue
		}
		o.at = append(o.at, int32(chunk.value))
		chunk.value++
	}
}

// append appends values of a page.
func (o *values) append(page encoding.Values) {
	switch o.stored {
	case booleans:
		packed := page.Boolean()
		o.numbers(func(at int32) int64 { return int64(packed[at/8] >> (at % 8) & 1) })
	case int32s:
		appendInts(o, page.Int32())
	case uint32s:
		all := page.Int32()
		o.numbers(func(at int32) int64 { return int64(uint32(all[at])) })
	case int64s:
		appendInts(o, page.Int64())
	case uint64s:
		all := page.Int64()
		o.large(func(at int32) (int64, bool) { return all[at], all[at] >= 0 }, func(at int32) *big.Int { return new(big.Int).SetUint64(uint64(all[at])) })
	case int96s:
		all := page.Int96()
		o.numbers(func(at int32) int64 { return microseconds(all[at]) })
	case floats:
		all := page.Float()
		o.numbers(func(at int32) int64 { return int64(math.Float64bits(widened(all[at]))) })
	case doubles:
		all := page.Double()
		o.numbers(func(at int32) int64 { return int64(math.Float64bits(all[at])) })
	case texts:
		data, offsets := page.ByteArray()
		o.texts(func(at int32) []byte { return data[offsets[at]:offsets[at+1]] })
	case uuids:
		data, _ := page.FixedLenByteArray()
		o.texts(func(at int32) []byte { return uuidText(data[at*16:][:16]) })
	case bigEndians:
		number := o.bytesOf(page)
		o.large(func(at int32) (int64, bool) { return small(number(at)) }, func(at int32) *big.Int { return large(number(at)) })
	}
}

func appendInts[T int32 | int64](o *values, page []T) {
	if o.isWhole && len(o.at) > 0 {
		page = page[o.at[0] : int(o.at[0])+len(o.at)]
		if same, ok := any(page).([]int64); ok {
			o.v.Int = append(o.v.Int, same...)
			return
		}
		for _, value := range page {
			o.v.Int = append(o.v.Int, int64(value))
		}
		return
	}
	for _, at := range o.at {
		if at < 0 {
			o.v.Int = append(o.v.Int, 0)
			continue
		}
		o.v.Int = append(o.v.Int, int64(page[at]))
	}
}

func (o *values) numbers(value func(at int32) int64) {
	for _, at := range o.at {
		if at < 0 {
			o.v.Int = append(o.v.Int, 0)
			continue
		}
		o.v.Int = append(o.v.Int, value(at))
	}
}

// large appends numbers that may not fit into 64 bits.
func (o *values) large(value func(at int32) (int64, bool), whole func(at int32) *big.Int) {
	for _, at := range o.at {
		var number int64
		fits := true
		if at >= 0 {
			number, fits = value(at)
		}
		if !fits && o.wide == nil {
			for _, before := range o.v.Int {
				o.wide = append(o.wide, big.NewInt(before))
			}
			o.wide = append(make([]*big.Int, 0, o.count), o.wide...)
		}
		switch {
		case o.wide == nil:
			o.v.Int = append(o.v.Int, number)
		case at < 0:
			o.wide = append(o.wide, nil)
		default:
			o.wide = append(o.wide, whole(at))
		}
	}
}

func (o *values) texts(value func(at int32) []byte) {
	if o.v.Codes != nil {
		o.v.Spell()
	}
	if o.v.Offsets == nil {
		o.v.Offsets = append(make([]uint32, 0, o.count+1), 0)
	}
	for _, at := range o.at {
		if at >= 0 {
			o.v.Bytes = append(o.v.Bytes, value(at)...)
		}
		o.v.Offsets = append(o.v.Offsets, uint32(len(o.v.Bytes)))
	}
}

// end ends the vector. The error is that of texts that are not UTF-8.
func (o *values) end() error {
	if o.wide != nil {
		o.v.Type, o.v.Int, o.v.Offsets = rows.Text, nil, []uint32{0}
		for i, number := range o.wide {
			if o.v.IsValid(i) {
				o.v.Bytes = appendScaled(o.v.Bytes, number, int(o.v.Scale))
			}
			o.v.Offsets = append(o.v.Offsets, uint32(len(o.v.Bytes)))
		}
		return nil
	}
	if o.stored != texts || o.v.Codes != nil && o.areChecked || isText(o.v) {
		return nil
	}
	problem := &fault.Fault{What: "is text that is not UTF-8", Remedy: "Leave the column out when the file is written", Kind: fault.Malformed}
	if o.mayBeBytes {
		problem.What = "holds bytes that are not text"
	}
	return problem
}

// isText tells whether all texts are UTF-8.
func isText(v *rows.Vector) bool {
	if !utf8.Valid(v.Bytes) {
		return false
	}
	for _, at := range v.Offsets {
		if int(at) < len(v.Bytes) && !utf8.RuneStart(v.Bytes[at]) {
			return false // one of them ends within a letter
		}
	}
	return true
}

// bytesOf returns the bytes of a value by its place.
func (o *values) bytesOf(page encoding.Values) func(at int32) []byte {
	if page.Kind() == encoding.FixedLenByteArray {
		data, size := page.FixedLenByteArray()
		return func(at int32) []byte { return data[int(at)*size:][:size] }
	}
	data, offsets := page.ByteArray()
	return func(at int32) []byte { return data[offsets[at]:offsets[at+1]] }
}

// small returns a number of big-endian bytes, if it fits into 64 bits.
func small(digits []byte) (int64, bool) {
	if len(digits) == 0 {
		return 0, true
	}
	sign := byte(int8(digits[0]) >> 7)
	for len(digits) > 8 && digits[0] == sign {
		digits = digits[1:]
	}
	if len(digits) > 8 || byte(int8(digits[0])>>7) != sign {
		return 0, false
	}
	number := int64(int8(sign))
	for _, b := range digits {
		number = number<<8 | int64(b)
	}
	return number, true
}

func large(digits []byte) *big.Int {
	number := new(big.Int).SetBytes(digits)
	if len(digits) > 0 && digits[0] >= 0x80 {
		number.Sub(number, new(big.Int).Lsh(big.NewInt(1), uint(8*len(digits))))
	}
	return number
}

// appendScaled appends units of a scale as a number with so many decimals.
func appendScaled(text []byte, units *big.Int, scale int) []byte {
	digits := new(big.Int).Abs(units).String()
	if units.Sign() < 0 {
		text = append(text, '-')
	}
	for len(digits) <= scale {
		digits = "0" + digits
	}
	whole := len(digits) - scale
	text = append(text, digits[:whole]...)
	if scale == 0 {
		return text
	}
	return append(append(text, '.'), digits[whole:]...)
}

// widened returns the number of 64 bits that is written as one of 32 bits is.
func widened(number float32) float64 {
	wide, _ := strconv.ParseFloat(strconv.FormatFloat(float64(number), 'g', -1, 32), 64)
	return wide
}

const (
	unixEpoch         = 2440588 // 1970-01-01 by its Julian number
	microsecondsOfDay = 24 * 60 * 60 * 1_000_000
)

// microseconds returns a time since 1970-01-01.
func microseconds(value deprecated.Int96) int64 {
	nanos := int64(uint64(value[1])<<32 | uint64(value[0]))
	return (int64(value[2])-unixEpoch)*microsecondsOfDay + nanos/1000
}

// uuidText writes the bytes of a UUID as RFC 9562 has it.
func uuidText(id []byte) []byte {
	return fmt.Appendf(nil, "%x-%x-%x-%x-%x", id[:4], id[4:6], id[6:8], id[8:10], id[10:])
}
