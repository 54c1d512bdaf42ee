package cli

import (
	"context"
	"errors"
	"fmt"
	"strings"

	"github.com/spf13/cobra"

	"roundyear/calendar"
	"roundyear/internal/app"
	"roundyear/internal/report"
)

// spanFlags say from when to when a date table goes.
type spanFlags struct {
	span       rangeFlags
	wholeYears bool
	covers     []string
	exact      bool
	padYears   int
	command    *cobra.Command
}

func (f *spanFlags) add(command *cobra.Command) {
	f.command = command
	f.span.add(command, "the range")
	flags := command.Flags()
	flags.BoolVar(&f.wholeYears, "whole-years", false, "widen the range to whole calendar and fiscal years")
	flags.StringArrayVar(&f.covers, "cover", nil, "cover the dates of facts, in whole years, `FILE:COLUMN` (repeatable; default: the plan's)")
	flags.BoolVar(&f.exact, "exact", false, "do not widen the range to whole years; reports which periods are cut off")
	flags.IntVar(&f.padYears, "pad-years", 0, "add `YEARS` at both ends")
}

// given tells whether the flags say a range themselves.
func (f *spanFlags) given() bool { return f.span.from != "" || f.span.to != "" || len(f.covers) > 0 }

// find works out the range: the days given, or those that facts need.
func (f *spanFlags) find(ctx context.Context, a *App, y *app.Year, reading app.Reading, t *app.DateTable) error {
	first, last, err := f.span.days()
	if err != nil {
		return err
	}
	if f.padYears < 0 || f.padYears > 9999 {
		return usageError{fmt.Errorf("--pad-years must be a number from 0, not %d", f.padYears)}
	}
	request := app.Span{Year: y, From: first, To: last, NamesCovers: len(f.covers) > 0, Exact: f.exact, WholeYears: f.wholeYears, PadYears: f.padYears, Given: given(f.command), Open: a.open}
	if first == nil || len(f.covers) > 0 {
		if request.Covers, err = coversOf(y, f.covers, reading); err != nil {
			return err
		}
	}
	if (first == nil) != (last == nil) {
		return usageError{errors.New("a range needs both --from and --to")}
	}
	t.Spanned, err = request.Find(ctx)
	var wrong *app.SpanError
	if errors.As(err, &wrong) {
		return usageError{err}
	}
	return err
}

// printSpan says which days were left out, and which figures fall off the ends of a
// range that is not of whole years.
func printSpan(r *report.Report, s *app.Spanned, calendars []calendar.Calendar) {
	for _, sentinel := range s.Left {
		r.Note("excluded from the range: %s (%s), a placeholder date", sentinel.Day, report.Plural(sentinel.Count, "fact"))
	}
	for _, facts := range s.Facts {
		if before, after := facts.Outside(s.From, s.To); before+after > 0 {
			r.Attention("%s: %s before %s and %s after %s are not in the table", facts.Source, report.Plural(before, "fact"), s.From, report.Plural(after, "fact"), s.To)
		}
	}
	if !s.Exact {
		return
	}
	atStart, atEnd := s.CutPeriods(calendars)
	if len(atStart) > 0 {
		r.Line("Incomplete at the start: %s; their totals lack the days before %s", strings.Join(atStart, ", "), s.From)
	}
	if len(atEnd) > 0 {
		r.Line("Incomplete at the end: %s; their totals lack the days after %s", strings.Join(atEnd, ", "), s.To)
	}
	if len(atStart)+len(atEnd) > 0 {
		r.Line("For the days from %s to %s the same day a year earlier is not in the table", s.From, s.LastWithoutYearAgo())
	}
}

// wholeYears lists the years of a calendar that lie in a range from their first day to their last.
func wholeYears(years calendar.Calendar, s *app.Spanned) string {
	first, last, ok := s.WholeYears(years)
	switch {
	case !ok:
		return "none"
	case first.Number == last.Number:
		return years.Label(first)
	}
	return years.Label(first) + " to " + years.Label(last)
}
