package app

import (
	"context"
	"fmt"
	"slices"
	"sync"

	"roundyear/cell"
	"roundyear/civil"
	"roundyear/dimension"
	"roundyear/facts/decimal"
	"roundyear/facts/formula"
	"roundyear/fault"
	"roundyear/internal/reading"
	"roundyear/nearest"
	"roundyear/rows"
)

// attribute returns an attribute of the day of a date column, for formulas. A row whose date is blank or cannot be read has none.
func (s Shape) attribute(ctx context.Context, source *rows.Source, column, name string) (*formula.Attribute, error) {
	place, err := source.Find(column)
	if err != nil {
		return nil, err
	}
	catalogue, err := s.Catalogue()
	if err != nil {
		return nil, err
	}
	attributes := catalogue.Attributes()
	at := slices.IndexFunc(attributes, func(a dimension.Attribute) bool { return a.Name == name })
	if at < 0 {
		problem := &fault.Fault{File: source.Name(), What: fmt.Sprintf("has no column %q, and days have no attribute %q", column+"."+name, name), Remedy: "roundyear columns lists all attributes"}
		var names []string
		for _, attribute := range attributes {
			names = append(names, attribute.Name)
		}
		if near := nearest.Name(name, names); near != "" {
			problem.Remedy = fmt.Sprintf("Did you mean %s.%s?", column, near)
		}
		return nil, problem
	}
	asked := s.Asked
	asked.Parts = nil
	kept := *source
	kept.KeepsRagged = true
	dates, err := Dates(ctx, &kept, source.Names()[place], asked)
	if err != nil {
		return nil, err
	}
	one := attributes[at : at+1]
	isNumber := one[0].Type == cell.Integer || one[0].Type == cell.Decimal
	pool := sync.Pool{New: func() any { return &dayValues{reader: dates.Reader(), known: map[civil.Day]formula.Value{}} }}
	return &formula.Attribute{Place: place, IsNumber: isNumber, Value: func(row formula.Row) (formula.Value, error) {
		w := pool.Get().(*dayValues)
		defer pool.Put(w)
		of := row.(*letRow).row
		w.reader.Enter(of.Part())
		moment, state := w.reader.Read(of)
		if state != reading.Read {
			return formula.Value{}, nil
		}
		day, ok := s.Clock.Day(moment)
		if !ok {
			return formula.Value{}, w.reader.NoZone(of)
		}
		value, known := w.known[day]
		if !known {
			for values := range catalogue.Days(one, day, day) {
				value = ofCell(values[0], isNumber)
			}
			w.known[day] = value
		}
		return value, nil
	}}, nil
}

// dayValues are values of days that one goroutine has met.
type dayValues struct {
	reader *reading.Reader
	known  map[civil.Day]formula.Value
}

func ofCell(value cell.Value, isNumber bool) formula.Value {
	text := value.AppendText(nil)
	switch {
	case value.IsBlank():
		return formula.Value{}
	case isNumber:
		number, err := decimal.Parse(text)
		if err == nil {
			return formula.Value{Kind: formula.Number, Number: number}
		}
	}
	return formula.Value{Kind: formula.Text, Text: text}
}
