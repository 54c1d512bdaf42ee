package cli

import (
	"context"
	"encoding/json"
	"fmt"
	"strings"

	"github.com/spf13/cobra"

	"roundyear/check"
	"roundyear/internal/reading"
	"roundyear/internal/report"
	"roundyear/internal/table"
)

type checkCommand struct {
	app     *App
	date    string
	key     string
	covers  []string
	json    bool
	reading readingFlags
}

func (a *App) checkCommand() *cobra.Command {
	c := &checkCommand{app: a}
	command := &cobra.Command{
		Use:   "check TABLE",
		Short: "Prove a date table, and that facts find their days in it",
		Long: `Check reads a date table, whoever made it, and looks for blank, unreadable,
duplicate and missing days, days out of order, times of day that would keep
facts from joining, and keys that are not their date. With --cover it looks up
the days of facts. It exits with 1 when there are faults.`,
		Example: `  roundyear check dates.csv
  roundyear check dates.csv --cover clean/sales.csv:sold_at_date --json`,
		Args: arguments(1, 1, "the date table"),
		RunE: func(command *cobra.Command, args []string) error { return c.run(command.Context(), args[0]) },
	}
	flags := command.Flags()
	flags.StringVar(&c.date, "date", "", "date `COLUMN` of the table (default: date, or the only one)")
	flags.StringVar(&c.key, "key", "", "`COLUMN` with the date as yyyymmdd (default: date_key, if there is one)")
	flags.StringArrayVar(&c.covers, "cover", nil, "look up the days of facts: `FILE:COLUMN` (repeatable)")
	flags.BoolVar(&c.json, "json", false, "the report as JSON on standard output")
	c.reading.add(command)
	return command
}

func (c *checkCommand) run(ctx context.Context, input string) error {
	dates, err := c.readTable(ctx, input)
	if err != nil {
		return err
	}
	var facts []*check.Facts
	for _, cover := range c.covers {
		all := &check.Facts{Source: cover}
		err := c.app.eachDay(ctx, cover, c.reading, func() dayCollector { return &check.Facts{} }, func(part dayCollector) {
			all.Join(part.(*check.Facts))
		})
		if err != nil {
			return err
		}
		facts = append(facts, all)
	}
	found := dates.Report(facts...)
	if c.json {
		if err := c.writeJSON(found); err != nil {
			return err
		}
	} else {
		c.say(input, found)
	}
	if len(found.Faults) > 0 {
		return errAttention
	}
	return nil
}

// readTable takes in the rows of the table in their order.
func (c *checkCommand) readTable(ctx context.Context, input string) (*check.Table, error) {
	source, done, err := c.app.open(ctx, []string{input}, 2)
	if err != nil {
		return nil, err
	}
	defer done()
	column, key := c.date, -1
	if column == "" {
		if place, err := source.Find("date"); err == nil {
			column = source.Columns()[place]
		}
	}
	if c.key != "" {
		if key, err = source.Find(c.key); err != nil {
			return nil, err
		}
	} else if place, err := source.Find("date_key"); err == nil {
		key = place
	}
	dates, err := c.app.dates(ctx, source, column, c.reading)
	if err != nil {
		return nil, err
	}
	result := &check.Table{}
	work := func() func(*table.Chunk) ([]check.Row, error) {
		reader := dates.Reader()
		return func(chunk *table.Chunk) ([]check.Row, error) {
			reader.Enter(chunk.File)
			var rows []check.Row
			var record table.Record
			records := chunk.Records()
			for records.Next(&record) {
				moment, state := reader.Read(&record)
				row := check.Row{Line: record.Line, Read: state == reading.Read, Day: moment.Day, Timed: moment.Nanos != 0}
				if state != reading.Blank {
					row.Text = reader.Value(&record)
				}
				if key >= 0 {
					row.Key, row.Keyed = string(record.Field(key)), true
				}
				rows = append(rows, row)
			}
			return rows, records.Err()
		}
	}
	return result, table.Process(ctx, source, work, func(rows []check.Row) error {
		for _, row := range rows {
			result.Add(row)
		}
		return nil
	})
}

// mostShown is how many faults of one kind are shown.
const mostShown = 10

// say gives the report: a certificate, or the faults.
func (c *checkCommand) say(input string, found *check.Report) {
	r := c.app.report()
	if len(found.Faults) == 0 {
		r.Headline("%s is right: %s, one a day from %s to %s", input, report.Plural(found.Rows, "row"), found.First, found.Last)
		r.Line("Proved: no day is missing, none is there twice, all are in order, and no date has a time of day")
		if found.Keys > 0 {
			r.Line("Proved: each of %s is its date as yyyymmdd", report.Plural(found.Keys, "key"))
		}
		c.sayFacts(r, found)
		return
	}
	r.Attention("%s has faults of %s", input, kinds(found.Faults))
	var rows [][]string
	shown := map[check.Kind]int{}
	for _, fault := range found.Faults {
		if shown[fault.Kind]++; shown[fault.Kind] <= mostShown {
			rows = append(rows, []string{string(fault.Kind), faultDays(fault), faultPlace(fault), faultText(fault)})
		}
	}
	r.Table([]string{"fault", "days", "where", "what to do"}, make([]bool, 4), rows)
	for kind, count := range shown {
		if count > mostShown {
			r.Line("… and %s of kind %q; --json lists them all", report.Plural(count-mostShown, "more fault"), kind)
		}
	}
	c.sayFacts(r, found)
}

func (c *checkCommand) sayFacts(r *report.Report, found *check.Report) {
	for _, facts := range found.Facts {
		text := fmt.Sprintf("%s of %s find their day", report.Count(facts.Placed), report.Plural(facts.Count, "dated fact"))
		if facts.Blanks > 0 {
			text += fmt.Sprintf("; %s without a date", report.Plural(facts.Blanks, "more"))
			text = strings.Replace(text, "mores", "more", 1)
		}
		r.Line("%s: %s", facts.Source, text)
	}
}

// kinds lists the kinds of faults, each once.
func kinds(faults []check.Fault) string {
	var names []string
	seen := map[check.Kind]bool{}
	for _, fault := range faults {
		if !seen[fault.Kind] {
			seen[fault.Kind] = true
			names = append(names, string(fault.Kind))
		}
	}
	if len(names) == 1 {
		return "one kind: " + names[0]
	}
	return fmt.Sprintf("%d kinds: %s", len(names), strings.Join(names, ", "))
}

func faultDays(fault check.Fault) string {
	switch {
	case fault.Kind == check.BlankDate || fault.Kind == check.Unreadable:
		return ""
	case fault.Kind == check.Disorder:
		return fault.Last.String()
	case fault.First == fault.Last:
		return fault.First.String()
	}
	return fault.First.String() + " to " + fault.Last.String()
}

func faultPlace(fault check.Fault) string {
	if fault.Source != "" {
		return fault.Source
	}
	var lines []string
	for _, line := range fault.Lines[:min(len(fault.Lines), 5)] {
		lines = append(lines, report.Count(line))
	}
	if len(fault.Lines) > 5 {
		lines = append(lines, "…")
	}
	switch len(lines) {
	case 0:
		return ""
	case 1:
		return "line " + lines[0]
	}
	return "lines " + strings.Join(lines, ", ")
}

// faultText says what is wrong in numbers and how it is mended.
func faultText(fault check.Fault) string {
	switch fault.Kind {
	case check.BlankDate:
		return "give the row its day or take it out"
	case check.Unreadable:
		return fmt.Sprintf("%q is no date of the column's form", fault.Value)
	case check.TimeOfDay:
		return fmt.Sprintf("%q has a time, so facts of the day do not join; cut it off", fault.Value)
	case check.Duplicate:
		return "take out " + report.Plural(fault.Count, "row") + "; facts of the day would count twice"
	case check.Missing:
		return "add " + report.Plural(fault.Count, "day")
	case check.Disorder:
		return fmt.Sprintf("comes after %s; sort the table by its date", fault.First)
	case check.WrongKey:
		return fmt.Sprintf("the key is %q and should be %s", fault.Value, fault.Wanted)
	case check.Uncovered:
		return report.Plural(fault.Count, "fact") + " without a day here; build with --cover"
	}
	return ""
}

// jsonFault is a fault as --json writes it.
type jsonFault struct {
	Kind   check.Kind `json:"kind"`
	Source string     `json:"source,omitempty"`
	Lines  []int      `json:"lines,omitempty"`
	First  string     `json:"first,omitempty"`
	Last   string     `json:"last,omitempty"`
	Count  int        `json:"count"`
	Value  string     `json:"value,omitempty"`
	Wanted string     `json:"wanted,omitempty"`
}

func (c *checkCommand) writeJSON(found *check.Report) error {
	type jsonFacts struct {
		Source  string `json:"source"`
		Facts   int    `json:"facts"`
		Undated int    `json:"undated"`
		Placed  int    `json:"placed"`
	}
	result := struct {
		Right  bool        `json:"right"`
		Rows   int         `json:"rows"`
		Days   int         `json:"days"`
		First  string      `json:"first,omitempty"`
		Last   string      `json:"last,omitempty"`
		Keys   int         `json:"keys_proved"`
		Faults []jsonFault `json:"faults"`
		Facts  []jsonFacts `json:"facts"`
	}{
		Right: len(found.Faults) == 0, Rows: found.Rows, Days: found.Days, Keys: found.Keys,
		Faults: []jsonFault{}, Facts: []jsonFacts{},
	}
	if found.Days > 0 {
		result.First, result.Last = found.First.String(), found.Last.String()
	}
	for _, fault := range found.Faults {
		entry := jsonFault{Kind: fault.Kind, Source: fault.Source, Lines: fault.Lines, Count: fault.Count, Value: fault.Value, Wanted: fault.Wanted}
		if fault.Kind != check.BlankDate && fault.Kind != check.Unreadable {
			entry.First, entry.Last = fault.First.String(), fault.Last.String()
		}
		result.Faults = append(result.Faults, entry)
	}
	for _, facts := range found.Facts {
		result.Facts = append(result.Facts, jsonFacts{facts.Source, facts.Count + facts.Blanks, facts.Blanks, facts.Placed})
	}
	text, err := json.MarshalIndent(result, "", "  ")
	if err != nil {
		return err
	}
	out := table.Stream("standard output", c.app.stdout)
	if _, err := out.Write(append(text, '\n')); err != nil {
		return err
	}
	return out.Commit()
}
