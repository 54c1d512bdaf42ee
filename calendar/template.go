package calendar

import (
	"fmt"
	"slices"
	"strconv"
	"strings"
)

// Template is a label with fields in braces, such as FY{yy} or P{period:02}.
// The fields are year, yy (its last two digits), start, start_yy, end and
// end_yy (the Gregorian years in which the year starts and ends), year_label,
// and period (the number in the year); :02 pads a number with zeros.
type Template struct {
	text  string
	parts []templatePart
}

type templatePart struct {
	literal, field string
	width          int
}

var templateFields = []string{"year", "yy", "start", "start_yy", "end", "end_yy", "year_label", "period"}

// ParseTemplate reads a template. The error names the field that is not known.
func ParseTemplate(text string) (Template, error) {
	template := Template{text: text}
	rest := text
	for rest != "" {
		literal, after, found := strings.Cut(rest, "{")
		if strings.Contains(literal, "}") {
			return Template{}, fmt.Errorf("label %q has a } without a {", text)
		}
		if literal != "" {
			template.parts = append(template.parts, templatePart{literal: literal})
		}
		if !found {
			break
		}
		field, after, closed := strings.Cut(after, "}")
		if !closed {
			return Template{}, fmt.Errorf("label %q has a { without a }", text)
		}
		part, err := parseField(field)
		if err != nil {
			return Template{}, fmt.Errorf("label %q: %w", text, err)
		}
		template.parts = append(template.parts, part)
		rest = after
	}
	return template, nil
}

func parseField(field string) (templatePart, error) {
	name, width, padded := strings.Cut(field, ":")
	part := templatePart{field: name}
	if !slices.Contains(templateFields, name) {
		return part, fmt.Errorf("unknown field {%s}; the fields are %s", name, strings.Join(templateFields, ", "))
	}
	if padded {
		digits, err := strconv.Atoi(width)
		if err != nil || !strings.HasPrefix(width, "0") || digits < 1 || digits > 9 {
			return part, fmt.Errorf("{%s} can be padded with :01 to :09, not %q", name, ":"+width)
		}
		part.width = digits
	}
	return part, nil
}

func mustTemplate(text string) Template {
	template, err := ParseTemplate(text)
	if err != nil {
		panic(err)
	}
	return template
}

func (t Template) uses(field string) bool {
	return slices.ContainsFunc(t.parts, func(part templatePart) bool { return part.field == field })
}

func (t Template) tellsYears() bool {
	return slices.ContainsFunc(templateFields[:6], t.uses)
}

type labelFields struct {
	year, start, end, period int
	yearLabel                string
}

func (t Template) fill(fields labelFields) string {
	label := make([]byte, 0, 24)
	for _, part := range t.parts {
		switch part.field {
		case "":
			label = append(label, part.literal...)
		case "year":
			label = appendPadded(label, fields.year, max(part.width, 4))
		case "yy":
			label = appendPadded(label, fields.year%100, 2)
		case "start":
			label = appendPadded(label, fields.start, max(part.width, 4))
		case "start_yy":
			label = appendPadded(label, fields.start%100, 2)
		case "end":
			label = appendPadded(label, fields.end, max(part.width, 4))
		case "end_yy":
			label = appendPadded(label, fields.end%100, 2)
		case "year_label":
			label = append(label, fields.yearLabel...)
		case "period":
			label = appendPadded(label, fields.period, part.width)
		}
	}
	return string(label)
}

func appendPadded(text []byte, number, width int) []byte {
	digits := strconv.Itoa(number)
	for range width - len(digits) {
		text = append(text, '0')
	}
	return append(text, digits...)
}

// followedBy returns the two templates, one behind the other.
func (t Template) followedBy(other Template) Template {
	return Template{text: t.text + other.text, parts: append(slices.Clone(t.parts), other.parts...)}
}
