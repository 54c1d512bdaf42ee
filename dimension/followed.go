package dimension

import (
	"fmt"
	"slices"

	"roundyear/calendar"
	"roundyear/civil"
)

// followed is a grain whose period a row always has at hand. Its methods are
// what attributes can say of that period.
type followed struct {
	grain calendar.Grain
	index int
}

// follow has rows follow a grain. Grains are shared by all attributes that ask
// for them.
func (c *Catalogue) follow(calendarOf calendar.Calendar, unit calendar.Unit) followed {
	grain := calendar.Grain{Calendar: calendarOf, Unit: unit}
	index := slices.Index(c.grains, grain)
	if index < 0 {
		index = len(c.grains)
		c.grains = append(c.grains, grain)
	}
	return followed{grain: grain, index: index}
}

func (f followed) period(r *row) calendar.Period { return r.tracks[f.index].period }

// explain lets the calendar say how the period is found.
func (f followed) explain(r *row) string { return f.grain.Calendar.Explain(f.grain.Unit, r.day) }

// span says from when to when the period runs.
func (f followed) span(r *row) string {
	period := f.period(r)
	return fmt.Sprintf("%s runs from %s to %s", r.tracks[f.index].label, period.First, period.Last)
}

func (f followed) year() of[int] {
	return of[int]{func(r *row) int { return f.period(r).Year }, func(r *row) string { return f.grain.Calendar.Explain(calendar.Year, r.day) }}
}

func (f followed) inYear() of[int] {
	return of[int]{func(r *row) int { return f.period(r).InYear }, f.explain}
}

func (f followed) number() of[int] {
	return of[int]{func(r *row) int { return f.period(r).Number }, func(r *row) string {
		before := f.grain.Locate(f.period(r).First - 1)
		return fmt.Sprintf("%s are numbered consecutively across years; %s is number %d and %s the next", f.grain.Unit.Plural(), f.grain.Label(before), before.Number, r.tracks[f.index].label)
	}}
}

func (f followed) label() of[string] {
	return of[string]{func(r *row) string { return r.tracks[f.index].label }, func(r *row) string {
		return fmt.Sprintf("%s; this is its label in the calendar", f.explain(r))
	}}
}

func (f followed) code() of[string] {
	return of[string]{func(r *row) string { return f.grain.Calendar.Code(f.period(r)) }, func(r *row) string {
		return fmt.Sprintf("%s; this is its label without the year", f.explain(r))
	}}
}

func (f followed) first() of[civil.Day] {
	return of[civil.Day]{func(r *row) civil.Day { return f.period(r).First }, f.span}
}

func (f followed) last() of[civil.Day] {
	return of[civil.Day]{func(r *row) civil.Day { return f.period(r).Last }, f.span}
}

func (f followed) days() of[int] {
	return of[int]{func(r *row) int { return f.period(r).Days() }, func(r *row) string { return f.span(r) + ", both days in" }}
}

func (f followed) dayIn() of[int] {
	index := f.index
	return of[int]{func(r *row) int { return int(r.day-r.tracks[index].period.First) + 1 }, func(r *row) string {
		return fmt.Sprintf("%s starts on %s, which is day 1", r.tracks[f.index].label, f.period(r).First)
	}}
}

func (f followed) daysLeft() of[int] {
	index := f.index
	return of[int]{func(r *row) int { return int(r.tracks[index].period.Last - r.day) }, func(r *row) string {
		return fmt.Sprintf("%s ends on %s; the date itself is not counted", r.tracks[f.index].label, f.period(r).Last)
	}}
}

func (f followed) isFirst() of[bool] {
	index := f.index
	return of[bool]{func(r *row) bool { return r.day == r.tracks[index].period.First }, f.span}
}

func (f followed) isLast() of[bool] {
	index := f.index
	return of[bool]{func(r *row) bool { return r.day == r.tracks[index].period.Last }, f.span}
}

// key puts the year before the number in the year: 202603 for months and
// weeks, of which a year has more than nine, 20261 for all else.
func (f followed) key() of[int] {
	shift := 10
	if f.grain.Unit <= calendar.Month {
		shift = 100
	}
	return of[int]{
		func(r *row) int { return f.period(r).Year*shift + f.period(r).InYear },
		func(r *row) string {
			return fmt.Sprintf("year %d × %d + %s %d", f.period(r).Year, shift, f.grain.Unit, f.period(r).InYear)
		},
	}
}

// weekIn counts the weeks of the period: its first day is in week 1.
func (f followed) weekIn(weeks followed) of[int] {
	weeksBefore := func(r *row) int {
		t := &r.tracks[f.index]
		if !t.hasFirst {
			t.firstWeek, t.hasFirst = weeks.grain.Locate(t.period.First).Number, true
		}
		return weeks.period(r).Number - t.firstWeek
	}
	return of[int]{
		func(r *row) int { return weeksBefore(r) + 1 },
		func(r *row) string {
			return fmt.Sprintf("%s, the first day of %s, is in week 1; the week from %s to %s comes %d later", f.period(r).First, r.tracks[f.index].label,
				weeks.period(r).First, weeks.period(r).Last, weeksBefore(r))
		},
	}
}

// toDate returns the last day of the period that is to date.
func (f followed) toDate(r *row, asOf civil.Day) civil.Day {
	t := &r.tracks[f.index]
	if !t.hasToDate {
		t.toDate, t.hasToDate = calendar.ToDate(f.grain.Calendar, f.grain.Unit, asOf, t.period), true
	}
	return t.toDate
}
