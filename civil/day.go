// Package civil knows days: civil dates of the proleptic Gregorian calendar
// with no time of day and no zone. A Day is a count, so days are compared,
// added and stored as cheaply as integers.
package civil

// Day is a civil date, counted in days from 1970-01-01, which is day 0.
// Days from 0001-01-01 (MinDay) to 9999-12-31 (MaxDay) have a date.
type Day int32

// The first and the last day that can be written with a four-digit year.
const (
	MinDay Day = -719162
	MaxDay Day = 2932896
)

const (
	daysIn400Years = 146097
	// daysToEpoch is the count from 0000-03-01 to 1970-01-01.
	daysToEpoch = 719468
)

// Of returns the day of a year (1 to 9999), month and day of the month.
// It is false when there is no such day, as on 30 February.
func Of(year int, month Month, dayOfMonth int) (Day, bool) {
	if year < 1 || year > 9999 || month < January || month > December ||
		dayOfMonth < 1 || dayOfMonth > DaysIn(year, month) {
		return 0, false
	}
	return of(year, month, dayOfMonth), true
}

// MustOf is Of for dates known to exist; it panics on others.
func MustOf(year int, month Month, dayOfMonth int) Day {
	day, ok := Of(year, month, dayOfMonth)
	if !ok {
		panic("civil: no such day")
	}
	return day
}

// of counts in years that begin in March, so that the leap day is the last of
// its year and months have a closed form.
func of(year int, month Month, dayOfMonth int) Day {
	marchYear, marchMonth := year, int(month)-3
	if marchMonth < 0 {
		marchYear--
		marchMonth += 12
	}
	cycle := floorDiv(marchYear, 400)
	yearOfCycle := marchYear - cycle*400
	dayOfYear := (153*marchMonth+2)/5 + dayOfMonth - 1
	dayOfCycle := yearOfCycle*365 + yearOfCycle/4 - yearOfCycle/100 + dayOfYear
	return Day(cycle*daysIn400Years + dayOfCycle - daysToEpoch)
}

// Date returns the year, month and day of the month.
func (d Day) Date() (year int, month Month, dayOfMonth int) {
	count := int(d) + daysToEpoch
	cycle := floorDiv(count, daysIn400Years)
	dayOfCycle := count - cycle*daysIn400Years
	yearOfCycle := (dayOfCycle - dayOfCycle/1460 + dayOfCycle/36524 - dayOfCycle/146096) / 365
	dayOfYear := dayOfCycle - (365*yearOfCycle + yearOfCycle/4 - yearOfCycle/100)
	marchMonth := (5*dayOfYear + 2) / 153
	dayOfMonth = dayOfYear - (153*marchMonth+2)/5 + 1
	year = cycle*400 + yearOfCycle
	month = Month(marchMonth + 3)
	if month > December {
		month -= 12
		year++
	}
	return year, month, dayOfMonth
}

// Year returns the Gregorian year.
func (d Day) Year() int {
	year, _, _ := d.Date()
	return year
}

// YearDay returns the day of the year, from 1.
func (d Day) YearDay() int {
	return int(d-FirstOfYear(d.Year())) + 1
}

// Key returns the date as a number yyyymmdd, by which tables are joined.
func (d Day) Key() int {
	year, month, dayOfMonth := d.Date()
	return year*10000 + int(month)*100 + dayOfMonth
}

// Weekday returns the day of the week.
func (d Day) Weekday() Weekday {
	// 1970-01-01 was a Thursday.
	return Weekday(floorMod(int(d)+3, 7) + 1)
}

// AddMonths moves the day by whole months. Where the target month is too
// short the day becomes its last: 31 January and one month is 28 February.
func (d Day) AddMonths(months int) Day {
	year, month, dayOfMonth := d.Date()
	index := year*12 + int(month) - 1 + months
	year, month = floorDiv(index, 12), Month(floorMod(index, 12)+1)
	return of(year, month, min(dayOfMonth, DaysIn(year, month)))
}

// FirstOfYear returns 1 January of a year.
func FirstOfYear(year int) Day { return of(year, January, 1) }

// FirstOfMonth returns the first day of a month. The month may lie outside
// 1 to 12: month 13 is January of the next year, month 0 December of the last.
func FirstOfMonth(year int, month Month) Day {
	index := year*12 + int(month) - 1
	return of(floorDiv(index, 12), Month(floorMod(index, 12)+1), 1)
}

func floorDiv(a, b int) int {
	quotient := a / b
	if a%b != 0 && (a < 0) != (b < 0) {
		quotient--
	}
	return quotient
}

func floorMod(a, b int) int { return a - floorDiv(a, b)*b }
