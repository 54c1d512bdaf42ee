package lapse

import (
	"errors"
	"fmt"
	"math"
	"slices"
	"strconv"
	"strings"
)

// Band is a range of lapses, in whole units: those from From on and below To+1.
type Band struct {
	Label    string
	From, To int64
}

// Ends that a band does not have.
const (
	NoFrom = math.MinInt64
	NoTo   = math.MaxInt64
)

// Bands are bands in their order, which meet: no lapse falls into two of them, and none between them.
type Bands []Band

// BandsOf makes bands of the numbers with which they begin: of 10, 20 and 30 those from 0 to 9, 10 to 19, 20 to 29, and 30 and over. The
// first begins with 0 unless a number is less.
func BandsOf(starts []int64) (Bands, error) {
	if len(starts) == 0 {
		return nil, errors.New("there are no bands")
	}
	for i := 1; i < len(starts); i++ {
		if starts[i] <= starts[i-1] {
			return nil, fmt.Errorf("bands must go up: %d does not come after %d", starts[i], starts[i-1])
		}
	}
	if starts[0] > 0 {
		starts = slices.Insert(slices.Clone(starts), 0, 0)
	}
	var bands Bands
	for i, start := range starts {
		if i+1 == len(starts) {
			bands = append(bands, Band{fmt.Sprintf("%d and over", start), start, NoTo})
			break
		}
		label := fmt.Sprintf("%d–%d", start, starts[i+1]-1)
		if starts[i+1]-1 == start {
			label = strconv.FormatInt(start, 10)
		}
		bands = append(bands, Band{label, start, starts[i+1] - 1})
	}
	return bands, nil
}

// ParseBand reads LABEL=FROM..TO, of which FROM or TO may be missing.
func ParseBand(text string) (Band, error) {
	label, span, found := strings.Cut(text, "=")
	from, to, isSpan := strings.Cut(span, "..")
	bad := fmt.Errorf("%q is not LABEL=FROM..TO, such as 'on time=0..5'", text)
	if !found || !isSpan || strings.TrimSpace(label) == "" || from == "" && to == "" {
		return Band{}, bad
	}
	band := Band{strings.TrimSpace(label), NoFrom, NoTo}
	for _, end := range []struct {
		text string
		to   *int64
	}{{from, &band.From}, {to, &band.To}} {
		if end.text = strings.TrimSpace(end.text); end.text == "" {
			continue
		}
		number, err := strconv.ParseInt(end.text, 10, 32)
		if err != nil {
			return Band{}, bad
		}
		*end.to = number
	}
	if band.To < band.From {
		return Band{}, fmt.Errorf("band %q ends with %d, before it begins with %d", band.Label, band.To, band.From)
	}
	return band, nil
}

// Check returns an error unless the bands meet in their order, and have labels of their own that stand for nothing else.
func (b Bands) Check() error {
	labels := map[string]bool{}
	for i, band := range b {
		if slices.Contains([]string{Negative, Implausible, Blank, Below, Above}, band.Label) {
			return fmt.Errorf("a band cannot be called %q, which stands for lapses in no band", band.Label)
		}
		if labels[band.Label] {
			return fmt.Errorf("two bands are called %q", band.Label)
		}
		labels[band.Label] = true
		if i == 0 {
			continue
		}
		before := b[i-1]
		switch {
		case before.To == NoTo || band.From == NoFrom || band.From <= before.To:
			return fmt.Errorf("the bands %q and %q overlap", before.Label, band.Label)
		case band.From > before.To+1:
			return fmt.Errorf("between the bands %q and %q there is a gap, from %d to %d", before.Label, band.Label, before.To+1, band.From-1)
		}
	}
	return nil
}

// Kinds of lapses that are in no band.
const (
	Negative    = "negative"
	Implausible = "implausible"
	Blank       = "blank"
	Below       = "below all bands"
	Above       = "above all bands"
)

// ImplausibleDays is how many days apart two days are at least for hardly anybody to have meant it: a hundred years.
const ImplausibleDays = 36525

// Place is where a lapse belongs: its label, and by what it is sorted. Bands are sorted by their order, from 1 on; what is negative or
// below all of them comes before, what is above, implausible or blank behind.
type Place struct {
	Label string
	Sort  int
}

// Of returns the place of a lapse in units of so many decimals.
func (b Bands) Of(lapse int64, decimals int) Place {
	for range decimals {
		// Down to the whole unit, also below zero.
		whole := lapse / 10
		if lapse%10 < 0 {
			whole--
		}
		lapse = whole
	}
	for i, band := range b {
		if lapse < 0 && !band.isBelowZero() {
			continue
		}
		if lapse >= band.From && lapse <= band.To {
			return Place{band.Label, i + 1}
		}
	}
	switch {
	case lapse < 0:
		return Place{Negative, -1}
	case len(b) > 0 && lapse < b[0].From:
		return Place{Below, 0}
	}
	return Place{Above, len(b) + 1}
}

// isBelowZero tells whether a band was made for lapses whose end comes before their start: it says so by an end below zero. One without a
// beginning, such as ..5, is for those from 0 on.
func (b Band) isBelowZero() bool { return b.From < 0 && b.From != NoFrom || b.To < 0 }

// OfBackward is Of for a lapse whose end comes before its start, though by less than a unit perhaps. It tells whether a band was made for
// such lapses; if not, they are counted apart.
func (b Bands) OfBackward(lapse int64, decimals int) (place Place, isInBand bool) {
	if lapse < 0 {
		if place = b.Of(lapse, decimals); place.Sort > 0 {
			return place, true
		}
	}
	return Place{Negative, -1}, false
}

// PlaceOfImplausible and PlaceOfBlank are those of lapses that are not counted in bands.
func (b Bands) PlaceOfImplausible() Place { return Place{Implausible, len(b) + 2} }

// PlaceOfBlank is the place of rows without a lapse.
func (b Bands) PlaceOfBlank() Place { return Place{Blank, len(b) + 3} }
