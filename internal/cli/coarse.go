package cli

import (
	"fmt"
	"slices"

	"roundyear/calendar"
	"roundyear/fault"
	"roundyear/internal/app"
	"roundyear/internal/reading"
	"roundyear/rows"
	"roundyear/yearplan"
)

// unitOf returns what a date of facts stands for: by the plan, for its own files
// and the ones that normalise writes, else by how it is written. A date that
// stands for a day is the usual.
func (y *year) unitOf(inputs []string, dates *reading.Dates) calendar.Unit {
	for i := range y.plan.Facts {
		facts := &y.plan.Facts[i]
		written := *facts
		written.Files = []string{facts.Out}
		isOut := facts.Out != "" && !slices.ContainsFunc(inputs, func(input string) bool { return !y.holds(&written, input) })
		if !isOut && slices.ContainsFunc(inputs, func(input string) bool { return !y.holds(facts, input) }) {
			continue
		}
		if planned := plannedDates(facts, dates.Name); planned != nil && planned.Grain != calendar.Day {
			return planned.Grain
		}
	}
	for _, found := range dates.Files {
		if found.Decision == nil {
			continue
		}
		for _, share := range found.Decision.Patterns {
			for _, unit := range []calendar.Unit{calendar.Week, calendar.Month, calendar.Quarter, calendar.Half, calendar.Year} {
				if share.Grain == unit.String() {
					return unit
				}
			}
		}
	}
	return calendar.Day
}

// plannedDates is what the plan says of a date column, or of one that normalise
// has added for it.
func plannedDates(facts *yearplan.Facts, column string) *yearplan.Dates {
	for i, dates := range facts.Dates {
		if column == dates.Column || column == dates.Column+"_date" || column == dates.Column+"_business_date" {
			return &facts.Dates[i]
		}
	}
	return nil
}

// checkCoarse refuses to lay facts of coarse periods on their first days, where
// the periods wanted are not made of whole ones.
func (p *plan) checkCoarse(source *rows.Source, dates *reading.Dates, unit calendar.Unit, tally *app.Tallied) error {
	if unit == calendar.Day {
		return nil
	}
	cut := calendar.Calendar(p.year.set.Year)
	if unit == calendar.Week {
		cut = p.year.set.Week
	}
	summary := tally.Summary()
	last := p.Operation.Grain.Locate(summary.Last)
	for number := p.Operation.Grain.Locate(summary.First).Number; number <= last.Number; number++ {
		period := p.Operation.Grain.At(number)
		first, end := cut.Locate(unit, period.First), cut.Locate(unit, period.Last)
		whole := first.First == period.First && end.Last == period.Last
		if whole {
			continue
		}
		split := first
		if first.First == period.First {
			split = end
		}
		return &fault.Fault{File: source.Name(), Column: dates.Name,
			What:   fmt.Sprintf("contains %ss, but %s (%s to %s) does not consist of whole ones: %s is only partly in it", unit, p.Operation.Grain.Label(period), period.First, period.Last, cut.Label(split)),
			Remedy: fmt.Sprintf("Choose a --grain that consists of whole %ss, such as %s. Splitting a %s into finer periods is not supported yet", unit, coarserGrains(unit), unit)}
	}
	return nil
}

// coarserGrains names grains made of whole ones of a unit.
func coarserGrains(unit calendar.Unit) string {
	switch unit {
	case calendar.Week:
		return "week"
	case calendar.Month:
		return "month, quarter or year"
	case calendar.Quarter:
		return "quarter, half or year"
	case calendar.Half:
		return "half or year"
	}
	return "year"
}
