package formula

// Scale returns how many decimals the numbers of the formula have at most, by those of columns. It is false where that is not known
// beforehand, or the formula gives texts.
func (f *Formula) Scale(of func(place int) (scale int, known bool)) (scale int, known bool) {
	if !f.IsNumber() {
		return 0, false
	}
	return f.root.scale(of)
}

type scales = func(place int) (scale int, known bool)

func (c *constant) scale(scales) (int, bool) { return c.value.Number.Scale(), c.value.Kind == Number }
func (c *column) scale(of scales) (int, bool) {
	if c.attribute != nil {
		return 0, c.attribute.IsNumber
	}
	return of(c.place)
}

func (t *toNumber) scale(scales) (int, bool) { return 0, false }

func (c *call) scale(of scales) (int, bool) {
	most, sum, all := 0, 0, true
	for _, argument := range c.arguments {
		scale, known := argument.scale(of)
		most, sum, all = max(most, scale), sum+scale, all && known
	}
	switch c.name {
	case "times":
		return sum, all
	case "over":
		return most + quotientDecimals, all
	case "round":
		if len(c.arguments) == 1 {
			return 0, true
		}
		decimals, isConstant := c.arguments[1].(*constant)
		if !isConstant {
			return 0, false
		}
		number, ok := decimals.value.Number.Units(0)
		return int(number), ok
	}
	return most, all
}
