package database

import (
	"context"
	"fmt"
	"slices"
	"strconv"
	"strings"

	"roundyear/internal/dialect"
	"roundyear/rows"
)

// asked is what a scan asks of the server, so that only the rows that are wanted travel.
type asked struct {
	// condition holds for those; empty for all.
	condition string
	// by is the exclusion that leaves out the others.
	by int
}

// askedOf returns what is asked of the server by the exclusions of a scan: nothing of a query, which would be carried out twice.
func (t *Table) askedOf(scan *rows.Scan) (a asked) {
	var all []string
	for from := 0; !t.Address.IsQuery(); {
		by, column, keeps := scan.Comparison(from)
		if keeps == nil {
			break
		}
		if condition := t.conditionOf(column, keeps); condition != "" {
			if len(all) == 0 {
				a.by = by
			}
			all = append(all, condition)
		}
		from = by + 1
	}
	a.condition = strings.Join(all, " AND ")
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
	count := 0
	query := fmt.Sprintf("SELECT count(*) FROM %s WHERE NOT coalesce(%s, 1 = 0)", from, a.condition)
	err = s.stream(ctx, query, func(values [][]byte) error {
		count, err = strconv.Atoi(string(values[0]))
		return err
	})
	if err != nil || count == 0 {
		return true, err
	}
	b := scan.Spare()
	b.LeftOut, b.LeftOutBy, b.Line = count, a.by, 1
	return scan.Give(b), nil
}
