package check

import (
	"strconv"
	"strings"

	"roundyear/cell"
	"roundyear/civil"
	"roundyear/dimension"
)

// Matched is a column of the table and the attribute that it holds.
type Matched struct {
	// Index is the column's index in the rows, Column its name.
	Index     int
	Column    string
	Attribute dimension.Attribute
	// ByValues tells that the column is known by what it holds, and not by its
	// name.
	ByValues bool
}

// Same tells whether a text is a value, in any of the forms that tables have
// for it: whole numbers with zeros before or behind them, truth as 1, Y or yes,
// dates with the beginning of the day behind them, texts with the apostrophe that
// keeps a spreadsheet from taking them for formulas. Dates of other forms are
// read by read, if it is given.
func Same(want cell.Value, typ cell.Type, got []byte, read func([]byte) (civil.Day, bool)) bool {
	var buffer [64]byte
	if string(want.AppendText(buffer[:0])) == string(got) {
		return true
	}
	if want.IsBlank() || len(got) == 0 {
		return want.IsBlank() && len(got) == 0
	}
	switch typ {
	case cell.Text:
		return got[0] == '\'' && string(got[1:]) == want.String()
	case cell.Integer:
		text := strings.TrimSuffix(strings.TrimSpace(string(got)), ".0")
		number, err := strconv.Atoi(text)
		return err == nil && strconv.Itoa(number) == want.String()
	case cell.Boolean:
		truth, ok := booleans[strings.ToLower(string(got))]
		return ok && strconv.FormatBool(truth) == want.String()
	case cell.Date:
		text := string(got)
		if len(text) > 10 && text[4] == '-' {
			if rest := strings.Trim(text[10:], "T 0:.Z"); rest == "" {
				return text[:10] == want.String()
			}
		}
		if read != nil {
			if day, ok := read(got); ok {
				return day.String() == want.String()
			}
		}
	}
	return false
}

var booleans = map[string]bool{
	"true": true, "t": true, "yes": true, "y": true, "1": true,
	"false": false, "f": false, "no": false, "n": false, "0": false,
}

// Wrong are the values of a column that are not those of its attribute.
type Wrong struct {
	Lines []int
	// First and Last are the first and last day, Value and Wanted what stands
	// at the first line and what should.
	First, Last   civil.Day
	Value, Wanted string
}

// add takes in a wrong value. Lines come in the order of the table.
func (w *Wrong) add(line int, day civil.Day, value, wanted string) {
	if len(w.Lines) == 0 {
		w.First, w.Last, w.Value, w.Wanted = day, day, value, wanted
	}
	w.Lines = append(w.Lines, line)
	w.First, w.Last = min(w.First, day), max(w.Last, day)
}

// Comparer holds rows against the attributes that their columns hold.
type Comparer struct {
	matched []Matched
	cursor  *dimension.Cursor
	read    func([]byte) (civil.Day, bool)
	// Compared counts the values, Wrong the wrong ones of each column.
	Compared int
	Wrong    []Wrong
}

// NewComparer returns a comparer; read reads dates of a form of the table's
// own, and may be nil.
func NewComparer(catalogue *dimension.Catalogue, matched []Matched, read func([]byte) (civil.Day, bool)) *Comparer {
	attributes := make([]dimension.Attribute, len(matched))
	for i, one := range matched {
		attributes[i] = one.Attribute
	}
	return &Comparer{matched: matched, cursor: catalogue.Cursor(attributes), read: read, Wrong: make([]Wrong, len(matched))}
}

// Compare holds the row of a day against what its columns should have; field
// returns the value at an index.
func (c *Comparer) Compare(line int, day civil.Day, field func(int) []byte) {
	values := c.cursor.MoveTo(day)
	for i, one := range c.matched {
		got := field(one.Index)
		if !Same(values[i], one.Attribute.Type, got, c.read) {
			c.Wrong[i].add(line, day, string(got), values[i].String())
		}
	}
	c.Compared += len(c.matched)
}

// Join takes in what another comparer of the same columns has found further
// down the table.
func (c *Comparer) Join(other *Comparer) {
	c.Compared += other.Compared
	for i, wrong := range other.Wrong {
		if len(wrong.Lines) == 0 {
			continue
		}
		own := &c.Wrong[i]
		if len(own.Lines) == 0 {
			*own = wrong
			continue
		}
		own.Lines = append(own.Lines, wrong.Lines...)
		own.First, own.Last = min(own.First, wrong.First), max(own.Last, wrong.Last)
	}
}
