package civil

// Month is a month of the Gregorian year, January being 1.
type Month int

// The months.
const (
	January Month = iota + 1
	February
	March
	April
	May
	June
	July
	August
	September
	October
	November
	December
)

var monthNames = [...]string{"January", "February", "March", "April", "May", "June",
	"July", "August", "September", "October", "November", "December"}

// String returns the English name; months outside 1 to 12 have none.
func (m Month) String() string {
	if m < January || m > December {
		return "no month"
	}
	return monthNames[m-1]
}

// Short returns the English abbreviation of three letters.
func (m Month) Short() string { return m.String()[:3] }

// IsLeap tells whether a Gregorian year has a 29 February.
func IsLeap(year int) bool {
	return year%4 == 0 && (year%100 != 0 || year%400 == 0)
}

// DaysIn returns the number of days of a month.
func DaysIn(year int, month Month) int {
	if month == February && IsLeap(year) {
		return 29
	}
	return int(daysOfMonths[month-1])
}

var daysOfMonths = [...]uint8{31, 28, 31, 30, 31, 30, 31, 31, 30, 31, 30, 31}
