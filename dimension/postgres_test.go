package dimension_test

import (
	"bufio"
	"strings"
	"testing"

	"github.com/stretchr/testify/require"

	"roundyear/calendar"
	"roundyear/civil"
	"roundyear/internal/servers"
)

// postgres runs a query on a PostgreSQL server that is started for the test,
// and returns the rows that COPY writes. The test is skipped where there is no
// server to start.
func postgres(t *testing.T, query string) *bufio.Scanner {
	t.Helper()
	output := servers.StartPostgreSQL(t).SQL(t, "COPY ("+query+") TO STDOUT (DELIMITER '|')")
	return bufio.NewScanner(strings.NewReader(output))
}

// PostgreSQL's date functions as a witness, for every day of 1900 to 2200.
func TestAttributesAgreeWithPostgreSQL(t *testing.T) {
	rows := postgres(t, `
		SELECT to_char(d, 'YYYY-MM-DD'), to_char(d, 'IYYY-"W"IW'), extract(quarter FROM d)::int, extract(doy FROM d)::int, extract(isodow FROM d)::int,
			extract(julian FROM d)::int, trim(to_char(d, 'Month')), trim(to_char(d, 'Dy')),
			(date_trunc('quarter', d) + interval '3 months - 1 day')::date, (date_trunc('week', d))::date,
			(d - interval '1 month')::date, (d - interval '3 months')::date, (d - interval '1 year')::date,
			extract(year FROM d + interval '3 months')::int, extract(quarter FROM date_trunc('month', d) + interval '3 months')::int
		FROM generate_series(date '1900-01-01', date '2200-12-31', '1 day') AS d`)
	c := catalogue(t, civil.October, calendar.ByEnd, calendar.ISOWeeks)
	attributes, err := c.Select([]string{"date", "iso_week_label", "quarter", "day_of_year", "day_of_week", "julian_day", "month_name", "day_short",
		"quarter_end", "iso_week_start", "date_month_ago", "date_quarter_ago", "date_year_ago", "fiscal_year", "fiscal_quarter"})
	require.NoError(t, err)
	days := 0
	for row := range c.Days(attributes, civil.MustOf(1900, 1, 1), civil.MustOf(2200, 12, 31)) {
		require.True(t, rows.Scan())
		var ours []string
		for _, value := range row {
			ours = append(ours, value.String())
		}
		if text := strings.Join(ours, "|"); text != rows.Text() {
			t.Fatalf("ours %s, PostgreSQL's %s", text, rows.Text())
		}
		days++
	}
	require.False(t, rows.Scan())
	require.Equal(t, 109938, days)
}
