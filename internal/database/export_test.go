package database

import "time"

// SetPatience sets how long to wait for servers and locks, and returns what resets it.
func SetPatience(wait time.Duration) func() {
	before := patience
	patience = wait
	return func() { patience = before }
}

// What reads values as servers write them.
var (
	Moment  = moment
	Fixed   = fixed
	Integer = integer
	Clock   = clock
)
