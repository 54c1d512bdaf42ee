package cli

import (
	"encoding/json"
	"fmt"
	"io"
	"strings"

	"github.com/spf13/cobra"

	"roundyear/civil"
	"roundyear/dimension"
	"roundyear/internal/app"
	"roundyear/internal/terminal"
)

type explainCommand struct {
	app       *App
	columns   []string
	languages []string
	labels    []string
	json      bool
	asOf      string
	calendars calendarFlags
}

func (a *App) explainCommand() *cobra.Command {
	e := &explainCommand{app: a}
	command := &cobra.Command{
		Use:   "explain DATE…",
		Short: "Explain the attributes of a date step by step",
		Long: `Explain shows the attributes of a date and how each is computed, step by step. It
uses the same definitions as build. roundyear columns lists attributes and groups.`,
		Example: `  roundyear explain 2024-02-29
  roundyear explain 2026-01-31 --columns fiscal_year,fiscal_month --fiscal-start february
  roundyear explain 2026-03-01 2026-03-02 --columns weeks --json`,
		Args: arguments(1, -1, "the date"),
		RunE: func(_ *cobra.Command, args []string) error { return e.run(args) },
	}
	flags := command.Flags()
	flags.StringSliceVar(&e.columns, "columns", nil, "`ATTRIBUTES` or groups to explain (default: all)")
	flags.StringSliceVar(&e.languages, "language", nil, "`LANGUAGES` of names, such as en,de")
	flags.StringArrayVar(&e.labels, "label", nil, "add a label, `NAME=PATTERN` in Unicode LDML (repeatable)")
	flags.BoolVar(&e.json, "json", false, "write the explanation to standard output as JSON")
	flags.StringVar(&e.asOf, "as-of", "", "`DATE` that counts as today (default: today)")
	e.calendars.add(command)
	e.calendars.addWeekend(command)
	return command
}

func (e *explainCommand) run(args []string) error {
	y, err := e.app.year(&e.calendars)
	if err != nil {
		return err
	}
	if err := overruleNames(y.Plan, e.languages, e.labels); err != nil {
		return err
	}
	asOf, err := asOf(e.asOf)
	if err != nil {
		return err
	}
	catalogue, err := e.app.catalogue(y, asOf)
	if err != nil {
		return err
	}
	names := e.columns
	if len(names) == 0 {
		names = []string{"all"}
	}
	attributes, err := selected(catalogue, "--columns", names)
	if err != nil {
		return err
	}
	var days []civil.Day
	for _, arg := range args {
		day, err := civil.Parse(arg)
		if err != nil {
			return usageError{fmt.Errorf("%w; write the date as 2026-03-01", err)}
		}
		if day < app.FirstBuilt {
			return usageError{fmt.Errorf("%s is before %s, the first day that a date table can have", day, app.FirstBuilt)}
		}
		days = append(days, day)
	}
	if e.json {
		return e.writeJSON(y, catalogue, attributes, days, asOf)
	}
	out, err := e.app.createPainted("-")
	if err != nil {
		return err
	}
	for i, day := range days {
		if i > 0 {
			fmt.Fprintln(out)
		}
		e.print(out, y, catalogue.Explain(attributes, day), day)
	}
	return e.app.files.Commit()
}

// print writes what a day is, by groups.
func (e *explainCommand) print(out io.Writer, y *app.Year, explanations []dimension.Explanation, day civil.Day) {
	painted := func(code, text string) string {
		if !e.app.coloured(e.app.stdoutTerminal) {
			return text
		}
		return code + text + "\x1b[0m"
	}
	fmt.Fprintln(out, painted("\x1b[1;38;5;72m", fmt.Sprintf("%s, a %s", day, day.Weekday())))
	group := ""
	for _, one := range explanations {
		if one.Attribute.Group != group {
			group = one.Attribute.Group
			fmt.Fprintf(out, "\n%s\n", painted("\x1b[2m", terminal.Clean(group)))
		}
		name, value := terminal.Clean(y.Plan.Model.Naming.Of(one.Attribute.Name)), terminal.Clean(one.Value.String())
		if one.Value.IsBlank() {
			value = "(blank)"
		}
		fmt.Fprintf(out, "  %s = %s\n", name, painted("\x1b[1m", value))
		for _, line := range wrapped(terminal.Clean(one.Because), explainWidth) {
			fmt.Fprintf(out, "      %s\n", line)
		}
	}
}

// explainWidth is how long the lines of an explanation are at most.
const explainWidth = 96

// wrapped breaks a text into lines between its words.
func wrapped(text string, width int) []string {
	var lines []string
	line := ""
	for word := range strings.FieldsSeq(text) {
		switch {
		case line == "":
			line = word
		case len(line)+1+len(word) > width:
			lines = append(lines, line)
			line = word
		default:
			line += " " + word
		}
	}
	return append(lines, line)
}

// writeJSON writes the explanations of all days.
func (e *explainCommand) writeJSON(y *app.Year, catalogue *dimension.Catalogue, attributes []dimension.Attribute, days []civil.Day, asOf civil.Day) error {
	type jsonAttribute struct {
		Name    string `json:"name"`
		Group   string `json:"group"`
		Type    string `json:"type"`
		Value   any    `json:"value"`
		Because string `json:"because"`
		Meaning string `json:"meaning"`
	}
	type jsonDay struct {
		Date       string          `json:"date"`
		AsOf       string          `json:"as_of"`
		Attributes []jsonAttribute `json:"attributes"`
	}
	var all []jsonDay
	for _, day := range days {
		one := jsonDay{Date: day.String(), AsOf: asOf.String()}
		for _, found := range catalogue.Explain(attributes, day) {
			one.Attributes = append(one.Attributes, jsonAttribute{
				Name: y.Plan.Model.Naming.Of(found.Attribute.Name), Group: found.Attribute.Group, Type: found.Attribute.Type.String(),
				Value: jsonValue(found.Value), Because: found.Because, Meaning: found.Attribute.Meaning,
			})
		}
		all = append(all, one)
	}
	return e.app.writeJSON(all)
}

// writeJSON writes a report as JSON to standard output.
func (a *App) writeJSON(content any) error {
	text, err := json.MarshalIndent(content, "", "  ")
	if err != nil {
		return err
	}
	out, err := a.create("-")
	if err != nil {
		return err
	}
	if _, err := out.Write(append(text, '\n')); err != nil {
		return err
	}
	return a.files.Commit()
}
