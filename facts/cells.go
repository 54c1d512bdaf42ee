package facts

// cells are the records of all groups and periods with facts, one behind the other: the
// number of facts, and what each measure keeps of them. What belongs to one cell is read
// and written together, so it lies together. The records are in blocks that are never
// moved, so that many cells grow without being copied.
type cells struct {
	// stride is the length of a record, count how many records there are.
	stride int
	count  uint32
	blocks [][]int64
}

const (
	blockBits  = 13
	blockCells = 1 << blockBits
)

// record returns the record of a cell. Its first number is that of the facts.
func (c *cells) record(cell uint32) []int64 {
	at := int(cell&(blockCells-1)) * c.stride
	return c.blocks[cell>>blockBits][at : at+c.stride : at+c.stride]
}

// grow adds so many cells and returns the first of them.
func (c *cells) grow(number uint32) uint32 {
	first := c.count
	c.count += number
	for uint32(len(c.blocks))<<blockBits < c.count {
		c.blocks = append(c.blocks, make([]int64, blockCells*c.stride))
	}
	return first
}
