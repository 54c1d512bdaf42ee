// Package astronomy reckons when the sun and the moon are where calendars ask
// for them: the sun's longitude, the new moon, and the setting of both at a
// place. It is right to about a minute from 1900 to 2100, and after that as far
// as the turning of the earth can be foretold.
package astronomy

import (
	"math"
	"time"
)

// Moment is universal time in days from 1970-01-01, 0 hours.
type Moment float64

// Time returns the moment as a time in UTC, to the second.
func (m Moment) Time() time.Time {
	return time.Unix(int64(math.Round(float64(m)*86400)), 0).UTC()
}

// j2000 is noon of 2000-01-01 in days from 1970.
const j2000 = 10957.5

// centuries returns the Julian centuries of ephemeris time from noon of
// 2000-01-01.
func (m Moment) centuries() float64 {
	return (float64(m) + m.lag() - j2000) / 36525
}

// lag is by how many days ephemeris time is ahead of universal time.
func (m Moment) lag() float64 { return earthLag(2000+(float64(m)-j2000)/365.2425) / 86400 }

// universal returns the moment of an ephemeris time in days from 1970.
func universal(ephemeris float64) Moment {
	return Moment(ephemeris) - Moment(Moment(ephemeris).lag())
}

// earthLag is ephemeris time less universal time in seconds, of a year and its
// fraction: what was measured up to 2025, until 2005 by the polynomials of
// Espenak and Meeus (Five Millennium Canon of Solar Eclipses, NASA
// TP-2006-214141); then slowly over to the long-term parabola, since nobody can
// know it better.
func earthLag(year float64) float64 {
	switch {
	case year >= 2150 || year < 1800:
		return longTermLag(year)
	case year >= 2050:
		return between(year, 2050, 73, 2150, longTermLag(2150))
	case year >= 2025:
		return between(year, 2025, 69.1, 2050, 73)
	case year >= 2020:
		return between(year, 2020, 69.4, 2025, 69.1)
	case year >= 2005:
		return between(year, 2005, 64.7, 2020, 69.4)
	case year >= 1986:
		return polynomial(year-2000, 63.86, 0.3345, -0.060374, 0.0017275, 0.000651814, 0.00002373599)
	case year >= 1961:
		return polynomial(year-1975, 45.45, 1.067, -1./260, -1./718)
	case year >= 1941:
		return polynomial(year-1950, 29.07, 0.407, -1./233, 1./2547)
	case year >= 1920:
		return polynomial(year-1920, 21.20, 0.84493, -0.076100, 0.0020936)
	case year >= 1900:
		return polynomial(year-1900, -2.79, 1.494119, -0.0598939, 0.0061966, -0.000197)
	}
	// About flat in the nineteenth century.
	return 7
}

func longTermLag(year float64) float64 {
	return polynomial((year-1820)/100, -20, 0, 32)
}

// between returns the value at x on the straight line through two points.
func between(x, x1, y1, x2, y2 float64) float64 { return y1 + (y2-y1)*(x-x1)/(x2-x1) }

// polynomial returns the value at x, by the factors from the constant up.
func polynomial(x float64, factors ...float64) float64 {
	sum := 0.0
	for i := len(factors) - 1; i >= 0; i-- {
		sum = sum*x + factors[i]
	}
	return sum
}

const degree = math.Pi / 180

func sine(degrees float64) float64   { return math.Sin(degrees * degree) }
func cosine(degrees float64) float64 { return math.Cos(degrees * degree) }

// turn brings an angle into 0 to 360 degrees.
func turn(degrees float64) float64 {
	degrees = math.Mod(degrees, 360)
	if degrees < 0 {
		degrees += 360
	}
	return degrees
}

// nutation is the swing of the equinox along the ecliptic in degrees.
func nutation(centuries float64) float64 {
	node := polynomial(centuries, 125.04452, -1934.136261, 0.0020708)
	sun := polynomial(centuries, 280.4665, 36000.7698)
	moon := polynomial(centuries, 218.3165, 481267.8813)
	return (-17.20*sine(node) - 1.32*sine(2*sun) - 0.23*sine(2*moon) + 0.21*sine(2*node)) / 3600
}

// obliquity is the tilt of the earth's axis in degrees.
func obliquity(centuries float64) float64 {
	return polynomial(centuries, 23.4392911, -0.0130042, -1.64e-7, 5.04e-7)
}
