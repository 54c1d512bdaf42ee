package app

import (
	"context"
	"fmt"
	"slices"

	"roundyear/calendar"
	"roundyear/check"
	"roundyear/civil"
	"roundyear/dimension"
	"roundyear/fault"
	"roundyear/yearplan"
)

// maxYears is more years than business has. A longer range is one of which an end is a stand-in
// for no date.
const maxYears = 1000

// Span asks from when to when a date table goes.
type Span struct {
	Year *Year
	// From and To are the days that the call gives; both or neither.
	From, To *civil.Day
	// Covers are the facts to cover: those that the call names, or else the plan's.
	Covers []Cover
	// NamesCovers tells that the call names them.
	NamesCovers bool
	// Exact and WholeYears are what the call says of whole years.
	Exact, WholeYears bool
	// PadYears is how many years more there are at both ends.
	PadYears int
	// Given are the settings that the call says.
	Given Given
	Open  Opener
}

// Spanned is the range of a date table, and what there is to say of it.
type Spanned struct {
	From, To civil.Day
	// Left are the days that stand for none and did not stretch the range.
	Left []dimension.DayCount
	// Exact tells that the range was not widened to whole years.
	Exact bool
	// Facts are those that were held against a range given by hand.
	Facts []*check.Facts
}

// SpanError is a range that cannot be asked for.
type SpanError struct{ What string }

// Error says why.
func (e *SpanError) Error() string { return e.What }

// errNoSpan is a call and a plan that say no range.
var errNoSpan = &SpanError{"the range is missing: add --from and --to, or --cover FILE:COLUMN, or range.cover in the plan"}

// Find works out the range: the days given, or those that facts need. The error may be a
// SpanError.
func (s *Span) Find(ctx context.Context) (found Spanned, err error) {
	planned, padYears := s.Year.Plan.Range, s.PadYears
	if s.From == nil && !s.Given["pad-years"] {
		padYears = planned.PadYears
	}
	var bounds yearplan.Range
	switch {
	case s.From != nil:
		found.From, found.To, found.Exact = *s.From, *s.To, s.isExact(true)
		if s.NamesCovers {
			if found.Facts, err = DaysOf(ctx, s.Open, s.Covers); err != nil {
				return found, err
			}
		}
	case len(s.Covers) > 0:
		if found.From, found.To, found.Left, err = rangeOf(ctx, s.Open, s.Covers); err != nil {
			return found, err
		}
		found.Exact = s.isExact(planned.Exact)
		if !s.NamesCovers {
			bounds = planned
		}
	case planned.From != nil:
		found.From, found.To = *planned.From, *planned.To
		found.Exact = s.isExact(!planned.Whole)
	default:
		return found, errNoSpan
	}
	if s.From == nil && found.isBeyondBuilt() != nil {
		if err := beyondBuilt(ctx, s.Open, s.Covers); err != nil {
			return found, err
		}
	}
	if err := found.isBeyondBuilt(); err != nil {
		return found, err
	}
	padded := found
	padded.From, padded.To = found.From.AddMonths(-12*padYears), (found.To+1).AddMonths(12*padYears)-1
	if err := padded.isBeyondBuilt(); err != nil {
		return found, err
	}
	if found.Exact {
		found = padded
	} else {
		found.From, found.To = s.Year.Set.PaddedYears(found.From, found.To, padYears)
	}
	if err := found.isBeyondBuilt(); err != nil {
		return found, err
	}
	if err := s.bound(ctx, &found, bounds); err != nil {
		return found, err
	}
	if years := found.To.Year() - found.From.Year() + 1; years > maxYears {
		return found, &SpanError{fmt.Sprintf("the range from %s to %s is %d years long, but at most %d are possible: is one of them a placeholder date?", found.From, found.To, years, maxYears)}
	}
	return found, s.Year.CheckKnown(found.From, found.To)
}

// isExact tells whether the range is not widened to whole years, by the call or else as it is planned.
func (s *Span) isExact(planned bool) bool {
	switch {
	case s.Given["exact"]:
		return s.Exact
	case s.Given["whole-years"]:
		return !s.WholeYears
	}
	return planned
}

// isBeyondBuilt returns the error for a range that no date table can have.
func (s *Spanned) isBeyondBuilt() error {
	if s.From >= FirstBuilt && s.To <= LastBuilt {
		return nil
	}
	return &SpanError{fmt.Sprintf("the range from %s to %s is outside %s to %s", s.From, s.To, FirstBuilt, LastBuilt)}
}

// bound keeps a range that facts need within the bounds of the plan. The facts outside are counted
// then.
func (s *Span) bound(ctx context.Context, found *Spanned, bounds yearplan.Range) (err error) {
	from, to := found.From, found.To
	if bounds.From != nil {
		found.From = max(from, *bounds.From)
	}
	if bounds.To != nil {
		found.To = min(to, *bounds.To)
	}
	if found.From == from && found.To == to {
		return nil
	}
	if found.From > found.To {
		return &fault.Fault{File: s.Year.Plan.File, What: fmt.Sprintf("the facts have dates from %s to %s, all outside range.from and range.to", from, to), Remedy: "Correct the range in the plan"}
	}
	found.Exact = true
	found.Facts, err = DaysOf(ctx, s.Open, s.Covers)
	return err
}

// CutPeriods names the years, quarters and months of calendars, the Gregorian first, that a range
// cuts at its ends.
func (s *Spanned) CutPeriods(calendars []calendar.Calendar) (atStart, atEnd []string) {
	for i, c := range calendars {
		prefix := ""
		if i > 0 {
			prefix = c.Name() + " "
		}
		for _, unit := range []calendar.Unit{calendar.Year, calendar.Quarter, calendar.Month} {
			if !slices.Contains(c.Units(), unit) {
				continue
			}
			if period := c.Locate(unit, s.From); period.First < s.From {
				atStart = append(atStart, prefix+c.Label(period))
			}
			if period := c.Locate(unit, s.To); period.Last > s.To {
				atEnd = append(atEnd, prefix+c.Label(period))
			}
		}
	}
	return atStart, atEnd
}

// LastWithoutYearAgo returns the last day whose day a year earlier comes before the range.
func (s *Spanned) LastWithoutYearAgo() civil.Day {
	last := s.From.AddMonths(12)
	for last.AddMonths(-12) >= s.From {
		last--
	}
	return min(last, s.To)
}

// WholeYears returns the first and the last year of a calendar that lie in the range from their
// first day to their last; it is false if there are none.
func (s *Spanned) WholeYears(years calendar.Calendar) (first, last calendar.Period, ok bool) {
	first, last = years.Locate(calendar.Year, s.From), years.Locate(calendar.Year, s.To)
	if first.First < s.From {
		first = years.Locate(calendar.Year, first.Last+1)
	}
	if last.Last > s.To {
		last = years.Locate(calendar.Year, last.First-1)
	}
	return first, last, first.Number <= last.Number
}
