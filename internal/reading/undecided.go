package reading

import (
	"errors"
	"fmt"
	"strings"

	"roundyear/datetext"
	"roundyear/fault"
	"roundyear/rows"
)

// explain says where a column stays open, shows values, and what to do.
func explain(err error, file *rows.Part, column string) error {
	problem := &fault.Fault{File: file.Name, Column: column, What: err.Error()}
	var none *datetext.NoDates
	var open *datetext.OpenOrder
	var mixed *datetext.MixedOrders
	var language *datetext.OpenLanguage
	var year *datetext.OpenYear
	switch {
	case errors.As(err, &year):
		problem.What += ": " + examples(year.First)
		problem.Remedy = "Add --order day, --order month or --order year"
	case errors.As(err, &language):
		problem.Line = language.First.Line
		problem.Remedy = "Add the language of the names with --language, one of " + strings.Join(language.Tags, ", ")
	case errors.As(err, &none):
		if len(none.First) > 0 {
			problem.Line = none.First[0].Line
			problem.What += fmt.Sprintf("; the first is %q", none.First[0].Value)
		}
		problem.Remedy = fmt.Sprintf("Add its format with --pattern '%s=dd/MM/yyyy' (Unicode LDML), or name another column", column)
	case errors.As(err, &open):
		problem.What += ": " + examples(open.First)
		problem.Remedy = fmt.Sprintf("Add --order day or --order month, or the whole format with --pattern '%s=dd/MM/yyyy'", column)
	case errors.As(err, &mixed):
		problem.What += fmt.Sprintf(", such as %q in line %d and %q in line %d", mixed.FirstDayFirst.Value, mixed.FirstDayFirst.Line, mixed.FirstMonthFirst.Value, mixed.FirstMonthFirst.Line)
		problem.Remedy = "Add --order for the right one; rows of the other are rejected. Or, if a column tells which system a row comes from, add --order-per COLUMN"
	}
	return problem
}

func examples(list []datetext.Example) string {
	var texts []string
	for _, example := range list[:min(len(list), 3)] {
		texts = append(texts, fmt.Sprintf("%q in line %d", example.Value, example.Line))
	}
	return strings.Join(texts, ", ")
}
