package cli

import (
	"errors"
	"fmt"
	"io/fs"
	"os"
	"path/filepath"
	"strings"

	"roundyear/calendar"
	"roundyear/fault"
	"roundyear/internal/app"
	"roundyear/internal/terminal"
	"roundyear/yearplan"
)

// coversOf returns the columns that --cover names, or those of the plan's range
// when it names none.
func coversOf(y *app.Year, flags []string, reading readingFlags) ([]app.Cover, error) {
	var covers []app.Cover
	for _, text := range flags {
		input, column := splitCover(text)
		inputs, own, unit := []string{input}, reading, calendar.Day
		if facts := y.FactsOf(inputs); facts != nil {
			own = reading.by(facts, column)
			if dates := facts.DatesOf(column); dates != nil {
				unit = dates.Grain
			}
		}
		one, err := coverOf(text, inputs, column, own, unit)
		if err != nil {
			return nil, err
		}
		covers = append(covers, one)
	}
	if len(flags) > 0 {
		return covers, nil
	}
	return joinsOf(y, y.Plan.Range.Cover, reading)
}

// coverOf returns a column to cover, read as the flags say.
func coverOf(name string, inputs []string, column string, flags readingFlags, unit calendar.Unit) (one app.Cover, err error) {
	one = app.Cover{Name: name, Inputs: inputs, Column: column, Form: flags.form(), Unit: unit}
	if one.Clock, err = flags.clock(); err != nil {
		return one, err
	}
	one.Asked, err = flags.asked()
	return one, err
}

// joinsOf returns date columns of the plan's facts. The error is that of facts
// that have not been normalised yet.
func joinsOf(y *app.Year, joins []yearplan.Join, reading readingFlags) ([]app.Cover, error) {
	var covers []app.Cover
	for _, join := range joins {
		facts := y.Plan.FactsNamed(join.Facts)
		dates := facts.DatesOf(join.Column)
		column, own := join.Column, reading.by(facts, join.Column)
		if facts.Out != "" {
			if _, err := os.Stat(y.Path(facts.Out)); errors.Is(err, fs.ErrNotExist) {
				return nil, &fault.Fault{File: shown(y.Path(facts.Out)), What: fmt.Sprintf("the facts %s of the plan have not been normalised yet", facts.Name),
					Remedy: fmt.Sprintf("Run roundyear normalise %s -o %s", quotedGlobs(y, facts.Files), terminal.Path(shown(y.Path(facts.Out))))}
			}
			column, own = join.Column+"_date", reading
			if dates.DayStarts != "" {
				column = join.Column + "_business_date"
			}
		}
		one, err := coverOf(join.String(), y.FilesOf(facts), column, own, dates.Grain)
		if err != nil {
			return nil, err
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
