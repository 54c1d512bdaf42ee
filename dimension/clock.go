package dimension

import (
	"fmt"
	"iter"
	"strings"

	"roundyear/cell"
)

// DayPart is a part of the day, from a time on until the next one begins.
type DayPart struct {
	Name string
	// Starts is the seconds from midnight at which it begins.
	Starts int
}

// defaultParts are the parts of the day where nothing else is said. Steps in
// which they do not begin have none.
var defaultParts = []DayPart{{"night", 0}, {"morning", defaultPartLength}, {"afternoon", 2 * defaultPartLength}, {"evening", 3 * defaultPartLength}}

const defaultPartLength = 6 * 3600

const secondsInDay = 24 * 3600

// Clock is the time-of-day dimension: one row for each step of the day.
type Clock struct {
	step  int
	parts []DayPart
}

// NewClock returns the dimension of a step in seconds, which divides the day,
// and parts of the day in the order of their beginnings. The error says what
// does not fit.
func NewClock(step int, parts []DayPart) (*Clock, error) {
	if step < 1 || step > secondsInDay || secondsInDay%step != 0 {
		return nil, fmt.Errorf("a step of %d seconds does not divide the day evenly", step)
	}
	if len(parts) == 0 && defaultPartLength%step == 0 {
		parts = defaultParts
	}
	for i, part := range parts {
		switch {
		case part.Starts%step != 0:
			return nil, fmt.Errorf("%s starts at %s, in the middle of a step of %s", part.Name, clockText(part.Starts), stepText(step))
		case i > 0 && part.Starts <= parts[i-1].Starts:
			return nil, fmt.Errorf("%s starts at %s, not after %s: parts must be in order of time", part.Name, clockText(part.Starts), parts[i-1].Name)
		}
	}
	return &Clock{step, parts}, nil
}

// Step returns the seconds that a row stands for.
func (c *Clock) Step() int { return c.step }

// Rows returns the number of rows.
func (c *Clock) Rows() int { return secondsInDay / c.step }

// clockAttribute is a column of the time-of-day dimension.
type clockAttribute struct {
	Attribute
	// finest is the step in seconds from which on the column says nothing.
	finest int
	value  func(c *Clock, second int) cell.Value
}

var clockAttributes = []clockAttribute{
	{Attribute{Name: "time_key", Type: cell.Integer, Role: RoleKey, Meaning: "Time as a number hhmmss: the key that facts join on."}, secondsInDay + 1, func(_ *Clock, s int) cell.Value {
		return cell.OfInteger(s/3600*10000 + s/60%60*100 + s%60)
	}},
	{Attribute{Name: "time", Type: cell.Time, Meaning: "Start of the row's step."}, secondsInDay + 1, func(_ *Clock, s int) cell.Value { return cell.OfTime(s) }},
	{Attribute{Name: "time_end", Type: cell.Time, Meaning: "Last second of the step."}, secondsInDay + 1, func(c *Clock, s int) cell.Value { return cell.OfTime(s + c.step - 1) }},
	{Attribute{Name: "time_label", Type: cell.Text, SortBy: "time_key", Meaning: "Label of the time: 14:05."}, secondsInDay + 1, func(c *Clock, s int) cell.Value {
		if c.step%60 == 0 {
			return cell.OfText(fmt.Sprintf("%02d:%02d", s/3600, s/60%60))
		}
		return cell.OfText(clockText(s))
	}},
	{Attribute{Name: "hour", Type: cell.Integer, Meaning: "Hour, 0 to 23."}, 3601, func(_ *Clock, s int) cell.Value { return cell.OfInteger(s / 3600) }},
	{Attribute{Name: "hour_label", Type: cell.Text, SortBy: "hour", Meaning: "Label of the hour: 14:00."}, 3601, func(_ *Clock, s int) cell.Value { return cell.OfText(fmt.Sprintf("%02d:00", s/3600)) }},
	{Attribute{Name: "hour_12", Type: cell.Integer, Meaning: "Hour on a 12-hour clock, 1 to 12."}, 3601, func(_ *Clock, s int) cell.Value { return cell.OfInteger((s/3600+11)%12 + 1) }},
	{Attribute{Name: "half_of_day", Type: cell.Text, Meaning: "AM or PM."}, secondsInDay/2 + 1, func(_ *Clock, s int) cell.Value {
		if s < secondsInDay/2 {
			return cell.OfText("AM")
		}
		return cell.OfText("PM")
	}},
	{Attribute{Name: "half_hour", Type: cell.Time, Meaning: "Start of the half hour."}, 1801, func(_ *Clock, s int) cell.Value { return cell.OfTime(s / 1800 * 1800) }},
	{Attribute{Name: "quarter_hour", Type: cell.Time, Meaning: "Start of the quarter of an hour."}, 901, func(_ *Clock, s int) cell.Value { return cell.OfTime(s / 900 * 900) }},
	{Attribute{Name: "minute", Type: cell.Integer, Meaning: "Minute of the hour, 0 to 59."}, 3600, func(_ *Clock, s int) cell.Value { return cell.OfInteger(s / 60 % 60) }},
	{Attribute{Name: "minute_of_day", Type: cell.Integer, Meaning: "Minutes since midnight."}, secondsInDay + 1, func(_ *Clock, s int) cell.Value { return cell.OfInteger(s / 60) }},
	{Attribute{Name: "second", Type: cell.Integer, Meaning: "Second of the minute, 0 to 59."}, 60, func(_ *Clock, s int) cell.Value { return cell.OfInteger(s % 60) }},
	{Attribute{Name: "second_of_day", Type: cell.Integer, Meaning: "Seconds since midnight."}, secondsInDay + 1, func(_ *Clock, s int) cell.Value { return cell.OfInteger(s) }},
	{Attribute{Name: "part_of_day", Type: cell.Text, SortBy: "part_of_day_number", Meaning: "Part of the day, as defined in the plan."}, secondsInDay + 1, func(c *Clock, s int) cell.Value {
		return cell.OfText(c.parts[c.partAt(s)].Name)
	}},
	{Attribute{Name: "part_of_day_number", Type: cell.Integer, Meaning: "Number of the part of the day, in order of time."}, secondsInDay + 1, func(c *Clock, s int) cell.Value {
		return cell.OfInteger(c.partAt(s) + 1)
	}},
}

// partAt returns the part of the day of a second. Before the first begins it
// is still the last of the day before.
func (c *Clock) partAt(second int) int {
	part := len(c.parts) - 1
	for i, p := range c.parts {
		if p.Starts <= second {
			part = i
		}
	}
	return part
}

func (c *Clock) columns() []clockAttribute {
	var columns []clockAttribute
	for _, attribute := range clockAttributes {
		isPart := strings.HasPrefix(attribute.Name, "part_of_day")
		if c.step < attribute.finest && !(isPart && len(c.parts) == 0) {
			columns = append(columns, attribute)
		}
	}
	return columns
}

// Attributes returns the columns that say something at the step.
func (c *Clock) Attributes() []Attribute {
	var attributes []Attribute
	for _, attribute := range c.columns() {
		attribute.Group = "clock"
		attributes = append(attributes, attribute.Attribute)
	}
	return attributes
}

// Times yields the values of the columns for each step of the day.
func (c *Clock) Times() iter.Seq[[]cell.Value] {
	return func(yield func([]cell.Value) bool) {
		columns := c.columns()
		values := make([]cell.Value, len(columns))
		for second := 0; second < secondsInDay; second += c.step {
			for i, column := range columns {
				values[i] = column.value(c, second)
			}
			if !yield(values) {
				return
			}
		}
	}
}

func clockText(second int) string {
	return fmt.Sprintf("%02d:%02d:%02d", second/3600, second/60%60, second%60)
}

func stepText(step int) string {
	if step%60 == 0 {
		return fmt.Sprintf("%d minutes", step/60)
	}
	return fmt.Sprintf("%d seconds", step)
}
