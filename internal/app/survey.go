package app

import (
	"context"
	"slices"

	"roundyear/calendar"
	"roundyear/civil"
	"roundyear/datetext"
	"roundyear/internal/reading"
	"roundyear/rows"
	"roundyear/survey"
)

// Survey asks what dates a file holds.
type Survey struct {
	// Source is one file.
	Source *rows.Source
	// Asked is what is said of its dates, with columns that are known to hold some.
	Asked reading.Asked
	// AsOf is the day after which dates count as future.
	AsOf civil.Day
}

// Run finds the date columns of the file and reads all their dates.
func (s *Survey) Run(ctx context.Context) (*Surveyed, error) {
	source, asked := s.Source, s.Asked
	names, err := reading.DateColumns(ctx, source)
	if err != nil {
		return nil, err
	}
	for name := range asked.Patterns {
		place, err := source.Find(name)
		if err != nil {
			return nil, err
		}
		if column := source.Names()[place]; !slices.Contains(names, column) {
			names = append(names, column)
		}
	}
	file := &Surveyed{Source: source, Parts: asked.Parts}
	asked.Parts = nil
	if err := file.hints(ctx, names); err != nil {
		return nil, err
	}
	if err := file.numbers(ctx, names); err != nil {
		return nil, err
	}
	for _, parts := range file.Parts {
		asked.Parts = append(asked.Parts, parts)
		names = append(names, parts.Name)
	}
	evidence, err := reading.NewEvidence(source, names[:len(names)-len(file.Parts)], asked)
	if err != nil {
		return nil, err
	}
	var found *inspection
	// The first rows tell how to read; what all rows say must confirm it.
	guess, guessErr := reading.Guess(ctx, source, names[:len(names)-len(file.Parts)], asked)
	if guessErr == nil {
		if found, err = inspect(ctx, source, guess, evidence); err != nil {
			return nil, err
		}
	} else if err := evidence.Gather(ctx, source); err != nil {
		return nil, err
	}
	decided, faults := evidence.DecideEach()
	columns := evidence.Columns(source.Parts[0])
	var known []*reading.Dates
	for i, dates := range decided {
		column := &SurveyedColumn{Name: names[i], Dates: dates, Problem: faults[i], Evidence: columns[i]}
		file.Columns = append(file.Columns, column)
		if dayFirst, monthFirst, _ := column.Evidence.Orders(); faults[i] != nil && dayFirst > 0 && monthFirst > 0 {
			if column.ExplainedBy, err = explain(ctx, source, names[i], asked); err != nil {
				return nil, err
			}
		}
		if dates != nil {
			known = append(known, dates)
		}
	}
	if guessErr != nil || len(known) < len(decided) || !reading.SameReading(guess, known) {
		if found, err = inspect(ctx, source, known, nil); err != nil {
			return nil, err
		}
	}
	file.Rows, file.Ragged = found.rows, evidence.Ragged()
	at := 0
	for _, column := range file.Columns {
		if column.Dates != nil {
			if column.Summary, _ = found.profiles[at].Summary(); column.Summary != nil {
				column.AsOf, column.After = s.AsOf, found.profiles[at].After(s.AsOf, column.Summary.Last)
			}
			at++
		}
	}
	file.Pairs, file.Crossed = found.pairs(known)
	return file, nil
}

// Surveyed is what was found in one file.
type Surveyed struct {
	Source *rows.Source
	Rows   int
	// Ragged are the rows with more or fewer fields than there are columns.
	Ragged  reading.Ragged
	Columns []*SurveyedColumn
	// Parts are dates in three columns, Numbers columns that may hold moments as numbers.
	Parts   []reading.Parts
	Numbers []NumberHint
	// Amounts are columns of numbers that are not written plainly, and Blanks texts among dates and numbers that usually mean
	// that there is no value.
	Amounts []SurveyedNumbers
	Blanks  []SurveyedBlank
	// Fiscal are columns of periods of fiscal years, each with a value.
	Fiscal [][2]string
	// Pairs are columns of which the first is never after the second.
	Pairs [][2]string
	// Crossed are pairs that have some rows in which the end is before the start.
	Crossed []CrossedPair
}

// CrossedPair is two columns of which the first is after the second in a few of the
// rows that have both.
type CrossedPair struct {
	Start, End string
	Rows, Both int
}

// SurveyedColumn is what was found in one date column.
type SurveyedColumn struct {
	Name     string
	Dates    *reading.Dates
	Problem  error
	Evidence *datetext.Column
	Summary  *survey.Summary
	// After counts the rows after the as-of date.
	After int
	AsOf  civil.Day
	// ExplainedBy is a column of whose values each writes dates in one order.
	ExplainedBy string
}

// NumberHint is a column of numbers that may stand for moments.
type NumberHint struct{ Column, Pattern, Value, Day string }

// SettledOrder returns a column in which the order of day and month is settled; nil if
// there is none.
func (f *Surveyed) SettledOrder() *SurveyedColumn {
	for _, column := range f.Columns {
		if column.Problem != nil || column.IsParts() || column.Dates.Files[0].Decision == nil {
			continue
		}
		if decision := column.Dates.Files[0].Decision; decision.Settled > 0 && (decision.Order == datetext.DayFirst || decision.Order == datetext.MonthFirst) {
			return column
		}
	}
	return nil
}

// IsFaulty tells whether the report on the file has an attention line.
func (f *Surveyed) IsFaulty() bool {
	return len(f.Crossed) > 0 || f.Ragged.Count > 0 || slices.ContainsFunc(f.Columns, func(c *SurveyedColumn) bool {
		return c.Problem != nil || len(c.Dates.Files[0].Faults) > 0 ||
			c.Summary != nil && len(c.Summary.Sentinels)+len(c.Summary.Suspicious) > 0
	})
}

// IsParts tells whether the date stands in three columns.
func (c *SurveyedColumn) IsParts() bool { return c.Dates != nil && len(c.Dates.Columns) == 3 }

// Grain returns what the dates of the column stand for: day, month and so on.
func (c *SurveyedColumn) Grain() string {
	switch {
	case c.Problem != nil, !c.IsParts() && !c.Dates.Type.IsDate() && c.Dates.Files[0].Decision == nil:
		return ""
	case c.IsParts() || c.Dates.Type.IsDate() || c.Dates.Files[0].Decision.Patterns[0].Grain == "day":
		if c.Summary == nil {
			return "day"
		}
		switch step := c.Summary.Step; {
		case step.Unit == calendar.Day:
			return "day"
		case step.Unit == calendar.Week:
			return "week, by its " + step.Weekday.String()
		case step.AtEnd:
			return step.Unit.String() + ", by its last day"
		default:
			return step.Unit.String() + ", by its first day"
		}
	}
	return c.Dates.Files[0].Decision.Patterns[0].Grain
}

// IsPeriod tells whether the values of the column are periods and not days.
func (c *SurveyedColumn) IsPeriod() bool {
	return c.Problem == nil && !c.IsParts() && c.Dates.Files[0].Decision != nil && c.Dates.Files[0].Decision.Patterns[0].Grain != "day"
}

// maxSystems is how many values a column may have that tells systems apart.
const maxSystems = 30

// explain looks for a column of whose values each writes the dates of another
// column in one order: files glued together from several systems have one.
func explain(ctx context.Context, source *rows.Source, name string, asked reading.Asked) (string, error) {
	values := make([]map[string]bool, len(source.Names()))
	for i := range values {
		values[i] = map[string]bool{}
	}
	err := source.Sample(ctx, 5000, func(row *rows.Row) {
		for i := range values {
			if len(values[i]) <= maxSystems {
				values[i][string(row.Field(i))] = true
			}
		}
	})
	if err != nil {
		return "", err
	}
	for i, column := range source.Names() {
		if column == name || len(values[i]) < 2 || len(values[i]) > maxSystems {
			continue
		}
		asked.OrderPer, asked.Parts = column, nil
		if _, err := reading.Decide(ctx, source, []string{name}, asked); err == nil {
			return column, nil
		}
	}
	return "", nil
}
