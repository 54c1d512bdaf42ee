package app

import (
	"roundyear/civil"
	"roundyear/datetext"
)

// Labels returns a pattern that reads labels of periods of a grain, such as FY26 P03 for fiscal.month; nil for what is no grain, or days.
func (y *Year) Labels(name string) *datetext.Pattern {
	grain, err := y.Set.Grain(name)
	if err != nil || grain.Unit == 0 {
		return nil
	}
	labels := grain.ReadLabels()
	return datetext.OfLabels(grain.String(), func(label string) (civil.Day, bool) {
		period, ok := labels.Find(label)
		return period.First, ok
	})
}
