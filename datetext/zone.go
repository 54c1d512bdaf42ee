package datetext

import (
	"fmt"
	"time"
	_ "time/tzdata" // the zones of the program do not depend on the machine

	"roundyear/civil"
)

// Conversion moves moments from the zone they were written in to another one.
type Conversion struct {
	from, to *time.Location
}

// Change says what the clock change of a zone did to a moment.
type Change int

// A local time that a clock change doubles is read as the first of the two. One
// that it skips is read by the clock as it was before the change, so that 01:30
// in an hour that is not there is 02:30 by the new clock. Beyond is a moment that
// would leave the years 0001 to 9999.
const (
	Unchanged Change = iota
	Doubled
	Skipped
	Beyond
)

// NewConversion returns a conversion between zones by their IANA names. The
// first may be empty where all moments have offsets of their own. Without the
// second nothing moves: it is only known then which instant a moment is. The
// error says which zone there is not.
func NewConversion(from, to string) (*Conversion, error) {
	c := &Conversion{}
	for _, zone := range []struct {
		name string
		at   **time.Location
	}{{from, &c.from}, {to, &c.to}} {
		if zone.name == "" {
			continue
		}
		location, err := time.LoadLocation(zone.name)
		if err != nil || zone.name == "Local" {
			return nil, fmt.Errorf("unknown time zone %q; use an IANA name such as Europe/Dublin or UTC", zone.name)
		}
		*zone.at = location
	}
	return c, nil
}

// Moves tells whether moments come to other times of day.
func (c *Conversion) Moves() bool { return c.to != nil }

// Convert moves a moment with a time of day, and tells its offset there. It is false for a moment without
// an offset when the zone it was written in is not known. One that would leave the
// years 0001 to 9999 is Beyond and stays as it is. A date without a time
// of day stays as it is.
func (c *Conversion) Convert(m Moment) (Moment, Change, bool) {
	if m.Clock == NoTime {
		return m, Unchanged, true
	}
	local := int64(m.Day)*86400 + m.Nanos/1e9
	var instant int64
	change := Unchanged
	switch {
	case m.HasOffset:
		instant = local - int64(m.Offset)
	case c.from == nil:
		return m, Unchanged, false
	default:
		instant, change = instantOf(local, c.from)
	}
	if c.to == nil {
		m.Offset, m.HasOffset = int32(local-instant), true
		return m, Unchanged, true
	}
	offset := offsetAt(instant, c.to)
	moved := instant + int64(offset)
	days, second := moved/86400, moved%86400
	if second < 0 {
		days, second = days-1, second+86400
	}
	if days < int64(civil.MinDay) || days > int64(civil.MaxDay) {
		return m, Beyond, true
	}
	m.Day, m.Nanos = civil.Day(days), second*1e9+m.Nanos%1e9
	m.Offset, m.HasOffset = int32(offset), true
	return m, change, true
}

// instantOf returns the instant of a local time in a zone, both in seconds.
func instantOf(local int64, zone *time.Location) (int64, Change) {
	before, after := offsetAt(local-86400, zone), offsetAt(local+86400, zone)
	first, second := local-int64(before), local-int64(after)
	if before == after {
		return first, Unchanged
	}
	isFirst, isSecond := offsetAt(first, zone) == before, offsetAt(second, zone) == after
	switch {
	case isFirst && isSecond:
		return min(first, second), Doubled
	case isSecond:
		return second, Unchanged
	case isFirst:
		return first, Unchanged
	}
	return first, Skipped
}

func offsetAt(instant int64, zone *time.Location) int {
	_, offset := time.Unix(instant, 0).In(zone).Zone()
	return offset
}

// BusinessDay returns the day that a moment counts to where the day of business
// starts at so many nanoseconds after midnight. A date without a time of day is
// its own.
func BusinessDay(m Moment, starts int64) civil.Day {
	if m.Clock != NoTime && m.Nanos < starts {
		return m.Day - 1
	}
	return m.Day
}
