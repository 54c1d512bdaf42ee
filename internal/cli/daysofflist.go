package cli

import (
	"bytes"
	"context"
	"encoding/csv"
	"fmt"
	"os"
	"path/filepath"
	"regexp"
	"slices"
	"strconv"
	"strings"

	"roundyear/civil"
	"roundyear/daysoff"
	"roundyear/internal/daylist"
	"roundyear/internal/table"
	"roundyear/yearplan"
)

// readList reads the days off of a file or an address, one for each year if it
// has {year} in it.
func (y *year) readList(source yearplan.DaysOff) ([]*daysoff.Rule, error) {
	if !strings.Contains(source.File, "{year}") {
		return y.readOneList(source, source.File, 0)
	}
	var all []*daysoff.Rule
	for number := source.YearFrom; number <= source.YearTo; number++ {
		read, err := y.readOneList(source, strings.ReplaceAll(source.File, "{year}", strconv.Itoa(number)), number)
		if err != nil {
			return nil, err
		}
		all = append(all, read...)
	}
	return all, nil
}

// readOneList reads one list. Its ending says what it is, or else its content.
func (y *year) readOneList(source yearplan.DaysOff, name string, number int) ([]*daysoff.Rule, error) {
	if !daylist.IsAddress(name) {
		name = y.path(name)
	}
	content, err := y.contentOf(name)
	if err != nil {
		return nil, err
	}
	ending := strings.ToLower(filepath.Ext(strings.SplitN(name, "?", 2)[0]))
	date, title := orElse(source.DateColumn, "date"), orElse(source.NameColumn, "name")
	var list daylist.Table
	switch {
	case ending == ".ics" || bytes.HasPrefix(content, []byte("BEGIN:VCALENDAR")):
		return daylist.ReadICalendar(name, content, source.Kind)
	case ending == ".json":
		list, err = daylist.ReadJSON(name, content)
	case ending == ".html" || ending == ".htm" || bytes.HasPrefix(bytes.TrimSpace(content), []byte("<")):
		var tables []daylist.Table
		if tables, err = daylist.Tables(content); err == nil {
			list, err = daylist.PickTable(name, tables, source.Table, date, title)
		}
	case ending == ".csv" || ending == ".tsv" || daylist.IsAddress(name):
		return readDelimitedList(name, content, date, title, source)
	default:
		return nil, &table.Fault{File: name, What: "days off are read from .ics, .csv, .tsv, .json and .html", Remedy: "A .csv has the columns date and name, and kind if it likes"}
	}
	if err != nil {
		return nil, err
	}
	text, err := delimitedOf(list, date, number)
	if err != nil {
		return nil, err
	}
	return readDelimitedList(name, text, date, title, source)
}

func orElse(text, other string) string {
	if text == "" {
		return other
	}
	return text
}

// contentOf reads a file, or fetches an address. A list that was kept from
// before is said to be one.
func (y *year) contentOf(name string) ([]byte, error) {
	if !daylist.IsAddress(name) {
		content, err := y.files.ReadFile(name)
		if y.files.Context().Err() != nil {
			return nil, y.files.Context().Err()
		}
		if err != nil {
			return nil, &table.Fault{File: name, What: "the days off cannot be read", Cause: err, Outside: true}
		}
		return content, nil
	}
	folder, err := os.UserCacheDir()
	if err == nil {
		folder = filepath.Join(folder, "roundyear", "days-off")
	}
	fetched, err := daylist.Fetcher{Folder: folder}.Fetch(y.files.Context(), name)
	if err != nil {
		return nil, err
	}
	if fetched.Old {
		y.notes = append(y.notes, fmt.Sprintf("%s: the list is the one kept on %s, since %v", name, fetched.At.Format("2006-01-02"), fetched.Why))
	}
	return fetched.Content, nil
}

var fourDigits = regexp.MustCompile(`\d{4}`)

// delimitedOf writes a table as CSV, so that it is read as any other file is.
// Dates of a page of one year mostly do not say the year; it is put behind them.
func delimitedOf(list daylist.Table, date string, number int) ([]byte, error) {
	header := uniqueNames(list.Rows[0])
	place := slices.IndexFunc(header, func(name string) bool { return strings.EqualFold(name, date) })
	var text bytes.Buffer
	out := csv.NewWriter(&text)
	if err := out.Write(header); err != nil {
		return nil, err
	}
	for _, row := range list.Rows[1:] {
		cells := make([]string, len(header))
		copy(cells, row)
		if place >= 0 && number > 0 && cells[place] != "" && !fourDigits.MatchString(cells[place]) {
			cells[place] += " " + strconv.Itoa(number)
		}
		if err := out.Write(cells); err != nil {
			return nil, err
		}
	}
	out.Flush()
	return text.Bytes(), out.Error()
}

// uniqueNames gives columns without a name one, and those of one name numbers.
func uniqueNames(names []string) []string {
	taken := map[string]int{}
	unique := make([]string, len(names))
	for i, name := range names {
		name = orElse(name, "column")
		if taken[name]++; taken[name] > 1 {
			name = fmt.Sprintf("%s %d", name, taken[name])
		}
		unique[i] = name
	}
	return unique
}

// readDelimitedList reads single days from a delimited file with columns of the
// date and the name, and those of the program's own lists if there are any: kind,
// half, expected, and taken_on. It is read from a copy, under its own name.
func readDelimitedList(name string, content []byte, date, title string, list yearplan.DaysOff) ([]*daysoff.Rule, error) {
	folder, err := os.MkdirTemp("", "roundyear-")
	if err != nil {
		return nil, &table.Fault{File: name, What: "there is no place for a copy of the list", Cause: err, Outside: true}
	}
	defer os.RemoveAll(folder)
	path := filepath.Join(folder, "list.csv")
	if err := os.WriteFile(path, content, 0o600); err != nil {
		return nil, &table.Fault{File: name, What: "there is no place for a copy of the list", Cause: err, Outside: true}
	}
	ctx := context.Background()
	source, err := table.Open(ctx, []string{path}, nil)
	if err != nil {
		return nil, renamed(err, path, name)
	}
	defer source.Close()
	names, err := source.Find(title)
	if err != nil {
		return nil, renamed(err, path, name)
	}
	place, err := source.Find(date)
	if err != nil {
		return nil, renamed(err, path, name)
	}
	fieldOf := func(column string) func(*table.Record) string {
		place, err := source.Find(column)
		return func(record *table.Record) string {
			if err != nil {
				return ""
			}
			return strings.TrimSpace(string(record.Field(place)))
		}
	}
	kind, half, expected, takenOn := fieldOf("kind"), fieldOf("half"), fieldOf("expected"), fieldOf("taken_on")
	column := source.Columns()[place]
	flags := readingFlags{pivot: 1970}
	if list.Pattern != "" {
		flags.patterns = []string{column + "=" + list.Pattern}
	}
	dates, err := (&App{}).dates(ctx, source, column, flags)
	if err == nil {
		err = dates.FirstUnread()
	}
	if err != nil {
		return nil, renamed(err, path, name)
	}
	var rules []*daysoff.Rule
	var fault error
	reader := dates.Reader()
	err = source.Sample(ctx, mostListed, func(file *table.File, record *table.Record) {
		reader.Enter(file)
		moment, _ := reader.Read(record)
		rule := &daysoff.Rule{Name: string(record.Field(names)), Kind: list.Kind, Half: half(record) == "true", When: daysoff.OnDates{moment.Day}, Source: fmt.Sprintf("%s, line %d", name, record.Line)}
		if own := daysoff.Kind(kind(record)); own != "" {
			rule.Kind = own
			if !slices.Contains(daysoff.Kinds, own) && fault == nil {
				fault = &table.Fault{File: name, Line: record.Line, Column: "kind", What: fmt.Sprintf("%q is no kind of day off", own), Remedy: "The kinds are statutory, bank, elective, marked, closure and worked"}
			}
		}
		if expected(record) == "true" {
			rule.AnnouncedTo = moment.Day.Year() - 1
		}
		if text := takenOn(record); text != "" {
			taken, err := civil.Parse(text)
			if err != nil && fault == nil {
				fault = &table.Fault{File: name, Line: record.Line, Column: "taken_on", What: err.Error(), Remedy: "Write the day on which it is taken as 2026-01-05, or nothing"}
			}
			if err == nil && taken != moment.Day {
				rule.Moves = []daysoff.Move{{From: moment.Day.Weekday(), By: int(taken - moment.Day)}}
			}
		}
		rules = append(rules, rule)
	})
	if err == nil {
		err = fault
	}
	return rules, renamed(err, path, name)
}

// renamed puts a list's own name in the place of its copy's.
func renamed(err error, copied, name string) error {
	fault, ok := err.(*table.Fault)
	if !ok {
		return err
	}
	own := *fault
	own.File = strings.ReplaceAll(own.File, copied, name)
	return &own
}

// mostListed is how many days off a file can have.
const mostListed = 100_000
