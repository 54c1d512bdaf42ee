package cli

import (
	"errors"
	"fmt"
	"slices"
	"strings"

	"roundyear/internal/app"
	"roundyear/internal/reading"
	"roundyear/internal/report"
	"roundyear/internal/terminal"
	"roundyear/numbertext"
	"roundyear/rows"
	"roundyear/survey"
)

// print gives the report on a file.
func (s *surveyCommand) print(f *app.Surveyed) {
	r := s.app.report()
	name := f.Source.Parts[0].Name
	if len(f.Columns) == 0 {
		r.Headline("%s: %s, no date columns", name, report.Plural(f.Rows, "row"))
	} else {
		r.Headline("%s: %s, %s", name, report.Plural(f.Rows, "row"), report.Plural(len(f.Columns), "date column"))
		var rows [][]string
		for _, column := range f.Columns {
			rows = append(rows, columnRow(column))
		}
		r.Table([]string{"column", "format", "from", "to", "dates", "blank", "unreadable", "with time", "days", "rows per day", "weekend"},
			[]bool{false, false, false, false, true, true, true, true, true, true, true}, rows)
	}
	for _, row := range f.Ragged.First {
		r.Attention("line %d: %s", row.Line, rows.RaggedReason(row.Fields, f.Source.Parts[0].OwnColumns()))
	}
	if more := f.Ragged.Count - len(f.Ragged.First); more > 0 {
		r.Attention("%s with more or fewer fields than the header", report.Plural(more, "more row"))
	}
	for _, column := range f.Columns {
		printColumn(r, column)
	}
	for _, pair := range f.Pairs {
		r.Line("%s is never after %s: start and end", pair[0], pair[1])
	}
	for _, pair := range f.Crossed {
		r.Attention("%s is after %s in %s of %s", pair.Start, pair.End, report.Count(pair.Rows), report.Plural(pair.Both, "row"))
	}
	for _, parts := range f.Parts {
		if columns := parts.Columns; len(columns) > 1 {
			r.Line("%s and %s form a date together", strings.Join(columns[:len(columns)-1], ", "), columns[len(columns)-1])
		}
	}
	for _, hint := range f.Numbers {
		r.Line("%s contains numbers that may be dates: %s would be %s; if so, add --pattern %s=%s", hint.Column, hint.Value, hint.Day, terminal.Word(hint.Column), hint.Pattern)
	}
	for _, amounts := range f.Amounts {
		r.Line("%s", amountsLine(amounts))
	}
	for _, blank := range f.Blanks {
		r.Line("%s stands among the values of %s; if it means no value, add --blank-as %s", terminal.Clean(blank.Text), strings.Join(blank.Columns, ", "), terminal.Word(blank.Text))
	}
	for _, fiscal := range f.Fiscal {
		r.Line("%s contains fiscal periods such as %s; if the plan's calendars have such labels, add --pattern %s=GRAIN, such as fiscal.month", fiscal[0], fiscal[1], terminal.Word(fiscal[0]))
	}
	for _, next := range s.proposed[f] {
		r.Next(next.words...)
		if next.note != "" {
			r.Line("      %s", next.note)
		}
	}
}

// columnRow is the column's line in the table.
func columnRow(c *app.SurveyedColumn) []string {
	if c.Problem != nil {
		if errors.As(c.Problem, new(*reading.SwappedCells)) {
			return []string{c.Name, "uncertain: swapped?", "", "", "", "", "", "", "", "", ""}
		}
		dayFirst, monthFirst, open := c.Evidence.Orders()
		return []string{c.Name, fmt.Sprintf("uncertain: %s day first, %s month first, %s either", report.Count(dayFirst), report.Count(monthFirst), report.Count(open)), "", "", "", "", "", "", "", "", ""}
	}
	found, s := c.Dates.Files[0], c.Summary
	form := "year, month and day columns"
	switch {
	case found.Decision != nil:
		form = formOf(found.Decision)
	case c.Dates.Type.IsDate():
		form = dateTypes[c.Dates.Type]
	case !c.IsParts():
		form = "all values are blank"
	}
	line := []string{c.Name, form, "", "", report.Count(found.Values - found.Unread), report.Count(found.Blanks), report.Count(found.Unread), "", "", "", ""}
	if s != nil {
		line[2], line[3] = s.First.String(), s.Last.String()
		line[7], line[8], line[9] = report.Count(s.Timed), report.Count(s.Days), report.Count(s.Median)
		line[10] = fmt.Sprintf("%d%%", s.Weekend*100/s.Rows)
	}
	return line
}

// printColumn says what is to know of a column beside its line.
func printColumn(r *report.Report, c *app.SurveyedColumn) {
	if c.Problem != nil {
		r.Attention("%s", c.Problem)
		if c.ExplainedBy != "" {
			r.Line("%s: the order depends on %s: it is the same in all rows with the same %s", c.Name, c.ExplainedBy, c.ExplainedBy)
		}
		return
	}
	found, s := c.Dates.Files[0], c.Summary
	if found.Decision != nil && found.Decision.Settled > 0 {
		r.Line("%s: %s first, because of %s", c.Name, found.Decision.Order, whyOf(found.Decision))
	}
	for _, fault := range found.Faults {
		reader := c.Dates.Reader()
		reader.Enter(found.File)
		r.Attention("%s, line %d: %q %s", c.Name, fault.Line, fault.Value, reader.WhyText(fault.Value))
	}
	if s == nil {
		return
	}
	for _, day := range s.Sentinels {
		r.Attention("%s: %s on %s, a placeholder date; --placeholder %[3]s counts it as no date", c.Name, report.Plural(day.Count, "row"), day.Day)
	}
	tellOtherEra(r, c.Name, s.First, s.Last)
	for _, day := range s.Suspicious {
		r.Attention("%s: %s on %s, far outside the other dates", c.Name, report.Plural(day.Count, "row"), day.Day)
	}
	if s.NotMatching > 0 {
		r.Line("%s: %s have a time of day and would not match the date table; normalise removes it", c.Name, report.Plural(s.NotMatching, "row"))
	}
	if s.Zoned > 0 {
		r.Line("%s: %s have a UTC offset; the date is used as written unless you give --to-zone", c.Name, report.Plural(s.Zoned, "row"))
	}
	switch unit, by, written := strings.Cut(c.Grain(), ", by its "); {
	case written:
		each := "the " + by + " of a " + unit
		if unit == "week" {
			each = "a " + by
		}
		r.Line("%s: %sly data: every date is %s", c.Name, unit, each)
		printMissing(r, c.Name, unit, map[string][]survey.Run{"week": s.MissingWeeks, "month": s.MissingMonths}[unit])
	case unit == "day":
		printMissing(r, c.Name, "day", s.MissingDays)
		printMissing(r, c.Name, "week", s.MissingWeeks)
		printMissing(r, c.Name, "month", s.MissingMonths)
	case unit == "week":
		printMissing(r, c.Name, "week", s.MissingWeeks)
	case unit == "month":
		printMissing(r, c.Name, "month", s.MissingMonths)
	}
	if c.After > 0 {
		r.Line("%s: %s after %s, the as-of date; the latest is %s", c.Name, report.Plural(c.After, "row"), c.AsOf, s.Last)
	}
	for _, line := range coverage(s) {
		r.Line("  %s", line)
	}
}

// printMissing says how many periods have no rows, and which runs are longest.
func printMissing(r *report.Report, name, unit string, runs []survey.Run) {
	if len(runs) == 0 {
		return
	}
	longest := slices.Clone(runs)
	slices.SortStableFunc(longest, func(a, b survey.Run) int { return b.Count - a.Count })
	longest = longest[:min(len(longest), 4)]
	slices.SortFunc(longest, func(a, b survey.Run) int { return int(a.First - b.First) })
	var texts []string
	for _, run := range longest {
		if run.First == run.Last {
			texts = append(texts, run.First.String())
		} else {
			texts = append(texts, run.First.String()+" to "+run.Last.String())
		}
	}
	more := ""
	if len(runs) > len(longest) {
		more = " and " + report.Plural(len(runs)-len(longest), "other gap")
	}
	r.Line("%s: %s without rows: %s%s", name, report.Plural(survey.Total(runs), unit), strings.Join(texts, ", "), more)
}

// maxYearsDrawn is how many years of coverage are drawn a month a mark.
const maxYearsDrawn = 15

// coverage draws the rows of each month: the higher the mark the more rows, a
// dot where there is none, nothing outside the range.
func coverage(s *survey.Summary) []string {
	years := (s.FirstMonth+len(s.Months)-1)/12 - s.FirstMonth/12 + 1
	if years > maxYearsDrawn {
		return []string{fmt.Sprintf("(%d years, too many for a chart)", years)}
	}
	most := slices.Max(s.Months)
	lines := []string{"      J F M A M J J A S O N D"}
	for year := s.FirstMonth / 12; year < s.FirstMonth/12+years; year++ {
		line := []rune(fmt.Sprintf("%04d  ", year))
		for month := year * 12; month < year*12+12; month++ {
			at := month - s.FirstMonth
			switch {
			case at < 0 || at >= len(s.Months):
				line = append(line, ' ')
			case s.Months[at] == 0:
				line = append(line, '·')
			default:
				line = append(line, []rune("▁▂▃▄▅▆▇█")[min(s.Months[at]*8/most, 7)])
			}
			line = append(line, ' ')
		}
		lines = append(lines, strings.TrimRight(string(line), " "))
	}
	return lines
}

// amountsLine says how the numbers of a column are written, or what it does not show.
func amountsLine(amounts app.SurveyedNumbers) string {
	name := terminal.Word(amounts.Column)
	switch {
	case errors.As(amounts.Problem, new(*numbertext.Open)):
		return fmt.Sprintf("%s %v; add --decimal %s=point or --decimal %[3]s=comma", amounts.Column, amounts.Problem, name)
	case errors.As(amounts.Problem, new(*numbertext.Unsigned)):
		return fmt.Sprintf("%s %v; add --minus CR if credits count as negative, or --minus DR if debits do", amounts.Column, amounts.Problem)
	case amounts.Problem != nil:
		return fmt.Sprintf("%s %v", amounts.Column, amounts.Problem)
	}
	return fmt.Sprintf("%s contains numbers with a decimal %s, such as %s", amounts.Column, amounts.Format.Mark, amounts.First.Value)
}
