package check_test

import (
	"math/rand/v2"
	"testing"

	"github.com/stretchr/testify/assert"

	"roundyear/check"
	"roundyear/civil"
)

func on(dayOfMonth int) civil.Day {
	return civil.MustOf(2026, civil.March, 1) + civil.Day(dayOfMonth-1)
}

func tableOf(days ...int) *check.Table {
	table := &check.Table{}
	for i, day := range days {
		table.Add(check.Row{Line: i + 2, Text: on(day).String(), Day: on(day), Read: true})
	}
	return table
}

func TestACleanTable(t *testing.T) {
	report := tableOf(1, 2, 3, 4).Report()
	assert.Equal(t, &check.Report{Rows: 4, Days: 4, First: on(1), Last: on(4)}, report)
}

func TestFaultsSayWhere(t *testing.T) {
	for name, c := range map[string]struct {
		table *check.Table
		want  []check.Fault
	}{
		"duplicates": {tableOf(1, 2, 2, 3, 2), []check.Fault{
			{Kind: check.Duplicate, Lines: []int{3, 4, 6}, First: on(2), Last: on(2), Count: 2},
			{Kind: check.OutOfOrder, Lines: []int{5, 6}, First: on(3), Last: on(2), Count: 1},
		}},
		"runs of missing days": {tableOf(1, 4, 5, 40), []check.Fault{
			{Kind: check.Missing, First: on(2), Last: on(3), Count: 2},
			{Kind: check.Missing, First: on(6), Last: on(39), Count: 34},
		}},
		"out of order": {tableOf(2, 1, 3), []check.Fault{{Kind: check.OutOfOrder, Lines: []int{2, 3}, First: on(2), Last: on(1), Count: 1}}},
	} {
		assert.Equal(t, c.want, c.table.Report().Faults, name)
	}
}

func TestRowsThatAreNoDays(t *testing.T) {
	table := tableOf(1)
	table.Add(check.Row{Line: 3})
	table.Add(check.Row{Line: 4, Text: "2026-02-30"})
	table.Add(check.Row{Line: 5, Text: "2026-03-02 10:00", Day: on(2), Read: true, Timed: true})
	report := table.Report()
	assert.Equal(t, []check.Fault{
		{Kind: check.BlankDate, Lines: []int{3}, Count: 1},
		{Kind: check.Unreadable, Lines: []int{4}, Count: 1, Value: "2026-02-30"},
		{Kind: check.TimeOfDay, Lines: []int{5}, First: on(2), Last: on(2), Count: 1, Value: "2026-03-02 10:00"},
	}, report.Faults)
	assert.Equal(t, 4, report.Rows)
	assert.Equal(t, 2, report.Days)
}

func TestKeys(t *testing.T) {
	table := &check.Table{}
	table.Add(check.Row{Line: 2, Text: "x", Day: on(1), Read: true, Keyed: true, Key: "20260301"})
	table.Add(check.Row{Line: 3, Text: "x", Day: on(2), Read: true, Keyed: true, Key: "20260203"})
	report := table.Report()
	assert.Equal(t, []check.Fault{{Kind: check.WrongKey, Lines: []int{3}, First: on(2), Last: on(2), Count: 1, Value: "20260203", Wanted: "20260302"}}, report.Faults)
	assert.Equal(t, 2, report.Keys)
}

func TestFactsWithoutADay(t *testing.T) {
	facts := &check.Facts{Source: "sales"}
	for _, day := range []int{1, 2, 2, 5, 6, 6, 9} {
		facts.Add(on(day))
	}
	facts.AddBlank()
	other := &check.Facts{}
	other.Add(on(6))
	other.AddBlank()
	facts.Join(other)
	report := tableOf(1, 2, 3, 4).Report(facts)
	assert.Equal(t, []check.Fault{
		{Kind: check.NotInTable, Source: "sales", First: on(5), Last: on(6), Count: 4},
		{Kind: check.NotInTable, Source: "sales", First: on(9), Last: on(9), Count: 1},
	}, report.Faults)
	assert.Equal(t, []check.Covered{{Source: "sales", Count: 8, Blanks: 2, Placed: 3}}, report.Facts)

	empty := &check.Facts{}
	empty.Join(facts)
	assert.Equal(t, 8, empty.Counted())
}

// Days taken out of a run are reported, all of them and no others.
func TestMissingDaysAreThoseTakenOut(t *testing.T) {
	random := rand.New(rand.NewPCG(9, 9))
	for range 200 {
		table, taken := &check.Table{}, map[civil.Day]bool{}
		for day := on(1); day <= on(100); day++ {
			if day > on(1) && day < on(100) && random.IntN(3) == 0 {
				taken[day] = true
				continue
			}
			table.Add(check.Row{Line: 1, Text: "x", Day: day, Read: true})
		}
		missing := 0
		for _, fault := range table.Report().Faults {
			assert.Equal(t, check.Missing, fault.Kind)
			for day := fault.First; day <= fault.Last; day++ {
				assert.True(t, taken[day])
				missing++
			}
			assert.False(t, taken[fault.First-1] || taken[fault.Last+1], "runs are as long as they can be")
		}
		assert.Len(t, taken, missing)
	}
}
