package rows

// Sink writes rows in a format that is made of columns. Whether what it has written is kept is
// up to whoever has the file.
type Sink interface {
	// Write takes rows, which must not change any more.
	Write(Block) error
	// Pending returns about how many bytes of memory rows take that are not written yet; Flush
	// writes them.
	Pending() int
	Flush() error
	// Close writes the rest. It does not close what the rows are written to.
	Close() error
}
