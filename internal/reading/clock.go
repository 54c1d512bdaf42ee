package reading

import (
	"fmt"

	"roundyear/civil"
	"roundyear/datetext"
	"roundyear/internal/table"
)

// Clock is what moves moments to other days: the zone they are wanted in, and
// when the day of business starts. The zero Clock moves nothing.
type Clock struct {
	// Conversion moves moments to another zone; nil for none.
	Conversion *datetext.Conversion
	// DayStarts is when the day of business starts, in nanoseconds after
	// midnight; nil for at midnight.
	DayStarts *int64
}

// Day returns the day that a moment counts to. It is false when its zone is
// needed and not known.
func (c Clock) Day(moment datetext.Moment) (civil.Day, bool) {
	if c.Conversion != nil {
		moved, _, ok := c.Conversion.Convert(moment)
		if !ok {
			return 0, false
		}
		moment = moved
	}
	if c.DayStarts != nil {
		return datetext.BusinessDay(moment, *c.DayStarts), true
	}
	return moment.Day, true
}

// NoZone is the error for a record whose date is wanted in another zone and
// does not say in which it was written.
func (r *Reader) NoZone(record *table.Record, file *table.File) error {
	return &table.Fault{File: file.Name, Line: record.Line, Column: r.dates.Name,
		What: fmt.Sprintf("%q does not say in which zone it was written", r.Value(record)), Remedy: "Say it with --zone"}
}
