package inside

import (
	"context"
	"errors"
	"fmt"
	"strconv"

	"roundyear/civil"
	"roundyear/facts"
	"roundyear/facts/decimal"
	"roundyear/facts/where"
	"roundyear/internal/database"
	"roundyear/rows"
)

// Row is facts of the same days and group, and whether they meet the conditions.
type Row struct {
	// Days are those of the dates, and IsBlank tells which of them there are not.
	Days    []civil.Day
	IsBlank []bool
	// Groups are the values of the groups, as they are shown.
	Groups [][]byte
	// Rows is how many facts there are, and Measures what they make.
	Rows     int
	Measures []facts.Part
	IsKept   bool
	// Failed are the conditions that they do not meet, a bit for each.
	Failed uint64
	// Seen says of each condition which of its values they have; -1 for none.
	Seen []int
}

// ErrChanged is the error for rows that have changed since the database was asked about them.
var ErrChanged = errors.New("the rows have changed")

// ErrUnread is the error for a value that is only read locally, so that it can be told where it stands.
var ErrUnread = errors.New("a value is read locally")

// Run carries the statement out and calls give for each row, which is used again.
func (s *Statement) Run(ctx context.Context, give func(*Row)) error {
	dates := len(s.request.Dates)
	row := &Row{Days: make([]civil.Day, dates), IsBlank: make([]bool, dates), Groups: make([][]byte, len(s.groups)), Measures: make([]facts.Part, len(s.measures)), Seen: make([]int, len(s.tests))}
	return s.request.Table.Ask(ctx, s.SQL, func(values [][]byte) error {
		if err := s.read(row, values); err != nil {
			return err
		}
		give(row)
		return nil
	})
}

// read reads a row of the statement.
func (s *Statement) read(row *Row, values [][]byte) error {
	dates := len(s.request.Dates)
	if len(values) != dates+len(s.groups)+len(s.tests)+s.each+s.valueCount() {
		return fmt.Errorf("the database has given %d values: %w", len(values), ErrUnread)
	}
	for i, value := range values[:dates] {
		if row.IsBlank[i] = len(value) == 0 || string(value) == "0000-00-00"; row.IsBlank[i] {
			continue
		}
		day, err := civil.Parse(string(value))
		if err != nil {
			return ErrUnread
		}
		row.Days[i] = day
	}
	for i, column := range s.groups {
		text, err := shown(column, values[dates+i])
		if err != nil {
			return err
		}
		row.Groups[i] = text
	}
	keys := values[dates+len(s.groups):]
	row.IsKept, row.Failed = true, 0
	for i, test := range s.tests {
		keep, which, err := test.holds(keys[i])
		if err != nil {
			return ErrUnread
		}
		row.Seen[i], row.IsKept = which, row.IsKept && keep
		if !keep {
			row.Failed |= rows.Failing(i)
		}
	}
	each, parts := keys[len(s.tests):len(s.tests)+s.each], keys[len(s.tests)+s.each:]
	var err error
	if row.Rows, err = strconv.Atoi(string(parts[0])); err != nil {
		return ErrUnread
	}
	for i, m := range s.measures {
		if m.each >= 0 {
			row.Measures[i], err = m.valueOf(each[m.each], row.Rows)
		} else {
			row.Measures[i], err = m.part(parts)
		}
		if err != nil {
			return ErrUnread
		}
	}
	return nil
}

// valueOf reads a value that some facts have.
func (m *measure) valueOf(value []byte, count int) (part facts.Part, err error) {
	switch {
	case value == nil, len(value) == 0 && m.kind != facts.Distinct: // where a number is compared as text, none is an empty one
		return part, nil
	case m.kind == facts.Distinct:
		part.Text, err = shown(m.column, value)
	default:
		if part.Number, err = m.number(value); err == nil && m.scale > 0 {
			part.Number = shortened(part.Number, m.scale, 0)
		}
	}
	part.Values = count
	return part, err
}

// number reads a number, which may be whole units.
func (m *measure) number(value []byte) (decimal.Decimal, error) {
	if m.scale < 0 {
		return decimal.Parse(value)
	}
	units, err := strconv.ParseInt(string(value), 10, 64)
	return decimal.OfUnits(units, m.scale), err
}

// shortened is a number with fewer decimals, of which those that go are zeros.
func shortened(number decimal.Decimal, scale, needed int) decimal.Decimal {
	units, ok := number.Units(scale)
	if !ok {
		return number
	}
	for ; scale > needed && units%10 == 0; scale-- {
		units /= 10
	}
	return decimal.OfUnits(units, scale)
}

// valueCount is how many values there are behind the keys.
func (s *Statement) valueCount() int {
	most := 0
	for _, m := range s.measures {
		most = max(most, m.count, m.value, m.digits)
	}
	return most + 1
}

// shown is a value as it is shown when it is read locally.
func shown(column rows.Column, value []byte) ([]byte, error) {
	if value == nil || column.Type == rows.Text {
		return value, nil
	}
	v := rows.Vector{Type: column.Type, Scale: column.Scale}
	if !database.AppendValue(&v, value) {
		return nil, ErrUnread
	}
	return v.AppendText(nil, 0), nil
}

// holds tells whether a condition holds for a key, and which of its values it is.
func (t *test) holds(key []byte) (keep bool, which int, err error) {
	if !t.isFlag {
		text, err := shown(t.column, key)
		if err != nil {
			return false, -1, err
		}
		keep, which, err = t.condition.Match(text)
		t.note(text, keep)
		return keep, which, err
	}
	if key == nil {
		return t.condition.Match(nil)
	}
	flag, err := strconv.Atoi(string(key))
	if flag == isOddFlag {
		return false, -1, ErrUnread
	}
	which = -1
	switch t.condition.Operator {
	case where.Equal:
		which = flag - 1
		keep = flag > 0
	case where.NotEqual:
		keep = flag == 0
	case where.IsBlank: // which a value is not
	default:
		keep = flag > 0
	}
	return keep, which, err
}

// part reads what some facts make for a measure.
func (m *measure) part(values [][]byte) (part facts.Part, err error) {
	if m.count < 0 {
		return part, nil
	}
	if part.Values, err = strconv.Atoi(string(values[m.count])); err != nil || part.Values == 0 {
		return part, err
	}
	if part.Number, err = m.number(values[m.value]); err != nil || m.digits < 0 {
		return part, err
	}
	needed, err := strconv.Atoi(string(values[m.digits]))
	if err != nil {
		return part, err
	}
	part.Number = shortened(part.Number, m.scale, needed)
	return part, nil
}
