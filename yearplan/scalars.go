package yearplan

import (
	"fmt"
	"regexp"
	"slices"
	"strconv"
	"strings"

	"go.yaml.in/yaml/v4"

	"roundyear/civil"
	"roundyear/language"
)

// The kinds of single values.
var (
	anyValue    = &scalar{what: "a text, a number, or true or false", accepts: func(string) bool { return true }, schema: map[string]any{"type": []string{"string", "number", "boolean"}}}
	anyText     = &scalar{what: "a text", accepts: func(text string) bool { return text != "" }, schema: map[string]any{"type": "string", "minLength": 1}}
	weekdayName = &scalar{what: "a weekday such as monday or mon", values: weekdayNames(), accepts: func(text string) bool { return weekdayOf(text) != 0 }}
	monthName   = &scalar{what: "a month such as april, apr or 4", values: monthNames(), accepts: func(text string) bool { return monthOf(text) != 0 },
		schema: map[string]any{"type": []string{"string", "integer"}}}
	loadedThrough = &scalar{what: "a date, SOURCE=DATE, or each", accepts: func(text string) bool {
		if text == "each" {
			return true
		}
		_, err := civil.Parse(text[strings.LastIndexByte(text, '=')+1:])
		return err == nil
	}, schema: map[string]any{"type": "string", "pattern": "^each$|^.{10,}$"}}
	date = &scalar{what: "a date such as 2026-03-01", accepts: func(text string) bool { _, err := civil.Parse(text); return err == nil },
		schema: map[string]any{"type": "string", "format": "date"}}
	timeOfDay = &scalar{what: "a time of day such as \"06:00\"", accepts: func(text string) bool { _, ok := secondsOf(text); return ok },
		schema: map[string]any{"type": "string", "pattern": "^([01]?[0-9]|2[0-3]):[0-5][0-9](:[0-5][0-9])?$"}}
	languageTag = &scalar{what: "the tag of a supported language, such as fr or pt-BR", accepts: func(text string) bool { _, err := language.Of(text); return err == nil },
		schema: map[string]any{"type": "string", "pattern": "^[A-Za-z]{2,3}([-_][A-Za-z0-9]+)*$"}}
	labelPattern = &scalar{what: "a pattern by Unicode LDML such as dd/MM/yyyy", accepts: func(text string) bool { return text != "" }, schema: map[string]any{"type": "string"}}
	yearPart     = &scalar{what: "a month such as april, or a day of one such as 6 april", accepts: func(text string) bool { _, _, ok := dayOfYear(text, true); return ok },
		schema: map[string]any{"type": []string{"string", "integer"}}}
	yearDay = &scalar{what: "a day of a month such as 31 january", accepts: func(text string) bool { _, _, ok := dayOfYear(text, false); return ok },
		schema: map[string]any{"type": "string"}}
	splitText = &scalar{what: "weeks such as 4-5-4, 13x4 or [4, 5, 4]", accepts: func(text string) bool { return splitPattern.MatchString(text) },
		schema: map[string]any{"type": []string{"string", "integer"}}}
)

// oneOf is a value with one of some names.
func oneOf(values ...string) *scalar {
	enum := []any{}
	for _, value := range values {
		enum = append(enum, value)
		// Without quotes these are truth values to YAML.
		switch value {
		case "false":
			enum = append(enum, false)
		case "true":
			enum = append(enum, true)
		}
	}
	return &scalar{what: listed(values), values: values, schema: map[string]any{"enum": enum}, accepts: func(text string) bool {
		for _, value := range values {
			if text == value {
				return true
			}
		}
		return false
	}}
}

func listed(values []string) string {
	if len(values) == 1 {
		return values[0]
	}
	return strings.Join(values[:len(values)-1], ", ") + " or " + values[len(values)-1]
}

// number is a whole number within bounds.
func number(least, most int) *scalar {
	what := fmt.Sprintf("a whole number from %d to %d", least, most)
	if least == most {
		what = strconv.Itoa(least)
	}
	return &scalar{what: what, accepts: func(text string) bool {
		value, err := strconv.Atoi(text)
		return err == nil && value >= least && value <= most
	}, schema: map[string]any{"type": "integer", "minimum": least, "maximum": most}}
}

// mark is a single character that is no letter and no part of a number, or one of some words.
func mark(words ...string) *scalar {
	return &scalar{what: "a single character such as ;, or " + strings.Join(words, ", "), accepts: func(text string) bool {
		isMark := len(text) == 1 && text[0] > ' ' && text[0] < 0x7F && !strings.Contains("0123456789+-.", text)
		return isMark || slices.Contains(words, text)
	}, schema: map[string]any{"type": "string", "pattern": "^([^0-9+. -]|" + strings.Join(words, "|") + ")$"}}
}

// dayOrUsual is a day, or the word for those that systems commonly write.
var dayOrUsual = &scalar{what: "a date such as 1900-01-01, or usual", values: []string{UsualPlaceholders}, accepts: func(text string) bool {
	_, err := civil.Parse(text)
	return text == UsualPlaceholders || err == nil
}, schema: map[string]any{"type": "string"}}

// width is a number of characters, or the rest of a line.
var width = &scalar{what: "a number of characters, or * for the rest of the line", values: []string{"*"}, accepts: func(text string) bool {
	value, err := strconv.Atoi(text)
	return text == "*" || err == nil && value >= 1
}, schema: map[string]any{"type": []string{"string", "integer"}}}

// lastOrNumber is the word last, or a number from 1.
var lastOrNumber = &scalar{what: "last, or the number of a period from 1", values: []string{"last"}, accepts: func(text string) bool {
	value, err := strconv.Atoi(text)
	return text == "last" || err == nil && value >= 1
}, schema: map[string]any{"type": []string{"string", "integer"}}}

func weekdayNames() []string {
	var names []string
	for w := civil.Monday; w <= civil.Sunday; w++ {
		names = append(names, strings.ToLower(w.String()))
	}
	return names
}

func monthNames() []string {
	var names []string
	for m := civil.January; m <= civil.December; m++ {
		names = append(names, strings.ToLower(m.String()))
	}
	return names
}

// weekdayOf returns a weekday by its name; 0 if there is none.
func weekdayOf(text string) civil.Weekday {
	weekday, _ := civil.ParseWeekday(text)
	return weekday
}

// monthOf returns a month by its name or number; 0 if there is none.
func monthOf(text string) civil.Month {
	month, _ := civil.ParseMonth(text)
	return month
}

// What has the right shape was read once to find that out. These read it again for its value.

// integerAt returns the whole number of a key; 0 without it.
func integerAt(node *yaml.Node, key string) int { return integerOf(text(node, key)) }

func integerOf(text string) int {
	value, _ := strconv.Atoi(text)
	return value
}

func dayOf(text string) civil.Day {
	day, _ := civil.Parse(text)
	return day
}

// dayOfYear reads 6 april or april 6, and where it may be left out, april
// without a day, which then is 0.
func dayOfYear(text string, monthAlone bool) (civil.Month, int, bool) {
	words := strings.Fields(text)
	if len(words) == 1 && monthAlone {
		month := monthOf(words[0])
		return month, 0, month != 0
	}
	if len(words) != 2 {
		return 0, 0, false
	}
	for _, order := range [][2]int{{0, 1}, {1, 0}} {
		day, err := strconv.Atoi(words[order[0]])
		month := monthOf(words[order[1]])
		if _, isNumber := strconv.Atoi(words[order[1]]); err == nil && isNumber != nil && month != 0 && day >= 1 && day <= civil.DaysIn(2000, month) {
			return month, day, true
		}
	}
	return 0, 0, false
}

// secondsOf reads a time of day as seconds.
func secondsOf(text string) (int, bool) {
	parts := strings.Split(text, ":")
	if len(parts) != 2 && len(parts) != 3 {
		return 0, false
	}
	seconds := 0
	for i, part := range parts {
		value, err := strconv.Atoi(part)
		if err != nil || value < 0 || value > [...]int{23, 59, 59}[i] || len(part) > 2 {
			return 0, false
		}
		seconds = seconds*60 + value
	}
	if len(parts) == 2 {
		seconds *= 60
	}
	return seconds, true
}

var splitPattern = regexp.MustCompile(`^\d{1,2}(-\d{1,2})*$|^\d{1,2} ?[x×] ?\d{1,2}$`)

// weeksOf reads the weeks of a split: 4-5-4, 13x4, or a list. A split of fewer
// than 52 weeks is repeated until the year is full.
func weeksOf(texts []string) ([]int, error) {
	if len(texts) == 1 {
		if count, weeks, found := strings.Cut(strings.ReplaceAll(strings.ReplaceAll(texts[0], " ", ""), "×", "x"), "x"); found {
			periods, _ := strconv.Atoi(count)
			texts = nil
			for range periods {
				texts = append(texts, weeks)
			}
		} else {
			texts = strings.Split(texts[0], "-")
		}
	}
	var weeks []int
	sum := 0
	for _, text := range texts {
		count, err := strconv.Atoi(text)
		if err != nil || count < 1 {
			return nil, fmt.Errorf("a period must have a whole number of weeks from 1, not %q", text)
		}
		weeks = append(weeks, count)
		sum += count
	}
	if sum > 52 || 52%sum != 0 {
		return nil, fmt.Errorf("the weeks of the split must add up to 52, or to a divisor of 52, not %d", sum)
	}
	one := weeks
	for range 52/sum - 1 {
		weeks = append(weeks, one...)
	}
	return weeks, nil
}
