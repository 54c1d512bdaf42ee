package calendar

import "fmt"

// Labels are the templates of a calendar's labels by unit. A template without
// a field of the year names a period within its year (P{period:02}); its label
// then has the year's before it. Units that are left out have plain labels.
type Labels map[Unit]string

// labels are the templates of one calendar.
type labels struct {
	year   Template
	codes  [Year + 1]Template
	labels [Year + 1]Template
}

// plainCodes name periods within their year where nothing else is asked for.
var plainCodes = Labels{
	Week: "W{period:02}", Month: "P{period:02}", Quarter: "Q{period}",
	Trimester: "T{period}", Third: "T{period}", Half: "H{period}",
}

// newLabels reads the templates. The error says what is wrong with which.
func newLabels(texts Labels) (*labels, error) {
	l := &labels{}
	yearText := texts[Year]
	if yearText == "" {
		yearText = "FY{year}"
	}
	var err error
	if l.year, err = ParseTemplate(yearText); err != nil {
		return nil, err
	}
	if !l.year.tellsYears() {
		return nil, fmt.Errorf("label %q is the same for every year: add {year}, {yy}, {start}, {start_yy}, {end} or {end_yy}", yearText)
	}
	if l.year.uses("period") || l.year.uses("year_label") {
		return nil, fmt.Errorf("label %q: {period} and {year_label} have no meaning in the label of a year", yearText)
	}
	for unit := Week; unit < Year; unit++ {
		l.codes[unit] = mustTemplate(plainCodes[unit])
		text := texts[unit]
		if text == "" {
			text = plainCodes[unit]
		}
		template, err := ParseTemplate(text)
		if err != nil {
			return nil, err
		}
		if !template.uses("period") {
			return nil, fmt.Errorf("label %q is the same for every %s: add {period}", text, unit)
		}
		if template.tellsYears() || template.uses("year_label") {
			l.labels[unit] = template
			continue
		}
		l.codes[unit] = template
		l.labels[unit] = mustTemplate("{year_label} ").followedBy(template)
	}
	l.labels[Year], l.codes[Year] = l.year, l.year
	return l, nil
}

// label fills the template of a unit; fields need no label of the year.
func (l *labels) label(unit Unit, fields labelFields) string {
	fields.yearLabel = l.year.fill(fields)
	return l.labels[unit].fill(fields)
}

// code names a period within its year.
func (l *labels) code(unit Unit, fields labelFields) string {
	fields.yearLabel = l.year.fill(fields)
	return l.codes[unit].fill(fields)
}
