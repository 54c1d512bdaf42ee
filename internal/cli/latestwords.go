package cli

import (
	"fmt"
	"strings"

	"roundyear/cell"
	"roundyear/civil"
	"roundyear/facts"
	"roundyear/facts/decimal"
	"roundyear/internal/app"
)

// dayWords names a day with its weekday.
func dayWords(day civil.Day) string { return fmt.Sprintf("%s %s", day.Weekday(), day) }

// why says why a day was chosen.
func (v *latestView) why(row *app.LatestRow, c *app.LatestCompared) string {
	latest := v.found.Day
	switch {
	case c.Against == app.WeekAgo:
		return fmt.Sprintf("%s, a week before", dayWords(c.Day))
	case c.Against == app.LastYear && v.align == nil:
		return fmt.Sprintf("%s, 52 weeks before", dayWords(c.Day))
	case c.Against == app.LastYear && c.Found:
		on, _ := v.align.On(latest)
		before, _ := v.align.On(c.Day)
		return fmt.Sprintf("%s, as far from %s (%s) as %s is from %s", dayWords(c.Day), v.align.Name, before, latest, on)
	case c.Against == app.LastYear:
		return fmt.Sprintf("%s does not fall in both years", v.align.Name)
	case !c.Found:
		return fmt.Sprintf("no %s in the year before", workdayOf(row))
	case len(c.Skipped) == 0:
		return fmt.Sprintf("%s is a %s; %s is the %s before", latest, latest.Weekday(), dayWords(c.Day), workdayOf(row))
	}
	return fmt.Sprintf("%s is a %s; %s, so %s", latest, latest.Weekday(), skippedWords(c.Skipped), dayWords(c.Day))
}

// workdayOf is what a day is called that counts for a group.
func workdayOf(row *app.LatestRow) string {
	if row.AreTrading {
		return "trading day"
	}
	return "workday"
}

// skippedWords says why days do not count, those of one reason together.
func skippedWords(skipped []app.SkippedDay) string {
	var parts []string
	for from := 0; from < len(skipped); {
		to := from + 1
		for to < len(skipped) && skipped[to].Reason == skipped[from].Reason {
			to++
		}
		names := []string{}
		for _, one := range skipped[from:to] {
			names = append(names, one.Day.Weekday().String())
		}
		reason := skipped[from].Reason
		switch {
		case reason == app.Weekend && len(names) < 4:
			parts = append(parts, fmt.Sprintf("%s %s the weekend", joined(names), verb(len(names), "is", "are")))
		case len(names) > 3:
			parts = append(parts, fmt.Sprintf("%s to %s are off (%s)", skipped[from].Day, skipped[to-1].Day, reason))
		default:
			parts = append(parts, fmt.Sprintf("%s %s off (%s)", joined(names), verb(len(names), "is", "are"), reason))
		}
		from = to
	}
	return strings.Join(parts, ", ")
}

// joined joins names with commas and an and.
func joined(names []string) string {
	if len(names) < 2 {
		return strings.Join(names, "")
	}
	return strings.Join(names[:len(names)-1], ", ") + " and " + names[len(names)-1]
}

// notes say what makes a comparison unfair.
func (v *latestView) notes(row *app.LatestRow, c *app.LatestCompared) (notes []string) {
	if v.found.HasEnded(row) {
		notes = append(notes, fmt.Sprintf("the data ends on %s", row.Last))
	}
	switch {
	case !c.Found:
		return notes
	case c.IsBefore:
		return append(notes, fmt.Sprintf("%s is before the data begins, on %s", c.Day, v.found.Days.First()))
	case c.IsOff && !c.OwnOff:
		notes = append(notes, fmt.Sprintf("%s was not a %s (%s)", dayWords(c.Day), workdayOf(row), c.Reason))
	case c.OwnOff && !c.IsOff:
		notes = append(notes, fmt.Sprintf("%s is not a %s (%s)", dayWords(v.found.Day), workdayOf(row), c.OwnReason))
	}
	if len(c.OnlyNow) > 0 {
		notes = append(notes, fmt.Sprintf("not open on %s: %s", c.Day, strings.Join(c.OnlyNow, ", ")))
	}
	if len(c.OnlyThen) > 0 {
		notes = append(notes, fmt.Sprintf("not open on %s: %s", v.found.Day, strings.Join(c.OnlyThen, ", ")))
	}
	if c.Count == 0 {
		notes = append(notes, fmt.Sprintf("no rows on %s", c.Day))
	}
	return notes
}

// number writes a value of a measure.
func (v *latestView) number(measure int, value cell.Value) string {
	if value.IsBlank() {
		return ""
	}
	number, err := decimal.Parse([]byte(value.String()))
	if err != nil {
		return value.String()
	}
	decimals := number.Scale()
	if isMoney := value.Type() == cell.Decimal; isMoney && v.currency != "" && v.measures[measure].Kind != facts.Count {
		decimals = v.decimals
	}
	return v.locale.Text(number, decimals)
}

// percent writes a change in percent with its sign.
func (v *latestView) percent(value cell.Value) string {
	if value.IsBlank() {
		return ""
	}
	number, err := decimal.Parse([]byte(value.String()))
	if err != nil {
		return value.String()
	}
	text := v.locale.Text(number, number.Scale()) + "%"
	if number.Sign() > 0 {
		text = "+" + text
	}
	return text
}
