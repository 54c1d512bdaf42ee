package cli

import (
	"fmt"
	"os"
	"slices"
	"strings"

	"roundyear/cell"
	"roundyear/civil"
	"roundyear/facts"
	"roundyear/internal/app"
	"roundyear/internal/report"
	"roundyear/internal/terminal"
	"roundyear/yearplan"
)

// picks takes what picks a group, COLUMN=VALUE, out of the arguments of --explain. A file of that name wins.
func (f *totalsCommand) picks(args []string) (inputs []string) {
	if f.explain == "" {
		return args
	}
	for _, arg := range args {
		if _, err := os.Lstat(arg); err != nil && strings.Contains(arg, "=") && len(args) > 1 {
			f.picked = append(f.picked, arg)
			continue
		}
		inputs = append(inputs, arg)
	}
	return inputs
}

// readExplain reads which figure is explained: all groups together, or those that are picked.
func (f *totalsCommand) readExplain(p *plan) error {
	if f.explain == "" {
		return nil
	}
	o := &p.Operation
	switch {
	case len(f.others) > 0 || f.acrossColumn != "":
		return usageError{fmt.Errorf("--explain is of a single --grain, without --across")}
	case len(o.Attributes) > 0:
		return usageError{fmt.Errorf("--explain takes columns of the facts in --by, and %s is an attribute of the day", o.Attributes[0].Name)}
	}
	for _, pick := range f.picked {
		name, value, _ := strings.Cut(pick, "=")
		place, err := p.Source.Find(name)
		if err != nil {
			return err
		}
		name = p.Source.Names()[place]
		text := fmt.Sprintf(`%s="%s"`, name, strings.ReplaceAll(value, `"`, `""`))
		found, err := conditions(p.Source, []string{text})
		if err != nil {
			return err
		}
		o.Where, f.where = append(o.Where, found...), append(f.where, text)
		if f.at == "" && f.atColumn == "" && p.isSite(value) {
			f.at = value
		}
		if f.atColumn != "" && strings.EqualFold(f.atColumn, name) {
			f.at, f.atColumn = value, ""
		}
	}
	o.Groups, o.IsTold, o.Top, o.Subtotals, o.Ranked, o.Shares = nil, true, 0, false, false, nil
	f.told = f.tellFigure
	return nil
}

// tellFigure says how a figure came about.
func (f *totalsCommand) tellFigure(p *plan, tally *app.Tallied, result *facts.Result) error {
	grain := p.Operation.Grain
	period, ok := grain.ReadLabels().Find(f.explain)
	if !ok {
		day, err := civil.Parse(f.explain)
		if err != nil {
			return usageError{fmt.Errorf("--explain: %q is not a %s, such as %s, nor a date in one", f.explain, grainWords(grain), grain.Label(grain.Locate(min(result.Summary().Last, p.Operation.AsOf))))}
		}
		period = grain.Locate(day)
	}
	told, ok := result.Tell(period.Number)
	if !ok {
		return usageError{fmt.Errorf("--explain: %s, from %s to %s, is not in the result, which runs from %s to %s", grain.Label(period), period.First, period.Last, result.Summary().First, result.Summary().Last)}
	}
	sets, err := f.app.daysOff(p.year)
	if err != nil {
		return err
	}
	e := &figure{told: told, plan: p, places: app.NewPlaces(p.year, sets, false), place: f.at}
	e.write(f)
	out, err := f.app.createPainted("-")
	if err != nil {
		return err
	}
	defer out.Abort()
	for _, line := range e.lines {
		if _, err := fmt.Fprintln(out, terminal.Clean(line)); err != nil {
			return err
		}
	}
	if err := f.app.files.Commit(); err != nil {
		return err
	}
	if undated := tally.Tally.Summary().Undated; undated > 0 {
		f.app.report().Attention("%s without a date, not in any period", report.Plural(undated, "row"))
	}
	return nil
}

// figure is the explanation of a figure, line by line.
type figure struct {
	told   *facts.Told
	plan   *plan
	places *app.Places
	place  string
	lines  []string
	step   int
}

func (e *figure) say(format string, args ...any) {
	e.step++
	e.lines = append(e.lines, fmt.Sprintf("%d. ", e.step)+fmt.Sprintf(format, args...))
}

func (e *figure) further(format string, args ...any) {
	e.lines = append(e.lines, "   "+fmt.Sprintf(format, args...))
}

// values writes values of the measures with their names.
func (e *figure) values(values []cell.Value) string {
	var texts []string
	for i, measure := range e.plan.Operation.Measures {
		text := report.Grouped(values[i].String())
		if values[i].IsBlank() {
			text = "blank"
		}
		texts = append(texts, measure.Name+" "+text)
	}
	return strings.Join(texts, ", ")
}

func (e *figure) write(f *totalsCommand) {
	t, o := e.told, &e.plan.Operation
	of := ""
	if len(f.picked) > 0 {
		of = ", " + strings.ReplaceAll(strings.Join(f.picked, ", "), "=", " ")
	}
	e.lines = append(e.lines, fmt.Sprintf("%s%s: %s", t.Label, of, e.values(t.Values)))
	e.say("%s runs from %s to %s: %s", t.Label, t.Period.First, t.Period.Last, report.Plural(t.Period.Days(), "day"))
	if why := o.Grain.Calendar.Explain(o.Grain.Unit, t.Period.First); why != "" {
		e.further("%s", why)
	}
	switch {
	case t.ToDate:
		e.say("To date: it counts up to %s, the position of %s in its own %s", t.Last, o.AsOf, grainWords(o.Grain))
	case t.IsRunning:
		e.say("It is running: as of %s, %d of its days have passed or begun", o.AsOf, int(o.AsOf-t.Period.First)+1)
	case t.Period.First > o.AsOf:
		e.say("It has not begun: the as-of date is %s", o.AsOf)
	default:
		e.say("It is complete: it ended before %s, the as-of date", o.AsOf)
	}
	if !t.IsLoaded {
		e.further("Its data is not loaded to the end, so gaps are left blank and not filled")
	}
	e.tellDays()
	for i := range t.Against {
		e.tellAgainst(t.Against[i].Comparison.String(), &t.Against[i])
	}
	if t.Budget != nil {
		e.tellAgainst("budget", t.Budget)
	}
}

// tellDays says on which days there are facts, and why on others there are none.
func (e *figure) tellDays() {
	t := e.told
	with := 0
	first, last := civil.Day(0), civil.Day(0)
	for _, day := range t.Days {
		if day.Rows == 0 {
			continue
		}
		if with == 0 {
			first = day.Day
		}
		last = day.Day
		with++
	}
	switch {
	case with == 0 && t.IsLoaded:
		e.say("No rows: what adds up is filled with zero, everything else is blank")
	case with == 0:
		e.say("No rows")
	default:
		e.say("%s on %d of %s, from %s to %s: %s", report.Plural(t.Rows, "row"), with, report.Plural(len(t.Days), "day"), first, last, e.values(t.Values))
	}
	if count, lines := e.gaps(t.Days); with > 0 && count > 0 {
		e.say("%s without rows", report.Plural(count, "day"))
		for _, line := range lines {
			e.further("%s", line)
		}
	}
}

// gaps returns how many of some days have no facts, and which, those of one reason together.
func (e *figure) gaps(days []facts.ToldDay) (total int, lines []string) {
	const most = 5
	var order []string
	gaps, count := map[string][]string{}, map[string]int{}
	last := map[string]civil.Day{}
	for _, day := range days {
		if day.Rows > 0 {
			continue
		}
		counts, reason, _ := e.places.Why(e.place, day.Day)
		if counts {
			reason = "a workday"
			if e.plan.isSite(e.place) {
				reason = "a trading day"
			}
		}
		if count[reason] == 0 {
			order = append(order, reason)
		}
		total++
		count[reason]++
		texts := gaps[reason]
		if end := len(texts) - 1; end >= 0 && last[reason] == day.Day-1 {
			first, _, _ := strings.Cut(texts[end], " to ")
			texts[end] = first + " to " + day.Day.String()
		} else {
			texts = append(texts, day.Day.String())
		}
		gaps[reason], last[reason] = texts, day.Day
	}
	for _, reason := range order {
		texts, more := gaps[reason], ""
		if len(texts) > most {
			more = fmt.Sprintf(" and %s", report.Plural(len(texts)-most, "other gap"))
			texts = texts[:most]
		}
		lines = append(lines, fmt.Sprintf("%s: %s%s", reason, strings.Join(texts, ", "), more))
	}
	return total, lines
}

// isSite tells whether a place is a site of the plan.
func (p *plan) isSite(name string) bool {
	return slices.ContainsFunc(p.year.Plan.Sites, func(site yearplan.Site) bool { return site.Name == name })
}

// unfairWords say why two periods cannot be compared.
var unfairWords = map[facts.Unfair]string{
	facts.OwnRuns: "the period itself has not ended", facts.OtherRuns: "the other has not ended", facts.OwnNotCovered: "the data begins after the first day of the period", facts.OtherNotCovered: "the data begins after the first day of the other",
	facts.OwnNotLoaded: "the data of the period is not loaded to its end", facts.OtherNotLoaded: "the data of the other is not loaded to its end", facts.DaysUnmatched: "some days have none that matches",
	facts.CutWeek:    "one of the two weeks is cut by the beginning of a fiscal year, and has fewer days",
	facts.OtherEmpty: "there are no such data",
}

// tellAgainst says what the period is held against, and what has changed.
func (e *figure) tellAgainst(name string, a *facts.ToldAgainst) {
	var why []string
	for _, one := range a.Why {
		why = append(why, unfairWords[one])
	}
	if !a.Found {
		e.say("Against %s: nothing, since there is no such data", name)
		return
	}
	label := ""
	if a.Label != "" {
		label = a.Label + ", "
	}
	e.say("Against %s: %s%s to %s, %s", name, label, a.First, a.Last, report.Plural(int(a.Last-a.First)+1, "day"))
	if a.Of > 0 && a.Count > 0 {
		e.further("%d of %s have a day that matches", a.Count, report.Plural(a.Of, "day"))
	}
	if o := &e.plan.Operation; o.Align != nil && (a.Comparison == facts.YearAgo || a.Comparison == facts.TwoYearsAgo) && name != "budget" {
		if on, ok := o.Align.On(e.told.Period.First); ok {
			if before, ok := o.Align.Before(on); ok {
				e.further("Days are matched by their distance from %s: %s is beside %s", o.Align.Name, on, before)
			}
		}
	}
	if count, lines := e.gaps(a.Days); count > 0 && count < len(a.Days) {
		e.further("%s without rows: %s", report.Plural(count, "day"), strings.Join(lines, "; "))
	}
	for _, rate := range e.plan.Operation.Rates {
		now, then := e.told.Period, e.told.Period
		now.Last, then.First, then.Last = e.told.Last, a.First, a.Last
		own, ok := rate.Days(nil, now)
		other, known := rate.Days(nil, then)
		if ok && known {
			e.further("%ss: %d, and %d in the other", strings.ReplaceAll(rate.Name, "_", " "), own, other)
		}
	}
	for i, measure := range e.plan.Operation.Measures {
		if a.Values[i].IsBlank() {
			continue
		}
		value, base := report.Grouped(e.told.Values[i].String()), report.Grouped(a.Values[i].String())
		switch {
		case a.Changes[i].IsBlank():
			e.further("%s: %s, and %s in the other", measure.Name, value, base)
		case a.Percents[i].IsBlank():
			e.further("%s: %s − %s = %s; no percentage of zero", measure.Name, value, base, report.Grouped(a.Changes[i].String()))
		default:
			e.further("%s: %s − %s = %s, which is %s%% of %s", measure.Name, value, base, report.Grouped(a.Changes[i].String()), a.Percents[i].String(), strings.TrimPrefix(base, "-"))
		}
	}
	if !a.IsComparable {
		e.further("No change is given: %s", strings.Join(why, "; "))
	}
}
