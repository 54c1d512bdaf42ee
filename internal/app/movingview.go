package app

import (
	"fmt"
	"slices"
	"strings"

	"roundyear/dimension"
	"roundyear/internal/dialect"
)

// movingView is a view of the date dimension with the attributes that move with the day that it is, as far as the columns of the dimension tell
// them; nothing if they do not.
func (p *Publish) movingView(days dialect.Filled) (*dialect.View, error) {
	date := p.Dates.nameOf("date")
	if date == "" {
		return nil, nil
	}
	v := &dialect.View{Name: days.Name + "_moving", Comment: "The date dimension beside today: how far each day and period is away, and whether it is the current one.", From: days.Name, As: "d"}
	if key := p.keyOfDays(); key != "" {
		v.Columns = append(v.Columns, dialect.ViewColumn{Of: "d", Name: key})
	}
	v.Columns = append(v.Columns, dialect.ViewColumn{Of: "d", Name: date})
	var attributes []dimension.Attribute
	add := func(name, column string, moves dialect.Moves) {
		at := slices.IndexFunc(p.Dates.Catalogue.Attributes(), func(a dimension.Attribute) bool { return a.Name == name && a.Group == dimension.Moving })
		if at < 0 || column == "" {
			return
		}
		attributes = append(attributes, p.Dates.Catalogue.Attributes()[at])
		v.Moving = append(v.Moving, dialect.MovingColumn{Column: column, Moves: moves})
	}
	add("day_offset", date, dialect.DaysFromToday)
	add("is_current_day", date, dialect.IsToday)
	add("is_future", date, dialect.IsAfterToday)
	for _, attribute := range p.Dates.Attributes {
		prefix, unit, found := strings.Cut(attribute.Name, "running_")
		if !found || prefix != "" && !strings.HasSuffix(prefix, "_") {
			continue
		}
		number := p.Dates.nameOf(attribute.Name)
		add(prefix+unit+"_offset", number, dialect.FromTodaysNumber)
		add("is_current_"+prefix+unit, number, dialect.IsTodaysNumber)
		add("is_complete_"+prefix+unit, p.Dates.nameOf(prefix+unit+"_end"), dialect.IsBeforeToday)
	}
	columns, err := p.Year.Plan.Model.Naming.Columns(attributes)
	if err != nil {
		return nil, fmt.Errorf("the view %s: %w", v.Name, err)
	}
	for i, column := range columns {
		v.Moving[i].Name = column.Name
	}
	v.Joins = []dialect.Join{dialect.TodaysRow(days.Name, date)}
	return v, nil
}
