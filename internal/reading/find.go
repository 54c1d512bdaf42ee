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
		if column.LooksLikeDates() {
			names = append(names, source.Names()[i])
		}
	}
	return names, nil
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
