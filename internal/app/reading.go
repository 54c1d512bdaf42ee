package app

import (
	"fmt"
	"maps"
	"reflect"
	"time"

	"roundyear/civil"
	"roundyear/datetext"
	"roundyear/dimension"
	"roundyear/internal/delimited"
	"roundyear/internal/reading"
	"roundyear/yearplan"
)

// Reading is how facts are read: what is said of their dates, to which days these count, and the
// form of their files.
type Reading struct {
	Asked reading.Asked
	Clock datetext.Clock
	// Clocks are those of single date columns by their names, which win over that of all.
	Clocks map[string]datetext.Clock
	Form   delimited.Form
}

// By returns the reading with what the plan says of facts and a date column of theirs, where it says
// nothing itself.
func (r Reading) By(facts *yearplan.Facts, column string) (Reading, error) {
	if facts == nil {
		return r, nil
	}
	patterns := maps.Clone(r.Asked.Patterns)
	if patterns == nil {
		patterns = map[string]string{}
	}
	for _, dates := range facts.Dates {
		if _, given := patterns[dates.Column]; dates.Pattern != "" && !given && (column == "" || column == dates.Column) {
			patterns[dates.Column] = dates.Pattern
		}
	}
	r.Asked.Patterns = patterns
	if len(r.Asked.Parts) == 0 {
		for _, dates := range facts.Dates {
			if len(dates.Parts) == 0 {
				continue
			}
			parts, err := reading.NewParts(dates.Column, dates.Parts)
			if err != nil {
				return r, err
			}
			r.Asked.Parts = append(r.Asked.Parts, parts)
		}
	}
	if len(r.Asked.Placeholders) == 0 {
		var err error
		if r.Asked.Placeholders, err = ReadPlaceholders(facts.Placeholders); err != nil {
			return r, err
		}
	}
	if r.Asked.OrderPer == "" {
		r.Asked.OrderPer = facts.OrderPer
	}
	planned := formOf(facts)
	if r.Form.Header == delimited.HeaderUnlessData {
		r.Form.Header = planned.Header
	}
	r.Form.Skip = max(r.Form.Skip, planned.Skip)
	if len(r.Form.BlankAs) == 0 {
		r.Form.BlankAs = planned.BlankAs
	}
	if r.Form.Swapped == nil {
		r.Form.Swapped = planned.Swapped
	}
	if reflect.DeepEqual(r.Form.Layout, delimited.Layout{}) {
		r.Form.Layout = planned.Layout
	}
	if r.Form.Encoding == nil {
		r.Form.Encoding = planned.Encoding
	}
	dates := facts.DatesOf(column)
	if dates == nil && len(facts.Dates) == 1 {
		dates = &facts.Dates[0]
	}
	if dates == nil {
		return r.byColumns(facts)
	}
	return r.byDates(dates)
}

// byColumns takes what the plan says of each of several date columns.
func (r Reading) byColumns(facts *yearplan.Facts) (Reading, error) {
	if len(facts.Dates) == 0 {
		return r, nil
	}
	r.Asked.Columns, r.Clocks = map[string]reading.ColumnAsked{}, map[string]datetext.Clock{}
	for i := range facts.Dates {
		dates := &facts.Dates[i]
		own, err := r.byDates(dates)
		if err != nil {
			return r, err
		}
		r.Asked.Columns[dates.Column] = reading.ColumnAsked{Order: own.Asked.Order, Language: own.Asked.Language}
		r.Clocks[dates.Column] = own.Clock
	}
	return r, nil
}

// byDates takes what the plan says of a date column.
func (r Reading) byDates(dates *yearplan.Dates) (_ Reading, err error) {
	if r.Asked.Order == datetext.Unsettled && dates.Order != "" {
		r.Asked.Order, _ = datetext.ParseOrder(dates.Order)
	}
	if r.Asked.Language == nil && dates.Language != "" {
		if r.Asked.Language, err = datetext.LanguageOf(dates.Language); err != nil {
			return r, err
		}
	}
	if r.Clock.DayStarts == nil && dates.DayStarts != "" {
		if r.Clock.DayStarts, err = ParseDayStarts(dates.DayStarts); err != nil {
			return r, err
		}
	}
	if r.Clock.Conversion == nil && (dates.Zone != "" || dates.ToZone != "") {
		if r.Clock.Conversion, err = datetext.NewConversion(dates.Zone, dates.ToZone); err != nil {
			return r, err
		}
	}
	return r, nil
}

// ReadPlaceholders reads days that stand for no date; usual stands for those that systems commonly write.
func ReadPlaceholders(texts []string) ([]civil.Day, error) {
	var days []civil.Day
	for _, text := range texts {
		if text == yearplan.UsualPlaceholders {
			days = append(days, dimension.Placeholders()...)
			continue
		}
		day, err := civil.Parse(text)
		if err != nil {
			return nil, err
		}
		days = append(days, day)
	}
	return days, nil
}

// ParseDayStarts reads the time of day at which the day of business starts, as nanoseconds after
// midnight.
func ParseDayStarts(text string) (*int64, error) {
	starts, err := time.Parse("15:04", text)
	if err != nil {
		starts, err = time.Parse("15:04:05", text)
	}
	if err != nil {
		return nil, fmt.Errorf("%q is not a time of day such as 04:00", text)
	}
	nanos := int64(starts.Hour()*3600+starts.Minute()*60+starts.Second()) * 1e9
	return &nanos, nil
}
