package app

import (
	"bytes"
	"context"
	"maps"
	"slices"
	"strings"

	"roundyear/facts/decimal"
	"roundyear/internal/table"
	"roundyear/numbertext"
	"roundyear/rows"
)

// SurveyedNumbers is a column of numbers that are not written plainly.
type SurveyedNumbers struct {
	Column string
	// Format is how they are written, and First a value that shows it; Problem is why that stays open.
	Format  numbertext.Format
	First   numbertext.Example
	Problem error
}

// SurveyedBlank is a text that stands among dates or numbers and usually means that there is no value.
type SurveyedBlank struct {
	Text    string
	Columns []string
}

// blankTexts are texts that usually mean that there is no value, in lower case.
var blankTexts = []string{"n/a", "na", "n.a.", "#n/a", "null", "none", "nil", "nan", `\n`, "-", "--", "–", "—", "?", "unknown", "(blank)", "tbd", "k.a.", "k. a.", "s/d", "n.d."}

// numbers looks in the first rows for columns of numbers that are not written plainly, and for texts that stand for no value; how the
// numbers are written all rows say.
func (f *Surveyed) numbers(ctx context.Context, dates []string) error {
	columns := f.Source.Columns()
	numbers, others, odd := make([]int, len(columns)), make([]int, len(columns)), make([]bool, len(columns))
	blanks := make([]map[string]int, len(columns))
	err := f.Source.Sample(ctx, hintRows, func(row *rows.Row) {
		for place := range columns {
			text := bytes.TrimSpace(row.Field(place))
			switch {
			case len(text) == 0 || columns[place].Type != rows.Text:
			case slices.Contains(blankTexts, strings.ToLower(string(text))):
				if blanks[place] == nil {
					blanks[place] = map[string]int{}
				}
				blanks[place][string(text)]++
			case numbertext.IsNumber(text):
				numbers[place]++
				if _, err := decimal.Parse(text); err != nil || isOpenNumber(text) {
					odd[place] = true
				}
			default:
				others[place]++
			}
		}
	})
	if err != nil {
		return err
	}
	var places []int
	for place, column := range columns {
		isDate := slices.Contains(dates, column.Name)
		isNumber := numbers[place] > 0 && others[place] == 0 && !isDate
		if isNumber && odd[place] && !table.IsJSON(f.Source.Parts[0]) {
			places = append(places, place)
		}
		if isNumber || isDate {
			for _, text := range slices.Sorted(maps.Keys(blanks[place])) {
				f.addBlank(text, column.Name)
			}
		}
	}
	if len(places) == 0 {
		return nil
	}
	kept := *f.Source
	kept.KeepsRagged = true
	observed, err := observeNumbers(ctx, &kept, places)
	if err != nil {
		return err
	}
	for i, place := range places {
		column := observed[f.Source.Parts[0]][i]
		found := SurveyedNumbers{Column: columns[place].Name}
		if found.Format, found.Problem = column.Decide(numbertext.Asked{}); found.Problem == nil {
			found.First = column.Shows(found.Format)
		}
		if found.Problem != nil || found.First.Line > 0 {
			f.Amounts = append(f.Amounts, found)
		}
	}
	return nil
}

// isOpenNumber tells whether a plain number could also be one with a point between its thousands, such as 1.234.
func isOpenNumber(text []byte) bool {
	seen := pointSeen{}
	seen.see([][]byte{text})
	return seen.isOpen
}

func (f *Surveyed) addBlank(text, column string) {
	for i := range f.Blanks {
		if f.Blanks[i].Text == text {
			f.Blanks[i].Columns = append(f.Blanks[i].Columns, column)
			return
		}
	}
	f.Blanks = append(f.Blanks, SurveyedBlank{text, []string{column}})
}

// Decimals returns the columns whose numbers have a decimal comma in one of the files, and those that stay open, each once.
func (f *FoundFacts) Decimals() (commas, open []SurveyedNumbers) {
	seen := map[string]bool{}
	for _, file := range f.Files {
		for _, found := range file.Amounts {
			isComma := found.Problem == nil && found.Format.Mark == numbertext.Comma
			switch {
			case seen[found.Column] || found.Problem == nil && !isComma:
				continue
			case isComma:
				commas = append(commas, found)
			default:
				open = append(open, found)
			}
			seen[found.Column] = true
		}
	}
	return commas, open
}

// BlankTexts returns the texts that usually mean that there is no value, and the columns that they stand in.
func (f *FoundFacts) BlankTexts() (texts, columns []string) {
	for _, file := range f.Files {
		for _, blank := range file.Blanks {
			if !slices.Contains(texts, blank.Text) {
				texts = append(texts, blank.Text)
			}
			for _, column := range blank.Columns {
				if !slices.Contains(columns, column) {
					columns = append(columns, column)
				}
			}
		}
	}
	return texts, columns
}
