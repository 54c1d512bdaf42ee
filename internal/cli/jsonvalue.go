package cli

import (
	"strconv"

	"roundyear/cell"
)

// jsonValue returns a value as JSON has it.
func jsonValue(value cell.Value) any {
	switch {
	case value.IsBlank():
		return nil
	case value.Type() == cell.Integer:
		number, err := strconv.Atoi(value.String())
		if err == nil {
			return number
		}
	case value.Type() == cell.Boolean:
		return value.String() == "true"
	}
	return value.String()
}
