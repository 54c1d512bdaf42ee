package astronomy

import "math"

// earthTerms are amplitude in 1e-8 radians, phase in radians and rate in radians
// in a thousand years of the earth's longitude around the sun, a list for each
// power of the thousands of years from 2000; the greatest terms of VSOP87
// (Bretagnon and Francou 1988), as Jean Meeus lists them in Astronomical
// Algorithms, appendix III. Right to about half a second of arc, in which the
// sun moves for 12 seconds.
var earthTerms = [...][][3]float64{
	{
		{175347046, 0, 0}, {3341656, 4.6692568, 6283.07585}, {34894, 4.62610, 12566.15170}, {3497, 2.7441, 5753.3849}, {3418, 2.8289, 3.5231}, {3136, 3.6277, 77713.7715},
		{2676, 4.4181, 7860.4194}, {2343, 6.1352, 3930.2097}, {1324, 0.7425, 11506.7698}, {1273, 2.0371, 529.6910}, {1199, 1.1096, 1577.3435}, {990, 5.233, 5884.927},
		{902, 2.045, 26.298}, {857, 3.508, 398.149}, {780, 1.179, 5223.694}, {753, 2.533, 5507.553}, {505, 4.583, 18849.228}, {492, 4.205, 775.523},
		{357, 2.920, 0.067}, {317, 5.849, 11790.629}, {284, 1.899, 796.298}, {271, 0.315, 10977.079}, {243, 0.345, 5486.778}, {206, 4.806, 2544.314},
		{205, 1.869, 5573.143}, {202, 2.458, 6069.777}, {156, 0.833, 213.299}, {132, 3.411, 2942.463}, {126, 1.083, 20.775}, {115, 0.645, 0.980},
		{103, 0.636, 4694.003}, {102, 0.976, 15720.839}, {102, 4.267, 7.114}, {99, 6.21, 2146.17}, {98, 0.68, 155.42}, {86, 5.98, 161000.69},
		{85, 1.30, 6275.96}, {85, 3.67, 71430.70}, {80, 1.81, 17260.15}, {79, 3.04, 12036.46}, {75, 1.76, 5088.63}, {74, 3.50, 3154.69},
		{74, 4.68, 801.82}, {70, 0.83, 9437.76}, {62, 3.98, 8827.39}, {61, 1.82, 7084.90}, {57, 2.78, 6286.60}, {56, 4.39, 14143.50},
		{56, 3.47, 6279.55}, {52, 0.19, 12139.55}, {52, 1.33, 1748.02}, {51, 0.28, 5856.48}, {49, 0.49, 1194.45}, {41, 5.37, 8429.24},
		{41, 2.40, 19651.05}, {39, 6.17, 10447.39}, {37, 6.04, 10213.29}, {37, 2.57, 1059.38}, {36, 1.71, 2352.87}, {36, 1.78, 6812.77},
		{33, 0.59, 17789.85}, {30, 0.44, 83996.85}, {30, 2.74, 1349.87}, {25, 3.16, 4690.48},
	},
	{
		{628331966747, 0, 0}, {206059, 2.678235, 6283.07585}, {4303, 2.6351, 12566.1517}, {425, 1.590, 3.523}, {119, 5.796, 26.298}, {109, 2.966, 1577.344},
		{93, 2.59, 18849.23}, {72, 1.14, 529.69}, {68, 1.87, 398.15}, {67, 4.41, 5507.55}, {59, 2.89, 5223.69}, {56, 2.17, 155.42},
		{45, 0.40, 796.30}, {36, 0.47, 775.52}, {29, 2.65, 7.11}, {21, 5.34, 0.98}, {19, 1.85, 5486.78}, {19, 4.97, 213.30},
		{17, 2.99, 6275.96}, {16, 0.03, 2544.31}, {16, 1.43, 2146.17}, {15, 1.21, 10977.08}, {12, 2.83, 1748.02}, {12, 3.26, 5088.63},
		{12, 5.27, 1194.45}, {12, 2.08, 4694.00}, {11, 0.77, 553.57}, {10, 1.30, 6286.60}, {10, 4.24, 1349.87}, {9, 2.70, 242.73},
		{9, 5.64, 951.72}, {8, 5.30, 2352.87}, {6, 2.65, 9437.76}, {6, 4.67, 4690.48},
	},
	{
		{52919, 0, 0}, {8720, 1.0721, 6283.0758}, {309, 0.867, 12566.152}, {27, 0.05, 3.52}, {16, 5.19, 26.30}, {16, 3.68, 155.42},
		{10, 0.76, 18849.23}, {9, 2.06, 77713.77}, {7, 0.83, 775.52}, {5, 4.66, 1577.34}, {4, 1.03, 7.11}, {4, 3.44, 5573.14},
		{3, 5.14, 796.30}, {3, 6.05, 5507.55}, {3, 1.19, 242.73}, {3, 6.12, 529.69}, {3, 0.31, 398.15}, {3, 2.28, 553.57},
		{2, 4.38, 5223.69}, {2, 3.75, 0.98},
	},
	{
		{289, 5.844, 6283.076}, {35, 0, 0}, {17, 5.49, 12566.15}, {3, 5.20, 155.42}, {1, 4.72, 3.52}, {1, 5.30, 18849.23},
		{1, 5.97, 242.73},
	},
	{
		{114, 3.142, 0}, {8, 4.13, 6283.08}, {1, 3.84, 12566.15},
	},
}

// SunLongitude returns the apparent longitude of the sun in degrees, from 0 at
// the March equinox up to 360.
func SunLongitude(m Moment) float64 {
	centuries := m.centuries()
	t, power, sum := centuries/10, 1.0, 0.0
	for _, terms := range earthTerms {
		series := 0.0
		for _, term := range terms {
			series += term[0] * math.Cos(term[1]+term[2]*t)
		}
		sum += power * series
		power *= t
	}
	// Half a turn from the earth to the sun, then to the frame of the FK5, and
	// back by as far as the sun moves while its light travels.
	longitude := sum*1e-8/degree + 180 - 0.09033/3600
	anomaly := 357.52911 + 35999.05029*centuries
	distance := 1.00014 - 0.01671*cosine(anomaly) - 0.00014*cosine(2*anomaly)
	return turn(longitude + nutation(centuries) - 20.4898/3600/distance)
}

// year is the days in which the sun comes round to the same longitude.
const year = 365.242189

// roughError is more than by how far roughLongitude is wrong, in degrees.
const roughError = 0.03

// roughLongitude returns the longitude of the sun by the equation of the centre
// alone, at a thirtieth of the cost; Meeus, chapter 25.
func roughLongitude(m Moment) float64 {
	t := m.centuries()
	anomaly := 357.52911 + 35999.05029*t
	centre := (1.914602-0.004817*t)*sine(anomaly) + 0.019993*sine(2*anomaly) + 0.000289*sine(3*anomaly)
	return turn(280.46646 + 36000.76983*t + 0.0003032*t*t + centre - 0.00569 - 0.00478*sine(125.04-1934.136*t))
}

// SunSign returns the twelfth of its way round in which the sun is, from 0 after
// the March equinox up to 11.
func SunSign(m Moment) int {
	rough := roughLongitude(m)
	if from := math.Mod(rough, 30); from > roughError && from < 30-roughError {
		return int(rough / 30)
	}
	return int(SunLongitude(m) / 30)
}

// SunAt returns the first moment from a moment on at which the sun has a
// longitude in degrees.
func SunAt(longitude float64, from Moment) Moment {
	way := turn(longitude - roughLongitude(from))
	if way < roughError || way > 360-roughError {
		// It is just before the moment, or just after.
		way = turn(longitude - SunLongitude(from))
	}
	m := from + Moment(way/360*year)
	left := func(of func(Moment) float64) float64 { return math.Mod(longitude-of(m)+540, 360) - 180 }
	// The sun moves by 0.95 to 1.02 degrees a day, so that each step leaves a
	// thirtieth of the way.
	for range 4 {
		m += Moment(left(roughLongitude) / 360 * year)
	}
	rate := turn(roughLongitude(m+0.5) - roughLongitude(m-0.5))
	for range 8 {
		way := left(SunLongitude)
		m += Moment(way / rate)
		if math.Abs(way) < 1e-5 {
			break
		}
	}
	return m
}
