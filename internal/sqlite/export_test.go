package sqlite

// SetRangeRows sets how many rows a range has, and returns what resets that.
func SetRangeRows(rows int) func() {
	before := rangeRows
	rangeRows = rows
	return func() { rangeRows = before }
}

// SetSample sets from how many rows on the types of a table are told from a sample of so many, and returns what resets that.
func SetSample(few, sample int) func() {
	fewBefore, sampleBefore := fewRows, sampleRows
	fewRows, sampleRows = few, sample
	return func() { fewRows, sampleRows = fewBefore, sampleBefore }
}
