package daysoff

import (
	"fmt"
	"math"
	"time"

	"roundyear/civil"
)

// Season is an equinox or a solstice.
type Season int

// The equinoxes and solstices, by the month in which they fall.
const (
	MarchEquinox Season = iota
	JuneSolstice
	SeptemberEquinox
	DecemberSolstice
)

var seasonNames = [...]string{"march_equinox", "june_solstice", "september_equinox", "december_solstice"}

// SeasonNames are the names of the seasons, in their order.
func SeasonNames() []string { return seasonNames[:] }

// ParseSeason reads a name; it is false for any other.
func ParseSeason(name string) (Season, bool) {
	for season, known := range seasonNames {
		if name == known {
			return Season(season), true
		}
	}
	return 0, false
}

// seasonMeans are the polynomials of the mean instants, in days of ephemeris
// time by thousands of years from 2000; Jean Meeus, Astronomical Algorithms,
// chapter 27, for the years 1000 to 3000.
var seasonMeans = [...][5]float64{
	{2451623.80984, 365242.37404, 0.05169, -0.00411, -0.00057},
	{2451716.56767, 365241.62603, 0.00325, 0.00888, -0.00030},
	{2451810.21715, 365242.01767, -0.11575, 0.00337, 0.00078},
	{2451900.05952, 365242.74049, -0.06223, -0.00823, 0.00032},
}

// seasonTerms are the periodic terms: amplitude, phase and rate in degrees.
var seasonTerms = [...][3]float64{
	{485, 324.96, 1934.136}, {203, 337.23, 32964.467}, {199, 342.08, 20.186}, {182, 27.85, 445267.112}, {156, 73.14, 45036.886}, {136, 171.52, 22518.443},
	{77, 222.54, 65928.934}, {74, 296.72, 3034.906}, {70, 243.58, 9037.513}, {58, 119.81, 33718.147}, {52, 297.17, 150.678}, {50, 21.02, 2281.226},
	{45, 247.54, 29929.562}, {44, 325.15, 31555.956}, {29, 60.93, 4443.417}, {18, 155.12, 67555.328}, {17, 288.79, 4562.452}, {16, 198.04, 62894.029},
	{14, 199.76, 31436.921}, {12, 95.39, 14577.848}, {12, 287.11, 31931.756}, {12, 320.81, 34777.259}, {9, 227.73, 1222.114}, {8, 15.45, 16859.074},
}

// At returns the instant of the season in a year, right to about a minute in
// the twentieth and twenty-first centuries.
func (s Season) At(year int) time.Time {
	cosine := func(degrees float64) float64 { return math.Cos(degrees * math.Pi / 180) }
	y := float64(year-2000) / 1000
	mean, power := 0.0, 1.0
	for _, factor := range seasonMeans[s] {
		mean += factor * power
		power *= y
	}
	centuries := (mean - 2451545) / 36525
	w := 35999.373*centuries - 2.47
	swing := 1 + 0.0334*cosine(w) + 0.0007*cosine(2*w)
	sum := 0.0
	for _, term := range seasonTerms {
		sum += term[0] * cosine(term[1]+term[2]*centuries)
	}
	ephemeris := mean + 0.00001*sum/swing
	// The Julian day 2440587.5 is the beginning of 1970. Ephemeris time is ahead
	// of universal time by what the earth's turning lags.
	seconds := (ephemeris-2440587.5)*86400 - earthLag(float64(year))
	return time.Unix(int64(math.Round(seconds)), 0).UTC()
}

// earthLag is ephemeris time less universal time in seconds: about what was
// measured up to 2020, and the long-term parabola far from it.
func earthLag(year float64) float64 {
	t := year - 2000
	switch {
	case year >= 1986 && year <= 2050:
		return 63.86 + 0.3345*t - 0.0027*t*t
	case year >= 1900 && year < 1986:
		return 45.45 + 1.067*(year-1975) - (year-1975)*(year-1975)/260
	}
	u := (year - 1820) / 100
	return -20 + 32*u*u
}

// OnSeason is the day of a season in a zone.
type OnSeason struct {
	Season Season
	Zone   *time.Location
}

// In returns the day.
func (w OnSeason) In(year int) []civil.Day {
	own, month, dayOfMonth := w.Season.At(year).In(w.Zone).Date()
	day, ok := civil.Of(own, civil.Month(month), dayOfMonth)
	if !ok {
		return nil
	}
	return []civil.Day{day}
}

// Words says the season and the zone.
func (w OnSeason) Words() string {
	names := [...]string{"March equinox", "June solstice", "September equinox", "December solstice"}
	return fmt.Sprintf("the day of the %s in %s", names[w.Season], w.Zone)
}

// Between is each day that lies between two holidays by law and is none itself,
// nor a Sunday. A rule with it looks at the other rules of its set.
type Between struct{}

// In returns nothing, since it takes the other rules to know.
func (Between) In(int) []civil.Day { return nil }

// Words says what it is.
func (Between) Words() string { return "a day between two holidays" }
