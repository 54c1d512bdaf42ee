package cli

import (
	"errors"
	"fmt"
	"slices"

	"roundyear/calendar"
	"roundyear/facts"
	"roundyear/fault"
	"roundyear/internal/app"
)

// readRates reads by which days sums and counts are divided.
func (f *totalsCommand) readRates(p *plan) error {
	o := &p.Operation
	if f.perDay {
		o.Rates = append(o.Rates, facts.Rate{Name: "day", Days: func(_ []string, period calendar.Period) (int, bool) { return max(period.Days(), 0), true }})
	}
	switch {
	case f.perTrading && f.at == "" && f.atColumn == "":
		return usageError{errors.New("trading days are those of a site: --at SITE, or --at-column COLUMN")}
	case !f.perTrading && !f.perWorkday && f.budget.over == "days" && len(o.Against) == 0 && (f.at != "" || f.atColumn != ""):
		return usageError{errors.New("--at and --at-column go with --per-workday, --per-trading-day, --against or --budget-over")}
	case !f.perTrading && !f.perWorkday && len(o.Against) == 0:
		return nil
	}
	place := -1
	if f.atColumn != "" {
		found, err := p.Source.Find(f.atColumn)
		if err != nil {
			return err
		}
		if place = slices.Index(o.Groups, p.Source.Names()[found]); place < 0 {
			return usageError{fmt.Errorf("--at-column %s must be a column of --by", f.atColumn)}
		}
	}
	sets, err := f.app.daysOff(p.year)
	if err != nil {
		return err
	}
	counted := "workday"
	if p.isSite(f.at) {
		counted = "trading_day"
	}
	for _, rate := range []struct {
		isAsked   bool
		name      string
		onlySites bool
		countOnly bool
	}{{f.perWorkday, "workday", false, false}, {f.perTrading, "trading_day", true, false}, {len(o.Against) > 0 && !f.perWorkday && !f.perTrading, counted, false, true}} {
		if !rate.isAsked {
			continue
		}
		places := app.NewPlaces(p.year, sets, rate.onlySites)
		if place < 0 {
			if _, err := places.Of(f.at); err != nil {
				return &fault.Fault{What: err.Error()}
			}
		}
		o.Rates = append(o.Rates, facts.Rate{Name: rate.name, IsCountOnly: rate.countOnly, Days: func(group []string, period calendar.Period) (int, bool) {
			name := f.at
			if place >= 0 {
				name = group[place]
			}
			days, err := places.Of(name)
			if err != nil || place >= 0 && name == "" {
				return 0, false
			}
			return max(days.Number(period.Last)-days.Number(period.First-1), 0), true
		}})
	}
	return nil
}
