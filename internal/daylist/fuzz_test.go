package daylist_test

import (
	"testing"

	"roundyear/daysoff"
	"roundyear/internal/daylist"
)

// Whatever comes as a calendar is read or refused: its days have a date, and what
// is written of them is a calendar again.
func FuzzReadICalendar(f *testing.F) {
	f.Add(string(calendarOf("SUMMARY:A\nDTSTART:20260105\nDTEND:20260106")))
	f.Add(string(calendarOf("SUMMARY:A\\, b\nDTSTART;TZID=Europe/Dublin:20260401T183000\nRRULE:FREQ=YEARLY;COUNT=3\nEXDATE:20270401T183000")))
	f.Add(string(calendarOf("DTSTART;VALUE=DATE:20240229\nDURATION:P2D\nRRULE:FREQ=MONTHLY;BYDAY=-1FR", "DTSTART:20240105\nRECURRENCE-ID:20240105\nSTATUS:CANCELLED")))
	f.Add(string(calendarOf("DTSTART;VALUE=DATE:20200101\nRRULE:FREQ=MONTHLY;BYDAY=10MO;UNTIL=20300101")))
	f.Add("BEGIN:VCALENDAR\nEND:VCALENDAR")
	f.Fuzz(func(t *testing.T, content string) {
		if len(content) > 4000 {
			t.Skip()
		}
		rules, err := daylist.ReadICalendar("c.ics", []byte(content), daysoff.Closure)
		if err != nil {
			if err.Error() == "" {
				t.Fatal("a fault without words")
			}
			return
		}
		for _, rule := range rules {
			if rule.Name == "" || rule.Source == "" {
				t.Fatalf("%+v", rule)
			}
			for _, year := range []int{1583, 2024, 2026, 9999} {
				days := rule.When.In(year)
				for _, day := range days {
					if day.Year() != year {
						t.Fatalf("%s in %d of %q", day, year, content)
					}
				}
				if len(days) > 2*366 {
					t.Fatalf("%d days of %q", len(days), content)
				}
			}
		}
	})
}

// Tables of pages and lists are read or refused, and all rows of a table are as
// wide as its header at most.
func FuzzTables(f *testing.F) {
	f.Add("<table><caption>x</caption><tr><th>date<th>name<tr><td rowspan=2>1 May<td>A<tr><td>B</table>")
	f.Add("<table></table><table><tr></tr></table>")
	f.Add("<table><tr><td colspan=3>a<table><tr><td>b</table></table><ul>")
	f.Add(`[{"date":"2026-02-03","name":"Candles"}]`)
	f.Fuzz(func(t *testing.T, content string) {
		if len(content) > 4000 {
			t.Skip()
		}
		if tables, err := daylist.Tables("p.html", []byte(content)); err == nil {
			for _, table := range tables {
				cells := 0
				for _, row := range table.Rows {
					cells += len(row)
				}
				if cells > 1000*len(content)+1000 {
					t.Fatalf("%d cells of %d bytes", cells, len(content))
				}
			}
			for _, wish := range []string{"", "1", "a"} {
				if picked, err := daylist.PickTable("p.html", tables, wish, "date", "name"); err == nil && len(picked.Rows) < 2 {
					t.Fatalf("%q has no rows", content)
				}
			}
		}
		if table, err := daylist.ReadJSON("l.json", []byte(content)); err == nil && len(table.Rows) == 0 {
			t.Fatal("a list without a header")
		}
	})
}
