package daysoff_test

import (
	"fmt"
	"math/rand/v2"
	"slices"
	"sync"
	"testing"

	"github.com/stretchr/testify/assert"

	"roundyear/civil"
	"roundyear/daysoff"
)

// someRules makes rules of all sorts by chance, of two regions and of none.
func someRules(chance *rand.Rand) []*daysoff.Rule {
	var rules []*daysoff.Rule
	for i := range 3 + chance.IntN(12) {
		rule := &daysoff.Rule{Name: fmt.Sprint("Rule ", i), Kind: daysoff.Kinds[chance.IntN(len(daysoff.Kinds))], Region: []string{"", "XN", "XS"}[chance.IntN(3)], Half: chance.IntN(8) == 0}
		month, day := civil.Month(1+chance.IntN(12)), 1+chance.IntN(28)
		switch chance.IntN(7) {
		case 0:
			rule.When = daysoff.FromEaster{Days: chance.IntN(100) - 50, Orthodox: chance.IntN(2) == 0}
		case 1:
			rule.When = daysoff.NthWeekday{Weekday: civil.Weekday(1 + chance.IntN(7)), Nth: 1 + chance.IntN(4), Month: month}
		case 2:
			rule.When = daysoff.NearDate{Weekday: civil.Weekday(1 + chance.IntN(7)), Before: chance.IntN(2) == 0, Month: month, Day: day}
		case 3:
			rule.When = daysoff.Span{From: daysoff.OnDate{Month: month, Day: day}, Shift: chance.IntN(9) - 4, Lasts: 1 + chance.IntN(5)}
		case 4:
			rule.When = daysoff.Between{}
		default:
			rule.When = daysoff.OnDate{Month: month, Day: day}
		}
		if chance.IntN(3) == 0 {
			since := civil.FirstOfYear(2000 + chance.IntN(20))
			rule.Since, rule.Every = &since, chance.IntN(4)
		}
		switch chance.IntN(5) {
		case 0:
			rule.Moves = []daysoff.Move{{civil.Saturday, 2}, {civil.Sunday, 1}}
			rule.KeepBoth = chance.IntN(2) == 0
		case 1:
			rule.NextFree = true
		case 2:
			rule.Nearest = true
		case 3:
			rule.NextFree, rule.ObserveFrom, rule.OrDayOff = true, []civil.Weekday{civil.Sunday}, chance.IntN(2) == 0
		}
		rules = append(rules, rule)
	}
	return rules
}

// Whatever the rules are, a set says the same of a day in whatever order days are
// asked for and by however many at once; it is off or not by what is taken on it;
// and each day off that falls is taken once.
func TestSetsOfAllSorts(t *testing.T) {
	chance := rand.New(rand.NewPCG(19, 83))
	from, to := civil.MustOf(2014, 1, 1), civil.MustOf(2031, 12, 31)
	for range 60 {
		rules := someRules(chance)
		weekend := [][]civil.Weekday{{civil.Saturday, civil.Sunday}, {civil.Friday, civil.Saturday}, {civil.Sunday}, {}}[chance.IntN(4)]
		forward, backward := daysoff.NewSet(rules, weekend), daysoff.NewSet(rules, weekend)
		var together sync.WaitGroup
		for part := range 4 {
			together.Go(func() {
				for day := to - civil.Day(part); day >= from; day -= 4 {
					backward.Number(day)
				}
			})
		}
		together.Wait()
		falling, taken := 0, 0
		for day := from; day <= to; day++ {
			if forward.Number(day)-forward.Number(day-1) != backward.Number(day)-backward.Number(day-1) || forward.IsWorkday(day) != backward.IsWorkday(day) {
				t.Fatalf("%s is not the same by the order of asking", day)
			}
			isOff, isWorked := false, false
			for _, one := range forward.Taken(day) {
				isOff = isOff || one.Rule.Kind.IsOff() && !one.Rule.Half
				isWorked = isWorked || one.Rule.Kind == daysoff.Worked
			}
			for _, one := range forward.Falling(day) {
				isOff = isOff || one.Rule.KeepBoth && one.Rule.Kind.IsOff() && !one.Rule.Half
			}
			works := !isOff
			if forward.IsWeekend(day) {
				works = isWorked
			}
			if forward.IsWorkday(day) != works {
				t.Fatalf("%s: %v, weekend %v", day, forward.Taken(day), weekend)
			}
			if (len(forward.Taken(day))+len(forward.Falling(day)) > 0) != forward.HasDaysOff(day) {
				t.Fatalf("%s has days off or has none", day)
			}
			falling += len(forward.Falling(day))
			taken += len(forward.Taken(day))
			for _, one := range forward.Falling(day) {
				assert.True(t, slices.Contains(forward.Taken(one.TakenOn), one), "%v", one)
			}
		}
		// Those at either end may be taken beyond it, or come from there.
		assert.InDelta(t, falling, taken, 40)
	}
}
