package normalise

import (
	"roundyear/civil"
	"roundyear/datetext"
	"roundyear/internal/reading"
	"roundyear/survey"
)

// Counted makes a report of how many rows each day has, where nobody reads the rows themselves.
type Counted struct {
	Report *Report
	dates  []countedDate
}

type countedDate struct {
	profile *survey.Profile
	values  int
	// settled is how many days show which number is the day.
	settled int
}

// mostMonths is how many months there are: a greater number is a day.
const mostMonths = 12

// NewCounted returns the report of rows with so many dates, of which none is counted yet.
func NewCounted(dates int) *Counted {
	c := &Counted{Report: newReport(dates), dates: make([]countedDate, dates)}
	for i := range c.dates {
		c.dates[i].profile = survey.New()
	}
	return c
}

// Add counts rows that have a day as one of their dates.
func (c *Counted) Add(date int, day civil.Day, rows int) {
	own := &c.dates[date]
	own.values += rows
	year, month, dayOfMonth := day.Date()
	if dayOfMonth > mostMonths {
		own.settled += rows
	}
	c.Report.Ranges[date].Add(day)
	for range rows {
		own.profile.Add(datetext.Moment{Day: day})
	}
	if date == 0 {
		c.Report.In, c.Report.Out = c.Report.In+rows, c.Report.Out+rows
		moved := countsOf(c.Report.Months, year*12+int(month)-1)
		moved.Written, moved.Normalised = moved.Written+rows, moved.Normalised+rows
	}
}

// AddBlanks counts rows that do not have one of their dates.
func (c *Counted) AddBlanks(date, rows int) {
	c.Report.Blanks[date] += rows
	if date == 0 {
		c.Report.In, c.Report.Out = c.Report.In+rows, c.Report.Out+rows
	}
}

// Settle ends the report, and says of the dates, of which only the first rows are known, what all rows have shown.
func (c *Counted) Settle(dates []*reading.Dates) {
	for i, own := range c.dates {
		odd := Implausible{}
		if summary, found := own.profile.Summary(); found {
			odd = Implausible{summary.Sentinels, summary.Suspicious}
		}
		c.Report.Implausible = append(c.Report.Implausible, odd)
		found := dates[i].Files[0]
		found.Values, found.Blanks, found.Unread = own.values, c.Report.Blanks[i], 0
		if found.Decision != nil && found.Decision.Settled > 0 {
			found.Decision.Settled = own.settled
		}
	}
}
