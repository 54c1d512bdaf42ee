package survey

import "roundyear/civil"

const (
	// minRhythm is how many different days with rows tell how often there are some.
	minRhythm = 28
	// recentDays is how many of the latest days with rows tell it.
	recentDays = 120
)

// End tells where the rows up to a day end, and after how many days without rows more of them would have been expected: one more than
// there ever were without rows among the latest days with some. It is false where too few days have rows to tell.
func (p *Profile) End(through civil.Day) (last civil.Day, expected int, ok bool) {
	var s Summary
	days := s.plausible(p.own)
	for len(days) > 0 && days[len(days)-1] > through {
		days = days[:len(days)-1]
	}
	if len(days) < minRhythm {
		return 0, 0, false
	}
	days = days[max(len(days)-recentDays, 0):]
	for i := range days[1:] {
		expected = max(expected, int(days[i+1]-days[i]))
	}
	return days[len(days)-1], expected, true
}
