package yearplan_test

import (
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"roundyear/calendar"
	"roundyear/civil"
	"roundyear/yearplan"
)

// What a call does not say of the fiscal calendar stays as the plan has it.
func TestChangeFiscal(t *testing.T) {
	april, byStart := civil.April, calendar.ByStart
	for _, c := range []struct {
		plan   string
		change yearplan.FiscalChange
		want   string
	}{
		{"", yearplan.FiscalChange{Starts: &april}, "FY2027 2026-04-01 2027-03-31"},
		{"", yearplan.FiscalChange{Starts: &april, NamedBy: &byStart, YearLabel: "{start}/{end_yy}"}, "2026/27 2026-04-01 2027-03-31"},
		{"calendars: {fiscal: {months: {starts: 6 february}, named_by: start, year_label: 'F{yy}'}}", yearplan.FiscalChange{}, "F26 2026-02-06 2027-02-05"},
		{"calendars: {fiscal: {months: {starts: 6 february}, named_by: start, year_label: 'F{yy}'}}", yearplan.FiscalChange{Starts: &april}, "F26 2026-04-01 2027-03-31"},
		{"calendars: {fiscal: {months: {starts: 6 february}, named_by: start}}", yearplan.FiscalChange{YearLabel: "Y{year}"}, "Y2026 2026-02-06 2027-02-05"},
		{"calendars: {fiscal: {weeks: {ends_on: saturday, nearest_to: 31 january, split: 4-5-4}, named_by: start}}", yearplan.FiscalChange{Starts: &april}, "FY2027 2026-04-01 2027-03-31"},
	} {
		plan, err := yearplan.Read("p", []byte("roundyear: 1\n"+c.plan+"\n"))
		require.NoError(t, err)
		require.NoError(t, plan.ChangeFiscal(c.change))
		year := plan.Fiscal[0].Locate(calendar.Year, civil.MustOf(2026, civil.June, 1))
		assert.Equal(t, c.want, plan.Fiscal[0].Label(year)+" "+year.First.String()+" "+year.Last.String(), c.plan)
	}
	plan, err := yearplan.Read("p", []byte("roundyear: 1\ncalendars: {fiscal: {weeks: {ends_on: saturday, nearest_to: 31 january, split: 4-5-4}, named_by: start}}\n"))
	require.NoError(t, err)
	assert.ErrorIs(t, plan.ChangeFiscal(yearplan.FiscalChange{NamedBy: &byStart}), yearplan.ErrNotOfMonths)
	assert.Error(t, plan.ChangeFiscal(yearplan.FiscalChange{Starts: &april, YearLabel: "{nonsense}"}))
}
