package cli

import (
	"fmt"
	"strings"
	"unicode/utf8"

	"roundyear/civil"
	"roundyear/daysoff"
	"roundyear/internal/app"
	"roundyear/language"
)

const (
	// monthsAcross is how many months stand side by side.
	monthsAcross = 4
	// dayWidth is the width of a day: two digits and a mark at each side.
	dayWidth = 4
	// monthWidth is the width of a month and the gap after it.
	monthWidth = 7*dayWidth + 2
)

// draw draws the months of a range for each place. Days off and weekends are
// told apart by marks; colour is added to them.
func (d *daysOffCommand) draw(y *app.Year, places []place, from, to civil.Day) error {
	out, err := d.app.createPainted("-")
	if err != nil {
		return err
	}
	colour := d.app.coloured(d.app.stdoutTerminal)
	for i, p := range places {
		if i > 0 {
			fmt.Fprintln(out)
		}
		d.printPlaces([]place{p}, entries([]place{p}, from, to), from, to)
		drawer := monthDrawer{set: p.set, names: y.Plan.Names[0], first: y.Plan.Weeks.First, colour: colour, used: map[daysoff.DayType]bool{}}
		months := drawer.months(from, to)
		for len(months) > 0 {
			count := min(monthsAcross, len(months))
			for _, line := range drawer.beside(months[:count]) {
				fmt.Fprintln(out, line)
			}
			months = months[count:]
		}
		fmt.Fprintln(out, drawer.legend())
	}
	return d.app.files.Commit()
}

// monthDrawer draws months of a set of days off.
type monthDrawer struct {
	set    *daysoff.Set
	names  *language.Names
	first  civil.Weekday
	colour bool
	// used are the types of days that were marked.
	used map[daysoff.DayType]bool
}

// months returns the first days of the months of a range.
func (m monthDrawer) months(from, to civil.Day) []civil.Day {
	var months []civil.Day
	year, month, _ := from.Date()
	for first := civil.FirstOfMonth(year, month); first <= to; first = first.AddMonths(1) {
		months = append(months, first)
	}
	return months
}

// beside draws months side by side.
func (m monthDrawer) beside(months []civil.Day) []string {
	var lines [9]strings.Builder
	for _, first := range months {
		year, month, _ := first.Date()
		title := fmt.Sprintf("%s %d", m.names.Month(month), year)
		m.pad(&lines[0], title, utf8.RuneCountInString(title), monthWidth)
		for i := range 7 {
			weekday := civil.Weekday((int(m.first)-1+i)%7 + 1)
			name := shortened(m.names.DayShort(weekday), 2)
			m.pad(&lines[1], " "+name, 1+utf8.RuneCountInString(name), dayWidth)
		}
		m.pad(&lines[1], "", 0, monthWidth-7*dayWidth)
		day := m.first.OnOrBefore(first)
		for week := range 6 {
			for range 7 {
				if _, of, _ := day.Date(); of != month {
					m.pad(&lines[2+week], "", 0, dayWidth)
				} else {
					lines[2+week].WriteString(m.day(day))
				}
				day++
			}
			m.pad(&lines[2+week], "", 0, monthWidth-7*dayWidth)
		}
	}
	var texts []string
	for i := range lines {
		text := strings.TrimRight(lines[i].String(), " ")
		if text != "" || i == len(lines)-1 {
			texts = append(texts, text)
		}
	}
	return texts
}

func (m monthDrawer) pad(line *strings.Builder, text string, width, to int) {
	line.WriteString(text)
	line.WriteString(strings.Repeat(" ", max(to-width, 0)))
}

func shortened(name string, letters int) string {
	runes := []rune(name)
	return string(runes[:min(letters, len(runes))])
}

// dayMark is how days of one sort are drawn; told apart without colour too.
type dayMark struct {
	before, after string
	colour        string
	meaning       string
}

var dayMarks = map[daysoff.DayType]dayMark{
	daysoff.OffDay:      {"[", "]", "\x1b[1;38;5;72m", "day off"},
	daysoff.ExpectedDay: {"[", "?", "\x1b[1;38;5;72m", "expected, not announced yet"},
	daysoff.HalfDay:     {"[", ")", "\x1b[38;5;72m", "half day off"},
	daysoff.OtherDay:    {"(", ")", "\x1b[38;5;72m", "taken on another day, or marked only"},
	daysoff.WorkedDay:   {" ", "+", "\x1b[1m", "worked weekend day"},
	daysoff.WeekendDay:  {" ", "·", "\x1b[2m", "weekend"},
}

// inLegend is the order of the marks in the legend.
var inLegend = []daysoff.DayType{daysoff.OffDay, daysoff.ExpectedDay, daysoff.HalfDay, daysoff.OtherDay, daysoff.WorkedDay, daysoff.WeekendDay}

// day draws one day.
func (m monthDrawer) day(day civil.Day) string {
	_, _, number := day.Date()
	is := m.set.TypeOf(day)
	mark, isMarked := dayMarks[is]
	if !isMarked {
		return fmt.Sprintf(" %2d ", number)
	}
	m.used[is] = true
	text := fmt.Sprintf("%s%2d%s", mark.before, number, mark.after)
	if !m.colour {
		return text
	}
	return mark.colour + text + "\x1b[0m"
}

// legend says what the marks mean that were drawn.
func (m monthDrawer) legend() string {
	var texts []string
	for _, is := range inLegend {
		if mark := dayMarks[is]; m.used[is] {
			texts = append(texts, fmt.Sprintf("%s%d%s %s", mark.before, 25, mark.after, mark.meaning))
		}
	}
	return strings.Join(texts, "  ")
}
