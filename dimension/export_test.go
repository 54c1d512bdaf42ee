package dimension

import "roundyear/calendar"

// PartAt returns the name of the part of the day at a second.
func (c *Clock) PartAt(second int) string { return c.parts[c.partAt(second)].Name }

// Calendars returns the calendars of a catalogue.
func (c *Catalogue) Calendars() *calendar.Set { return c.settings.Calendars }
