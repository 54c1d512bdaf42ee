package cli

import (
	"fmt"
	"slices"
	"strings"

	"github.com/spf13/cobra"

	"roundyear/internal/app"
	"roundyear/numbertext"
	"roundyear/rows"
	"roundyear/yearplan"
)

func addDecimals(command *cobra.Command, decimals *[]string, minus *string) {
	command.Flags().StringVar(minus, "minus", "", "`MARK` of numbers that count as negative, where they are marked CR and DR: CR or DR")
	command.Flags().StringArrayVar(decimals, "decimal", nil, "decimal mark of numbers, `MARK` or COLUMN=MARK: point or comma (repeatable; default: decided from the column)")
}

// readMinus returns the mark of negative numbers that the plan says of facts, or --minus of the call.
func readMinus(given app.Given, planned *yearplan.Facts, flag string) (string, error) {
	switch {
	case strings.EqualFold(flag, numbertext.Credit), strings.EqualFold(flag, numbertext.Debit):
		return strings.ToUpper(flag), nil
	case flag != "":
		return "", usageError{fmt.Errorf("--minus must be CR or DR, not %q", flag)}
	case planned != nil && !given["minus"]:
		return planned.Minus, nil
	}
	return "", nil
}

// readDecimals returns the decimal marks that the plan says of facts and --decimal of the call, by the names of columns;
// without a name for all others, and in place of those of the plan.
func readDecimals(source *rows.Source, planned *yearplan.Facts, flags []string) (map[string]numbertext.Mark, error) {
	marks := map[string]numbertext.Mark{}
	isForAll := func(text string) bool { return !strings.Contains(text, "=") }
	if planned != nil && !slices.ContainsFunc(flags, isForAll) {
		for name, mark := range planned.Decimals {
			if place, err := source.Find(name); err == nil {
				marks[source.Names()[place]], _ = numbertext.ParseMark(mark)
			}
		}
	}
	for _, text := range flags {
		column, name, found := strings.Cut(text, "=")
		if !found {
			column, name = "", text
		}
		mark, ok := numbertext.ParseMark(strings.ToLower(name))
		if !ok {
			return nil, usageError{fmt.Errorf("--decimal must be point or comma, or COLUMN=comma, not %q", text)}
		}
		if column != "" {
			place, err := source.Find(column)
			if err != nil {
				return nil, err
			}
			column = source.Names()[place]
		}
		marks[column] = mark
	}
	return marks, nil
}
