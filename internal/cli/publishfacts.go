package cli

import (
	"context"
	"errors"
	"fmt"
	"io/fs"
	"os"
	"slices"
	"strings"

	"roundyear/calendar"
	"roundyear/fault"
	"roundyear/internal/app"
	"roundyear/internal/database"
	"roundyear/internal/report"
	"roundyear/internal/table"
	"roundyear/internal/terminal"
	"roundyear/yearplan"
)

// facts opens the facts that become tables: those of the call, or those that the plan joins.
func (p *publishCommand) facts(ctx context.Context, y *app.Year, args []string) (all []*app.PublishedFacts, done func(), err error) {
	var closers []func()
	closeAll := func() {
		for _, end := range closers {
			end()
		}
	}
	defer func() {
		if err != nil {
			closeAll()
		}
	}()
	if p.leavesOut(withoutFacts) {
		return nil, closeAll, nil
	}
	isPlanned := len(args) == 0
	if isPlanned {
		args = plannedFacts(y)
	}
	for _, arg := range args {
		if isPlanned && p.joinsInDatabase(y, arg) {
			continue
		}
		one, end, err := p.open(ctx, y, arg)
		if err != nil {
			return nil, nil, err
		}
		closers = append(closers, end)
		if i := slices.IndexFunc(all, func(o *app.PublishedFacts) bool { return strings.EqualFold(o.Name, one.Name) }); i >= 0 {
			return nil, nil, usageError{fmt.Errorf("two fact tables would be called %s; name them in the plan under facts", one.Name)}
		}
		all = append(all, one)
	}
	return all, closeAll, nil
}

// plannedFacts are the names of the facts that the plan publishes.
func plannedFacts(y *app.Year) []string {
	if len(y.Plan.Publish.Facts) > 0 {
		return y.Plan.Publish.Facts
	}
	joins := y.Plan.Model.Joins
	if len(joins) == 0 {
		joins = y.Plan.Range.Cover
	}
	var names []string
	for _, join := range joins {
		if !slices.Contains(names, join.Facts) {
			names = append(names, join.Facts)
		}
	}
	return names
}

// joinsInDatabase tells whether facts of the plan are a table of a server. Such facts are not copied: they are joined where they are, if the
// model is published there.
func (p *publishCommand) joinsInDatabase(y *app.Year, name string) bool {
	facts := y.Plan.FactsNamed(name)
	if facts == nil || facts.Out != "" || len(facts.Files) == 0 || !database.IsAddress(facts.Files[0]) {
		return false
	}
	server, tableName, _ := strings.Cut(facts.Files[0], "#")
	for _, out := range p.outs {
		if out == server && len(facts.Dates) > 0 {
			p.joins = append(p.joins, tableName+"."+facts.Dates[0].Column)
		}
	}
	return true
}

// open opens facts by their name in the plan, or a file.
func (p *publishCommand) open(ctx context.Context, y *app.Year, arg string) (*app.PublishedFacts, func(), error) {
	named := y.Named(ctx, []string{arg}, true)
	planned := named.Facts
	if planned == nil {
		planned = y.FactsOf(named.Inputs)
	}
	if planned == nil {
		planned = factsWithOut(y, arg)
	}
	if named.Facts != nil && named.Facts.Out != "" && !named.IsNormalised {
		return nil, nil, &fault.Fault{File: shown(y.Path(planned.Out)), What: fmt.Sprintf("the facts %s of the plan have not been normalised yet", planned.Name),
			Remedy: fmt.Sprintf("Run roundyear normalise %s -o %s", quotedGlobs(y, planned.Files), terminal.Path(shown(y.Path(planned.Out))))}
	}
	reading, err := p.dates.reading.readBy(planned, named.Date())
	if err != nil {
		return nil, nil, err
	}
	if planned != nil && !reading.Given["blank-as"] {
		reading.Form.BlankAs = planned.BlankAs
	}
	if reading, _, err = p.app.described(named.Inputs, reading); err != nil {
		return nil, nil, err
	}
	const passes = 2 // the types, and the rows
	source, end, err := p.app.open(ctx, named.Inputs, passes, reading.Form)
	if err != nil {
		return nil, nil, err
	}
	facts := &app.PublishedFacts{Source: source, Texts: p.texts}
	if planned != nil {
		facts.Texts = given(p.dates.command).Texts("text", p.texts, planned.Texts)
		if facts.Marks, err = readDecimals(source, planned, nil); err != nil {
			end()
			return nil, nil, err
		}
		facts.Name = planned.Name
		for _, dates := range joinedDates(y, planned) {
			grain := calendar.Grain{Calendar: y.Set.Year, Unit: dates.Grain}
			if dates.Grain == calendar.Week {
				grain.Calendar = y.Set.Week
			}
			facts.Dates = append(facts.Dates, &app.PublishedDate{Name: dates.Column, Grain: grain})
		}
		return facts, end, nil
	}
	facts.Name = table.StemOf(named.Inputs[0])
	if address, err := database.Parse(arg); database.IsAddress(arg) && err == nil {
		facts.Name = address.Table
	}
	for _, name := range source.Names() {
		if base, found := strings.CutSuffix(name, "_date"); found {
			facts.Dates = append(facts.Dates, &app.PublishedDate{Name: base})
		}
	}
	if len(facts.Dates) == 0 {
		for _, name := range source.Names() {
			if name == "date" || name == "date_key" {
				facts.Dates = []*app.PublishedDate{{Name: "date"}}
			}
		}
	}
	return facts, end, nil
}

// joinedDates are the dates of facts, those first that the plan joins.
func joinedDates(y *app.Year, facts *yearplan.Facts) []yearplan.Dates {
	dates := slices.Clone(facts.Dates)
	place := func(column string) int {
		at := slices.IndexFunc(y.Plan.Model.Joins, func(j yearplan.Join) bool { return j.Facts == facts.Name && j.Column == column })
		if at < 0 {
			return len(y.Plan.Model.Joins)
		}
		return at
	}
	slices.SortStableFunc(dates, func(a, b yearplan.Dates) int { return place(a.Column) - place(b.Column) })
	return dates
}

// factsWithOut are the facts of the plan that a file was normalised from; nil if there are none.
func factsWithOut(y *app.Year, path string) *yearplan.Facts {
	info, err := os.Stat(path)
	if err != nil && !database.IsTable(path) {
		return nil
	}
	for i := range y.Plan.Facts {
		facts := &y.Plan.Facts[i]
		if facts.Out == "" {
			continue
		}
		if database.IsTable(path) {
			if isSameTable(path, y.Path(facts.Out)) {
				return facts
			}
			continue
		}
		if other, err := os.Stat(y.Path(facts.Out)); err == nil && os.SameFile(info, other) {
			return facts
		}
	}
	return nil
}

// checkInputs refuses to publish to a file that the run reads.
func (p *publishCommand) checkInputs(out string) error {
	if database.IsAddress(out) {
		return nil
	}
	if _, err := os.Stat(out); errors.Is(err, fs.ErrNotExist) {
		return nil
	}
	return p.app.files.Check(out)
}

// tellUnmatched says how many facts have no day in the dimension.
func (p *publishCommand) tellUnmatched(facts *app.PublishedFacts, dates string) {
	for _, date := range facts.Dates {
		switch {
		case date.IsText:
			p.app.report().Attention("%s: %s is text, and joins no day; normalise the facts, and publish what that writes", facts.Name, date.Name)
		case date.Unmatched > 0:
			without := ""
			if p.foreignKeys {
				without = "; no foreign key added"
			}
			p.app.report().Attention("%s: the %s of %s is not in %s%s", facts.Name, date.Name, report.Plural(date.Unmatched, "row"), dates, without)
		}
	}
}
