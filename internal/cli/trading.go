package cli

import (
	"context"
	"fmt"
	"strings"

	"roundyear/calendar"
	"roundyear/internal/app"
	"roundyear/internal/report"
)

// buildTrading builds the bridge table of days and sites: whether each site is
// open on each day, and why.
func (b *buildCommand) buildTrading(ctx context.Context, y *app.Year) error {
	if b.grain != "day" || len(b.columns) > 0 {
		return usageError{fmt.Errorf("--trading builds one row per day and site, with no choice of grain or columns")}
	}
	if len(y.Plan.Sites) == 0 {
		return usageError{fmt.Errorf("--trading needs a plan that describes the sites under sites")}
	}
	t := &app.DateTable{Grain: calendar.Grain{Calendar: y.Set.Year, Unit: calendar.Day}}
	reading, err := b.reading.read()
	if err != nil {
		return err
	}
	if err := b.days.find(ctx, b.app, y, reading, t); err != nil {
		return err
	}
	if err := b.checkVerified(y, t); err != nil {
		return err
	}
	sinks, err := b.out.open(b.app, app.TradingColumns, t.To-t.From < 40)
	if err != nil {
		return err
	}
	defer sinks.abort()
	sites := y.Sites()
	counts := make([]*app.SiteTrading, len(sites))
	for i, site := range sites {
		counts[i] = app.NewSiteTrading(site)
	}
	headline := func() {
		b.app.report().Headline("%s, one per day and site: %s from %s to %s%s", report.Plural(int(t.To-t.From+1)*len(sites), "row"), report.Plural(len(sites), "site"), t.From, t.To, b.out.where())
	}
	if sinks.forPeople() {
		headline()
	}
	for day := t.From; day <= t.To; day++ {
		for _, count := range counts {
			if err := sinks.write(count.Row(day)); err != nil {
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
	b.app.printBeyondVerified(y, t.From, t.To)
	var rows [][]string
	for _, count := range counts {
		rows = append(rows, []string{count.Site.Name, report.Count(count.Open), closures(count)})
	}
	b.app.report().Table([]string{"site", "days open", "closed"}, []bool{false, true, false}, rows)
	return nil
}

// closures says why a site was closed, and on how many days.
func closures(site *app.SiteTrading) string {
	var texts []string
	for _, closed := range site.Closures() {
		texts = append(texts, fmt.Sprintf("%s %s", closed.Reason, report.Count(closed.Days)))
	}
	return strings.Join(texts, ", ")
}
