package cli

import (
	"fmt"
	"slices"
	"strings"

	"roundyear/calendar"
	"roundyear/dimension"
	"roundyear/internal/app"
	"roundyear/internal/output"
	"roundyear/internal/report"
)

// printNext says how the table is checked: with all that it was built with.
func (b *buildCommand) printNext(t *dateTable) {
	if len(b.out.outs) == 0 || b.out.outs[0] == "-" || output.IsStream(b.out.outs[0]) || t.grain.Unit != calendar.Day {
		return
	}
	if !slices.ContainsFunc(t.attributes, func(a dimension.Attribute) bool { return a.Name == "date" || a.Name == "date_key" }) {
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
	if t.moves() {
		words = append(words, "--as-of", t.asOf.String())
	}
	b.app.report().Next(words...)
}

// print reports on what was built.
func (b *buildCommand) print(y *app.Year, t *dateTable) error {
	r := b.app.report()
	if y.Plan.File != "" {
		r.Line("Plan: %s", y.Plan.File)
	}
	for _, c := range t.calendars(y) {
		if whole := wholeYears(c, &t.Spanned); t.grain.Unit == calendar.Day && !(t.Exact && whole == "none") {
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
	if len(t.special) > 0 {
		var texts []string
		for _, special := range t.special {
			texts = append(texts, fmt.Sprintf("%q (key %d)", special.Label, special.Key))
		}
		r.Line("Plus %s: %s", report.Plural(len(t.special), "special row"), strings.Join(texts, ", "))
	}
	if t.moves() {
		r.Line("Moving attributes: as of %s", t.asOf)
	}
	printSpan(r, &t.Spanned, t.calendars(y))
	return nil
}

// calendars returns the calendars that the table says something of: the
// Gregorian, and of the fiscal ones those that are in its columns.
func (t *dateTable) calendars(y *app.Year) []calendar.Calendar {
	calendars := []calendar.Calendar{y.Set.Year}
	for _, fiscal := range y.Set.Fiscal {
		plain := calendar.IsCalendarYear(fiscal) && y.Plan.File == ""
		if !plain && slices.ContainsFunc(t.attributes, func(a dimension.Attribute) bool { return a.Group == fiscal.Name() }) {
			calendars = append(calendars, fiscal)
		}
	}
	return calendars
}
