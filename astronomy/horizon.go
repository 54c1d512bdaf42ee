package astronomy

import "math"

// Place is a place on earth by its latitude and its longitude east in degrees.
type Place struct{ Latitude, Longitude float64 }

// The upper edge of the sun is seen to set when its middle is 50 minutes of arc
// under the horizon: 34 are the bending of light, 16 half the sun.
const (
	refraction   = 34. / 60
	halfSun      = 16. / 60
	earthRadius  = 6378.14 // kilometres
	halfMoonPart = 0.2725  // of its parallax
)

// Sunset returns the moment at which the sun sets on the evening after a noon
// near to a moment.
func (p Place) Sunset(noon Moment) Moment {
	return p.sets(noon, func(m Moment) (float64, float64, float64) {
		return SunLongitude(m), 0, -refraction - halfSun
	})
}

// Moonset returns the moment at which the moon sets, the one nearest to a
// moment.
func (p Place) Moonset(near Moment) Moment {
	return p.sets(near, func(m Moment) (float64, float64, float64) {
		longitude, latitude, distance := moonPlace(m.centuries())
		parallax := math.Asin(earthRadius/distance) / degree
		return longitude, latitude, parallax*(1-halfMoonPart) - refraction
	})
}

// sets finds when a body goes under: place gives its longitude, latitude and
// the height of its middle at setting, all in degrees.
func (p Place) sets(near Moment, place func(Moment) (longitude, latitude, height float64)) Moment {
	m := near
	for step := range 8 {
		longitude, latitude, height := place(m)
		tilt := obliquity(m.centuries())
		ascension := math.Atan2(sine(longitude)*cosine(tilt)-math.Tan(latitude*degree)*sine(tilt), cosine(longitude)) / degree
		declination := math.Asin(sine(latitude)*cosine(tilt)+cosine(latitude)*sine(tilt)*sine(longitude)) / degree
		hours := math.Acos((sine(height)-sine(p.Latitude)*sine(declination))/(cosine(p.Latitude)*cosine(declination))) / degree
		left := turn(hours - (siderealTime(m) + p.Longitude - ascension))
		// The first step goes on to the next setting, the others either way.
		if step > 0 && left > 180 || step == 0 && left > 359 {
			left -= 360
		}
		m += Moment(left / 360.9856)
	}
	return m
}

// siderealTime is that of Greenwich in degrees.
func siderealTime(m Moment) float64 {
	days := float64(m) - j2000
	t := days / 36525
	return turn(280.46061837 + 360.98564736629*days + 0.000387933*t*t + nutation(m.centuries())*cosine(obliquity(t)))
}
