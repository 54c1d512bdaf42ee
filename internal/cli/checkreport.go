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
	mostShown        = 10
	mostYearsShown   = 16
	mostColumnsShown = 12
)

// firstOf lists the first of some names, and how many more there are.
func firstOf(names []string, most int) string {
	if len(names) <= most {
		return strings.Join(names, ", ")
	}
	return fmt.Sprintf("%s and %d more", strings.Join(names[:most], ", "), len(names)-most)
}

// say gives the report: a certificate, or the faults.
func (c *checkCommand) say(input string, found *check.Report) {
	r := c.app.report()
	if len(found.Faults) == 0 {
		r.Headline("%s: no faults found: %s, one per day from %s to %s", input, report.Plural(found.Rows-found.Special, "row"), found.First, found.Last)
		r.Line("Proved: no day is missing, none is there twice, all are in order, and no date has a time of day")
		if found.Keys > 0 {
			r.Line("Proved: each of %s is its date as yyyymmdd", report.Plural(found.Keys, "key"))
		}
		if found.Compared > 0 {
			r.Line("Proved: %s in %s, each recalculated from its date", report.Plural(found.Compared, "value"), report.Plural(len(found.Matched), "column"))
		}
		if p := found.Proved; p.Labels+p.Runs+p.Nested+p.Bounds > 0 {
			r.Line("Proved: labels and sort keys are one to one within the year (%s), periods come in one piece (%s) and lie in one coarser period each (%s), and their first and last days touch (%s)",
				report.Plural(p.Labels, "pair"), report.Plural(p.Runs, "kind"), report.Plural(p.Nested, "pair"), report.Plural(p.Bounds, "column"))
		}
		if len(found.WholeYears) > 0 {
			r.Line("Proved: the years that hold facts are whole: %s", firstOf(found.WholeYears, mostYearsShown))
		}
	} else {
		r.Attention("%s has faults of %s", input, kinds(found.Faults))
		var rows [][]string
		shown := map[check.Kind]int{}
		for _, fault := range found.Faults {
			if shown[fault.Kind]++; shown[fault.Kind] <= mostShown {
				rows = append(rows, []string{string(fault.Kind), faultDays(fault), faultPlace(fault), faultText(fault)})
			}
		}
		r.Table([]string{"fault", "days", "where", "what to do"}, make([]bool, 4), rows)
		for kind, count := range shown {
			if count > mostShown {
				r.Line("… and %s of kind %q; --json lists them all", report.Plural(count-mostShown, "more fault"), kind)
			}
		}
	}
	c.sayColumns(r, found)
	c.sayFacts(r, found)
}

// sayColumns says what is taken for what, and what was not looked at.
func (c *checkCommand) sayColumns(r *report.Report, found *check.Report) {
	if found.Special > 0 {
		r.Line("%s for facts without a day, known by the key", report.Plural(found.Special, "row"))
	}
	var taken []string
	for _, one := range found.Matched {
		if one.ByValues {
			taken = append(taken, fmt.Sprintf("%s holds %s", one.Column, one.Attribute.Name))
		}
	}
	if len(taken) > 0 {
		r.Line("By what they hold: %s", strings.Join(taken, ", "))
	}
	r.Line("Checked: %d of %s", found.Columns-len(found.Unchecked), report.Plural(found.Columns, "column"))
	for _, reason := range []struct {
		why    check.Depends
		remedy string
	}{
		{check.OnNothing, "not recognised; say what it holds with --map COLUMN=ATTRIBUTE"},
		{check.OnWeeks, "depends on how weeks are numbered; add --week-start and --week-min-days, or a plan"},
		{check.OnFiscal, "depends on how the fiscal year runs; add --fiscal-start, or a plan"},
		{check.OnDaysOff, "depends on days off; add --region, or a plan"},
		{check.OnLabels, "depends on the pattern of a label; add --label, or a plan"},
		{check.OnAsOf, "depends on the day that counts as today; add --as-of"},
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
		r.Line("As it was built, by %s beside it: %s", packageName, terminal.Command(c.built...))
	}
}

func (c *checkCommand) sayFacts(r *report.Report, found *check.Report) {
	for _, facts := range found.Facts {
		text := fmt.Sprintf("%s of %s find their day", report.Count(facts.Placed), report.Plural(facts.Count, "dated fact"))
		if facts.Blanks > 0 {
			text += fmt.Sprintf("; %s more without a date", report.Count(facts.Blanks))
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
	if len(names) == 1 {
		return "one kind: " + names[0]
	}
	return fmt.Sprintf("%d kinds: %s", len(names), strings.Join(names, ", "))
}

// hasNoDay tells whether a fault is one of a row that has no day.
func hasNoDay(fault check.Fault) bool {
	return fault.Kind == check.BlankDate || fault.Kind == check.Unreadable || fault.Kind == check.Duplicate && fault.Value != ""
}

func faultDays(fault check.Fault) string {
	switch {
	case hasNoDay(fault):
		return ""
	case fault.Kind == check.Disorder:
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
	case fault.Kind == check.NotWhole:
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
		return "give the row its day or take it out"
	case check.Unreadable:
		return fmt.Sprintf("%q is no date of the column's form", fault.Value)
	case check.TimeOfDay:
		return fmt.Sprintf("%q has a time, so facts of the day do not join; cut it off", fault.Value)
	case check.Duplicate:
		if fault.Value != "" {
			return fmt.Sprintf("take out the row; the key %s is there already", fault.Value)
		}
		return "take out " + report.Plural(fault.Count, "row") + "; facts of the day would count twice"
	case check.Missing:
		return "add " + report.Plural(fault.Count, "day")
	case check.Disorder:
		return fmt.Sprintf("comes after %s; sort the table by its date", fault.First)
	case check.WrongKey:
		return fmt.Sprintf("the key is %q and should be %s", fault.Value, fault.Wanted)
	case check.Uncovered:
		return "add the days: " + report.Plural(fault.Count, "fact") + " would be lost"
	case check.WrongValue:
		text := fmt.Sprintf("%s wrong: %q should be %q", report.Plural(fault.Count, "value"), fault.Value, fault.Wanted)
		if fault.Other != fault.Column {
			text += " (" + fault.Other + ")"
		}
		return text
	case check.Ambiguous:
		return fmt.Sprintf("%s: %s, but %s before", report.Plural(fault.Count, "row"), fault.Value, fault.Wanted)
	case check.Broken:
		return fmt.Sprintf("%s comes back after another one began: %s", fault.Value, report.Plural(fault.Count, "row"))
	case check.Crossing:
		return fmt.Sprintf("%s, but in %s before: %s by %s", fault.Value, fault.Wanted, report.Plural(fault.Count, "row"), fault.Other)
	case check.Apart:
		return fmt.Sprintf("%q, but the days of its %s say %s: %s", fault.Value, fault.Other, fault.Wanted, report.Plural(fault.Count, "row"))
	case check.NotWhole:
		return fmt.Sprintf("%s holds facts and lacks %s; build with whole years", fault.Value, report.Plural(fault.Count, "day"))
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
		Right      bool             `json:"right"`
		Rows       int              `json:"rows"`
		Days       int              `json:"days"`
		Special    int              `json:"rows_without_a_day"`
		First      string           `json:"first,omitempty"`
		Last       string           `json:"last,omitempty"`
		Keys       int              `json:"keys_proved"`
		Compared   int              `json:"values_compared"`
		Columns    []jsonColumnHeld `json:"columns"`
		All        int              `json:"columns_in_all"`
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
