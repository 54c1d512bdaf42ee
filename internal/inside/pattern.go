package inside

import (
	"context"
	"fmt"
	"strings"

	"roundyear/internal/dialect"
)

// written is a date pattern of fields that all have one width, so that SQL finds them by their places.
type written struct {
	// template has a digit for each digit and all other characters as they are.
	template string
	// at are the places of the fields from 1, by their letters.
	at map[byte]int
}

// fieldWidths are the widths of the fields that SQL reads, by their letters (UTS 35).
var fieldWidths = map[byte]int{'y': 4, 'M': 2, 'd': 2, 'H': 2, 'm': 2, 's': 2}

// writtenAs reads a pattern. It is false for one with names, two-digit years, numbers of any width and the like.
func writtenAs(pattern string) (w written, ok bool) {
	w.at = map[byte]int{}
	var template strings.Builder
	for i := 0; i < len(pattern); {
		letter := pattern[i]
		if strings.HasPrefix(pattern[i:], "'T'") {
			template.WriteByte('T')
			i += len("'T'")
			continue
		}
		width, isField := fieldWidths[letter]
		switch {
		case isField:
			end := i
			for end < len(pattern) && pattern[end] == letter {
				end++
			}
			if _, twice := w.at[letter]; twice || end-i != width {
				return w, false
			}
			w.at[letter] = template.Len() + 1
			template.WriteString(strings.Repeat("0", width))
			i = end
		case strings.IndexByte("/-. :", letter) >= 0:
			template.WriteByte(letter)
			i++
		default:
			return w, false
		}
	}
	w.template = template.String()
	return w, w.at['y'] > 0 && w.at['M'] > 0 && w.at['d'] > 0
}

// field is the expression of a field.
func (w *written) field(name string, letter byte) string {
	return fmt.Sprintf("substr(%s, %d, %d)", name, w.at[letter], fieldWidths[letter])
}

// tests are the conditions that a text which has the form of the pattern is a day and a time that there are.
func (w *written) tests(d *dialect.Dialect, name string) []string {
	number := func(letter byte) string { return "CAST(" + w.field(name, letter) + " AS " + d.WholeNumber() + ")" }
	year, month, day := number('y'), number('M'), number('d')
	tests := []string{
		year + " > 0", month + " BETWEEN 1 AND 12",
		fmt.Sprintf("%s BETWEEN 1 AND CASE WHEN %s IN (4, 6, 9, 11) THEN 30 WHEN %[2]s <> 2 THEN 31 WHEN %[3]s %% 4 = 0 AND (%[3]s %% 100 <> 0 OR %[3]s %% 400 = 0) THEN 29 ELSE 28 END", day, month, year),
	}
	for _, clock := range []struct {
		letter byte
		most   int
	}{{'H', 23}, {'m', 59}, {'s', 59}} {
		if w.at[clock.letter] > 0 {
			tests = append(tests, fmt.Sprintf("%s <= %d", number(clock.letter), clock.most))
		}
	}
	return tests
}

// holds is the condition that a text is written in the pattern and is a day that there is.
func (w *written) holds(d *dialect.Dialect, name string) string {
	return fmt.Sprintf("CASE WHEN %s THEN %s ELSE %s END", d.Matches(name, w.template), strings.Join(w.tests(d, name), " AND "), "1 = 0")
}

// guarded is the expression of the day of a text, in lines; one that is not written in the pattern ends the statement.
func (w *written) guarded(d *dialect.Dialect, name, indent string) string {
	line := "\n" + indent
	return "CASE" + line + "  WHEN " + name + " IS NULL OR " + name + " = '' THEN NULL" +
		line + "  WHEN NOT " + d.Matches(name, w.template) + " THEN " + d.Fails(name) +
		line + "  WHEN " + strings.Join(w.tests(d, name), line+"    AND ") +
		line + "    THEN " + d.AsDate(w.day(d, name)) +
		line + "  ELSE " + d.Fails(name) +
		line + "END"
}

// dayOfPattern is the expression of the day of a text, if all texts are written in one pattern that leaves no choice.
func (r *Request) dayOfPattern(ctx context.Context, date int) (string, error) {
	w, name, err := r.proven(ctx, date)
	if err != nil {
		return "", err
	}
	return fmt.Sprintf("CASE WHEN %s <> '' THEN %s END", name, w.day(r.Table.Dialect(), name)), nil
}

// day is the expression of the day of a text, by ISO 8601.
func (w *written) day(d *dialect.Dialect, name string) string {
	return d.Concat(w.field(name, 'y'), "'-'", w.field(name, 'M'), "'-'", w.field(name, 'd'))
}

// time is the expression of the time of day of a text, by ISO 8601.
func (w *written) time(d *dialect.Dialect, name string) string {
	second := "'00'"
	if w.at['s'] > 0 {
		second = w.field(name, 's')
	}
	return d.Concat(w.field(name, 'H'), "':'", w.field(name, 'm'), "':'", second)
}

// proven proves that all texts of a date are written in one pattern that leaves no choice, and returns that and the expression of a text.
func (r *Request) proven(ctx context.Context, date int) (w written, name string, err error) {
	place := r.Dates[date]
	d, shown, pattern := r.Table.Dialect(), r.Columns[place].Name, ""
	if date < len(r.Patterns) {
		pattern = r.Patterns[date]
	}
	w, ok := writtenAs(pattern)
	if !ok {
		return w, "", refuse("how dates in %s are written is read locally", shown)
	}
	if name = r.Table.ColumnName(place); !r.Table.IsText(place) {
		name = d.AsText(name)
	}
	with, from := r.Table.Relation()
	query := fmt.Sprintf("%s SELECT sum(CASE WHEN %s THEN 0 ELSE 1 END), max(%s) FROM %s WHERE %s <> ''", with, w.holds(d, name), w.field(name, 'd'), from, name)
	var wrong, latest string
	err = r.Table.Ask(ctx, query, func(values [][]byte) error {
		wrong, latest = string(values[0]), string(values[1])
		return nil
	})
	switch {
	case err != nil:
		return w, "", err
	case strings.Trim(wrong, "0.") != "":
		return w, "", refuse("dates in %s are not all written as %s", shown, pattern)
	case !w.isYearFirst() && !r.OrderIsAsked && latest <= "12":
		return w, "", refuse("nothing in %s settles whether the day or the month comes first", shown)
	}
	return w, name, nil
}

func (w *written) isYearFirst() bool { return w.at['y'] == 1 }
