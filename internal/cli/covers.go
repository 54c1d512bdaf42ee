package cli

import (
	"context"
	"errors"
	"fmt"
	"io/fs"
	"os"
	"path/filepath"
	"strings"

	"roundyear/calendar"
	"roundyear/civil"
	"roundyear/fault"
	"roundyear/internal/app"
	"roundyear/internal/reading"
	"roundyear/internal/terminal"
	"roundyear/rows"
	"roundyear/yearplan"
)

// cover is a date column of facts whose days a date table is to have.
type cover struct {
	// name is what people call it: FILE:COLUMN, or FACTS.COLUMN of the plan.
	name   string
	inputs []string
	column string
	// reading is how its dates are read.
	reading readingFlags
	// unit is what a value stands for.
	unit calendar.Unit
}

// lastOf returns the last day of what a value stands for.
func (c cover) lastOf(day civil.Day) civil.Day {
	switch {
	case c.unit == calendar.Day:
		return day
	case c.unit == calendar.Week:
		return day + 6
	}
	return calendar.Gregorian().Locate(c.unit, day).Last
}

// coversOf returns the columns that --cover names, or those of the plan's range
// when it names none.
func coversOf(y *app.Year, flags []string, reading readingFlags) ([]cover, error) {
	var covers []cover
	for _, text := range flags {
		input, column := splitCover(text)
		one := cover{name: text, inputs: []string{input}, column: column, reading: reading}
		if facts := y.FactsOf(one.inputs); facts != nil {
			one.reading = reading.by(facts, column)
			if dates := facts.DatesOf(column); dates != nil {
				one.unit = dates.Grain
			}
		}
		covers = append(covers, one)
	}
	if len(flags) > 0 {
		return covers, nil
	}
	return joinsOf(y, y.Plan.Range.Cover, reading)
}

// joinsOf returns date columns of the plan's facts. The error is that of facts
// that have not been normalised yet.
func joinsOf(y *app.Year, joins []yearplan.Join, reading readingFlags) ([]cover, error) {
	var covers []cover
	for _, join := range joins {
		facts := y.Plan.FactsNamed(join.Facts)
		dates := facts.DatesOf(join.Column)
		one := cover{name: join.String(), inputs: y.FilesOf(facts), column: join.Column, reading: reading.by(facts, join.Column), unit: dates.Grain}
		if facts.Out != "" {
			if _, err := os.Stat(y.Path(facts.Out)); errors.Is(err, fs.ErrNotExist) {
				return nil, &fault.Fault{File: shown(y.Path(facts.Out)), What: fmt.Sprintf("the facts %s of the plan have not been normalised yet", facts.Name),
					Remedy: fmt.Sprintf("Run roundyear normalise %s -o %s", quotedGlobs(y, facts.Files), terminal.Path(shown(y.Path(facts.Out))))}
			}
			one.column, one.reading = join.Column+"_date", reading
			if dates.DayStarts != "" {
				one.column = join.Column + "_business_date"
			}
		}
		covers = append(covers, one)
	}
	return covers, nil
}

// quotedGlobs writes files of the plan as a command line takes them.
func quotedGlobs(y *app.Year, files []string) string {
	var texts []string
	for _, file := range files {
		texts = append(texts, terminal.Path(shown(y.Path(file))))
	}
	return strings.Join(texts, " ")
}

// splitCover splits FILE:COLUMN. A path that is there as written has no column.
func splitCover(cover string) (input, column string) {
	if _, err := os.Lstat(cover); err == nil {
		return cover, ""
	}
	at := strings.LastIndexByte(cover, ':')
	if at < 0 {
		return cover, ""
	}
	return cover[:at], cover[at+1:]
}

// by returns the reading flags with what the plan says of a date column where
// they say nothing themselves.
func (f readingFlags) by(facts *yearplan.Facts, column string) readingFlags {
	if facts == nil {
		return f
	}
	given := map[string]bool{}
	for _, pattern := range f.patterns {
		name, _, _ := strings.Cut(pattern, "=")
		given[name] = true
	}
	patterns := append([]string(nil), f.patterns...)
	for _, dates := range facts.Dates {
		if dates.Pattern != "" && !given[dates.Column] && (column == "" || column == dates.Column) {
			patterns = append(patterns, dates.Column+"="+dates.Pattern)
		}
	}
	f.patterns = patterns
	if len(f.parts) == 0 {
		for _, dates := range facts.Dates {
			if len(dates.Parts) == 3 {
				f.parts = append(f.parts, dates.Column+"="+strings.Join(dates.Parts, ","))
			}
		}
	}
	if f.orderPer == "" {
		f.orderPer = facts.OrderPer
	}
	if !f.header && !f.noHeader && facts.Header != nil {
		f.header, f.noHeader = *facts.Header, !*facts.Header
	}
	f.skip = max(f.skip, facts.Skip)
	dates := facts.DatesOf(column)
	if dates == nil && len(facts.Dates) == 1 {
		dates = &facts.Dates[0]
	}
	if dates == nil {
		return f
	}
	for _, setting := range []struct {
		flag *string
		plan string
	}{{&f.order, dates.Order}, {&f.language, dates.Language}, {&f.dayStarts, dates.DayStarts}} {
		if *setting.flag == "" {
			*setting.flag = setting.plan
		}
	}
	if f.zone == "" && f.toZone == "" {
		f.zone, f.toZone = dates.Zone, dates.ToZone
	}
	return f
}

// collectDays reads the dates of facts and collects what is wanted of them.
func collectDays[C any](ctx context.Context, a *App, from cover, newCollector func() C, add func(C, app.DatedRow), join func(total, part C)) (total C, err error) {
	source, done, err := a.open(ctx, from.inputs, 1, from.reading.form())
	if err != nil {
		return total, err
	}
	defer done()
	days := app.Days{Source: source, Date: from.column}
	if days.Clock, err = from.reading.clock(); err != nil {
		return total, err
	}
	if days.Asked, err = from.reading.asked(); err != nil {
		return total, err
	}
	return app.Collect(ctx, &days, newCollector, add, join)
}

// beyondBuilt is the fault of facts with a day that a date table cannot have, at the
// first such row; nothing if there is none.
func (a *App) beyondBuilt(ctx context.Context, covers []cover) error {
	for _, one := range covers {
		found, err := collectDays(ctx, a, one, func() *app.DatedRow { return &app.DatedRow{} }, func(first *app.DatedRow, row app.DatedRow) {
			if first.Line == 0 && !row.Blank && (row.Day < firstBuilt || row.Day > lastBuilt) {
				*first = row
			}
		}, func(first, part *app.DatedRow) {
			if first.Line == 0 {
				*first = *part
			}
		})
		if err != nil {
			return err
		}
		if found.Line > 0 {
			return &fault.Fault{File: found.File, Line: found.Line, Column: one.column, What: fmt.Sprintf("%s is outside %s to %s, the range of a date table", found.Day, firstBuilt, lastBuilt),
				Remedy: "Correct the date, or set the range with --from and --to"}
		}
	}
	return nil
}

// dates settles how one date column is read: the one named, the first of the
// parts, or the only one that there is.
func (a *App) dates(ctx context.Context, source *rows.Source, column string, flags readingFlags) (*reading.Dates, error) {
	asked, err := flags.asked()
	if err != nil {
		return nil, err
	}
	return app.Dates(ctx, source, column, asked)
}

// shown is a path as short as it can be written from the working folder.
func shown(path string) string {
	home, err := os.Getwd()
	if err != nil {
		return path
	}
	absolute, err := filepath.Abs(path)
	if err != nil {
		return path
	}
	if relative, err := filepath.Rel(home, absolute); err == nil && !strings.HasPrefix(relative, "..") {
		return relative
	}
	return path
}
