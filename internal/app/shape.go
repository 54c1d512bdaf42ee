package app

import (
	"context"
	"errors"
	"fmt"
	"slices"
	"strings"

	"roundyear/datetext"
	"roundyear/dimension"
	"roundyear/facts/formula"
	"roundyear/fault"
	"roundyear/internal/normalise"
	"roundyear/internal/reading"
	"roundyear/internal/table"
	"roundyear/numbertext"
	"roundyear/rows"
)

// Shape is what facts are made to look like before anything else reads them.
type Shape struct {
	// Renames are new names of columns, as OLD=NEW; Lets are columns that are computed, as NAME = EXPRESSION. Names in these
	// are the new ones.
	Renames, Lets []string
	// Decimals and Minus say how numbers are written, as in Facts.
	Decimals map[string]numbertext.Mark
	Minus    string
	// Asked and Clock say how dates are read, and Catalogue makes the attributes that days have.
	Asked     reading.Asked
	Clock     datetext.Clock
	Catalogue func() (*dimension.Catalogue, error)
}

// Compute returns the source with the columns that are computed. A file of rejects has them already.
func (s Shape) Compute(ctx context.Context, source *rows.Source) (_ *rows.Source, err error) {
	if normalise.IsRejects(source) {
		return source, nil
	}
	for _, let := range s.Lets {
		if source, err = s.let(ctx, source, let); err != nil {
			return nil, err
		}
	}
	return source, nil
}

// Rename returns the source with new names of columns. A file of rejects has them already.
func (s Shape) Rename(source *rows.Source) (*rows.Source, error) {
	if len(s.Renames) == 0 || normalise.IsRejects(source) {
		return source, nil
	}
	names := slices.Clone(source.Names())
	done := map[int]string{}
	for _, text := range s.Renames {
		old, name, found := strings.Cut(text, "=")
		if old, name = strings.TrimSpace(old), strings.TrimSpace(name); !found || old == "" || name == "" {
			return nil, &fault.Fault{What: fmt.Sprintf("--rename must be OLD=NEW, such as betrag=amount, not %q", text)}
		}
		place, err := source.Find(old)
		if err != nil {
			return nil, err
		}
		if other, isTwice := done[place]; isTwice {
			return nil, &fault.Fault{File: source.Name(), Column: source.Names()[place], What: fmt.Sprintf("is renamed to %s and to %s", other, name)}
		}
		done[place], names[place] = name, name
	}
	for i, name := range names {
		if slices.Contains(names[:i], name) {
			return nil, &fault.Fault{File: source.Name(), What: fmt.Sprintf("would have two columns called %q", name), Remedy: "Give each column its own name"}
		}
	}
	return source.Renaming(names), nil
}

// let adds a column that is computed.
func (s Shape) let(ctx context.Context, source *rows.Source, text string) (*rows.Source, error) {
	shown := text
	const most = 60
	if len(shown) > most {
		shown = shown[:most] + " …"
	}
	f, err := formula.Parse(text)
	if err != nil {
		return nil, &fault.Fault{What: fmt.Sprintf("--let %q %v", shown, err)}
	}
	if slices.Contains(source.Names(), f.Name) {
		return nil, &fault.Fault{File: source.Name(), What: fmt.Sprintf("already has a column %q", f.Name), Remedy: "Give the new column another name"}
	}
	find := formula.Finder{Column: source.Find, Attribute: func(column, attribute string) (*formula.Attribute, error) {
		return s.attribute(ctx, source, column, attribute)
	}}
	if err := f.Bind(find); err != nil {
		var problem *fault.Fault
		if errors.As(err, &problem) {
			problem.What = fmt.Sprintf("--let %q: %s", shown, problem.What)
		}
		return nil, err
	}
	all, numbers := f.Columns()
	formats, err := s.formats(ctx, source, numbers)
	if err != nil {
		return nil, err
	}
	column := rows.Column{Name: f.Name, Plain: f.IsNumber()}
	if scale, known := f.Scale(func(place int) (int, bool) { return scaleOf(source.Columns()[place], formats, place) }); known && scale <= maxLetScale {
		column.Scale, column.Wide = uint8(scale), true
	}
	computation := rows.Computation{Columns: []rows.Column{column}, Needs: all}
	computation.Compute = func(row *rows.Row, to []byte, ends []int) ([]byte, []int, error) {
		value, err := f.Evaluate(&letRow{row: row, formats: formats[row.Part().Index]})
		if err != nil {
			return to, ends, letFault(err, f.Name)
		}
		to = value.AppendText(to)
		return to, append(ends, len(to)), nil
	}
	return source.Computing(computation), nil
}

// maxLetScale is how many decimals a column of numbers has at most in files with types.
const maxLetScale = 18

// scaleOf returns how many decimals the numbers of a column have at most, if that is known.
func scaleOf(column rows.Column, formats []map[int]*numbertext.Format, place int) (scale int, known bool) {
	switch {
	case column.Type == rows.Integer:
		return 0, true
	case column.Type == rows.Decimal, column.Plain && column.Wide:
		return int(column.Scale), true
	}
	for _, format := range formats {
		if format[place] == nil {
			return 0, false
		}
		scale = max(scale, format[place].Scale)
	}
	return scale, true
}

// letFault says what to do about a value that cannot be computed.
func letFault(err error, name string) error {
	problem := &fault.Fault{Column: name, What: err.Error()}
	if errors.Is(err, formula.ErrDividedByZero) {
		problem.Remedy = "Write nonzero(COLUMN) for a blank instead, or leave such rows out"
	}
	return problem
}

// formats decides how the numbers of columns are written in each part, if they are text.
func (s Shape) formats(ctx context.Context, source *rows.Source, numbers []int) ([]map[int]*numbertext.Format, error) {
	var texts []int
	for _, place := range numbers {
		if column := source.Columns()[place]; column.Type == rows.Text && !column.Plain && !table.IsJSON(source.Parts[0]) {
			texts = append(texts, place)
		}
	}
	formats := make([]map[int]*numbertext.Format, len(source.Parts))
	if len(texts) == 0 {
		return formats, nil
	}
	kept := *source
	kept.KeepsRagged = true
	observed, err := observeNumbers(ctx, &kept, texts)
	if err != nil {
		return nil, err
	}
	decided, err := observed.decide(&kept, texts, func(place int) numbertext.Asked {
		mark, ok := s.Decimals[source.Names()[place]]
		if !ok {
			mark = s.Decimals[""]
		}
		return numbertext.Asked{Mark: mark, Minus: s.Minus}
	})
	if err != nil {
		return nil, err
	}
	for i, part := range source.Parts {
		formats[i] = decided[part]
	}
	return formats, nil
}

// letRow gives the values of a row to a formula.
type letRow struct {
	row     *rows.Row
	formats map[int]*numbertext.Format
}

// Field returns a value as it stands there.
func (l *letRow) Field(place int) []byte { return l.row.Field(place) }

// NumberField returns a value of a column of numbers as a plain number.
func (l *letRow) NumberField(place int) ([]byte, error) {
	text := l.row.Field(place)
	format := l.formats[place]
	if format == nil {
		return text, nil
	}
	plain, ok := format.AppendPlain(nil, text)
	if !ok {
		return nil, &fault.Fault{What: fmt.Sprintf("%q in column %s is not a number with a decimal %s", text, l.row.Part().Columns[place].Name, format.Mark),
			Remedy: "Correct the value, or name texts that stand for no value with --blank-as"}
	}
	return plain, nil
}
