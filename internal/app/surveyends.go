package app

import (
	"slices"

	"roundyear/civil"
	"roundyear/survey"
)

// EarlyEnd is a file that ends well before others with the same columns that it runs beside: what comes after it may not be loaded.
type EarlyEnd struct {
	File string
	Last civil.Day
	// Others is the last day of the others.
	Others civil.Day
}

// leastEarly is how many days a file ends before others at least to be told.
const leastEarly = 8

// EndsEarly returns the files that end well before others.
func EndsEarly(files []*Surveyed) []EarlyEnd {
	var early []EarlyEnd
	for _, file := range files {
		own := file.mainDates()
		if own == nil {
			continue
		}
		others := own.Last
		for _, other := range files {
			dates := other.mainDates()
			if dates == nil || !slices.Equal(file.Source.Names(), other.Source.Names()) {
				continue
			}
			// Files of months follow one another: they do not run side by side.
			if beside := min(own.Last, dates.Last) - max(own.First, dates.First); beside*2 >= min(own.Last-own.First, dates.Last-dates.First) && beside > 0 {
				others = max(others, dates.Last)
			}
		}
		longest := 0
		for _, run := range own.MissingDays {
			longest = max(longest, run.Count)
		}
		if late := int(others - own.Last); late >= leastEarly && late > 2*longest {
			early = append(early, EarlyEnd{file.Source.Parts[0].Name, own.Last, others})
		}
	}
	return early
}

// mainDates returns what the first date column of a file holds; nil where there is none.
func (f *Surveyed) mainDates() *survey.Summary {
	for _, column := range f.Columns {
		if column.Summary != nil && !column.IsPeriod() {
			return column.Summary
		}
	}
	return nil
}
