package database

import (
	"context"
	"fmt"
	"slices"
	"strconv"
	"strings"

	"roundyear/civil"
	"roundyear/internal/dialect"
	"roundyear/rows"
)

// asked is what a scan asks of the server, so that only the rows that are wanted travel.
type asked struct {
	// condition holds for those; empty for all.
	condition string
	// conditions are those of the exclusions at places.
	conditions []string
	places     []int
	// by is the exclusion that leaves out the others.
	by int
	// day is the expression of the days that are told of the others; empty for none.
	day string
}

// askedOf returns what is asked of the server by the exclusions of a scan: nothing of a query, which would be carried out twice.
func (t *Table) askedOf(scan *rows.Scan) (a asked) {
	for from := 0; !t.Address.IsQuery(); {
		by, column, keeps := scan.Comparison(from)
		if keeps == nil {
			break
		}
		if condition := t.conditionOf(column, keeps); condition != "" {
			if len(a.conditions) == 0 {
				a.by = by
			}
			a.conditions, a.places = append(a.conditions, condition), append(a.places, by)
		}
		from = by + 1
	}
	a.condition = strings.Join(a.conditions, " AND ")
	if column, isAsked := scan.ToldDays(); isAsked {
		if a.day = t.ColumnName(column); t.columns[column].Type != rows.Day {
			a.day = t.Dialect().DayOf(a.day)
		}
	}
	return a
}

// conditionOf is a comparison as SQL; empty for one that the server might answer otherwise. Values that are not the same everywhere are
// kept, so that they are told.
func (t *Table) conditionOf(column int, c *rows.Comparison) string {
	d, typed, name := t.Dialect(), t.columns[column], t.ColumnName(column)
	value := name
	var literals []string
	switch {
	case len(c.Numbers) > 0 && (typed.Type == rows.Integer || typed.Type == rows.Decimal || typed.Plain):
		literals = c.Numbers
	case len(c.Days) > 0 && typed.Type.IsDate():
		if typed.Type != rows.Day {
			value = d.DayOf(name)
		}
		for _, day := range c.Days {
			literals = append(literals, d.Day(day))
		}
	case len(c.Texts) > 0 && t.isText[column]:
		value = d.Bytewise(name)
		for _, text := range c.Texts {
			literals = append(literals, d.Bytewise(d.Text(text)))
		}
	default:
		return ""
	}
	condition := d.Compared(name, value, c.Operator, literals)
	if odd := d.Odd(dialect.Column{Column: typed}, name); odd != "" {
		condition = "(" + condition + " OR " + odd + ")"
	}
	return condition
}

// limited ends a query whose first rows are all that is looked at: MariaDB and MySQL send the others as well, also if nobody takes them.
func limited(scan *rows.Scan) string {
	if scan.Most == 0 {
		return ""
	}
	return fmt.Sprintf(" LIMIT %d", scan.Most)
}

// where is the condition behind FROM, with others.
func (a asked) where(others ...string) string {
	all := slices.Clone(others)
	if a.condition != "" {
		all = append(all, a.condition)
	}
	if len(all) == 0 {
		return ""
	}
	return " WHERE " + strings.Join(all, " AND ")
}

// giveLeftOut gives a batch that says how many rows of a table are left out.
func (a asked) giveLeftOut(ctx context.Context, s server, from string, scan *rows.Scan) (going bool, err error) {
	if a.condition == "" {
		return true, nil
	}
	count, keys := 0, ""
	var days []rows.LeftOutDay
	if a.day != "" {
		keys = ", " + a.day
		for _, condition := range a.conditions {
			keys += fmt.Sprintf(", CASE WHEN %s THEN 0 ELSE 1 END", condition)
		}
	}
	query := fmt.Sprintf("SELECT count(*)%s FROM %s WHERE NOT coalesce(%s, 1 = 0)", keys, from, a.condition)
	if keys != "" {
		query += " GROUP BY 2"
		for i := range a.conditions {
			query += fmt.Sprintf(", %d", i+3)
		}
	}
	err = s.stream(ctx, query, func(values [][]byte) error {
		number, err := strconv.Atoi(string(values[0]))
		if count += number; keys == "" || values[1] == nil || err != nil {
			return err
		}
		day, unread := civil.Parse(string(values[1]))
		if unread != nil {
			return nil // it is told where such days are kept
		}
		one := rows.LeftOutDay{Day: day, Through: day}
		for i, value := range values[2:] {
			if string(value) == "1" {
				one.Failed |= rows.Failing(a.places[i])
			}
		}
		days = append(days, one)
		return nil
	})
	if err != nil || count == 0 {
		return true, err
	}
	b := scan.Spare()
	b.LeftOutDays = days
	b.LeftOut, b.LeftOutBy, b.Line = count, a.by, 1
	return scan.Give(b), nil
}
