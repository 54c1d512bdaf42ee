// Package survey says what a column of dates holds: from when to when, with
// which holes, and which days in it are hardly true.
package survey

import (
	"maps"
	"slices"

	"roundyear/calendar"
	"roundyear/civil"
	"roundyear/datetext"
	"roundyear/dimension"
)

// Profile gathers the moments of one column.
type Profile struct {
	rows     int
	timed    int
	midnight int
	zoned    int
	// last is the count of the day added last: most rows follow their like.
	lastDay civil.Day
	last    *int
	own     map[civil.Day]*int
}

// New returns a profile of nothing.
func New() *Profile { return &Profile{own: map[civil.Day]*int{}} }

// Add takes in a moment.
func (p *Profile) Add(moment datetext.Moment) {
	p.rows++
	if moment.Clock != datetext.NoTime {
		p.timed++
		if moment.Nanos == 0 {
			p.midnight++
		}
	}
	if moment.HasOffset {
		p.zoned++
	}
	if p.last == nil || p.lastDay != moment.Day {
		count := p.own[moment.Day]
		if count == nil {
			count = new(int)
			p.own[moment.Day] = count
		}
		p.lastDay, p.last = moment.Day, count
	}
	*p.last++
}

// Join takes in all that another profile of the column has seen.
func (p *Profile) Join(other *Profile) {
	p.rows += other.rows
	p.timed += other.timed
	p.midnight += other.midnight
	p.zoned += other.zoned
	for day, count := range other.own {
		if p.own[day] == nil {
			p.own[day] = new(int)
		}
		*p.own[day] += *count
	}
}

// Plausible returns the days, in their order, without placeholders and those far away from all others.
func (p *Profile) Plausible() []civil.Day {
	s := &Summary{Rows: p.rows}
	return s.plausible(p.own)
}

// Shares tells whether two profiles have a day in common.
func (p *Profile) Shares(other *Profile) bool {
	for day := range p.own {
		if other.own[day] != nil {
			return true
		}
	}
	return false
}

// HasBetween tells whether there is a day from one to another.
func (p *Profile) HasBetween(first, last civil.Day) bool {
	for day := range p.own {
		if first <= day && day <= last {
			return true
		}
	}
	return false
}

// Run is a run of periods, both ends in, and how many there are.
type Run struct {
	First, Last civil.Day
	Count       int
}

// Summary is what a column holds.
type Summary struct {
	// Rows counts the dates, Days the different days among them.
	Rows, Days int
	// First and Last are the earliest and latest day, sentinels left out.
	First, Last civil.Day
	// Timed counts the rows with a time of day, Missing those whose time is
	// not midnight: they find no day where the column is joined as it is.
	Timed, NotMatching int
	// Zoned counts the rows that say how far their clock is from UTC.
	Zoned int
	// Weekend counts the rows on Saturdays and Sundays.
	Weekend int
	// Step is what the facts are of, where all of their days say it.
	Step Step
	// Median is the median of rows a day, of the days with rows.
	Median int
	// Sentinels are days that systems write for none, Suspicious those that
	// lie more than five years from all others.
	Sentinels, Suspicious []dimension.DayCount
	// MissingDays, MissingWeeks and MissingMonths are the runs without rows
	// from First to Last. Weeks are those of ISO 8601.
	MissingDays, MissingWeeks, MissingMonths []Run
	// Months are the rows of each month from First to Last.
	Months []int
	// FirstMonth is the year times 12 and the month from 0 of the first of them.
	FirstMonth int
}

const (
	// farAway is how many days from the next other one make a day suspicious.
	farAway = 5 * 366
	// farDays is the most days at one end that can be.
	farDays = 5
	// nearPlaceholder is how many days from all others a placeholder is one at most.
	nearPlaceholder = 366
)

// Summary works out what the column holds. It is false when it holds no date.
func (p *Profile) Summary() (*Summary, bool) {
	if p.rows == 0 {
		return nil, false
	}
	s := &Summary{Rows: p.rows, Timed: p.timed, NotMatching: p.timed - p.midnight, Zoned: p.zoned}
	days := s.plausible(p.own)
	s.Days = len(days)
	s.First, s.Last = days[0], days[len(days)-1]
	var perDay []int
	s.Step = stepOf(days)
	for _, day := range days {
		perDay = append(perDay, *p.own[day])
		if day.Weekday() >= civil.Saturday {
			s.Weekend += *p.own[day]
		}
	}
	slices.Sort(perDay)
	s.Median = perDay[len(perDay)/2]
	gregorian, iso := calendar.Gregorian(), calendar.ISO()
	s.MissingDays = missing(days, calendar.Grain{Calendar: gregorian, Unit: calendar.Day})
	s.MissingWeeks = missing(days, calendar.Grain{Calendar: iso, Unit: calendar.Week})
	month := calendar.Grain{Calendar: gregorian, Unit: calendar.Month}
	s.MissingMonths = missing(days, month)
	s.FirstMonth = month.Locate(s.First).Number
	s.Months = make([]int, month.Locate(s.Last).Number-s.FirstMonth+1)
	for _, day := range days {
		s.Months[month.Locate(day).Number-s.FirstMonth] += *p.own[day]
	}
	return s, true
}

// plausible returns the days in order, without those that are far from all others and
// without placeholders, which it sets apart. Placeholders are told by the days that
// remain: one within a year of them counts like any other.
func (s *Summary) plausible(counts map[civil.Day]*int) []civil.Day {
	var days, placeholders []civil.Day
	for _, day := range slices.Sorted(maps.Keys(counts)) {
		if dimension.IsPlaceholder(day) {
			placeholders = append(placeholders, day)
		} else {
			days = append(days, day)
		}
	}
	if len(days) == 0 {
		return placeholders
	}
	days = s.withoutFarAway(days, counts)
	first, last := days[0], days[len(days)-1]
	for _, day := range placeholders {
		if day >= first-nearPlaceholder && day <= last+nearPlaceholder {
			days = append(days, day)
		} else {
			s.Sentinels = append(s.Sentinels, dimension.DayCount{Day: day, Count: *counts[day]})
		}
	}
	slices.Sort(days)
	return days
}

// withoutFarAway sets days at the ends apart that are far from all others and
// have next to no rows: a slip of a digit, not the beginning of the data.
func (s *Summary) withoutFarAway(days []civil.Day, counts map[civil.Day]*int) []civil.Day {
	few := max(s.Rows/100, 1)
	for cut := min(farDays, len(days)-1); cut > 0; cut-- {
		if days[cut]-days[cut-1] > farAway && rowsOf(days[:cut], counts) <= few {
			s.suspect(days[:cut], counts)
			days = days[cut:]
			break
		}
	}
	for cut := max(len(days)-farDays, 1); cut < len(days); cut++ {
		if days[cut]-days[cut-1] > farAway && rowsOf(days[cut:], counts) <= few {
			s.suspect(days[cut:], counts)
			days = days[:cut]
			break
		}
	}
	return days
}

func (s *Summary) suspect(days []civil.Day, counts map[civil.Day]*int) {
	for _, day := range days {
		s.Suspicious = append(s.Suspicious, dimension.DayCount{Day: day, Count: *counts[day]})
	}
}

func rowsOf(days []civil.Day, counts map[civil.Day]*int) int {
	rows := 0
	for _, day := range days {
		rows += *counts[day]
	}
	return rows
}

// missing returns the runs of periods between days, which are in order, in
// which none of them lies.
func missing(days []civil.Day, grain calendar.Grain) []Run {
	var runs []Run
	before := grain.Locate(days[0])
	for _, day := range days[1:] {
		if before.Contains(day) {
			continue
		}
		period := grain.Locate(day)
		if gap := period.Number - before.Number - 1; gap > 0 {
			runs = append(runs, Run{First: before.Last + 1, Last: period.First - 1, Count: gap})
		}
		before = period
	}
	return runs
}

// Total returns how many periods the runs have together.
func Total(runs []Run) int {
	total := 0
	for _, run := range runs {
		total += run.Count
	}
	return total
}
