package app

import (
	"context"
	"slices"
	"strings"

	"roundyear/calendar"
	"roundyear/civil"
	"roundyear/facts"
	"roundyear/facts/decimal"
	"roundyear/fault"
	"roundyear/survey"
)

// Allocate asks for measures of coarse periods to be laid over days.
type Allocate struct {
	Facts
	// Of are the periods that facts stand for; nil for what their dates show.
	Of    *calendar.Grain
	Grain calendar.Grain
	// OverAll tells that all days count, and not only workdays or the days on which a site is open.
	OverAll bool
	// Places are the calendars of workdays, Place the one of all groups, and PlaceColumn the group that names that of each.
	Places             *Places
	Place, PlaceColumn string
	// Weekdays are what the weekdays weigh, by their number; nil for all the same.
	Weekdays map[civil.Weekday]decimal.Decimal
	// Like are facts whose sums by day are the weights, those of so many days before; nil for none.
	Like     *Facts
	LikeDays int
	Decimals int
	MaxRows  int
}

// Laid is what came of it.
type Laid struct {
	*Tallied
	*facts.Allocated
	Of calendar.Grain
	// Grouped is how many facts were added to others of the same group and period.
	Grouped int
}

// DaysBeforeAYear is how many days before a day lies the one of the same weekday a year before.
const DaysBeforeAYear = 364

// Run reads the facts, and lays them.
func (a *Allocate) Run(ctx context.Context, y *Year, inputs []string) (*Laid, error) {
	daily := calendar.Grain{Calendar: y.Set.Year, Unit: calendar.Day}
	a.Operation.Grain = daily
	tally, err := a.Tally(ctx)
	if err != nil {
		return nil, err
	}
	laid := &Laid{Tallied: tally}
	if tally.Tally.Summary().Rows == 0 {
		return laid, nil
	}
	if laid.Of, err = a.periodOf(ctx, y, inputs, tally); err != nil {
		return nil, err
	}
	weight, err := a.weight(tally)
	if err != nil {
		return nil, err
	}
	allocation := facts.Allocation{Of: laid.Of, Grain: a.Grain, Weight: weight, Decimals: a.Decimals, MaxRows: a.MaxRows}
	if a.Like != nil {
		like, err := a.likeWeight(ctx, daily, weight)
		if err != nil {
			return nil, err
		}
		allocation.Weight, allocation.Otherwise = like, weight
	}
	if laid.Allocated, err = tally.Allocate(allocation); err != nil {
		return nil, err
	}
	laid.Grouped = tally.Tally.Summary().Rows - laid.Wholes
	return laid, nil
}

// periodOf returns the periods that facts stand for: those that are asked for, or of the plan or the labels, or what the days show.
func (a *Allocate) periodOf(ctx context.Context, y *Year, inputs []string, tally *Tallied) (calendar.Grain, error) {
	if a.Of != nil {
		return *a.Of, nil
	}
	if of, err := y.GrainIn(ctx, a.Source, inputs, tally.Dates); err != nil || of.Unit != calendar.Day {
		return of, err
	}
	step := survey.Step{}
	if summary, found := tally.days.Summary(); found {
		step = summary.Step
	}
	switch {
	case step.Unit == calendar.Day:
		return calendar.Grain{}, &fault.Fault{File: a.Source.Name(), Column: tally.Dates.Name, What: "does not show which periods the rows stand for", Remedy: "Add --of month, or another grain; in the plan it is grain"}
	case step.Unit == calendar.Week:
		return calendar.Grain{Calendar: y.Set.Week, Unit: calendar.Week}, nil
	}
	return calendar.Grain{Calendar: y.Set.Year, Unit: step.Unit}, nil
}

// weight returns what days weigh: nothing if they do not count, else what their weekday does.
func (a *Allocate) weight(tally *Tallied) (func([]string, civil.Day) decimal.Decimal, error) {
	one := decimal.OfInt(1)
	ofWeekday := func(day civil.Day) decimal.Decimal {
		if a.Weekdays == nil {
			return one
		}
		return a.Weekdays[day.Weekday()]
	}
	if a.OverAll {
		return func(_ []string, day civil.Day) decimal.Decimal { return ofWeekday(day) }, nil
	}
	place := slices.Index(a.Operation.Groups, a.PlaceColumn)
	counts := map[string]func(civil.Day) bool{}
	names := []string{a.Place}
	if place >= 0 {
		names = tally.GroupValues()[place]
	}
	for _, name := range names {
		days, err := a.Places.Of(name)
		if err != nil {
			return nil, &fault.Fault{Column: a.PlaceColumn, What: err.Error()}
		}
		counts[name] = func(day civil.Day) bool { return days.Number(day) > days.Number(day-1) }
	}
	return func(group []string, day civil.Day) decimal.Decimal {
		name := a.Place
		if place >= 0 {
			name = group[place]
		}
		if !counts[name](day) {
			return decimal.Decimal{}
		}
		return ofWeekday(day)
	}, nil
}

// likeWeight returns the weights of another series, on days that weigh something by themselves.
func (a *Allocate) likeWeight(ctx context.Context, daily calendar.Grain, weight func([]string, civil.Day) decimal.Decimal) (func([]string, civil.Day) decimal.Decimal, error) {
	a.Like.Operation.Grain, a.Like.Operation.AsOf = daily, a.Operation.AsOf
	tally, err := a.Like.Tally(ctx)
	if err != nil {
		return nil, err
	}
	// Groups that the series does not tell apart share its days.
	var shared []int
	for _, name := range a.Like.Operation.Groups {
		shared = append(shared, slices.Index(a.Operation.Groups, name))
	}
	key := func(values []string, places []int) string {
		var own []string
		for _, place := range places {
			own = append(own, values[place])
		}
		return strings.Join(own, "\x00")
	}
	all := make([]int, len(shared))
	for i := range all {
		all[i] = i
	}
	sums := map[string]map[civil.Day]decimal.Decimal{}
	tally.EachSum(func(group []string, period calendar.Period, amounts []decimal.Decimal) {
		name := key(group, all)
		if sums[name] == nil {
			sums[name] = map[civil.Day]decimal.Decimal{}
		}
		sums[name][period.First] = amounts[0]
	})
	return func(group []string, day civil.Day) decimal.Decimal {
		if weight(group, day).Sign() == 0 {
			return decimal.Decimal{}
		}
		return sums[key(group, shared)][day-civil.Day(a.LikeDays)]
	}, nil
}
