package cli

import (
	"context"
	"errors"
	"fmt"
	"slices"
	"strconv"
	"strings"

	"roundyear/calendar"
	"roundyear/civil"
	"roundyear/facts"
	"roundyear/internal/app"
)

// adjust reads what only totals has.
func (f *totalsCommand) adjust(ctx context.Context, p *plan) error {
	o := &p.Operation
	o.CompleteOnly, o.ToDate, o.Recent = f.completeOnly, f.toDate, f.recent
	o.Ranked, o.Top, o.Subtotals, o.PartWindows = f.rank, f.top, f.subtotals, f.partWindows
	if err := f.readRolling(o); err != nil {
		return err
	}
	if err := f.readExplain(p); err != nil {
		return err
	}
	for _, grain := range append([]calendar.Grain{o.Grain}, f.others...) {
		if err := f.checkGrain(o, grain); err != nil {
			return err
		}
	}
	if err := f.readNames(o); err != nil {
		return err
	}
	if f.flagged("recent") && f.recent < 1 {
		return usageError{fmt.Errorf("--recent must be a number from 1, not %d", f.recent)}
	}
	if f.flagged("top") && f.top < 1 {
		return usageError{fmt.Errorf("--top must be a number from 1, not %d", f.top)}
	}
	if err := f.readRunning(o); err != nil {
		return err
	}
	if err := f.readAlign(p); err != nil {
		return err
	}
	if err := f.readRates(p); err != nil {
		return err
	}
	if err := f.checkGroups(o); err != nil {
		return err
	}
	if err := f.readAcross(p); err != nil {
		return err
	}
	adds := slices.ContainsFunc(o.Measures, func(m facts.Measure) bool { return m.Kind == facts.Sum || m.Kind == facts.Count })
	if (o.Running != nil || o.Rolling+o.RollingDays > 0 || len(o.Shares) > 0 || f.perDay || f.perWorkday || f.perTrading) && !adds {
		return usageError{errors.New("--running, --rolling, --share and --per-… are of sums and counts: add --sum COLUMN or --count")}
	}
	return f.budget.read(ctx, f, p)
}

// flagged tells whether a flag is given.
func (f *totalsCommand) flagged(name string) bool { return f.command.Flags().Changed(name) }

// checkGrain refuses what a grain has no sense for.
func (f *totalsCommand) checkGrain(o *facts.Operation, grain calendar.Grain) error {
	switch {
	case o.ToDate && grain.Unit == calendar.Day:
		return usageError{errors.New("--to-date needs periods longer than a day: --grain week, month …")}
	case o.ToDate && o.Rolling > 0: // of whole periods; windows of days end where the period does
		return usageError{errors.New("--to-date cannot be combined with --rolling over periods; --rolling 28d is over days")}
	case len(f.others) > 0 && (f.running != "" || o.Rolling > 0):
		return usageError{errors.New("--running and --rolling need a single --grain")}
	case slices.Contains(f.against, facts.Restated.String()) && !calendar.IsWeekBased(grain.Calendar):
		return usageError{fmt.Errorf("--against %s is for years of whole weeks, and %s is not of one; same-weekday-year-ago goes back 52 weeks in any calendar", facts.Restated, grain)}
	}
	return nil
}

// readNames reads what is chosen by name.
func (f *totalsCommand) readNames(o *facts.Operation) (err error) {
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
	if o.Future, err = facts.ParseFuture(f.future); err != nil {
		return usageError{fmt.Errorf("--future: %w", err)}
	}
	return nil
}

// readRolling reads N or Nd.
func (f *totalsCommand) readRolling(o *facts.Operation) error {
	if !f.flagged("rolling") {
		return nil
	}
	digits, areDays := strings.CutSuffix(f.rolling, "d")
	count, err := strconv.Atoi(digits)
	if err != nil || count < 2 || count > 10000 {
		return usageError{fmt.Errorf("--rolling must be a number of periods from 2 to 10000, or of days such as 28d, not %q", f.rolling)}
	}
	if o.Rolling = count; areDays {
		o.Rolling, o.RollingDays = 0, count
	}
	return nil
}

// readRunning reads since when sums are added up.
func (f *totalsCommand) readRunning(o *facts.Operation) error {
	if f.running == "" {
		return nil
	}
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
	return nil
}

// readAlign finds the event that sets years beside each other.
func (f *totalsCommand) readAlign(p *plan) error {
	if f.align == "" {
		return nil
	}
	o := &p.Operation
	if !slices.Contains(o.Against, facts.YearAgo) && !slices.Contains(o.Against, facts.TwoYearsAgo) {
		return usageError{errors.New("--align goes with --against year-ago or two-years-ago")}
	}
	sets, err := f.app.daysOff(p.year)
	if err != nil {
		return err
	}
	const years = 80 // for which facts can be compared
	from, _ := civil.Of(max(o.AsOf.Year()-years, 1590), civil.January, 1)
	if o.Align, err = app.Event(f.align, sets, from, o.AsOf); err != nil {
		return usageError{fmt.Errorf("--align: %w", err)}
	}
	return nil
}

// checkGroups refuses what needs groups without any, and what attributes of days cannot have.
func (f *totalsCommand) checkGroups(o *facts.Operation) error {
	for flag, isAsked := range map[string]bool{"--rank": o.Ranked, "--top": o.Top > 0, "--subtotals": o.Subtotals} {
		if isAsked && len(o.Groups) == 0 {
			return usageError{fmt.Errorf("%s needs groups: --by COLUMN", flag)}
		}
	}
	if len(o.Attributes) > 0 && slices.ContainsFunc(o.Measures, func(m facts.Measure) bool { return m.Kind.IsBalance() }) {
		return usageError{fmt.Errorf("balances cannot be grouped by %s, an attribute of the day", o.Attributes[0].Name)}
	}
	return nil
}

// findAttribute finds an attribute of days to group by.
func (f *totalsCommand) findAttribute(y *app.Year, name string) (facts.DayAttribute, error) {
	as, err := asOf(f.asOf)
	if err != nil {
		return facts.DayAttribute{}, err
	}
	catalogue, err := f.app.catalogue(y, as)
	if err != nil {
		return facts.DayAttribute{}, err
	}
	for _, attribute := range catalogue.Attributes() {
		if attribute.Name == strings.ToLower(name) {
			return app.DayAttribute(catalogue, attribute), nil
		}
	}
	return facts.DayAttribute{}, fmt.Errorf("%q is no attribute", name)
}

// tellCompared reports on what periods are compared with.
func (f *totalsCommand) tellCompared(p *plan, result *facts.Result) {
	r, o := f.app.report(), &p.Operation
	if o.AsOf < result.Summary().First && (len(o.Against) > 0 || o.Budget != nil) {
		r.Note("the as-of date is before all rows, so no period is over and none is compared")
	}
	if o.Align != nil {
		last := min(result.Summary().Last, o.AsOf)
		on, ok := o.Align.On(last)
		before, both := o.Align.Before(on)
		if ok && both {
			r.Line("Days are matched by their distance from %s: %s is beside %s", o.Align.Name, on, before)
		}
	}
	f.budget.print(r, result)
}
