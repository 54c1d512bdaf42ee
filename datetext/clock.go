package datetext

import (
	"fmt"

	"roundyear/civil"
)

// Clock is what moves moments to other days: the zone they are wanted in, and
// when the day of business starts. The zero Clock moves nothing.
type Clock struct {
	// Conversion moves moments to another zone; nil for none.
	Conversion *Conversion
	// DayStarts is when the day of business starts, in nanoseconds after
	// midnight; nil for at midnight.
	DayStarts *int64
}

// MovesNothing tells whether every moment counts to its own day.
func (c Clock) MovesNothing() bool {
	return (c.Conversion == nil || !c.Conversion.Moves()) && c.DayStarts == nil
}

// Move returns a moment in the zone that is wanted, and the day of business it
// counts to. Zoned is false when its zone is needed and not known. A moment that
// would leave the years 0001 to 9999 on the way, such as a placeholder for no
// date, is Beyond and stays as it is.
func (c Clock) Move(moment Moment) (moved Moment, counted civil.Day, change Change, zoned bool) {
	moved = moment
	if c.Conversion != nil {
		if moved, change, zoned = c.Conversion.Convert(moment); !zoned || change == Beyond {
			return moment, moment.Day, change, zoned
		}
	}
	counted = moved.Day
	if c.DayStarts != nil {
		if counted = BusinessDay(moved, *c.DayStarts); counted < civil.MinDay {
			return moment, moment.Day, Beyond, true
		}
	}
	return moved, counted, change, true
}

// WhyBeyond says in words why a moment leaves the years 0001 to 9999.
func (c Clock) WhyBeyond(moment Moment) string {
	switch {
	case c.Conversion == nil || moment.Day < civil.MaxDay-1 && c.DayStarts != nil:
		return fmt.Sprintf("its business day is before %s, the first possible date", civil.MinDay)
	case moment.Day < civil.MaxDay-1:
		return fmt.Sprintf("in the time zone of --to-zone it is before %s, the first possible date", civil.MinDay)
	}
	return fmt.Sprintf("in the time zone of --to-zone it is after %s, the last possible date", civil.MaxDay)
}

// Day returns the day that a moment counts to. It is false when its zone is
// needed and not known.
func (c Clock) Day(moment Moment) (civil.Day, bool) {
	_, day, _, zoned := c.Move(moment)
	return day, zoned
}
