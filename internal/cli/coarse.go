package cli

import (
	"fmt"
	"strings"

	"roundyear/calendar"
	"roundyear/fault"
	"roundyear/internal/app"
	"roundyear/internal/reading"
)

// checkCoarse refuses to lay facts of coarse periods on their first days, where
// the periods wanted are not made of whole ones.
func (p *plan) checkCoarse(grain calendar.Grain, dates *reading.Dates, of calendar.Grain, tally *app.Tallied) error {
	unit, cut := of.Unit, of.Calendar
	if unit == calendar.Day {
		return nil
	}
	summary := tally.Summary()
	last := grain.Locate(summary.Last)
	for number := grain.Locate(summary.First).Number; number <= last.Number; number++ {
		period := grain.At(number)
		first, end := cut.Locate(unit, period.First), cut.Locate(unit, period.Last)
		whole := first.First == period.First && end.Last == period.Last
		if whole {
			continue
		}
		split := first
		if first.First == period.First {
			split = end
		}
		return &fault.Fault{File: p.Source.Name(), Column: dates.Name,
			What:   fmt.Sprintf("contains %ss, but %s (%s to %s) does not consist of whole ones: %s is only partly in it", unit, grain.Label(period), period.First, period.Last, cut.Label(split)),
			Remedy: fmt.Sprintf("Choose a --grain that consists of whole %ss, such as %s, or lay each %s over its days first, with roundyear allocate", unit, coarserGrains(of), unit)}
	}
	return nil
}

// coarserGrains names grains made of whole ones of a unit.
func coarserGrains(of calendar.Grain) string {
	if name := of.String(); strings.Contains(name, ".") {
		return name
	}
	switch of.Unit {
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
