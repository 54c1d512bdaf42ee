package facts

import (
	"bytes"
	"slices"

	"roundyear/civil"
	"roundyear/facts/decimal"
)

// Rows are facts that count to days, column by column.
type Rows struct {
	// Days are the days that they count to.
	Days []civil.Day
	// Places tell the first from the last; they are only looked at by operations that need
	// them.
	Places []Place
	// Groups and Values are the texts of the columns of the operation's groups and measures; a
	// Count has none.
	Groups, Values [][][]byte
	// Coded are the texts of the only group by their places in a list; nil where Groups has
	// them.
	Coded *Coded
	// Numbers are those of measures whose values are numbers already, in place of texts; nil for
	// the others.
	Numbers []*Numbers
}

// Coded are texts of which few are different.
type Coded struct {
	Codes []uint32
	Texts [][]byte
}

// codes remember the numbers of the groups of coded texts.
type codes struct {
	texts *[]byte
	// numbers are those of the groups, plus 1; 0 is not known yet.
	numbers []uint32
}

// of returns the group of a code.
func (c *codes) of(t *Tally, coded *Coded, code uint32) int {
	if known := c.numbers[code]; known > 0 {
		return int(known - 1)
	}
	number := t.group([][]byte{coded.Texts[code]})
	c.numbers[code] = uint32(number + 1)
	return number
}

// remember makes the codes those of texts.
func (c *codes) remember(coded *Coded) {
	if c.texts != &coded.Texts[0] {
		c.texts, c.numbers = &coded.Texts[0], make([]uint32, len(coded.Texts))
	}
}

// Numbers are whole numbers of 10 to the power of minus a scale, one for each row.
type Numbers struct {
	Scale int
	Units []int64
	// IsThere tells which rows have one; empty for all.
	IsThere []bool
}

// numbers returns the numbers of a measure; nil if its values are texts.
func (r *Rows) numbers(measure int) *Numbers {
	if r.Numbers == nil {
		return nil
	}
	return r.Numbers[measure]
}

// NeedsPlaces tells whether a measure looks at where facts stand among all.
func (o Operation) NeedsPlaces() bool {
	return slices.ContainsFunc(o.Measures, func(m Measure) bool { return m.Kind == First || m.Kind == Last })
}

// columns are what AddRows works out of rows on the way, in memory that is used again.
type columns struct {
	// read are the numbers or texts of each measure, present which rows have one.
	read    [][]decimal.Decimal
	texts   [][][]byte
	present [][]bool
	cells   []uint32
	group   [][]byte
	codes   codes
}

// AddRows takes in facts as Add does, all at once, which is quicker. The error is a BadValue with
// the row it is of, and nothing is taken in then.
func (t *Tally) AddRows(rows *Rows) (row int, err error) {
	if row, err := t.readColumns(rows); err != nil {
		return row, err
	}
	t.locate(rows)
	for m := range t.measures {
		if t.operation.Measures[m].Kind != Count {
			t.takeColumn(m, rows)
		}
	}
	return 0, nil
}

// readColumns reads the values of all measures. Those of rows outside the range are not looked
// at.
func (t *Tally) readColumns(rows *Rows) (row int, err error) {
	c := &t.columns
	if c.read == nil {
		count := len(t.operation.Measures)
		c.read, c.texts, c.present = make([][]decimal.Decimal, count), make([][][]byte, count), make([][]bool, count)
	}
	for m := range t.operation.Measures {
		kind := t.operation.Measures[m].Kind
		if kind == Count || rows.numbers(m) != nil {
			continue
		}
		numbers, texts, present := c.read[m][:0], c.texts[m][:0], c.present[m][:0]
		bounded := t.operation.From != nil || t.operation.To != nil
		for i, text := range rows.Values[m] {
			if len(text) > 0 && (text[0] <= ' ' || text[0] >= 0x80 || text[len(text)-1] <= ' ' || text[len(text)-1] >= 0x80) {
				text = bytes.TrimSpace(text)
			}
			isThere := len(text) > 0 && (!bounded || t.operation.Includes(rows.Days[i]))
			present = append(present, isThere)
			if kind == Distinct {
				texts = append(texts, text)
				continue
			}
			var number decimal.Decimal
			if isThere {
				var bad error
				if number, bad = decimal.Parse(text); bad != nil {
					if err == nil || i < row {
						row, err = i, &BadValue{Measure: m, Value: string(rows.Values[m][i]), Reason: bad}
					}
					break
				}
			}
			numbers = append(numbers, number)
		}
		c.read[m], c.texts[m], c.present[m] = numbers, texts, present
	}
	return row, err
}

// outside is the cell of a row that is outside the range.
const outside = ^uint32(0)

// locate finds the cells of the rows, and counts the rows.
func (t *Tally) locate(rows *Rows) {
	cells := t.columns.cells[:0]
	group := t.columns.group[:0]
	for range rows.Groups {
		group = append(group, nil)
	}
	bounded := t.operation.From != nil || t.operation.To != nil
	if rows.Coded != nil {
		t.columns.codes.remember(rows.Coded)
	}
	for i, day := range rows.Days {
		if bounded && !t.operation.Includes(day) {
			t.summary.Outside++
			cells = append(cells, outside)
			continue
		}
		var number int
		if rows.Coded != nil {
			number = t.columns.codes.of(t, rows.Coded, rows.Coded.Codes[i])
		} else {
			for g := range group {
				group[g] = rows.Groups[g][i]
			}
			number = t.group(group)
		}
		period := t.periods.number(day)
		if period == notToDate { // its group is there even if none of its facts are in a period
			t.summary.noteNotToDate(day)
			cells = append(cells, outside)
			continue
		}
		if t.bySource {
			t.note(number, 1<<t.source)
		}
		cell := t.cell(number, period)
		t.cells.record(cell)[0]++
		cells = append(cells, cell)
		if t.summary.Rows == 0 {
			t.summary.First, t.summary.Last = day, day
		}
		t.summary.First, t.summary.Last = min(t.summary.First, day), max(t.summary.Last, day)
		t.summary.Rows++
	}
	t.columns.cells, t.columns.group = cells, group
}

// takeColumn adds the values of one measure to their cells.
func (t *Tally) takeColumn(m int, rows *Rows) {
	a, c := &t.measures[m], &t.columns
	if numbers := rows.numbers(m); numbers != nil {
		t.takeNumbers(a, numbers, rows)
		return
	}
	isPlaced := a.kind == First || a.kind == Last
	for i, cell := range c.cells {
		if cell == outside || !c.present[m][i] {
			continue
		}
		record := t.cells.record(cell)
		if a.kind == Distinct {
			if a.distinct.add(cell, c.texts[m][i]) {
				record[a.place+atCount]++
			}
			continue
		}
		var place Place
		if isPlaced {
			place = rows.Places[i]
		}
		a.add(cell, record, c.read[m][i], place)
	}
}

// takeNumbers adds numbers to their cells.
func (t *Tally) takeNumbers(a *accumulator, numbers *Numbers, rows *Rows) {
	isPlaced := a.kind == First || a.kind == Last
	for i, cell := range t.columns.cells {
		if cell == outside || len(numbers.IsThere) > 0 && !numbers.IsThere[i] {
			continue
		}
		if a.addUnits(t.cells.record(cell), numbers.Units[i], numbers.Scale) {
			continue
		}
		var place Place
		if isPlaced {
			place = rows.Places[i]
		}
		a.add(cell, t.cells.record(cell), decimal.OfUnits(numbers.Units[i], numbers.Scale), place)
	}
}
