// Package daysoff knows holidays and closures: rules that say when they fall,
// on which day they are taken, and how workdays are counted around them.
package daysoff

import "roundyear/civil"

// Easter returns Easter Sunday of the western churches in a year from 1583 on,
// by the rule of the Gregorian reform (the tables of Clavius, 1603).
func Easter(year int) civil.Day {
	golden := year % 19
	century := year / 100
	// The epact, with the corrections for leap years dropped and for the moon.
	epact := (century - century/4 - (8*century+13)/25 + 19*golden + 15) % 30
	fullMoon := epact - (epact/28)*(1-(epact/28)*(29/(epact+1))*((21-golden)/11))
	weekday := (year + year/4 + fullMoon + 2 - century + century/4) % 7
	// Days after 21 March, less those to the Sunday.
	offset := fullMoon - weekday
	return civil.MustOf(year, civil.March, 1) + civil.Day(27+offset)
}

// OrthodoxEaster returns Easter Sunday of the eastern churches: by the Julian
// calendar, as the date of the Gregorian one.
func OrthodoxEaster(year int) civil.Day {
	golden := year % 19
	fullMoon := (19*golden + 15) % 30
	weekday := (2*(year%4) + 4*(year%7) - fullMoon + 34) % 7
	sum := fullMoon + weekday + 114
	month, day := sum/31, sum%31+1
	// The Julian calendar is behind by the days that the Gregorian drops.
	behind := year/100 - year/400 - 2
	return civil.MustOf(year, civil.Month(month), day) + civil.Day(behind)
}
