package cli

import (
	"fmt"
	"maps"
	"slices"
	"strings"

	"roundyear/datetext"
	"roundyear/fault"
	"roundyear/internal/app"
	"roundyear/internal/normalise"
	"roundyear/internal/reading"
	"roundyear/internal/report"
	"roundyear/rows"
)

// refuse says which rows would be rejected, and have nowhere to go or are too many.
func (n *normaliseCommand) refuse(refused *app.Refused) error {
	unread, ragged := refused.Unread, refused.Ragged
	var whats []string
	if unread > 0 {
		whats = append(whats, report.Plural(unread, "date")+" cannot be read")
	}
	if ragged.Count > 0 {
		has := "have"
		if ragged.Count == 1 {
			has = "has"
		}
		whats = append(whats, fmt.Sprintf("%s %s more or fewer fields than the header", report.Plural(ragged.Count, "row"), has))
	}
	if refused.Rejected > 0 {
		whats = []string{report.Plural(refused.Rejected, "row") + " would be rejected"}
	}
	what := strings.Join(whats, " and ")
	var remedy string
	if refused.IsTooMany {
		what += fmt.Sprintf(", more than --max-rejects %d allows; nothing was written", n.maxRejects)
		remedy = "Correct the file, or describe its dates with --pattern or --order"
	} else {
		what += "; nothing was written"
		remedy = "Name a file for such rows with --rejects FILE, or write to a file with -o"
	}
	r := n.app.report()
	for _, row := range ragged.First {
		r.Attention("%s, line %d: %s", row.File, row.Line, rows.RaggedReason(row.Fields, n.columnCount))
	}
	for _, d := range refused.Dates {
		reader := d.Reader()
		for _, found := range d.Files {
			reader.EnterSystem(found.File, found.System)
			for _, example := range found.Faults {
				r.Attention("%s, line %d, column %s: %q %s", found.File.Name, example.Line, d.Name, example.Value, reader.WhyText(example.Value))
			}
		}
	}
	for _, number := range refused.Numbers {
		r.Attention("%s", number)
	}
	if refused.IsTooMany {
		r.Fault(&fault.Fault{What: what, Remedy: remedy})
		return errLimit
	}
	return &fault.Fault{What: what, Remedy: remedy}
}

// print shows how each file was read and that all rows are accounted for.
func (n *normaliseCommand) print(source *rows.Source, result *app.Normalised) {
	r, dates := n.app.report(), result.Dates
	where := ""
	if n.out != "-" {
		where = " to " + n.out
	}
	r.Headline("%s read, %s written%s, %s rejected", report.Plural(result.In, "row"), report.Count(result.Out), where, report.Count(result.Rejected))
	var lines [][]string
	for _, d := range dates {
		for _, found := range d.Files {
			form, why := "year, month, day", "given"
			switch {
			case found.Decision != nil:
				form, why = formOf(found.Decision), whyOf(found.Decision)
			case d.Type.IsDate():
				form, why = dateTypes[d.Type], "type of the column"
			case len(d.Columns) != 3:
				form, why = "", "all values are blank"
			}
			lines = append(lines, []string{d.Name, strings.TrimSpace(found.File.Name + " " + found.System), form, why, report.Count(found.Values - found.Unread), report.Count(found.Blanks), report.Count(found.Unread)})
		}
	}
	r.Table([]string{"column", "file", "format", "because", "dates", "blank", "unreadable"},
		[]bool{false, false, false, false, true, true, true}, lines)
	for i, d := range dates {
		if result.Ranges[i].Any {
			r.Line("%s: from %s to %s", d.Name+"_date", result.Ranges[i].First, result.Ranges[i].Last)
			tellOtherEra(r, d.Name, result.Ranges[i].First, result.Ranges[i].Last)
		}
		if count := result.Placeholders[i]; count > 0 {
			r.Line("%s: %s on placeholder days count as no date", d.Name, report.Plural(count, "row"))
		}
		for _, day := range result.Implausible[i].Placeholders {
			r.Note("%s: %s on %s, a placeholder date; --placeholder %[3]s counts it as no date", d.Name, report.Plural(day.Count, "row"), day.Day)
		}
		for _, day := range result.Implausible[i].Far {
			r.Note("%s: %s on %s, far outside the other dates", d.Name, report.Plural(day.Count, "row"), day.Day)
		}
	}
	if normalise.IsRejects(source) {
		r.Line("The input is a rejects file: its columns line, column, value and reason were dropped")
	}
	r.Line("Added to each row: %s", strings.Join(result.Added, ", "))
	n.printBeforeAndAfter(r, dates[0], result.Report)
	if result.Rejected > 0 {
		them := "them"
		if result.Rejected == 1 {
			them = "it"
		}
		r.Attention("%s rejected: correct %s in %s and normalise that file", report.Plural(result.Rejected, "row"), them, n.rejectsPath())
	}
	if result.DroppedRejects != "" {
		r.Line("Removed %s, left over from an earlier run", result.DroppedRejects)
	}
	if result.Parts != nil {
		latest, all := result.Parts.LatestShare()
		r.Line("%s by %s; a query for the latest month reads %.1f%% of the data", report.Plural(result.Parts.Count(), "partition"), n.partitionBy, 100*float64(latest)/float64(all))
		if kept := result.Parts.Kept(); kept > 0 {
			r.Line("%s of earlier runs kept", report.Plural(kept, "file"))
		}
		return
	}
	if n.streamsOut() {
		return
	}
	if first := result.Ranges[0]; first.Any && first.First < app.FirstBuilt {
		r.Note("correct the dates before %s, the first day that a date table can have", app.FirstBuilt)
		return
	}
	if n.planned {
		r.Next(append([]string{"roundyear", "build"}, carried(n.command, calendarFlagNames...)...)...)
		return
	}
	column := dates[0].Name + "_date"
	if slices.Contains(result.Added, dates[0].Name+"_business_date") {
		column = dates[0].Name + "_business_date"
	}
	words := append([]string{"roundyear", "build"}, flagWords("cover", n.out+":"+column)...)
	words = append(words, carried(n.command, calendarFlagNames...)...)
	r.Next(append(words, "-o", n.app.freshName("dates.csv"))...)
}

// printBeforeAndAfter shows the first rows and how many rows each period has as
// it was written and as it comes out, so that somebody can sign it off.
func (n *normaliseCommand) printBeforeAndAfter(r *report.Report, dates *reading.Dates, result *normalise.Report) {
	for _, found := range dates.Files {
		if found.Decision != nil && found.Decision.Pivot > 0 {
			r.Line("Two-digit years are read as %d to %d (--pivot)", found.Decision.Pivot, found.Decision.Pivot+99)
			break
		}
	}
	if result.Doubled+result.Skipped > 0 {
		r.Line("Clock changes: %s in a repeated hour, read as the first; %s in a skipped hour, moved forward", report.Plural(result.Doubled, "time"), report.Count(result.Skipped))
	}
	for _, first := range result.First {
		r.Line("  %s → %s", first[0], strings.Join(first[1:], "  "))
	}
	counts := result.Months
	label := func(month int) string { return fmt.Sprintf("%04d-%02d", month/12, month%12+1) }
	if len(counts) > maxPeriods {
		counts = map[int]*normalise.Moved{}
		for month, moved := range result.Months {
			year := counts[month/12]
			if year == nil {
				year = &normalise.Moved{}
				counts[month/12] = year
			}
			year.Written += moved.Written
			year.Normalised += moved.Normalised
		}
		label = func(year int) string { return fmt.Sprintf("%04d", year) }
	}
	if len(counts) > maxPeriods {
		return
	}
	var rows [][]string
	for _, period := range slices.Sorted(maps.Keys(counts)) {
		rows = append(rows, []string{label(period), report.Count(counts[period].Written), report.Count(counts[period].Normalised)})
	}
	r.Table([]string{dates.Name, "rows before", "rows after"}, []bool{false, true, true}, rows)
}

// maxPeriods is how many periods are shown before and after.
const maxPeriods = 12

// dateTypes are the types of columns that hold dates, in words.
var dateTypes = map[rows.Type]string{rows.Day: "date", rows.Moment: "date and time", rows.Instant: "date and time in UTC"}

func formOf(decision *datetext.Decision) string {
	var forms []string
	for _, share := range decision.Patterns {
		if len(decision.Patterns) > 1 {
			forms = append(forms, fmt.Sprintf("%s (%s)", share.Pattern, report.Count(share.Count)))
		} else {
			forms = append(forms, share.Pattern)
		}
	}
	return strings.Join(forms, ", ")
}

func whyOf(decision *datetext.Decision) string {
	switch {
	case decision.Settled > 0:
		first := fmt.Sprintf("%s in line %d", decision.First.Value, decision.First.Line)
		switch others := decision.Settled - 1; others {
		case 0:
			return first + ", the only such value"
		case 1:
			return first + " and 1 other"
		default:
			return fmt.Sprintf("%s and %s others", first, report.Count(others))
		}
	case decision.Asked:
		return "given"
	}
	return "only possible format"
}
