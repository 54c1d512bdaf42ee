package cli

import (
	"context"
	"errors"
	"fmt"
	"slices"
	"strings"

	"github.com/spf13/cobra"

	"roundyear/facts"
	"roundyear/fault"
	"roundyear/internal/app"
	"roundyear/internal/delimited"
	"roundyear/internal/reading"
)

// fillCommand are the flags of fill that totals does not have.
type fillCommand struct {
	*factsFlags
	gaps     []string
	combine  string
	lives    string
	onlyOpen bool
	site     string
}

func (a *App) fillCommand() *cobra.Command {
	f := &fillCommand{factsFlags: &factsFlags{app: a}}
	command := &cobra.Command{
		Use:   "fill INPUT…",
		Short: "Fill missing periods: one row per group and period, gaps marked",
		Long: `Fill reads facts and writes one row per period and group (--by), also for periods
in which a group has no rows. Those are marked is_filled; sums and counts are zero
in them, other measures blank, unless --gap says otherwise: carry repeats the
previous value (carry:3 in at most 3 periods), linear interpolates, a number stands
for itself. Rows with such values are marked is_carried. The period that contains the
as-of date is marked is_running, and no period after it is filled.

Fill computes the same figures as totals. Without measures, it keeps the rows as they
are and adds one row per missing period.

Values of --span: all (from the first to the last date of all groups; the default),
since-first (from the first date of the group to the last of all groups), own (from
the first to the last date of the group), lives (from the opening to the closing day
of the group, by --lives or the plan's sites), plan (the range of the date table), or
FROM/TO, such as 2026-01-01/2026-12-31.

With --loaded-through, gaps after that day are not filled: their values are blank,
and is_loaded is false in them.

Conditions of --where: shop=Ballyfern,Cloghvale or != < <= > >=, 'note is blank'.

Grains: day week iso.week month quarter half year week.year iso.year, and those of
each fiscal calendar: fiscal.week fiscal.month fiscal.quarter fiscal.half
fiscal.year. For a calendar that the plan names retail: retail.week and so on.`,
		Example: `  roundyear fill clean/sales.csv --by shop --sum amount
  roundyear fill clean/sales.csv --by shop --sum amount --grain day --only-open -o out/days.csv
  roundyear fill clean/orders.csv --date ordered_date --by plant --last cost --grain week --gap cost=carry
  roundyear fill clean/sales.csv --by shop --sum amount --grain fiscal.month --fiscal-start february --span since-first`,
		Args: arguments(1, -1, "the input file"),
		RunE: func(command *cobra.Command, args []string) error {
			f.isFill = true
			return f.run(command.Context(), args, func(ctx context.Context, p *plan) error { return f.adjust(ctx, p) })
		},
	}
	flags := command.Flags()
	flags.StringArrayVar(&f.gaps, "gap", nil, "value of a measure in a gap, `COLUMN=GAP`: zero, blank, carry, carry:N, linear or a number (repeatable)")
	flags.StringVar(&f.combine, "combine", "seen", "`COMBINATIONS` of the --by columns that get rows: those seen in the data, or all")
	flags.StringVar(&f.lives, "lives", "", "table of when groups opened and closed, `FILE:GROUP,OPENED,CLOSED` with its column names; sets --span lives")
	flags.BoolVar(&f.onlyOpen, "only-open", false, "no rows for periods in which a site of the plan does not trade, unless there are facts")
	flags.StringVar(&f.site, "site", "", "`COLUMN` of --by that names the site, for --only-open and --span lives (default: the one with most names of sites)")
	f.add(command)
	return command
}

// adjust reads what only fill has.
func (f *fillCommand) adjust(ctx context.Context, p *plan) error {
	o := &p.Operation
	if err := p.setGaps(f.gaps); err != nil {
		return err
	}
	if p.Place == app.Inside && len(p.Operation.Measures) == 0 {
		return usageError{errors.New("without a measure fill writes rows, which are read from the database; add one such as --sum, or omit --run inside")}
	}
	switch f.combine {
	case "seen":
	case "all":
		o.CombineAll = true
	default:
		return usageError{fmt.Errorf("--combine must be seen or all, not %q", f.combine)}
	}
	o.OnlyOpen = f.onlyOpen
	if f.site != "" {
		place, err := p.Source.Find(f.site)
		if err != nil {
			return err
		}
		if f.site = p.Source.Names()[place]; !slices.Contains(o.Groups, f.site) {
			return usageError{fmt.Errorf("--site %s is not a column of --by", f.site)}
		}
	}
	if f.lives != "" && !f.command.Flags().Changed("span") {
		o.Span = facts.SpanLives
	}
	if o.Span != facts.SpanLives && !o.OnlyOpen {
		if f.lives != "" {
			return usageError{errors.New("--lives goes with --span lives")}
		}
		return nil
	}
	if len(o.Groups) == 0 {
		return usageError{errors.New("--only-open and --span lives need the groups: --by COLUMN")}
	}
	if f.lives == "" {
		if len(p.year.Plan.Sites) == 0 {
			return usageError{errors.New("when groups are open comes from the sites of the plan, or from --lives FILE:GROUP,OPENED,CLOSED; there is neither")}
		}
		o.Lives = p.year.SiteLives()
		o.Lives.Column = f.site
		return nil
	}
	lives, err := f.readLives(ctx, p)
	if err != nil {
		return err
	}
	o.Lives = &facts.Lives{Of: lives, Column: f.site}
	if o.OnlyOpen {
		return usageError{errors.New("--only-open takes opening days from the plan's sites, and --lives has none")}
	}
	return nil
}

// readLives reads the table of --lives.
func (f *fillCommand) readLives(ctx context.Context, p *plan) (map[string]facts.Life, error) {
	at := colonOf(f.lives)
	columns := strings.Split(f.lives[at+1:], ",")
	if at < 1 || len(columns) != 3 {
		return nil, usageError{fmt.Errorf("--lives must be FILE:GROUP,OPENED,CLOSED with the names of three columns, not %s", fault.Quoted(f.lives))}
	}
	source, done, err := f.app.open(ctx, []string{f.lives[:at]}, 2, delimited.Form{})
	if err != nil {
		return nil, err
	}
	defer done()
	table := app.LivesFile{Source: source, Asked: reading.Asked{Order: p.Asked.Order, Pivot: p.Asked.Pivot}, Group: columns[0], Opened: columns[1], Closed: columns[2]}
	return table.Read(ctx)
}

// setGaps reads COLUMN=GAP, where the column is one of the result's measures.
func (p *plan) setGaps(gaps []string) error {
	for _, text := range gaps {
		name, gap, found := strings.Cut(text, "=")
		if !found {
			return usageError{fmt.Errorf("--gap must be COLUMN=zero, blank, carry, carry:N, linear or a number, not %q", text)}
		}
		known := false
		var names []string
		for i := range p.Operation.Measures {
			names = append(names, p.Operation.Measures[i].Name)
			if !strings.EqualFold(p.Operation.Measures[i].Name, name) {
				continue
			}
			known = true
			if err := p.Operation.Measures[i].SetGap(gap); err != nil {
				return usageError{fmt.Errorf("--gap: %w", err)}
			}
		}
		if !known {
			return usageError{fmt.Errorf("--gap: %q is not a measure; the measures are %s", name, strings.Join(names, ", "))}
		}
	}
	return nil
}
