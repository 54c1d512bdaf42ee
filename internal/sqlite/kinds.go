package sqlite

import (
	"context"
	"database/sql/driver"
	"fmt"
	"strings"

	"roundyear/fault"
	"roundyear/internal/dialect"
	"roundyear/rows"
)

// kind is a kind of value that a column holds, as typeof names it.
type kind uint8

// A column has each kind of value that its bits say.
const (
	integers kind = 1 << iota
	reals
	texts
	blobs
)

// kindOf returns the kind of a name of typeof; nothing for null.
func kindOf(name driver.Value) kind {
	return map[driver.Value]kind{"integer": integers, "real": reals, "text": texts, "blob": blobs}[name]
}

// observe looks at what the columns hold: a database does not keep to the types that its tables declare. A column
// of whole numbers is of whole numbers, one of numbers of numbers, and all else is text.
func (f *File) observe(ctx context.Context, connection driver.Conn, from string, names []string) error {
	// The columns go by their places, since two of a query may have the same name.
	var columns []string
	for i := range names {
		columns = append(columns, placeName(i))
	}
	f.with = "WITH q(" + strings.Join(columns, ", ") + ") AS (SELECT * FROM " + from + ") SELECT "
	kinds, err := f.kinds(ctx, connection, from, names)
	if err != nil {
		return err
	}
	for i, name := range names {
		column := rows.Column{Name: name}
		switch held := kinds[i]; {
		case held&blobs != 0:
			return &fault.Fault{File: f.Name, Column: name, What: "holds binary data", Remedy: fmt.Sprintf("Choose other columns with a query: %q", f.file()+"#SELECT …"), Kind: fault.Malformed}
		case held&texts != 0:
		case held&reals != 0:
			column.Type = rows.Float
		case held&integers != 0:
			column.Type = rows.Integer
		}
		f.columns = append(f.columns, column)
	}
	return nil
}

// A table with more rows than that is looked at in two steps, of which the first takes so many rows.
var (
	fewRows    = 10_000
	sampleRows = 1000
)

// mostTries is how often what was seen of the columns is tried on all rows.
const mostTries = 8

// kinds returns the kinds of values that the columns hold, so far as their types depend on them, and counts the rows.
func (f *File) kinds(ctx context.Context, connection driver.Conn, from string, names []string) ([]kind, error) {
	isTable := false
	err := f.each(ctx, connection, "SELECT 1 FROM sqlite_schema WHERE type = 'table' AND rootpage > 0 AND '\"' || replace(name, '\"', '\"\"') || '\"' = "+dialect.SQLite.Text(from), func([]driver.Value) error {
		isTable = true
		return nil
	})
	if err == nil && isTable {
		err = f.each(ctx, connection, f.with+"count(*) FROM q", f.count)
	}
	switch {
	case err != nil:
		return nil, err
	case !isTable || f.rows <= fewRows: // a query may take long, and is carried out once
		return f.kindsOfAll(ctx, connection, len(names))
	}
	f.table, f.number = from, f.rowNumber(ctx, connection, from, names)
	return f.kindsBySample(ctx, connection, len(names))
}

// count takes the number of rows.
func (f *File) count(values []driver.Value) error {
	f.rows = int(values[0].(int64))
	return nil
}

// kindsOfAll asks for the first and the last of the kinds of each column by their letters (blob, integer, null, real, text), which is all that
// its type depends on.
func (f *File) kindsOfAll(ctx context.Context, connection driver.Conn, columns int) ([]kind, error) {
	asked, held := []string{"count(*)"}, make([]kind, columns)
	for i := range columns {
		asked = append(asked, fmt.Sprintf("min(typeof(%s)), max(typeof(%[1]s))", placeName(i)))
	}
	return held, f.each(ctx, connection, f.with+strings.Join(asked, ", ")+" FROM q", func(values []driver.Value) error {
		for i := range held {
			held[i] = kindOf(values[1+2*i]) | kindOf(values[2+2*i])
		}
		return f.count(values)
	})
}

// kindsBySample takes the kinds of the first rows, and has the database find a row that has others, until there is none. To compare values is
// several times faster than to name and to compare their kinds.
func (f *File) kindsBySample(ctx context.Context, connection driver.Conn, columns int) ([]kind, error) {
	held, asked := make([]kind, columns), make([]string, columns)
	for i := range asked {
		asked[i] = "typeof(" + placeName(i) + ")"
	}
	add := func(values []driver.Value) error {
		for i, value := range values {
			held[i] |= kindOf(value)
		}
		return nil
	}
	query := f.with + strings.Join(asked, ", ") + " FROM q"
	if err := f.each(ctx, connection, fmt.Sprintf("%s LIMIT %d", query, sampleRows), add); err != nil {
		return nil, err
	}
	for range mostTries {
		var others []string
		for i, kinds := range held {
			if other := kinds.others(placeName(i)); other != "" {
				others = append(others, other)
			}
		}
		if len(others) == 0 {
			return held, nil
		}
		isOther := false
		err := f.each(ctx, connection, query+" WHERE "+strings.Join(others, " OR ")+" LIMIT 1", func(values []driver.Value) error {
			isOther = true
			return add(values)
		})
		if err != nil || !isOther {
			return held, err
		}
	}
	return f.kindsOfAll(ctx, connection, columns)
}

// others is the condition that a value is of another kind than those seen so far, if the type of the column depends on it. Numbers are less than
// texts, and texts less than blobs (https://sqlite.org/datatype3.html, section 4.1). The sign makes a column an expression, whose declared type
// does not change what it is compared with.
func (k kind) others(column string) string {
	switch {
	case k&blobs != 0:
		return ""
	case k&texts != 0:
		return "+" + column + " >= X''"
	case k&reals != 0:
		return "+" + column + " >= ''"
	case k&integers != 0:
		return "+" + column + " >= '' OR typeof(" + column + ") = 'real'"
	}
	return column + " IS NOT NULL"
}
