package check

import (
	"slices"
	"strings"

	"roundyear/civil"
	"roundyear/dimension"
	"roundyear/language"
	"roundyear/nearest"
)

// Conventions are what a table follows where no plan says it: the language of its
// names, the days of its weekend and the first day of its week.
type Conventions struct {
	Language  *language.Names
	Weekend   []civil.Weekday
	WeekStart civil.Weekday
}

// Depends is what an attribute depends on that differs from business to business.
type Depends string

// What attributes depend on, in the words of a report.
const (
	Independent Depends = ""
	OnWeeks     Depends = "how weeks are numbered"
	OnFiscal    Depends = "how the fiscal year runs"
	OnDaysOff   Depends = "days off"
	OnAsOf      Depends = "the day that counts as today"
	OnLabels    Depends = "a label's pattern"
)

// DependsOn returns what an attribute depends on besides the conventions of a table.
func DependsOn(attribute dimension.Attribute) Depends {
	switch attribute.Group {
	case dimension.Moving:
		return OnAsOf
	case "core", "position", "earlier":
		return Independent
	case "labels":
		return OnLabels
	case "weeks":
		if attribute.SameFor.Calendar.Name() == "iso" {
			return Independent
		}
		return OnWeeks
	case dimension.Workdays:
		if attribute.Name == "is_weekend" {
			return Independent
		}
		return OnDaysOff
	}
	if strings.HasPrefix(attribute.Group, "names_") {
		return Independent
	}
	if strings.Contains(attribute.Name, "workday") || strings.Contains(attribute.Name, "holiday") {
		return OnDaysOff
	}
	return OnFiscal
}

// least is the share of rows, in percent, that must follow a custom.
const least = minAgreeing

// ConventionsOf finds out what a table follows: most of its rows tell, so that single
// wrong values stand out against them. Where the table says nothing, or follows
// nothing, it is English, a weekend of Saturday and Sunday, and Monday.
func ConventionsOf(columns []string, rows []SampleRow) Conventions {
	conventions := Conventions{Language: language.English, Weekend: []civil.Weekday{civil.Saturday, civil.Sunday}, WeekStart: civil.Monday}
	index := map[string]int{}
	for i, column := range columns {
		index[column] = i
	}
	// Their own tables write the names in other ways.
	for _, name := range []string{"is_weekend", "day_of_week", "is_first_day_of_week", "month_name", "month_short", "day_name", "day_short"} {
		for i, column := range columns {
			if _, found := index[name]; !found && nearest.Folded(column) == nearest.Folded(name) {
				index[name] = i
			}
		}
	}
	if found := languageOf(index, rows); found != nil {
		conventions.Language = found
	}
	if at, found := index["is_weekend"]; found {
		yes := byWeekday(rows, at, func(text string) bool { return booleans[strings.ToLower(text)] })
		var weekend []civil.Weekday
		for weekday, share := range yes {
			if share*2 > percent {
				weekend = append(weekend, civil.Weekday(weekday))
			}
		}
		if isCustom := slices.ContainsFunc(weekend, ends); isCustom && len(weekend) <= 2 {
			conventions.Weekend = weekend
		}
	}
	for name, first := range map[string]string{"day_of_week": "1", "is_first_day_of_week": "true"} {
		at, found := index[name]
		if !found {
			continue
		}
		for weekday, share := range byWeekday(rows, at, func(text string) bool { return strings.EqualFold(text, first) }) {
			if first := civil.Weekday(weekday); share >= least && (first == civil.Monday || ends(first)) {
				conventions.WeekStart = first
			}
		}
	}
	return conventions
}

// ends tells whether weeks end with a day anywhere: one of them is in each weekend,
// and a week starts with or after one. Few rows may follow what nobody does.
func ends(weekday civil.Weekday) bool { return weekday >= civil.Friday }

// byWeekday returns for each weekday, at its number, the share of rows in percent
// whose field holds.
func byWeekday(rows []SampleRow, index int, holds func(string) bool) (shares [8]int) {
	var all, yes [8]int
	for _, row := range rows {
		weekday := row.Day.Weekday()
		all[weekday]++
		if holds(row.Fields[index]) {
			yes[weekday]++
		}
	}
	for weekday, count := range all {
		if count > 0 {
			shares[weekday] = yes[weekday] * percent / count
		}
	}
	return shares
}

// languageOf returns the language that most names of months and weekdays are
// written in, English before all others; nothing when it is none.
func languageOf(index map[string]int, rows []SampleRow) *language.Names {
	type name struct {
		column string
		number int
		text   string
	}
	counts, all := map[name]int{}, 0
	for _, row := range rows {
		_, month, _ := row.Day.Date()
		for column, number := range map[string]int{"month_name": int(month), "month_short": int(month), "day_name": int(row.Day.Weekday()), "day_short": int(row.Day.Weekday())} {
			if at, found := index[column]; found {
				counts[name{column, number, row.Fields[at]}]++
				all++
			}
		}
	}
	if all == 0 {
		return nil
	}
	var best *language.Names
	most := 0
	for _, tag := range append([]string{language.English.Tag}, language.Tags()...) {
		names, err := language.Of(tag)
		if err != nil {
			continue
		}
		agreeing := 0
		for one, count := range counts {
			is := ""
			switch one.column {
			case "month_name":
				is = names.Month(civil.Month(one.number))
			case "month_short":
				is = names.MonthShort(civil.Month(one.number))
			case "day_name":
				is = names.Day(civil.Weekday(one.number))
			case "day_short":
				is = names.DayShort(civil.Weekday(one.number))
			}
			if is == one.text {
				agreeing += count
			}
		}
		if agreeing > most {
			best, most = names, agreeing
		}
	}
	if most*percent < all*least {
		return nil
	}
	return best
}
