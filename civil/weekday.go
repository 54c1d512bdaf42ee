package civil

// Weekday is a day of the week, numbered as in ISO 8601: Monday is 1, Sunday 7.
type Weekday int

// The days of the week.
const (
	Monday Weekday = iota + 1
	Tuesday
	Wednesday
	Thursday
	Friday
	Saturday
	Sunday
)

var weekdayNames = [...]string{"Monday", "Tuesday", "Wednesday", "Thursday", "Friday", "Saturday", "Sunday"}

// String returns the English name.
func (w Weekday) String() string {
	if w < Monday || w > Sunday {
		return "no weekday"
	}
	return weekdayNames[w-1]
}

// Short returns the English abbreviation of three letters.
func (w Weekday) Short() string { return w.String()[:3] }

// From returns the position of the weekday in a week that begins on first,
// from 1 to 7.
func (w Weekday) From(first Weekday) int {
	return floorMod(int(w-first), 7) + 1
}

// OnOrBefore returns the last day not after d that falls on the weekday.
func (w Weekday) OnOrBefore(d Day) Day {
	return d - Day(d.Weekday().From(w)-1)
}

// OfISOWeek returns the day of a week of ISO 8601: of the year, the week from 1
// to 52 or 53, and the day of the week. It is false when there is no such day.
func OfISOWeek(year, week int, weekday Weekday) (Day, bool) {
	if year < 1 || year > 9999 || week < 1 || weekday < Monday || weekday > Sunday {
		return 0, false
	}
	// 4 January is always in week 1.
	first := Monday.OnOrBefore(of(year, January, 4))
	day := first + Day((week-1)*7) + Day(weekday-1)
	next := Monday.OnOrBefore(of(year+1, January, 4))
	if first+Day((week-1)*7) >= next || day < MinDay || day > MaxDay {
		return 0, false
	}
	return day, true
}
