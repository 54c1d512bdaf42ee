package cli

import (
	"context"
	"errors"
	"fmt"
	"slices"

	"roundyear/calendar"
	"roundyear/facts"
	"roundyear/fault"
	"roundyear/internal/app"

	"github.com/spf13/cobra"
)

// totalsCommand are the flags of totals that fill does not have.
type totalsCommand struct {
	*factsFlags
	against      []string
	running      string
	rolling      int
	shares       []string
	completeOnly bool
	toDate       bool
	perDay       bool
	perWorkday   bool
	perTrading   bool
	at, atColumn string
	recent       int
}

func (a *App) totalsCommand() *cobra.Command {
	f := &totalsCommand{factsFlags: &factsFlags{app: a}}
	command := &cobra.Command{
		Use:   "totals INPUT…",
		Short: "Add up facts by period and group, with no period missing",
		Long: `Totals reads facts and adds them up by period (--grain) and group (--by). Sums are
exact decimals. Periods without rows are in the result too, marked is_filled, and
the period that contains the as-of date is marked is_running. Rows without a date
are counted and reported, and the command then exits with 1.

Each group gets the periods from the first to the last date of all groups. To choose
other periods per group, or the values in gaps, use fill (--span, --gap).

--against previous sets the period before beside each period, year-ago the one of the
same number in the year before, with the change and the change in percent. Changes are
blank where the two cannot be compared: the period is still running, or the data does
not cover the whole of one of them; is_…_comparable tells. A change in percent is of
the size of the other value, whatever its sign, and blank if that is zero.

--per-workday, --per-day and --per-trading-day divide by the days of the period, and
set their number beside it, also that of the other period.

--to-date compares a running period fairly: every period counts only up to the
position of the as-of date, such as the 15th of each month or the 43rd day of each
quarter of weeks; the column to_date says up to which day.

Conditions of --where: shop=Ballyfern,Cloghvale or != < <= > >=, 'note is blank'.

Grains: day week iso.week month quarter half year week.year iso.year, and those of
each fiscal calendar: fiscal.week fiscal.month fiscal.quarter fiscal.half
fiscal.year. For a calendar that the plan names retail: retail.week and so on.`,
		Example: `  roundyear totals clean/sales.csv --sum amount --count
  roundyear totals clean/sales.csv --sum amount --grain fiscal.quarter --fiscal-start february
  roundyear totals clean/sales.csv --sum amount --against year-ago --complete-only --recent 12 --as-of 2026-03-15
  roundyear totals clean/sales.csv --mean amount --by shop,department --where shop=Ballyfern --grain iso.week -o out/weeks.csv`,
		Args: arguments(1, -1, "the input file"),
		RunE: func(command *cobra.Command, args []string) error {
			return f.run(command.Context(), args, func(_ context.Context, p *plan) error { return f.adjust(p) })
		},
	}
	flags := command.Flags()
	flags.StringSliceVar(&f.against, "against", nil, "set other `PERIODS` beside each: previous, year-ago, two-years-ago")
	flags.StringVar(&f.running, "running", "", "add up sums and counts since the start of the `UNIT`: month, quarter, half or year, in the calendar of --grain")
	flags.IntVar(&f.rolling, "rolling", 0, "add up sums and counts over the last `N` periods")
	flags.StringSliceVar(&f.shares, "share", nil, "percent of sums and counts of the `WHOLE`: of the period, or of the group over all periods shown")
	flags.BoolVar(&f.perDay, "per-day", false, "divide sums and counts by the days of the period, up to the as-of date")
	flags.BoolVar(&f.perWorkday, "per-workday", false, "divide sums and counts by the workdays of the period, up to the as-of date")
	flags.BoolVar(&f.perTrading, "per-trading-day", false, "divide sums and counts by the days on which a site of the plan is open")
	flags.StringVar(&f.at, "at", "", "`PLACE` whose workdays count: a site of the plan, a prefix of days off, or a region such as IE")
	flags.StringVar(&f.atColumn, "at-column", "", "`COLUMN` of --by that names the place of each group")
	flags.BoolVar(&f.completeOnly, "complete-only", false, "leave out the period that contains the as-of date")
	flags.BoolVar(&f.toDate, "to-date", false, "count each period only up to the position that the as-of date has in its own, such as the 15th of each month")
	flags.IntVar(&f.recent, "recent", 0, "show only the latest `N` periods")
	f.add(command)
	return command
}

// adjust reads what only totals has.
func (f *totalsCommand) adjust(p *plan) error {
	o := &p.Operation
	o.CompleteOnly, o.ToDate, o.Recent, o.Rolling = f.completeOnly, f.toDate, f.recent, f.rolling
	switch {
	case o.ToDate && o.Grain.Unit == calendar.Day:
		return usageError{errors.New("--to-date needs periods longer than a day: --grain week, month …")}
	case o.ToDate && (f.running != "" || f.rolling != 0 || o.CompleteOnly):
		return usageError{errors.New("--to-date cannot be combined with --running, --rolling or --complete-only")}
	}
	for _, text := range f.against {
		comparison, err := facts.ParseComparison(text)
		if err != nil {
			return usageError{fmt.Errorf("--against: %w", err)}
		}
		if slices.Contains(o.Against, comparison) {
			return usageError{fmt.Errorf("--against names %s twice", comparison)}
		}
		o.Against = append(o.Against, comparison)
	}
	for _, text := range f.shares {
		share, err := facts.ParseShare(text)
		if err != nil {
			return usageError{fmt.Errorf("--share: %w", err)}
		}
		if slices.Contains(o.Shares, share) {
			return usageError{fmt.Errorf("--share names %s twice", share)}
		}
		o.Shares = append(o.Shares, share)
	}
	flags := f.command.Flags()
	if flags.Changed("recent") && f.recent < 1 {
		return usageError{fmt.Errorf("--recent must be a number from 1, not %d", f.recent)}
	}
	if flags.Changed("rolling") && (f.rolling < 2 || f.rolling > 10000) {
		return usageError{fmt.Errorf("--rolling must be a number from 2 to 10000, not %d", f.rolling)}
	}
	if f.running != "" {
		units := map[string]calendar.Unit{"month": calendar.Month, "quarter": calendar.Quarter, "half": calendar.Half, "year": calendar.Year}
		unit, ok := units[f.running]
		if !ok {
			return usageError{fmt.Errorf("--running must be month, quarter, half or year, not %q", f.running)}
		}
		if unit <= o.Grain.Unit {
			return usageError{fmt.Errorf("--running %s needs a --grain that is finer than that, not %s", f.running, o.Grain)}
		}
		if !slices.Contains(o.Grain.Calendar.Units(), unit) {
			return usageError{fmt.Errorf("--running %s: the calendar of %s has no such periods", f.running, o.Grain)}
		}
		o.Running = &unit
	}
	if err := f.readRates(p); err != nil {
		return err
	}
	adds := slices.ContainsFunc(o.Measures, func(m facts.Measure) bool { return m.Kind == facts.Sum || m.Kind == facts.Count })
	if (o.Running != nil || o.Rolling > 0 || len(o.Shares)+len(o.Rates) > 0) && !adds {
		return usageError{errors.New("--running, --rolling, --share and --per-… are of sums and counts: add --sum COLUMN or --count")}
	}
	return nil
}

// readRates reads by which days sums and counts are divided.
func (f *totalsCommand) readRates(p *plan) error {
	o := &p.Operation
	if f.perDay {
		o.Rates = append(o.Rates, facts.Rate{Name: "day", Days: func(_ []string, period calendar.Period) (int, bool) { return max(period.Days(), 0), true }})
	}
	switch {
	case f.at != "" && f.atColumn != "":
		return usageError{errors.New("--at and --at-column cannot be combined")}
	case f.perTrading && f.at == "" && f.atColumn == "":
		return usageError{errors.New("trading days are those of a site: --at SITE, or --at-column COLUMN")}
	case !f.perTrading && !f.perWorkday && (f.at != "" || f.atColumn != ""):
		return usageError{errors.New("--at and --at-column go with --per-workday or --per-trading-day")}
	case !f.perTrading && !f.perWorkday:
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
	for _, rate := range []struct {
		isAsked   bool
		name      string
		onlySites bool
	}{{f.perWorkday, "workday", false}, {f.perTrading, "trading_day", true}} {
		if !rate.isAsked {
			continue
		}
		places := app.NewPlaces(p.year, sets, rate.onlySites)
		if place < 0 {
			if _, err := places.Of(f.at); err != nil {
				return &fault.Fault{What: err.Error()}
			}
		}
		o.Rates = append(o.Rates, facts.Rate{Name: rate.name, Days: func(group []string, period calendar.Period) (int, bool) {
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
