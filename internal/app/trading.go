package app

import (
	"slices"

	"roundyear/cell"
	"roundyear/civil"
	"roundyear/daysoff"
)

// TradingColumns are those of the bridge between days and sites.
var TradingColumns = []cell.Column{
	{Name: "date_key", Type: cell.Integer}, {Name: "date", Type: cell.Date}, {Name: "site"}, {Name: "is_open", Type: cell.Boolean},
	{Name: "reason"}, {Name: "what"}, {Name: "trading_day_of_month", Type: cell.Integer}, {Name: "trading_days_so_far_in_month", Type: cell.Integer}, {Name: "trading_day", Type: cell.Integer},
}

// Sites returns the sites of the plan with their days off. The plan's weekend
// is no matter: a site has weekdays of its own.
func (y *Year) Sites() []*daysoff.Site {
	var sites []*daysoff.Site
	for _, planned := range y.Plan.Sites {
		site := planned.Site
		places, weekend := []string{site.Name}, []civil.Weekday{}
		var rules []*daysoff.Rule
		if planned.Region != nil {
			places, weekend, rules = append(places, planned.Region.Code), planned.Region.Weekend, planned.Region.Rules
		}
		for _, source := range y.Plan.DaysOff {
			// The company's own days without a scope are those of its offices.
			if source.Rule != nil && len(source.Rule.Scope) > 0 && source.AppliesAt(places...) {
				rules = append(slices.Clone(rules), source.Rule)
			}
		}
		if len(rules) > 0 {
			site.Holidays = daysoff.NewSet(rules, weekend)
		}
		sites = append(sites, &site)
	}
	return sites
}

// SiteTrading counts the trading days of a site.
type SiteTrading struct {
	Site *daysoff.Site
	// Open is on how many days the site was open so far.
	Open, ofMonth int
	year          int
	month         civil.Month
	reasons       map[daysoff.Reason]int
}

// NewSiteTrading returns counts of a site of which no day has been looked at.
func NewSiteTrading(site *daysoff.Site) *SiteTrading {
	return &SiteTrading{Site: site, reasons: map[daysoff.Reason]int{}}
}

// Row returns the row of a day, which follows the one before.
func (c *SiteTrading) Row(day civil.Day) []cell.Value {
	year, month, _ := day.Date()
	if year != c.year || month != c.month {
		c.year, c.month = year, month
		c.ofMonth = c.before(day)
	}
	open, reason, what := c.Site.IsOpen(day)
	if open {
		c.Open++
		c.ofMonth++
	} else {
		c.reasons[reason]++
	}
	words, ofMonth := cell.Blank, cell.Blank
	if what != "" {
		words = cell.OfText(what)
	}
	if open {
		ofMonth = cell.OfInteger(c.ofMonth)
	}
	return []cell.Value{cell.OfInteger(day.Key()), cell.OfDay(day), cell.OfText(c.Site.Name), cell.OfBool(open), cell.OfText(string(reason)), words,
		ofMonth, cell.OfInteger(c.ofMonth), cell.OfInteger(c.Open)}
}

// before counts the trading days of the month before a day, so that a range
// which begins within a month counts from its first day.
func (c *SiteTrading) before(day civil.Day) int {
	_, _, dayOfMonth := day.Date()
	count := 0
	for earlier := day - civil.Day(dayOfMonth-1); earlier < day; earlier++ {
		if open, _, _ := c.Site.IsOpen(earlier); open {
			count++
		}
	}
	return count
}

// Closed is on how many days a site was closed for a reason.
type Closed struct {
	Reason daysoff.Reason
	Days   int
}

// Closures lists why the site was closed, and on how many days.
func (c *SiteTrading) Closures() []Closed {
	var all []Closed
	for _, reason := range []daysoff.Reason{daysoff.OnWeekday, daysoff.OnHoliday, daysoff.SpecialClosing, daysoff.ShutFor, daysoff.NotYetOpened, daysoff.ClosedDown} {
		if count := c.reasons[reason]; count > 0 {
			all = append(all, Closed{reason, count})
		}
	}
	return all
}
