package dimension

import (
	"fmt"
	"slices"
	"strings"

	"roundyear/calendar"
	"roundyear/cell"
	"roundyear/civil"
	"roundyear/language"
)

// Settings is what the attributes depend on.
type Settings struct {
	Calendars *calendar.Set
	// Weekend is the weekdays that are no workdays.
	Weekend []civil.Weekday
	// DaysOff are the sets of days off: the main one without a prefix, which is
	// empty when it is left out, and any others.
	DaysOff []DaysOff
	// Languages are those of names: the first for the plain columns, the others
	// for columns beside them. Without any it is English.
	Languages []*language.Names
	// Labels are labels of the day by a pattern.
	Labels []Label
	// AsOf is the day that counts as today, for the attributes that move with it.
	AsOf civil.Day
}

// Label is a column of labels by a pattern of Unicode LDML.
type Label struct {
	Name    string
	Pattern *language.Pattern
}

// Catalogue is the attributes that a business's calendars give a day.
type Catalogue struct {
	settings   Settings
	grains     []calendar.Grain
	attributes []Attribute
	group      string
	// sets are the sets of days off; kept is the place from 1 on of the one whose
	// attributes are being added that stay while it says the same of each day.
	sets []*workdaySet
	kept int
	// bounded is the calendar whose attributes are being added, if it does not
	// know all days.
	bounded calendar.Bounded
}

// Moving is the group of the attributes that move with the as-of date, Workdays
// that of the main set of days off.
const (
	Moving   = "moving"
	Workdays = "workdays"
)

// The names of the groups that do not belong to one calendar.
const (
	coreGroup     = "core"
	labelsGroup   = "labels"
	positionGroup = "position"
	earlierGroup  = "earlier"
	weeksGroup    = "weeks"
	movingGroup   = Moving
)

// ReservedNames are the names that a calendar cannot have, since a group, a
// grain or a built-in calendar has it.
func ReservedNames() []string {
	return []string{"year", "iso", "week", "day", "month", "quarter", "trimester", "third", "half", "date",
		coreGroup, labelsGroup, positionGroup, earlierGroup, weeksGroup, Workdays, movingGroup}
}

// NewCatalogue returns the catalogue for the settings. The error says which
// two attributes would have one name.
func NewCatalogue(settings Settings) (*Catalogue, error) {
	if len(settings.Languages) == 0 {
		settings.Languages = []*language.Names{language.English}
	}
	c := &Catalogue{settings: settings}
	c.addCore()
	c.addLabels()
	c.addPosition()
	c.addEarlier()
	c.addWeeks()
	c.addWorkdays()
	for _, fiscal := range settings.Calendars.Fiscal {
		c.addFiscal(fiscal)
	}
	for _, names := range settings.Languages[1:] {
		c.addNames(names)
	}
	c.addMoving()
	taken := map[string]string{}
	for _, attribute := range c.attributes {
		if group, found := taken[attribute.Name]; found {
			return nil, fmt.Errorf("two attributes would be named %q, one in group %s and one in group %s: rename the calendar or the label", attribute.Name, group, attribute.Group)
		}
		taken[attribute.Name] = attribute.Group
	}
	return c, nil
}

// Attributes returns all attributes in the order of the dimension's columns.
func (c *Catalogue) Attributes() []Attribute { return c.attributes }

// Stable returns the attributes that do not move with the as-of date.
func (c *Catalogue) Stable() []Attribute {
	return slices.DeleteFunc(slices.Clone(c.attributes), func(a Attribute) bool { return a.Group == movingGroup })
}

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
// and each once; all that do not move with the as-of date when no name is
// given, and all of them for the name "all". The error is an UnknownName.
func (c *Catalogue) Select(names []string) ([]Attribute, error) {
	if len(names) == 0 {
		return c.Stable(), nil
	}
	var chosen []Attribute
	taken := map[string]bool{}
	for _, name := range names {
		wanted, found := strings.ToLower(strings.TrimSpace(name)), false
		for _, attribute := range c.attributes {
			if attribute.Name != wanted && attribute.Group != wanted && wanted != "all" {
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
	return fmt.Sprintf("unknown attribute or group %q", e.Name)
}

func (c *Catalogue) names() []string {
	names := append(c.Groups(), "all")
	for _, attribute := range c.attributes {
		names = append(names, attribute.Name)
	}
	return names
}

// Explanation is one attribute of a day, its value, and how it came about.
type Explanation struct {
	Attribute Attribute
	Value     cell.Value
	// Because is the steps that led to the value, in words and numbers, the
	// value at their end.
	Because string
}

// Explain says of each attribute what it is on a day and why.
func (c *Catalogue) Explain(attributes []Attribute, day civil.Day) []Explanation {
	cursor := c.Cursor(attributes)
	values := cursor.MoveTo(day)
	explanations := make([]Explanation, len(attributes))
	for i, attribute := range attributes {
		value := values[i].String()
		if values[i].IsBlank() {
			value = "blank"
		}
		explanations[i] = Explanation{attribute, values[i], attribute.why(&cursor.row) + ", so " + value}
	}
	return explanations
}

// of is a value of a day and the steps that lead to it.
type of[T any] struct {
	value func(*row) T
	why   func(*row) string
}

// addition is an attribute on its way into the catalogue.
type addition struct {
	name, meaning, sortBy string
	typ                   cell.Type
	sameFor               calendar.Grain
	role                  Role
}

// add adds an attribute. Outside the years that a calendar knows it is blank.
func (c *Catalogue) add(a addition, value func(*row) cell.Value, why func(*row) string) {
	if c.bounded != nil {
		first, last := c.bounded.Bounds()
		known, explained := value, why
		value = func(r *row) cell.Value {
			if r.day < first || r.day > last {
				return cell.Blank
			}
			return known(r)
		}
		why = func(r *row) string {
			if r.day < first || r.day > last {
				return fmt.Sprintf("years are declared from %s to %s", first, last)
			}
			return explained(r)
		}
	}
	c.attributes = append(c.attributes, Attribute{
		Name: a.name, Group: c.group, Type: a.typ, Meaning: a.meaning, SortBy: a.sortBy, SameFor: a.sameFor, Role: a.role,
		value: value, why: why, kept: c.kept,
	})
}

// Each of these has a closure of its own: one that takes the kind of cell as a
// parameter costs a call more for each value of a table.

func (c *Catalogue) integer(name string, sameFor calendar.Grain, meaning string, content of[int]) {
	value := content.value
	c.add(addition{name: name, typ: cell.Integer, sameFor: sameFor, meaning: meaning}, func(r *row) cell.Value {
		if number := value(r); number != noNumber {
			return cell.OfInteger(number)
		}
		return cell.Blank
	}, content.why)
}

// number adds the number of a period within its year.
func (c *Catalogue) number(name string, sameFor calendar.Grain, meaning string, content of[int]) {
	c.integer(name, sameFor, meaning, content)
	c.last().Role = RoleNumber
}

// label adds the label of a period with its year.
func (c *Catalogue) label(name string, sameFor calendar.Grain, sortBy, meaning string, content of[string]) {
	c.text(name, sameFor, sortBy, meaning, content)
	c.last().Role = RoleLabel
}

// bound adds the first or the last day of a period.
func (c *Catalogue) bound(role Role, name string, sameFor calendar.Grain, meaning string, content of[civil.Day]) {
	c.date(name, sameFor, meaning, content)
	c.last().Role = role
}

// last is the attribute that was added last.
func (c *Catalogue) last() *Attribute { return &c.attributes[len(c.attributes)-1] }

// key adds a number by which tables are joined.
func (c *Catalogue) key(name string, sameFor calendar.Grain, meaning string, content of[int]) {
	value := content.value
	c.add(addition{name: name, typ: cell.Integer, sameFor: sameFor, meaning: meaning, role: RoleKey}, func(r *row) cell.Value { return cell.OfInteger(value(r)) }, content.why)
}

func (c *Catalogue) date(name string, sameFor calendar.Grain, meaning string, content of[civil.Day]) {
	value := content.value
	c.add(addition{name: name, typ: cell.Date, sameFor: sameFor, meaning: meaning}, func(r *row) cell.Value { return cell.OfDay(value(r)) }, content.why)
}

func (c *Catalogue) boolean(name string, sameFor calendar.Grain, meaning string, content of[bool]) {
	value := content.value
	c.add(addition{name: name, typ: cell.Boolean, sameFor: sameFor, meaning: meaning}, func(r *row) cell.Value { return cell.OfBool(value(r)) }, content.why)
}

func (c *Catalogue) text(name string, sameFor calendar.Grain, sortBy, meaning string, content of[string]) {
	value := content.value
	c.add(addition{name: name, typ: cell.Text, sameFor: sameFor, sortBy: sortBy, meaning: meaning}, func(r *row) cell.Value {
		if text := value(r); text != "" {
			return cell.OfText(text)
		}
		return cell.Blank
	}, content.why)
}

// dayGrain is the grain of what changes from day to day.
func (c *Catalogue) dayGrain() calendar.Grain {
	return calendar.Grain{Calendar: c.settings.Calendars.Year, Unit: calendar.Day}
}
