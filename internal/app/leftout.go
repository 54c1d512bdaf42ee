package app

import (
	"slices"

	"roundyear/civil"
	"roundyear/datetext"
	"roundyear/rows"
	"roundyear/survey"
)

// leftOut are the days of the rows that conditions leave out, by the set of conditions that they do not meet: a bit for each.
type leftOut struct {
	of map[uint64]*survey.Profile
	// spans are those of rows of which only the first and the last day are known.
	spans []rows.LeftOutDay
	// failed is the set that the last row did not meet, and last its days: most rows follow their like.
	failed uint64
	last   *survey.Profile
}

func newLeftOut() *leftOut { return &leftOut{of: map[uint64]*survey.Profile{}} }

func (l *leftOut) addSpan(span rows.LeftOutDay) { l.spans = append(l.spans, span) }

func (l *leftOut) add(failed uint64, day civil.Day) {
	if l.last == nil || l.failed != failed {
		if l.of[failed] == nil {
			l.of[failed] = survey.New()
		}
		l.failed, l.last = failed, l.of[failed]
	}
	l.last.Add(datetext.Moment{Day: day})
}

func (l *leftOut) join(other *leftOut) {
	for failed, profile := range other.of {
		if l.of[failed] == nil {
			l.of[failed] = survey.New()
		}
		l.of[failed].Join(profile)
	}
	l.spans = append(l.spans, other.spans...)
}

// ofTime returns the conditions that choose days and not rows of days: those that no two rows of a day answer differently, such as a range
// of dates, a year or a weekday. What they leave out is outside the range.
func (l *leftOut) ofTime(kept *survey.Profile) (conditions uint64) {
	var all uint64
	for failed := range l.of {
		all |= failed
	}
	for bit := range 64 {
		one := uint64(1) << bit
		if all&one == 0 {
			continue
		}
		met, unmet := survey.New(), survey.New()
		met.Join(kept)
		for failed, profile := range l.of {
			if failed&one == 0 {
				met.Join(profile)
			} else {
				unmet.Join(profile)
			}
		}
		if !met.Shares(unmet) && !slices.ContainsFunc(l.spans, func(span rows.LeftOutDay) bool {
			return span.Failed&one != 0 && met.HasBetween(span.Day, span.Through)
		}) {
			conditions |= one
		}
	}
	return conditions
}

// inRange returns the days of all facts in the range: those that are kept, and those that are left out by conditions that choose rows of
// days. It is cut where a condition that chooses days leaves out later ones.
func (l *leftOut) inRange(kept *survey.Profile) (all *survey.Profile, isCut bool) {
	all = survey.New()
	all.Join(kept)
	ofTime := l.ofTime(kept)
	beyond := survey.New()
	for failed, profile := range l.of {
		if failed&ofTime == 0 {
			all.Join(profile)
		} else {
			beyond.Join(profile)
		}
	}
	in, out := all.Plausible(), beyond.Plausible()
	return all, len(out) > 0 && (len(in) == 0 || out[len(out)-1] > in[len(in)-1])
}

// reach makes the range of the periods that of all facts, before conditions leave out some.
func (t *Tallied) reach() {
	if len(t.leftOut.of) == 0 {
		return
	}
	all, _ := t.leftOut.inRange(t.days)
	for _, day := range slices.Backward(all.Plausible()) {
		t.Reach(day)
	}
}
