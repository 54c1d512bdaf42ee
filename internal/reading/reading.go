// Package reading decides how the date columns of files are read, each file by
// itself, and reads their records.
package reading

import (
	"fmt"
	"slices"

	"roundyear/civil"
	"roundyear/datetext"
	"roundyear/fault"
	"roundyear/rows"
)

// Asked is what the user has said about how dates are read.
type Asked struct {
	// Patterns are LDML patterns by column name, as the user wrote it.
	Patterns map[string]string
	// Described are patterns that a description of the files says, of columns that they may have.
	Described map[string]string
	// Order settles the order of day and month where the values do not.
	Order datetext.Order
	// Pivot is the first of the hundred years that years of two digits mean;
	// 0 for the default.
	Pivot int
	// Language is that of the names of months; nil where the columns tell.
	Language *datetext.Language
	// Columns are orders and languages of single columns by their names, which win over those of all.
	Columns map[string]ColumnAsked
	// OrderPer names the column that tells from which system a row comes: the
	// rows of each of its values are decided by themselves.
	OrderPer string
	// Parts are dates that stand in several columns.
	Parts []Parts
	// Labels returns a pattern that reads labels of a grain of the plan's calendars, by the grain's name; nil for none.
	Labels func(grain string) *datetext.Pattern
	// Placeholders are days that stand for no date.
	Placeholders []civil.Day
}

// ColumnAsked is what is said about how the dates of one column are read; what is empty is that of all.
type ColumnAsked struct {
	Order    datetext.Order
	Language *datetext.Language
}

// Dates is a date column of a source, or several that make a date, and how each
// of the files is read.
type Dates struct {
	// Name is the column's name in the file, or the name of the parts.
	Name string
	// Columns are the indexes of the column, or of its parts; roles are what these say.
	Columns []int
	roles   []Role
	// Type is that of the column; Text where how it is read is decided.
	Type rows.Type
	// Files says for each file of the source what was found in it, and for
	// each value of the column that tells systems apart, if there is one.
	Files []*Found
	// per is the index of that column, or -1.
	per int
	// placeholders are days that stand for no date.
	placeholders []civil.Day
	// scale is that of the column of moments.
	scale uint8
}

// Found is what a date column holds in one file.
type Found struct {
	File *rows.Part
	// System is the value of the column that tells systems apart, if any.
	System string
	// Type is that of the column. One of days or moments has no decision.
	Type rows.Type
	// Decision says how the column is read and why; nil for parts, for days and moments,
	// and where there is nothing but blanks.
	Decision *datetext.Decision
	// Values, Blanks and Unread count the rows with a date, without one, and
	// with one that cannot be read; Faults are the first of those.
	Values, Blanks, Unread int
	Faults                 []datetext.Example
}

// Grain returns the name of what the dates stand for if that is longer than a day, such as quarter; of several the first that is used most.
// It is empty for days.
func (d *Dates) Grain() string {
	for _, found := range d.Files {
		if found.Decision == nil {
			continue
		}
		for _, share := range found.Decision.Patterns {
			if share.Grain != "" && share.Grain != "day" {
				return share.Grain
			}
		}
	}
	return ""
}

// Clock returns the finest time of day in any of the files.
func (d *Dates) Clock() datetext.Resolution {
	finest := datetext.NoTime
	if d.Type.IsDate() && d.Type != rows.Day {
		finest = datetext.Seconds
	}
	for _, found := range d.Files {
		if found.Decision != nil {
			finest = max(finest, found.Decision.Clock)
		}
	}
	return finest
}

// Decimals returns how many decimals the seconds of its times of day have at most.
func (d *Dates) Decimals() uint8 {
	if d.Type.IsDate() {
		return d.scale
	}
	return uint8(max(d.Clock()-datetext.Seconds, 0))
}

// Needs returns the places of all columns that reading the date looks at.
func (d *Dates) Needs() []int {
	if d.per < 0 {
		return d.Columns
	}
	return append(slices.Clone(d.Columns), d.per)
}

// isDecided tells whether how the date is read is decided from its texts.
func (d *Dates) isDecided() bool { return !d.isInThree() && !d.Type.IsDate() }

// isInThree tells whether the date stands as year, month and day.
func (d *Dates) isInThree() bool { return len(d.Columns) == 3 }

// InParts tells whether the date stands in several columns.
func (d *Dates) InParts() bool { return len(d.roles) > 0 }

// Unread returns the number of values that cannot be read.
func (d *Dates) Unread() int {
	unread := 0
	for _, found := range d.Files {
		unread += found.Unread
	}
	return unread
}

// FirstUnread returns the error for facts of which some dates cannot be read,
// for the commands that do not reject rows; nil when all can.
func (d *Dates) FirstUnread() error {
	for _, found := range d.Files {
		if found.Unread == 0 {
			continue
		}
		what := fmt.Sprintf("%q cannot be read as a date", found.Faults[0].Value)
		if found.Unread > 1 {
			what += fmt.Sprintf(", nor can %d more", found.Unread-1)
		}
		return &fault.Fault{File: found.File.Name, Line: found.Faults[0].Line, Column: d.Name, What: what,
			Remedy: "Run roundyear normalise on the file first: it moves such rows to a rejects file"}
	}
	return nil
}

// Range is the first and the last of some days.
type Range struct {
	First, Last civil.Day
	Any         bool
}

// Add takes in a day.
func (r *Range) Add(day civil.Day) {
	if !r.Any {
		r.First, r.Last, r.Any = day, day, true
	}
	r.First, r.Last = min(r.First, day), max(r.Last, day)
}

// Join takes in the days of another range.
func (r *Range) Join(other Range) {
	if other.Any {
		r.Add(other.First)
		r.Add(other.Last)
	}
}
