package cli

import (
	"fmt"
	"strings"

	"github.com/spf13/cobra"

	"roundyear/charset"
	"roundyear/datetext"
	"roundyear/internal/app"
	"roundyear/internal/delimited"
	"roundyear/internal/reading"
	"roundyear/yearplan"
)

// readingFlags say how the dates of facts are read. They are the same on every
// command that reads facts.
type readingFlags struct {
	patterns     []string
	placeholders []string
	order        string
	orderPer     string
	language     string
	pivot        int
	parts        []string

	zone, toZone string
	dayStarts    string

	header, noHeader bool
	skip             int
	encoding         string
	blankAs          []string

	delimiter, quote, comment string
	widths, ragged            []string
	swapped                   []string

	command *cobra.Command
	// hasLanguage tells that --language is that of dates, and not of the names that are written.
	hasLanguage bool
}

// encodingUsage is the help of --encoding.
const encodingUsage = "`ENCODING` of text that is not UTF-8, such as windows-1252, iso-8859-15 or shift_jis"

func (f *readingFlags) add(command *cobra.Command) {
	f.addWithoutLanguage(command)
	f.hasLanguage = true
	command.Flags().StringVar(&f.language, "language", "", "`LANGUAGE` of month names, such as fr (default: recognised from the column)")
}

// addWithoutLanguage adds all but the language, which on commands that write
// names is that of the names.
func (f *readingFlags) addWithoutLanguage(command *cobra.Command) {
	f.command = command
	flags := command.Flags()
	flags.StringArrayVar(&f.patterns, "pattern", nil, "format of a date column, `COLUMN=PATTERN` in Unicode LDML: 'sold_at=dd/MM/yyyy HH:mm' (repeatable)")
	flags.StringVar(&f.order, "order", "", "which part comes `FIRST` where the data does not show it: day, month or year")
	flags.StringVar(&f.orderPer, "order-per", "", "`COLUMN` that tells which source system a row comes from, if they write day and month in different orders")
	flags.IntVar(&f.pivot, "pivot", datetext.DefaultPivot, "first `YEAR` of the century for two-digit years, such as 1970 for 1970 to 2069")
	flags.BoolVar(&f.header, "header", false, "the first row is the header, even if it looks like data")
	flags.BoolVar(&f.noHeader, "no-header", false, "there is no header row; columns are named column_1, column_2 …")
	flags.IntVar(&f.skip, "skip", 0, "skip `N` lines above the header")
	flags.StringSliceVar(&f.blankAs, "blank-as", nil, "`TEXTS` that stand for no value, such as n/a,NULL,-")
	flags.StringVar(&f.delimiter, "delimiter", "", "`CHARACTER` between fields, or tab, space, or spaces for two and more (default: as in the header)")
	flags.StringVar(&f.quote, "quote", "", "`CHARACTER` around fields (default: \"), or none if quotes are a part of the text")
	flags.StringVar(&f.comment, "comment", "", "`TEXT` that begins lines that are no rows, such as #")
	flags.StringSliceVar(&f.widths, "widths", nil, "`WIDTHS` of columns in characters, such as 10,8,*; * is the rest of the line")
	flags.StringArrayVar(&f.swapped, "swapped", nil, "date `COLUMN` of a workbook whose date cells have day and month swapped; COLUMN=no says that they are right (repeatable)")
	flags.StringSliceVar(&f.ragged, "ragged", nil, "`HOW` to mend rows with too few or too many fields: fill, cut or both")
	flags.StringVar(&f.encoding, "encoding", "", encodingUsage)
	flags.StringSliceVar(&f.placeholders, "placeholder", nil, "`DAYS` that stand for no date, such as 1900-01-01,9999-12-31, or usual for those that systems commonly write")
	flags.StringVar(&f.zone, "zone", "", "time `ZONE` of the data (IANA), for times without a UTC offset")
	flags.StringVar(&f.toZone, "to-zone", "", "time `ZONE` to convert to (IANA)")
	flags.StringVar(&f.dayStarts, "day-starts", "", "`TIME` at which the business day starts, such as 04:00")
	flags.StringArrayVar(&f.parts, "parts", nil, "date in several columns, `NAME=COLUMNS`: YEAR,MONTH,DAY, or with their roles year:Y,month:M, year:Y,quarter:Q, year:Y,week:W, year:Y, date:D,time:T (repeatable)")
}

// read reads the flags.
func (f *readingFlags) read() (r app.Reading, err error) {
	if r.Form, err = f.form(); err != nil {
		return r, err
	}
	if r.Clock, err = f.clock(); err != nil {
		return r, err
	}
	if r.Given = given(f.command); !f.hasLanguage {
		delete(r.Given, "language")
	}
	r.Layout, r.Zones = f.layout(), app.Zones{From: f.zone, To: f.toZone}
	r.Asked, err = f.asked()
	return r, err
}

// readBy reads the flags, with what the plan says of facts and a date column where they say nothing.
func (f *readingFlags) readBy(facts *yearplan.Facts, column string) (app.Reading, error) {
	r, err := f.read()
	if err != nil {
		return r, err
	}
	return r.By(facts, column)
}

// form is what the flags say of the files.
func (f *readingFlags) form() (form delimited.Form, err error) {
	form.Skip, form.BlankAs = f.skip, f.blankAs
	if form.Layout, err = f.layout().Read(); err != nil {
		return form, usageError{err}
	}
	for _, text := range f.swapped {
		column, answer, _ := strings.Cut(text, "=")
		if answer != "" && answer != "yes" && answer != "no" {
			return form, usageError{fmt.Errorf("--swapped must be COLUMN, COLUMN=yes or COLUMN=no, not %q", text)}
		}
		if form.Swapped == nil {
			form.Swapped = map[string]bool{}
		}
		form.Swapped[column] = answer != "no"
	}
	if f.encoding != "" {
		if form.Encoding, err = charset.Of(f.encoding); err != nil {
			return form, usageError{fmt.Errorf("--encoding: %w", err)}
		}
	}
	switch {
	case f.noHeader:
		form.Header = delimited.NoHeader
	case f.header:
		form.Header = delimited.HeaderIsThere
	}
	return form, nil
}

func (f *readingFlags) layout() app.LayoutTexts {
	return app.LayoutTexts{Delimiter: f.delimiter, Quote: f.quote, Comment: f.comment, Widths: f.widths, Ragged: f.ragged}
}

// patternColumns are the columns that --pattern names: who says how a column is
// written has said that it holds dates.
func (f *readingFlags) patternColumns() []string {
	var columns []string
	for _, pattern := range f.patterns {
		if column, _, found := strings.Cut(pattern, "="); found {
			columns = append(columns, column)
		}
	}
	return columns
}

func (f *readingFlags) asked() (reading.Asked, error) {
	if f.skip < 0 {
		return reading.Asked{}, usageError{fmt.Errorf("--skip must be a number of lines from 0, not %d", f.skip)}
	}
	asked := reading.Asked{Patterns: map[string]string{}}
	for _, text := range f.patterns {
		column, pattern, found := strings.Cut(text, "=")
		if !found {
			return asked, usageError{fmt.Errorf("--pattern must be COLUMN=PATTERN, such as 'sold_at=dd/MM/yyyy', not %q", text)}
		}
		asked.Patterns[column] = pattern
	}
	if f.pivot < app.FirstBuilt.Year() || f.pivot > lastPivot {
		return asked, usageError{fmt.Errorf("--pivot must be a four-digit year from %d to %d, such as 1970, not %d", app.FirstBuilt.Year(), lastPivot, f.pivot)}
	}
	var err error
	if asked.Placeholders, err = app.ReadPlaceholders(f.placeholders); err != nil {
		return asked, usageError{fmt.Errorf("--placeholder: %w", err)}
	}
	asked.Pivot, asked.OrderPer = f.pivot, f.orderPer
	if f.language != "" {
		language, err := datetext.LanguageOf(f.language)
		if err != nil {
			return asked, usageError{fmt.Errorf("--language: %w", err)}
		}
		asked.Language = language
	}
	if f.order != "" {
		order, ok := datetext.ParseOrder(f.order)
		if !ok {
			return asked, usageError{fmt.Errorf("--order must be day, month or year, not %q", f.order)}
		}
		asked.Order = order
	}
	for _, text := range f.parts {
		name, columns, found := strings.Cut(text, "=")
		if !found || name == "" {
			return asked, usageError{fmt.Errorf("--parts must be NAME=COLUMNS, such as sold=year,month,day, not %q", text)}
		}
		parts, err := reading.NewParts(name, strings.Split(columns, ","))
		if err != nil {
			return asked, usageError{fmt.Errorf("--parts: %w", err)}
		}
		asked.Parts = append(asked.Parts, parts)
	}
	return asked, nil
}

// lastPivot is the last year after which a hundred more have four digits.
const lastPivot = 9900

// clock returns what the flags say about zones and the day of business.
func (f *readingFlags) clock() (datetext.Clock, error) {
	var clock datetext.Clock
	var err error
	if clock.Conversion, err = (app.Zones{From: f.zone, To: f.toZone}).Read(); err != nil {
		return clock, usageError{err}
	}
	if f.dayStarts != "" {
		starts, err := app.ParseDayStarts(f.dayStarts)
		if err != nil {
			return clock, usageError{fmt.Errorf("--day-starts must be a time of day such as 04:00, not %q", f.dayStarts)}
		}
		clock.DayStarts = starts
	}
	return clock, nil
}
