package cli

import (
	"cmp"
	"fmt"
	"slices"
	"strings"

	"roundyear/calendar"
	"roundyear/facts"
	"roundyear/internal/app"
	"roundyear/internal/report"
	"roundyear/internal/terminal"
)

// headline says what was added up.
func (f *factsFlags) headline(p *plan, results ...*facts.Result) {
	result := results[0]
	summary := result.Summary()
	text := report.Plural(result.Shown(), grainWords(p.Operation.Grain))
	for i, other := range results[1:] {
		text += ", " + report.Plural(other.Shown(), grainWords(f.others[i]))
	}
	if len(p.Operation.Groups) > 0 {
		text += " and " + report.Plural(result.Groups(), "group")
	}
	if summary.Rows == 0 {
		f.app.report().Headline("No rows up to the position of %s in %s%s", p.Operation.AsOf, text, f.out.where())
		return
	}
	f.app.report().Headline("%s from %s to %s in %s%s", report.Plural(summary.Rows, "row"), summary.First, summary.Last, text, f.out.where())
}

// tellManyGroups says what many groups need, while they are read.
func (a *App) tellManyGroups() {
	a.report().Note("more than a million groups; each million needs some %d MB of memory and more", app.GroupMemory)
}

// footer is the line of totals under a table for people.
func footer(p *plan, result *facts.Result) []string {
	texts := make([]string, len(result.Columns()))
	texts[0] = "all"
	hasTotal := false
	for i, total := range result.GrandTotals() {
		if !total.IsBlank() {
			texts[3+len(p.Operation.Groups)+i] = report.Grouped(total.String())
			hasTotal = true
		}
	}
	if !hasTotal {
		return nil
	}
	return texts
}

// print reports what was filled, and what is in no period.
func (f *factsFlags) print(p *plan, tally *app.Tallied, results []*facts.Result, unmatched []string) {
	result := results[0]
	r, summary := f.app.report(), result.Summary()
	made := &facts.Made{}
	// What only people read is not worked out for nobody.
	if f.isFill && (!f.app.quiet || p.Operation.Lives != nil) || result.HasUnloaded() {
		made = result.Made(maxHoles)
	}
	filled := "No gaps"
	if count := result.Filled() - made.NotLoaded; count > 0 {
		filled = report.Plural(count, "row") + " filled for periods without data"
	}
	switch {
	case made.NotLoaded == 0:
	case result.Filled() == made.NotLoaded:
		filled = fmt.Sprintf("No rows filled, %s left blank because %s not loaded", report.Plural(made.NotLoaded, "row"), itsData(made.NotLoaded))
	default:
		filled += fmt.Sprintf(", %s left blank because %s not loaded", report.Count(made.NotLoaded), itsData(made.NotLoaded))
	}
	r.Line("%s; as of %s", filled, p.Operation.AsOf)
	if slices.Contains(p.year.Set.Fiscal, p.Operation.Grain.Calendar) {
		_, last := summary.Span()
		printFiscal(r, p.Operation.Grain.Calendar, last)
	}
	for _, period := range result.CutPeriods() {
		r.Line("%s is incomplete: it runs from %s to %s, and --from or --to cuts it off", p.Operation.Grain.Label(period), period.First, period.Last)
	}
	for i := range results {
		if !p.Operation.ToDate {
			break
		}
		grain := append([]calendar.Grain{p.Operation.Grain}, f.others...)[i]
		r.Line("To date: each %s counts up to the position of %s in %s; %s after it left out", grainWords(grain), p.Operation.AsOf, grain.Label(grain.Locate(p.Operation.AsOf)), report.Plural(results[i].Summary().NotToDate, "row"))
	}
	switch o := p.Operation; {
	case summary.Future > 0 && o.Future == facts.DropFuture:
		r.Line("%s after %s left out", report.Plural(summary.Future, "row"), o.AsOf)
	case summary.Future > 0 && o.Future == facts.FutureApart:
		r.Line("%s after %s in columns of %s own", report.Plural(summary.Future, "row"), o.AsOf, verb(summary.Future, "its", "their"))
	}
	if f.compared != nil {
		f.compared(p, result)
	}
	if summary.Outside+tally.Filtered > 0 {
		r.Line("Excluded: %s", leftOut(tally))
	}
	if f.isFill && (!f.app.quiet || p.Operation.Lives != nil) {
		f.printMade(p, result, made)
	}
	if len(tally.Commas) > 0 {
		r.Line("Read with a decimal comma: %s", strings.Join(tally.Commas, ", "))
	}
	for _, text := range unmatched {
		r.Line("--where: %s", text)
	}
	f.printEnd(p)
	f.printEndsToday(p, summary)
	rates := slices.ContainsFunc(p.Operation.Rates, func(rate facts.Rate) bool { return !rate.IsCountOnly })
	if running := p.Operation.Grain.Locate(p.Operation.AsOf); rates && result.HasUnratedFuture(running) {
		r.Note("some rows are after %s; what %s has per day is left out, since they count in it and their days do not. --future drop leaves such rows out, --future apart sets them apart", p.Operation.AsOf, p.Operation.Grain.Label(running))
	}
	for _, one := range p.FilesEndEarly(tally) {
		r.Attention("%s ends on %s, other files run to %s: what is missing after that counts as zero. If it is not loaded, add --loaded-through %s; if nothing is missing, --loaded-through %[3]s",
			one.File, one.Last, one.Others, terminal.Word(one.File+"="+one.Last.String()))
	}
	if summary.Rows > 0 {
		tellOtherEra(r, "", summary.First, summary.Last)
	}
	placeholders, far := tally.ImplausibleDays()
	for _, sentinel := range placeholders {
		r.Attention("%s on %s, a placeholder date; --placeholder %s counts it as no date", report.Plural(sentinel.Count, "row"), sentinel.Day, sentinel.Day)
	}
	if summary.Undated > 0 {
		r.Attention("%s without a date, not in any period%s", report.Plural(summary.Undated, "row"), undatedTotals(p, result))
	}
	for _, one := range far {
		r.Attention("%s on %s, far outside the other dates; if that is wrong, exclude it with --from or --to", report.Plural(one.Count, "row"), one.Day)
	}
}

func undatedTotals(p *plan, result *facts.Result) string {
	var texts []string
	for i, measure := range p.Operation.Measures {
		if _, undated, ok := result.Total(i); ok && measure.Kind == facts.Sum {
			texts = append(texts, fmt.Sprintf("%s %s", measure.Name, report.Grouped(undated.String())))
		}
	}
	if len(texts) == 0 {
		return ""
	}
	return ": " + strings.Join(texts, ", ")
}

// widen says which flags leave facts out.
func widen(t *app.Tallied) string {
	var flags []string
	if t.Summary().Outside > 0 || t.IsUnclear {
		flags = append(flags, "--from and --to")
	}
	if t.Filtered > 0 || t.IsUnclear {
		flags = append(flags, "--where")
	}
	if len(flags) == 0 {
		return ""
	}
	return "Widen " + strings.Join(flags, " or ")
}

func leftOut(tally *app.Tallied) string {
	var texts []string
	summary := tally.Summary()
	if summary.Undated > 0 {
		texts = append(texts, report.Plural(summary.Undated, "row")+" without a date")
	}
	if tally.IsUnclear {
		// Which of the two leaves out a row depends on what is known before it is read.
		texts = append(texts, report.Plural(summary.Outside+tally.Filtered, "row")+" outside the range or by --where")
		return strings.Join(texts, ", ")
	}
	if summary.Outside > 0 {
		texts = append(texts, report.Plural(summary.Outside, "row")+" outside the range")
	}
	if tally.Filtered > 0 {
		texts = append(texts, report.Plural(tally.Filtered, "row")+" by --where")
	}
	return strings.Join(texts, ", ")
}

// printEndsToday says that a period which ends on the as-of day counts as running: that day may not be over.
func (f *factsFlags) printEndsToday(p *plan, summary facts.Summary) {
	if summary.Rows == 0 || p.Operation.ToDate {
		return
	}
	asOf := p.Operation.AsOf
	for _, grain := range append([]calendar.Grain{p.Operation.Grain}, f.others...) {
		if period := grain.Locate(asOf); grain.Unit > calendar.Day && period.Last == asOf && summary.Last >= period.First {
			f.app.report().Note("%s ends on the as-of day and counts as running; if that day is over, --as-of %s counts it as complete", grain.Label(period), asOf+1)
		}
	}
}

// printGroupEnds says which groups end before they should.
func (f *factsFlags) printGroupEnds() {
	if len(f.groupEnds) == 0 {
		return
	}
	const most = 5
	var told []string
	for _, one := range f.groupEnds[:min(len(f.groupEnds), most)] {
		var values []string
		for _, value := range one.Values {
			values = append(values, cmp.Or(value, "(blank)"))
		}
		told = append(told, fmt.Sprintf("%s on %s", strings.Join(values, " "), one.Last))
	}
	if more := len(f.groupEnds) - len(told); more > 0 {
		told = append(told, fmt.Sprintf("and %s", report.Plural(more, "other")))
	}
	f.app.report().Attention("%s %s earlier than expected: %s. What is missing after that counts as not loaded",
		report.Plural(len(f.groupEnds), "group"), verb(len(f.groupEnds), "ends", "end"), strings.Join(told, ", "))
}

// printEnd says where the facts end before they are expected to.
func (f *factsFlags) printEnd(p *plan) {
	f.printGroupEnds()
	end := f.end
	if end == nil {
		return
	}
	r, next := f.app.report(), end.Last+1
	if end.Cut != nil {
		what := "its change is left out"
		if len(p.Operation.Against) == 0 {
			what = "it is not complete"
		}
		r.Attention("The data ends on %s, and %s runs to %s: %s. If no rows are missing, add --loaded-through %[3]s; if today is %[5]s, add --as-of %[5]s", end.Last, end.Grain.Label(*end.Cut), end.Cut.Last, what, next)
		return
	}
	grain := p.Operation.Grain
	if later := grain.Locate(p.Operation.AsOf).Number - grain.Locate(end.Last).Number; later > 0 && p.Operation.To == nil && !p.Operation.ToDate {
		r.Note("the data ends on %s; %s after that, up to %s, %s not shown. --loaded-through %[3]s shows them as zero", end.Last, report.Plural(later, grainWords(grain)), p.Operation.AsOf, verb(later, "is", "are"))
		return
	}
	const week = 7
	if p.Operation.AsOf-end.Last > week {
		r.Note("the data ends on %s", end.Last)
	}
}
