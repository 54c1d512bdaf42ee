package language

import (
	"fmt"
	"strconv"
	"strings"

	"roundyear/civil"
)

// Pattern writes days by a pattern of Unicode LDML, such as EEE d MMM yyyy.
type Pattern struct {
	text  string
	parts []part
}

// part is a field, or text that stands as it is.
type part struct {
	letter  byte
	count   int
	literal string
}

// fields are the letters that patterns may have, and how often each may stand.
var fields = map[byte]string{
	'y': "1 2 4", 'M': "1 2 3 4", 'L': "1 2 3 4", 'd': "1 2", 'D': "1 3", 'E': "1 2 3 4", 'c': "3 4", 'Q': "1 2", 'Y': "4", 'w': "1 2", 'e': "1",
}

// maxPattern is how long a pattern can be: it is written on each day.
const maxPattern = 200

// ParsePattern reads a pattern. The error names what is wrong, and slips such
// as DD for dd.
func ParsePattern(text string) (*Pattern, error) {
	if len(text) > maxPattern {
		return nil, fmt.Errorf("pattern %q… has %d characters; at most %d are read", strings.ToValidUTF8(text[:40], ""), len(text), maxPattern)
	}
	p := &Pattern{text: text}
	for i := 0; i < len(text); {
		letter := text[i]
		switch {
		case letter == '\'':
			literal, end, err := quoted(text, i)
			if err != nil {
				return nil, err
			}
			p.literal(literal)
			i = end
		case letter >= 'a' && letter <= 'z' || letter >= 'A' && letter <= 'Z':
			end := i
			for end < len(text) && text[end] == letter {
				end++
			}
			p.parts = append(p.parts, part{letter: letter, count: end - i})
			i = end
		default:
			p.literal(text[i : i+1])
			i++
		}
	}
	return p, p.check()
}

func (p *Pattern) literal(text string) {
	if last := len(p.parts) - 1; last >= 0 && p.parts[last].letter == 0 {
		p.parts[last].literal += text
		return
	}
	p.parts = append(p.parts, part{literal: text})
}

// quoted reads text between apostrophes; two of them stand for one.
func quoted(text string, at int) (string, int, error) {
	if strings.HasPrefix(text[at:], "''") {
		return "'", at + 2, nil
	}
	var literal strings.Builder
	for i := at + 1; i < len(text); i++ {
		if text[i] != '\'' {
			literal.WriteByte(text[i])
			continue
		}
		if i+1 == len(text) || text[i+1] != '\'' {
			return literal.String(), i + 1, nil
		}
		literal.WriteByte('\'')
		i++
	}
	return "", 0, fmt.Errorf("pattern %q has a ' that is not closed", text)
}

func (p *Pattern) check() error {
	has := map[byte]bool{}
	hasField := false
	for _, part := range p.parts {
		has[part.letter] = true
		hasField = hasField || part.letter != 0
	}
	if !hasField {
		return fmt.Errorf("pattern %q contains no date field", p.text)
	}
	for _, part := range p.parts {
		field := strings.Repeat(string(part.letter), part.count)
		switch known := fields[part.letter]; {
		case part.letter == 0:
		case field == "DD":
			return fmt.Errorf("pattern %q: DD is the day of the year; the day of the month is dd", p.text)
		case part.letter == 'Y' && !has['w']:
			return fmt.Errorf("pattern %q: %s is the year of the week, which differs near New Year; the year is yyyy", p.text, field)
		case part.letter == 'm':
			return fmt.Errorf("pattern %q: %s is minutes; the month is MM", p.text, field)
		case !strings.Contains(" "+known+" ", " "+strconv.Itoa(part.count)+" "):
			return fmt.Errorf("pattern %q: %s is not supported; the letters are y, yy or yyyy, M or MM, MMM or MMMM, d or dd, EEE or EEEE, Q, D or DDD, and YYYY with w or ww and e", p.text, field)
		}
	}
	return nil
}

// String returns the pattern as it was given.
func (p *Pattern) String() string { return p.text }

// Fields tells whether the pattern has any of some letters.
func (p *Pattern) Fields(letters string) bool {
	for _, part := range p.parts {
		if part.letter != 0 && strings.IndexByte(letters, part.letter) >= 0 {
			return true
		}
	}
	return false
}

// Week is the week of a day, for patterns with YYYY, w and e: the year of the
// week, its number, and the place of the day in it, from 1.
type Week struct{ Year, Number, Day int }

// Append appends the day as the pattern has it, in the names of a language.
// Names of months beside a day of the month have the form they have in dates.
func (p *Pattern) Append(text []byte, day civil.Day, names *Names, week Week) []byte {
	year, month, dayOfMonth := day.Date()
	for _, part := range p.parts {
		switch part.letter {
		case 0:
			text = append(text, part.literal...)
		case 'y':
			if part.count == 2 {
				text = padded(text, year%100, 2)
			} else {
				text = padded(text, year, part.count)
			}
		case 'M', 'L':
			lists := names.dateMonths
			if part.letter == 'L' {
				lists = names.months
			}
			if part.count < 3 {
				text = padded(text, int(month), part.count)
			} else {
				text = append(text, lists[4-part.count][month-1]...)
			}
		case 'E', 'c':
			lists := names.inDate
			if part.letter == 'c' {
				lists = names.days
			}
			width := 1
			if part.count == 4 {
				width = 0
			}
			text = append(text, lists[width][day.Weekday()-1]...)
		case 'd':
			text = padded(text, dayOfMonth, part.count)
		case 'D':
			text = padded(text, day.YearDay(), part.count)
		case 'Q':
			text = padded(text, (int(month)+2)/3, part.count)
		case 'Y':
			text = padded(text, week.Year, part.count)
		case 'w':
			text = padded(text, week.Number, part.count)
		case 'e':
			text = padded(text, week.Day, 1)
		}
	}
	return text
}

func padded(text []byte, number, width int) []byte {
	digits := strconv.Itoa(number)
	for range width - len(digits) {
		text = append(text, '0')
	}
	return append(text, digits...)
}
