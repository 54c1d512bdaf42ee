package database

// SetRangePages sets how many pages a range has, and returns what resets it.
func SetRangePages(pages int) func() {
	before := rangePages
	rangePages = pages
	return func() { rangePages = before }
}

// What reads values as servers write them.
var (
	Moment  = moment
	Fixed   = fixed
	Integer = integer
	Clock   = clock
)
