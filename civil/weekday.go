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
