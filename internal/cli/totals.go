package cli

import (
	"context"

	"github.com/spf13/cobra"

	"roundyear/facts"
)

// totalsCommand are the flags of totals that fill does not have.
type totalsCommand struct {
	*factsFlags
	against      []string
	align        string
	budget       budgetFlags
	running      string
	rolling      string
	partWindows  bool
	shares       []string
	rank         bool
	top          int
	subtotals    bool
	future       string
	acrossColumn string
	completeOnly bool
	toDate       bool
	perDay       bool
	perWorkday   bool
	perTrading   bool
	at, atColumn string
	recent       int
	// explain is the period of a figure that is explained, picked the groups that it is of.
	explain string
	picked  []string
}

func (a *App) totalsCommand() *cobra.Command {
	f := &totalsCommand{factsFlags: &factsFlags{app: a}}
	command := &cobra.Command{
		Use:   "totals INPUT…",
		Short: "Add up facts by period and group, and compare periods",
		Long: `Totals reads facts and adds them up by period (--grain) and group (--by). Sums are
exact decimals. Periods without rows are in the result too, marked is_filled, and
the period that contains the as-of date is marked is_running. Rows without a date
are counted and reported, and the command then exits with 1.

--by takes columns of the facts and attributes of the day, such as day_name or
is_workday. --grain takes several grains: one table with a row for each period of
each. --across year sets years side by side, --across COLUMN the values of a group.

--against adds the same measures of another period, with the change and the change in
percent: of the period before (previous), of the one with the same number in the year
before (year-ago, two-years-ago), of the same 52 weeks in calendars of weeks
(year-ago-restated), or of the days 52 weeks before (same-weekday-year-ago). --align
easter, or another day off of the plan, matches the days of both years by how far they
are from it. --budget FILE:COLUMN adds a budget, which is laid over its days first.

Changes are blank where the two cannot be compared: the period is still running, or
the data does not cover the whole of one of them; is_…_comparable tells. A change in
percent is of the size of the other value, whatever its sign, and blank if that is
zero. --per-workday, --per-day and --per-trading-day divide by the days of the period,
and set their number beside it, also that of the other period.

--to-date compares a running period fairly: every period counts only up to the
position of the as-of date, such as the 15th of each month or the 43rd day of each
quarter of weeks; the column to_date says up to which day.

--closing, --opening and --mean-over-days are for balances such as stock, which do not
add up over time. The values of one day are added up; a day without values has those
of the last day before it that has some. …_day tells which day that is.

--explain 2026-03 shop=Ballyfern says how a figure came about: which days the period has,
on which of them there are rows, and what it is compared with and why.

Conditions of --where: shop=Ballyfern,Cloghvale or != < <= > >=, 'note is blank'.

Grains: day week iso.week month quarter half year week.year iso.year, and those of
each fiscal calendar: fiscal.week fiscal.month fiscal.quarter fiscal.half
fiscal.year. For a calendar that the plan names retail: retail.week and so on.`,
		Example: `  roundyear totals clean/sales.csv --sum amount --count
  roundyear totals clean/sales.csv --sum amount --grain fiscal.quarter --fiscal-start february
  roundyear totals clean/sales.csv --sum amount --against year-ago --complete-only --recent 12 --as-of 2026-03-15
  roundyear totals clean/sales.csv --sum amount --grain fiscal.month --across year
  roundyear totals clean/sales.csv --sum amount --by shop --top 3 --rank --subtotals --recent 3
  roundyear totals clean/sales.csv shop=Ballyfern --sum amount --against year-ago --explain 2026-03 --as-of 2026-03-15
  roundyear totals clean/sales.csv --mean amount --by shop,department --where shop=Ballyfern --grain iso.week -o out/weeks.csv`,
		Args: arguments(1, -1, "the input file"),
		RunE: func(command *cobra.Command, args []string) error { return f.runTotals(command.Context(), args) },
	}
	flags := command.Flags()
	closing, opening, mean := flags.StringSlice("closing", nil, "balance of `COLUMNS` at the end of the period"), flags.StringSlice("opening", nil, "balance of `COLUMNS` before the period"), flags.StringSlice("mean-over-days", nil, "mean balance of `COLUMNS` over the days of the period")
	f.balances = map[facts.Kind]*[]string{facts.Closing: closing, facts.Opening: opening, facts.MeanOverDays: mean}
	f.attribute, f.compared = f.findAttribute, f.tellCompared
	flags.StringSliceVar(&f.against, "against", nil, "add other `PERIODS`: previous, year-ago, two-years-ago, year-ago-restated, same-weekday-year-ago")
	flags.StringVar(&f.align, "align", "", "match the days of two years by their distance from an `EVENT`: easter, orthodox-easter, or a day off of the plan by its name")
	f.budget.add(command)
	flags.StringVar(&f.running, "running", "", "add up sums and counts since the start of the `UNIT`: month, quarter, half or year, in the calendar of --grain")
	flags.StringVar(&f.rolling, "rolling", "", "add up sums and counts over the last `N` periods, or days such as 28d")
	flags.BoolVar(&f.partWindows, "partial-windows", false, "show what --rolling adds up even where the data begins later")
	flags.StringSliceVar(&f.shares, "share", nil, "percent of sums and counts of the `WHOLE`: of the period, or of the group over all periods shown")
	flags.BoolVar(&f.rank, "rank", false, "rank the groups of each period by the first measure")
	flags.IntVar(&f.top, "top", 0, "show the `N` groups with the most of the first measure, and the others together")
	flags.BoolVar(&f.subtotals, "subtotals", false, "add rows for all groups together, marked is_total")
	flags.StringVar(&f.acrossColumn, "across", "", "set the values of a `COLUMN` side by side, or the years of the periods: year")
	flags.StringVar(&f.future, "future", "keep", "rows after the as-of date: `keep` them, drop them, or show them apart")
	flags.BoolVar(&f.perDay, "per-day", false, "divide sums and counts by the days of the period, up to the as-of date")
	flags.BoolVar(&f.perWorkday, "per-workday", false, "divide sums and counts by the workdays of the period, up to the as-of date")
	flags.BoolVar(&f.perTrading, "per-trading-day", false, "divide sums and counts by the days on which a site of the plan is open")
	flags.StringVar(&f.at, "at", "", "`PLACE` whose workdays count: a site of the plan, a prefix of days off, or a region such as IE")
	flags.StringVar(&f.atColumn, "at-column", "", "`COLUMN` of --by that names the place of each group")
	flags.BoolVar(&f.completeOnly, "complete-only", false, "leave out the period that contains the as-of date")
	flags.BoolVar(&f.toDate, "to-date", false, "count each period only up to the position that the as-of date has in its own, such as the 15th of each month")
	flags.IntVar(&f.recent, "recent", 0, "show only the latest `N` periods")
	flags.StringVar(&f.explain, "explain", "", "explain the figures of a `PERIOD`, such as 2026-03, step by step; COLUMN=VALUE behind the input picks a group")
	f.add(command)
	f.calendars.addWeekend(command)
	return command
}

func (f *totalsCommand) runTotals(ctx context.Context, args []string) error {
	defer func() { f.budget.close() }()
	return f.run(ctx, f.picks(args), f.adjust)
}
