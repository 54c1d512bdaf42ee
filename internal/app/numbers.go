package app

import (
	"bytes"
	"context"
	"errors"
	"fmt"
	"slices"

	"roundyear/facts"
	"roundyear/fault"
	"roundyear/internal/table"
	"roundyear/numbertext"
	"roundyear/rows"
)

// Numbers are numbers of facts as text. Most files write them plainly, with a decimal point and nothing else; so
// they are read as such first, and all rows decide only if that fails, or leaves open which mark it is.

// numberFormats are how the numbers of columns are written in each part, by the places of the columns. Those of others are
// written plainly, or are no text.
type numberFormats map[*rows.Part]map[int]*numbertext.Format

// pointSeen is whether the values of a column of a part have shown that the point marks decimals.
type pointSeen struct{ isSettled, isOpen bool }

// see looks at values until one of them settles it.
func (p *pointSeen) see(values [][]byte) {
	for _, value := range values {
		at := bytes.IndexByte(value, '.')
		if at < 0 {
			continue
		}
		// 1.234 may be 1234, and 0.250 or 1.25 may not.
		digits := bytes.TrimSpace(bytes.TrimLeft(value, "+-"))
		if before := at - (len(value) - len(digits)); before >= 1 && before <= 3 && digits[0] != '0' && len(digits) == before+4 {
			p.isOpen = true
			continue
		}
		p.isSettled = true
		return
	}
}

// hasNumbers tells whether a measure is made of numbers that are text. In JSON numbers are plain by its standard.
func (f *Facts) hasNumbers(measure int) bool {
	kind, place := f.Operation.Measures[measure].Kind, f.measures[measure]
	return kind != facts.Count && kind != facts.Distinct && f.isText(place)
}

func (f *Facts) isText(place int) bool {
	column := f.Source.Columns()[place]
	return column.Type == rows.Text && !column.Plain && !table.IsJSON(f.Source.Parts[0])
}

// numberPlaces returns the places of the columns whose texts are numbers: of measures, and of conditions that compare them
// with numbers.
func (f *Facts) numberPlaces() []int {
	var places []int
	add := func(place int) {
		if !slices.Contains(places, place) {
			places = append(places, place)
		}
	}
	for i, place := range f.measures {
		if place >= 0 && f.hasNumbers(i) {
			add(place)
		}
	}
	for i, condition := range f.Operation.Where {
		if place := f.filter.columns[i]; condition.OrdersNumbers() && f.isText(place) {
			add(place)
		}
	}
	return places
}

// markOf returns the decimal mark of a column that was asked for.
func (f *Facts) markOf(place int) numbertext.Mark {
	if mark, ok := f.Decimals[f.Source.Names()[place]]; ok {
		return mark
	}
	return f.Decimals[""]
}

// askedOf returns what was asked for of a column.
func (f *Facts) askedOf(place int) numbertext.Asked {
	return numbertext.Asked{Mark: f.markOf(place), Minus: f.Minus}
}

// asksForCommas tells whether a mark was asked for that plain numbers do not have.
func (f *Facts) asksForCommas() bool {
	return slices.ContainsFunc(f.numberPlaces(), func(place int) bool { return f.markOf(place) == numbertext.Comma })
}

// badNumber is the fault of a text that is no plain number.
type badNumber struct{ *fault.Fault }

// Unwrap returns the fault.
func (b *badNumber) Unwrap() error { return b.Fault }

// isUndecided tells whether numbers were taken to have a decimal point that none of them shows.
func (f *Facts) isUndecided(seen map[*rows.Part][]pointSeen) bool {
	for _, own := range seen {
		for i, one := range own {
			if one.isOpen && !one.isSettled && f.markOf(f.measures[i]) == numbertext.Unsettled {
				return true
			}
		}
	}
	return false
}

// decideNumbers decides from all rows how the numbers are written in each part.
func (f *Facts) decideNumbers(ctx context.Context) (err error) {
	places := f.numberPlaces()
	observed, err := observeNumbers(ctx, f.Source, places)
	if err != nil {
		return err
	}
	f.formats, err = observed.decide(f.Source, places, f.askedOf)
	return err
}

// observedNumbers is what the numbers of columns look like in each part.
type observedNumbers map[*rows.Part][]*numbertext.Column

// observeNumbers reads all rows of a source to see how the numbers of some columns are written, by their places. Ragged
// rows say nothing.
func observeNumbers(ctx context.Context, source *rows.Source, places []int) (observedNumbers, error) {
	type observed struct {
		part    *rows.Part
		columns []*numbertext.Column
	}
	work := func() func(*rows.Batch) (observed, error) {
		return func(b *rows.Batch) (observed, error) {
			own := observed{b.Part, newColumns(len(places))}
			var fields rows.Fields
			for i, place := range places {
				fields.Read(b, place, 0, b.Len())
				for row, value := range fields.Texts {
					if !b.IsRagged(row) {
						own.columns[i].Observe(b.LineOf(row), value)
					}
				}
			}
			return own, b.Err()
		}
	}
	whole := observedNumbers{}
	for _, part := range source.Parts {
		whole[part] = newColumns(len(places))
	}
	err := rows.Process(ctx, source.Narrowed(places...), work, func(own observed) error {
		for i, column := range own.columns {
			whole[own.part][i].Join(column)
		}
		return nil
	})
	return whole, err
}

// decide decides how the numbers of columns are written in each part. The marks that were asked for win.
func (o observedNumbers) decide(source *rows.Source, places []int, asked func(place int) numbertext.Asked) (numberFormats, error) {
	formats := numberFormats{}
	for _, part := range source.Parts {
		formats[part] = map[int]*numbertext.Format{}
		for i, place := range places {
			format, err := o[part][i].Decide(asked(place))
			if err != nil {
				return nil, numbersFault(err, part, place)
			}
			formats[part][place] = &format
		}
	}
	return formats, nil
}

func newColumns(count int) []*numbertext.Column {
	columns := make([]*numbertext.Column, count)
	for i := range columns {
		columns[i] = &numbertext.Column{}
	}
	return columns
}

// numbersFault says what to do about numbers that stay undecided.
func numbersFault(err error, part *rows.Part, place int) error {
	name := part.Columns[place].Name
	problem := &fault.Fault{File: part.Name, Column: name, What: err.Error()}
	switch {
	case errors.As(err, new(*numbertext.Open)):
		problem.Remedy = fmt.Sprintf("Add --decimal %s=point or --decimal %[1]s=comma", name)
	case errors.As(err, new(*numbertext.Conflict)):
		problem.Remedy = fmt.Sprintf("Correct the values; if only one of the two is wrong, --decimal %s=point or --decimal %[1]s=comma finds them", name)
	case errors.As(err, new(*numbertext.Unsigned)):
		problem.Remedy = "Add --minus CR if credits count as negative, or --minus DR if debits do"
	default:
		problem.Remedy = "Convert them to one currency first"
	}
	return problem
}

// notPlain stands before a text that is no number of its format, so that it is not taken for a plain one.
const notPlain = 0

// plainNumbers turns texts of a format into plain numbers. The memory is used again.
func plainNumbers(format *numbertext.Format, texts [][]byte, memory []byte) []byte {
	memory = memory[:0]
	for i, text := range texts {
		start := len(memory)
		plain, ok := format.AppendPlain(memory, text)
		if !ok {
			plain = append(append(memory, notPlain), text...)
		}
		memory = plain
		texts[i] = memory[start:len(memory):len(memory)]
	}
	return memory
}
