package cli

import (
	"fmt"
	"strconv"
	"strings"
	"time"

	"github.com/spf13/cobra"

	"roundyear/calendar"
	"roundyear/civil"
	"roundyear/dimension"
	"roundyear/internal/report"
)

// calendarFlags are the flags of commands that speak of periods.
type calendarFlags struct {
	fiscalStart, fiscalEnd string
	fiscalNamedBy          string
	fiscalLabel            string
	weekStart              string
	weekMinDays            int
	weekend                []string
}

func (f *calendarFlags) add(command *cobra.Command) {
	flags := command.Flags()
	flags.StringVar(&f.fiscalStart, "fiscal-start", "", "`MONTH` in which the fiscal year starts: april, apr or 4 (default january)")
	flags.StringVar(&f.fiscalEnd, "fiscal-end", "", "`MONTH` in which the fiscal year ends: march, mar or 3")
	flags.StringVar(&f.fiscalNamedBy, "fiscal-named-by", "end", "calendar `YEAR` that gives the fiscal year its number: end (the one it ends in) or start")
	flags.StringVar(&f.fiscalLabel, "fiscal-label", "FY{year}", "`LABEL` of a fiscal year; fields: {year} {yy} {start} {start_yy} {end} {end_yy}")
	flags.StringVar(&f.weekStart, "week-start", "monday", "first `WEEKDAY` of the week")
	flags.IntVar(&f.weekMinDays, "week-min-days", 4, "`DAYS` of the new year that its first week has at least (1 to 7)")
}

func (f *calendarFlags) addWeekend(command *cobra.Command) {
	command.Flags().StringSliceVar(&f.weekend, "weekend", []string{"saturday", "sunday"}, "`WEEKDAYS` that are no workdays")
}

// set returns the calendars that the flags describe.
func (f *calendarFlags) set() (*calendar.Set, error) {
	first, err := weekday("--week-start", f.weekStart)
	if err != nil {
		return nil, err
	}
	rule := calendar.WeekRule{First: first, MinDays: f.weekMinDays}
	if rule.MinDays < 1 || rule.MinDays > 7 {
		return nil, usageError{fmt.Errorf("--week-min-days is from 1 to 7, not %d", rule.MinDays)}
	}
	starts := civil.January
	switch {
	case f.fiscalStart != "" && f.fiscalEnd != "":
		return nil, usageError{fmt.Errorf("--fiscal-start and --fiscal-end say the same; give one of them")}
	case f.fiscalStart != "":
		if starts, err = month("--fiscal-start", f.fiscalStart); err != nil {
			return nil, err
		}
	case f.fiscalEnd != "":
		ends, err := month("--fiscal-end", f.fiscalEnd)
		if err != nil {
			return nil, err
		}
		starts = ends%12 + 1
	}
	namedBy := calendar.ByEnd
	switch strings.ToLower(f.fiscalNamedBy) {
	case "end":
	case "start":
		namedBy = calendar.ByStart
	default:
		return nil, usageError{fmt.Errorf("--fiscal-named-by is end or start, not %q", f.fiscalNamedBy)}
	}
	fiscal, err := calendar.NewFiscalMonths(calendar.FiscalMonths{Name: "fiscal", Starts: starts, NamedBy: namedBy, YearLabel: f.fiscalLabel, Weeks: rule})
	if err != nil {
		return nil, usageError{fmt.Errorf("--fiscal-label: %w", err)}
	}
	return calendar.NewSet(rule, fiscal)
}

func (f *calendarFlags) catalogue() (*dimension.Catalogue, *calendar.Set, error) {
	set, err := f.set()
	if err != nil {
		return nil, nil, err
	}
	settings := dimension.Settings{Calendars: set}
	for _, name := range f.weekend {
		day, err := weekday("--weekend", name)
		if err != nil {
			return nil, nil, err
		}
		settings.Weekend = append(settings.Weekend, day)
	}
	return dimension.NewCatalogue(settings), set, nil
}

// sayFiscal says how the fiscal year runs and is named, by the year of a day.
func sayFiscal(r *report.Report, set *calendar.Set, day civil.Day) {
	for _, fiscal := range set.Fiscal {
		year := fiscal.Locate(calendar.Year, day)
		if fiscal.Starts() == civil.January {
			r.Line("Fiscal years are calendar years; set --fiscal-start for others")
			continue
		}
		r.Line("Fiscal years are named by the year in which they %s: %s runs from %s to %s", fiscal.NamedBy(), fiscal.Label(year), year.First, year.Last)
	}
}

// month reads a month by number, name or short name.
func month(flag, text string) (civil.Month, error) {
	if number, err := strconv.Atoi(text); err == nil && number >= 1 && number <= 12 {
		return civil.Month(number), nil
	}
	for m := civil.January; m <= civil.December; m++ {
		if strings.EqualFold(text, m.String()) || strings.EqualFold(text, m.Short()) {
			return m, nil
		}
	}
	return 0, usageError{fmt.Errorf("%s is a month such as april, apr or 4, not %q", flag, text)}
}

// weekday reads a weekday by name or short name.
func weekday(flag, text string) (civil.Weekday, error) {
	for w := civil.Monday; w <= civil.Sunday; w++ {
		if strings.EqualFold(text, w.String()) || strings.EqualFold(text, w.Short()) {
			return w, nil
		}
	}
	return 0, usageError{fmt.Errorf("%s is a weekday such as monday or mon, not %q", flag, text)}
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
	command.Flags().StringVar(&f.from, "from", "", "first `DAY` of "+what+", as 2026-03-01")
	command.Flags().StringVar(&f.to, "to", "", "last `DAY` of "+what)
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
