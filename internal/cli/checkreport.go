package cli

import (
	"fmt"
	"strings"

	"roundyear/check"
	"roundyear/internal/report"
	"roundyear/internal/terminal"
)

// How many faults of one kind, years and columns are shown.
const (
	maxShown        = 10
	maxYearsShown   = 16
	maxColumnsShown = 12
)

// firstOf lists the first of some names, and how many more there are.
func firstOf(names []string, most int) string {
	if len(names) <= most {
		return strings.Join(names, ", ")
	}
	return fmt.Sprintf("%s and %d more", strings.Join(names[:most], ", "), len(names)-most)
}

// print gives the report: a certificate, or the faults.
func (c *checkCommand) print(input string, found *check.Report) {
	r := c.app.report()
	if len(found.Faults) == 0 {
		r.Headline("%s: no faults found: %s, one per day from %s to %s", input, report.Plural(found.Rows-found.Special, "row"), found.First, found.Last)
		order := "all in order, "
		if found.Unordered {
			order = ""
		}
		r.Line("Verified: no missing or duplicate days, %sno times of day", order)
		if found.Keys > 0 {
			r.Line("Verified: %s match their dates as yyyymmdd", report.Plural(found.Keys, "key"))
		}
		if found.Compared > 0 {
			r.Line("Verified: %s in %s, each recalculated from its date", report.Plural(found.Compared, "value"), report.Plural(len(found.Matched), "column"))
		}
		if p := found.Verified; p.Labels+p.Runs+p.Nested+p.Bounds > 0 {
			r.Line("Verified: one sort key per label within a year (%s), undivided periods (%s), each within one coarser period (%s), and contiguous first and last days (%s)",
				report.Plural(p.Labels, "pair"), report.Plural(p.Runs, "kind"), report.Plural(p.Nested, "pair"), report.Plural(p.Bounds, "column"))
		}
		if len(found.WholeYears) > 0 {
			r.Line("Verified: all years with facts are complete: %s", firstOf(found.WholeYears, maxYearsShown))
		}
	} else {
		r.Attention("%s: faults found: %s", input, kinds(found.Faults))
		var rows [][]string
		shown := map[check.Kind]int{}
		for _, fault := range found.Faults {
			if shown[fault.Kind]++; shown[fault.Kind] <= maxShown {
				rows = append(rows, []string{string(fault.Kind), faultDays(fault), faultPlace(fault), faultText(fault)})
			}
		}
		r.Table([]string{"fault", "days", "where", "what to do"}, make([]bool, 4), rows)
		for kind, count := range shown {
			if count > maxShown {
				r.Line("… and %s of the kind %q; --json lists them all", report.Plural(count-maxShown, "more fault"), kind)
			}
		}
	}
	c.printColumns(r, found)
	c.printFacts(r, found)
}

// printColumns says what is taken for what, and what was not looked at.
func (c *checkCommand) printColumns(r *report.Report, found *check.Report) {
	if found.Special > 0 {
		r.Line("%s for facts without a date, recognised by the key", report.Plural(found.Special, "row"))
	}
	var taken []string
	for _, one := range found.Matched {
		if one.ByValues {
			taken = append(taken, fmt.Sprintf("%s = %s", one.Column, one.Attribute.Name))
		}
	}
	if len(taken) > 0 {
		r.Line("Recognised by their values: %s", strings.Join(taken, ", "))
	}
	r.Line("Checked: %d of %s", found.Columns-len(found.Unchecked), report.Plural(found.Columns, "column"))
	for _, reason := range []struct {
		why    check.Depends
		remedy string
	}{
		{check.Independent, "not recognised; add --map COLUMN=ATTRIBUTE"},
		{check.OnWeeks, "depends on the numbering of weeks; add --week-start and --week-min-days, or a plan"},
		{check.OnFiscal, "depends on the fiscal year; add --fiscal-start, or a plan"},
		{check.OnDaysOff, "depends on days off; add --region, or a plan"},
		{check.OnLabels, "depends on the pattern of a label; add --label, or a plan"},
		{check.OnAsOf, "depends on the as-of date; add --as-of"},
	} {
		var columns []string
		for _, one := range found.Unchecked {
			if one.Why == reason.why {
				columns = append(columns, one.Column)
			}
		}
		if len(columns) > 0 {
			r.Line("Not checked (%s): %s", reason.remedy, strings.Join(columns, ", "))
		}
	}
	if len(c.built) > 0 {
		r.Line("Built with, according to %s: %s", packageName, terminal.Command(c.built...))
	}
}

func (c *checkCommand) printFacts(r *report.Report, found *check.Report) {
	for _, facts := range found.Facts {
		text := fmt.Sprintf("%s of %s are in the table", report.Count(facts.Placed), report.Plural(facts.Count, "date"))
		if facts.Blanks > 0 {
			text += fmt.Sprintf("; %s without a date", report.Plural(facts.Blanks, "row"))
		}
		r.Line("%s: %s", facts.Source, text)
	}
}

// kinds lists the kinds of faults, each once.
func kinds(faults []check.Fault) string {
	var names []string
	seen := map[check.Kind]bool{}
	for _, fault := range faults {
		if !seen[fault.Kind] {
			seen[fault.Kind] = true
			names = append(names, string(fault.Kind))
		}
	}
	return strings.Join(names, ", ")
}

// hasNoDay tells whether a fault is one of a row that has no day.
func hasNoDay(fault check.Fault) bool {
	return fault.Kind == check.BlankDate || fault.Kind == check.Unreadable || fault.Kind == check.Duplicate && fault.Value != ""
}

func faultDays(fault check.Fault) string {
	switch {
	case hasNoDay(fault):
		return ""
	case fault.Kind == check.OutOfOrder:
		return fault.Last.String()
	case fault.First == fault.Last:
		return fault.First.String()
	}
	return fault.First.String() + " to " + fault.Last.String()
}

func faultPlace(fault check.Fault) string {
	if fault.Source != "" {
		return fault.Source
	}
	var lines []string
	for _, line := range fault.Lines[:min(len(fault.Lines), 5)] {
		lines = append(lines, report.Count(line))
	}
	if len(fault.Lines) > 5 {
		lines = append(lines, "…")
	}
	place := ""
	switch len(lines) {
	case 0:
	case 1:
		place = "line " + lines[0]
	default:
		place = "lines " + strings.Join(lines, ", ")
	}
	switch {
	case fault.Kind == check.IncompleteYear:
		return "calendar " + fault.Column
	case fault.Column != "" && len(fault.Lines) > 1:
		return fmt.Sprintf("%s, line %s and %s more", fault.Column, report.Count(fault.Lines[0]), report.Count(len(fault.Lines)-1))
	case fault.Column != "":
		return fault.Column + ", " + place
	}
	return place
}

// faultText says what is wrong in numbers and how it is mended.
func faultText(fault check.Fault) string {
	switch fault.Kind {
	case check.BlankDate:
		return "add the date or delete the row"
	case check.Unreadable:
		return fmt.Sprintf("%q is not a date in the column's format", fault.Value)
	case check.TimeOfDay:
		return fmt.Sprintf("%q has a time of day, so facts do not match it; remove the time", fault.Value)
	case check.Duplicate:
		if fault.Value != "" {
			return fmt.Sprintf("delete the row: the key %s is a duplicate", fault.Value)
		}
		return "delete " + report.Plural(fault.Count, "row") + ": facts of that day would count twice"
	case check.Missing:
		return "add " + report.Plural(fault.Count, "day")
	case check.OutOfOrder:
		return fmt.Sprintf("comes after %s; sort the table by date", fault.First)
	case check.WrongKey:
		return fmt.Sprintf("the key is %q but should be %s", fault.Value, fault.Wanted)
	case check.NotInTable:
		return "add the days: " + report.Plural(fault.Count, "fact") + " would be lost"
	case check.WrongValue:
		text := fmt.Sprintf("%s wrong: %q should be %q", report.Plural(fault.Count, "value"), fault.Value, fault.Wanted)
		if fault.Other != fault.Column {
			text += " (" + fault.Other + ")"
		}
		return text
	case check.Ambiguous:
		return fmt.Sprintf("%s, but %s before: %s", fault.Value, fault.Wanted, report.Plural(fault.Count, "row"))
	case check.SplitPeriod:
		return fmt.Sprintf("%s starts again after another period: %s", fault.Value, report.Plural(fault.Count, "row"))
	case check.OverlappingPeriods:
		return fmt.Sprintf("%s, but in %s before, by %s: %s", fault.Value, fault.Wanted, fault.Other, report.Plural(fault.Count, "row"))
	case check.WrongBounds:
		return fmt.Sprintf("%q, but by the days of its %s it is %s: %s", fault.Value, fault.Other, fault.Wanted, report.Plural(fault.Count, "row"))
	case check.IncompleteYear:
		return fmt.Sprintf("%s has facts but lacks %s; build whole years", fault.Value, report.Plural(fault.Count, "day"))
	}
	return ""
}

// jsonFault is a fault as --json writes it.
type jsonFault struct {
	Kind   check.Kind `json:"kind"`
	Source string     `json:"source,omitempty"`
	Column string     `json:"column,omitempty"`
	Other  string     `json:"other,omitempty"`
	Lines  []int      `json:"lines,omitempty"`
	First  string     `json:"first,omitempty"`
	Last   string     `json:"last,omitempty"`
	Count  int        `json:"count"`
	Value  string     `json:"value,omitempty"`
	Wanted string     `json:"wanted,omitempty"`
	What   string     `json:"what"`
}

type jsonColumnHeld struct {
	Column    string `json:"column"`
	Attribute string `json:"attribute"`
	By        string `json:"by"`
}

func (c *checkCommand) writeJSON(found *check.Report) error {
	type jsonFacts struct {
		Source  string `json:"source"`
		Facts   int    `json:"facts"`
		Undated int    `json:"undated"`
		Placed  int    `json:"placed"`
	}
	type jsonUnchecked struct {
		Column  string `json:"column"`
		Depends string `json:"depends_on,omitempty"`
	}
	result := struct {
		Right      bool             `json:"valid"`
		Rows       int              `json:"rows"`
		Days       int              `json:"days"`
		Special    int              `json:"special_rows"`
		First      string           `json:"first,omitempty"`
		Last       string           `json:"last,omitempty"`
		Keys       int              `json:"keys_verified"`
		Compared   int              `json:"values_compared"`
		Columns    []jsonColumnHeld `json:"columns"`
		All        int              `json:"columns_total"`
		Unchecked  []jsonUnchecked  `json:"columns_not_checked"`
		WholeYears []string         `json:"whole_years"`
		Faults     []jsonFault      `json:"faults"`
		Facts      []jsonFacts      `json:"facts"`
	}{
		Right: len(found.Faults) == 0, Rows: found.Rows, Days: found.Days, Special: found.Special, Keys: found.Keys, Compared: found.Compared,
		Columns: []jsonColumnHeld{}, All: found.Columns, Unchecked: []jsonUnchecked{}, WholeYears: append([]string{}, found.WholeYears...),
		Faults: []jsonFault{}, Facts: []jsonFacts{},
	}
	if found.Days > 0 {
		result.First, result.Last = found.First.String(), found.Last.String()
	}
	for _, one := range found.Unchecked {
		result.Unchecked = append(result.Unchecked, jsonUnchecked{one.Column, string(one.Why)})
	}
	for _, one := range found.Matched {
		by := "name"
		if one.ByValues {
			by = "values"
		}
		result.Columns = append(result.Columns, jsonColumnHeld{one.Column, one.Attribute.Name, by})
	}
	for _, fault := range found.Faults {
		entry := jsonFault{Kind: fault.Kind, Source: fault.Source, Column: fault.Column, Other: fault.Other, Lines: fault.Lines, Count: fault.Count,
			Value: fault.Value, Wanted: fault.Wanted, What: faultText(fault)}
		if !hasNoDay(fault) {
			entry.First, entry.Last = fault.First.String(), fault.Last.String()
		}
		result.Faults = append(result.Faults, entry)
	}
	for _, facts := range found.Facts {
		result.Facts = append(result.Facts, jsonFacts{facts.Source, facts.Count + facts.Blanks, facts.Blanks, facts.Placed})
	}
	return c.app.writeJSON(result)
}
