package daysoff

import (
	"fmt"
	"strconv"
	"strings"

	"roundyear/civil"
)

// ParseRecurrence reads a rule such as FREQ=YEARLY;BYMONTH=6;BYDAY=1MO, which may
// have RRULE: before it, and its start as DTSTART=20260105. A rule without a start
// has no bounds, and counts intervals and takes what it does not say from 1 January
// 1900. The error says what is wrong in words.
func ParseRecurrence(text string) (*Recurrence, error) {
	r, start, err := parseRule(text)
	if err != nil {
		return nil, err
	}
	if start != nil {
		r.startOn(*start)
		return r, nil
	}
	if r.count > 0 {
		return nil, noRule(text, "COUNT needs a start: add DTSTART=20260105; before it")
	}
	r.takeFrom(r.start)
	if r.until != nil {
		r.last = r.until.Day
	}
	return r, nil
}

// ParseRecurrenceFrom reads the rule of an event that starts on a day, which is
// its first day even if the rule does not give it. Where the rule ends at a
// moment, end returns the last day on which the event can start.
func ParseRecurrenceFrom(text string, start civil.Day, end func(Until) civil.Day) (*Recurrence, error) {
	r, _, err := parseRule(text)
	if err != nil {
		return nil, err
	}
	if r.until != nil && r.until.Timed {
		r.until = &Until{Day: end(*r.until)}
	}
	r.startOn(start)
	return r, nil
}

func noRule(text, format string, args ...any) error {
	return fmt.Errorf("%q is not a recurrence rule of RFC 5545: %s", shortened(text), fmt.Sprintf(format, args...))
}

// parseRule reads the parts of a rule, and its start if that is one of them.
func parseRule(text string) (*Recurrence, *civil.Day, error) {
	r := &Recurrence{text: text, start: civil.FirstOfYear(1900), interval: 1, weekStart: civil.Monday, last: civil.MaxDay}
	var start *civil.Day
	given := map[string]bool{}
	for _, part := range ruleParts(text) {
		name, value, found := strings.Cut(part, "=")
		name, value = strings.ToUpper(strings.TrimSpace(name)), strings.ToUpper(strings.TrimSpace(value))
		if !found || value == "" {
			return nil, nil, noRule(text, "%q has no value", shortened(part))
		}
		if given[name] {
			return nil, nil, noRule(text, "%s is given twice", name)
		}
		given[name] = true
		if err := r.readPart(name, value, &start); err != nil {
			return nil, nil, noRule(text, "%v", err)
		}
	}
	if r.freq == 0 {
		return nil, nil, noRule(text, "FREQ is missing")
	}
	if given["COUNT"] && given["UNTIL"] {
		return nil, nil, noRule(text, "it has both COUNT and UNTIL")
	}
	if err := r.checkNumbers(); err != nil {
		return nil, nil, fmt.Errorf("%q %w", shortened(text), err)
	}
	return r, start, nil
}

// ruleParts cuts a rule into NAME=VALUE, whatever lines it comes in.
func ruleParts(text string) []string {
	var parts []string
	for line := range strings.Lines(text) {
		line = strings.TrimSpace(line)
		upper := strings.ToUpper(line)
		at := strings.IndexByte(line, ':')
		if at >= 0 && (strings.HasPrefix(upper, "DTSTART:") || strings.HasPrefix(upper, "DTSTART;")) {
			start, rest, _ := strings.Cut(line[at+1:], ";")
			parts, line = append(parts, "DTSTART="+start), rest
		}
		for part := range strings.SplitSeq(line, ";") {
			if part = strings.TrimSpace(part); len(part) > 6 && strings.EqualFold(part[:6], "RRULE:") {
				part = part[6:]
			}
			if part != "" {
				parts = append(parts, part)
			}
		}
	}
	return parts
}

func shortened(text string) string {
	const most = 80
	if len(text) <= most {
		return text
	}
	return strings.ToValidUTF8(text[:most], "") + "…"
}

func (r *Recurrence) readPart(name, value string, start **civil.Day) (err error) {
	switch name {
	case "FREQ":
		frequencies := map[string]frequency{"YEARLY": yearly, "MONTHLY": monthly, "WEEKLY": weekly, "DAILY": daily}
		if r.freq = frequencies[value]; r.freq == 0 {
			if value == "HOURLY" || value == "MINUTELY" || value == "SECONDLY" {
				return fmt.Errorf("it recurs within a day, but days off are whole days")
			}
			return fmt.Errorf("FREQ must be YEARLY, MONTHLY, WEEKLY or DAILY, not %s", shortened(value))
		}
	case "DTSTART":
		// A zone may stand before the day, and a time behind it.
		value = value[strings.LastIndexByte(value, ':')+1:]
		day, err := parseBasic(value)
		if err != nil {
			return fmt.Errorf("DTSTART: %w", err)
		}
		*start = &day
	case "UNTIL":
		if r.until, err = parseUntil(value); err != nil {
			return fmt.Errorf("UNTIL: %w", err)
		}
	case "INTERVAL":
		r.interval, err = integerOf(name, value, 1, 1_000_000)
	case "COUNT":
		r.count, err = integerOf(name, value, 1, 10_000_000)
	case "WKST":
		if r.weekStart, err = weekdayOf(value); err != nil {
			return err
		}
	case "BYMONTH":
		var months []int
		if months, err = integersOf(name, value, 1, 12, false); err == nil {
			for _, month := range months {
				r.byMonth[month], r.anyMonth = true, true
			}
		}
	case "BYWEEKNO":
		r.byWeekNo, err = integersOf(name, value, 1, 53, true)
	case "BYYEARDAY":
		r.byYearDay, err = integersOf(name, value, 1, 366, true)
	case "BYMONTHDAY":
		r.byMonthDay, err = integersOf(name, value, 1, 31, true)
	case "BYSETPOS":
		r.bySetPos, err = integersOf(name, value, 1, 366, true)
	case "BYDAY":
		if err := fewEnough(name, value); err != nil {
			return err
		}
		for _, text := range strings.Split(value, ",") {
			one, err := nthWeekdayOf(strings.TrimSpace(text))
			if err != nil {
				return err
			}
			r.byWeekday = append(r.byWeekday, one)
		}
	case "BYHOUR", "BYMINUTE", "BYSECOND":
		return fmt.Errorf("it recurs within a day (%s), but days off are whole days", name)
	default:
		return fmt.Errorf("%s is not a part of a recurrence rule", shortened(name))
	}
	return err
}

func integerOf(name, value string, least, most int) (int, error) {
	number, err := strconv.Atoi(value)
	if err != nil || number < least || number > most {
		return 0, fmt.Errorf("%s must be a number from %d to %d, not %s", name, least, most, shortened(value))
	}
	return number, nil
}

// maxValues is more than the different values that any part can have: BYDAY has 7 weekdays, each alone or from -53 to 53.
const maxValues = 800

// fewEnough is an error for more values than a part can have. Each day is compared with all of them.
func fewEnough(name, value string) error {
	if count := strings.Count(value, ",") + 1; count > maxValues {
		return fmt.Errorf("%s has %d values; at most %d are read", name, count, maxValues)
	}
	return nil
}

func integersOf(name, value string, least, most int, signed bool) ([]int, error) {
	if err := fewEnough(name, value); err != nil {
		return nil, err
	}
	var numbers []int
	for _, text := range strings.Split(value, ",") {
		text = strings.TrimSpace(text)
		number, err := strconv.Atoi(text)
		size := number
		if signed && size < 0 {
			size = -size
		}
		if err != nil || size < least || size > most {
			return nil, fmt.Errorf("%s must have numbers from %d to %d, not %s", name, least, most, shortened(text))
		}
		numbers = append(numbers, number)
	}
	return numbers, nil
}

// weekdayNames are the weekdays of rules, from Monday.
const weekdayNames = "MOTUWETHFRSASU"

func weekdayOf(text string) (civil.Weekday, error) {
	if at := strings.Index(weekdayNames, text); len(text) == 2 && at >= 0 && at%2 == 0 {
		return civil.Weekday(at/2 + 1), nil
	}
	return 0, fmt.Errorf("weekdays must be MO, TU, WE, TH, FR, SA or SU, not %s", shortened(text))
}

func nthWeekdayOf(text string) (nthWeekday, error) {
	if len(text) < 2 {
		return nthWeekday{}, fmt.Errorf("BYDAY must have weekdays such as MO or 1MO, not %q", text)
	}
	weekday, err := weekdayOf(text[len(text)-2:])
	one := nthWeekday{weekday: weekday}
	if number := text[:len(text)-2]; err == nil && number != "" {
		if one.nth, err = strconv.Atoi(number); err != nil || one.nth == 0 || one.nth < -53 || one.nth > 53 {
			return one, fmt.Errorf("BYDAY must have weekdays such as MO or 1MO, not %s", shortened(text))
		}
	}
	return one, err
}

// checkNumbers refuses rules that ask for days that there never are.
func (r *Recurrence) checkNumbers() error {
	for _, one := range r.byWeekday {
		inMonth := r.freq == monthly || r.freq == yearly && r.anyMonth
		if inMonth && (one.nth > 5 || one.nth < -5) {
			return fmt.Errorf("contains days that no month or year has")
		}
	}
	return nil
}

// parseBasic reads the day of 20260105 or 20260105T090000Z.
func parseBasic(text string) (civil.Day, error) {
	digits, _, _ := strings.Cut(text, "T")
	number, err := strconv.Atoi(digits)
	if err != nil || len(digits) != 8 || number < 0 {
		return 0, fmt.Errorf("a day must be written as 20260105, not %s", shortened(text))
	}
	day, ok := civil.Of(number/10000, civil.Month(number/100%100), number%100)
	if !ok || day.Year() < firstYear {
		return 0, fmt.Errorf("%s is not a day from %d on", digits, firstYear)
	}
	return day, nil
}

func parseUntil(text string) (*Until, error) {
	day, err := parseBasic(text)
	if err != nil {
		return nil, err
	}
	until := &Until{Day: day}
	_, clock, timed := strings.Cut(text, "T")
	if !timed {
		return until, nil
	}
	clock, until.UTC = strings.CutSuffix(clock, "Z")
	number, err := strconv.Atoi(clock)
	if err != nil || len(clock) != 6 || number < 0 || number/10000 > 23 || number/100%100 > 59 || number%100 > 60 {
		return nil, fmt.Errorf("a time must be written as T170000Z, not %s", shortened(text))
	}
	until.Seconds, until.Timed = number/10000*3600+number/100%100*60+number%100, true
	return until, nil
}
