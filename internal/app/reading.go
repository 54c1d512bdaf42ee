package app

import (
	"fmt"
	"maps"
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
	// Given are the settings that the call says, and Layout and Zones what it or the plan says of the form of text and of zones, as it
	// is written there.
	Given  Given
	Layout LayoutTexts
	Zones  Zones
}

// LayoutTexts are the settings of how text is laid out.
type LayoutTexts struct {
	Delimiter, Quote, Comment string
	Widths, Ragged            []string
}

// by takes what the plan says where a call says nothing. Widths and a delimiter exclude each other, so that one which is given displaces the
// other.
func (l LayoutTexts) by(given Given, planned *yearplan.Facts) LayoutTexts {
	merged := LayoutTexts{
		Delimiter: given.Text("delimiter", l.Delimiter, planned.Delimiter), Quote: given.Text("quote", l.Quote, planned.Quote),
		Comment: given.Text("comment", l.Comment, planned.Comment),
		Widths:  given.Texts("widths", l.Widths, planned.Widths), Ragged: given.Texts("ragged", l.Ragged, planned.Ragged),
	}
	switch {
	case given["widths"] && len(l.Widths) > 0:
		merged.Delimiter, merged.Quote = l.Delimiter, l.Quote
	case l.Delimiter != "" || l.Quote != "":
		merged.Widths = l.Widths
	}
	return merged
}

// Read reads them.
func (l LayoutTexts) Read() (delimited.Layout, error) {
	return delimited.NewLayout(l.Delimiter, l.Quote, l.Comment, l.Widths, l.Ragged)
}

// Zones are the zones of times and those that they are converted to.
type Zones struct{ From, To string }

// Read reads them; nothing is converted without one.
func (z Zones) Read() (*datetext.Conversion, error) {
	if z == (Zones{}) {
		return nil, nil
	}
	return datetext.NewConversion(z.From, z.To)
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
	if !r.Given["parts"] {
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
	if !r.Given["placeholder"] {
		var err error
		if r.Asked.Placeholders, err = ReadPlaceholders(facts.Placeholders); err != nil {
			return r, err
		}
	}
	r.Asked.OrderPer = r.Given.Text("order-per", r.Asked.OrderPer, facts.OrderPer)
	planned := formOf(facts)
	if !r.Given["header"] && !r.Given["no-header"] {
		r.Form.Header = planned.Header
	}
	if !r.Given["skip"] {
		r.Form.Skip = planned.Skip
	}
	r.Form.BlankAs = r.Given.Texts("blank-as", r.Form.BlankAs, planned.BlankAs)
	swapped := maps.Clone(planned.Swapped)
	for column, isSwapped := range r.Form.Swapped {
		if swapped == nil {
			swapped = map[string]bool{}
		}
		swapped[column] = isSwapped
	}
	r.Form.Swapped, r.Layout = swapped, r.Layout.by(r.Given, facts)
	var err error
	if r.Form.Layout, err = r.Layout.Read(); err != nil {
		return r, err
	}
	if !r.Given["encoding"] {
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
	if !r.Given["order"] && dates.Order != "" {
		r.Asked.Order, _ = datetext.ParseOrder(dates.Order)
	}
	if !r.Given["language"] && dates.Language != "" {
		if r.Asked.Language, err = datetext.LanguageOf(dates.Language); err != nil {
			return r, err
		}
	}
	if !r.Given["day-starts"] && dates.DayStarts != "" {
		if r.Clock.DayStarts, err = ParseDayStarts(dates.DayStarts); err != nil {
			return r, err
		}
	}
	zones := Zones{From: r.Given.Text("zone", r.Zones.From, dates.Zone), To: r.Given.Text("to-zone", r.Zones.To, dates.ToZone)}
	r.Clock.Conversion, err = zones.Read()
	return r, err
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
