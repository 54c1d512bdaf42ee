package inside

import (
	"context"
	"fmt"
	"strings"

	"roundyear/civil"
	"roundyear/internal/dialect"
	"roundyear/rows"
)

// Lapses says which rows are written again with what was worked out for the days of their dates, and the place that they are of.
type Lapses struct {
	Extension
	// Condition is that of the rows; empty for all.
	Condition string
	// Relation is the name of a table with what was worked out: StartDay, EndDay and PlaceNumber, and one column for each of Added. NoDay
	// stands there for a day that is blank; it is one that no row has.
	Relation string
	Added    []Attribute
	NoDay    civil.Day
	// PlaceColumn is the column that names the place of a row; less than 0 if there is none. The number of a place is where it stands among
	// Places, from 1; 0 is that of all others.
	PlaceColumn int
	Places      []string
}

// The columns of the relation that rows are joined by.
const (
	StartDay    = "start_day"
	EndDay      = "end_day"
	PlaceNumber = "place"
)

// Keys are the columns of the relation that rows are joined by.
func (l *Lapses) Keys() []dialect.Column {
	var columns []dialect.Column
	for _, name := range []string{StartDay, EndDay}[:len(l.Dates)] {
		columns = append(columns, dialect.Column{Column: rows.Column{Name: name, Type: rows.Day, Key: true}, Required: true})
	}
	if l.PlaceColumn >= 0 {
		columns = append(columns, dialect.Column{Column: rows.Column{Name: PlaceNumber, Type: rows.Integer, Key: true}, Required: true})
	}
	return columns
}

// Select returns the query of the rows. It ends with an error for days of which nothing was worked out.
func (l *Lapses) Select(ctx context.Context) (string, error) {
	d := l.Table.Dialect()
	if err := l.refuseOdd(ctx); err != nil {
		return "", err
	}
	all := inner{where: l.Condition}
	columns := l.keptColumns("dated.")
	for _, added := range l.Added {
		columns = append(columns, "lapses."+d.Quote(added.Of)+" AS "+d.Quote(added.Name))
	}
	var of []string
	noDay := d.AsDate(d.Text(l.NoDay.String()))
	unknown := "lapses." + d.Quote(StartDay) + " IS NULL"
	for date := range l.Dates {
		day, _, err := l.addDate(ctx, &all, date)
		if err != nil {
			return "", err
		}
		of = append(of, "coalesce(dated."+day+", "+noDay+")")
		unknown += " OR dated." + day + " = " + noDay
	}
	if l.PlaceColumn >= 0 {
		number := l.free("place_number")
		all.made = append(all.made, l.placeNumber()+" AS "+number)
		of = append(of, "dated."+number)
	}
	var joined []string
	for i, key := range l.Keys() {
		joined = append(joined, "lapses."+d.Quote(key.Name)+" = "+of[i])
	}
	with, dated := l.datedRows(&all)
	return with + "SELECT\n  " + strings.Join(columns, ",\n  ") + "\nFROM " + dated +
		"\nLEFT JOIN " + d.Quote(l.Relation) + " AS lapses ON " + strings.Join(joined, " AND ") +
		// No row gets nothing for days that have come since.
		"\nWHERE CASE WHEN " + unknown + " THEN " + d.Fails(d.AsText(of[0])) + " IS NULL ELSE 1 = 1 END", nil
}

// placeNumber is the expression of the number of a row's place.
func (l *Lapses) placeNumber() string {
	if len(l.Places) == 0 {
		return "0"
	}
	d := l.Table.Dialect()
	var b strings.Builder
	b.WriteString("CASE " + d.Bytewise(l.textOf(l.PlaceColumn)))
	for i, name := range l.Places {
		fmt.Fprintf(&b, " WHEN %s THEN %d", d.Bytewise(d.Text(name)), i+1)
	}
	return b.String() + " ELSE 0 END"
}
