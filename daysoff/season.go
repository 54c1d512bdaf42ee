package daysoff

import (
	"fmt"
	"slices"
	"strings"
	"time"

	"roundyear/astronomy"
	"roundyear/civil"
)

// SunPoint is a point on the sun's way: an equinox, a solstice, or one of the 24
// solar terms of East Asia.
type SunPoint struct {
	// Name is the name in plans, Words what people say.
	Name, Words string
	// longitude is the sun's, in degrees from the March equinox.
	longitude int
}

// Seasons are the equinoxes and solstices.
var Seasons = []SunPoint{
	{"march_equinox", "March equinox", 0}, {"june_solstice", "June solstice", 90},
	{"september_equinox", "September equinox", 180}, {"december_solstice", "December solstice", 270},
}

// SolarTerms are the 24 solar terms by their names in Hanyu Pinyin, in the order
// of the year; GB/T 33661-2017.
var SolarTerms = solarTerms()

func solarTerms() []SunPoint {
	var terms []SunPoint
	names := strings.Fields("xiaohan dahan lichun yushui jingzhe chunfen qingming guyu lixia xiaoman mangzhong xiazhi " +
		"xiaoshu dashu liqiu chushu bailu qiufen hanlu shuangjiang lidong xiaoxue daxue dongzhi")
	for i, name := range names {
		terms = append(terms, SunPoint{name, "solar term " + name, (285 + 15*i) % 360})
	}
	return terms
}

// SunPointOf returns the one of a name among some; it is false for any other.
func SunPointOf(name string, points []SunPoint) (SunPoint, bool) {
	i := slices.IndexFunc(points, func(p SunPoint) bool { return p.Name == name })
	if i < 0 {
		return SunPoint{}, false
	}
	return points[i], true
}

// SunPointNames lists the names of some.
func SunPointNames(points []SunPoint) []string {
	var names []string
	for _, point := range points {
		names = append(names, point.Name)
	}
	return names
}

// At returns the instant in a year at which the sun is at the point, right to
// about a quarter of a minute in the twentieth and twenty-first centuries.
func (p SunPoint) At(year int) time.Time {
	return astronomy.SunAt(float64(p.longitude), astronomy.Moment(civil.FirstOfYear(year))).Time()
}

// OnSun is the day on which the sun is at a point in a zone.
type OnSun struct {
	Point SunPoint
	Zone  *time.Location
}

// In returns the day.
func (w OnSun) In(year int) []civil.Day {
	own, month, dayOfMonth := w.Point.At(year).In(w.Zone).Date()
	day, ok := civil.Of(own, civil.Month(month), dayOfMonth)
	if !ok || own != year {
		return nil
	}
	return []civil.Day{day}
}

// Words says the point and the zone.
func (w OnSun) Words() string { return fmt.Sprintf("the day of the %s in %s", w.Point.Words, w.Zone) }

// Between is each day that lies between two holidays by law and is none itself,
// nor a Sunday. A rule with it looks at the other rules of its set.
type Between struct{}

// In returns nothing, since it takes the other rules to know.
func (Between) In(int) []civil.Day { return nil }

// Words says what it is.
func (Between) Words() string { return "a day between two holidays" }
