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
	"roundyear/internal/database"
	"roundyear/internal/terminal"
	"roundyear/yearplan"
)

// coversOf returns the columns that --cover names, or those of the plan's range
// when it names none.
func coversOf(y *app.Year, flags []string, reading app.Reading) ([]app.Cover, error) {
	var covers []app.Cover
	reading.Asked.Labels = y.Labels
	for _, text := range flags {
		input, column := splitCover(text)
		inputs, own, unit := []string{input}, reading, calendar.Day
		if facts := y.FactsOf(inputs); facts != nil {
			var err error
			if own, err = reading.By(facts, column); err != nil {
				return nil, err
			}
			if dates := facts.DatesOf(column); dates != nil {
				unit = dates.Grain
			}
		}
		covers = append(covers, app.Cover{Name: text, Inputs: inputs, Column: column, Reading: own, Unit: unit})
	}
	if len(flags) > 0 {
		return covers, nil
	}
	return joinsOf(y, y.Plan.Range.Cover, reading)
}

// joinsOf returns date columns of the plan's facts. The error is that of facts
// that have not been normalised yet.
func joinsOf(y *app.Year, joins []yearplan.Join, reading app.Reading) ([]app.Cover, error) {
	var covers []app.Cover
	reading.Asked.Labels = y.Labels
	for _, join := range joins {
		facts := y.Plan.FactsNamed(join.Facts)
		dates := facts.DatesOf(join.Column)
		column := join.Column
		own, err := reading.By(facts, column)
		if err != nil {
			return nil, err
		}
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
		covers = append(covers, app.Cover{Name: join.String(), Inputs: y.FilesOf(facts), Column: column, Reading: own, Unit: dates.Grain})
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
	for at := len(filepath.VolumeName(cover)); at < len(cover); at++ {
		if cover[at] == ':' && isThere(cover[:at]) {
			return cover[:at], cover[at+1:]
		}
	}
	at := colonOf(cover)
	if at < 0 {
		return cover, ""
	}
	return cover[:at], cover[at+1:]
}

// shown is a path as short as it can be written from the working folder.
func shown(path string) string {
	home, err := os.Getwd()
	if err != nil || database.IsAddress(path) {
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
