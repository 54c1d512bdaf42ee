// Package yearplan reads the year plan: the YAML file that says how a
// business's year runs, and where its facts and tables are. It turns the plan
// into the types of the core, or says of every fault where it is and what was
// expected.
package yearplan

import (
	"roundyear/calendar"
	"roundyear/civil"
	"roundyear/dimension"
	"roundyear/facts/lapse"
	"roundyear/language"
)

// Plan is a year plan.
type Plan struct {
	// File is the plan as the user named it; empty when there is none.
	File    string
	Range   Range
	Names   []*language.Names
	Weeks   calendar.WeekRule
	Weekend []civil.Weekday
	Fiscal  []calendar.Calendar
	// Months describes those of the fiscal calendars that are one rule of months.
	Months  map[string]calendar.FiscalMonths
	Labels  []dimension.Label
	Special []dimension.SpecialRow
	Clock   Clock
	DaysOff []DaysOff
	Sites   []Site
	// Hours are the opening hours of the business; nil where the plan has none.
	Hours *lapse.OpeningHours
	Facts []Facts
	Model Model
	// Publish is where the model is published.
	Publish Publish
	// Results are requests by their names, in the order of the plan.
	Results []Result
}

// Range is which days the dimension has.
type Range struct {
	Cover    []Join
	From, To *civil.Day
	// Exact and Whole are what the plan says of whole years; without a word days
	// that are given are exact, and those that facts need are whole years.
	Exact, Whole bool
	PadYears     int
}

// Join is a date column of facts.
type Join struct{ Facts, Column string }

// String returns FACTS.COLUMN.
func (j Join) String() string { return j.Facts + "." + j.Column }

// Clock is the time-of-day dimension.
type Clock struct {
	// Step is the seconds that a row stands for; 0 when the plan does not say.
	Step  int
	Parts []dimension.DayPart
}

// UsualPlaceholders stands for days that systems commonly write where there is no date.
const UsualPlaceholders = "usual"

// Facts is files of facts and their date columns.
type Facts struct {
	Name string
	// Files are paths or patterns of paths, from the plan's folder.
	Files    []string
	OrderPer string
	// Header tells whether their files have a header; nil where they tell it by
	// themselves. Skip is how many lines stand above it.
	Header *bool
	Skip   int
	// Encoding is that of files that are not UTF-8, by its name; empty for UTF-8.
	Encoding string
	// Delimiter, Quote and Comment are characters of text that is laid out in another way than most, Widths those of
	// its columns, and Ragged is what is done about rows with too few or too many fields.
	Delimiter, Quote, Comment string
	Widths, Ragged            []string
	// Swapped says of columns of workbooks whether the dates among their cells have day and month swapped.
	Swapped map[string]bool
	// BlankAs are texts in them that stand for no value.
	BlankAs []string
	// Renames are new names of columns, as OLD=NEW, and Lets columns that are computed, as NAME = FORMULA.
	Renames, Lets []string
	// Keep are the columns that normalise writes, Distinct those of which each row has other values, and Sort those that it
	// sorts by.
	Keep, Distinct, Sort []string
	// Numbers are columns to which normalise adds one with their plain number; values that are none are rejected.
	Numbers []string
	// Texts are columns that stay text where columns have types.
	Texts []string
	// Placeholders are days that stand for no date, or UsualPlaceholders.
	Placeholders []string
	// Decimals are the decimal marks of columns with numbers, point or comma, by their names.
	Decimals map[string]string
	// Minus is the mark of numbers that count as negative, CR or DR.
	Minus string
	// LoadedThrough are days up to which they are complete, each alone or as SOURCE=DAY.
	LoadedThrough []string
	// Out is the file that they are normalised to, if the plan names it.
	Out   string
	Dates []Dates
}

// Dates is a date column of facts and how it is read. What is empty the column
// tells by itself.
type Dates struct {
	Column                   string
	Pattern, Order, Language string
	Zone, ToZone, DayStarts  string
	// Parts are the columns of the year, month and day of a date in three.
	Parts []string
	// Grain is what a value stands for.
	Grain calendar.Unit
}

// Model is the tables that are made.
type Model struct {
	Name    string
	Columns []string
	Naming  Naming
	Out     []string
	Joins   []Join
}

// Publish is where the model is published, and what belongs to it.
type Publish struct {
	// Out are databases and scripts, from the plan's folder, and Dialect is the SQL of scripts.
	Out     []string
	Dialect string
	// Grains are tables of periods.
	Grains []string
	// Facts are those whose files are loaded.
	Facts []string
	// Join are tables that the databases have already, as TABLE.COLUMN.
	Join []string
	// Indexes and ForeignKeys tell what the date columns of facts get.
	Indexes, ForeignKeys bool
}

// Default returns the plan that holds where there is none: calendar years,
// ISO weeks, a weekend on Saturday and Sunday, a fiscal calendar that is the
// calendar year, and English.
func Default() *Plan {
	return &Plan{
		Names: []*language.Names{language.English}, Weeks: calendar.ISOWeeks,
		Model: Model{Name: "dates"}, Months: map[string]calendar.FiscalMonths{},
	}
}

// PlainFiscal returns the fiscal calendar of a plan without one: the calendar
// year under the name fiscal.
func (p *Plan) PlainFiscal() (calendar.Calendar, error) {
	return calendar.NewFiscalMonths(calendar.FiscalMonths{Name: "fiscal", Starts: civil.January, Weeks: p.Weeks})
}

// WeekendOf returns the weekend of the set of days off with a prefix: the plan's
// own if it says one, else that of the set's first region, else Saturday and
// Sunday.
func (p *Plan) WeekendOf(prefix string) []civil.Weekday {
	if p.Weekend != nil {
		return p.Weekend
	}
	for _, source := range p.DaysOff {
		if source.Region != nil && source.Prefix == prefix {
			return source.Region.Weekend
		}
	}
	return []civil.Weekday{civil.Saturday, civil.Sunday}
}

// FactsNamed returns the facts of a name.
func (p *Plan) FactsNamed(name string) *Facts {
	for i := range p.Facts {
		if p.Facts[i].Name == name {
			return &p.Facts[i]
		}
	}
	return nil
}

// DatesOf returns the date column of a name.
func (f *Facts) DatesOf(column string) *Dates {
	for i := range f.Dates {
		if f.Dates[i].Column == column {
			return &f.Dates[i]
		}
	}
	return nil
}
