package astronomy

import "math"

// newMoonTerm is a term of the instant of new moon: its amplitude in days, and
// how often the eccentricity of the earth's orbit, the anomalies of the sun and
// the moon and the moon's distance from its node go into it.
type newMoonTerm struct {
	amplitude                  float64
	eccentric, sun, moon, node int8
}

// The terms of new moon; Jean Meeus, Astronomical Algorithms, chapter 49.
var newMoonTerms = [...]newMoonTerm{
	{-0.40720, 0, 0, 1, 0}, {0.17241, 1, 1, 0, 0}, {0.01608, 0, 0, 2, 0}, {0.01039, 0, 0, 0, 2}, {0.00739, 1, -1, 1, 0}, {-0.00514, 1, 1, 1, 0},
	{0.00208, 2, 2, 0, 0}, {-0.00111, 0, 0, 1, -2}, {-0.00057, 0, 0, 1, 2}, {0.00056, 1, 1, 2, 0}, {-0.00042, 0, 0, 3, 0}, {0.00042, 1, 1, 0, 2},
	{0.00038, 1, 1, 0, -2}, {-0.00024, 1, -1, 2, 0}, {-0.00007, 0, 2, 1, 0}, {0.00004, 0, 0, 2, -2}, {0.00004, 0, 3, 0, 0}, {0.00003, 0, 1, 1, -2},
	{0.00003, 0, 0, 2, 2}, {-0.00003, 0, 1, 1, 2}, {0.00003, 0, -1, 1, 2}, {-0.00002, 0, -1, 1, -2}, {-0.00002, 0, 1, 3, 0}, {0.00002, 0, 0, 4, 0},
}

// newMoonPlanets are amplitude in days, phase in degrees and rate in degrees a
// month of what the planets add.
var newMoonPlanets = [...][3]float64{
	{0.000165, 251.88, 0.016321}, {0.000164, 251.83, 26.651886}, {0.000126, 349.42, 36.412478}, {0.000110, 84.66, 18.206239}, {0.000062, 141.74, 53.303771},
	{0.000060, 207.14, 2.453732}, {0.000056, 154.84, 7.306860}, {0.000047, 34.52, 27.261239}, {0.000042, 207.19, 0.121824}, {0.000040, 291.34, 1.844379},
	{0.000037, 161.72, 24.198154}, {0.000035, 239.56, 25.513099}, {0.000023, 331.55, 3.592518},
}

// NewMoon returns the moment of a new moon by its number; number 0 is that of
// 2000-01-06.
func NewMoon(number int) Moment {
	k := float64(number)
	t := k / 1236.85
	sun := 2.5534 + 29.10535670*k + polynomial(t, 0, 0, -0.0000014, -0.00000011)
	moon := 201.5643 + 385.81693528*k + polynomial(t, 0, 0, 0.0107582, 0.00001238, -0.000000058)
	distance := 160.7108 + 390.67050284*k + polynomial(t, 0, 0, -0.0016118, -0.00000227, 0.000000011)
	node := 124.7746 - 1.56375588*k + polynomial(t, 0, 0, 0.0020672, 0.00000215)
	eccentricity := polynomial(t, 1, -0.002516, -0.0000074)
	mean := 10962.59766 + 29.530588861*k + polynomial(t, 0, 0, 0.00015437, -0.000000150, 0.00000000073)
	away := -0.00017*sine(node) + 0.000325*sine(299.77+0.107408*k-0.009173*t*t)
	for _, term := range newMoonTerms {
		amplitude := term.amplitude
		for range term.eccentric {
			amplitude *= eccentricity
		}
		away += amplitude * sine(float64(term.sun)*sun+float64(term.moon)*moon+float64(term.node)*distance)
	}
	for _, term := range newMoonPlanets {
		away += term[0] * sine(term[1]+term[2]*k)
	}
	return universal(mean + away)
}

// month is the days from new moon to new moon in the mean.
const month = 29.530588861

// NewMoonFrom returns the number of the first new moon from a moment on.
func NewMoonFrom(m Moment) int {
	number := int(math.Floor((float64(m)-10962.6)/month)) - 1
	for NewMoon(number) < m {
		number++
	}
	return number
}

// moonTerm is a term of the moon's place: how often the elongation, the
// anomalies of the sun and the moon and the distance from the node go into it,
// and its amplitudes.
type moonTerm struct {
	elongation, sun, moon, node int8
	first, second               float64
}

// The terms of the moon's longitude in millionths of a degree and of its
// distance in metres; Meeus, table 47.A.
var moonLongitudeTerms = [...]moonTerm{
	{0, 0, 1, 0, 6288774, -20905355}, {2, 0, -1, 0, 1274027, -3699111}, {2, 0, 0, 0, 658314, -2955968}, {0, 0, 2, 0, 213618, -569925},
	{0, 1, 0, 0, -185116, 48888}, {0, 0, 0, 2, -114332, -3149}, {2, 0, -2, 0, 58793, 246158}, {2, -1, -1, 0, 57066, -152138},
	{2, 0, 1, 0, 53322, -170733}, {2, -1, 0, 0, 45758, -204586}, {0, 1, -1, 0, -40923, -129620}, {1, 0, 0, 0, -34720, 108743},
	{0, 1, 1, 0, -30383, 104755}, {2, 0, 0, -2, 15327, 10321}, {0, 0, 1, 2, -12528, 0}, {0, 0, 1, -2, 10980, 79661},
	{4, 0, -1, 0, 10675, -34782}, {0, 0, 3, 0, 10034, -23210}, {4, 0, -2, 0, 8548, -21636}, {2, 1, -1, 0, -7888, 24208},
	{2, 1, 0, 0, -6766, 30824}, {1, 0, -1, 0, -5163, -8379}, {1, 1, 0, 0, 4987, -16675}, {2, -1, 1, 0, 4036, -12831},
	{2, 0, 2, 0, 3994, -10445}, {4, 0, 0, 0, 3861, -11650}, {2, 0, -3, 0, 3665, 14403}, {0, 1, -2, 0, -2689, -7003},
	{2, 0, -1, 2, -2602, 0}, {2, -1, -2, 0, 2390, 10056}, {1, 0, 1, 0, -2348, 6322}, {2, -2, 0, 0, 2236, -9884},
	{0, 1, 2, 0, -2120, 5751}, {0, 2, 0, 0, -2069, 0}, {2, -2, -1, 0, 2048, -4950}, {2, 0, 1, -2, -1773, 4130},
	{2, 0, 0, 2, -1595, 0}, {4, -1, -1, 0, 1215, -3958}, {0, 0, 2, 2, -1110, 0}, {3, 0, -1, 0, -892, 3258},
	{2, 1, 1, 0, -810, 2616}, {4, -1, -2, 0, 759, -1897}, {0, 2, -1, 0, -713, -2117}, {2, 2, -1, 0, -700, 2354},
	{2, 1, -2, 0, 691, 0}, {2, -1, 0, -2, 596, 0}, {4, 0, 1, 0, 549, -1423}, {0, 0, 4, 0, 537, -1117},
	{4, -1, 0, 0, 520, -1571}, {1, 0, -2, 0, -487, -1739}, {2, 1, 0, -2, -399, 0}, {0, 0, 2, -2, -381, -4421},
	{1, 1, 1, 0, 351, 0}, {3, 0, -2, 0, -340, 0}, {4, 0, -3, 0, 330, 0}, {2, -1, 2, 0, 327, 0},
	{0, 2, 1, 0, -323, 1165}, {1, 1, -1, 0, 299, 0}, {2, 0, 3, 0, 294, 0}, {2, 0, -1, -2, 0, 8752},
}

// The terms of the moon's latitude in millionths of a degree; Meeus, table
// 47.B.
var moonLatitudeTerms = [...]moonTerm{
	{0, 0, 0, 1, 5128122, 0}, {0, 0, 1, 1, 280602, 0}, {0, 0, 1, -1, 277693, 0}, {2, 0, 0, -1, 173237, 0}, {2, 0, -1, 1, 55413, 0},
	{2, 0, -1, -1, 46271, 0}, {2, 0, 0, 1, 32573, 0}, {0, 0, 2, 1, 17198, 0}, {2, 0, 1, -1, 9266, 0}, {0, 0, 2, -1, 8822, 0},
	{2, -1, 0, -1, 8216, 0}, {2, 0, -2, -1, 4324, 0}, {2, 0, 1, 1, 4200, 0}, {2, 1, 0, -1, -3359, 0}, {2, -1, -1, 1, 2463, 0},
	{2, -1, 0, 1, 2211, 0}, {2, -1, -1, -1, 2065, 0}, {0, 1, -1, -1, -1870, 0}, {4, 0, -1, -1, 1828, 0}, {0, 1, 0, 1, -1794, 0},
	{0, 0, 0, 3, -1749, 0}, {0, 1, -1, 1, -1565, 0}, {1, 0, 0, 1, -1491, 0}, {0, 1, 1, 1, -1475, 0}, {0, 1, 1, -1, -1410, 0},
	{0, 1, 0, -1, -1344, 0}, {1, 0, 0, -1, -1335, 0}, {0, 0, 3, 1, 1107, 0}, {4, 0, 0, -1, 1021, 0}, {4, 0, -1, 1, 833, 0},
	{0, 0, 1, -3, 777, 0}, {4, 0, -2, 1, 671, 0}, {2, 0, 0, -3, 607, 0}, {2, 0, 2, -1, 596, 0}, {2, -1, 1, -1, 491, 0},
	{2, 0, -2, 1, -451, 0}, {0, 0, 3, -1, 439, 0}, {2, 0, 2, 1, 422, 0}, {2, 0, -3, -1, 421, 0}, {2, 1, -1, 1, -366, 0},
	{2, 1, 0, 1, -351, 0}, {4, 0, 0, 1, 331, 0}, {2, -1, 1, 1, 315, 0}, {2, -2, 0, -1, 302, 0}, {0, 0, 1, 3, -283, 0},
	{2, 1, 1, -1, -229, 0}, {1, 1, 0, -1, 223, 0}, {1, 1, 0, 1, 223, 0}, {0, 1, -2, -1, -220, 0}, {2, 1, -1, -1, -220, 0},
	{1, 0, 1, 1, -185, 0}, {2, -1, -2, -1, 181, 0}, {0, 1, 2, 1, -177, 0}, {4, 0, -2, -1, 176, 0}, {4, -1, -1, -1, 166, 0},
	{1, 0, 1, -1, -164, 0}, {4, 0, 1, -1, 132, 0}, {1, 0, -1, -1, -119, 0}, {4, -1, 0, -1, 115, 0}, {2, -2, 0, 1, 107, 0},
}

// moonPlace returns the apparent longitude and latitude of the moon in degrees
// and its distance in kilometres.
func moonPlace(t float64) (longitude, latitude, distance float64) {
	mean := polynomial(t, 218.3164477, 481267.88123421, -0.0015786, 1./538841, -1./65194000)
	elongation := polynomial(t, 297.8501921, 445267.1114034, -0.0018819, 1./545868, -1./113065000)
	sun := polynomial(t, 357.5291092, 35999.0502909, -0.0001536, 1./24490000)
	moon := polynomial(t, 134.9633964, 477198.8675055, 0.0087414, 1./69699, -1./14712000)
	node := polynomial(t, 93.2720950, 483202.0175233, -0.0036539, -1./3526000, 1./863310000)
	eccentricity := polynomial(t, 1, -0.002516, -0.0000074)
	venus, jupiter, third := 119.75+131.849*t, 53.09+479264.290*t, 313.45+481266.484*t
	argument := func(term moonTerm) (float64, float64) {
		factor := 1.0
		for range max(term.sun, -term.sun) {
			factor *= eccentricity
		}
		return factor, float64(term.elongation)*elongation + float64(term.sun)*sun + float64(term.moon)*moon + float64(term.node)*node
	}
	longitude = 3958*sine(venus) + 1962*sine(mean-node) + 318*sine(jupiter)
	for _, term := range moonLongitudeTerms {
		factor, angle := argument(term)
		longitude += term.first * factor * sine(angle)
		distance += term.second * factor * cosine(angle)
	}
	latitude = -2235*sine(mean) + 382*sine(third) + 175*sine(venus-node) + 175*sine(venus+node) + 127*sine(mean-moon) - 115*sine(mean+moon)
	for _, term := range moonLatitudeTerms {
		factor, angle := argument(term)
		latitude += term.first * factor * sine(angle)
	}
	return turn(mean + longitude/1e6 + nutation(t)), latitude / 1e6, 385000.56 + distance/1000
}
