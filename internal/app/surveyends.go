package app

import (
	"strings"

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
	var all []fileDays
	for _, file := range files {
		if own := file.mainDates(); own != nil {
			all = append(all, fileDays{file.Source.Parts[0].Name, strings.Join(file.Source.Names(), "\x00"), own})
		}
	}
	return endsEarly(all)
}

// mostBeside is how many files are compared with each other at most.
const mostBeside = 1000

// FilesEndEarly returns the files of the source that end well before others. Where somebody has said up to when facts are complete, or
// conditions leave out some, there are none.
func (f *Facts) FilesEndEarly(t *Tallied) []EarlyEnd {
	if f.Operation.Loaded != nil || len(f.Operation.Where) > 0 || len(f.Source.Parts) > mostBeside {
		return nil
	}
	var all []fileDays
	for _, part := range f.Source.Parts {
		days := t.ofParts[part.Index]
		if days == nil {
			continue
		}
		if summary, found := days.Summary(); found {
			all = append(all, fileDays{part.Name, "", summary})
		}
	}
	return endsEarly(all)
}

// fileDays are the days of a file with its columns.
type fileDays struct {
	name, columns string
	days          *survey.Summary
}

func endsEarly(files []fileDays) []EarlyEnd {
	var early []EarlyEnd
	for _, file := range files[:min(len(files), mostBeside)] {
		own, others := file.days, file.days.Last
		for _, other := range files[:min(len(files), mostBeside)] {
			dates := other.days
			if file.columns != other.columns {
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
			early = append(early, EarlyEnd{file.name, own.Last, others})
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
