package cli

import (
	"errors"
	"fmt"
	"strings"
	"time"

	"github.com/spf13/cobra"

	"roundyear/calendar"
	"roundyear/civil"
	"roundyear/internal/report"
	"roundyear/yearplan"
)

// calendarFlags are the flags of commands that speak of periods. They win over
// the plan.
type calendarFlags struct {
	fiscalStart, fiscalEnd string
	fiscalNamedBy          string
	fiscalLabel            string
	weekStart              string
	weekMinDays            int
	weekend                []string
	regions                []string
}

func (f *calendarFlags) add(command *cobra.Command) {
	flags := command.Flags()
	flags.StringVar(&f.fiscalStart, "fiscal-start", "", "`MONTH` in which the fiscal year starts: april, apr or 4 (default: the plan's, else january)")
	flags.StringVar(&f.fiscalEnd, "fiscal-end", "", "`MONTH` in which the fiscal year ends: march, mar or 3")
	flags.StringVar(&f.fiscalNamedBy, "fiscal-named-by", "", "number the fiscal year by the calendar `YEAR` in which it starts or ends, or in which most of it lies: start, end or most (default: the plan's, else end)")
	flags.StringVar(&f.fiscalLabel, "fiscal-label", "", "`LABEL` of fiscal years; fields: {year} {yy} {start} {start_yy} {end} {end_yy} (default: FY{year})")
	flags.StringVar(&f.weekStart, "week-start", "", "first `WEEKDAY` of the week (default: the plan's, else monday)")
	flags.IntVar(&f.weekMinDays, "week-min-days", 0, "minimum `DAYS` of the new year in week 1, 1 to 7 (default: the plan's, else 4)")
}

func (f *calendarFlags) addWeekend(command *cobra.Command) {
	command.Flags().StringSliceVar(&f.weekend, "weekend", nil, "`WEEKDAYS` of the weekend (default: the plan's, else saturday,sunday)")
	command.Flags().StringSliceVar(&f.regions, "region", nil, "use the days off of a `REGION`, such as IE or DE-BY, instead of the plan's regions (repeatable)")
}

// weeks returns what the flags say of weeks, as a change of the plan.
func (f *calendarFlags) weeks() (func(*yearplan.Plan), error) {
	var first civil.Weekday
	if f.weekStart != "" {
		var err error
		if first, err = weekday("--week-start", f.weekStart); err != nil {
			return nil, err
		}
	}
	if f.weekMinDays < 0 || f.weekMinDays > 7 {
		return nil, usageError{fmt.Errorf("--week-min-days must be from 1 to 7, not %d", f.weekMinDays)}
	}
	var weekend []civil.Weekday
	for _, name := range f.weekend {
		day, err := weekday("--weekend", name)
		if err != nil {
			return nil, err
		}
		weekend = append(weekend, day)
	}
	return func(plan *yearplan.Plan) {
		if first != 0 {
			plan.Weeks.First = first
		}
		if f.weekMinDays != 0 {
			plan.Weeks.MinDays = f.weekMinDays
		}
		if weekend != nil {
			plan.Weekend = weekend
		}
	}, nil
}

// overrule changes the plan's regions and its calendar fiscal by the flags.
func (f *calendarFlags) overrule(plan *yearplan.Plan) error {
	if err := f.readRegions(plan); err != nil {
		return err
	}
	change := yearplan.FiscalChange{YearLabel: f.fiscalLabel}
	switch {
	case f.fiscalStart != "":
		starts, err := month("--fiscal-start", f.fiscalStart)
		if err != nil {
			return err
		}
		change.Starts = &starts
	case f.fiscalEnd != "":
		ends, err := month("--fiscal-end", f.fiscalEnd)
		if err != nil {
			return err
		}
		starts := ends%12 + 1
		change.Starts = &starts
	}
	if f.fiscalNamedBy != "" {
		namedBy, ok := calendar.ParseNamedBy(strings.ToLower(f.fiscalNamedBy))
		if !ok {
			return usageError{fmt.Errorf("--fiscal-named-by must be start, end or most, not %q", f.fiscalNamedBy)}
		}
		change.NamedBy = &namedBy
	}
	switch err := plan.ChangeFiscal(change); {
	case errors.Is(err, yearplan.ErrNotOfMonths):
		return usageError{fmt.Errorf("the calendar fiscal of %s does not consist of months; add --fiscal-start to use one that does", plan.File)}
	case err != nil:
		return usageError{fmt.Errorf("--fiscal-label: %w", err)}
	}
	return nil
}

// printFiscal says how the years of a fiscal calendar run and are named, by the
// year of a day.
func printFiscal(r *report.Report, fiscal calendar.Calendar, day civil.Day) {
	if calendar.IsCalendarYear(fiscal) {
		r.Line("%s years are calendar years; to change that, add --fiscal-start or a plan", capitalised(fiscal.Name()))
		return
	}
	year := fiscal.Locate(calendar.Year, day)
	r.Line("%s %s: %s runs from %s to %s", capitalised(fiscal.Name()), fiscal.Rule(), fiscal.Label(year), year.First, year.Last)
}

func capitalised(text string) string {
	if text == "" {
		return text
	}
	return strings.ToUpper(text[:1]) + text[1:]
}

// month reads a month by number, name or short name.
func month(flag, text string) (civil.Month, error) {
	month, ok := civil.ParseMonth(text)
	if !ok {
		return 0, usageError{fmt.Errorf("%s must be a month such as april, apr or 4, not %q", flag, text)}
	}
	return month, nil
}

// weekday reads a weekday by name or short name.
func weekday(flag, text string) (civil.Weekday, error) {
	weekday, ok := civil.ParseWeekday(text)
	if !ok {
		return 0, usageError{fmt.Errorf("%s must be a weekday such as monday or mon, not %q", flag, text)}
	}
	return weekday, nil
}

// day reads a day given by a flag; nothing when the flag is not given.
func day(flag, text string) (*civil.Day, error) {
	if text == "" {
		return nil, nil
	}
	read, err := civil.Parse(text)
	if err != nil {
		return nil, usageError{fmt.Errorf("%s: %w", flag, err)}
	}
	return &read, nil
}

// rangeFlags are --from and --to, both ends in.
type rangeFlags struct{ from, to string }

func (f *rangeFlags) add(command *cobra.Command, what string) {
	command.Flags().StringVar(&f.from, "from", "", "first `DATE` of "+what+", such as 2026-03-01")
	command.Flags().StringVar(&f.to, "to", "", "last `DATE` of "+what)
}

func (f *rangeFlags) days() (from, to *civil.Day, err error) {
	if from, err = day("--from", f.from); err != nil {
		return nil, nil, err
	}
	if to, err = day("--to", f.to); err != nil {
		return nil, nil, err
	}
	if from != nil && to != nil && *to < *from {
		return nil, nil, usageError{fmt.Errorf("the range ends on %s, before it starts on %s", *to, *from)}
	}
	return from, to, nil
}

// asOf returns the day that counts as today.
func asOf(text string) (civil.Day, error) {
	given, err := day("--as-of", text)
	if err != nil {
		return 0, err
	}
	if given != nil {
		return *given, nil
	}
	year, month, dayOfMonth := time.Now().Date()
	return civil.MustOf(year, civil.Month(month), dayOfMonth), nil
}
