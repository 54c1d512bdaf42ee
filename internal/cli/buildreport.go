package cli

import (
	"fmt"
	"slices"
	"strings"

	"roundyear/calendar"
	"roundyear/internal/app"
	"roundyear/internal/output"
	"roundyear/internal/report"
)

// printNext says how the table is checked: with all that it was built with.
func (b *buildCommand) printNext(t *app.DateTable) {
	if len(b.out.outs) == 0 || b.out.outs[0] == "-" || output.IsStream(b.out.outs[0]) || !t.IsDaily() {
		return
	}
	if !t.Has("date") && !t.Has("date_key") {
		return // nothing tells which day a row is of
	}
	words := []string{"roundyear", "check", argument(b.out.outs[0])}
	for _, cover := range b.days.covers {
		words = append(words, flagWords("cover", cover)...)
	}
	words = append(words, carried(b.command, calendarFlagNames...)...)
	words = append(words, carried(b.command, "language")...)
	words = append(words, carried(b.command, "label")...)
	if len(b.days.covers) > 0 {
		words = append(words, carried(b.command, readingFlagNames...)...)
		words = append(words, carried(b.command, "parts")...)
	}
	if t.Moves() {
		words = append(words, "--as-of", t.AsOf.String())
	}
	b.app.report().Next(words...)
}

// print reports on what was built.
func (b *buildCommand) print(y *app.Year, t *app.DateTable) error {
	r := b.app.report()
	if y.Plan.File != "" {
		r.Line("Plan: %s", y.Plan.File)
	}
	for _, c := range t.Calendars(y) {
		if whole := wholeYears(c, &t.Spanned); t.IsDaily() && !(t.Exact && whole == "none") {
			name := c.Name()
			if c == calendar.Calendar(y.Set.Year) {
				name = "calendar"
			}
			r.Line("Complete %s years: %s", name, whole)
		}
		if slices.Contains(y.Set.Fiscal, c) {
			printFiscal(r, c, t.From.AddMonths(11))
		}
	}
	if len(t.Special) > 0 {
		var texts []string
		for _, special := range t.Special {
			texts = append(texts, fmt.Sprintf("%q (key %d)", special.Label, special.Key))
		}
		r.Line("Plus %s: %s", report.Plural(len(t.Special), "special row"), strings.Join(texts, ", "))
	}
	if t.Moves() {
		r.Line("Moving attributes: as of %s", t.AsOf)
	}
	printSpan(r, &t.Spanned, t.Calendars(y))
	return nil
}
