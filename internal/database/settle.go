package database

import (
	"context"
	"fmt"
	"strings"

	"roundyear/rows"
)

// MostDigits is how many digits a number has at most in the types of all databases and of Parquet, and MostDigitsOfFiles how many SQLite keeps.
const MostDigits, MostDigitsOfFiles = mostWideDigits, 15

// mostSettledDecimals is how many decimals numbers have at most that all databases take.
const mostSettledDecimals = 30

// digits are those of the numbers of a column: before and behind the point. Numbers that are none, such as NaN, are not known.
type digits struct {
	whole, decimals int
	known           bool
}

// Settle makes columns of numbers whose type says nothing of their decimals, such as numeric of PostgreSQL, ones with so many as their values
// have, where they have no more digits than the most. The server reads all of their rows once for it. Parts that are no tables of servers stay
// as they are.
func Settle(ctx context.Context, parts []*rows.Part, most int) error {
	var places []int
	for i, column := range parts[0].Columns {
		if column.Type == rows.Text && column.Plain && !column.Wide {
			places = append(places, i)
		}
	}
	if len(places) == 0 {
		return nil
	}
	all := make([]digits, len(places))
	for i := range all {
		all[i].known = true
	}
	for _, part := range parts {
		t, ok := part.Decoder.(*Table)
		if !ok {
			return nil
		}
		found, err := t.server.digits(ctx, t, places)
		if err != nil || found == nil {
			return err
		}
		for i, one := range found {
			all[i] = digits{max(all[i].whole, one.whole), max(all[i].decimals, one.decimals), all[i].known && one.known}
		}
	}
	for i, place := range places {
		if all[i].known && all[i].whole+all[i].decimals <= most && all[i].decimals <= mostSettledDecimals {
			for _, part := range parts {
				part.Columns[place].Scale, part.Columns[place].Wide = uint8(all[i].decimals), true
			}
		}
	}
	return nil
}

// digits asks for the most decimals and the largest number of some columns, in the snapshot of those who read.
func (p *postgres) digits(ctx context.Context, t *Table, places []int) ([]digits, error) {
	var names, wanted []string
	for i := range t.columns {
		names = append(names, fmt.Sprintf("c%d", i+1))
	}
	scale := "min_scale" // without the zeros at the end, of which quotients have many
	if version, _, _ := strings.Cut(p.connection.ParameterStatus("server_version"), "."); len(version) == 1 || version < "13" {
		scale = "scale"
	}
	for _, place := range places {
		wanted = append(wanted, fmt.Sprintf("coalesce(max(%s(c%d)), 0), coalesce(max(abs(c%[2]d)), 0)", scale, place+1))
	}
	found, err := p.ask(ctx, fmt.Sprintf("WITH q(%s) AS (SELECT * FROM %s) SELECT %s FROM q", strings.Join(names, ", "), t.from, strings.Join(wanted, ", ")))
	if err != nil {
		return nil, err
	}
	var all []digits
	for row := found[0]; len(row) > 0; row = row[2:] {
		var own digits
		_, err := fmt.Sscan(string(row[0]), &own.decimals)
		whole, _, _ := strings.Cut(string(row[1]), ".")
		own.known = err == nil && strings.Trim(whole, "0123456789") == "" // and neither NaN nor Infinity
		own.whole = len(strings.TrimPrefix(whole, "0"))
		all = append(all, own)
	}
	return all, nil
}

// digits has nothing to ask: each type says how many decimals it has.
func (*mariaDB) digits(context.Context, *Table, []int) ([]digits, error) { return nil, nil }
