package app

import (
	"context"
	"fmt"
	"strings"

	"roundyear/calendar"
	"roundyear/check"
	"roundyear/civil"
	"roundyear/dimension"
	"roundyear/fault"
	"roundyear/internal/delimited"
	"roundyear/rows"
)

// FirstBuilt and LastBuilt bound the days that a date table can have: the Gregorian calendar began
// in October 1582, and years have four digits.
var (
	FirstBuilt = civil.MustOf(1583, civil.January, 1)
	LastBuilt  = civil.MaxDay
)

// Opener opens inputs that are read so many times; the function it returns closes them.
type Opener func(ctx context.Context, inputs []string, times int, form delimited.Form) (*rows.Source, func(), error)

// Cover is a date column of facts whose days a date table is to have.
type Cover struct {
	// Name is what people call it: FILE:COLUMN, or FACTS.COLUMN of the plan.
	Name   string
	Inputs []string
	// Column is the column of the date, as for Facts.
	Column string
	Reading
	// Unit is what a value stands for.
	Unit calendar.Unit
}

// lastOf returns the last day of what a value stands for.
func (c *Cover) lastOf(day civil.Day) civil.Day {
	switch c.Unit {
	case calendar.Day:
		return day
	case calendar.Week:
		return day + 6
	}
	return calendar.Gregorian().Locate(c.Unit, day).Last
}

// collectDays reads the dates of facts and collects what is wanted of them.
func collectDays[C any](ctx context.Context, open Opener, from *Cover, newCollector func() C, add func(C, DatedRow), join func(total, part C)) (total C, err error) {
	source, done, err := open(ctx, from.Inputs, 1, from.Form)
	if err != nil {
		return total, err
	}
	defer done()
	return Collect(ctx, &Days{Source: source, Date: from.Column, Asked: from.Asked, Clock: from.Clock}, newCollector, add, join)
}

// DaysOf gathers the days of facts, each by itself.
func DaysOf(ctx context.Context, open Opener, covers []Cover) ([]*check.Facts, error) {
	var facts []*check.Facts
	for i := range covers {
		one := &covers[i]
		all, err := collectDays(ctx, open, one, func() *check.Facts { return &check.Facts{Source: one.Name} }, func(facts *check.Facts, row DatedRow) {
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

// rangeOf returns the range of the days of facts, and the days that stand for none and do not
// stretch it.
func rangeOf(ctx context.Context, open Opener, covers []Cover) (from, to civil.Day, left []dimension.DayCount, err error) {
	var all dimension.Coverage
	var names []string
	for i := range covers {
		one := &covers[i]
		names = append(names, one.Name)
		found, err := collectDays(ctx, open, one, func() *dimension.Coverage { return &dimension.Coverage{} }, func(coverage *dimension.Coverage, row DatedRow) {
			if row.Blank {
				return
			}
			coverage.Add(row.Day)
			if one.Unit != calendar.Day {
				coverage.Add(one.lastOf(row.Day))
			}
		}, func(total, part *dimension.Coverage) { total.Join(*part) })
		if err != nil {
			return 0, 0, nil, err
		}
		all.Join(*found)
	}
	from, to, ok := all.Range()
	if !ok {
		return 0, 0, nil, &fault.Fault{File: strings.Join(names, ", "), What: "contains no dates to cover"}
	}
	return from, to, all.Sentinels(), nil
}

// beyondBuilt is the fault of facts with a day that a date table cannot have, at the first such
// row; nothing if there is none.
func beyondBuilt(ctx context.Context, open Opener, covers []Cover) error {
	for i := range covers {
		found, err := collectDays(ctx, open, &covers[i], func() *DatedRow { return &DatedRow{} }, func(first *DatedRow, row DatedRow) {
			if first.Line == 0 && !row.Blank && (row.Day < FirstBuilt || row.Day > LastBuilt) {
				*first = row
			}
		}, func(first, part *DatedRow) {
			if first.Line == 0 {
				*first = *part
			}
		})
		if err != nil {
			return err
		}
		if found.Line > 0 {
			return &fault.Fault{File: found.File, Line: found.Line, Column: covers[i].Column, What: fmt.Sprintf("%s is outside %s to %s, the range of a date table", found.Day, FirstBuilt, LastBuilt),
				Remedy: "Correct the date, or set the range with --from and --to"}
		}
	}
	return nil
}
