package cli_test

import (
	"testing"

	"github.com/stretchr/testify/assert"
)

// Each of several date columns is read as the plan says of it: in its order, by its clock.
func TestSeveralDatesByThePlan(t *testing.T) {
	folder := folderWith(t, map[string]string{
		"s.csv": "id,sold_at,delivered,paid\n1,05/01/2026 02:30,03/02/2026 01:00,2026-04-01\n2,06/01/2026 12:30,3 mars 2026 02:00,\n",
		"roundyear.yaml": "roundyear: 1\nfacts:\n  sales:\n    files: s.csv\n    dates:\n      sold_at: {order: day, day_starts: \"04:00\"}\n" +
			"      delivered: {order: month, zone: UTC, to_zone: America/New_York}\n      paid: {}\n",
	})
	want := "id,sold_at,delivered,paid,sold_at_date,sold_at_time,sold_at_business_date,sold_at_key,delivered_date,delivered_time,delivered_key,paid_date,paid_key\n" +
		"1,05/01/2026 02:30,03/02/2026 01:00,2026-04-01,2026-01-05,02:30,2026-01-04,20260104,2026-03-01,20:00,20260301,2026-04-01,20260401\n" +
		"2,06/01/2026 12:30,3 mars 2026 02:00,,2026-01-06,12:30,2026-01-06,20260106,2026-03-02,21:00,20260302,,\n"
	assert.Equal(t, want, done(t, folder, "normalise", "sales").out)
	done(t, folder, "normalise", "sales", "-o", "clean.parquet")
	assert.Contains(t, done(t, folder, "normalise", "clean.parquet", "--date", "paid_date", "--keep", "sold_at_business_date,delivered_date,delivered_time", "--no-plan").out, "2026-01-04,2026-03-01,20:00:00,")
	// A flag holds for all of them.
	assert.Contains(t, done(t, folder, "normalise", "sales", "--order", "month").out, "2026-05-01,02:30,2026-04-30,20260430,")
	assert.Contains(t, done(t, folder, "normalise", "sales", "--day-starts", "00:00").out, "2026-01-05,02:30,2026-01-05,20260105,2026-03-01,20:00,2026-03-01,20260301,")
	survey := done(t, folder, "survey", "s.csv").err
	assert.Contains(t, survey, "sold_at    dd/MM/yyyy HH:mm ")
	assert.Contains(t, survey, "delivered  MM/dd/yyyy HH:mm (1), d MMMM yyyy HH:mm (1)")
}
