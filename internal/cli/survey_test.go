package cli_test

import (
	"encoding/json"
	"fmt"
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

func TestSurveySaysWhatAFileHolds(t *testing.T) {
	text := "id,price,ordered,shipped,year\n"
	for i := range 200 {
		shipped := ""
		if i%10 != 0 {
			shipped = fmt.Sprintf("2026-0%d-%02dT10:00:00Z", i/40+2, i%28+1)
		}
		text += fmt.Sprintf("2026019%d,19.99,%02d/0%d/2026,%s,%d\n", i%9+1, i%28+1, i/40+1, shipped, 1990+i%40)
	}
	text += "x,1,01/01/1900,2026-06-30T00:00:00+02:00,\nx,1,31/02/2026,,\n"
	folder := folderWith(t, map[string]string{"o.csv": text})
	result := attended(t, folder, "survey", "o.csv")
	assert.Empty(t, result.out)
	for _, want := range []string{
		`o.csv: 202 rows, 2 date columns`,
		`ordered +dd/MM/yyyy +2026-01-01 +2026-05-28 +201 +0 +1 +0 +\d+ +1 +\d+%`,
		`shipped +yyyy-MM-dd'T'HH:mm:ssXXX +2026-02-01 +2026-06-30 +181 +21 +0 +181`,
		`ordered: day first, because of 13/01/2026 in line 14 and \d+ others`,
		`! ordered, line 203: "31/02/2026" read as dd/MM/yyyy, but February 2026 has 28 days`,
		`! ordered: 1 row on 1900-01-01, a placeholder date`,
		`shipped: 180 rows have a time of day and would not match the date table`,
		`shipped: 181 rows have a UTC offset`,
		`      J F M A M J J A S O N D\n  2026  █`,
		`ordered is never after shipped: start and end`,
		`next: roundyear normalise o.csv --date ordered --date shipped -o clean.csv\nnext: roundyear build --cover clean.csv:ordered_date -o dates.csv`,
	} {
		assert.Regexp(t, want, result.err)
	}
	var surveys []struct {
		Rows    int
		Columns []struct {
			Name        string
			First, Last string
			Unread      int
			Must        int `json:"must_have_day_first"`
			NotMatching int `json:"would_not_match"`
			Sentinels   []struct{ Day string }
		}
		Pairs [][]string
		Next  []string
	}
	require.NoError(t, json.Unmarshal([]byte(attended(t, folder, "survey", "o.csv", "--json").out), &surveys))
	require.Len(t, surveys, 1)
	assert.Equal(t, 202, surveys[0].Rows)
	assert.Equal(t, []string{"ordered", "shipped"}, surveys[0].Pairs[0])
	ordered := surveys[0].Columns[0]
	assert.Equal(t, "ordered 2026-01-01 2026-05-28 1", fmt.Sprint(ordered.Name, " ", ordered.First, " ", ordered.Last, " ", ordered.Unread))
	assert.Positive(t, ordered.Must)
	assert.Equal(t, "1900-01-01", ordered.Sentinels[0].Day)
	assert.Equal(t, 180, surveys[0].Columns[1].NotMatching)
	// The commands that it says can be run as they are.
	for _, line := range surveys[0].Next {
		result := run(t, folder, strings.Fields(line)[1:]...)
		assert.LessOrEqual(t, result.code, 1, "%s: %s", line, result.err)
	}
}

func TestSurveyDoesNotGuess(t *testing.T) {
	folder := folderWith(t, map[string]string{
		"open.csv":  "day,when\n03/04/2026,2026-01-01\n05/06/2026,2026-01-02\n",
		"mixed.csv": "day\n23/04/2026\n04/23/2026\n",
		"none.csv":  "n,title\n1024,1984\n2048,2001\n",
	})
	result := run(t, folder, "survey", "open.csv", "none.csv", "mixed.csv")
	assert.Equal(t, 1, result.code)
	assert.Regexp(t, `day +uncertain: 0 day first, 0 month first, 2 either`, result.err)
	assert.Regexp(t, `when +yyyy-MM-dd +2026-01-01 +2026-01-02`, result.err, "what stays open for one column does not hide the others")
	assert.Contains(t, result.err, "next: roundyear normalise open.csv --date day --order day --date when -o clean/open.csv\n      or --order month, whichever is right\n")
	assert.Contains(t, result.err, "none.csv: 2 rows, no date columns\n")
	assert.Regexp(t, `day +uncertain: 1 day first, 1 month first, 0 either`, result.err)
	assert.NotContains(t, done(t, folder, "survey", "open.csv", "--order", "month").err, "open:")
}

func TestSurveyFindsPartsPeriodsAndNumbers(t *testing.T) {
	folder := folderWith(t, map[string]string{
		"b.csv": "Sold_Year,Sold_Month,Sold_Day,period,quarter,month,created_at,paid_date,score,fp\n" +
			"2026,1,5,2026-01,2026 Q1,01/01/2026,1767607200,46027,5,FY26 P01\n2026,2,28,2026-02,2026 Q1,01/02/2026,1772272800,46081.5,7,FY26 P02\n2026,5,1,2026-05,2026 Q2,01/05/2026,1777629600,46143,9,\n",
	})
	result := done(t, folder, "survey", "b.csv", "--order", "day")
	for _, want := range []string{
		`period +yyyy-MM +2026-01-01 +2026-05-01 +3`,
		`period: 2 months without rows: 2026-03-01 to 2026-04-30`,
		`quarter +yyyy 'Q'Q +2026-01-01`,
		`month: monthly data: every date is the first day of a month`,
		`sold +year, month and day columns +2026-01-05 +2026-05-01 +3`,
		`fp contains fiscal periods such as FY26 P02; if the plan's calendars have such labels, add --pattern fp=GRAIN`,
		`Sold_Year, Sold_Month and Sold_Day form a date together`,
		`created_at contains numbers that may be dates: 1767607200 would be 2026-01-05; if so, add --pattern created_at=unix`,
		`paid_date contains numbers that may be dates: 46027 would be 2026-01-05; if so, add --pattern paid_date=serial`,
		`next: roundyear normalise b.csv --date month --date created_at --pattern created_at=unix --date paid_date --pattern paid_date=serial --parts sold=Sold_Year,Sold_Month,Sold_Day --order day -o clean.csv`,
	} {
		assert.Regexp(t, want, result.err)
	}
	assert.NotContains(t, result.err, "score")
	result = done(t, folder, "survey", "b.csv", "--order", "day", "--pattern", "paid_date=serial")
	assert.Regexp(t, `paid_date +serial +2026-01-05 +2026-05-01 +3 +0 +0 +3`, result.err)
}

// What the dates are of, which are in the future, and which rows end before they start.
// Where one column of a file settles the order, the next command asks for that one in
// the columns that leave it open.
func TestSurveyGoesOnWithTheOrderThatItFound(t *testing.T) {
	folder := folderWith(t, map[string]string{
		"m.csv": "ordered,paid\n01/13/2026,02/03/2026\n01/14/2026,02/04/2026\n",
		"d.csv": "paid,ordered\n03/02/2026,13/01/2026\n04/02/2026,14/01/2026\n",
		"o.csv": "paid\n03/02/2026\n04/02/2026\n",
	})
	for file, want := range map[string]string{
		"m.csv": "next: roundyear normalise m.csv --date ordered --date paid --order month -o clean.csv\n      or --order day, if paid differs from ordered\n",
		"d.csv": "next: roundyear normalise d.csv --date paid --order day --date ordered -o clean.csv\n      or --order month, if paid differs from ordered\n",
		"o.csv": "next: roundyear normalise o.csv --date paid --order day -o clean.csv\n      or --order month, whichever is right\n",
	} {
		assert.Contains(t, attended(t, folder, "survey", file).err, want)
	}
}

func TestSurveySaysWhatIsOddAboutDates(t *testing.T) {
	var text strings.Builder
	text.WriteString("ordered,delivered,week,quarter\n")
	for i := range 40 {
		day := time.Date(2026, 1, 5, 0, 0, 0, 0, time.UTC).AddDate(0, 0, 7*(i%8))
		delivered := day.AddDate(0, 0, i%4)
		if i == 17 {
			delivered = day.AddDate(0, 0, -1)
		}
		fmt.Fprintf(&text, "%s,%s,%s,%s\n", day.AddDate(0, 0, i%3).Format(time.DateOnly), delivered.AddDate(0, 0, i%3).Format(time.DateOnly), day.Format(time.DateOnly), time.Date(2025, time.Month(3*(i%5)+1), 0, 0, 0, 0, 0, time.UTC).Format(time.DateOnly))
	}
	folder := folderWith(t, map[string]string{"s.csv": text.String()})
	result := attended(t, folder, "survey", "s.csv", "--as-of", "2026-02-20")
	for _, line := range []string{
		"week: weekly data: every date is a Monday",
		"quarter: quarterly data: every date is the last day of a quarter",
		"! ordered is after delivered in 1 of 40 rows",
		"week: 5 rows after 2026-02-20, the as-of date; the latest is 2026-02-23",
	} {
		assert.Contains(t, result.err, line+"\n")
	}
	assert.NotContains(t, attended(t, folder, "survey", "s.csv", "--as-of", "2026-12-31").err, "the as-of date")
	var said []struct {
		Crossed []struct {
			Start, End string
			Rows, Both int
		}
		Columns []struct {
			Name, Grain string
			After       int `json:"after_as_of"`
		}
	}
	require.NoError(t, json.Unmarshal([]byte(attended(t, folder, "survey", "s.csv", "--as-of", "2026-02-20", "--json").out), &said))
	require.Len(t, said[0].Crossed, 1)
	assert.Equal(t, "ordered delivered 1 40", fmt.Sprint(said[0].Crossed[0].Start, " ", said[0].Crossed[0].End, " ", said[0].Crossed[0].Rows, " ", said[0].Crossed[0].Both))
	assert.Equal(t, []any{"week", "week, by its Monday", 5}, []any{said[0].Columns[2].Name, said[0].Columns[2].Grain, said[0].Columns[2].After})
	assert.Equal(t, "quarter, by its last day", said[0].Columns[3].Grain)
}

// Periods written as such are dates as well, and the next command reads them.
func TestSurveyOfPeriodsGoesOn(t *testing.T) {
	folder := folderWith(t, map[string]string{"q.csv": "q,n\n2026-Q1,1\n2026-Q2,2\n", "m.csv": "m,n\n2026-03,1\n2026-04,2\n", "w.csv": "w,n\n2026-W03,1\n2026-W04,2\n", "blank.csv": "when,n\n,1\n,2\n", "q2.csv": "when,q\n,2026-Q1\n,2026-Q2\n"})
	for _, name := range []string{"q", "m", "w"} {
		assert.Contains(t, done(t, folder, "survey", name+".csv").err, "next: roundyear normalise "+name+".csv --date "+name+" -o clean.csv\nnext: roundyear build --cover clean.csv:"+name+"_date -o dates.csv\n")
	}
	assert.Contains(t, done(t, folder, "survey", "q2.csv").err, "next: roundyear normalise q2.csv --date q -o clean.csv\n")
	assert.NotContains(t, done(t, folder, "survey", "blank.csv").err, "next:")
}
