package app

import (
	"context"
	"slices"

	"roundyear/calendar"
	"roundyear/cell"
	"roundyear/civil"
	"roundyear/facts"
	"roundyear/fault"
)

// Latest asks for the latest day of facts beside days that compare with it.
type Latest struct {
	Facts
	Against []LatestAgainst
	// Align finds the day of the year before by an event; nil for the same weekday.
	Align *facts.Event
	// Places are the calendars of workdays, Place the one of all groups, and PlaceColumn the group that names that of each.
	Places             *Places
	Place, PlaceColumn string
	// AsOf is the day that counts as the latest; nil for the last one with facts.
	AsOf *civil.Day
	// Sites are the places of the plan: groups that are all among them go by their own days.
	Sites []string
	// Recent is how many of the latest days are listed.
	Recent int

	// all are the places of all groups.
	all []string
}

// LatestAgainst is a day that the latest is held against.
type LatestAgainst string

// The days: the workday or trading day before, the same weekday a week before, and the day of the year before that matches.
const (
	Workday  LatestAgainst = "workday"
	WeekAgo  LatestAgainst = "week-ago"
	LastYear LatestAgainst = "year-ago"
)

// LatestNames are their names.
func LatestNames() []string { return []string{string(Workday), string(WeekAgo), string(LastYear)} }

// LatestDay is what came of it.
type LatestDay struct {
	*Tallied
	Days *facts.OnDays
	Day  civil.Day
	// Rows are the groups, with all together at the end if there are several.
	Rows []LatestRow
}

// LatestRow is a group on the latest day.
type LatestRow struct {
	Group   []string
	IsTotal bool
	Values  []cell.Value
	// Count is how many facts the day has, and Last the last day of the group that has some.
	Count int
	Last  civil.Day
	Place string
	// AreTrading tells that its workdays are the days on which a site is open.
	AreTrading bool
	Compared   []LatestCompared
	Recent     []RecentDay
}

// RecentDay is one of the latest days of a group.
type RecentDay struct {
	Day    civil.Day
	Values []cell.Value
	Count  int
	// Counts tells that it is a workday or trading day, Reason why it is not.
	Counts bool
	Reason string
}

// LatestCompared is a day that the latest is held against.
type LatestCompared struct {
	Against LatestAgainst
	// Found tells that there is such a day.
	Found bool
	Day   civil.Day
	// Skipped are the days between that do not count, from the earliest to the latest.
	Skipped []SkippedDay
	Values  []cell.Value
	Count   int
	// Changes and Percents are those of the measures; blank if the days cannot be compared.
	Changes, Percents []cell.Value
	// IsBefore tells that the day lies before the facts, IsOff that it is not a workday or trading day, and OwnOff the same of the latest
	// day, with the reasons.
	IsBefore, IsOff, OwnOff bool
	Reason, OwnReason       string
	// OnlyNow and OnlyThen are the places that are open on one of the two days, of all groups together.
	OnlyNow, OnlyThen []string
	IsComparable      bool
}

// SkippedDay is a day that does not count.
type SkippedDay struct {
	Day    civil.Day
	Reason string
}

// mostSkipped is how many days that do not count are skipped.
const mostSkipped = 400

// Run reads the facts, and finds the days.
func (l *Latest) Run(ctx context.Context) (*LatestDay, error) {
	o := &l.Operation
	o.Grain, o.IsTold, o.Subtotals = calendar.Grain{Calendar: calendar.Gregorian(), Unit: calendar.Day}, true, len(o.Groups) > 0
	o.AsOf = civil.MaxDay
	if l.AsOf != nil {
		o.AsOf, o.To = *l.AsOf, l.AsOf
	}
	tally, err := l.Tally(ctx)
	if err != nil {
		return nil, err
	}
	found := &LatestDay{Tallied: tally}
	if tally.Tally.Summary().Rows == 0 {
		return found, nil
	}
	if found.Days, err = tally.OnDays(); err != nil {
		return nil, err
	}
	found.Day = found.Days.Last()
	if l.AsOf != nil {
		found.Day = *l.AsOf
	}
	if l.PlaceColumn == "" && l.Place == "" {
		l.PlaceColumn = l.sitesColumn(tally)
	}
	place := slices.Index(o.Groups, l.PlaceColumn)
	if place >= 0 {
		l.all = tally.GroupValues()[place]
	}
	for at := range found.Days.Len() {
		values, isTotal := found.Days.Group(at)
		row := LatestRow{Group: values, IsTotal: isTotal, Last: found.Days.LastOf(at), Place: l.Place}
		if place >= 0 && !isTotal {
			row.Place = values[place]
			if _, _, err := l.Places.Why(row.Place, found.Day); err != nil {
				return nil, &fault.Fault{Column: l.PlaceColumn, What: err.Error()}
			}
		}
		row.AreTrading = slices.Contains(l.Sites, row.Place) || isTotal && len(l.all) > 0 && slices.Contains(l.Sites, l.all[0])
		row.Values, row.Count = found.Days.On(at, found.Day)
		for _, against := range l.Against {
			row.Compared = append(row.Compared, l.compare(found, at, &row, against))
		}
		for day := found.Day - civil.Day(l.Recent) + 1; day <= found.Day && l.Recent > 0; day++ {
			if day < found.Days.First() {
				continue
			}
			recent := RecentDay{Day: day}
			recent.Values, recent.Count = found.Days.On(at, day)
			recent.Counts, recent.Reason = l.why(&row, day)
			row.Recent = append(row.Recent, recent)
		}
		found.Rows = append(found.Rows, row)
	}
	return found, nil
}

// HasEnded tells that the latest day is behind the last one with facts of a row: of a group, or for the row of all, of all facts.
func (d *LatestDay) HasEnded(row *LatestRow) bool {
	return row.Last < d.Day && (!row.IsTotal || d.Days.Last() < d.Day)
}

// sitesColumn returns the first group of which all values are sites of the plan.
func (l *Latest) sitesColumn(tally *Tallied) string {
	for i, values := range tally.GroupValues() {
		if !slices.ContainsFunc(values, func(value string) bool { return !slices.Contains(l.Sites, value) }) {
			return l.Operation.Groups[i]
		}
	}
	return ""
}

// why tells whether a day counts for a group, and why not. For all groups it counts if it does for one of them.
func (l *Latest) why(row *LatestRow, day civil.Day) (counts bool, reason string) {
	if !row.IsTotal || len(l.all) == 0 {
		counts, reason, _ = l.Places.Why(row.Place, day)
		return counts, reason
	}
	for _, place := range l.all {
		counts, why, err := l.Places.Why(place, day)
		if err == nil && counts {
			return true, ""
		}
		if reason == "" {
			reason = why
		}
	}
	return false, reason
}

// compare finds the day that the latest is held against, and what has changed.
func (l *Latest) compare(found *LatestDay, at int, row *LatestRow, against LatestAgainst) LatestCompared {
	c := LatestCompared{Against: against}
	why := func(day civil.Day) (bool, string) { return l.why(row, day) }
	switch against {
	case Workday:
		for day := found.Day - 1; day > found.Day-mostSkipped && day >= civil.MinDay; day-- {
			counts, reason := why(day)
			if counts {
				c.Day, c.Found = day, true
				break
			}
			c.Skipped = append(c.Skipped, SkippedDay{day, reason})
		}
		slices.Reverse(c.Skipped)
	case WeekAgo:
		c.Day, c.Found = found.Day-7, true
	case LastYear:
		c.Day, c.Found = found.Day-DaysBeforeAYear, true
		if l.Align != nil {
			c.Day, c.Found = l.Align.Before(found.Day)
		}
	}
	c.Values = slices.Repeat([]cell.Value{cell.Blank}, len(row.Values))
	c.Changes, c.Percents = slices.Clone(c.Values), slices.Clone(c.Values)
	if !c.Found {
		return c
	}
	counts, reason := why(c.Day)
	c.IsOff, c.Reason = !counts, reason
	own, ownReason := why(found.Day)
	c.OwnOff, c.OwnReason = !own, ownReason
	if c.IsBefore = c.Day < found.Days.First(); c.IsBefore {
		return c
	}
	c.Values, c.Count = found.Days.On(at, c.Day)
	if found.HasEnded(row) {
		return c
	}
	if row.IsTotal {
		for _, place := range l.all {
			now, _, _ := l.Places.Why(place, found.Day)
			then, _, _ := l.Places.Why(place, c.Day)
			switch {
			case now && !then:
				c.OnlyNow = append(c.OnlyNow, place)
			case then && !now:
				c.OnlyThen = append(c.OnlyThen, place)
			}
		}
	}
	c.IsComparable = c.IsOff == c.OwnOff && len(c.OnlyNow)+len(c.OnlyThen) == 0
	for m := range row.Values {
		c.Changes[m], c.Percents[m] = found.Days.Change(m, c.Values[m], row.Values[m])
	}
	return c
}
