package cli

import (
	"strings"

	"roundyear/calendar"
	"roundyear/facts"
	"roundyear/internal/report"
)

// maxHoles is how many holes and made-up rows are shown.
const maxHoles = 5

// itsData are the words for the data of one row or several.
func itsData(rows int) string {
	if rows == 1 {
		return "its data is"
	}
	return "their data is"
}

// printMade reports what was made up, and what stands where a group is away.
func (f *factsFlags) printMade(p *plan, result *facts.Result, made *facts.Made) {
	r, grain := f.app.report(), p.Operation.Grain
	label := func(period calendar.Period) string { return grain.Label(period) }
	group := func(values []string) string { return strings.Join(values, " ") }
	if len(made.Longest) > 0 && len(p.Operation.Groups) > 0 {
		var lines [][]string
		for _, hole := range made.Longest {
			lines = append(lines, append(append([]string{}, hole.Values...), label(hole.First), label(hole.Last), report.Count(hole.Periods)))
		}
		r.Table(append(append([]string{}, p.Operation.Groups...), "longest gap from", "to", grainWords(grain)+"s"), rightmost(len(p.Operation.Groups)+3), lines)
	} else if len(made.Longest) > 0 {
		hole := made.Longest[0]
		r.Line("Longest gap: %s from %s to %s", report.Plural(hole.Periods, grainWords(grain)), label(hole.First), label(hole.Last))
	}
	if len(made.First) > 0 {
		var texts []string
		for _, row := range made.First {
			texts = append(texts, strings.TrimSpace(label(row.First)+" "+group(row.Values)))
		}
		r.Line("First filled: %s", strings.Join(texts, ", "))
	}
	for i, measure := range p.Operation.Measures {
		before, _, ok := result.Total(i)
		after, _ := result.Written(i)
		switch {
		case !ok || result.Filled() == 0:
		case after.Cmp(before) == 0:
			r.Line("%s: %s before and after", measure.Name, report.Grouped(before.String()))
		default:
			r.Line("%s: %s before, %s after", measure.Name, report.Grouped(before.String()), report.Grouped(after.String()))
		}
	}
	for _, away := range made.Away[:min(len(made.Away), maxHoles)] {
		when := label(away.First)
		if away.Periods > 1 {
			when += " to " + label(away.Last)
		}
		r.Attention("%s has %s in %s when it was not open (%s)", group(away.Values), report.Plural(away.Rows, "row"), report.Plural(away.Periods, grainWords(grain)), when)
	}
	if more := len(made.Away) - maxHoles; more > 0 {
		r.Attention("%s with rows when they were not open", report.Plural(more, "more group"))
	}
	if count := len(made.Lifeless); count > 0 {
		var names []string
		for _, values := range made.Lifeless[:min(count, maxHoles)] {
			names = append(names, group(values))
		}
		if count > maxHoles {
			names = append(names, "…")
		}
		r.Attention("Opening days are not known for %s: %s", report.Plural(count, "group"), strings.Join(names, ", "))
	}
	if count := len(made.Absent); count > 0 {
		names := strings.Join(made.Absent[:min(count, maxHoles)], ", ")
		if count > maxHoles {
			names += " …"
		}
		r.Note("open in these %ss, but without any row and so not filled: %s", grainWords(grain), names)
	}
}

// rightmost aligns the last of some columns to the right.
func rightmost(columns int) []bool {
	right := make([]bool, columns)
	right[columns-1] = true
	return right
}
