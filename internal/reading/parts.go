package reading

import (
	"bytes"
	"fmt"
	"slices"
	"strings"

	"roundyear/datetext"
	"roundyear/rows"
)

// Role is what a column says of a date that stands in several.
type Role string

// The roles of columns.
const (
	YearRole    Role = "year"
	QuarterRole Role = "quarter"
	MonthRole   Role = "month"
	WeekRole    Role = "week"
	DayRole     Role = "day"
	DateRole    Role = "date"
	TimeRole    Role = "time"
)

// kinds are the sets of roles that make a date, with the pattern that what they make is read by; none where it is decided from
// the values.
var kinds = []kindOfParts{
	{[]Role{YearRole, MonthRole, DayRole}, ""},
	{[]Role{YearRole, MonthRole}, ""},
	{[]Role{YearRole, QuarterRole}, "yyyy-'Q'Q"},
	{[]Role{YearRole, WeekRole}, "YYYY-'W'ww"},
	{[]Role{YearRole}, "yyyy"},
	{[]Role{DateRole, TimeRole}, ""},
}

// Parts is a date that stands in several columns, and the name it gets.
type Parts struct {
	Name string
	// Columns are the columns by their names, and Roles what they say, in the order of kinds.
	Columns []string
	Roles   []Role
}

// InThree returns a date that stands in three columns.
func InThree(name, year, month, day string) Parts {
	return Parts{Name: name, Columns: []string{year, month, day}, Roles: kinds[0].roles}
}

// NewParts reads the columns of a date: three for the year, the month and the day, or such with their roles before them, as
// in year:Jahr and week:KW.
func NewParts(name string, columns []string) (Parts, error) {
	given := map[Role]string{}
	var roles []Role
	for _, text := range columns {
		prefix, column, found := strings.Cut(text, ":")
		role := Role(strings.ToLower(strings.TrimSpace(prefix)))
		if column = strings.TrimSpace(column); !found || column == "" || !slices.ContainsFunc(kinds, func(kind kindOfParts) bool { return slices.Contains(kind.roles, role) }) {
			continue
		}
		if given[role] == "" {
			roles = append(roles, role)
		}
		given[role] = column
	}
	if len(roles) == 0 && len(columns) == 3 {
		return InThree(name, strings.TrimSpace(columns[0]), strings.TrimSpace(columns[1]), strings.TrimSpace(columns[2])), nil
	}
	for _, kind := range kinds {
		if len(roles) != len(columns) || len(kind.roles) != len(roles) || slices.ContainsFunc(kind.roles, func(role Role) bool { return given[role] == "" }) {
			continue
		}
		parts := Parts{Name: name, Roles: kind.roles}
		for _, role := range kind.roles {
			parts.Columns = append(parts.Columns, given[role])
		}
		return parts, nil
	}
	return Parts{}, fmt.Errorf("the columns of a date are its year, month and day, or such with their roles: year:Y,month:M, year:Y,quarter:Q, year:Y,week:W, year:Y or date:D,time:T; not %q", strings.Join(columns, ","))
}

// String returns the columns as NewParts reads them.
func (p Parts) String() string {
	if len(p.Columns) == 3 {
		return strings.Join(p.Columns, ",")
	}
	var all []string
	for i, column := range p.Columns {
		all = append(all, string(p.Roles[i])+":"+column)
	}
	return strings.Join(all, ",")
}

type kindOfParts struct {
	roles   []Role
	pattern string
}

// patternOf returns the pattern that the roles are read by; nil where the values decide.
func patternOf(roles []Role) *datetext.Pattern {
	for _, kind := range kinds {
		if slices.Equal(kind.roles, roles) && kind.pattern != "" {
			pattern, err := datetext.Compile(kind.pattern)
			if err != nil {
				panic(err) // one of ours
			}
			return pattern
		}
	}
	return nil
}

// text returns what stands in a row for the date, as one text; nothing if all of its columns are blank.
func (d *Dates) text(row *rows.Row) []byte {
	if len(d.roles) == 0 {
		return row.Field(d.Columns[0])
	}
	first := bytes.TrimSpace(row.Field(d.Columns[0]))
	if len(d.Columns) == 1 {
		return first
	}
	text := bytes.Clone(first)
	second := bytes.TrimSpace(row.Field(d.Columns[1]))
	if len(first) == 0 && len(second) == 0 {
		return nil
	}
	switch d.roles[1] {
	case TimeRole:
		// Workbooks keep days as moments at midnight.
		if v, _ := row.Vector(d.Columns[0]); v != nil && v.Type == rows.Moment {
			text = bytes.TrimSuffix(text, []byte("T00:00:00"))
		}
		if len(text) == 0 || len(second) == 0 {
			return append(text, second...)
		}
		return append(append(text, ' '), second...)
	case MonthRole:
		if !isNumber(second) {
			return append(append(bytes.Clone(second), ' '), text...) // March 2026
		}
		return append(append(text, '-'), padded(second)...)
	case QuarterRole:
		return append(append(text, "-Q"...), bytes.TrimLeft(second, "qQ ")...)
	default:
		return append(append(text, "-W"...), padded(bytes.TrimLeft(bytes.ToUpper(second), "KCW. "))...)
	}
}

func isNumber(text []byte) bool { return len(text) > 0 && len(bytes.Trim(text, "0123456789")) == 0 }

// padded puts a zero before a single digit.
func padded(text []byte) []byte {
	if len(text) == 1 {
		return []byte{'0', text[0]}
	}
	return text
}
