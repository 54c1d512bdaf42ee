package daysoff

import "roundyear/civil"

// Falls returns the days on which a rule falls in a year.
func (r *Rule) Falls(year int) []civil.Day { return r.falls(year) }
