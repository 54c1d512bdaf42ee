package cli

import (
	"encoding/json"
	"slices"

	"roundyear/internal/app"
	"roundyear/internal/reading"
	"roundyear/internal/terminal"

	"roundyear/dimension"
	"roundyear/survey"
)

type jsonSurvey struct {
	File string `json:"file"`
	Rows int    `json:"rows"`
	// Ragged counts the rows with more or fewer fields than the header.
	Ragged  int          `json:"ragged,omitempty"`
	Columns []jsonColumn `json:"columns"`
	Parts   []jsonParts  `json:"parts"`
	Pairs   [][2]string  `json:"pairs"`
	// Crossed are pairs that a few rows contradict.
	Crossed []jsonCrossed `json:"crossed,omitempty"`
	Numbers []jsonNumber  `json:"numbers"`
	Amounts []jsonAmounts `json:"amounts"`
	Blanks  []jsonBlank   `json:"blank_texts"`
	Fiscal  []string      `json:"fiscal_periods"`
	// EndsBefore is the last day of other files where this one ends well before.
	EndsBefore string   `json:"ends_before,omitempty"`
	Next       []string `json:"next"`
}

type jsonColumn struct {
	Name          string        `json:"name"`
	Fault         string        `json:"fault,omitempty"`
	ExplainedBy   string        `json:"explained_by,omitempty"`
	Patterns      []jsonPattern `json:"patterns"`
	Order         string        `json:"order"`
	Grain         string        `json:"grain,omitempty"`
	DayFirst      int           `json:"must_have_day_first"`
	MonthFirst    int           `json:"must_have_month_first"`
	Either        int           `json:"could_be_either"`
	Dates         int           `json:"dates"`
	Blanks        int           `json:"blanks"`
	Unread        int           `json:"unread"`
	First         string        `json:"first,omitempty"`
	Last          string        `json:"last,omitempty"`
	Days          int           `json:"days"`
	Timed         int           `json:"with_time"`
	NotMatching   int           `json:"would_not_match"`
	Zoned         int           `json:"with_offset"`
	Weekend       int           `json:"on_weekends"`
	Median        int           `json:"median_rows_a_day"`
	After         int           `json:"after_as_of"`
	Sentinels     []jsonDay     `json:"sentinels"`
	Suspicious    []jsonDay     `json:"suspicious"`
	MissingDays   []jsonRun     `json:"missing_days"`
	MissingWeeks  []jsonRun     `json:"missing_weeks"`
	MissingMonths []jsonRun     `json:"missing_months"`
}

type jsonPattern struct {
	Pattern string `json:"pattern"`
	Grain   string `json:"grain"`
	Count   int    `json:"count"`
}

type jsonDay struct {
	Day   string `json:"day"`
	Count int    `json:"count"`
}

type jsonRun struct {
	First string `json:"first"`
	Last  string `json:"last"`
	Count int    `json:"count"`
}

type jsonParts struct {
	Name    string `json:"name"`
	Year    string `json:"year,omitempty"`
	Quarter string `json:"quarter,omitempty"`
	Month   string `json:"month,omitempty"`
	Week    string `json:"week,omitempty"`
	Day     string `json:"day,omitempty"`
	Date    string `json:"date,omitempty"`
	Time    string `json:"time,omitempty"`
}

func partsJSON(parts reading.Parts) jsonParts {
	of := map[reading.Role]string{}
	for i, role := range parts.Roles {
		of[role] = parts.Columns[i]
	}
	return jsonParts{Name: parts.Name, Year: of[reading.YearRole], Quarter: of[reading.QuarterRole], Month: of[reading.MonthRole], Week: of[reading.WeekRole], Day: of[reading.DayRole],
		Date: of[reading.DateRole], Time: of[reading.TimeRole]}
}

// jsonAmounts is a column of numbers that are not written plainly: with which decimal mark, or why that stays open.
type jsonAmounts struct {
	Column  string `json:"column"`
	Decimal string `json:"decimal,omitempty"`
	Example string `json:"example,omitempty"`
	Problem string `json:"problem,omitempty"`
}

type jsonBlank struct {
	Text    string   `json:"text"`
	Columns []string `json:"columns"`
}

type jsonNumber struct {
	Column  string `json:"column"`
	Pattern string `json:"pattern"`
	Value   string `json:"value"`
	Day     string `json:"day"`
}

// jsonCrossed is a start and an end, of which Rows of Both rows have the start later.
type jsonCrossed struct {
	Start string `json:"start"`
	End   string `json:"end"`
	Rows  int    `json:"rows"`
	Both  int    `json:"both"`
}

func (s *surveyCommand) writeJSON(files []*app.Surveyed) error {
	surveys := []jsonSurvey{}
	early := app.EndsEarly(files)
	for _, file := range files {
		one := jsonSurvey{File: file.Source.Parts[0].Name, Rows: file.Rows, Ragged: file.Ragged.Count, Columns: []jsonColumn{}, Parts: []jsonParts{}, Pairs: [][2]string{}, Numbers: []jsonNumber{}, Amounts: []jsonAmounts{}, Blanks: []jsonBlank{}, Fiscal: []string{}, Next: []string{}}
		for _, column := range file.Columns {
			one.Columns = append(one.Columns, columnJSON(column))
		}
		for _, parts := range file.Parts {
			one.Parts = append(one.Parts, partsJSON(parts))
		}
		one.Pairs = append(one.Pairs, file.Pairs...)
		for _, pair := range file.Crossed {
			one.Crossed = append(one.Crossed, jsonCrossed{pair.Start, pair.End, pair.Rows, pair.Both})
		}
		for _, hint := range file.Numbers {
			one.Numbers = append(one.Numbers, jsonNumber{hint.Column, hint.Pattern, hint.Value, hint.Day})
		}
		for _, amounts := range file.Amounts {
			own := jsonAmounts{Column: amounts.Column, Decimal: amounts.Format.Mark.String(), Example: amounts.First.Value}
			if amounts.Problem != nil {
				own.Decimal, own.Problem = "", amounts.Problem.Error()
			}
			one.Amounts = append(one.Amounts, own)
		}
		for _, blank := range file.Blanks {
			one.Blanks = append(one.Blanks, jsonBlank(blank))
		}
		for _, fiscal := range file.Fiscal {
			one.Fiscal = append(one.Fiscal, fiscal[0])
		}
		if i := slices.IndexFunc(early, func(e app.EarlyEnd) bool { return e.File == one.File }); i >= 0 {
			one.EndsBefore = early[i].Others.String()
		}
		for _, next := range s.proposed[file] {
			one.Next = append(one.Next, terminal.Command(next.words...))
		}
		surveys = append(surveys, one)
	}
	text, err := json.MarshalIndent(surveys, "", "  ")
	if err != nil {
		return err
	}
	out, err := s.app.create("-")
	if err != nil {
		return err
	}
	if _, err := out.Write(append(text, '\n')); err != nil {
		return err
	}
	return s.app.files.Commit()
}

func columnJSON(c *app.SurveyedColumn) jsonColumn {
	one := jsonColumn{Name: c.Name, Order: "unsettled", Patterns: []jsonPattern{}}
	one.DayFirst, one.MonthFirst, one.Either = c.Evidence.Orders()
	if c.Problem != nil {
		one.Fault, one.ExplainedBy = c.Problem.Error(), c.ExplainedBy
		return one
	}
	found := c.Dates.Files[0]
	one.Grain = c.Grain()
	if found.Decision != nil {
		one.Order = found.Decision.Order.String()
		for _, share := range found.Decision.Patterns {
			one.Patterns = append(one.Patterns, jsonPattern{share.Pattern, share.Grain, share.Count})
		}
	}
	one.Dates, one.Blanks, one.Unread = found.Values-found.Unread, found.Blanks, found.Unread
	if s := c.Summary; s != nil {
		one.First, one.Last, one.Days = s.First.String(), s.Last.String(), s.Days
		one.Timed, one.NotMatching, one.Zoned, one.Weekend, one.Median = s.Timed, s.NotMatching, s.Zoned, s.Weekend, s.Median
		one.After = c.After
		one.Sentinels, one.Suspicious = jsonDays(s.Sentinels), jsonDays(s.Suspicious)
		one.MissingDays, one.MissingWeeks, one.MissingMonths = jsonRuns(s.MissingDays), jsonRuns(s.MissingWeeks), jsonRuns(s.MissingMonths)
	}
	return one
}

func jsonDays(days []dimension.DayCount) []jsonDay {
	list := []jsonDay{}
	for _, day := range days {
		list = append(list, jsonDay{day.Day.String(), day.Count})
	}
	return list
}

func jsonRuns(runs []survey.Run) []jsonRun {
	list := []jsonRun{}
	for _, run := range runs {
		list = append(list, jsonRun{run.First.String(), run.Last.String(), run.Count})
	}
	return list
}
