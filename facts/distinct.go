package facts

// distinct is which values of a column each cell has, exactly. Its memory grows with the
// number of different values and of pairs of cell and value.
type distinct struct {
	// values numbers the different values, pairs are cells and numbers of values.
	values *groupTable
	pairs  map[uint64]struct{}
	// value is the one that is looked up.
	value [1][]byte
}

func newDistinct() *distinct {
	return &distinct{values: newGroupTable(), pairs: map[uint64]struct{}{}}
}

// add takes in a value of a cell, and tells whether the cell did not have it yet.
func (d *distinct) add(cell uint32, value []byte) (isNew bool) {
	d.value[0] = value
	number, _ := d.values.number(d.value[:])
	return d.addPair(cell, number)
}

func (d *distinct) addPair(cell uint32, value int) (isNew bool) {
	before := len(d.pairs)
	d.pairs[uint64(cell)<<32|uint64(uint32(value))] = struct{}{}
	return len(d.pairs) > before
}

// join takes in the values of another column, whose cells have other numbers here, or noPage for those
// that are left out. It calls found for each value that a cell did not have yet.
func (d *distinct) join(other *distinct, cells []uint32, found func(cell uint32)) {
	numbers := make([]int, other.values.len())
	for value := range numbers {
		numbers[value], _ = d.values.numberOf(other.values.keyOf(value))
	}
	for pair := range other.pairs {
		if cell := cells[pair>>32]; cell != noPage && d.addPair(cell, numbers[uint32(pair)]) {
			found(cell)
		}
	}
}
