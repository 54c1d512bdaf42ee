package app

import (
	"bytes"
	"encoding/csv"
	"errors"
	"fmt"
	"io/fs"
	"os"
	"path/filepath"
	"regexp"
	"slices"
	"strconv"
	"strings"

	"roundyear/civil"
	"roundyear/datetext"
	"roundyear/daysoff"
	"roundyear/fault"
	"roundyear/internal/compress"
	"roundyear/internal/daylist"
	"roundyear/internal/input"
	"roundyear/internal/reading"
	"roundyear/internal/table"
	"roundyear/rows"
	"roundyear/yearplan"
)

// KeptList is a list of days off that could not be fetched, of which a copy of an earlier run was
// used.
type KeptList struct {
	Name string
	*daylist.Kept
}

// ReadList reads the days off of a file or an address, one for each year if it
// has {year} in it.
func (y *Year) ReadList(source yearplan.DaysOff) ([]*daysoff.Rule, error) {
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

// readOneList reads one list of a file or an address. A list that was kept from
// before is said to be one.
func (y *Year) readOneList(source yearplan.DaysOff, name string, number int) (rules []*daysoff.Rule, err error) {
	if !daylist.IsAddress(name) {
		name = y.Path(name)
		file, _ := input.SplitMember(name)
		content, err := y.Files.ReadFile(file)
		if y.Files.Context().Err() != nil {
			return nil, y.Files.Context().Err()
		}
		if err != nil {
			return nil, cannotReadList(name, err)
		}
		return y.parseList(source, name, content, number)
	}
	folder, err := os.UserCacheDir()
	if err == nil {
		folder = filepath.Join(folder, "roundyear", "days-off")
	}
	kept, err := daylist.Fetcher{Folder: folder}.Fetch(y.Files.Context(), name, func(content []byte) (err error) {
		rules, err = y.parseList(source, name, content, number)
		return err
	})
	if kept != nil {
		y.Kept = append(y.Kept, KeptList{daylist.Shown(name), kept})
	}
	return rules, err
}

func cannotReadList(name string, err error) error {
	problem := &fault.Fault{File: name, What: "the days off cannot be read", Cause: err, Kind: fault.Unusable}
	var pathError *fs.PathError
	if errors.As(err, &pathError) {
		problem.Cause = pathError.Err // the file is in front already
	}
	if errors.Is(err, fs.ErrNotExist) {
		problem.What, problem.Cause = "there is no such file", nil
	}
	return problem
}

// parseList reads a list. Its ending says what it is, or else its content.
func (y *Year) parseList(source yearplan.DaysOff, name string, content []byte, number int) (_ []*daysoff.Rule, err error) {
	if content, err = input.Unpacked(name, content); err != nil {
		return nil, err
	}
	file, member := name, ""
	if !daylist.IsAddress(name) {
		file, member = input.SplitMember(name)
	}
	_, unpacked := compress.ByEnding(strings.SplitN(file, "?", 2)[0])
	ending := strings.ToLower(filepath.Ext(unpacked))
	isAddress := daylist.IsAddress(name)
	if isAddress {
		name = daylist.Shown(name)
	}
	date, title := orElse(source.DateColumn, "date"), orElse(source.NameColumn, "name")
	isPage := bytes.HasPrefix(bytes.TrimSpace(content), []byte("<"))
	var list daylist.Table
	switch {
	case ending == ".ics" && !isPage || bytes.HasPrefix(content, []byte("BEGIN:VCALENDAR")):
		return daylist.ReadICalendar(name, content, source.Kind)
	case ending == ".json" && !isPage:
		list, err = daylist.ReadJSON(name, content)
	case ending == ".html" || ending == ".htm" || isPage:
		var tables []daylist.Table
		if tables, err = daylist.Tables(name, content); err == nil {
			list, err = daylist.PickTable(name, tables, source.Table, date, title)
		}
	case slices.Contains(tableEndings, ending) || isAddress:
		return y.readTable(name, member, content, date, title, source)
	default:
		return nil, &fault.Fault{File: name, What: "days off can be read from .ics, .csv, .tsv, .jsonl, .xlsx, .parquet, .json and .html", Remedy: "A table needs the columns date and name; kind is optional"}
	}
	if err != nil {
		return nil, err
	}
	text, err := delimitedOf(list, date, number)
	if err != nil {
		return nil, err
	}
	return y.readTable(name, "", text, date, title, source)
}

// tableEndings are the endings of files that hold a table.
var tableEndings = []string{".csv", ".tsv", ".jsonl", ".xlsx", ".parquet"}

func orElse(text, other string) string {
	if text == "" {
		return other
	}
	return text
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

// readTable reads single days from a table with columns of the
// date and the name, and those of the program's own lists if there are any: kind,
// half, expected, taken_on and both_days.
func (y *Year) readTable(name, member string, content []byte, date, title string, list yearplan.DaysOff) ([]*daysoff.Rule, error) {
	ctx := y.Files.Context()
	source, err := table.OpenContent(ctx, strings.TrimSuffix(name, "#"+member), member, content)
	if err != nil {
		return nil, headerFault(err)
	}
	defer source.Close()
	names, err := source.Find(title)
	if err != nil {
		return nil, columnFault(err)
	}
	dateIndex, err := source.Find(date)
	if err != nil {
		return nil, columnFault(err)
	}
	fieldOf := func(column string) func(*rows.Row) string {
		index, err := source.Find(column)
		return func(row *rows.Row) string {
			if err != nil {
				return ""
			}
			return strings.TrimSpace(string(row.Field(index)))
		}
	}
	kind, half, expected, takenOn, bothDays := fieldOf("kind"), fieldOf("half"), fieldOf("expected"), fieldOf("taken_on"), fieldOf("both_days")
	column := source.Names()[dateIndex]
	asked := reading.Asked{Pivot: datetext.DefaultPivot}
	if list.Pattern != "" {
		asked.Patterns = map[string]string{column: list.Pattern}
	}
	dates, err := Dates(ctx, source, column, asked)
	if err == nil {
		err = dates.FirstUnread()
	}
	if err != nil {
		return nil, headerFault(dateFault(err, column))
	}
	var rules []*daysoff.Rule
	var problem error
	reader := dates.Reader()
	err = source.Sample(ctx, maxListed+1, func(row *rows.Row) {
		reader.Enter(row.Part())
		moment, _ := reader.Read(row)
		rule := &daysoff.Rule{Name: string(row.Field(names)), Kind: list.Kind, Half: half(row) == "true", When: daysoff.OnDates{moment.Day}, Source: fmt.Sprintf("%s, line %d", name, row.Line)}
		if own := daysoff.Kind(kind(row)); own != "" {
			rule.Kind = own
			if !slices.Contains(daysoff.Kinds, own) && problem == nil {
				problem = &fault.Fault{File: name, Line: row.Line, Column: "kind", What: fmt.Sprintf("unknown kind of day off: %q", own), Remedy: "The kinds are statutory, bank, elective, marked, closure and worked"}
			}
		}
		if expected(row) == "true" {
			rule.AnnouncedTo = moment.Day.Year() - 1
		}
		if text := takenOn(row); text != "" {
			taken, err := civil.Parse(text)
			if err != nil && problem == nil {
				problem = &fault.Fault{File: name, Line: row.Line, Column: "taken_on", What: err.Error(), Remedy: "Write the day on which it is taken as 2026-01-05, or leave it blank"}
			}
			if err == nil && taken != moment.Day {
				rule.Moves = []daysoff.Move{{From: moment.Day.Weekday(), By: int(taken - moment.Day)}}
				rule.KeepBoth = bothDays(row) == "true"
			}
		}
		rules = append(rules, rule)
	})
	switch {
	case problem != nil:
		return nil, problem
	case err != nil:
		return nil, err
	case len(rules) > maxListed:
		return nil, &fault.Fault{File: name, What: "has more than 1,000,000 days off", Remedy: "Remove the years that you do not need"}
	}
	return rules, nil
}

// Faults of lists advise keys of the plan and not the flags of files of facts, which do
// not apply to lists.

// headerFault is a fault of the header of a list.
func headerFault(err error) error {
	return advised(err, func(problem *fault.Fault) {
		switch {
		case strings.Contains(problem.Remedy, "--skip"):
			problem.Remedy = "Delete the lines above the header"
		case strings.Contains(problem.Remedy, "--encoding"):
			problem.Remedy = "Save the file as UTF-8"
		case strings.Contains(problem.Remedy, "--header"):
			problem.Remedy = "Add a header with the columns date and name"
		}
	})
}

// columnFault is a column that a list does not have.
func columnFault(err error) error {
	return advised(err, func(problem *fault.Fault) {
		if !strings.HasSuffix(problem.Remedy, "?") {
			problem.Remedy += "."
		}
		problem.Remedy += " If it has another name, add it to the plan, next to file: columns: {date: Day, name: Holiday}"
	})
}

// dateFault is a fault of the dates of a list, or of a line.
func dateFault(err error, column string) error {
	return advised(err, func(problem *fault.Fault) {
		switch {
		case strings.Contains(problem.Remedy, "--order"):
			problem.Remedy = fmt.Sprintf("Add the format of %s to the plan, next to file: pattern: dd/MM/yyyy", column)
		case problem.Column != "":
			problem.Remedy = "Correct the date in the list, or add its format to the plan, next to file: pattern: dd/MM/yyyy"
		}
	})
}

// advised is a fault with another remedy.
func advised(err error, advise func(*fault.Fault)) error {
	var problem *fault.Fault
	if !errors.As(err, &problem) {
		return err
	}
	own := *problem
	advise(&own)
	return &own
}

// maxListed is how many days off a list can have.
const maxListed = 1_000_000
