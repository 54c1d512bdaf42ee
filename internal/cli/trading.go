package cli

import (
	"context"
	"fmt"
	"slices"
	"strings"

	"roundyear/calendar"
	"roundyear/cell"
	"roundyear/civil"
	"roundyear/daysoff"
	"roundyear/internal/report"
)

// tradingColumns are those of the bridge between days and sites.
var tradingColumns = []cell.Column{
	{Name: "date_key", Type: cell.Integer}, {Name: "date", Type: cell.Date}, {Name: "site"}, {Name: "is_open", Type: cell.Boolean},
	{Name: "reason"}, {Name: "what"}, {Name: "trading_day_of_month", Type: cell.Integer}, {Name: "trading_days_so_far_in_month", Type: cell.Integer}, {Name: "trading_day", Type: cell.Integer},
}

// buildTrading builds the bridge table of days and sites: whether each site is
// open on each day, and why.
func (b *buildCommand) buildTrading(ctx context.Context, y *year) error {
	if b.grain != "day" || len(b.columns) > 0 {
		return usageError{fmt.Errorf("--trading builds one row per day and site, with no choice of grain or columns")}
	}
	if len(y.plan.Sites) == 0 {
		return usageError{fmt.Errorf("--trading needs a plan that describes the sites under sites")}
	}
	t := &dateTable{grain: calendar.Grain{Calendar: y.set.Year, Unit: calendar.Day}}
	if err := b.days.find(ctx, b.app, y, b.reading, t); err != nil {
		return err
	}
	if err := b.checkVerified(y, t); err != nil {
		return err
	}
	sinks, err := b.out.open(b.app, tradingColumns, t.to-t.from < 40)
	if err != nil {
		return err
	}
	defer sinks.abort()
	sites := y.sites()
	counts := make([]*siteCount, len(sites))
	for i, site := range sites {
		counts[i] = &siteCount{site: site, reasons: map[daysoff.Reason]int{}}
	}
	headline := func() {
		b.app.report().Headline("%s, one per day and site: %s from %s to %s%s", report.Plural(int(t.to-t.from+1)*len(sites), "row"), report.Plural(len(sites), "site"), t.from, t.to, b.out.where())
	}
	if sinks.forPeople() {
		headline()
	}
	for day := t.from; day <= t.to; day++ {
		for _, count := range counts {
			if err := sinks.write(count.row(day)); err != nil {
				return err
			}
		}
		if ctx.Err() != nil {
			return ctx.Err()
		}
	}
	if err := sinks.commit(); err != nil {
		return err
	}
	if !sinks.forPeople() {
		headline()
	}
	b.app.printBeyondVerified(y, t.from, t.to)
	var rows [][]string
	for _, count := range counts {
		rows = append(rows, []string{count.site.Name, report.Count(count.open), count.shut()})
	}
	b.app.report().Table([]string{"site", "days open", "closed"}, []bool{false, true, false}, rows)
	return nil
}

// sites returns the sites of the plan with their days off. The plan's weekend
// is no matter: a site has weekdays of its own.
func (y *year) sites() []*daysoff.Site {
	var sites []*daysoff.Site
	for _, planned := range y.plan.Sites {
		site := planned.Site
		places, weekend := []string{site.Name}, []civil.Weekday{}
		var rules []*daysoff.Rule
		if planned.Region != nil {
			places, weekend, rules = append(places, planned.Region.Code), planned.Region.Weekend, planned.Region.Rules
		}
		for _, source := range y.plan.DaysOff {
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

// siteCount counts the trading days of a site.
type siteCount struct {
	site          *daysoff.Site
	open, ofMonth int
	year          int
	month         civil.Month
	reasons       map[daysoff.Reason]int
}

// row returns the row of a day, which follows the one before.
func (c *siteCount) row(day civil.Day) []cell.Value {
	year, month, _ := day.Date()
	if year != c.year || month != c.month {
		c.year, c.month = year, month
		c.ofMonth = c.before(day)
	}
	open, reason, what := c.site.IsOpen(day)
	if open {
		c.open++
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
	return []cell.Value{cell.OfInteger(day.Key()), cell.OfDay(day), cell.OfText(c.site.Name), cell.OfBool(open), cell.OfText(string(reason)), words,
		ofMonth, cell.OfInteger(c.ofMonth), cell.OfInteger(c.open)}
}

// before counts the trading days of the month before a day, so that a range
// which begins within a month counts from its first day.
func (c *siteCount) before(day civil.Day) int {
	_, _, dayOfMonth := day.Date()
	count := 0
	for earlier := day - civil.Day(dayOfMonth-1); earlier < day; earlier++ {
		if open, _, _ := c.site.IsOpen(earlier); open {
			count++
		}
	}
	return count
}

// shut lists why the site was shut, and on how many days.
func (c *siteCount) shut() string {
	var texts []string
	for _, reason := range []daysoff.Reason{daysoff.OnWeekday, daysoff.OnHoliday, daysoff.SpecialClosing, daysoff.ShutFor, daysoff.NotYetOpened, daysoff.ClosedDown} {
		if count := c.reasons[reason]; count > 0 {
			texts = append(texts, fmt.Sprintf("%s %s", reason, report.Count(count)))
		}
	}
	return strings.Join(texts, ", ")
}
