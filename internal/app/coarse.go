package app

import (
	"context"
	"slices"
	"strings"

	"roundyear/calendar"
	"roundyear/internal/normalise"
	"roundyear/internal/reading"
	"roundyear/rows"
	"roundyear/yearplan"
)

// GrainOf returns what a date of facts stands for: by the plan, for its own files
// and the ones that normalise writes, else by how it is written. A date that
// stands for a day is the usual.
func (y *Year) GrainOf(inputs []string, dates *reading.Dates) calendar.Grain {
	plain := func(unit calendar.Unit) calendar.Grain {
		if unit == calendar.Week {
			return calendar.Grain{Calendar: y.Set.Week, Unit: unit}
		}
		return calendar.Grain{Calendar: y.Set.Year, Unit: unit}
	}
	for i := range y.Plan.Facts {
		facts := &y.Plan.Facts[i]
		if !y.holdsAll(facts, inputs) {
			continue
		}
		if planned := plannedDates(facts, dates.Name); planned != nil && planned.Grain != calendar.Day {
			return plain(planned.Grain)
		}
	}
	for _, found := range dates.Files {
		if found.Decision == nil {
			continue
		}
		for _, share := range found.Decision.Patterns {
			if grain, err := y.Set.Grain(share.Grain); err == nil && grain.Unit != calendar.Day {
				return grain
			}
		}
	}
	return plain(calendar.Day)
}

// GrainIn is GrainOf for a date of a source that may have a column which says what the date stands for, as normalise writes it.
func (y *Year) GrainIn(ctx context.Context, source *rows.Source, inputs []string, dates *reading.Dates) (calendar.Grain, error) {
	of := y.GrainOf(inputs, dates)
	name, isAdded := strings.CutSuffix(dates.Name, "_date")
	if at := slices.Index(source.Names(), name+normalise.GrainSuffix); of.Unit == calendar.Day && isAdded && at >= 0 {
		err := source.Sample(ctx, sampleSize, func(row *rows.Row) {
			if grain, err := y.Set.Grain(string(row.Field(at))); err == nil && grain.Unit > of.Unit {
				of = grain
			}
		})
		return of, err
	}
	return of, nil
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
