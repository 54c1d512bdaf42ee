package app

import (
	"context"
	"errors"
	"fmt"
	"slices"
	"strings"

	"roundyear/civil"
	"roundyear/datetext"
	"roundyear/facts/where"
	"roundyear/fault"
	"roundyear/internal/reading"
	"roundyear/rows"
)

// readDayConditions finds out how the columns of conditions on days are read, where their dates are text in another form than that of the
// conditions, and makes days of what conditions on such columns are compared with. Without it 12/26/2022 would be another text than
// 2022-12-26, and no day before or after it.
func (f *filter) readDayConditions(ctx context.Context, source *rows.Source, asked reading.Asked) error {
	f.dates = make([]*reading.Dates, len(f.conditions))
	f.conditions = slices.Clone(f.conditions)
	for i, condition := range f.conditions {
		if err := f.readDayCondition(ctx, source, asked, i); err != nil {
			return conditionFault(condition, err)
		}
	}
	return nil
}

// conditionFault says of which condition a fault is, if it does not say so.
func conditionFault(condition *where.Condition, err error) error {
	var problem *fault.Fault
	if errors.As(err, &problem) && !strings.Contains(problem.What, "--where") {
		own := *problem
		own.What += fmt.Sprintf(", which --where %q needs", condition.String())
		return &own
	}
	return err
}

func (f *filter) readDayCondition(ctx context.Context, source *rows.Source, asked reading.Asked, i int) error {
	condition, place := f.conditions[i], f.columns[i]
	column := source.Columns()[place]
	_, areDays := condition.Days()
	texts, areTexts := condition.Texts()
	isOrder := areTexts && condition.Operator != where.Equal && condition.Operator != where.NotEqual
	switch {
	case column.Type.IsDate() && areTexts && looksLikeDays(texts), column.Type.IsDate() && isOrder:
		return &fault.Fault{File: source.Name(), Column: column.Name, What: fmt.Sprintf("holds dates, and %q is not written as one in --where %q", condition.Values[0], condition.String()), Remedy: "Write the day as 2026-02-01"}
	case isOrder && (column.Type == rows.Integer || column.Type == rows.Decimal || column.Type == rows.Float):
		return &fault.Fault{File: source.Name(), Column: column.Name, What: fmt.Sprintf("holds numbers, and --where %q compares them with a text", condition.String()), Remedy: "Compare them with a number"}
	case column.Type != rows.Text || !areDays && !(areTexts && looksLikeDays(texts)) && !isOrder:
		return nil
	}
	seen, err := sampleOf(ctx, source, place)
	switch {
	case err != nil:
		return err
	case isOrder && seen.numbers > 0 && seen.numbers == seen.values:
		return &fault.Fault{File: source.Name(), Column: column.Name, What: fmt.Sprintf("holds numbers, and --where %q compares them with a text", condition.String()), Remedy: "Compare them with a number"}
	case areDays && seen.isoDays == seen.values, !areDays && !looksLikeDays(texts), !areDays && !seen.areDates:
		return nil
	}
	dates, err := f.datesOf(ctx, source, asked, place)
	if err != nil {
		return err
	}
	if !areDays {
		if f.conditions[i], err = withDays(condition, dates); err != nil {
			return err
		}
	}
	f.dates[i] = dates
	return nil
}

// datesOf says how the dates of a column are read. All rows tell it, so they are read once for all conditions on the column.
func (f *filter) datesOf(ctx context.Context, source *rows.Source, asked reading.Asked, place int) (*reading.Dates, error) {
	for i, dates := range f.dates {
		if dates != nil && f.columns[i] == place {
			return dates, nil
		}
	}
	asked.Parts, asked.Labels = nil, nil
	evidence, err := reading.NewEvidence(source, []string{source.Names()[place]}, asked)
	if err != nil {
		return nil, err
	}
	if err := evidence.Gather(ctx, source); err != nil {
		return nil, err
	}
	dates, err := evidence.Decide()
	if err != nil {
		return nil, err
	}
	return dates[0], nil
}

// withDays is a condition whose values are dates as its column writes them, with days in their place.
func withDays(condition *where.Condition, dates *reading.Dates) (*where.Condition, error) {
	var days []string
	for _, value := range condition.Values {
		day, isRead := "", false
		for _, found := range dates.Files {
			if found.Decision == nil {
				continue
			}
			moment, ok := found.Decision.Reader.Clone().Read([]byte(value))
			if own := moment.Day.String(); ok && isRead && own != day {
				return nil, &fault.Fault{Column: condition.Column, What: fmt.Sprintf("%q is another day in each file", value), Remedy: "Write the day as 2026-02-01"}
			} else if ok {
				day, isRead = own, true
			}
		}
		if !isRead {
			return nil, &fault.Fault{Column: condition.Column, What: fmt.Sprintf("%q cannot be read as the column's dates are", value), Remedy: "Write the day as 2026-02-01"}
		}
		days = append(days, day)
	}
	return where.Parse(condition.Column+" "+string(condition.Operator)+strings.Join(days, ","), func(name string) bool { return name == condition.Column })
}

// looksLikeDays tells whether texts are dates in some form.
func looksLikeDays(texts []string) bool {
	column := datetext.NewColumn(datetext.Asked{})
	for i, text := range texts {
		column.Observe(i+1, []byte(text))
	}
	return column.LooksLikeDates()
}

// sampled is what the first values of a column are.
type sampled struct {
	values, isoDays, numbers int
	areDates                 bool
}

// sampleSize is how many rows of each part are looked at.
const sampleSize = 1000

func sampleOf(ctx context.Context, source *rows.Source, place int) (seen sampled, err error) {
	column := datetext.NewColumn(datetext.Asked{})
	err = source.Sample(ctx, sampleSize, func(row *rows.Row) {
		value := strings.TrimSpace(string(row.Field(place)))
		if value == "" {
			return
		}
		seen.values++
		column.Observe(row.Line, []byte(value))
		if isISODay(value) {
			seen.isoDays++
		}
		if _, _, isNumber := plainNumber([]byte(value)); isNumber {
			seen.numbers++
		}
	})
	seen.areDates = column.LooksLikeDates()
	return seen, err
}

// isISODay tells whether a text is a day as conditions write it, with a time of day behind it perhaps.
func isISODay(text string) bool {
	if len(text) < len("2026-02-01") || len(text) > len("2026-02-01") && text[10] != ' ' && text[10] != 'T' {
		return false
	}
	_, err := civil.Parse(text[:10])
	return err == nil
}

// dayOf returns the day that a row has in the column of a condition, as the condition writes it; what the row has if that is not how its
// dates are read.
func (f *filter) dayOf(i int, row *rows.Row, value []byte) []byte {
	if f.dates[i] == nil || len(strings.TrimSpace(string(value))) == 0 {
		return value
	}
	if f.readers == nil {
		f.readers = make([]*reading.Reader, len(f.conditions))
	}
	if f.readers[i] == nil {
		f.readers[i], f.part = f.dates[i].Reader(), nil
	}
	if f.part != row.Part() {
		f.part = row.Part()
		for _, reader := range f.readers {
			if reader != nil {
				reader.Enter(f.part)
			}
		}
	}
	moment, state := f.readers[i].Read(row)
	switch state {
	case reading.Read:
		return []byte(moment.Day.String())
	case reading.Blank:
		return nil
	}
	return value
}

// readsDays tells whether dates of conditions are read in a form of their own, which a database cannot.
func (f *filter) readsDays() bool {
	return slices.ContainsFunc(f.dates, func(d *reading.Dates) bool { return d != nil })
}
