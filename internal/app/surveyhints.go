package app

import (
	"context"
	"regexp"
	"slices"
	"strings"

	"roundyear/datetext"
	"roundyear/internal/reading"
	"roundyear/rows"
)

// hintRows is how many rows tell of dates that no column shows by itself.
const hintRows = 500

// hints looks in the first rows for dates in three columns and for numbers
// that may stand for moments, among the columns that hold no dates themselves.
func (f *Surveyed) hints(ctx context.Context, dates []string) error {
	columns, isDate := f.Source.Names(), map[string]bool{}
	for _, name := range dates {
		isDate[name] = true
	}
	var triples [][3]int
	for place, name := range columns {
		stem, found := strings.CutSuffix(strings.ToLower(name), "year")
		if !found {
			continue
		}
		month, day := indexFold(columns, stem+"month"), indexFold(columns, stem+"day")
		if month >= 0 && day >= 0 {
			triples = append(triples, [3]int{place, month, day})
		}
	}
	readable, sampled := make([]int, len(triples)), 0
	numbers := map[int]*numberColumn{}
	for place, name := range columns {
		if !isDate[name] && reading.NamesMoments(name) {
			numbers[place] = newNumberColumn()
		}
	}
	fiscal := map[int]string{}
	for place, name := range columns {
		if !isDate[name] {
			fiscal[place] = ""
		}
	}
	err := f.Source.Sample(ctx, hintRows, func(row *rows.Row) {
		sampled++
		for i, t := range triples {
			if _, reason := datetext.ReadParts(row.Field(t[0]), row.Field(t[1]), row.Field(t[2])); reason == "" {
				readable[i]++
			}
		}
		for place, column := range numbers {
			column.observe(row.Field(place))
		}
		for place := range fiscal {
			switch value := row.Field(place); {
			case len(value) == 0:
			case !fiscalPeriod.Match(value):
				delete(fiscal, place)
			default:
				fiscal[place] = string(value)
			}
		}
	})
	if err != nil {
		return err
	}
	for i, t := range triples {
		if readable[i]*2 >= sampled { // the names have said it; the other rows are told
			name := strings.TrimRight(strings.ToLower(columns[t[0]])[:len(columns[t[0]])-len("year")], "_ -")
			if name == "" {
				name = "day"
			}
			year := columns[t[0]]
			if slices.ContainsFunc(f.Parts, func(given reading.Parts) bool { return given.Columns[0] == year || given.Name == name }) {
				continue // as the call says it
			}
			f.Parts = append(f.Parts, reading.InThree(name, columns[t[0]], columns[t[1]], columns[t[2]]))
		}
	}
	for place, name := range columns {
		if example := fiscal[place]; example != "" {
			f.Fiscal = append(f.Fiscal, [2]string{name, example})
		}
		if column := numbers[place]; column != nil {
			if hint, found := column.hint(name); found {
				f.Numbers = append(f.Numbers, hint)
			}
		}
	}
	return nil
}

// fiscalPeriod is how periods of fiscal years are written: FY26 P03, FY2026-Q1.
var fiscalPeriod = regexp.MustCompile(`(?i)^FY ?\d{2}(\d{2})?([-/ ]?[PQHWM]\d{1,2})?$`)

func indexFold(names []string, wanted string) int {
	return slices.IndexFunc(names, func(name string) bool { return strings.EqualFold(name, wanted) })
}

// numberColumn holds the values of a column of numbers against the ways in
// which numbers stand for moments.
type numberColumn struct {
	patterns []*datetext.Pattern
	fits     []bool
	first    string
}

var numberWays = []string{"serial", "unix", "unix_ms", "unix_us", "unix_ns", "yyyyDDD"}

func newNumberColumn() *numberColumn {
	c := &numberColumn{}
	for _, name := range numberWays {
		pattern, err := datetext.Compile(name)
		if err != nil {
			panic(err) // the names are those of the package
		}
		c.patterns, c.fits = append(c.patterns, pattern), append(c.fits, true)
	}
	return c
}

func (c *numberColumn) observe(value []byte) {
	if len(value) == 0 {
		return
	}
	if c.first == "" {
		c.first = string(value)
	}
	for i, pattern := range c.patterns {
		moment, ok := pattern.Read(value)
		// A number is a likely moment only of years that business has.
		year := 0
		if ok {
			year = moment.Day.Year()
		}
		c.fits[i] = c.fits[i] && year >= 1980 && year <= 2080
	}
}

func (c *numberColumn) hint(column string) (NumberHint, bool) {
	i := slices.Index(c.fits, true)
	if i < 0 || c.first == "" {
		return NumberHint{}, false
	}
	moment, _ := c.patterns[i].Read([]byte(c.first))
	return NumberHint{column, numberWays[i], c.first, moment.Day.String()}, true
}
