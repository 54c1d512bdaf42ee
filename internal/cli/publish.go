package cli

import (
	"bytes"
	"context"
	"fmt"
	"path/filepath"
	"slices"
	"strings"

	"github.com/spf13/cobra"

	"roundyear/calendar"
	"roundyear/dimension"
	"roundyear/internal/app"
	"roundyear/internal/database"
	"roundyear/internal/dialect"
	"roundyear/internal/loading"
	"roundyear/yearplan"
)

type publishCommand struct {
	texts []string
	app   *App
	// dates builds the dimension.
	dates buildCommand
	// tellVerified says for which years days off are projected.
	tellVerified func()
	outs         []string
	dialect      string
	name         string
	grains       []string
	clock        string
	joins        []string
	// without names what is left out.
	without     []string
	indexes     bool
	foreignKeys bool
	dryRun      bool
	force       bool
}

// The parts of a model that can be left out.
const (
	withoutFacts   = "facts"
	withoutClock   = "clock"
	withoutTrading = "trading"
)

func (a *App) publishCommand() *cobra.Command {
	p := &publishCommand{app: a, dates: buildCommand{app: a, grain: "day"}}
	command := &cobra.Command{
		Use:   "publish [FACTS…]",
		Short: "Publish the model to a database: dimension, facts and views, with keys and comments",
		Long: `Publish makes the tables of the model in a database: the date dimension, tables of
periods (--grain), the times of day and the trading days of the plan, and the facts
that you name (default: those that the plan joins). Columns have types, keys and
comments. A view of each fact table, such as sales_with_dates, shows its rows with
the columns of their days; rows without a day stay in it.

--out is postgres://user@host/database, mysql://user@host/database, or a file of
SQLite (.db, .sqlite). Without one it is publish.out of the plan, else model.db next
to the plan. A file ending in .sql becomes a script in the SQL of --dialect.

Publish again whenever the plan or the data has changed: only rows that differ are
changed, keys stay the same, and readers see the tables as they were or as they
are, never half of them. Rows or columns that somebody has changed in the database
are reported and left alone; --force restores them.

--join TABLE.COLUMN takes a fact table that is in the database already: it gets a
view, and with --indexes and --foreign-keys an index and a foreign key.`,
		Example: `  roundyear publish
  roundyear publish --grain fiscal.month --foreign-keys --indexes -o shop.db
  roundyear publish sales --dry-run -o sales.db
  roundyear publish --without facts --dialect postgres -o model.sql`,
		Args: arguments(0, -1, ""),
		RunE: func(command *cobra.Command, args []string) error { return p.run(command.Context(), args) },
	}
	p.dates.command = command
	flags := command.Flags()
	flags.StringSliceVar(&p.texts, "text", nil, "keep `COLUMNS` of facts as text, though all of their values are numbers")
	flags.StringArrayVarP(&p.outs, "out", "o", nil, "`WHERE` to publish: postgres://…, mysql://…, FILE.db, or a script FILE.sql (repeatable; default: the plan's, else model.db)")
	flags.StringVar(&p.dialect, "dialect", "", "`SQL` of a script: "+strings.Join(dialect.Names(), ", "))
	flags.StringVar(&p.name, "name", "", "`NAME` of the date dimension (default: the plan's, else dates)")
	flags.StringSliceVar(&p.grains, "grain", nil, "also a table with one row per `GRAIN`, such as month,fiscal.quarter (default: the plan's)")
	flags.StringVar(&p.clock, "clock", "", "also the time-of-day table, one row per `STEP`: 1h, 15m, 30s … (default: the plan's)")
	flags.StringSliceVar(&p.without, "without", nil, "`PARTS` to leave out: facts, clock, trading")
	flags.StringArrayVar(&p.joins, "join", nil, "fact table in the database, `TABLE.COLUMN` with the column of its date, time or key (repeatable)")
	flags.BoolVar(&p.indexes, "indexes", false, "give the date columns of facts an index")
	flags.BoolVar(&p.foreignKeys, "foreign-keys", false, "give the date columns of facts a foreign key, if every row matches a day")
	flags.BoolVar(&p.dryRun, "dry-run", false, "change nothing; print the SQL that would run")
	flags.BoolVar(&p.force, "force", false, "replace tables of others, and restore what was changed in the database")
	p.dates.days.add(command)
	flags.StringSliceVar(&p.dates.columns, "columns", nil, "`ATTRIBUTES` or groups of the dimension, in this order, or all (default: the plan's, else all except the group moving)")
	flags.StringSliceVar(&p.dates.languages, "language", nil, "`LANGUAGES` of names, such as en,de: the first for the main columns, the others for additional ones")
	flags.StringArrayVar(&p.dates.labels, "label", nil, "add a label column, `NAME=PATTERN` in Unicode LDML: 'date_label=dd/MM/yyyy' (repeatable)")
	flags.BoolVar(&p.dates.unknownRow, "unknown-row", false, "add a row for facts without a date")
	flags.StringVar(&p.dates.asOf, "as-of", "", "`DATE` that counts as today, for the group moving (default: today)")
	p.dates.calendars.add(command)
	p.dates.calendars.addWeekend(command)
	p.dates.reading.addWithoutLanguage(command)
	return command
}

// addPlanned takes what the plan says where the call says nothing.
func (p *publishCommand) addPlanned(y *app.Year) error {
	planned := y.Plan.Publish
	given := given(p.dates.command)
	if p.name != "" {
		y.Plan.Model.Name = p.name
	}
	if len(p.outs) == 0 {
		for _, out := range planned.Out {
			if !database.IsAddress(out) {
				out = shown(y.Path(out))
			}
			p.outs = append(p.outs, out)
		}
	}
	if len(p.outs) == 0 {
		p.outs = []string{shown(y.Path("model.db"))}
	}
	p.dialect, p.grains, p.joins = given.Text("dialect", p.dialect, planned.Dialect), given.Texts("grain", p.grains, planned.Grains), given.Texts("join", p.joins, planned.Join)
	p.indexes, p.foreignKeys = given.Truth("indexes", p.indexes, planned.Indexes), given.Truth("foreign-keys", p.foreignKeys, planned.ForeignKeys)
	for _, part := range p.without {
		if part != withoutFacts && part != withoutClock && part != withoutTrading {
			return usageError{fmt.Errorf("--without must be facts, clock or trading, not %q", part)}
		}
	}
	for _, join := range p.joins {
		if table, column, found := cutLast(join, "."); !found || table == "" || column == "" {
			return usageError{fmt.Errorf("--join must be TABLE.COLUMN, such as receipts.sold_at, not %q", join)}
		}
	}
	for i, out := range p.outs {
		switch {
		case database.IsAddress(out), database.IsFile(out):
		case strings.EqualFold(filepath.Ext(out), ".sql"):
			if p.dialect == "" {
				return usageError{fmt.Errorf("%s needs --dialect: %s", out, strings.Join(dialect.Names(), ", "))}
			}
			if len(p.joins) > 0 {
				return usageError{fmt.Errorf("--join takes tables of a database, which a script does not see; leave it out for %s", out)}
			}
		default:
			return usageError{fmt.Errorf("a model is published to postgres://…, mysql://…, a file of SQLite (.db, .sqlite) or a script (.sql), not to %q", database.Shown(out))}
		}
		if slices.Contains(p.outs[:i], out) {
			return usageError{fmt.Errorf("%s is given twice", out)}
		}
	}
	if p.dialect != "" && dialect.Named(p.dialect) == nil {
		return usageError{fmt.Errorf("--dialect must be %s, not %q", strings.Join(dialect.Names(), ", "), p.dialect)}
	}
	return nil
}

func (p *publishCommand) leavesOut(part string) bool { return slices.Contains(p.without, part) }

func (p *publishCommand) run(ctx context.Context, args []string) error {
	y, err := p.app.year(&p.dates.calendars)
	if err != nil {
		return err
	}
	if err := overruleNames(y.Plan, p.dates.languages, p.dates.labels); err != nil {
		return err
	}
	if err := p.addPlanned(y); err != nil {
		return err
	}
	if len(args) > 0 && p.leavesOut(withoutFacts) {
		return usageError{fmt.Errorf("--without facts leaves out %s; omit one of them", args[0])}
	}
	request, done, err := p.request(ctx, y, args)
	if err != nil {
		return err
	}
	defer done()
	model, err := request.Model(ctx)
	if err != nil {
		return err
	}
	for _, facts := range request.Facts {
		p.tellUnmatched(facts, y.Plan.Model.Name)
	}
	p.tellVerified = func() {
		if request.Dates.TellsDaysOff(y) {
			p.app.printBeyondVerified(y, request.Dates.From, request.Dates.To)
		}
	}
	for _, out := range p.outs {
		if err := p.publish(ctx, y, out, model); err != nil {
			return err
		}
	}
	return p.app.files.Commit()
}

// request says what the model consists of, and opens the facts, which done closes.
func (p *publishCommand) request(ctx context.Context, y *app.Year, args []string) (_ *app.Publish, done func(), err error) {
	asOf, err := asOf(p.dates.asOf)
	if err != nil {
		return nil, nil, err
	}
	t, err := p.dates.describe(y, asOf)
	if err != nil {
		return nil, nil, err
	}
	reading, err := p.dates.reading.read()
	if err != nil {
		return nil, nil, err
	}
	if err := p.dates.days.find(ctx, p.app, y, reading, t); err != nil {
		return nil, nil, err
	}
	if t.Columns, err = y.Plan.Model.Naming.Columns(t.Attributes); err != nil {
		return nil, nil, usageError{err}
	}
	request := &app.Publish{Year: y, Dates: t, WantsIndexes: p.indexes, WantsForeign: p.foreignKeys, Trading: len(y.Plan.Sites) > 0 && !p.leavesOut(withoutTrading)}
	for _, name := range p.grains {
		coarse, err := p.coarse(y, t, name)
		if err != nil {
			return nil, nil, err
		}
		request.Coarse = append(request.Coarse, coarse)
	}
	if request.Clock, err = p.clockOf(y); err != nil {
		return nil, nil, err
	}
	request.Facts, done, err = p.facts(ctx, y, args)
	return request, done, err
}

// coarse is a table of periods.
func (p *publishCommand) coarse(y *app.Year, days *app.DateTable, name string) (*app.DateTable, error) {
	grain, err := y.Set.Grain(name)
	if err != nil {
		return nil, usageError{fmt.Errorf("--grain: %w", err)}
	}
	if grain.Unit == calendar.Day {
		return nil, usageError{fmt.Errorf("--grain day is the date dimension itself")}
	}
	t := &app.DateTable{Catalogue: days.Catalogue, Attributes: slices.Clone(days.Attributes), Grain: grain, AsOf: days.AsOf, Spanned: days.Spanned}
	t.NamePeriods()
	if !t.Coarsen() {
		return nil, usageError{fmt.Errorf("--grain %s: none of the columns is the same for a whole %s", name, grainWords(grain))}
	}
	t.AddSpecial(y, p.dates.wantsUnknown())
	t.Columns, err = y.Plan.Model.Naming.Columns(t.Attributes)
	return t, err
}

// clockOf is the table of times of day; nil for none.
func (p *publishCommand) clockOf(y *app.Year) (*dimension.Clock, error) {
	step := y.Plan.Clock.Step
	if p.clock != "" {
		var ok bool
		if step, ok = yearplan.ParseStep(p.clock); !ok {
			return nil, usageError{fmt.Errorf("--clock must be a step such as 1h, 15m or 30s, not %q", p.clock)}
		}
	}
	if step == 0 || p.leavesOut(withoutClock) {
		return nil, nil
	}
	clock, err := dimension.NewClock(step, y.Plan.Clock.Parts)
	if err != nil {
		return nil, usageError{fmt.Errorf("--clock: %w", err)}
	}
	return clock, nil
}

// publish publishes the model to one place.
func (p *publishCommand) publish(ctx context.Context, y *app.Year, out string, model *app.MadeModel) error {
	own := model.Model
	own.Views = slices.Clone(model.Views)
	if strings.EqualFold(filepath.Ext(out), ".sql") && !database.IsAddress(out) {
		return p.script(ctx, y, out, &own)
	}
	if err := p.checkInputs(out); err != nil {
		return err
	}
	p.app.notePassword()
	session, err := database.Connect(ctx, out)
	if err != nil {
		return err
	}
	defer session.Close()
	request := loading.Request{Session: session, Name: y.Plan.Model.Name, Model: &own, Force: p.force, Dry: p.dryRun}
	for _, join := range p.joins {
		days := model.Days
		days.Facts, days.Column, _ = cutLast(join, ".")
		request.Joined = append(request.Joined, days)
	}
	outcome, err := loading.Publish(ctx, request)
	if err != nil {
		return err
	}
	if p.dryRun {
		var text bytes.Buffer
		for _, statement := range outcome.Statements {
			text.WriteString(statement)
			if !strings.HasPrefix(statement, "--") {
				text.WriteByte(';')
			}
			text.WriteByte('\n')
		}
		file, err := p.app.create("-")
		if err != nil {
			return err
		}
		if _, err := file.Write(text.Bytes()); err != nil {
			return err
		}
	}
	p.report(session.Name(), outcome)
	return nil
}

// script writes the model as a script.
func (p *publishCommand) script(ctx context.Context, y *app.Year, out string, model *dialect.Model) error {
	d := dialect.Named(p.dialect)
	if p.dryRun {
		out = "-"
	}
	file, err := p.app.create(out)
	if err != nil {
		return err
	}
	heading := []string{
		fmt.Sprintf("The model %s for %s: %s. Written by Round Year.", y.Plan.Model.Name, d.Title, countsOf(len(model.Tables), len(model.Views))),
	}
	if !p.force {
		heading = append(heading, d.IfTaken())
	}
	if err := loading.Script(ctx, file, d, y.Plan.Model.Name, model, heading, p.force); err != nil {
		return err
	}
	if out != "-" {
		p.app.report().Headline("%s: %s as SQL for %s", out, countsOf(len(model.Tables), len(model.Views)), d.Title)
		p.tellVerified()
	}
	return nil
}

// cutLast cuts a text at the last mark.
func cutLast(text, mark string) (before, after string, found bool) {
	at := strings.LastIndex(text, mark)
	if at < 0 {
		return text, "", false
	}
	return text[:at], text[at+len(mark):], true
}
