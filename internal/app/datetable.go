package app

import (
	"context"
	"iter"
	"slices"

	"roundyear/calendar"
	"roundyear/cell"
	"roundyear/civil"
	"roundyear/dimension"
	"roundyear/internal/table"
)

// DateTable is a date dimension, or a table of periods, that is going to be built.
type DateTable struct {
	Catalogue  *dimension.Catalogue
	Attributes []dimension.Attribute
	// Columns are the attributes by the names that the plan gives them.
	Columns []cell.Column
	Grain   calendar.Grain
	// Special are the rows for facts without a day.
	Special []dimension.SpecialRow
	AsOf    civil.Day
	Spanned
}

// IsDaily tells whether the table has a row per day.
func (t *DateTable) IsDaily() bool { return t.Grain.Unit == calendar.Day }

// AddSpecial adds the rows for facts without a day where those can find them by the key: the plan's, and
// the one for unknown days if it is asked for.
func (t *DateTable) AddSpecial(y *Year, unknown *bool) {
	if key, found := t.Catalogue.KeyOf(t.Grain); found && t.Has(key.Name) {
		t.Special = y.SpecialRows(unknown)
	}
}

// SpecialRows returns the rows of tables for facts without a day or time. Unknown tells whether there is one for those without a date; nil if
// the plan says so.
func (y *Year) SpecialRows(unknown *bool) []dimension.SpecialRow {
	rows := slices.Clone(y.Plan.Special)
	if unknown == nil {
		return rows
	}
	if !*unknown {
		return slices.DeleteFunc(rows, func(s dimension.SpecialRow) bool { return s.Name == dimension.Unknown.Name })
	}
	if !slices.ContainsFunc(rows, func(s dimension.SpecialRow) bool { return s.Name == dimension.Unknown.Name }) {
		rows = append([]dimension.SpecialRow{dimension.Unknown}, rows...)
	}
	return rows
}

// NamePeriods adds what tells the periods of a table apart where its attributes do not: their key, number and label, and their first and last
// day.
func (t *DateTable) NamePeriods() {
	key, found := t.Catalogue.KeyOf(t.Grain)
	if !found || t.Has(key.Name) {
		return
	}
	for _, attribute := range t.Catalogue.Stable() {
		if attribute.SameFor == t.Grain && attribute.Role != dimension.NoRole && !t.Has(attribute.Name) {
			t.Attributes = append(t.Attributes, attribute)
		}
	}
}

// Coarsen makes a table of periods whole: of periods that the range cuts, and of attributes that are
// the same in all of a period. It is false if there are none of those.
func (t *DateTable) Coarsen() bool {
	if t.IsDaily() {
		return true
	}
	t.Attributes = t.Catalogue.ConstantWithin(t.Attributes, t.Grain, t.From, t.To)
	t.From, t.To = t.Grain.Locate(t.From).First, t.Grain.Locate(t.To).Last
	return len(t.Attributes) > 0
}

// Has tells whether the table has an attribute.
func (t *DateTable) Has(name string) bool {
	return slices.ContainsFunc(t.Attributes, func(a dimension.Attribute) bool { return a.Name == name })
}

// Moves tells whether any of the attributes moves with the as-of date.
func (t *DateTable) Moves() bool {
	return slices.ContainsFunc(t.Attributes, func(a dimension.Attribute) bool { return a.Group == dimension.Moving })
}

// TellsDaysOff tells whether any of the attributes depends on days off.
func (t *DateTable) TellsDaysOff(y *Year) bool {
	return slices.ContainsFunc(t.Attributes, func(a dimension.Attribute) bool {
		if a.Group == dimension.Workdays {
			return true
		}
		for _, source := range y.Plan.DaysOff {
			if source.Prefix == a.Group {
				return true
			}
		}
		return false
	})
}

// Calendars returns the calendars that the table says something of: the
// Gregorian, and of the fiscal ones those that are in its columns.
func (t *DateTable) Calendars(y *Year) []calendar.Calendar {
	calendars := []calendar.Calendar{y.Set.Year}
	for _, fiscal := range y.Set.Fiscal {
		plain := calendar.IsCalendarYear(fiscal) && y.Plan.File == ""
		if !plain && slices.ContainsFunc(t.Attributes, func(a dimension.Attribute) bool { return a.Group == fiscal.Name() }) {
			calendars = append(calendars, fiscal)
		}
	}
	return calendars
}

// Len returns the number of rows that stand for days or periods.
func (t *DateTable) Len() int {
	if t.IsDaily() {
		return int(t.To-t.From) + 1
	}
	return t.Grain.Locate(t.To).Number - t.Grain.Locate(t.From).Number + 1
}

// Rows yields the rows of days or periods in time order. The slice is used again for the next row.
func (t *DateTable) Rows() iter.Seq[[]cell.Value] {
	if t.IsDaily() {
		return t.Catalogue.Days(t.Attributes, t.From, t.To)
	}
	return t.Catalogue.Periods(t.Attributes, t.Grain, t.From, t.To)
}

// blockDays is how many days are worked on as one. A block starts afresh, so
// it is long enough for that not to matter.
const blockDays = 1024

// Blocks returns the rows of days so that workers can share them; it is false for a table of
// periods, which is short.
func (t *DateTable) Blocks() (table.Blocks, bool) {
	if !t.IsDaily() {
		return table.Blocks{}, false
	}
	return table.Blocks{Count: t.Len(), Size: blockDays, Rows: func(from, to int, write func([]cell.Value, []bool)) {
		cursor := t.Catalogue.Cursor(t.Attributes)
		for day := t.From + civil.Day(from); day < t.From+civil.Day(to); day++ {
			write(cursor.MoveTo(day), cursor.Changed())
		}
	}}, true
}

// Each calls write for each of some rows, until the context ends.
func Each(ctx context.Context, rows iter.Seq[[]cell.Value], write func([]cell.Value) error) error {
	for row := range rows {
		if err := write(row); err != nil {
			return err
		}
		if ctx.Err() != nil {
			return ctx.Err()
		}
	}
	return nil
}
