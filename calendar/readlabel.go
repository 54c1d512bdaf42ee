package calendar

import (
	"strconv"
	"strings"
	"unicode"

	"roundyear/civil"
)

// Years between which labels are read.
var (
	firstRead = civil.MustOf(1950, civil.January, 1)
	lastRead  = civil.MustOf(2100, civil.December, 31)
)

// LabelReader finds periods of a grain by their labels.
type LabelReader struct {
	grain   Grain
	periods map[string]Period
}

// ReadLabels returns what finds the periods of a grain by their labels, of the days from 1950 to 2100 that its calendar
// knows.
func (g Grain) ReadLabels() *LabelReader {
	first, last := firstRead, lastRead
	if bounded, ok := g.Calendar.(Bounded); ok {
		from, to := bounded.Bounds()
		first, last = max(first, from), min(last, to)
	}
	r := &LabelReader{grain: g, periods: map[string]Period{}}
	others := map[string]Period{}
	for number, end := g.Locate(first).Number, g.Locate(last).Number; number <= end; number++ {
		period := g.At(number)
		label := folded(g.Label(period))
		r.periods[label] = period
		other, ok := otherYear(label, period.Year)
		if _, isTwice := others[other]; ok && isTwice {
			period = Period{} // of two centuries
		}
		if ok {
			others[other] = period
		}
	}
	for label, period := range others {
		if _, isOwn := r.periods[label]; !isOwn && period.Last != 0 {
			r.periods[label] = period
		}
	}
	return r
}

// Grain returns the grain of the periods.
func (r *LabelReader) Grain() Grain { return r.grain }

// Find returns the period of a label, in any case and whatever stands between its letters and digits. Years may have two digits
// where only one year can be meant.
func (r *LabelReader) Find(label string) (Period, bool) {
	period, ok := r.periods[folded(label)]
	return period, ok
}

// folded writes a label in capitals, without what stands between its letters and digits, and its numbers without zeros before
// them.
func folded(label string) string {
	var all strings.Builder
	number := ""
	end := func() {
		if number != "" {
			all.WriteString(strings.TrimLeft(number, "0"))
			if all.WriteByte(' '); strings.Trim(number, "0") == "" {
				all.WriteString("0 ")
			}
			number = ""
		}
	}
	for _, r := range label {
		if r >= '0' && r <= '9' {
			number += string(r)
			continue
		}
		end()
		if unicode.IsLetter(r) {
			all.WriteRune(unicode.ToUpper(r))
		}
	}
	end()
	return all.String()
}

// otherYear returns a folded label with its year in two digits, or in four where it has two. It is false for one that does not
// begin with its year, behind letters.
func otherYear(label string, year int) (string, bool) {
	start := strings.IndexAny(label, "0123456789")
	if start < 0 {
		return "", false
	}
	number, rest, _ := strings.Cut(label[start:], " ")
	short, long := strconv.Itoa(year%100), strconv.Itoa(year)
	switch number {
	case long:
		return label[:start] + short + " " + rest, true
	case short:
		return label[:start] + long + " " + rest, true
	}
	return "", false
}
