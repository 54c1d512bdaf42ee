package dimension

import (
	"fmt"
	"slices"
	"strings"

	"roundyear/calendar"
	"roundyear/cell"
	"roundyear/civil"
)

// Settings is what the attributes depend on.
type Settings struct {
	Calendars *calendar.Set
	// Weekend is the weekdays that are no workdays.
	Weekend []civil.Weekday
}

// Catalogue is the attributes that a business's calendars give a day.
type Catalogue struct {
	settings   Settings
	grains     []calendar.Grain
	attributes []Attribute
	group      string
}

// NewCatalogue returns the catalogue for the settings.
func NewCatalogue(settings Settings) *Catalogue {
	c := &Catalogue{settings: settings}
	c.addCore()
	c.addWeeks()
	c.addWorkdays()
	for _, fiscal := range settings.Calendars.Fiscal {
		c.addFiscal(fiscal)
	}
	return c
}

// Attributes returns all attributes in the order of the dimension's columns.
func (c *Catalogue) Attributes() []Attribute { return c.attributes }

// Groups returns the names of the groups in the order of the columns.
func (c *Catalogue) Groups() []string {
	var groups []string
	for _, attribute := range c.attributes {
		if !slices.Contains(groups, attribute.Group) {
			groups = append(groups, attribute.Group)
		}
	}
	return groups
}

// Select returns the attributes of the given names and groups, in that order
// and each once; all of them when no name is given. The error is an
// UnknownName.
func (c *Catalogue) Select(names []string) ([]Attribute, error) {
	if len(names) == 0 {
		return c.attributes, nil
	}
	var chosen []Attribute
	taken := map[string]bool{}
	for _, name := range names {
		wanted, found := strings.ToLower(strings.TrimSpace(name)), false
		for _, attribute := range c.attributes {
			if attribute.Name != wanted && attribute.Group != wanted {
				continue
			}
			found = true
			if !taken[attribute.Name] {
				taken[attribute.Name] = true
				chosen = append(chosen, attribute)
			}
		}
		if !found {
			return nil, &UnknownName{Name: name, Known: c.names()}
		}
	}
	return chosen, nil
}

// UnknownName is the error for a name that is neither an attribute nor a group.
type UnknownName struct {
	Name  string
	Known []string
}

// Error says which name is not known.
func (e *UnknownName) Error() string {
	return fmt.Sprintf("there is no attribute or group %q", e.Name)
}

func (c *Catalogue) names() []string {
	names := c.Groups()
	for _, attribute := range c.attributes {
		names = append(names, attribute.Name)
	}
	return names
}

// addition is an attribute on its way into the catalogue.
type addition struct {
	name, meaning, sortBy string
	typ                   cell.Type
	holds                 calendar.Grain
	value                 func(*row) cell.Value
}

func (c *Catalogue) add(a addition) {
	c.attributes = append(c.attributes, Attribute{
		Name: a.name, Group: c.group, Type: a.typ, Meaning: a.meaning, SortBy: a.sortBy, Holds: a.holds, value: a.value,
	})
}

func (c *Catalogue) integer(name string, holds calendar.Grain, meaning string, value func(*row) int) {
	c.add(addition{name: name, typ: cell.Integer, holds: holds, meaning: meaning,
		value: func(r *row) cell.Value { return cell.OfInteger(value(r)) }})
}

func (c *Catalogue) date(name string, holds calendar.Grain, meaning string, value func(*row) civil.Day) {
	c.add(addition{name: name, typ: cell.Date, holds: holds, meaning: meaning,
		value: func(r *row) cell.Value { return cell.OfDay(value(r)) }})
}

func (c *Catalogue) boolean(name string, holds calendar.Grain, meaning string, value func(*row) bool) {
	c.add(addition{name: name, typ: cell.Boolean, holds: holds, meaning: meaning,
		value: func(r *row) cell.Value { return cell.OfBool(value(r)) }})
}

func (c *Catalogue) text(name string, holds calendar.Grain, sortBy, meaning string, value func(*row) string) {
	c.add(addition{name: name, typ: cell.Text, holds: holds, sortBy: sortBy, meaning: meaning,
		value: func(r *row) cell.Value { return cell.OfText(value(r)) }})
}

// follow returns a function that gives the period of a grain that a row's day
// lies in. Grains are shared by all attributes that ask for them.
func (c *Catalogue) follow(calendarOf calendar.Calendar, unit calendar.Unit) followed {
	grain := calendar.Grain{Calendar: calendarOf, Unit: unit}
	index := slices.Index(c.grains, grain)
	if index < 0 {
		index = len(c.grains)
		c.grains = append(c.grains, grain)
	}
	return followed{grain: grain, index: index}
}

type followed struct {
	grain calendar.Grain
	index int
}

func (f followed) period(r *row) calendar.Period { return r.tracks[f.index].period }
func (f followed) label(r *row) string           { return r.tracks[f.index].label }
func (f followed) year(r *row) int               { return f.period(r).Year }
func (f followed) inYear(r *row) int             { return f.period(r).InYear }
func (f followed) number(r *row) int             { return f.period(r).Number }
func (f followed) first(r *row) civil.Day        { return f.period(r).First }
func (f followed) last(r *row) civil.Day         { return f.period(r).Last }
func (f followed) days(r *row) int               { return f.period(r).Days() }
func (f followed) dayIn(r *row) int              { return int(r.day-f.period(r).First) + 1 }

// key puts the year before the number in the year, padded to a width: 202603.
func (f followed) key(width int) func(*row) int {
	shift := 10
	if width == 2 {
		shift = 100
	}
	return func(r *row) int { return f.year(r)*shift + f.inYear(r) }
}
