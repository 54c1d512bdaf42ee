package cli

import (
	"fmt"

	"roundyear/dimension"
	"roundyear/internal/app"
	"roundyear/internal/report"
	"roundyear/yearplan"
)

// buildClock builds the table of times of day.
func (b *buildCommand) buildClock(y *app.Year) error {
	if b.days.given() || b.grain != "day" || len(b.columns) > 0 {
		return usageError{fmt.Errorf("--clock builds the time-of-day table, which has no range, grain or choice of columns")}
	}
	step, ok := yearplan.ParseStep(b.clock)
	if !ok {
		return usageError{fmt.Errorf("--clock must be a step such as 1h, 15m or 30s, not %q", b.clock)}
	}
	clock, err := dimension.NewClock(step, y.Plan.Clock.Parts)
	if err != nil {
		return usageError{fmt.Errorf("--clock: %w", err)}
	}
	attributes := clock.Attributes()
	columns, err := y.Plan.Model.Naming.Columns(attributes)
	if err != nil {
		return usageError{err}
	}
	sinks, err := b.out.open(b.app, columns, clock.Rows() <= 100)
	if err != nil {
		return err
	}
	defer sinks.abort()
	headline := func() {
		b.app.report().Headline("%s, one per %s, with %s%s", report.Plural(clock.Rows(), "row"), stepText(step), report.Plural(len(attributes), "attribute"), b.out.where())
	}
	if sinks.forPeople() {
		headline()
	}
	for _, special := range y.SpecialRows(b.wantsUnknown()) {
		if err := sinks.write(special.Values(attributes)); err != nil {
			return err
		}
	}
	for row := range clock.Times() {
		if err := sinks.write(row); err != nil {
			return err
		}
	}
	if err := sinks.commit(); err != nil {
		return err
	}
	if !sinks.forPeople() {
		headline()
	}
	b.app.report().Line("Join facts by time_key: their time as hhmmss, rounded down to the step")
	return nil
}

func stepText(step int) string {
	switch {
	case step == 1:
		return "second"
	case step == 60:
		return "minute"
	case step == 3600:
		return "hour"
	case step%3600 == 0:
		return fmt.Sprintf("%d hours", step/3600)
	case step%60 == 0:
		return fmt.Sprintf("%d minutes", step/60)
	}
	return fmt.Sprintf("%d seconds", step)
}
