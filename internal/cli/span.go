package cli

import (
	"context"
	"errors"
	"fmt"
	"slices"
	"strings"

	"github.com/spf13/cobra"

	"roundyear/calendar"
	"roundyear/check"
	"roundyear/civil"
	"roundyear/dimension"
	"roundyear/fault"
	"roundyear/internal/app"
	"roundyear/internal/report"
)

// The years that a dimension can have: the Gregorian calendar began in October
// 1582, and years have four digits.
var (
	firstBuilt = civil.MustOf(1583, civil.January, 1)
	lastBuilt  = civil.MaxDay
)

// maxYears is more years than business has. A longer range is one of which an
// end is a stand-in for no date.
const maxYears = 1000

// spanFlags say from when to when a date table goes.
type spanFlags struct {
	span       rangeFlags
	wholeYears bool
	covers     []string
	exact      bool
	padYears   int
}

func (f *spanFlags) add(command *cobra.Command) {
	f.span.add(command, "the range")
	flags := command.Flags()
	flags.BoolVar(&f.wholeYears, "whole-years", false, "widen the range to whole calendar and fiscal years")
	flags.StringArrayVar(&f.covers, "cover", nil, "cover the dates of facts, in whole years, `FILE:COLUMN` (repeatable; default: the plan's)")
	flags.BoolVar(&f.exact, "exact", false, "do not widen the range to whole years; reports which periods are cut off")
	flags.IntVar(&f.padYears, "pad-years", 0, "add `YEARS` at both ends")
}

// given tells whether the flags say a range themselves.
func (f *spanFlags) given() bool { return f.span.from != "" || f.span.to != "" || len(f.covers) > 0 }

// spanned is the range of a date table, and what there is to say of it.
type spanned struct {
	from, to civil.Day
	// left are the days that stand for none and did not stretch the range.
	left []dimension.DayCount
	// exact tells that the range was not widened to whole years.
	exact bool
	// facts are those that were held against a range given by hand.
	facts []*check.Facts
	// earliest and latest bound the range of facts that a plan covers; nil for
	// no bound.
	earliest, latest *civil.Day
}

// bound keeps a range that facts need within the bounds of the plan. The facts
// outside are counted then.
func (s *spanned) bound(ctx context.Context, a *App, covers []cover) (err error) {
	from, to := s.from, s.to
	if s.earliest != nil {
		s.from = max(s.from, *s.earliest)
	}
	if s.latest != nil {
		s.to = min(s.to, *s.latest)
	}
	if s.from == from && s.to == to {
		return nil
	}
	if s.from > s.to {
		return &fault.Fault{File: a.planPath, What: fmt.Sprintf("the facts have dates from %s to %s, all outside range.from and range.to", from, to), Remedy: "Correct the range in the plan"}
	}
	s.exact = true
	s.facts, err = a.daysOf(ctx, covers)
	return err
}

// find works out the range: the days given, or those that facts need.
func (f *spanFlags) find(ctx context.Context, a *App, y *app.Year, reading readingFlags, t *dateTable) error {
	first, last, err := f.span.days()
	if err != nil {
		return err
	}
	if f.exact && f.wholeYears {
		return usageError{errors.New("--exact and --whole-years cannot be combined")}
	}
	if f.padYears < 0 || f.padYears > 9999 {
		return usageError{fmt.Errorf("--pad-years must be a number from 0, not %d", f.padYears)}
	}
	var covers []cover
	if first == nil || len(f.covers) > 0 {
		if covers, err = coversOf(y, f.covers, reading); err != nil {
			return err
		}
	}
	planned, padYears := y.Plan.Range, f.padYears
	switch {
	case (first == nil) != (last == nil):
		return usageError{errors.New("a range needs both --from and --to")}
	case first != nil:
		t.from, t.to, t.exact = *first, *last, !f.wholeYears
		if len(f.covers) > 0 {
			if t.facts, err = a.daysOf(ctx, covers); err != nil {
				return err
			}
		}
	case len(covers) > 0:
		if err := t.cover(ctx, a, covers); err != nil {
			return err
		}
		t.exact, padYears = f.exact || planned.Exact && !f.wholeYears, max(padYears, planned.PadYears)
		if len(f.covers) == 0 {
			t.earliest, t.latest = planned.From, planned.To
		}
	case planned.From != nil:
		t.from, t.to = *planned.From, *planned.To
		t.exact, padYears = f.exact || !planned.Whole && !f.wholeYears, max(padYears, planned.PadYears)
	default:
		return usageError{errors.New("the range is missing: add --from and --to, or --cover FILE:COLUMN, or range.cover in the plan")}
	}
	if first == nil && (t.from < firstBuilt || t.to > lastBuilt) {
		if err := a.beyondBuilt(ctx, covers); err != nil {
			return err
		}
	}
	if t.from < firstBuilt || t.to > lastBuilt {
		return usageError{fmt.Errorf("the range from %s to %s is outside %s to %s", t.from, t.to, firstBuilt, lastBuilt)}
	}
	// Padded by whole years before they are made whole, so that the years of
	// each calendar are whole after it.
	t.from, t.to = t.from.AddMonths(-12*padYears), (t.to+1).AddMonths(12*padYears)-1
	if !t.exact {
		t.from, t.to = y.Set.WholeYears(t.from, t.to)
	}
	if t.from < firstBuilt || t.to > lastBuilt {
		return usageError{fmt.Errorf("the range from %s to %s is outside %s to %s", t.from, t.to, firstBuilt, lastBuilt)}
	}
	if err := t.bound(ctx, a, covers); err != nil {
		return err
	}
	if years := t.to.Year() - t.from.Year() + 1; years > maxYears {
		return usageError{fmt.Errorf("the range from %s to %s is %d years long, but at most %d are possible: is one of them a placeholder date?", t.from, t.to, years, maxYears)}
	}
	return y.CheckKnown(t.from, t.to)
}

// cover takes the range of the days of facts.
func (s *spanned) cover(ctx context.Context, a *App, covers []cover) error {
	var all dimension.Coverage
	var names []string
	for _, one := range covers {
		names = append(names, one.name)
		found, err := collectDays(ctx, a, one, func() *dimension.Coverage { return &dimension.Coverage{} }, func(coverage *dimension.Coverage, row app.DatedRow) {
			if row.Blank {
				return
			}
			coverage.Add(row.Day)
			if one.unit != calendar.Day {
				coverage.Add(one.lastOf(row.Day))
			}
		}, func(total, part *dimension.Coverage) { total.Join(*part) })
		if err != nil {
			return err
		}
		all.Join(*found)
	}
	var ok bool
	if s.from, s.to, ok = all.Range(); !ok {
		return &fault.Fault{File: strings.Join(names, ", "), What: "contains no dates to cover"}
	}
	s.left = all.Sentinels()
	return nil
}

// daysOf gathers the days of facts, each by itself.
func (a *App) daysOf(ctx context.Context, covers []cover) ([]*check.Facts, error) {
	var facts []*check.Facts
	for _, one := range covers {
		all, err := collectDays(ctx, a, one, func() *check.Facts { return &check.Facts{Source: one.name} }, func(facts *check.Facts, row app.DatedRow) {
			if row.Blank {
				facts.AddBlank()
			} else {
				facts.Add(row.Day)
			}
		}, (*check.Facts).Join)
		if err != nil {
			return nil, err
		}
		facts = append(facts, all)
	}
	return facts, nil
}

// print says which days were left out, and which figures fall off the ends of a
// range that is not of whole years.
func (s *spanned) print(r *report.Report, calendars []calendar.Calendar) {
	for _, sentinel := range s.left {
		r.Note("excluded from the range: %s (%s), a placeholder date", sentinel.Day, report.Plural(sentinel.Count, "fact"))
	}
	for _, facts := range s.facts {
		if before, after := facts.Outside(s.from, s.to); before+after > 0 {
			r.Attention("%s: %s before %s and %s after %s are not in the table", facts.Source, report.Plural(before, "fact"), s.from, report.Plural(after, "fact"), s.to)
		}
	}
	if !s.exact {
		return
	}
	atStart, atEnd := cutPeriods(calendars, s.from, s.to)
	if len(atStart) > 0 {
		r.Line("Incomplete at the start: %s; their totals lack the days before %s", strings.Join(atStart, ", "), s.from)
	}
	if len(atEnd) > 0 {
		r.Line("Incomplete at the end: %s; their totals lack the days after %s", strings.Join(atEnd, ", "), s.to)
	}
	if len(atStart)+len(atEnd) > 0 {
		r.Line("For the days from %s to %s the same day a year earlier is not in the table", s.from, min(lastWithoutYearAgo(s.from), s.to))
	}
}

// lastWithoutYearAgo returns the last day whose day a year earlier comes before
// the first of a table.
func lastWithoutYearAgo(first civil.Day) civil.Day {
	last := first.AddMonths(12)
	for last.AddMonths(-12) >= first {
		last--
	}
	return last
}

// cutPeriods names the years, quarters and months of calendars, the Gregorian
// first, that a range cuts at its ends.
func cutPeriods(calendars []calendar.Calendar, from, to civil.Day) (atStart, atEnd []string) {
	for i, c := range calendars {
		prefix := ""
		if i > 0 {
			prefix = c.Name() + " "
		}
		for _, unit := range []calendar.Unit{calendar.Year, calendar.Quarter, calendar.Month} {
			if !slices.Contains(c.Units(), unit) {
				continue
			}
			if period := c.Locate(unit, from); period.First < from {
				atStart = append(atStart, prefix+c.Label(period))
			}
			if period := c.Locate(unit, to); period.Last > to {
				atEnd = append(atEnd, prefix+c.Label(period))
			}
		}
	}
	return atStart, atEnd
}

// wholeYears lists the years that lie in a range from their first day to their
// last.
func wholeYears(years calendar.Calendar, from, to civil.Day) string {
	first, last := years.Locate(calendar.Year, from), years.Locate(calendar.Year, to)
	if first.First < from {
		first = years.Locate(calendar.Year, first.Last+1)
	}
	if last.Last > to {
		last = years.Locate(calendar.Year, last.First-1)
	}
	switch {
	case first.Number > last.Number:
		return "none"
	case first.Number == last.Number:
		return years.Label(first)
	}
	return years.Label(first) + " to " + years.Label(last)
}
