package report

import (
	"math"
	"strconv"
	"strings"
)

// bar is a value that is drawn, and how.
type bar struct {
	value            float64
	isShown, isEmpty bool
	// isPartial tells that the period is running, or that not all of its rows are there.
	isPartial bool
}

const (
	leastBar, mostBar = 8, 24
	// Bars are lines: a whole cell and half of one, of periods that are complete, of those that are not, and of negative values.
	wholeBar, halfBar, partialBar, negativeBar = "━", "╸", "╍", "═"
)

// barValues returns what the bars of the rows are, of the only measure; nil where there are none.
func (r *Rows) barValues(places map[string]int) []bar {
	if len(r.periods.Measures) != 1 || len(r.rows) < 2 {
		return nil
	}
	at, ok := places[r.periods.Measures[0]]
	if _, areSeveral := places["grain"]; !ok || areSeveral { // a year dwarfs its months
		return nil
	}
	isSet := func(row []string, name string) bool {
		place, ok := places[name]
		return ok && row[place] == "yes"
	}
	bars := make([]bar, len(r.rows))
	for i, row := range r.rows {
		value, err := strconv.ParseFloat(strings.ReplaceAll(row[at], ",", ""), 64)
		_, mayLack := places["is_loaded"]
		bars[i] = bar{value: value, isShown: err == nil && !isSet(row, "is_total"), isEmpty: isSet(row, "is_filled"), isPartial: isSet(row, "is_running") || mayLack && !isSet(row, "is_loaded")}
	}
	return bars
}

// drawn returns the bars as text of a width.
func drawn(bars []bar, width int) []string {
	most := 0.0
	for _, one := range bars {
		if one.isShown {
			most = math.Max(most, math.Abs(one.value))
		}
	}
	texts := make([]string, len(bars))
	for i, one := range bars {
		switch {
		case !one.isShown || most == 0:
		case one.isEmpty:
			texts[i] = "·"
		default:
			halves := int(math.Round(math.Abs(one.value) / most * float64(width) * 2))
			switch {
			case one.value < 0:
				texts[i] = strings.Repeat(negativeBar, max(1, halves/2))
			case one.isPartial:
				texts[i] = strings.Repeat(partialBar, halves/2)
			default:
				texts[i] = strings.Repeat(wholeBar, halves/2) + strings.Repeat(halfBar, halves%2)
			}
		}
	}
	return texts
}

// barLegend says what the kinds of bars mean that are there.
func barLegend(bars []bar) string {
	var texts []string
	hasPartial, hasNegative := false, false
	for _, one := range bars {
		hasNegative = hasNegative || one.isShown && one.value < 0
		hasPartial = hasPartial || one.isShown && one.isPartial && one.value > 0
	}
	if hasPartial {
		texts = append(texts, partialBar+" so far")
	}
	if hasNegative {
		texts = append(texts, negativeBar+" negative")
	}
	return strings.Join(texts, ";  ")
}
