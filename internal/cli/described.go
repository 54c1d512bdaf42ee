package cli

import (
	"slices"

	"roundyear/fault"
	"roundyear/internal/app"
)

// described takes what a Data Package beside the inputs says of them where neither flags nor the plan do. It returns the decimal marks
// that it says, as --decimal has them.
func (a *App) described(inputs []string, reading app.Reading) (_ app.Reading, decimals []string, err error) {
	described, path := app.DescribedBeside(inputs)
	if described == nil {
		return reading, nil, nil
	}
	if reading, err = reading.With(described); err != nil {
		return reading, nil, &fault.Fault{File: shown(path), What: err.Error(), Remedy: "Correct what it says of " + inputs[0]}
	}
	for column, mark := range described.Decimals {
		decimals = append(decimals, column+"="+mark)
	}
	slices.Sort(decimals)
	if !a.said[path] {
		a.said[path] = true
		a.report().Line("%s: read as %s says", inputs[0], shown(path))
	}
	return reading, decimals, nil
}
