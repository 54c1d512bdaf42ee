package cli

import (
	"fmt"
	"strings"

	"roundyear/internal/loading"
	"roundyear/internal/report"
)

// haveOf is "1 row has" or "12 rows have".
func haveOf(count int) string {
	if count == 1 {
		return "1 row has"
	}
	return report.Plural(count, "row") + " have"
}

// countsOf is "3 tables and 2 views".
func countsOf(tables, views int) string {
	text := report.Plural(tables, "table")
	if views > 0 {
		text += " and " + report.Plural(views, "view")
	}
	return text
}

// report says what publishing has done.
func (p *publishCommand) report(name string, outcome *loading.Outcome) {
	r := p.app.report()
	tables, views, isChanged, isEdited := 0, 0, false, false
	var lines [][]string
	for _, result := range outcome.Results {
		rows := report.Count(result.Rows)
		if result.IsView {
			views++
			rows = "view"
		} else {
			tables++
		}
		if result.Kind == loading.Edited {
			isEdited, rows = true, ""
		}
		isChanged = isChanged || result.Kind != loading.Unchanged && result.Kind != loading.Edited
		lines = append(lines, []string{result.Name, rows, p.became(result)})
	}
	verb := "Published to"
	switch {
	case p.dryRun:
		verb = "Dry run, nothing changed: would publish to"
	case !isChanged && isEdited:
		verb = "Nothing changed in"
	case !isChanged:
		verb = "Nothing to change in"
	}
	r.Headline("%s %s: %s", verb, name, countsOf(tables, views))
	r.Table([]string{"name", "rows", "status"}, []bool{false, true, false}, lines)
	for _, result := range outcome.Results {
		p.reportEdits(result)
	}
	for _, result := range outcome.Results {
		if len(result.Lost) > 0 {
			r.Attention("%s was made anew and lost what was added to it: %s", result.Name, strings.Join(result.Lost, ", "))
		}
	}
	for _, joined := range outcome.Joined {
		p.reportJoined(joined)
	}
	if len(outcome.Left) > 0 {
		r.Note("no longer part of the model, and left as they are: %s", strings.Join(outcome.Left, ", "))
	}
	p.tellVerified()
	if !p.dryRun && len(outcome.Results) > 0 && outcome.Results[0].Kind != loading.Edited {
		table := outcome.Results[0].Name
		r.Next(append([]string{"roundyear", "check", name + "#" + table}, carried(p.dates.command, append([]string{"language", "label"}, calendarFlagNames...)...)...)...)
	}
}

// became says what became of a table or view.
func (p *publishCommand) became(result loading.Result) string {
	var changes []string
	for _, one := range []struct {
		count int
		what  string
	}{{result.Added, "added"}, {result.Changed, "changed"}, {result.Removed, "removed"}} {
		switch {
		case one.count == 0:
		case len(changes) == 0:
			changes = append(changes, report.Plural(one.count, "row")+" "+one.what)
		default:
			changes = append(changes, report.Count(one.count)+" "+one.what)
		}
	}
	if len(result.Columns) > 0 {
		const most = 6
		shown := result.Columns
		if len(shown) > most {
			shown = append(append([]string{}, shown[:most]...), fmt.Sprintf("and %d others", len(shown)-most))
		}
		changes = append(changes, "columns "+strings.Join(shown, " "))
	}
	switch result.Kind {
	case loading.Created:
		return "created"
	case loading.Changed:
		return strings.Join(changes, ", ")
	case loading.Replaced, loading.Altered:
		word := "replaced"
		switch {
		case result.Kind == loading.Altered:
			word = "altered in place"
		case result.InPlace:
			word = "rows replaced in place"
		}
		if len(changes) > 0 {
			word += ": " + strings.Join(changes, ", ")
		}
		return word
	case loading.Edited:
		return "left alone: changed in the database"
	}
	return "unchanged"
}

// reportEdits says what somebody has changed in the database.
func (p *publishCommand) reportEdits(result loading.Result) {
	if result.Kind != loading.Edited {
		return
	}
	r := p.app.report()
	switch {
	case len(result.EditedColumns) > 0:
		r.Attention("%s: its columns were changed in the database: %s", result.Name, strings.Join(result.EditedColumns, "; "))
	case len(result.Edits) > 0:
		by := "since it was published"
		if !result.IsCertain {
			by = "since it was published, and the model has changed, too"
		}
		r.Attention("%s was changed in the database %s; %s", result.Name, by, differ(result.EditCount))
		for _, edit := range result.Edits {
			switch {
			case edit.Column != "":
				r.Line("  %s: %s is %q instead of %q", edit.Key, edit.Column, edit.Is, edit.Wanted)
			case edit.Is != "":
				r.Line("  %s: a row that the model does not have", edit.Key)
			default:
				r.Line("  %s: the row is missing", edit.Key)
			}
		}
	default:
		r.Attention("%s: its rows were changed in the database since it was published", result.Name)
	}
	r.Line("  To restore it, publish with --force")
}

func differ(count int) string {
	if count == 1 {
		return "1 row differs"
	}
	return report.Plural(count, "row") + " differ"
}

// reportJoined says what a table of facts got that was in the database already.
func (p *publishCommand) reportJoined(joined loading.JoinResult) {
	r := p.app.report()
	if joined.Unmatched > 0 {
		r.Attention("%s: %s a %s that is not in the date dimension", joined.Facts, haveOf(joined.Unmatched), joined.Column)
		return
	}
	if p.dryRun {
		return
	}
	var got []string
	if joined.HasIndex {
		got = append(got, "index added")
	}
	if joined.HasForeign {
		got = append(got, "foreign key added")
	}
	text := fmt.Sprintf("every %s matches a day", joined.Column)
	if len(got) > 0 {
		text += "; " + strings.Join(got, ", ")
	}
	r.Line("%s: %s", joined.Facts, text)
}
