package datetext

import (
	"errors"
	"fmt"
	"slices"
	"strings"

	"roundyear/civil"
)

// Pattern is a date pattern of Unicode LDML (UTS 35), such as
// dd/MM/yyyy HH:mm, made ready to read text.
type Pattern struct {
	ldml  string
	steps []step
	clock Resolution
	form  form
	// pivot is the first of the hundred years that years of two digits mean;
	// 0 when the pattern has none.
	pivot int
	// language is that of the names of months; nil for any.
	language *Language
	// number is set where the pattern is not of fields but of one number.
	number *number
	// labels finds days by labels of periods, where the pattern is of such.
	labels *labels
}

// labels are those of periods of a grain, by its name. Find returns the first day of one.
type labels struct {
	grain string
	find  func(label string) (civil.Day, bool)
}

// OfLabels returns a pattern that reads labels of periods of a grain.
func OfLabels(grain string, find func(label string) (civil.Day, bool)) *Pattern {
	return &Pattern{ldml: grain, labels: &labels{grain, find}}
}

// form is what fields a date is made of.
type form int

// A form without a day stands for the first day of its period.
const (
	byMonthAndDay form = iota
	byDayOfYear
	byWeek
	byMonth
	byQuarter
	byYear
)

// DefaultPivot is the first of the hundred years that years of two digits mean
// where nothing else is said: 70 is 1970, and 69 is 2069.
const DefaultPivot = 1970

// step is a literal, or a field by its letter.
type step struct {
	literal string
	field   byte
	// exact is the number of digits a numeric field must have because other
	// digits follow it without a gap; 0 when they may be fewer.
	exact int
}

// String returns the pattern as LDML writes it.
func (p *Pattern) String() string { return p.ldml }

// Grain returns what a value of the pattern stands for: day, week, month, quarter
// or year.
func (p *Pattern) Grain() string {
	switch {
	case p.labels != nil:
		return p.labels.grain
	case p.form == byMonth:
		return "month"
	case p.form == byQuarter:
		return "quarter"
	case p.form == byYear:
		return "year"
	case p.form == byWeek && !p.has('e') && !p.has('E'):
		return "week"
	}
	return "day"
}

// Pivot returns the first of the hundred years that years of two digits mean,
// or 0 when the pattern has years of four digits.
func (p *Pattern) Pivot() int { return p.pivot }

func (p *Pattern) has(field byte) bool {
	return slices.ContainsFunc(p.steps, func(s step) bool { return s.field == field })
}

// Clock returns how finely the pattern tells the time of day.
func (p *Pattern) Clock() Resolution { return p.clock }

// Compile reads an LDML pattern. The error says what cannot be read with it;
// letters that are almost always a slip (DD, YYYY, mm for the month) are named.
func Compile(ldml string) (*Pattern, error) { return compile(ldml, DefaultPivot) }

// inLanguage returns the pattern with the names of months of one language.
func (p *Pattern) inLanguage(language *Language) *Pattern {
	if !p.has('N') || p.language == language {
		return p
	}
	own := *p
	own.language = language
	return &own
}

// nameIn returns the name of the month in a text of the pattern.
func (p *Pattern) nameIn(text []byte) []byte {
	var f fields
	if !p.scan(text, &f) {
		return nil
	}
	return f.name
}

// WithPivot returns the pattern with another first of the hundred years that
// years of two digits mean.
func (p *Pattern) WithPivot(pivot int) *Pattern {
	if p.pivot == 0 {
		return p
	}
	own := *p
	own.pivot = pivot
	return &own
}

// maxPattern is how long a pattern can be. Messages show it, and each value is compared with it.
const maxPattern = 200

// compile is Compile with another pivot for years of two digits.
func compile(ldml string, pivot int) (*Pattern, error) {
	if n, found := numberPatterns[ldml]; found {
		return &Pattern{ldml: ldml, number: &n}, nil
	}
	if len(ldml) > maxPattern {
		return nil, fmt.Errorf("pattern %q… has %d characters; at most %d are read", strings.ToValidUTF8(ldml[:40], ""), len(ldml), maxPattern)
	}
	pattern := &Pattern{ldml: ldml}
	seen := map[byte]int{}
	for rest := ldml; rest != ""; {
		if !isLetter(rest[0]) {
			literal, after, err := cutLiteral(rest)
			if err != nil {
				return nil, fmt.Errorf("pattern %q: %w", ldml, err)
			}
			pattern.steps = append(pattern.steps, step{literal: literal})
			rest = after
			continue
		}
		letter, width := rest[0], 1
		for width < len(rest) && rest[width] == letter {
			width++
		}
		field, err := fieldOf(letter, width)
		if err != nil {
			return nil, fmt.Errorf("pattern %q: %w", ldml, err)
		}
		if seen[field.field] > 0 {
			return nil, fmt.Errorf("pattern %q has %c twice", ldml, letter)
		}
		seen[field.field] = width
		pattern.steps = append(pattern.steps, field)
		rest = rest[width:]
	}
	if why := incomplete(seen); why != "" {
		return nil, fmt.Errorf("pattern %q%s", ldml, why)
	}
	pattern.form = formOf(seen)
	if seen['y'] == 2 {
		pattern.pivot = pivot
	}
	pattern.fixWidths()
	switch {
	case seen['S'] > 0:
		pattern.clock = Seconds + Resolution(min(seen['S'], 9))
	case seen['s'] > 0:
		pattern.clock = Seconds
	case seen['H']+seen['h'] > 0:
		pattern.clock = Minutes
	}
	return pattern, nil
}

func cutLiteral(text string) (literal, rest string, err error) {
	if text[0] != '\'' {
		return text[:1], text[1:], nil
	}
	if strings.HasPrefix(text, "''") {
		return "'", text[2:], nil
	}
	// Within quotes two of them stand for one.
	for at := 1; at < len(text); at++ {
		if text[at] != '\'' {
			literal += text[at : at+1]
			continue
		}
		if !strings.HasPrefix(text[at+1:], "'") {
			return literal, text[at+1:], nil
		}
		literal += "'"
		at++
	}
	return "", "", errors.New("a ' is not closed")
}

// fieldOf returns the step of a run of one letter. Months by name become 'N'.
func fieldOf(letter byte, width int) (step, error) {
	run := strings.Repeat(string(letter), width)
	switch letter {
	case 'y', 'u':
		if width == 2 {
			return step{field: 'y', exact: 2}, nil
		}
		return step{field: 'y', exact: 4}, nil
	case 'Y':
		return step{field: 'Y', exact: 4}, nil
	case 'D':
		if width <= 3 {
			return step{field: 'D', exact: width}, nil
		}
	case 'w':
		if width <= 2 {
			return step{field: 'w', exact: width}, nil
		}
	case 'e', 'c':
		if width == 1 {
			return step{field: 'e', exact: 1}, nil
		}
		return step{field: 'E'}, nil
	case 'E':
		return step{field: 'E'}, nil
	case 'Q', 'q':
		if width == 1 {
			return step{field: 'Q', exact: 1}, nil
		}
	case 'M', 'L':
		if width >= 3 {
			return step{field: 'N'}, nil
		}
		return step{field: 'M', exact: width}, nil
	case 'd', 'H', 'h', 'm', 's':
		if width <= 2 {
			return step{field: letter, exact: width}, nil
		}
	case 'S', 'a':
		return step{field: letter}, nil
	case 'X', 'x', 'Z':
		return step{field: 'X'}, nil
	}
	return step{}, fmt.Errorf("%s is not supported; the letters are yyyy or yy, M or MM, MMM or MMMM, d or dd, H or HH, h or hh, mm, ss, S, a, XXX, EEE, Q, DDD, and YYYY with ww and e", run)
}

// incomplete says what is missing in a pattern with these fields, or too much.
func incomplete(seen map[byte]int) string {
	months := seen['M'] + seen['N']
	switch {
	case seen['D'] > 0 && months+seen['d'] > 0:
		return ": " + strings.Repeat("D", seen['D']) + " is the day of the year; the day of the month is dd"
	case seen['Y'] > 0 && seen['w'] == 0:
		return ": " + strings.Repeat("Y", seen['Y']) + " is the year of the week, which differs near New Year; the year is yyyy"
	case seen['w'] > 0 && (seen['Y'] == 0 || seen['y']+months+seen['d'] > 0):
		return ": ww is the week of the year and can only be combined with YYYY and e"
	case seen['H'] > 0 && seen['h'] > 0:
		return " has the hour twice"
	case months == 0 && seen['m'] > 0 && seen['H']+seen['h'] == 0:
		return " has no month: mm is minutes, the month is MM"
	case seen['m'] > 0 && seen['H']+seen['h'] == 0, seen['s'] > 0 && seen['m'] == 0, seen['S'] > 0 && seen['s'] == 0:
		return " has an incomplete time of day: it needs hours HH and minutes mm, then seconds ss, then fractions SSS"
	case (seen['h'] > 0) != (seen['a'] > 0):
		return " needs both h (hours 1 to 12) and a (AM or PM), or H (hours 0 to 23)"
	case seen['w'] > 0:
		return ""
	case seen['y'] == 0:
		return " has no year: add yyyy"
	case seen['D'] > 0, seen['Q'] > 0 && months+seen['d'] == 0:
		return ""
	case months == 0 && (seen['d'] > 0 || seen['H']+seen['h'] > 0):
		return " has no month: add MM, or MMM for a name"
	case seen['M'] > 0 && seen['N'] > 0:
		return " has the month twice"
	case seen['d'] == 0 && seen['H']+seen['h'] > 0:
		return " has no day of the month: add dd"
	}
	return ""
}

func formOf(seen map[byte]int) form {
	switch {
	case seen['w'] > 0:
		return byWeek
	case seen['D'] > 0:
		return byDayOfYear
	case seen['Q'] > 0 && seen['M']+seen['N'] == 0:
		return byQuarter
	case seen['M']+seen['N'] == 0:
		return byYear
	case seen['d'] == 0:
		return byMonth
	}
	return byMonthAndDay
}

// fixWidths lets a number have one digit or two unless digits follow it.
func (p *Pattern) fixWidths() {
	for i := range p.steps {
		s := &p.steps[i]
		if s.field == 'y' || s.field == 'Y' || s.field == 'D' || s.field == 0 {
			continue
		}
		digitsFollow := i+1 < len(p.steps) && strings.IndexByte("yYMdDwHhmsS", p.steps[i+1].field) >= 0
		if !digitsFollow {
			s.exact = 0
		}
	}
}
