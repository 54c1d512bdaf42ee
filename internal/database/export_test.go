package database

import "time"

// SetPatience sets how long to wait for servers and locks, and returns what resets it.
func SetPatience(wait time.Duration) func() {
	before := patience
	patience = wait
	return func() { patience = before }
}

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
