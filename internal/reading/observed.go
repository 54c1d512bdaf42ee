package reading

import (
	"errors"
	"fmt"

	"roundyear/datetext"
	"roundyear/fault"
	"roundyear/rows"
)

// observed is what one date column of one file holds.
type observed struct {
	dates  *Dates
	column *datetext.Column
	parts  Found
}

const maxFaults = 5

// count counts the states of rows. Of those that cannot be read it keeps the first.
func (f *Found) count(states []State, example func(int) datetext.Example) {
	for i, state := range states {
		switch state {
		case Blank:
			f.Blanks++
			continue
		case Unreadable:
			if f.Unread++; len(f.Faults) < maxFaults {
				f.Faults = append(f.Faults, example(i))
			}
		}
		f.Values++
	}
}

func (f *Found) observeParts(row *rows.Row, d *Dates) {
	r := Reader{dates: d}
	switch _, state := r.Read(row); state {
	case Blank:
		f.Blanks++
	case Unreadable:
		f.Values++
		f.Unread++
		if len(f.Faults) < maxFaults {
			f.Faults = append(f.Faults, datetext.Example{Line: row.Line, Value: r.Value(row)})
		}
	default:
		f.Values++
	}
}

// found settles how the column is read in the file.
func (o *observed) found(file *rows.Part, d *Dates) (*Found, error) {
	if !d.isDecided() {
		found := o.parts
		found.File, found.Type = file, d.Type
		if found.Unread > 0 && found.Unread == found.Values && d.isInThree() {
			return nil, &fault.Fault{File: file.Name, Line: found.Faults[0].Line, Column: d.Name,
				What:   fmt.Sprintf("no row can be read as year, month, day; the first is %s", found.Faults[0].Value),
				Remedy: "Are the columns of --parts in the order year, month, day?"}
		}
		return &found, nil
	}
	decision, err := o.column.Decide()
	var none *datetext.NoDates
	if errors.As(err, &none) && none.Values == 0 {
		// Nothing but blanks: there is nothing to decide and nothing to read.
		return &Found{File: file, Blanks: o.column.Blanks()}, nil
	}
	if err != nil {
		return nil, explain(err, file, d.Name)
	}
	return &Found{File: file, Decision: decision, Values: decision.Values, Blanks: decision.Blanks, Unread: decision.Unread, Faults: decision.Faults}, nil
}
