package app

import (
	"errors"
	"fmt"
	"regexp"
	"slices"
	"strings"

	"roundyear/civil"
	"roundyear/internal/reading"
	"roundyear/internal/table"
)

// FoundFacts is facts as the survey has found them: files with the same columns.
type FoundFacts struct {
	Name  string
	Files []*Surveyed
}

// GroupFacts puts files with the same columns together, and names each facts after what the names
// of its files begin with.
func GroupFacts(files []*Surveyed) []*FoundFacts {
	var all []*FoundFacts
	for _, file := range files {
		same := slices.IndexFunc(all, func(f *FoundFacts) bool {
			return slices.Equal(f.Files[0].Source.Names(), file.Source.Names())
		})
		if same < 0 {
			all = append(all, &FoundFacts{Files: []*Surveyed{file}})
		} else {
			all[same].Files = append(all[same].Files, file)
		}
	}
	taken := map[string]bool{}
	for i, facts := range all {
		name := facts.commonName()
		if name == "" || taken[name] {
			name = fmt.Sprintf("facts_%d", i+1)
		}
		taken[name] = true
		facts.Name = name
	}
	return all
}

var notInNames = regexp.MustCompile(`[^a-z0-9]+`)

// commonName returns what the names of its files begin with.
func (f *FoundFacts) commonName() string {
	stem := stemOf(f.Files[0])
	for _, file := range f.Files[1:] {
		for !strings.HasPrefix(stemOf(file), stem) {
			stem = stem[:len(stem)-1]
		}
	}
	return strings.Trim(notInNames.ReplaceAllString(strings.ToLower(stem), "_"), "_")
}

func stemOf(file *Surveyed) string { return table.StemOf(file.Source.Name()) }

// FoundDate is a date column of facts, or numbers that may be moments.
type FoundDate struct {
	Name string
	// Parts are its columns, if it stands in three.
	Parts *reading.Parts
	// IsOpen tells that day and month cannot be told apart in one of the files.
	IsOpen bool
	// IsSwapped tells that they seem to be swapped in the date cells of a workbook.
	IsSwapped bool
	// Patterns are the different ones of all files, in order.
	Patterns []string
	// Grain is what its values stand for, as the survey has it.
	Grain string
	// Count is how many dates there are, First and Last are the days of the others.
	Count       int
	First, Last civil.Day
	// Number is how numbers are taken for moments; nil for dates.
	Number *NumberHint

	hasDays bool
}

// Dates returns the date columns of facts, and the numbers that the survey takes for moments behind them.
func (f *FoundFacts) Dates() []FoundDate {
	var dates []FoundDate
	for _, column := range f.Files[0].Columns {
		date := FoundDate{Name: column.Name, Grain: column.Grain()}
		for _, parts := range f.Files[0].Parts {
			if parts.Name == column.Name {
				date.Parts = &parts
			}
		}
		for _, file := range f.Files {
			date.take(file)
		}
		dates = append(dates, date)
	}
	for _, number := range f.Files[0].Numbers {
		dates = append(dates, FoundDate{Name: number.Column, Number: &number})
	}
	return dates
}

// take takes in what a file has in the column.
func (d *FoundDate) take(file *Surveyed) {
	for _, same := range file.Columns {
		if same.Name != d.Name {
			continue
		}
		if same.Problem != nil {
			d.IsOpen = true
			d.IsSwapped = d.IsSwapped || errors.As(same.Problem, new(*reading.SwappedCells))
			continue
		}
		if decision := same.Dates.Files[0].Decision; decision != nil {
			for _, share := range decision.Patterns {
				if !slices.Contains(d.Patterns, share.Pattern) {
					d.Patterns = append(d.Patterns, share.Pattern)
				}
			}
		}
		if s := same.Summary; s != nil {
			if !d.hasDays {
				d.hasDays, d.First, d.Last = true, s.First, s.Last
			}
			d.Count += same.Dates.Files[0].Values - same.Dates.Files[0].Unread
			d.First, d.Last = min(d.First, s.First), max(d.Last, s.Last)
		}
	}
}

// Unread counts the values of all date columns that cannot be read.
func (f *FoundFacts) Unread() int {
	unread := 0
	for _, file := range f.Files {
		for _, column := range file.Columns {
			if column.Problem == nil {
				unread += column.Dates.Files[0].Unread
			}
		}
	}
	return unread
}
