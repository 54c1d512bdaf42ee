package app

import (
	"bytes"
	"context"
	"slices"

	"roundyear/numbertext"
	"roundyear/rows"
)

// figureEvidence is what the texts of a column are, as long as all of them may be numbers or truth values.
type figureEvidence struct {
	values          int
	notPlain        bool
	notFigure       bool
	notTruth        bool
	whole, decimals int
	// written are the numbers of each part that are not written plainly.
	written map[*rows.Part]*numbertext.Column
}

func (e *figureEvidence) isOver() bool { return e.notFigure && e.notTruth }

func (e *figureEvidence) observe(part *rows.Part, line int, text []byte) {
	if len(text) == 0 {
		return
	}
	e.values++
	e.notTruth = e.notTruth || string(text) != "true" && string(text) != "false"
	if e.notFigure {
		return
	}
	whole, decimals, isPlain := plainNumber(text)
	e.whole, e.decimals, e.notPlain = max(e.whole, whole), max(e.decimals, decimals), e.notPlain || !isPlain
	if !isPlain && !isFigure(text) {
		e.notFigure = true
		return
	}
	if e.written == nil {
		e.written = map[*rows.Part]*numbertext.Column{}
	}
	column := e.written[part]
	if column == nil {
		column = &numbertext.Column{}
		e.written[part] = column
	}
	column.Observe(line, text)
}

// isFigure tells whether a text may be a number of another form than 1234.56, such as 1.234,56: of few digits, and without zeros before it as
// codes have.
func isFigure(text []byte) bool {
	digits, unsigned := 0, bytes.TrimPrefix(text, []byte{'-'})
	for i, c := range unsigned {
		switch {
		case c >= '0' && c <= '9':
			digits++
		case c != '.' && c != ',' || i == 0:
			return false
		}
	}
	isCode := len(unsigned) > 1 && unsigned[0] == '0' && unsigned[1] >= '0' && unsigned[1] <= '9'
	return digits > 0 && digits <= mostDigits && !isCode
}

func (e *figureEvidence) join(o *figureEvidence) {
	e.values += o.values
	e.notPlain, e.notFigure, e.notTruth = e.notPlain || o.notPlain, e.notFigure || o.notFigure, e.notTruth || o.notTruth
	e.whole, e.decimals = max(e.whole, o.whole), max(e.decimals, o.decimals)
	for part, column := range o.written {
		if e.written == nil {
			e.written = map[*rows.Part]*numbertext.Column{}
		}
		if own := e.written[part]; own != nil {
			own.Join(column)
		} else {
			e.written[part] = column
		}
	}
}

// figures returns what the texts are; nil for text.
func (e *figureEvidence) figures(mark numbertext.Mark, isWord bool) *rows.Figures {
	switch {
	case e.values == 0:
		return nil
	case !e.notTruth:
		return &rows.Figures{Type: rows.Bool}
	case e.notFigure || isWord:
		return nil
	case !e.notPlain && mark != numbertext.Comma:
		if e.whole+e.decimals > mostDigits {
			return nil
		}
		if e.decimals == 0 {
			return &rows.Figures{Type: rows.Integer}
		}
		return &rows.Figures{Type: rows.Decimal, Scale: uint8(e.decimals)}
	}
	f := &rows.Figures{Type: rows.Decimal, Plain: map[*rows.Part]rows.Plainer{}}
	for part, column := range e.written {
		format, err := column.Decide(numbertext.Asked{Mark: mark})
		if err != nil {
			return nil // nothing settles how they are read
		}
		if count, _ := column.Unread(format); count > 0 {
			return nil
		}
		f.Plain[part], f.Scale = format, max(f.Scale, uint8(format.Scale))
	}
	if f.Scale == 0 {
		f.Type = rows.Integer
	}
	return f
}

// FindFigures makes columns of texts numbers or truth values, for outputs whose columns have types, if all of their texts are: numbers of at
// most 15 digits, without zeros before them. Marks are the decimal marks that are known, by column; those of texts stay text. It returns the
// columns that are numbers now.
func FindFigures(ctx context.Context, source *rows.Source, marks map[string]numbertext.Mark, texts []string) (found []rows.Column, err error) {
	var places []int
	for place, column := range source.Columns() {
		if column.Type == rows.Text && !column.Plain && !slices.Contains(texts, column.Name) {
			places = append(places, place)
		}
	}
	if len(places) == 0 {
		return nil, nil
	}
	work := func() func(*rows.Batch) ([]figureEvidence, error) {
		return func(b *rows.Batch) ([]figureEvidence, error) {
			own := make([]figureEvidence, len(places))
			var fields rows.Fields
			for i, place := range places {
				fields.Read(b, place, 0, b.Len())
				for row, text := range fields.Texts {
					if own[i].isOver() {
						break
					}
					if !b.IsRagged(row) && !b.StandsForBlank(text) {
						own[i].observe(b.Part, b.LineOf(row), text)
					}
				}
			}
			return own, b.Err()
		}
	}
	whole := make([]figureEvidence, len(places))
	reading := source.Narrowed(places...)
	reading.KeepsRagged = true
	err = rows.Process(ctx, reading, work, func(own []figureEvidence) error {
		for i := range own {
			whole[i].join(&own[i])
		}
		return nil
	})
	if err != nil {
		return nil, err
	}
	for i, place := range places {
		name := source.Columns()[place].Name
		mark, isKnown := marks[name]
		if !isKnown {
			mark = marks[""]
		}
		figures := whole[i].figures(mark, isWord(source, place))
		if figures == nil {
			continue
		}
		for _, part := range source.Parts {
			part.Columns = slices.Clone(part.Columns)
			part.Columns[place].Figures = figures
		}
		found = append(found, source.Columns()[place])
	}
	return found, nil
}

// isWord tells whether a format has said of some value of a column that it is a text, as JSON does by quotes.
func isWord(source *rows.Source, place int) bool {
	for _, part := range source.Parts {
		if words, ok := part.Unlabelled().(interface{ IsText(place int) bool }); ok && words.IsText(place) {
			return true
		}
	}
	return false
}

// hasFigures tells whether among the first rows there is a column of numbers of which some are not written plainly.
func hasFigures(ctx context.Context, source *rows.Source) (bool, error) {
	seen := make([]figureEvidence, len(source.Columns()))
	err := source.Sample(ctx, sampleSize, func(row *rows.Row) {
		for i, column := range source.Columns() {
			if column.Type == rows.Text && !seen[i].notFigure {
				seen[i].observe(row.Part(), row.Line, row.Field(i))
			}
		}
	})
	return slices.ContainsFunc(seen, func(e figureEvidence) bool { return e.values > 0 && e.notPlain && !e.notFigure }), err
}

// plainly returns a text as a plain number, if it is one that its column writes in another form.
func plainly(row *rows.Row, i int, text []byte) []byte {
	part := row.Part()
	if figures := part.Columns[i].Figures; figures != nil && len(text) > 0 {
		if plainer := figures.Plain[part]; plainer != nil {
			if plain, ok := plainer.AppendPlain(nil, text); ok {
				return plain
			}
		}
	}
	return text
}
