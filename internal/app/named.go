package app

import (
	"context"
	"errors"
	"io/fs"
	"os"

	"roundyear/fault"
	"roundyear/internal/database"
	"roundyear/internal/delimited"
	"roundyear/internal/table"
	"roundyear/yearplan"
)

// Named is inputs of a call, of which some may have been facts by their name in the plan.
type Named struct {
	Inputs []string
	// Facts are those that were named, if there was only one input.
	Facts *yearplan.Facts
	// IsNormalised tells that the inputs are what normalise has written for them.
	IsNormalised bool
}

// Named puts the files of facts in the place of their names. A file of that name wins. With normalised, what normalise has written is taken
// where it is there.
func (y *Year) Named(ctx context.Context, inputs []string, normalised bool) Named {
	var named Named
	for _, input := range inputs {
		facts := y.Plan.FactsNamed(input)
		if _, err := os.Lstat(input); err == nil || facts == nil {
			named.Inputs = append(named.Inputs, input)
			continue
		}
		if len(inputs) == 1 {
			named.Facts = facts
		}
		if normalised && facts.Out != "" {
			if isThere(ctx, y.Path(facts.Out)) {
				named.Inputs, named.IsNormalised = append(named.Inputs, y.Path(facts.Out)), true
				continue
			}
		}
		for _, file := range facts.Files {
			named.Inputs = append(named.Inputs, y.Path(file))
		}
	}
	return named
}

// isThere tells whether there is a file, or a table of a database. One that cannot be reached counts, so that this is told.
func isThere(ctx context.Context, path string) bool {
	if !database.IsTable(path) {
		_, err := os.Stat(path)
		return !errors.Is(err, fs.ErrNotExist)
	}
	source, err := table.Open(ctx, []string{path}, nil, delimited.Form{})
	if err == nil {
		source.Close()
	}
	var problem *fault.Fault
	return !errors.As(err, &problem) || problem.Kind != fault.Missing
}

// Date returns the column of the main date of the facts; empty without facts by name.
func (n Named) Date() string {
	if n.Facts == nil || len(n.Facts.Dates) == 0 {
		return ""
	}
	dates := n.Facts.Dates[0]
	switch {
	case !n.IsNormalised:
		return dates.Column
	case dates.DayStarts != "":
		return dates.Column + "_business_date"
	}
	return dates.Column + "_date"
}
