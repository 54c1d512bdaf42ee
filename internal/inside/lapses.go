package inside

import (
	"context"
	"fmt"
	"strings"

	"roundyear/internal/dialect"
	"roundyear/rows"
)

// Lapses says which rows are written again with what was worked out for the days of their dates, and the place that they are of.
type Lapses struct {
	Extension
	// Condition is that of the rows; empty for all.
	Condition string
	// Relation is the name of a table with what was worked out: StartKey, EndKey and PlaceNumber, and one column for each of Added.
	Relation string
	Added    []Attribute
	// PlaceColumn is the column that names the place of a row; less than 0 if there is none. The number of a place is where it stands among
	// Places, from 1; 0 is that of all others.
	PlaceColumn int
	Places      []string
}

// The columns of the relation that rows are joined by. A key is a number such as 20260301, and 0 where there is no day.
const (
	StartKey    = "start_key"
	EndKey      = "end_key"
	PlaceNumber = "place"
)

// Keys are the columns of the relation that rows are joined by.
func (l *Lapses) Keys() []dialect.Column {
	names := []string{StartKey, EndKey}[:len(l.Dates)]
	if l.PlaceColumn >= 0 {
		names = append(names, PlaceNumber)
	}
	var columns []dialect.Column
	for _, name := range names {
		columns = append(columns, dialect.Column{Column: rows.Column{Name: name, Type: rows.Integer, Key: true}, Required: true})
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
	for date := range l.Dates {
		day, _, err := l.addDate(ctx, &all, date)
		if err != nil {
			return "", err
		}
		of = append(of, "coalesce("+d.KeyOf("dated."+day)+", 0)")
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
		"\nWHERE CASE WHEN lapses." + d.Quote(StartKey) + " IS NULL THEN " + d.Fails(d.AsText(of[0])) + " IS NULL ELSE 1 = 1 END", nil
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
