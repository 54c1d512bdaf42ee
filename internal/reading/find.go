package reading

import (
	"context"
	"fmt"
	"slices"
	"strings"

	"roundyear/datetext"
	"roundyear/fault"
	"roundyear/rows"
)

// sampleSize is how many rows of each file tell which columns hold dates.
const sampleSize = 1000

// DateColumns returns the names of the columns that hold dates, going by the
// first rows of each file.
func DateColumns(ctx context.Context, source *rows.Source) ([]string, error) {
	columns := make([]*datetext.Column, len(source.Names()))
	for i := range columns {
		columns[i] = datetext.NewColumn(datetext.Asked{})
	}
	err := source.Sample(ctx, sampleSize, func(row *rows.Row) {
		for i := range columns {
			columns[i].Observe(row.Line, row.Field(i))
		}
	})
	if err != nil {
		return nil, err
	}
	var names []string
	for i, column := range columns {
		name := source.Names()[i]
		// Numbers such as 20260301 are no dates in a column that is called an amount or an id.
		if column.LooksLikeDates() && !(column.ArePlainNumbers() && namesNumbers(name) && !NamesMoments(name)) {
			names = append(names, name)
		}
	}
	return names, nil
}

// NamesMoments tells whether a name is one that columns of moments have.
func NamesMoments(name string) bool {
	lower := strings.ToLower(name)
	for _, word := range []string{"date", "day", "time", "stamp"} {
		if strings.Contains(lower, word) {
			return true
		}
	}
	if slices.ContainsFunc(wordsOf(lower), func(word string) bool {
		return slices.Contains([]string{"datum", "fecha", "data", "dato", "dag", "tag", "jour"}, word)
	}) {
		return true
	}
	return strings.HasSuffix(lower, "_at") || strings.HasSuffix(lower, "_on") || strings.HasSuffix(lower, "_ts") || lower == "ts"
}

func wordsOf(name string) []string {
	return strings.FieldsFunc(name, func(r rune) bool { return r == '_' || r == ' ' || r == '-' || r == '.' })
}

// namesNumbers tells whether a name is one that amounts, counts and ids have.
func namesNumbers(name string) bool {
	return slices.ContainsFunc(wordsOf(strings.ToLower(name)), func(word string) bool {
		return slices.Contains([]string{"amount", "total", "price", "cost", "value", "revenue", "budget", "quantity", "qty", "units", "count", "id", "no", "nr", "number", "code", "zip", "phone", "order", "receipt", "invoice", "customer"}, word)
	})
}

// OneDateColumn returns the only column that holds dates. The error lists the
// columns when there are several.
func OneDateColumn(ctx context.Context, source *rows.Source) (string, error) {
	names, err := DateColumns(ctx, source)
	if err != nil {
		return "", err
	}
	names = withoutTwins(names)
	switch len(names) {
	case 1:
		return names[0], nil
	case 0:
		return "", &fault.Fault{File: source.Name(), What: "no column contains recognisable dates",
			Remedy: "Name the column with --date and its format with --pattern, or three columns with --parts. The columns are " + strings.Join(source.Names(), ", ")}
	}
	return "", &fault.Fault{File: source.Name(), What: fmt.Sprintf("%d columns contain dates: %s", len(names), strings.Join(names, ", ")),
		Remedy: "Choose with --date"}
}

// withoutTwins leaves out the columns that say the same as another one: where
// normalise has added sold_at_date and sold_at_key to sold_at, the true date
// stands for all three.
func withoutTwins(names []string) []string {
	has := func(name string) bool { return slices.Contains(names, name) }
	return slices.DeleteFunc(slices.Clone(names), func(name string) bool {
		stem, isKey := strings.CutSuffix(name, "_key")
		return has(name+"_date") || isKey && (has(stem) || has(stem+"_date"))
	})
}
